"""A part built in the browser from a recipe, from nothing to its blank."""

import json
import re

import pytest
from selenium.webdriver import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Bench


@pytest.fixture(scope="module")
def built(browser, stage, downloads):
    """The path of a new order with a channel that was begun from a recipe."""
    bench = Bench(browser, stage.address, downloads)
    bench.begin_order("T-90", "Cable trays")
    bench.click("button[name='build-channel']")
    bench.wait(".recipe ol li", text="Begin with the panel web", seconds=60)
    return re.search("/orders/[0-9]+", browser.current_url)[0]


@pytest.fixture
def at(built, bench):
    bench.go(f"{built}/part")
    bench.click(".rack .item")
    bench.wait(".recipe ol li")
    return bench


def facts(bench):
    return bench.wait("dl.facts").text.split()


def part_of(bench):
    """Return what the interface tells of the recipe and the blank of the part that is open."""
    part = re.search("/[a-z]+/([0-9]+)$", bench.browser.current_url)[1]
    read = "const [a, done] = arguments; fetch(a).then((r) => r.json()).then(done)"
    return tuple(
        bench.browser.execute_async_script(read, f"/api/parts/{part}/{what}")
        for what in ("recipe", "blank")
    )


def test_a_dimension_takes_a_formula_and_undo_takes_it_back(at):
    # 80 + 2 x 40 less two deductions of bends of radius 2 in 2 mm.
    _, before = part_of(at)
    at.fill("input[aria-label='height']", "width / 2 + 10 mm")
    at.wait(".recipe ol li", text="50 mm (height) long")
    at.until(lambda: part_of(at)[1]["revision"] == before["revision"] + 1, "the next revision")
    assert part_of(at)[1]["height"] == pytest.approx(before["height"] + 20)

    at.fill("input[aria-label='height']", "hight * 2")
    at.wait(".el-message", text="names 'hight', which is no dimension")
    at.click(".foot button", text="Undo")
    at.wait(".recipe ol li", text="40 mm (height) long")
    at.until(lambda: part_of(at)[1]["height"] == before["height"], "the height it had")


def test_a_step_is_said_by_clicking_in_the_view(at):
    at.click(".adding button", text="holes")
    # Where a panel is narrow its far edge stands for it.
    at.click(".stage [data-name='leg-2'], .stage [data-name='leg-2.3']")
    at.until(
        lambda: at.wait(".draft [aria-label='In panel']").get_attribute("value") == "leg-2",
        "the panel that was clicked",
    )
    at.fill(".draft [aria-label='x of its middle']", "30")
    at.fill(".draft [aria-label='How many across']", "4")
    at.fill(".draft [aria-label='Apart across']", "(length - 60) / 3")
    # A thread goes before the diameter.
    at.fill(".draft [aria-label='Thread']", "M6")
    at.click("button[name='add-step']")
    at.wait(".recipe ol li", text="Cut a hole tapped M6 in leg-2 at 30, 20 mm, 4 across by 1 up")
    at.until(lambda: facts(at)[-1] == "4", "four holes")
    _, blank = part_of(at)
    assert sorted({h["diameter"] for h in blank["holes"]}) == [5.0]
    assert len(blank["holes"]) == 4

    # What has no room says so and stays to be mended.
    at.click(".adding button", text="slots")
    at.fill(".draft [aria-label='x of its middle']", "2")
    at.click("button[name='add-step']")
    at.wait(".el-message", text="step 4 (slot): the hole reaches out of the part")
    at.fill(".draft [aria-label='x of its middle']", "150")
    at.click("button[name='add-step']")
    at.wait(".recipe ol li", text="Cut a slot 30 x 8 mm in web at 150, 30 mm")
    at.click(".recipe .said", text="Cut a slot")
    at.click(".recipe li.open button", text="Take this step out")
    at.until(lambda: len(at.all(".recipe ol li")) == 3, "three steps")


