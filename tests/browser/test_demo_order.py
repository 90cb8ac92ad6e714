"""The six stations on the demo order, as a planner walks them; each test goes on from the last."""

import json
import os
import shutil
import signal
import subprocess
import time
import zipfile

import psycopg
import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.actions.action_builder import ActionBuilder
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.steps import planned
from tests.checks import PARTS, TESTS, checked


def part_of(bench, name):
    item = bench.wait(".rack .item", text=name, seconds=60)
    return item.get_attribute("data-part")


def test_the_demo_order_is_read_and_stands_on_the_rack(bench):
    bench.go("/")
    bench.click("article.row a.which", text="Repair stands")
    bench.until(lambda: len(bench.all(".rack .item svg")) == 10, "every silhouette", 90)

    assert "1.5 galvanised" in bench.text()
    assert bench.wait(".card .which", text="24-031")


def test_selection_is_shared_between_flat_rule_and_table(bench):
    bench.go(f"/orders/1/blank/{part_of(bench, 'Tool tray')}")
    bench.wait("svg.flat [data-id='bend-2']")

    bench.click("table.bends tr[data-bend='2']")

    bench.wait("svg.flat .bend.chosen[data-id='bend-2']")
    bench.wait(".rule .tick.chosen[data-id='tick-2']")
    assert "Bend 2 takes 90° · π/180 · (1.5 + 0.44 · 1.5)" in bench.text()
    assert "= 3.393 allowance" in bench.text()
    assert "2.607" in bench.wait(".sum", text="Deduction").text


def test_turning_over_swaps_directions_and_undo_takes_it_back(bench):
    def directions():
        return [c.get_attribute("class").split()[-1] for c in bench.all("table.bends td[title]")]

    before = bench.until(directions, "the bend table")
    bench.click("button", text="Turn over")
    bench.until(lambda: directions() and directions() != before, "swapped directions")

    bench.click(".foot button", text="Undo")

    bench.until(lambda: directions() == before, "the directions of before")


TURNED_ELSEWHERE = """
const done = arguments[1], address = `/api/parts/${arguments[0]}/blank`
const token = document.cookie.match(/csrftoken=([^;]+)/)[1]
fetch(address).then((r) => r.json()).then((blank) => fetch(address, {
  method: 'PATCH',
  headers: { 'Content-Type': 'application/json', 'X-CSRFToken': token },
  body: JSON.stringify({ turn: (blank.turn + 90) % 360, seen: blank.state }),
})).then((r) => done(r.status))
"""
"""Turns a part's blank as another window would, of which this page knows nothing."""


def test_what_another_window_changed_is_shown_and_not_written_over(bench):
    size = bench.wait(".facts .size").text
    part = part_of(bench, "Tool tray")
    assert bench.browser.execute_async_script(TURNED_ELSEWHERE, part) == 200

    bench.click("button", text="Turn over")

    assert "was changed meanwhile" in bench.wait(".el-message").text
    bench.until(lambda: bench.wait(".facts .size").text != size, "the blank as it lies now")
    for _ in range(3):
        bench.browser.execute_async_script(TURNED_ELSEWHERE, part)
    bench.browser.refresh()
    bench.until(lambda: bench.wait(".facts .size").text == size, "the blank as it lay before")


def test_k_changes_the_size_at_once_and_a_wrong_k_is_refused(bench):
    size = bench.wait(".facts .size").text
    bench.fill("input[name='k']", "0.3")
    bench.until(lambda: bench.wait(".facts .size").text != size, "another size")

    bench.click("button", text="take the chart's")
    bench.until(lambda: bench.wait(".facts .size").text == size, "the size of before")
    bench.fill("input[name='k']", "7")
    bench.wait(".el-message", text="“7” is not a number from 0 to 1")


def test_inches_show_the_same_blank(bench):
    bench.click(".units button", text="in")
    bench.until(lambda: bench.wait(".facts .size").text == "16.173 × 10.661", "inches")
    bench.click(".units button", text="mm")


