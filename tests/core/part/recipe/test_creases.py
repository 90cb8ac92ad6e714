"""Creases: lines that a panel is stiffened along, marked on the blank and nowhere cut."""

import math
from dataclasses import replace

import numpy as np
import pytest

from kaigata.core.blank import FaceUp, chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.blank.judge import judged
from kaigata.core.blank.mesh import fold_mesh, folded_points
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import blank_document, blank_of_document, write_blank
from kaigata.core.formats.nest_files import order_creases
from kaigata.core.markup import MILLIMETRE, Title, differences, draw_blank
from kaigata.core.markup.folded_view import seen_from
from kaigata.core.metal.charts import constant_chart
from kaigata.core.metal.limits import Limits
from kaigata.core.packet.revision import compare_blanks
from kaigata.core.part.recipe import Recipe, folded_recipe, sentences
from kaigata.core.plane import Motion
from tests.checks import checked

PANEL = {"do": "panel", "name": "base", "rectangle": [200, 100]}
CROSS = {"do": "crease", "panel": "base", "cross": 15}
LINE = {"do": "crease", "panel": "base", "line": [[20, 30], [120, 30]], "note": "bead 8"}
FLANGES = {"do": "flange", "name": "side", "on": ["base.2", "base.4"], "length": 30}


def recipe(*steps, **more):
    return Recipe.model_validate(
        {"kind": "fold-recipe", "part": "made", "thickness": 2, "steps": [PANEL, *steps], **more}
    )


def blank(*steps, face_up=FaceUp.AS_MODELLED, **more):
    part = folded_recipe(recipe(*steps, **more))
    takes = chart_takes(part, constant_chart(0.44, 2))
    return unfold(part, takes=takes, face_up=face_up)


def lines(flat):
    return sorted(sorted((m.at, m.end)) for m in flat.marks)


def near(*ends):
    return [[pytest.approx(p, abs=1e-9) for p in line] for line in ends]


def test_a_cross_runs_from_corner_to_corner_and_keeps_off_them():
    flat = blank(CROSS)

    # 15 mm along diagonals of a panel of 200 by 100.
    x, y = 15 * 200 / math.hypot(200, 100), 15 * 100 / math.hypot(200, 100)
    assert lines(flat) == near([(x, y), (200 - x, 100 - y)], [(x, 100 - y), (200 - x, y)])
    assert {m.text for m in flat.marks} == {"crease up"}
    assert flat.region.holes == ()
    assert flat.region.area == pytest.approx(200 * 100)
    assert [f for f in judged(flat, Limits()) if f.code == "crease-off-metal"] == []


def test_a_crease_is_said_in_a_sentence():
    assert sentences(recipe(CROSS, {**LINE, "direction": "down"}))[1:] == [
        "Mark crease up in base crosswise, 15 mm off its corners.",
        "Mark bead 8 down in base from 20, 30 mm to 120, 30 mm.",
    ]


def test_it_goes_the_other_way_on_the_blank_turned_over():
    up, down = blank(LINE), blank(LINE, face_up=FaceUp.OTHER)

    assert [m.text for m in up.marks] == ["bead 8 up"]
    assert [m.text for m in down.marks] == ["bead 8 down"]
    assert down.marks[0].length == pytest.approx(100)
    assert lines(blank(LINE, hand="other")) != lines(up)


def test_a_crease_on_a_flange_lies_where_the_flange_was_laid():
    flat = blank(FLANGES, {**LINE, "panel": "side-1", "line": [[10, 10], [60, 10]]})
    (mark,) = flat.marks
    region = next(p.region for p in flat.panels if p.region.area < 4000
                  and _within(p.region, mark.middle))  # fmt: skip
    assert _within(region, mark.at)
    assert _within(region, mark.end)
    assert mark.length == pytest.approx(50)


def _within(region, point):
    x0, y0, x1, y1 = region.outer.bounds
    return x0 <= point[0] <= x1 and y0 <= point[1] <= y1


def test_what_is_beyond_a_fold_goes_with_it_and_nothing_lies_across():
    fold = {"do": "fold", "name": "wing", "panel": "base", "line": [[140, 0], [140, 100]]}
    flat = blank(LINE, {**LINE, "line": [[150, 20], [150, 80]]}, fold)
    assert sorted(m.length for m in flat.marks) == pytest.approx([60, 100])
    assert [f for f in judged(flat, Limits()) if f.code == "crease-off-metal"] == []

    with pytest.raises(InputError, match="a crease of base lies across the line"):
        blank({**LINE, "line": [[20, 30], [180, 30]]}, fold)


def test_a_crease_is_mirrored_with_all_that_is_marked():
    flat = blank(LINE, {"do": "mirror", "panel": "base", "line": [[0, 50], [10, 50]]})
    assert lines(flat) == near([(20, 30), (120, 30)], [(20, 70), (120, 70)])