def test_an_edge_that_is_clicked_bears_the_flange(at):
    at.click(".adding button", text="flange")
    # The first free edge stands there from the start; a second click takes an edge away.
    for edge in ("leg-1.3", "web.2"):
        at.click(f".stage [data-name='{edge}']")
    chosen = at.wait(".draft [aria-label='On edges']").get_attribute("value")
    assert chosen == "leg-1.3"
    at.fill(".draft [aria-label='Called']", "lip")
    at.fill(".draft [aria-label='Length']", "12")
    at.click("button[name='add-step']")
    at.wait(".recipe ol li", text="Fold the flange lip up on edge 3 of leg-1 by 90 degrees")
    recipe, blank = part_of(at)
    assert len(blank["bends"]) == 3
    assert [p["name"] for p in recipe["panels"]].count("lip") == 1


def test_a_panel_is_folded_across_and_taken_away_as_a_solid(at):
    at.click(".adding button", text="fold across")
    at.fill(".draft [aria-label='In panel']", "web")
    for field, said in (("from x", "200"), ("from y", "0"), ("to x", "200"), ("to y", "width")):
        at.fill(f".draft [aria-label='Line {field}']", said)
    at.click("button[name='add-step']")
    # The legs hang across the line: that is said, and the step stays to be mended.
    at.wait(".el-message", text="the flange leg-1 hangs across the line")
    at.fill(".draft [aria-label='In panel']", "leg-1")
    for field, said in (("from x", "length"), ("from y", "30"), ("to x", "0"), ("to y", "30")):
        at.fill(f".draft [aria-label='Line {field}']", said)
    at.fill(".draft [aria-label='Turn, °']", "45")
    at.click("button[name='add-step']")
    at.wait(".recipe ol li", text="Fold leg-1 up by 45 degrees across the line from 300 (length)")
    recipe, blank = part_of(at)
    assert [p["name"] for p in recipe["panels"]].count("wing") == 1
    assert sorted(round(b["angle"]) for b in blank["bends"]) == [45, 90, 90, 90]

    file = at.download(".actions a", text="Folded part as STEP", name="Channel.step")
    assert file.read_bytes().startswith(b"ISO-10303-21;")
    at.click(".recipe .said", text="Fold leg-1 up")
    at.click(".recipe li.open button", text="Take this step out")
    at.until(lambda: len(part_of(at)[1]["bends"]) == 3, "the bends it had")


def test_the_recipe_downloads_and_comes_back_as_a_newer_file(at, tmp_path):
    recipe, blank = part_of(at)
    at.click(".recipe a", text="as a file")
    file = at.until(lambda: next(iter(at.downloads.glob("Channel*.json")), None), "the recipe")
    said = json.loads(file.read_text())
    assert said["dimensions"]["height"] == 40
    said["dimensions"]["width"] = 100
    newer = tmp_path / "Channel.json"
    newer.write_text(json.dumps(said))

    at.wait("body").send_keys("2")
    at.until(lambda: at.all("input[name='revision']"), "where a newer file is put")
    at.all("input[name='revision']")[0].send_keys(str(newer))
    at.wait("section h2", text=f"Revision {blank['revision'] + 1}", seconds=60)
    assert part_of(at)[1]["height"] == pytest.approx(blank["height"] + 20)
    assert recipe["recipe"]["dimensions"]["width"] == 80


def sheet_of(at):
    """Return what the interface tells of the drawing of the part that is open."""
    part = re.search(r"/[a-z]+/([0-9]+)(\?|$)", at.browser.current_url)[1]
    read = "const [a, done] = arguments; fetch(a).then((r) => r.json()).then(done)"
    return at.browser.execute_async_script(read, f"/api/parts/{part}/sheets")