def test_the_night_shift_is_dark_and_stays_after_a_reload(bench):
    def paper():
        return bench.wait("aside.slip").value_of_css_property("background-color")

    day = paper()
    bench.click(".shift button", text="night")
    bench.until(lambda: paper() != day, "a dark page")
    bench.browser.refresh()
    bench.wait("html[data-shift='night'] svg.flat .bend")
    bench.wait(".folded canvas")
    assert paper() != day
    bench.click(".shift button", text="day")
    bench.until(lambda: paper() == day, "a light page")


def test_the_dxf_that_is_downloaded_is_the_blank_that_is_shown(bench, tmp_path):
    drawing = bench.download(".files a", text="DXF", name="Tool-tray.dxf")
    data = bench.download(".files a", text="Blank JSON", name="Tool-tray.blank.json")

    truth = json.loads((PARTS / "tool-tray.truth.json").read_text())
    truth["parts"][0]["quantity"] = 12
    (tmp_path / "tool-tray.truth.json").write_text(json.dumps(truth))
    assert checked("dxf_check.py", drawing, "--blank", data).startswith("ok")
    assert checked("blank_check.py", tmp_path / "tool-tray.truth.json", data) == "ok tool-tray"


def test_keys_walk_stations_and_parts_but_not_while_typing(bench):
    body = bench.browser.switch_to.active_element
    bench.browser.execute_script("document.activeElement.blur()")
    body = bench.wait("body")
    body.send_keys("3")
    bench.wait(".caption", text="Bends of")
    body.send_keys("j")
    bench.until(lambda: "Bends of Tool tray" not in bench.text(), "another part")
    body.send_keys("/")
    bench.browser.switch_to.active_element.send_keys("1 tray")
    assert "/bends/" in bench.browser.current_url


def test_an_order_is_dated_noted_and_counted_by_a_table(bench, tmp_path):
    bench.go("/orders/1/part")
    bench.fill("input[name='order-title']", "Repair stands, second batch")
    bench.wait(".rack .item")
    bench.go("/orders/1/part")
    field = bench.wait("input[name='order-title']")
    bench.until(lambda: field.get_attribute("value") == "Repair stands, second batch", "the title")

    table = tmp_path / "parts.csv"
    bench.browser.execute_script("document.querySelector('input[name=table]').hidden = false")
    table.write_text("part,quantity\nRoof cap,seven\n")
    bench.wait("input[name='table']").send_keys(str(table))
    bench.wait(".el-message", text="parts.csv line 2")

    def pieces():
        row = bench.wait("table.rows tr", text="Roof cap")
        return int(row.find_element(By.CSS_SELECTOR, "td:nth-child(6)").text)

    before = pieces()
    table.write_text(f"part,quantity\nRoof cap,{before + 1}\n")
    bench.wait("input[name='table']").send_keys(str(table))
    bench.until(lambda: pieces() == before + 1, "one piece more")
    table.write_text(f"part,quantity\nRoof cap,{before}\n")
    bench.wait("input[name='table']").send_keys(str(table))
    bench.until(lambda: pieces() == before, "the pieces of before")
    assert bench.wait("tr[data-state='open']", text="1.50")
    bench.fill("input[name='order-title']", "Repair stands")


def test_a_part_may_be_mirrored_and_how_it_is_nested_can_be_undone(bench):
    bench.go(f"/orders/1/part/{part_of(bench, 'Tool tray')}")
    row = "table.rows tr.picked td:nth-child(7)"

    bench.fill("input[name='priority']", "12")
    assert bench.wait("input[name='priority']").get_attribute("value") == "0"
    bench.fill("input[name='priority']", "2")
    bench.until(lambda: bench.wait(row).text == "priority 2", "the priority")
    bench.click("input[name='filler']")
    bench.until(lambda: bench.wait(row).text == "priority 2, filler", "a filler")
    bench.click(".foot button", text="Undo")
    bench.until(lambda: bench.wait(row).text == "priority 2", "no filler")
    bench.click(".foot button", text="Undo")
    bench.click("input[name='mirror']")

    bench.until(lambda: bench.wait(row).text == "mirror", "mirroring allowed")


