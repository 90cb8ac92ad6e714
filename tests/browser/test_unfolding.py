"""The Blank station and what feeds it: drawings, refusals, charts, measuring, revisions."""

import json

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Bench
from tests.checks import DATA, checked
from tests.drawings import drawing
from tests.solids import beside, box, joined, profile, write_step


@pytest.fixture(scope="module")
def started(browser, stage, downloads, tmp_path_factory):
    """An order with an angle, a drawing without unit and a solid that is no sheet."""
    bench = Bench(browser, stage.address, downloads)
    folder = tmp_path_factory.mktemp("made")
    angle = folder / "angle.step"
    write_step(profile([40, (90, 2), 60], thickness=2, wide=75), angle)
    stepped = folder / "stepped.step"
    write_step(joined(box(0, 0, 0, 100, 60, 2), box(60, 0, 0, 60, 60, 3)), stepped)
    longer = folder / "longer.step"
    write_step(profile([40, (90, 2), 70], thickness=2, wide=75), longer)
    bench.begin_order("B-3", "Blanks of every kind")
    joggle = folder / "joggle.dxf"
    joggle.write_bytes(drawing(lines=(30, 33.2, 60), size=(100, 40)))
    files = (angle, DATA / "dxf" / "o5-tray-inch.dxf", stepped, joggle)
    bench.all(".rack input[type='file']")[0].send_keys("\n".join(map(str, files)))
    bench.wait(".rack .item svg", seconds=60)
    bench.wait(".rack .item.refused", text="stepped", seconds=60)
    bench.wait(".rack .item", text="left open", seconds=60)
    return bench, longer


@pytest.fixture
def at(started):
    bench, longer = started

    def go(part, station="2"):
        bench.click(".rack .item", text=part)
        bench.click(f".card .cell[data-station='{station}']")
        bench.wait(".slip h1", text=part)
        return bench

    go.longer = longer
    return go


def size(bench):
    return bench.wait(".facts .size").text


def test_a_drawing_asks_for_its_unit_shows_both_sizes_and_folds(at, tmp_path):
    bench = at("o5-tray-inch", "1")
    bench.wait(".empty", text="As millimetres it is 8.00 × 6.00 mm, as inches 203.20 × 152.40 mm")

    bench.click("button[name='unit-in']")
    bench.fill("input[aria-label='Thickness']", "1/16 in - 0.0875 mm")
    bench.wait("input[aria-label='Turn of line 1']", seconds=60)
    bench.click("button[aria-label='Direction of line 1']")
    bench.wait("button[aria-label='Direction of line 1']", text="down")

    bench = at("o5-tray-inch")
    assert size(bench) == "203.20 × 152.40"
    bench.wait(".folded canvas")
    content = bench.download(".files a", text="Blank JSON", name="o5-tray-inch.blank.json")
    blank = json.loads(content.read_text())
    assert blank["thickness"] == pytest.approx(1.5)
    assert sorted(b["direction"] for b in blank["bends"]) == ["down", "up", "up", "up"]
    drawing = bench.download(".files a", text="DXF", name="o5-tray-inch.dxf")
    assert checked("dxf_check.py", drawing, "--blank", content).startswith("ok")


def test_lines_near_each_other_get_their_radii_before_the_thickness(at):
    bench = at("joggle", "1")
    bench.wait("input[aria-label='Radius of line 1']")

    bench.fill("input[aria-label='Thickness']", "1.5")
    bench.wait(".el-message", text="run into each other")
    bench.fill("input[aria-label='Radius of line 1']", "0.3")
    bench.fill("input[aria-label='Radius of line 2']", "0.3")
    bench.fill("input[aria-label='Thickness']", "1.5")

    bench = at("joggle")
    assert size(bench) == "100.00 × 40.00"
    content = bench.download(".files a", text="Blank JSON", name="joggle.blank.json")
    bends = json.loads(content.read_text())["bends"]
    assert [b["inside_radius"] for b in bends] == [0.3, 0.3, 1.5]


def test_a_refused_solid_is_shown_with_the_place(at):
    bench = at("stepped", "1")

    bench.wait(".refused", text="about 3.00 mm here, 2 mm elsewhere")
    bench.wait("[aria-label='The solid as it came'] canvas")


def test_one_bend_gets_its_own_radius_in_inches_and_undo_takes_it_back(at):
    bench = at("angle")
    before = size(bench)
    bench.click("tr[data-bend='1']")
    bench.wait(".sum", text="Outside setback")

    bench.fill("input[aria-label='Own inside radius']", "1/8 in")
    bench.wait(".sum", text="typed for this bend")
    assert size(bench) != before

    bench.wait("body").send_keys("u")
    bench.until(lambda: size(bench) == before, "the size from before")