def test_the_drawing_is_marked_up_on_the_screen(at):
    at.wait("body").send_keys("2")
    at.click("button[name='drawing']")
    sheet = at.wait(".page .paper").size["width"]
    at.click("button[name='larger']")
    at.until(lambda: at.wait(".page .paper").size["width"] > 1.4 * sheet, "a larger sheet")
    handle = at.wait("[aria-label='Note of bend 1']")
    was = next(n for n in sheet_of(at)["notes"] if n["bend"] == 1)
    ActionChains(at.browser).click_and_hold(handle).move_by_offset(40, -30).release().perform()
    moved = at.until(
        lambda: next((n for n in sheet_of(at)["notes"] if n["is_moved"]), None), "a moved note"
    )
    assert moved["bend"] == 1
    assert moved["by"][0] > was["by"][0]
    assert moved["by"][1] > was["by"][1]

    at.write("[aria-label='Remarks, a line each']", "Deburr all edges.\nFilm outside.")
    at.fill("[aria-label='Drawing no']", "T-90-1")
    at.until(lambda: "T-90-1" in at.wait(".paper svg").text, "the number on the sheet")
    markup = sheet_of(at)["markup"]
    assert markup["remarks"] == ["Deburr all edges.", "Film outside."]
    assert "Film outside." in at.wait(".paper svg").text

    # Undone one after the other, the number first.
    at.click(".foot button", text="Undo")
    at.until(lambda: sheet_of(at)["markup"]["number"] == "", "no number")
    at.click("button", text="lay back")
    at.until(lambda: not any(n["is_moved"] for n in sheet_of(at)["notes"]), "the note laid back")
    at.click("button[name='drawing']")
    at.wait(".flat-side .caption", text="Flat")


def click_place(at, sheet, place):
    """Click on the sheet where a place of the flat is drawn."""
    surface, page = at.wait("[data-id='size-picks']"), sheet["pages"][0]
    box, (x, y) = surface.rect, place["at"]
    across = (x / page["width"] - 0.5) * box["width"]
    down = (0.5 - y / page["height"]) * box["height"]
    ActionChains(at.browser).move_to_element_with_offset(
        surface, round(across), round(down)
    ).click().perform()


def test_a_size_is_chosen_on_the_sheet_and_given_a_tolerance(at):
    at.wait("body").send_keys("2")
    at.click("button[name='drawing']")
    at.wait(".page .paper svg")
    sheet = sheet_of(at)
    bends = [p for p in sheet["places"] if p["kind"] == "bend"]
    one, *_, other = sorted(bends, key=lambda p: p["at"])
    way = max((0, 1), key=lambda i: abs(one["place"][i] - other["place"][i]))
    apart = f"{abs(one['place'][way] - other['place'][way]):.2f}"

    at.click("button[name='choose-size']")
    at.wait(".caption", text="click where the size begins")
    for place in (one, other):
        click_place(at, sheet, place)
    said = ("across", "upwards")[way]
    at.click("ol .said", text=f"{said} {apart}")
    at.fill("input[aria-label='Upper deviation of size 1']", "0.15")
    at.wait("ol .said", text="±0.15")
    at.fill("input[aria-label='Lower deviation of size 1']", "0.3")
    at.wait(".el-message", text="the lower deviation is above the upper one")
    at.until(lambda: "±0.15" in at.wait(".paper svg").text, "the tolerance on the sheet")
    assert apart in at.wait(".paper svg").text

    # The blank lies otherwise: the size is taken the other way.
    at.click("button[name='choose-size']")
    at.wait("body").send_keys("r")
    at.wait("ol .said", text=("upwards", "across")[way])
    at.wait("body").send_keys("u")
    at.wait("ol .said", text=f"{said} {apart}")
    at.click("button", text="Take it out")
    at.until(lambda: sheet_of(at)["markup"]["sizes"] == [], "no size")
    at.wait("body").send_keys("u")
    at.wait("ol .said", text=f"{said} {apart} ±0.15")
    at.click("ol .said")
    at.click("button", text="Take it out")
    at.until(lambda: sheet_of(at)["markup"]["sizes"] == [], "no size")
    at.click("button[name='drawing']")


