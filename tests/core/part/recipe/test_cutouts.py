"""Cutouts that repeat and grow, polygons, mirrors, and what is pressed in or out."""

import math

import pytest

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.judge import judged
from kaigata.core.errors import InputError
from kaigata.core.markup.holes import hole_groups
from kaigata.core.metal.charts import constant_chart
from kaigata.core.metal.limits import Limits
from kaigata.core.part.recipe import Recipe, folded_recipe, sentences

PANEL = {"do": "panel", "name": "base", "rectangle": [200, 100]}
HOLE = {"do": "hole", "panel": "base", "at": [20, 20], "diameter": 6}
NUT = {**HOLE, "diameter": 5.6, "press_in": "press nut M4", "clear": 7}
FORM = {"do": "form", "panel": "base", "at": [60, 50], "note": "dimple 20", "diameter": 20}


def recipe(*steps):
    return Recipe.model_validate(
        {"kind": "fold-recipe", "part": "made", "thickness": 2, "steps": [PANEL, *steps]}
    )


def blank(*steps):
    part = folded_recipe(recipe(*steps))
    flat = unfold(part, takes=chart_takes(part, constant_chart(0.44, 2)))
    # The panel lies as it was said.
    assert (flat.width, flat.height) == pytest.approx((200, 100))
    return flat


def findings(flat):
    return [f for f in judged(flat, Limits()) if f.code == "pressed-near-edge"]


def middles(flat):
    boxes = [h.bounds for h in flat.region.holes]
    return sorted((round((b[0] + b[2]) / 2, 6), round((b[1] + b[3]) / 2, 6)) for b in boxes)


def test_holes_grow_from_one_to_the_next():
    repeat = {"columns": 3, "rows": 2, "pitch": [40, 50], "grow": [1, 2.5]}
    flat = blank({**HOLE, "repeat": repeat})
    sizes = {p: h.diameter for h in flat.region.holes for p in [middle(h)]}
    assert sizes == pytest.approx(
        {(20, 20): 6, (60, 20): 7, (100, 20): 8, (20, 70): 8.5, (60, 70): 9.5, (100, 70): 10.5}
    )
    told = sentences(recipe({**HOLE, "repeat": repeat}))[1]
    assert told.endswith("3 across by 2 up, 40 and 50 mm apart, larger by 1 across and 2.5 mm up.")


def middle(hole):
    x0, y0, x1, y1 = hole.bounds
    return (round((x0 + x1) / 2, 6), round((y0 + y1) / 2, 6))


def test_slots_and_rectangles_grow_too():
    slot = {"do": "slot", "panel": "base", "at": [30, 20], "length": 12, "width": 5}
    opening = {"do": "opening", "panel": "base", "at": [30, 60], "rectangle": [10, 8]}
    repeat = {"columns": 3, "pitch": [50, 0], "grow": [4, 0]}
    flat = blank({**slot, "repeat": repeat}, {**opening, "repeat": repeat})
    wide = {middle(h): h.bounds[2] - h.bounds[0] for h in flat.region.holes}
    assert [wide[(x, 20)] for x in (30, 80, 130)] == pytest.approx([12, 16, 20])
    assert [wide[(x, 60)] for x in (30, 80, 130)] == pytest.approx([10, 14, 18])


def test_single_ones_are_left_out_to_be_said_otherwise():
    repeat = {"columns": 3, "rows": 2, "pitch": [40, 50], "without": [[2, 1], [3, 2]]}
    flat = blank({**HOLE, "repeat": repeat}, {**HOLE, "at": [60, 20], "diameter": 9})
    sizes = {middle(h): h.diameter for h in flat.region.holes}
    assert sizes == pytest.approx(
        {(20, 20): 6, (60, 20): 9, (100, 20): 6, (20, 70): 6, (60, 70): 6}
    )
    assert "without 2/1 and 3/2" in sentences(recipe({**HOLE, "repeat": repeat}))[1]


@pytest.mark.parametrize("sides", [3, 4, 6, 8])
def test_a_polygon_is_as_wide_as_said_across_its_flats(sides):
    hex_ = {"do": "opening", "panel": "base", "at": [50, 40], "sides": sides, "across": 13}
    (hole,) = blank(hex_).region.holes
    assert len(hole.segments) == sides
    # The area of a polygon round a circle is half its length times the radius.
    assert abs(hole.area) == pytest.approx(sides * math.tan(math.pi / sides) * 6.5**2)
    assert min(s.start[1] for s in hole.segments) == pytest.approx(40 - 6.5)
    turned = blank({**hex_, "turn": 180}).region.holes[0]
    assert max(s.start[1] for s in turned.segments) == pytest.approx(40 + 6.5)


