"""The sheet of the folded part: three views beside each other, true to scale, with its sizes."""

import math
from dataclasses import replace

import numpy as np
import pytest

from kaigata.core.blank.mesh import MESH_CHORD
from kaigata.core.formats.blank_files import blank_document
from kaigata.core.formats.drawing_files import DrawingChoice, checked_drawing, title_of
from kaigata.core.markup import (
    INCH,
    INCH_FRACTIONS,
    MILLIMETRE,
    PAPERS,
    FoldedPicture,
    Lettering,
    Title,
    differences,
    draw_blank,
    folded_size,
    folded_views,
    is_third_angle,
    seen_from,
)
from kaigata.core.markup.folded_sheet import draw_folded
from kaigata.core.markup.levels import levels
from kaigata.core.markup.page import Box, Face, Pen
from tests.core.markup.given import DEMO, demo
from tests.core.markup.test_folded_view import folded

VIEWS = Lettering(folded="views")
BENT = [name for name in DEMO if demo(name)[0].bends]


def drawn(name, *, unit=MILLIMETRE, paper=""):
    blank, pieces = demo(name)
    document = blank_document(blank)
    choice = DrawingChoice(unit=unit, paper=paper, lettering=VIEWS)
    return checked_drawing(document, title_of(document), pieces=pieces, choice=choice)


def boxes(sheet):
    return sheet.front, sheet.top, sheet.side


def lines_in(sheet, box, *pens):
    wide = replace(box, left=box.left - 1e-6, right=box.right + 1e-6, bottom=box.bottom - 1e-6,
                   top=box.top + 1e-6)  # fmt: skip
    return [
        s for s in sheet.page.strokes
        if s.pen in pens and all(
            wide.left <= p[0] <= wide.right and wide.bottom <= p[1] <= wide.top
            for x in s.run for p in (x.start, x.end)
        )
    ]  # fmt: skip


@pytest.mark.parametrize("paper", ["", "tabloid"])
@pytest.mark.parametrize("name", BENT)
def test_three_views_of_the_folded_part_stand_true_to_scale_beside_each_other(name, paper):
    drawing = drawn(name, paper=paper)
    sheet = drawing.folded
    x, y, z = folded_size(demo(name)[1], demo(name)[0].thickness)

    assert drawing.pages[1] is sheet.page
    assert (sheet.page.width, sheet.page.height) == PAPERS[paper] if paper else True
    for box, size in zip(boxes(sheet), ((x, z), (x, y), (y, z)), strict=True):
        assert (box.width, box.height) == pytest.approx([s * sheet.scale for s in size])
        inside = [p for s in lines_in(sheet, box, Pen.EDGE, Pen.HIDDEN)
                  for part in s.run for p in (part.start, part.end)]  # fmt: skip
        low, high = np.min(inside, axis=0), np.max(inside, axis=0)
        assert (high - low) / sheet.scale == pytest.approx(size, abs=MESH_CHORD)
    # Beside each other, so that what is in line is the same: first angle on A papers.
    front, top, side = boxes(sheet)
    assert front.left == top.left
    assert front.bottom == side.bottom
    assert side.left > front.right
    is_third = is_third_angle(paper or "A4")
    assert (top.bottom > front.top) is is_third
    words = [w.text for w in sheet.page.words]
    assert f"from the {'right' if is_third else 'left'}" in words
    assert any(w.endswith("third angle" if is_third else "first angle") for w in words)


@pytest.mark.parametrize("paper", ["A4", "letter"])
@pytest.mark.parametrize("name", BENT)
def test_nothing_lies_on_the_title_block_or_beyond_the_frame(name, paper):
    blank, pieces = demo(name)
    views = folded_views(pieces, blank.thickness, is_third_angle=is_third_angle(paper))
    picture = FoldedPicture(seen=seen_from(pieces, blank.thickness), size=(1, 1, 1), views=views)
    sheet = draw_blank(blank, Title(part=name), folded=picture, paper=paper).folded
    page = sheet.page
    frame = (20, 10, page.width - 10, page.height - 10)

    for box in boxes(sheet):
        assert frame[0] + 5.9 < box.left
        assert box.right < frame[2]
        assert frame[1] + 3.9 < box.bottom
        assert box.top + 9 < frame[3] - 4.5
        is_left_of_block = box.right < frame[2] - 92
        assert is_left_of_block or box.bottom > frame[1] + 52
    for i, one in enumerate(boxes(sheet)):
        assert not any(one.meets(other) for other in boxes(sheet)[:i])
    block = Box(left=frame[2] - 92, bottom=frame[1], right=frame[2], top=frame[1] + 52)
    own = [s for s in page.strokes if s.pen == Pen.DIMENSION]
    for x, y in (p for s in own for part in s.run for p in (part.start, part.end)):
        assert frame[0] < x < frame[2]
        assert frame[1] < y < frame[3]
        assert not (block.left < x and y < block.top)
    for words in (w for w in page.words if w.size == 2.5 and w.face == Face.FIGURES):
        long = 0.6 * words.size * len(words.text)
        end = words.at[1] - long if words.turn else words.at[0] - long
        assert end > (frame[1] if words.turn else frame[0])


def profile_levels(*steps):
    return sorted((v for v in levels(folded(list(steps)), 2.0) if v), key=len)