def test_the_sequence_is_reordered_and_survives_a_reload(bench):
    bench.go(f"/orders/1/bends/{part_of(bench, 'Tool tray')}")
    bench.click("button[aria-label='Bend 4 earlier']")

    def sequence():
        return [r.get_attribute("data-bend") for r in bench.all("table.rows tbody tr")]

    bench.until(lambda: sequence() == ["1", "2", "4", "3"], "bend 4 before bend 3")
    bench.browser.refresh()
    bench.until(lambda: sequence() == ["1", "2", "4", "3"], "the same after a reload")
    table = bench.download("a.button", text="Bend table", name="Tool-tray.bends.csv").read_text()
    assert [row.split(",")[0] for row in table.splitlines()[1:]] == ["1", "2", "4", "3"]


def pdf_behind(bench, text):
    """Return the head of the file a link of the slip opens, as the browser gets it."""
    link = bench.wait(".drawing a", text=text).get_attribute("href")
    return bench.browser.execute_async_script(
        "const done = arguments[1]; fetch(arguments[0]).then((a) => a.text()).then(done)", link
    )


def test_a_drawing_opens_on_the_paper_chosen_which_the_browser_keeps(bench):
    bench.go(f"/orders/1/blank/{part_of(bench, 'Tool tray')}")
    assert "/MediaBox [ 0 0 841.8" in pdf_behind(bench, "Drawing PDF")
    bench.click(".drawing .el-select")
    bench.click(".el-select-dropdown__item", text="A2")
    bench.until(lambda: "paper=A2" in bench.all(".drawing a")[0].get_attribute("href"), "A2")

    bench.browser.refresh()

    drawing, template = (pdf_behind(bench, t) for t in ("Drawing PDF", "Template 1:1"))
    assert drawing.startswith("%PDF")
    # A2, lying: 594 x 420 mm in points.
    assert "/MediaBox [ 0 0 1683" in drawing
    assert template.count("/Type /Page\n") == 1
    bench.click(".drawing .el-select")
    bench.click(".el-select-dropdown__item", text="what fits")


def test_nesting_shows_better_answers_and_can_be_stopped(bench):
    bench.go("/orders/1/nest")
    bench.fill("input[aria-label='Seconds to search']", "300")
    bench.click("button.main", text="Start nesting")
    bench.wait("svg.sheet .part", seconds=60)
    assert "at work" in bench.wait(".history").text

    bench.browser.refresh()
    bench.wait("svg.sheet .part")
    bench.click(".actions button", text="Stop")

    bench.wait(".history", text="stopped", seconds=30)
    assert "%" in bench.wait(".share").text
    assert len(bench.all(".strip button")) >= 7


def test_a_worker_killed_in_the_middle_of_a_nest_is_followed_by_another(bench, stage):
    bench.fill("input[aria-label='Seconds to search']", "8")
    bench.click("button.main", text="Nest again")
    bench.wait(".history", text="at work", seconds=30)

    os.killpg(stage.worker_pid(), signal.SIGKILL)
    # Another machine needs the same command and the address of the database, nothing else.
    words = [TESTS.parent / "kaigata", "worker", "--database", stage.database]
    with subprocess.Popen(words, stderr=subprocess.DEVNULL, start_new_session=True) as other:
        try:
            bench.wait(".history", text="done", seconds=90)
            with psycopg.connect(stage.database) as link:
                runs = "SELECT state, attempts FROM shop_nestrun ORDER BY id"
                states = link.execute(runs).fetchall()
                assert states[-1] == ("done", 2)
                assert not [s for s, _ in states if s in ("running", "queued")]
                assert stage.watch() is None
                alive = (
                    "SELECT count(*) FROM procrastinate_workers "
                    "WHERE last_heartbeat > now() - interval '15 seconds'"
                )
                bench.until(lambda: link.execute(alive).fetchone() == (2,), "two workers", 30)
        finally:
            os.killpg(other.pid, signal.SIGTERM)