def test_an_edge_is_laid_level_corners_are_rounded_and_findings_light_up(at):
    bench = at("angle")
    before = size(bench)
    width, height = before.split(" × ")
    bench.click("button", text="Lay an edge level")
    edges = {e.get_attribute("data-id"): e.size for e in bench.all("line.edge")}
    standing = next(n for n, s in edges.items() if s["height"] > s["width"])
    # A standing line has no width, so it is clicked by its place.
    edge = bench.wait(f"line[data-id='{standing}']")
    ActionChains(bench.browser).move_to_element(edge).click().perform()
    bench.until(lambda: size(bench) == f"{height} × {width}", "the blank on its side")
    bench.wait("body").send_keys("u")
    bench.until(lambda: size(bench) == before, "the blank as it was")

    field = bench.wait(".field", text="Corners")
    field.find_element("css selector", ".el-select__wrapper").click()
    bench.click(".el-select-dropdown__item", text="rounded")
    bench.wait("button.finding", text="4 corners are rounded by 2 mm")
    bench.wait("body").send_keys("n")
    bench.wait("button.finding.at")


def test_single_corners_are_chosen_though_they_are_round_already(at):
    bench = at("angle")
    field = bench.wait(".field", text="Corners")
    field.find_element("css selector", ".el-select__wrapper").click()
    bench.click(".el-select-dropdown__item", text="rounded")
    bench.wait("button.finding", text="4 corners are rounded by 2 mm")

    bench.click("button", text="choose some")
    for n, told in ((1, "1 corner is"), (3, "2 corners are"), (1, "1 corner is")):
        spot = bench.wait("g").find_element("xpath", f"//*[@data-id='corner-{n}']")
        ActionChains(bench.browser).move_to_element(spot).click().perform()
        bench.wait("button.finding", text=f"{told} rounded by 2 mm")
        assert "no such corner" not in bench.text()
    assert len(bench.all("circle.corner")) == 4
    bench.wait("body").send_keys("uuuu")


def test_a_slot_is_cut_across_a_bend_in_the_flat_alone(at):
    bench = at("angle")
    field = bench.wait(".field", text="Add a")
    field.find_element("css selector", ".el-select__wrapper").click()
    bench.click(".el-select-dropdown__item", text="slot")
    bench.click("button[name='place-cutout']")
    # A standing line has no width, so it is clicked by its place.
    line = bench.wait("g").find_element("xpath", "//*[@data-id='bend-1']/*[@class='ink']")
    ActionChains(bench.browser).move_to_element(line).click().perform()
    bench.wait("button.finding", text="1 cutout exists only in the flat")
    bench.wait("button.finding", text="A hole runs across bend 1")
    bench.wait("[data-id='flat-cutout-1']", text="flat only 1")

    bench.click(".said", text="slot 20.00 × 8.00")
    bench.fill("input[aria-label='Length of cutout 1']", "1 in")
    bench.wait(".said", text="slot 25.40 × 8.00")
    bench.fill("input[aria-label='x of cutout 1']", "500")
    bench.wait(".el-message", text="Cutout 1 of the flat is not cut")
    bench.click("button", text="Take it out")
    bench.until(lambda: not bench.all("[data-id='flat-cutout-1']"), "the flat without it")
    bench.wait("body").send_keys("u")
    bench.wait(".said", text="slot 25.40 × 8.00")
    bench.wait("body").send_keys("uu")
    bench.until(lambda: not bench.all("[data-id='flat-cutout-1']"), "the flat as it was")


def test_two_corners_are_measured_in_the_flat(at):
    bench = at("angle")
    bench.wait("body").send_keys("m")
    outline = bench.wait("path[data-id='outline']")
    box_of = outline.rect
    chain = ActionChains(bench.browser)
    for x in (-0.5, 0.5):
        chain.move_to_element_with_offset(outline, round(x * box_of["width"]), 0).click()
    chain.perform()

    width = size(bench).split(" × ")[0]
    bench.until(
        lambda: width in bench.browser.execute_script(
            "return document.querySelector('[data-id=measured]')?.textContent ?? ''"
        ),
        f"the width {width} measured",
    )  # fmt: skip
    bench.wait("body").send_keys("m")


def test_the_fold_goes_bend_by_bend_and_a_section_opens_it(at):
    bench = at("angle")
    bench.click(".ways input[type='checkbox']")
    bench.wait("body").send_keys("f")
    slider = bench.wait("input[aria-label='Fold']")
    bench.until(lambda: float(slider.get_attribute("value")) == 0, "the part laid flat")
    bench.click("select[aria-label='Section'] option[value='y']")
    bench.wait("input[aria-label='Where the section lies']")
    bench.click("select[aria-label='Section'] option[value='']")
    bench.click(".ways input[type='checkbox']")


def test_a_newer_revision_shows_what_changed(at):
    bench = at("angle")
    bench.browser.execute_script("document.querySelector('input[name=revision]').hidden = false")
    bench.wait("input[name='revision']").send_keys(str(at.longer))

    bench.wait("h2", text="Revision 2", seconds=60)
    bench.wait("li", text="became")
    assert bench.wait("path[data-id='before']")