def test_the_lettering_in_stores_is_what_drawings_say(at):
    at.go("/stores#drawings")
    at.click("button[name='add-fact']")
    at.wait("[aria-label='After direction']").send_keys(" it goes", Keys.TAB)
    at.until(lambda: "up it goes" in at.wait("h2 .num").text, "how it reads")
    at.click("input[name='column-allowance']")
    at.fill("input[aria-label='General tolerance']", "ISO 2768-m")
    at.click("button[name='add-own-field']")
    at.fill("[aria-label='Name of own field 1']", "Finish")
    at.fill("[aria-label='Text of Finish']", "as cut")
    at.wait("button[name='add-own-field']")
    at.browser.back()
    at.wait("body").send_keys("2")
    at.click("button[name='drawing']")
    drawn = at.until(
        lambda: (t := at.wait(".paper svg").text) and "ISO 2768-m" in t and t, "the tolerance"
    )
    assert "R2 up it goes" in drawn
    assert "allowance" not in drawn
    assert "as cut" in drawn
    at.fill(".slip [aria-label='Finish']", "powder RAL 7016")
    at.until(lambda: "powder RAL 7016" in at.wait(".paper svg").text, "what this part says")
    at.click(".foot button", text="Undo")
    at.until(lambda: "as cut" in at.wait(".paper svg").text, "what all say")


def pressed(bench):
    return [m for m in part_of(bench)[1]["marks"] if m["kind"] == "press-in"]


def test_a_hole_takes_over_what_stores_has_to_press_into_it(at):
    _, before = part_of(at)
    at.click("button.bare", text="holes")
    field = at.wait(".draft .field", text="For what is pressed in")
    field.find_element("css selector", ".el-select__wrapper").click()
    at.click(".el-select-dropdown__item", text="press nut M5")
    at.until(
        lambda: at.wait("input[aria-label='Diameter']").get_attribute("value") == "6.5",
        "the diameter that its maker wants",
    )
    at.click("button[name='add-step']")
    at.wait(".recipe ol li", text="press nut M5 pressed in from the near side 7.5 mm clear")
    at.until(lambda: part_of(at)[1]["revision"] == before["revision"] + 1, "the next revision")
    (mark,) = pressed(at)
    assert (mark["note"], mark["diameter"]) == ("press nut M5", 15.0)
    at.click(".foot button", text="Undo")
    at.until(lambda: not pressed(at), "the part without it")


def test_a_box_is_laid_out_by_another_net(at):
    at.click("button[name='build-box']")
    at.wait(".recipe ol li", text="Begin with the shell box", seconds=60)
    at.click(".recipe .said", text="Begin with the shell box")
    at.wait(".nets .picked", text="as now")
    _, star = part_of(at)

    # The net on the longest blank.
    sizes = [float(re.findall(r"[\d.]+", row.text)[0]) for row in at.all(".nets tbody tr")]
    told = re.findall(r"[\d.]+", at.all(".nets tbody tr")[sizes.index(max(sizes))].text)
    at.browser.execute_script(
        "arguments[0].querySelector('button').click()",
        at.all(".nets tbody tr")[sizes.index(max(sizes))],
    )
    at.until(lambda: part_of(at)[1]["revision"] == star["revision"] + 1, "the next revision")
    blank = part_of(at)[1]
    assert (blank["width"], blank["height"]) == pytest.approx(
        [float(v) for v in told[:2]], abs=0.01
    )
    assert len(blank["bends"]) == 4

    # A wall hung on the bottom again, then a lid closed over all.
    at.wait(".nets .picked", text="as now")
    recipe, _ = part_of(at)
    assert recipe["recipe"]["steps"][0]["bent"]
    at.browser.execute_script(
        "document.querySelector('[aria-label=\"top open\"]').closest('label').click()"
    )
    at.until(lambda: len(part_of(at)[1]["bends"]) == 5, "a bend for the lid")
    at.wait(".faces tr[data-face='top']", text="side-")
    at.click(".foot button", text="Undo")
    at.until(lambda: len(part_of(at)[1]["bends"]) == 4, "the box open again")
    at.click(".foot button", text="Undo")
    at.until(lambda: part_of(at)[1]["width"] == star["width"], "the star it was")
