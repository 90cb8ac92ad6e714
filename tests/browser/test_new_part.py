"""A new order with uploaded parts, from the first file to the zip."""

import io
import json
import re
import zipfile
from contextlib import contextmanager

import pytest
from selenium.webdriver.common.keys import Keys

from kaigata.house.shots import sign_in
from tests.browser.conftest import Bench
from tests.browser.steps import planned
from tests.checks import PARTS, checked


@pytest.fixture(scope="module")
def trial(browser, stage, downloads):
    """The path of a new order with one uploaded part, which is still being read."""
    bench = Bench(browser, stage.address, downloads)
    bench.begin_order("T-77", "Trial stand")

    bench.all(".rack input[type='file']")[0].send_keys(str(PARTS / "pump-bracket.step"))
    bench.wait(".rack .item", text="pump-bracket")
    return re.search("/orders/[0-9]+", browser.current_url)[0]


def test_a_new_order_from_an_uploaded_part_to_the_zip(bench, trial, tmp_path):
    bench.go(f"{trial}/part")
    bench.wait(".rack .item svg", seconds=60)
    bench.fill("input[name='quantity']", "9")
    bench.wait(".rack .item", text="×9")

    bench.wait("body").send_keys("4")
    bench.click("button.main", text="Start nesting")
    bench.wait("svg.sheet .part", seconds=60)
    bench.click(".actions button", text="Stop")
    bench.wait(".history", text="stopped", seconds=30)
    bench.click(".card .cell[data-station='5']")
    bench.click("button.main", text="Plan the paths")
    bench.wait("svg.sheet .kerf", seconds=60)
    bench.click(".card .cell[data-station='6']")
    bench.click("button.main", text="Pack")
    bench.wait(".files table", seconds=60)

    content = bench.download("a.button", text="Download", name="T-77-packet.zip").read_bytes()
    zipfile.ZipFile(io.BytesIO(content)).extractall(tmp_path)
    nest, order = tmp_path / "nest" / "nest.json", tmp_path / "nest" / "order.json"
    kerf = json.loads((tmp_path / "cut" / "cut.json").read_text())["sheets"][0]["kerf"]
    assert checked("nest_check.py", order, nest).startswith("ok")
    line = checked("gcode_check.py", nest, order, tmp_path / "cut", "--kerf", kerf)
    assert line.startswith("ok")


def test_a_check_that_fails_stops_the_packet_until_somebody_says_why_it_may_go(
    bench, trial, tmp_path
):
    wrong = tmp_path / "letter.txt"
    wrong.write_text("no part")
    bench.go(f"{trial}/part")
    bench.wait(".rack .item")
    bench.all(".rack input[type='file']")[0].send_keys(str(wrong))
    bench.wait(".rack .item", text="letter")
    bench.go(f"{trial}/packet")
    bench.wait("[data-check='parts']", text="letter was refused")
    assert bench.wait("button.main", text="Pack").get_attribute("disabled")
    assert "5 of 6 passed" in bench.text()

    bench.write("[data-check='parts'] input", "It only says where to deliver.")
    bench.click("[data-check='parts'] button", text="Let pass")
    bench.wait("[data-check='parts']", text="It only says where to deliver.")
    bench.browser.refresh()
    bench.wait("[data-check='parts']", text="A.K.")
    assert not bench.wait("button.main", text="Pack").get_attribute("disabled")
    bench.click("[data-check='parts'] button", text="take back")
    bench.until(lambda: bench.all("button.main")[0].get_attribute("disabled"), "no packing")

    bench.go(f"{trial}/part")
    bench.click(".rack .item", text="letter")
    bench.click("button", text="Take out of the order")
    bench.until(lambda: not [i for i in bench.all(".rack .item") if "letter" in i.text], "it gone")