def test_what_is_cut_so_far_is_mirrored():
    slot = {"do": "slot", "panel": "base", "at": [40, 60], "length": 20, "width": 6, "turn": 30}
    mirror = {"do": "mirror", "panel": "base", "line": [[100, 0], [100, 9]]}
    flat = blank({**HOLE, "diameter": None, "thread": "M5"}, slot, mirror, {**HOLE, "at": [90, 90]})
    assert middles(flat) == [(20, 20), (40, 60), (90, 90), (160, 60), (180, 20)]
    assert sorted(tuple(round(v, 6) for v in m.at) for m in flat.marks) == [(20, 20), (180, 20)]
    # The slot leans the other way beyond the line.
    there = {middle(h): h for h in flat.region.holes if h.diameter is None}
    ends = {p: max(there[p].segments, key=lambda s: s.start[1]).start for p in there}
    assert ends[(40, 60)][0] > 40
    assert ends[(160, 60)][0] < 160


def test_what_is_pressed_in_is_marked_counted_and_kept_clear():
    flat = blank(
        {**NUT, "repeat": {"columns": 2, "pitch": [60, 0]}}, {**NUT, "at": [20, 60], "side": "far"}
    )
    assert [(m.kind, m.diameter, m.text) for m in flat.marks] == [
        ("press-in", 14, "press nut M4"),
        ("press-in", 14, "press nut M4"),
        ("press-in", 14, "press nut M4, other side"),
    ]


def test_pressed_in_stands_in_the_hole_table():
    flat = blank({**NUT, "repeat": {"columns": 2, "pitch": [60, 0]}}, {**HOLE, "at": [20, 60]})
    assert [(len(g.places), g.note) for g in hole_groups(flat)] == [(2, "press nut M4"), (1, "")]


@pytest.mark.parametrize(
    ("at", "near"),
    [([20, 20], None), ([6.9, 20], "6.90 mm from an edge"), ([30, 93.2], "6.80 mm from an edge")],
)
def test_pressed_in_too_near_an_edge_is_a_finding(at, near):
    found = findings(blank({**NUT, "at": at}))
    assert [near in f.text for f in found] == ([] if near is None else [True])
    if near:
        assert found[0].at == pytest.approx(tuple(at))


def test_pressed_in_keeps_clear_of_other_holes_and_of_bends():
    assert "an edge" in findings(blank(NUT, {**HOLE, "at": [29, 20]}))[0].text
    assert findings(blank(NUT, {**HOLE, "at": [31, 20]})) == []
    flange = {"do": "flange", "name": "side", "on": ["base.1"], "length": 30}
    part = folded_recipe(recipe({**NUT, "at": [60, 10]}, flange))
    flat = unfold(part, takes=chart_takes(part, constant_chart(0.44, 2)))
    # The bend begins 4 mm inside: the setback of radius 2 in 2 mm.
    assert "6.00 mm from where a bend begins" in findings(flat)[0].text


def test_what_is_pressed_out_is_a_footprint_with_its_pilot_hole():
    flat = blank({**FORM, "pilot": 8, "direction": "down"})
    (mark,) = flat.marks
    assert (mark.kind, mark.diameter, mark.text) == ("formed", 20, "dimple 20 down")
    assert [h.diameter for h in flat.region.holes] == pytest.approx([8])
    assert findings(flat) == []
    assert "10.00" in findings(blank({**FORM, "at": [60, 92]}))[0].text
    assert sentences(recipe({**FORM, "pilot": 8}))[1] == (
        "Press dimple 20 up, 20 mm across over a hole 8 mm across, in base at 60, 50 mm."
    )


@pytest.mark.parametrize(
    ("step", "wrong"),
    [
        ({**HOLE, "repeat": {"columns": 4, "pitch": [9, 0], "grow": [-2, 0]}}, "would be 0 mm"),
        ({**HOLE, "repeat": {"columns": 2, "without": [[3, 1]]}}, "column 3, row 1"),
        ({**HOLE, "diameter": None, "thread": "M4", "repeat": {"grow": [1, 0]}}, "does not grow"),
        ({**NUT, "clear": 2}, "2 mm clear of edges"),
        ({**FORM, "pilot": 20}, "pilot hole is 20 mm"),
        ({"do": "opening", "panel": "base", "at": [9, 9], "sides": 6}, "without a size"),
        ({"do": "opening", "panel": "base", "at": [9, 9], "sides": 6, "across": 5, "corner": 1},
         "only a rectangle"),
        ({"do": "opening", "panel": "base", "at": [9, 9], "sides": 6, "rectangle": [3, 3]},
         "no one shape"),
        ({"do": "opening", "panel": "base", "at": [50, 50], "outline": [[0, 0], [9, 0], [0, 9]],
          "repeat": {"columns": 2, "pitch": [20, 0], "grow": [1, 0]}}, "an outline does not grow"),
        ({"do": "mirror", "panel": "base", "line": [[0, 0], [0, 9]]}, "nothing has been cut"),
        ({"do": "mirror", "panel": "base", "line": [[4, 4], [4, 4]]}, "in one point"),
    ],
)  # fmt: skip
def test_what_is_refused(step, wrong):
    with pytest.raises(InputError, match=wrong) as caught:
        folded_recipe(recipe(step))
    assert caught.value.where.startswith(f"step 2 ({step['do']})")
    assert caught.value.fix