@pytest.mark.parametrize(
    ("step", "why"),
    [
        ({**CROSS, "cross": None}, "not said in one way"),
        ({**CROSS, "line": [[0, 0], [1, 1]]}, "not said in one way"),
        ({**CROSS, "cross": 112}, "has no room to keep 112 mm off both"),
        ({**CROSS, "cross": -1}, "what it keeps off the corners is -1 mm"),
        ({**LINE, "line": [[20, 30], [201, 30]]}, "reaches beyond base"),
        ({**LINE, "line": [[20, 30], [20, 30]]}, "begins and ends in one point"),
        ({**LINE, "panel": "lid"}, "no panel 'lid'"),
    ],
)
def test_a_crease_that_cannot_be_is_refused(step, why):
    with pytest.raises(InputError, match=why):
        blank(step)


def test_a_cross_needs_four_corners():
    outline = {"do": "panel", "name": "base", "outline": [[0, 0], [90, 0], [40, 70]]}
    told = Recipe.model_validate(
        {"kind": "fold-recipe", "part": "t", "thickness": 2, "steps": [outline, CROSS]}
    )
    with pytest.raises(InputError, match="base has 3 edges, a cross runs between four corners"):
        folded_recipe(told)


@pytest.mark.parametrize(
    ("steps", "over"),
    [
        ((LINE, {"do": "hole", "panel": "base", "at": [60, 30], "diameter": 8}),
         "the edge of the metal"),
        ((FLANGES, {**LINE, "line": [[1, 30], [199, 30]]}), "a bend"),
    ],
)  # fmt: skip
def test_a_crease_over_a_hole_or_a_bend_is_told(steps, over):
    found = [f for f in judged(blank(*steps), Limits()) if f.code == "crease-off-metal"]
    assert [f"bead 8 up runs over {over}" in f.text for f in found] == [True]


def test_creases_stand_in_the_files_of_the_blank(tmp_path):
    flat = blank(FLANGES, {**CROSS, "cross": 20}, LINE)
    document = blank_document(flat)
    write_blank(document, tmp_path)

    assert lines(blank_of_document(document)) == near(*lines(flat))
    said = checked("dxf_check.py", tmp_path / "made.dxf", "--blank", tmp_path / "made.blank.json")
    assert said.startswith("ok")
    assert "mark=3" in said
    assert len(order_creases(document)) == 3


def test_creases_are_drawn_and_listed_and_missed_where_they_are_not():
    flat = blank(FLANGES, CROSS, LINE)
    drawing = draw_blank(flat, Title(part="made"))

    assert differences(drawing, flat, MILLIMETRE) == []
    (table,) = [t for t in drawing.tables if t.title.startswith("Marked")]
    assert [(r[0], r[2]) for r in table.rows] == [("bead 8 up", "1"), ("crease up", "2")]
    page = drawing.pages[0]
    page.strokes.remove(next(s for s in page.strokes if s.pen == "mark"))
    assert any("is not drawn" in d for d in differences(drawing, flat, MILLIMETRE))
    assert "0 marks are listed, the part has 3" in differences(
        draw_blank(blank(FLANGES), Title(part="made")), flat, MILLIMETRE
    )


def test_parts_with_other_creases_are_not_the_same_part():
    one, other = blank(LINE), blank({**LINE, "line": [[20, 30], [110, 40]]})
    turned = Motion.turned(math.pi, x=200, y=100)

    assert are_alike(one, one.moved(turned))
    assert not are_alike(one, other)
    assert not are_alike(one, replace(one, marks=()))


def test_a_revision_tells_what_became_of_a_crease():
    before, after = (
        blank_document(blank({**LINE, "line": line}))
        for line in ([[20, 30], [120, 30]], [[20, 40], [120, 20]])
    )
    (change,) = compare_blanks(before, after)
    assert change.kind == "mark"
    assert "bead 8 up, 100.0 across and 0.0 up became" in change.text
    assert "100.0 across and -20.0 up" in change.text


def test_creases_are_folded_with_their_panel():
    flange = {**FLANGES, "on": ["base.2"], "angle": 90}
    on_flange = {**LINE, "panel": "side", "line": [[10, 20], [90, 20]]}
    part = folded_recipe(recipe(flange, on_flange))
    pieces = fold_mesh(part, takes=chart_takes(part, constant_chart(0.44, 2)))

    (number,) = [i for i, p in enumerate(pieces) if len(p.creases)]
    ends = np.column_stack([pieces[number].creases.reshape(-1, 2), [0.0, 0.0]])
    there = folded_points(pieces, number, ends)

    # On the flange's inside, 20 mm above where its outside begins, below the base by its thickness.
    assert there[:, 2] == pytest.approx([18, 18])
    assert np.ptp(there[:, :2], axis=0).max() == pytest.approx(80)
    bare = folded_recipe(recipe(flange))
    seen, without = (
        seen_from(fold_mesh(p, takes=chart_takes(p, constant_chart(0.44, 2))), 2.0)
        for p in (part, bare)
    )
    # Which side of a sheet it is pressed from is not told by the line: it is on both.
    assert len(seen.tangents) > len(without.tangents)
    assert seen.edges == without.edges
