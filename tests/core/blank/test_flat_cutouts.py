"""Cutouts that exist only in the flat."""

import math
from dataclasses import replace

import ezdxf
import pytest
from shapely.geometry import LineString

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.flat_cutouts import CutoutKind, FlatCutout, moved_cutout, with_cutouts
from kaigata.core.formats.blank_files import blank_document, blank_of_document, write_blank
from kaigata.core.markup import MILLIMETRE, Title, differences, draw_blank
from kaigata.core.metal.charts import constant_chart
from kaigata.core.part.recipe import Recipe, folded_recipe
from kaigata.core.plane import Motion, Region
from tests.checks import checked

HOLE, SLOT, RECTANGLE = CutoutKind


def cutout(kind, at, length, width=0.0, turn=0.0):
    return FlatCutout(kind=kind, at=at, length=length, width=width, turn=turn)


@pytest.fixture(scope="module")
def angle():
    recipe = Recipe.model_validate(
        {
            "kind": "fold-recipe",
            "part": "angle",
            "thickness": 2,
            "steps": [
                {"do": "panel", "name": "base", "rectangle": [100, 60]},
                {"do": "flange", "name": "side", "on": ["base.3"], "length": 40},
                {"do": "hole", "panel": "base", "at": [20, 20], "diameter": 10},
            ],
        }
    )
    part = folded_recipe(recipe)
    flat = unfold(part, takes=chart_takes(part, constant_chart(0.44, 2)))
    assert flat.width == pytest.approx(100)
    return flat


def codes(blank):
    return [f.code for f in blank.findings]


@pytest.mark.parametrize(
    ("made", "area"),
    [
        (cutout(HOLE, (60, 50), 12), math.pi * 36),
        (cutout(SLOT, (60, 50), 30, 8, 25), 22 * 8 + math.pi * 16),
        (cutout(SLOT, (60, 50), 8, 8), math.pi * 16),
        (cutout(RECTANGLE, (60, 50), 30, 8, 90), 240),
    ],
)
def test_what_is_cut_is_missing_also_across_a_bend(angle, made, area):
    ((x0, y0), _) = angle.bends[0].line
    assert x0 == pytest.approx(0, abs=1) or y0 > 0
    cut = with_cutouts(angle, [made])
    assert angle.region.area - cut.region.area == pytest.approx(area)
    assert codes(cut) == ["flat-only"]
    assert cut.findings[0].text.startswith("1 cutout exists only in the flat")
    (bend,), (was,) = cut.bends, angle.bends
    # The bend keeps its span; its line is where metal is.
    assert replace(bend, lines=was.lines) == was
    across = Region(made.contour()).polygon().intersection(LineString(was.line)).length
    assert sum(math.dist(*line) for line in bend.lines) == pytest.approx(
        was.length - across, abs=0.01
    )
    assert len(bend.lines) == (2 if across else 1)


def test_no_cutouts_change_nothing(angle):
    assert with_cutouts(angle, []) == angle


@pytest.mark.parametrize(
    ("made", "why"),
    [
        (cutout(HOLE, (20, 20), 4), "does not lie in the metal"),
        (cutout(HOLE, (26, 20), 4), "does not lie in the metal"),
        (cutout(HOLE, (98, 20), 4), "does not lie in the metal"),
        (cutout(HOLE, (500, 20), 4), "does not lie in the metal"),
        (cutout(RECTANGLE, (60, 20), 9, 0), "is not above 0"),
        (cutout(SLOT, (60, 20), 6, 9), "over both round ends"),
    ],
)
def test_what_has_no_room_is_told_and_not_cut(angle, made, why):
    good = cutout(HOLE, (60, 80), 5)
    cut = with_cutouts(angle, [made, good])
    assert len(cut.region.holes) == len(angle.region.holes) + 1
    lost = next(f for f in cut.findings if f.code == "flat-cutout-lost")
    assert lost.text.startswith("Cutout 1 of the flat is not cut")
    assert why in lost.text


def test_two_that_run_into_each_other_are_not_both_cut(angle):
    cut = with_cutouts(angle, [cutout(HOLE, (60, 80), 10), cutout(HOLE, (68, 80), 10)])
    assert codes(cut) == ["flat-only", "flat-cutout-lost"]
    assert "Cutout 2" in cut.findings[1].text


@pytest.mark.parametrize(
    ("motion", "turn"),
    [
        (Motion.turned(math.pi / 2), 120),
        (Motion.turned(math.pi), 30),
        (Motion(mirrored=True), 150),
        (Motion.turned(math.radians(150)), 0),
    ],
)
def test_a_cutout_turns_with_its_flat(motion, turn):
    slot = cutout(SLOT, (3, 4), 30, 8, 30)
    moved = moved_cutout(slot, motion.point(slot.at), motion)
    assert moved.turn == pytest.approx(turn)
    ends = {tuple(round(v, 6) for v in s.start) for s in moved.contour().segments}
    assert ends == {
        tuple(round(v, 6) for v in motion.point(s.start)) for s in slot.contour().segments
    }


@pytest.mark.parametrize("over", [False, True])
def test_the_drawing_and_the_dxf_say_which_holes_are_of_the_flat_alone(angle, over, tmp_path):
    made = [
        cutout(HOLE, (60, 20), 10),
        cutout(SLOT, (60, 50), 30, 8, 25),
        cutout(HOLE, (900, 0), 5),
    ]
    cut = with_cutouts(angle, made)
    if over:
        cut = cut.moved(Motion(mirrored=True, x=cut.width))
    drawing = draw_blank(cut, Title(part="angle"))

    (table,) = [t for t in drawing.tables if t.title.startswith("Holes")]
    # The hole of the part is as wide as one of the flat, and a row of its own.
    assert sorted((row[2], row[3], "ø" in row[1]) for row in table.rows) == [
        ("1", "", True), ("1", "flat only", False), ("1", "flat only", True)
    ]  # fmt: skip
    assert differences(drawing, cut, MILLIMETRE) == []
    document = blank_document(cut)
    assert len(document.flat_only) == 2
    assert blank_of_document(document).flat_only == tuple(document.flat_only)
    write_blank(document, tmp_path)
    drawn = ezdxf.readfile(tmp_path / "angle.dxf")
    notes = [t for t in drawn.modelspace().query("TEXT") if t.dxf.text == "flat only"]
    assert len(notes) == 2
    line = checked("dxf_check.py", tmp_path / "angle.dxf", "--blank", tmp_path / "angle.blank.json")
    assert line.startswith("ok")