def test_a_zip_is_unpacked_onto_the_rack_and_the_list_shows_what_failed(bench, tmp_path):
    bench.begin_order("T-78", "Many at once")
    parts = tmp_path / "parts.zip"
    with zipfile.ZipFile(parts, "w") as out:
        for name in ("pump-bracket", "hose-clip"):
            out.write(PARTS / f"{name}.step", f"stand/{name}.step")
        out.writestr("stand/wrong.step", "no step")
        out.writestr("stand/letter.txt", "no part")

    bench.all(".rack input[type='file']")[0].send_keys(str(parts))

    bench.wait(".el-message", text="1 file is no part: stand/letter.txt")
    bench.wait("[data-sort='refused']", text="1", seconds=60)
    bench.until(lambda: not bench.all("[data-sort='reading']"), "all of them read", 60)
    bench.click("[data-sort='refused']")
    bench.until(lambda: len(bench.all("table.rows tbody tr.can")) == 1, "the refused one alone")
    assert "wrong.step" in bench.wait("table.rows tbody tr.can").text
    table = bench.download(".sorts a", text="Results", name="T-78-results.csv").read_text()
    assert [r.split(",")[2] for r in table.splitlines()[1:]].count("failed") == 1


def test_processes_are_compared_and_a_post_made_in_stores_writes_the_program(bench, trial):
    bench.go(f"{trial}/cut")
    bench.click("aside button", text="Compare with the other processes")
    bench.until(
        lambda: len([r for r in bench.all("tr[data-process]") if "min" in r.text]) == 3,
        "three processes side by side",
        60,
    )

    bench.go("/stores")
    bench.click("tr[data-post='plain'] button")
    bench.write("input[aria-label='Name of the post']", "shop-laser")
    bench.write("input[aria-label='Title of the post']", "Our laser")
    bench.write("input[aria-label='Beam on']", "M7 S900")
    bench.click("form.post button.main", text="Keep this post")
    bench.wait("tr[data-post='shop-laser']", text="made here")
    bench.write("input[aria-label='Beam on']", "burn")
    bench.click("form.post button.main", text="Keep this post")
    bench.wait(".el-message", text="beam_on")

    bench.go(f"{trial}/cut")
    choose(bench, "Post", "Our laser")
    with planned(bench):
        bench.click("button.main", text="Plan the paths again")
    program = bench.download("a.button", text="G-code", name="sheet-1.nc").read_text()
    assert "M7 S900" in program.splitlines()
    assert "M3" not in program.splitlines()


@contextmanager
def late(bench, path):
    """Let what the server answers for a path come two seconds late."""
    source = """
    const quick = window.fetch
    window.fetch = async (asked, ...rest) => {
      const answer = await quick(asked, ...rest)
      const path = new URL(asked.url ?? asked, location).pathname
      if ((asked.method ?? 'GET') === 'GET' && path === PATH)
        await new Promise((done) => setTimeout(done, 2000))
      return answer
    }
    """.replace("PATH", json.dumps(path))
    slow = bench.browser.execute_cdp_cmd(
        "Page.addScriptToEvaluateOnNewDocument", {"source": source}
    )
    try:
        yield
    finally:
        bench.browser.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", slow)


def test_what_is_typed_while_a_post_is_being_kept_stays(bench):
    with late(bench, "/api/orders"):
        bench.go("/stores")
        bench.click("tr[data-post='plain'] button")
        bench.write("input[aria-label='Name of the post']", "quick-hand")
        bench.click("form.post button.main", text="Keep this post")
        bench.wait("tr[data-post='quick-hand']", text="made here")
        bench.write("input[aria-label='Title of the post']", "Typed at once")
        bench.wait("tr[data-post='quick-hand'].on")
        assert value_of(bench, "input[aria-label='Title of the post']") == "Typed at once"
        bench.click("form.post button.main", text="Keep this post")
        bench.wait("tr[data-post='quick-hand']", text="Typed at once")


def test_what_is_typed_in_a_chart_stays_while_it_and_its_gauge_are_kept(bench):
    chart = "button[aria-label='Chart of 1.5 aluminium']"
    value = "input[aria-label='value of row 1']"
    with late(bench, "/api/stores"):
        bench.go("/stores")
        bench.click(".pick button", text="Aluminium")
        bench.click(chart)
        bench.click(".chart .pick button", text="one K")
        bench.fill(value, "0.37")
        bench.click("button", text="Keep this chart")
        bench.fill(value, "0.38")
        bench.wait(chart, text="K 0.37")
        assert value_of(bench, value) == "0.38"

        bench.fill("input[aria-label='Radii of 1.5 aluminium']", "1 2 5")
        bench.wait("input[title='1 2 5']")
        assert value_of(bench, value) == "0.38"
        bench.click("button", text="Keep this chart")
        bench.wait(chart, text="K 0.38")