def test_a_chart_that_moves_on_is_said_and_taken(at):
    bench = at("angle")
    material = bench.browser.execute_async_script(
        "const done = arguments[0]; fetch(location.pathname.replace(/.*blank\\/(\\d+).*/,"
        "'/api/parts/$1/blank')).then(r => r.json()).then(b => done(b.material))"
    )
    bench.go("/stores")
    titles = {"galvanised": "Galvanised", "steel": "Steel", "stainless": "Stainless",
              "aluminium": "Aluminium"}  # fmt: skip
    bench.click(".pick button", text=titles[material])
    bench.click(f"button[aria-label='Chart of 2 {material}']")
    bench.fill("input[aria-label='value of row 1']", "0.31")
    bench.click("button", text="Keep this chart")
    bench.wait(f"button[aria-label='Chart of 2 {material}']", text="0.31")

    bench.browser.back()
    before = size(bench)
    bench.wait(".moved", text="has moved on")
    bench.click(".moved button")
    bench.until(lambda: not bench.all(".moved"), "the chart taken")
    assert size(bench) != before


def test_a_table_with_a_wrong_line_is_refused_and_changes_nothing(at, tmp_path):
    bench = at("angle")
    bench.go("/stores")
    bench.wait(".tables")
    wrong = tmp_path / "charts.csv"
    wrong.write_text("thickness,method,value\n1,k,0.4\n2,k,often\n")
    bench.browser.execute_script("document.querySelector('input[name=table]').hidden = false")
    bench.click(".tables button", text="CSV in")
    bench.wait("input[name='table']").send_keys(str(wrong))

    bench.wait(".el-message, [role='alert']", text="charts.csv line 3")


def test_a_number_that_is_emptied_or_wrong_stays_what_it_was(started):
    bench, _ = started
    bench.go("/stores")
    field = "input[aria-label^='Count of']"
    kept = bench.wait(field).get_attribute("value")

    for wrong in ("", "-1", "2.5", "ten"):
        bench.write(field, Keys.BACKSPACE, wrong, Keys.ENTER)
        bench.wait(".el-message", text=f"“{wrong}” is not a whole number from 0 on")
        assert bench.wait(field).get_attribute("value") == kept
    bench.browser.refresh()

    assert bench.wait(field).get_attribute("value") == kept
    # Left at once, the page may show the count of before until it looks again.
    bench.fill(field, str(int(kept) + 1))
    bench.browser.refresh()
    bench.until(lambda: bench.wait(field).get_attribute("value") == str(int(kept) + 1), "the count")


TAKEN_OUT = """
const [done] = arguments, [, , order, , part] = location.pathname.split('/')
const headers = { 'X-CSRFToken': document.cookie.match(/csrftoken=([^;]+)/)[1] }
fetch(`/api/orders/${order}/rack`).then((r) => r.json())
  .then((rack) => rack.lines.find((l) => String(l.part) === part))
  .then((line) => fetch(`/api/lines/${line.id}`, { method: 'DELETE', headers }))
  .then(() => { document.querySelector("a[href$='files/step']").click(); done(part) })
"""


def test_a_file_that_is_refused_says_why(bench):
    bench.begin_order("B-6", "Gone in another window")
    tray = DATA / "parts" / "tool-tray.step"
    bench.all(".rack input[type='file']")[0].send_keys(str(tray))
    bench.wait(".rack .item svg", seconds=60)
    bench.click(".rack .item")
    bench.wait(".folded canvas")
    # Another window takes the part out just before its solid is asked for.
    part = bench.browser.execute_async_script(TAKEN_OUT)
    bench.wait(".el-message", text="This is not there: it was taken out")

    bench.go(f"/api/parts/{part}/drawing")
    bench.wait("h1", text="This is not there")
    bench.click("a", text="To the orders")
    bench.wait("article.row")


def test_an_assembly_is_drawn_by_a_worker_and_anew_when_a_part_changes(bench, tmp_path):
    file = tmp_path / "on-plate.step"
    write_step(beside(box(-5, -5, -2, 60, 100, 2), box(0, 0, 0, 2, 80, 40)), file)
    bench.begin_order("B-5", "An assembly")
    bench.all(".rack input[type='file']")[0].send_keys(str(file))
    bench.until(lambda: len(bench.all(".rack .item svg")) == 2, "both parts", 60)
    bench.click(".rack .item svg")
    bench.fill(".slip input[name='part-name']", "Ground plate")
    bench.click("button[name='assembly']")

    bench.wait(".assembly .paper", text="Exploded, not to scale", seconds=60)
    assert [p.text.split() for p in bench.all(".assembly .files")] == [
        ["sheet", "1", "SVG", "DXF"], ["sheet", "2", "SVG", "DXF"]
    ]  # fmt: skip
    assert "Ground plate" in bench.all(".assembly .paper")[0].text
    sheet = bench.download(".assembly .files a", text="SVG", name="on-plate-assembly-sheet-1.svg")
    assert "Ground plate" in sheet.read_text()

    # It stands in the address, and what changes is drawn anew by itself.
    bench.go(bench.browser.current_url.removeprefix(bench.address))
    bench.wait(".assembly .paper", text="Ground plate")
    bench.fill(".slip input[name='part-name']", "Foot plate")
    bench.wait(".assembly .paper", text="Foot plate", seconds=60)
    bench.click("button[name='assembly']")
    bench.wait(".folded canvas")
    assert "show=" not in bench.browser.current_url