def nudged(bench):
    """The sum of all y of the nest, and its spacing, as the server has them."""
    return bench.browser.execute_async_script(
        "const done = arguments[0];"
        "fetch('/api/orders/1/nest').then(r => r.json()).then(n => done(["
        "n.sheets.flatMap(s => s.placements).reduce((sum, p) => sum + p.y, 0), n.spacing]))"
    )


def test_a_part_is_dragged_locked_taken_off_and_the_rest_filled(bench, tmp_path):
    bench.go("/orders/1/nest")
    bench.wait("svg.sheet .part")
    part = max(bench.all("svg.sheet .part"), key=lambda e: e.size["width"] * e.size["height"])
    hand = ActionChains(bench.browser)
    hand.move_to_element(part).click_and_hold().move_by_offset(0, -150).perform()
    bench.wait("svg.sheet .part.broken")
    hand.release().perform()
    bench.wait(".slip", text="Breaks rules")
    assert bench.wait(".actions button", text="Release").get_attribute("disabled")

    bench.browser.find_element(By.TAG_NAME, "body").send_keys("u")
    bench.until(lambda: not bench.all("svg.sheet .part.broken"), "the part back in its place")
    before, spacing = nudged(bench)
    bench.browser.find_element(By.TAG_NAME, "body").send_keys(Keys.ARROW_UP * 6)
    # As fast as keys come, none is lost.
    bench.until(lambda: nudged(bench)[0] == pytest.approx(before + 6 * spacing), "six nudges")
    for _ in range(6):
        if nudged(bench)[0] > before + 1e-6:
            bench.browser.find_element(By.TAG_NAME, "body").send_keys("u")
            time.sleep(0.5)
    assert nudged(bench)[0] == pytest.approx(before)
    bench.click(".chosen .actions button", text="Lock")
    bench.wait("svg.sheet .part.locked")
    loose = bench.all("svg.sheet .part:not(.locked)")[0]
    hand.move_to_element(loose).click().perform()
    bench.click(".chosen .actions button", text="Take off")
    bench.wait(".tray", text="taken off by hand")

    bench.click(".actions button", text="Fill the rest")
    bench.wait(".history", text="at work", seconds=30)
    bench.wait(".history", text="done", seconds=90)
    assert "taken off by hand" not in bench.text()
    path = bench.download("a", text="nest.json", name="nest.json")
    nest = json.loads(path.read_text())
    (tmp_path / "order.json").write_text(json.dumps(nest["order"]))
    assert checked("nest_check.py", tmp_path / "order.json", path).startswith("ok")

    bench.click(".alternatives tr:last-child input")
    bench.wait(".alternatives tr.chosen:last-child")
    bench.click(".alternatives tr:first-child input")
    bench.wait(".alternatives tr.chosen:first-child")


def pick(bench, part):
    """Choose a copy of a part that is not locked, on whichever sheet one lies."""
    for tab in bench.all(".strip button"):
        tab.click()
        bench.wait("svg.sheet .part")
        found = bench.all(f"svg.sheet .part[data-id^='{part}']:not(.locked)")
        if found:
            ActionChains(bench.browser).move_to_element(found[0]).click().perform()
            return bench.wait("section.chosen", text=part)
    raise AssertionError(f"no {part} on any sheet")


def test_only_a_part_that_may_is_mirrored_by_hand(bench):
    keys = bench.browser.find_element(By.TAG_NAME, "body")
    pick(bench, "Roof cap")
    assert bench.wait("section.chosen button", text="Mirror").get_attribute("disabled")
    pick(bench, "Tool tray")

    def is_mirrored():
        return "with its other face up" in bench.wait("section.chosen").text

    before = is_mirrored()
    keys.send_keys("x")
    bench.until(lambda: is_mirrored() != before, "the other face")
    keys.send_keys("u")
    bench.until(lambda: is_mirrored() == before, "the face of before")