def choose(bench, field, option):
    """Choose an option of a list in the slip."""
    bench.click(f".el-select:has([aria-label='{field}'])")
    bench.click(".el-select-dropdown__item", text=option)


def test_a_wrong_file_is_refused_in_the_rack_with_the_reason(bench, trial, tmp_path):
    bench.go(f"{trial}/nest")
    bench.wait(".rack .item")
    wrong = tmp_path / "photo.step"
    wrong.write_bytes(bytes(2**20))
    bench.all(".rack input[type='file']")[0].send_keys(str(wrong))

    # It is opened by itself, from whatever station it was put down at.
    bench.wait(".rack .item.refused", text="photo")
    bench.wait(".empty.refused", text="does not begin as a STEP file")
    bench.click("button", text="Take out of the order")

    bench.until(lambda: not bench.all(".rack .item.refused"), "the rack without it")


def test_a_second_tab_shows_what_the_first_one_changed(bench, trial):
    bench.go(f"{trial}/part")
    first = bench.browser.current_window_handle
    part = bench.wait(".rack .item", text="pump-bracket").get_attribute("data-part")
    bench.browser.switch_to.new_window("tab")
    try:
        bench.go(f"{trial}/part/{part}")
        bench.fill("input[name='part-name']", "Pump holder")
        bench.wait(".rack .item", text="Pump holder")
    finally:
        bench.browser.close()
        bench.browser.switch_to.window(first)

    bench.wait(".rack .item", text="Pump holder", seconds=15)


@contextmanager
def silent_server(bench):
    def emulate(is_offline):
        conditions = {"latency": 0, "downloadThroughput": -1, "uploadThroughput": -1}
        bench.browser.execute_cdp_cmd(
            "Network.emulateNetworkConditions", {"offline": is_offline, **conditions}
        )

    bench.browser.execute_cdp_cmd("Network.enable", {})
    emulate(True)
    try:
        yield
    finally:
        emulate(False)


def test_a_silent_server_is_said_and_the_page_goes_on_when_it_answers(bench, trial):
    bench.go(f"{trial}/part")
    bench.wait("input[name='quantity']")
    with silent_server(bench):
        strip = bench.wait(".silent", text="The server does not answer", seconds=30)
        below = bench.wait(".rack").location["y"]
        assert strip.location["y"] + strip.size["height"] <= below, "the strip hides the rack"
        for field in ("input[name='quantity']", "input[name='part-name']", "[name='order-note']"):
            kept = value_of(bench, field)
            bench.write(field, "77", Keys.TAB)
            # What the server did not take is not shown as if it were kept.
            bench.until(lambda f=field, kept=kept: value_of(bench, f) == kept, field)

    bench.until(lambda: not bench.all(".silent"), "the page going on", 60)


def value_of(bench, css):
    return bench.wait(css).get_attribute("value")


def test_a_name_or_a_quantity_that_is_emptied_stays_what_it_was(bench, trial):
    bench.go(f"{trial}/part")
    for css, told in (
        ("input[name='part-name']", "Name cannot be empty"),
        ("input[name='quantity']", "Quantity: “” is not a whole number from 1 on"),
    ):
        kept = value_of(bench, css)
        bench.write(css, Keys.BACKSPACE, Keys.ENTER)
        bench.wait(".el-message", text=told)
        assert value_of(bench, css) == kept


def test_an_address_that_is_none_says_so(bench):
    bench.go("/nowhere/at/all")
    bench.wait("main", text="There is nothing at this address")
    bench.go("/orders/9999/blank")
    bench.wait(".problem", text="This is not there: it was taken out")