def test_levels_are_the_outer_faces_and_the_edges_of_flanges():
    up, down = (90, 2.0), (-90, 2.0)
    # Feet of 30 and a bend of radius 2 beyond them; then the webs, from 32 and up to 100 of 132.
    assert profile_levels(30.0, up, 40.0, down, 60.0, down, 40.0, up, 30.0) == [
        pytest.approx((32, 100))
    ]
    # A lip of 12 with the bend outside it reaches 16 into a channel 88 wide.
    assert profile_levels(12.0, up, 30.0, up, 80.0, up, 30.0, up, 12.0) == [pytest.approx((16, 72))]
    # A U that lies with its walls down: the shorter one ends 30 above the other's rim.
    assert profile_levels(20.0, up, 70.0, up, 50.0) == [pytest.approx((30,))]
    # In a step the web lies in the very middle, of 2 + 20 + 2 and 40 before it.
    assert profile_levels(40.0, up, 20.0, down, 40.0) == [pytest.approx((42,))]


@pytest.mark.parametrize("steps", [[100.0], [60.0, (45, 2.0), 30.0], [60.0, (90, 2.0), 30.0]])
def test_what_ends_where_the_part_does_or_lies_askew_has_no_level(steps):
    assert profile_levels(*steps) == []


def test_levels_stand_beside_the_views_from_the_lower_left():
    sheet = drawn("door-panel").folded
    assert sheet.levels == (pytest.approx((16.4, 448.4)), pytest.approx((16.4, 268.4)), ())
    words = sheet.page.words
    row = [w.text for w in words if w.size == 2.5 and w.turn]
    column = [w.text for w in words if w.size == 2.5 and not w.turn]
    assert (row, column) == (["0", "16.40", "448.40"], ["0", "16.40", "268.40"])
    under = next(w for w in words if w.text == "from the top")
    assert under.at[1] < sheet.top.bottom - 17


def test_distances_that_have_no_room_are_left_out_and_said_to_be():
    blank, pieces = demo("tool-tray")
    views = folded_views(pieces, blank.thickness, is_third_angle=False)
    crowded = replace(views, levels=(tuple(range(1, 300)), (20.0,), tuple(range(1, 45))))

    sheet, roomy = (draw_folded(420, 297, v, MILLIMETRE) for v in (crowded, views))

    assert sheet.levels == ((), (20.0,), ())
    said = "Distances without room on this paper: 299 along its width, 44 along its height"
    (words,) = (w for w in sheet.page.words if w.text == said)
    # Between the heading and the figure of the overall width.
    assert sheet.front.top + 9 + 2 < words.at[1] < sheet.page.height - 10 - 4.5 - words.size
    assert not [w for w in roomy.page.words if w.text.startswith("Distances")]


@pytest.mark.parametrize("unit", [MILLIMETRE, INCH, INCH_FRACTIONS[16]], ids=lambda u: u.name)
def test_its_overall_sizes_are_written_in_the_unit(unit):
    drawing = drawn("tool-tray", unit=unit)
    page = drawing.folded.page

    strong = [w.text for w in page.words if w.face == Face.STRONG_FIGURES and w.size == 3.5]

    assert strong == [unit.length(v) for v in (326.0, 45.0, 186.0)]
    own = [w.text for w in page.words if w.face == Face.FIGURES and w.size == 3.0]
    assert own[-1] == "2/2"
    assert f"Folded, {own[0]}, " in next(w.text for w in page.words if w.text.startswith("Folded"))


def test_what_lies_behind_is_dashed():
    """The front of a tray hides the wall behind it, whose slot is seen nowhere from there."""
    sheet = drawn("cable-guard").folded
    hidden = lines_in(sheet, sheet.front, Pen.HIDDEN)
    long = math.fsum(x.length for s in hidden for x in s.run) / sheet.scale
    seen = lines_in(sheet, sheet.front, Pen.EDGE)

    # The notch in the wall behind, 30 mm deep in all on both of its faces, and more.
    assert long > 100
    assert seen
    assert not [s for s in drawn("cable-guard").pages[0].strokes if s.pen == Pen.HIDDEN]


def test_a_flat_part_has_no_such_sheet_and_neither_has_a_shop_that_wants_none():
    (flat, *_) = [name for name in DEMO if not demo(name)[0].bends]
    assert drawn(flat).folded is None
    blank, pieces = demo("tool-tray")
    document = blank_document(blank)
    assert checked_drawing(document, title_of(document), pieces=pieces).folded is None


@pytest.mark.parametrize("spoilt", ["level", "unwritten"])
def test_a_level_that_is_not_as_the_part_is_found_out(spoilt):
    blank, _ = demo("post-channel")
    drawing = drawn("post-channel")
    sheet = drawing.folded
    if spoilt == "level":
        sheet = replace(sheet, levels=((), (18.0, 100.0), ()))
        told = ["100.00 mm is not written beside the folded part",
                "no edge of the folded part is drawn at 100.00 mm"]  # fmt: skip
    else:
        sheet.page.words[:] = [w for w in sheet.page.words if w.text != "114.00"]
        told = ["114.00 mm is not written beside the folded part"]

    assert differences(replace(drawing, folded=sheet), blank, MILLIMETRE) == told


@pytest.mark.parametrize("spoilt", ["figure", "edges", "sheet"])
def test_a_sheet_that_is_not_as_the_part_is_found_out(spoilt):
    blank, _ = demo("tool-tray")
    drawing = drawn("tool-tray")
    page = drawing.folded.page
    if spoilt == "figure":
        page.words[:] = [replace(w, text="45.30") if w.text == "45.00" else w for w in page.words]
        told = "the folded height is written 45.30 mm, drawn 45.0"
    elif spoilt == "edges":
        drawing = replace(drawing, folded=replace(drawing.folded, scale=drawing.folded.scale * 2))
        told = "the folded width is written 326.00 mm, drawn 163.0"
    else:
        drawing = replace(drawing, pages=drawing.pages[:1])
        told = "the folded part is on no sheet"

    assert any(d.startswith(told) for d in differences(drawing, blank, MILLIMETRE))