def test_paths_are_drawn_and_the_program_downloads(bench):
    bench.go("/orders/1/cut")
    bench.click("button.main", text="Plan the paths")
    bench.wait("svg.sheet .kerf", seconds=90)

    # The first sheet shows before the last one is planned and all are proved.
    bench.until(lambda: "proved to 0.0" in bench.text(), "the proof", 60)
    passes = len(bench.all("svg.sheet .pass"))
    bench.click(".bar button", text="Play")
    bench.wait("svg.sheet .head circle")
    bench.until(lambda: bench.all("svg.sheet .part.freed"), "a part cut free", 60)
    bench.click(".bar button", text="Pause")
    shown = [
        p for p in bench.all("svg.sheet .pass") if p.value_of_css_property("display") != "none"
    ]
    assert 0 < len(shown) < passes
    bench.click(".bar button", text="Show all")
    bench.until(lambda: not bench.all("svg.sheet .head"), "the whole path")
    program = bench.download("a.button", text="G-code", name="sheet-1.nc").read_text()
    assert program.splitlines()[-1] == "M30"
    assert "G21 G90 G17 G40" in program


def test_a_pierce_is_dragged_a_contour_put_later_and_the_program_checked(bench, tmp_path):
    bench.go("/orders/1/cut")
    bench.wait("svg.sheet .kerf")
    look_at_first_outline(bench)
    before = bench.wait("svg.sheet .pierce.looked").get_attribute("transform")

    with planned(bench):
        handle = bench.wait("svg.sheet .pierce.looked circle")
        drag = ActionChains(bench.browser).click_and_hold(handle)
        drag.move_by_offset(20, 12).move_by_offset(25, 10).release().perform()
    bench.wait("aside button", text="Unlock its pierce")
    assert bench.wait("svg.sheet .pierce.looked").get_attribute("transform") != before

    # With another pierce another order is found, in which that contour may be the last of all.
    look_at_first_outline(bench)
    was = place_of(bench)
    with planned(bench):
        bench.click("aside button", text="Later")
    assert place_of(bench) == was + 1
    bench.wait("aside button", text="Let the order be found")
    with planned(bench):
        bench.click(".foot button", text="Undo")
    assert place_of(bench) == was

    kerf = float(bench.wait(".title .share .quiet").text.rsplit("kerf", 1)[1])
    out = tmp_path / "cut"
    out.mkdir()
    program = bench.download("a.button", text="G-code", name="sheet-1.nc")
    shutil.copy(program, out)
    nest = only_sheet(bench, tmp_path, 1)
    line = checked("gcode_check.py", nest, tmp_path / "order.json", out, "--no-cut-json",
                   "--kerf", kerf)  # fmt: skip
    assert line.startswith("ok"), line


def look_at_first_outline(bench):
    """Choose the first outline that is cut; a click on one that is chosen would let it go."""
    outline = "svg.sheet .pass[data-contour$='outer']"
    first = bench.wait(outline)
    name, classes = first.get_attribute("data-contour"), first.get_attribute("class").split()
    if "looked" not in classes:
        click_on_curve(bench, f"{outline} .kerf")
    bench.wait("aside section", text=name.rsplit(" ", 1)[0])


def click_on_curve(bench, css):
    """Click on a drawn line where nothing else lies over it, as a user would aim."""
    x, y = bench.browser.execute_script(
        "const c = arguments[0], m = c.getScreenCTM(), long = c.getTotalLength();"
        "for (let share = 0.02; share < 1; share += 0.02) {"
        "  const p = c.getPointAtLength(long * share);"
        "  const q = new DOMPoint(p.x, p.y).matrixTransform(m);"
        "  const [x, y] = [Math.round(q.x), Math.round(q.y)];"
        "  if (c.parentNode.contains(document.elementFromPoint(x, y))) return [x, y];"
        "}",
        bench.wait(css),
    )
    pointer = ActionBuilder(bench.browser)
    pointer.pointer_action.move_to_location(x, y).click()
    pointer.perform()


def place_of(bench):
    return int(bench.wait("input[aria-label='Place in the order']").get_attribute("value"))