def test_who_is_not_signed_in_is_sent_to_the_door_and_back(bench):
    bench.go("/stores")
    bench.wait("table.rows")
    bench.browser.delete_all_cookies()
    bench.browser.refresh()

    bench.wait("input[name='user']").send_keys("kestrel")
    bench.wait("input[name='password']").send_keys("repair-stand")
    bench.click("button.main", text="Sign in")

    bench.wait("section", text="Galvanised")
    assert bench.browser.current_url.endswith("/stores")


def test_measured_parts_correct_the_kerf_and_measured_bends_k(bench, trial):
    bench.go("/stores")
    bench.click("button", text="Galvanised DX51")
    bench.wait(".chart h2", text="0.80 Galvanised DX51")
    bench.click(".chart button", text="from measured bends")
    # 0.8 thick with a radius of 0.8: pi / 2 * (0.8 + K * 0.8) is 98.55 - 100 + 2 * 1.6.
    bench.fill(".chart input[aria-label='flat of coupon 1']", "98.55")
    bench.click(".chart .measured button", text="Work out K")
    bench.wait(".chart .measured b", text="K 0.393")
    bench.click(".chart .measured button", text="Put it into the chart")
    origin = bench.wait(".chart select[aria-label='Origin of row 1']")
    assert origin.get_property("value") == "measured"
    bench.click(".chart button", text="as it was")

    bench.click("tr button[aria-label='Kerf of 2 every by measured parts']")
    bench.fill("input[aria-label='size 1 measured']", "99.97")
    bench.click("button", text="Work out the kerf")
    bench.wait(".measured p", text="Outsides come out 0.030 larger than now")
    bench.click("button", text="Take it into the chart")
    bench.until(
        lambda: bench.all("button.origin[aria-label='Kerf of 2 every by measured parts']"), "taken"
    )
    taken = bench.wait("button.origin").get_attribute("title")
    assert re.fullmatch(r"measured \d{4}-\d\d-\d\d: 1 size", taken)


def test_who_may_only_look_sees_everything_and_is_told_whom_to_ask(bench, trial):
    bench.go("/people")
    bench.write("input[name='person']", "Bo Wren")
    bench.write("input[name='login']", "wren")
    bench.write("input[name='new-password']", "spoke-and-rim-9")
    bench.click("form button.main", text="Let in")
    bench.click("[data-person='wren'] input[aria-label='Bo Wren may: release']")
    bench.wait("td", text="Change what somebody may do")
    bench.browser.refresh()
    ticked = bench.wait("[data-person='wren'] input[aria-label='Bo Wren may: release']")
    assert ticked.is_selected()
    ticked.click()
    bench.until(lambda: "wren" in bench.text(), "wren")

    with signed_in_as(bench, ("wren", "spoke-and-rim-9")):
        bench.wait(".who", text="Bo Wren looks only")
        bench.go(f"{trial}/part")
        bench.wait(".rack .item svg")
        bench.wait(".slip .looks-only", text="You may look. To change parts, blanks, nests")
        assert not bench.wait(".slip .stamp").is_enabled()
        bench.fill("input[name='quantity']", "11")
        bench.wait(".el-message", text="Bo Wren may not plan orders. Ask A. Kestrel.")
        bench.browser.refresh()
        bench.wait(".rack .item", text="×")
        assert "×11" not in bench.text()
        bench.go("/people")
        bench.wait("section", text="Only who may say who may do what changes this")
        assert not bench.all("input[name='person']")
        bench.go("/stores")
        bench.wait("main .looks-only", text="To change shop data takes a right")
        bench.go(f"{trial}/packet")
        bench.wait(".slip .quiet", text="A packet is packed by who has the right to release.")
        assert not bench.wait(".slip .actions button.main").is_enabled()
    bench.go("/stores")
    bench.wait("main section")
    assert not bench.all(".looks-only")


@contextmanager
def signed_in_as(bench, who):
    """Another person at the same browser for a while."""
    sign_out(bench)
    sign_in(bench.browser, bench.address, who)
    try:
        yield
    finally:
        sign_out(bench)
        sign_in(bench.browser, bench.address)


def sign_out(bench):
    bench.click(".who")
    bench.click(".el-dropdown-menu__item", text="Sign out")
    bench.wait("input[name='user']")