def only_sheet(bench, folder, number):
    """Write the nest's first sheet and its order, as the page shows them now."""
    bench.go("/orders/1/nest")
    nest = json.loads(bench.download("a", text="nest.json", name="nest.json").read_text())
    (folder / "order.json").write_text(json.dumps(nest["order"]))
    nest["sheets"] = [s for s in nest["sheets"] if s["number"] == number]
    path = folder / "nest.json"
    path.write_text(json.dumps(nest))
    return path


def test_stamps_are_set_and_the_packet_is_downloaded(bench, tmp_path):
    for station in ("part", "blank", "bends", "nest", "cut"):
        bench.go(f"/orders/1/{station}")
        bench.click(".foot .stamp", text="Stamp")
        bench.wait(".foot .stamp", text="Take the stamp away")
    bench.go("/orders/1/packet")
    bench.click("button.main", text="Pack")
    bench.wait(".files table", seconds=60)
    path = bench.download("a.button", text="Download", name="24-031-packet.zip")
    with zipfile.ZipFile(path) as zipped:
        zipped.extractall(tmp_path)

    nest, order = tmp_path / "nest" / "nest.json", tmp_path / "nest" / "order.json"
    assert checked("nest_check.py", order, nest).startswith("ok")
    blanks = sorted((tmp_path / "blanks").glob("*.blank.json"))
    assert len(blanks) == 10
    for blank in blanks:
        drawing = blank.with_name(blank.name.replace(".blank.json", ".dxf"))
        assert checked("dxf_check.py", drawing, "--blank", blank).startswith("ok")


def test_a_change_upstream_strikes_the_stamps_downstream(bench):
    bench.go(f"/orders/1/blank/{part_of(bench, 'Roof cap')}")
    bench.fill("input[name='k']", "0.35")

    bench.wait(".card .cell[data-station='4'][data-state='stale']")
    bench.wait(".card .cell[data-station='6'][data-state='stale']")
    bench.go("/orders/1/packet")
    bench.wait(".note.stale", text="Roof cap changed")
    assert not [a for a in bench.all("a.button") if "Download" in a.text]
    bench.go("/orders/1/nest")
    bench.wait(".note.stale", text="The figures are those of before")
    bench.wait(".title.is-computing")


CUT_OFF = """
return [...document.querySelectorAll('button, input, select, a, dt, dd')]
  .filter((e) => e.offsetParent && !e.closest('.strip'))
  .filter((e) => {
    const pane = e.closest('aside, main section, main, header, footer')
    const out = e.getBoundingClientRect().right > pane.getBoundingClientRect().right + 1
    return out || (e.matches('dt, dd') && e.scrollWidth > e.clientWidth + 1)
  })
  .map((e) => e.ariaLabel || e.innerText || e.name)
"""
"""What reaches out of its pane or its cell; sheets to step through run on by design."""


@pytest.mark.parametrize("size", [(1024, 700), (1920, 1080)])
def test_the_window_holds_at_other_sizes(bench, size):
    window = {"deviceScaleFactor": 1, "mobile": False}
    metrics = {"width": size[0], "height": size[1], **window}
    bench.browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)
    try:
        for path, css in (
            ("/orders/1/part", ".folded canvas"), ("/orders/1/blank", "svg.flat .bend"),
            ("/orders/1/bends", "table.sequence"), ("/orders/1/nest", "svg.sheet .part"),
            ("/orders/1/cut", "svg.sheet .kerf"), ("/orders/1/packet", "aside dl.facts"),
            ("/stores", "table.limits"),
        ):  # fmt: skip
            bench.go(path)
            bench.wait(css)
            wide = bench.browser.execute_script("return document.documentElement.scrollWidth")
            assert wide <= size[0]
            assert bench.browser.execute_script(CUT_OFF) == [], path
        bench.go("/orders/1/blank")
        card = bench.wait("footer.card").rect
        assert card["y"] + card["height"] == pytest.approx(size[1], abs=1)
    finally:
        metrics = {"width": 1280, "height": 800, **window}
        bench.browser.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", metrics)


def test_the_browser_met_no_fault(bench):
    faults = [
        line["message"]
        for line in bench.browser.get_log("browser")
        if line["level"] == "SEVERE" and "status of 4" not in line["message"]
    ]

    assert faults == []
