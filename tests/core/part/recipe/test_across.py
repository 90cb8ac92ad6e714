"""What is done across a panel, and flanges with outlines of their own."""

import math

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.errors import InputError
from kaigata.core.formats.solid import folded_solid
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.metal.allowance import bend_deduction
from kaigata.core.metal.charts import constant_chart
from kaigata.core.part.recipe import Recipe, built_recipe, folded_recipe
from tests.core.part.recipe.test_made import DEDUCTION, PANEL, K, folded_size, sides
from tests.solids import volume

FOLD = {"do": "fold", "panel": "base", "name": "wing", "line": [[60, 0], [60, 60]]}
JOG = {"do": "jog", "panel": "base", "name": "ledge", "line": [[60, 0], [60, 60]], "height": 12}
HALF = {"do": "panel", "name": "base", "rectangle": [60, 60]}
WING = {"do": "flange", "name": "wing", "on": ["base.2"], "length": 40}


def recipe(*steps):
    return Recipe.model_validate(
        {"kind": "fold-recipe", "part": "made", "thickness": 2, "steps": [*steps]}
    )


def made(*steps):
    return folded_recipe(recipe(*steps))


def blank(part):
    return unfold(part, takes=chart_takes(part, constant_chart(K, part.thickness)))


def require_its_solid_unfolds_alike(part):
    solid = folded_solid(part)
    assert volume(solid) == pytest.approx(part.volume)
    assert are_alike(blank(folded_part(Solid(solid), "solid")), blank(part))


@pytest.mark.parametrize("direction", ["up", "down"])
@pytest.mark.parametrize(
    ("measured", "wide"),
    [
        # A fold takes as much as a flange so measured: setback 4 outside, 2 inside, allowance
        # 4.523893.
        ("outside", 100 - DEDUCTION),
        ("inside", 100 + 4 - DEDUCTION),
        ("tangent", 100 + 4.523893),
    ],
)
def test_both_sides_of_a_fold_keep_their_sizes(measured, wide, direction):
    part = made(PANEL, {**FOLD, "measured": measured, "direction": direction})
    assert sides(part) == pytest.approx([60, wide], abs=1e-5)
    assert [b.is_up for b in part.bends] == [direction == "up"]


def test_a_fold_is_a_flange_on_what_stays():
    folded = built_recipe(recipe(PANEL, FOLD))
    hung = built_recipe(recipe(HALF, WING))
    assert are_alike(blank(folded.part), blank(hung.part))
    assert folded_size(folded.part) == pytest.approx(folded_size(hung.part))
    assert [(n.name, [e.number for e in n.edges]) for n in folded.names] == [
        (n.name, [e.number for e in n.edges]) for n in hung.names
    ]


def test_the_line_the_other_way_round_turns_the_other_side():
    part = built_recipe(recipe(PANEL, {**FOLD, "line": [[60, 60], [60, 0]]}))
    sizes = {n.name: round(part.part.panels[n.panel].area) for n in part.names}
    assert sizes == {"base": (40 - 4) * 60, "wing": (60 - 4) * 60}
    assert built_recipe(recipe(PANEL, {**FOLD, "stays": "right"})) == part


def test_what_lies_beyond_the_line_goes_with_it():
    on_panel = [
        {"do": "hole", "panel": "base", "at": [80, 20], "thread": "M6"},
        {"do": "slot", "panel": "base", "at": [30, 30], "length": 20, "width": 6},
        {"do": "flange", "name": "lip", "on": ["base.2"], "length": 15, "direction": "down"},
        {"do": "flange", "name": "ear", "on": ["base.3"], "length": 25, "ends": [10, 70]},
        {"do": "flange", "name": "tab", "on": ["base.1"], "length": 20, "ends": [10, 60]},
        {"do": "round", "panel": "base", "corners": [4], "radius": 5},
    ]
    # The same by its parts: on the wing x runs down the line, from its upper end.
    on_wing = [
        {"do": "hole", "panel": "wing", "at": [40, 20], "thread": "M6"},
        {"do": "slot", "panel": "base", "at": [30, 30], "length": 20, "width": 6},
        {"do": "flange", "name": "lip", "on": ["wing.3"], "length": 15, "direction": "down"},
        {"do": "flange", "name": "ear", "on": ["wing.4"], "length": 25, "ends": [10, 10]},
        {"do": "flange", "name": "tab", "on": ["base.1"], "length": 20, "ends": [10, 20]},
        {"do": "round", "panel": "base", "corners": [4], "radius": 5},
    ]
    folded, hung = made(PANEL, *on_panel, FOLD), made(HALF, WING, *on_wing)
    one, two = blank(folded), blank(hung)
    assert are_alike(one, two)
    assert [m.note for m in one.marks] == [m.note for m in two.marks] != []
    assert folded_size(folded) == pytest.approx(folded_size(hung))
    require_its_solid_unfolds_alike(folded)


@pytest.mark.parametrize("direction", ["up", "down"])
@pytest.mark.parametrize("angle", [90, 45])
def test_a_jog_keeps_the_size_seen_from_above(angle, direction):
    part = made(PANEL, {**JOG, "angle": angle, "direction": direction})
    assert folded_size(part) == pytest.approx((100, 60, 12 + 2))
    assert sorted(b.is_up for b in part.bends) == [False, True]
    # Outside sizes of three panels, less what two bends take; the step is 12 + 2 high over all.
    slope = (12 - 2 * 3 * (1 - math.cos(math.radians(angle)))) / math.sin(math.radians(angle))
    arcs = 2 * math.radians(angle) * (2 + K * 2)
    level = 100 - 6 * math.sin(math.radians(angle)) - slope * math.cos(math.radians(angle))
    assert sides(part) == pytest.approx([60, level + slope + arcs])
    require_its_solid_unfolds_alike(part)


def test_what_is_stepped_keeps_its_place_seen_from_above():
    hole = {"do": "hole", "panel": "base", "at": [85, 20], "diameter": 8}
    part = made(PANEL, hole, JOG)
    holes = [p for p in part.panels for e in p.edges if any(not s.is_line for s in e.run)]
    centre = next(s.centre for e in holes[0].edges for s in e.run if not s.is_line)
    assert holes[0].space(centre) == pytest.approx((85, 20, 12))


def test_a_fold_askew_has_a_bend_with_slanted_ends():
    part = made(PANEL, {**FOLD, "line": [[50, 0], [70, 60]], "angle": 60})
    require_its_solid_unfolds_alike(part)
    bend = blank(part).bends[0]
    # The long sides of the blank are straight but for what the bend takes along the line.
    deduction = bend_deduction(math.pi / 3, inside_radius=2, thickness=2, k=K)
    assert bend.length == pytest.approx(math.hypot(20, 60), abs=deduction)
    rows = blank(part).region.outer.vertices
    assert len(rows) == 8


@pytest.mark.parametrize("direction", ["up", "down"])
@pytest.mark.parametrize(
    ("outline", "bend_length"),
    [
        # Slanted sides go on through the bend: it is as long as half way between.
        ([[10, 0], [90, 0], [70, 40], [30, 40]], None),
        ([[20, 0], [80, 0], [80, 20], [90, 40], [10, 40], [20, 20]], 60),
        ([[0, 0], [100, 0], [100, 20], [50, 40, 0.3], [0, 20]], 100),
    ],
)
def test_a_flange_with_its_own_outline(outline, bend_length, direction):
    step = {"do": "flange", "name": "side", "on": ["base.1"], "outline": outline}
    part = made(PANEL, {**step, "direction": direction})
    require_its_solid_unfolds_alike(part)
    assert folded_size(part)[2] == pytest.approx(40, abs=1e-6)
    if bend_length:
        assert blank(part).bends[0].length == pytest.approx(bend_length)


def test_an_arc_may_begin_where_the_bend_ends():
    outline = [[0, 0], [100, 0, 0.3], [70, 40], [30, 40, 0.3]]
    step = {"do": "flange", "name": "side", "on": ["base.1"], "outline": outline}
    part = made(PANEL, {**step, "measured": "tangent"})
    require_its_solid_unfolds_alike(part)
    assert blank(part).bends[0].length == pytest.approx(100)


def test_holes_of_a_flange_with_its_own_outline_lie_where_they_are_said():
    outline = [[30, 0], [80, 0], [80, 40], [30, 40]]
    step = {"do": "flange", "name": "side", "on": ["base.1"]}
    hole = {"do": "hole", "panel": "side", "at": [50, 25], "diameter": 6}
    # A rectangle between ends left free; there x begins where the flange does.
    same = {**hole, "at": [20, 25]}
    shaped = made(PANEL, {**step, "outline": outline}, hole)
    plain = made(PANEL, {**step, "length": 40, "ends": [20, 30]}, same)
    assert are_alike(blank(shaped), blank(plain))


def test_neighbours_of_a_flange_with_its_own_outline():
    outline = [[0, 0], [100, 0], [100, 30], [0, 30]]
    part = made(
        PANEL,
        {"do": "flange", "name": "front", "on": ["base.1"], "outline": outline},
        {"do": "flange", "name": "side", "on": ["base.2"], "length": 30, "ends": [8, 0]},
    )
    require_its_solid_unfolds_alike(part)


@pytest.mark.parametrize(
    ("steps", "said"),
    [
        ([{**FOLD, "line": [[160, 0], [160, 9]]}], r"part base in two, and does not cross it"),
        ([{**FOLD, "line": [[60, 0], [60, 0]]}], r"begins and ends in one point"),
        ([{**FOLD, "line": [[0, 60], [50, 60]]}], r"line runs along edge 3 of base"),
        ([{**FOLD, "angle": 0}], r"a fold by 0 degrees is none"),
        ([{"do": "hole", "panel": "base", "at": [58, 30], "diameter": 8}, FOLD],
         r"step 3 \(fold\): what step 2 \(hole\) cuts out of base lies across the line"),
        ([{"do": "hole", "panel": "base", "at": [54, 30], "diameter": 8}, FOLD],
         r"step 2 \(hole\): the hole reaches out of the part at .* of base"),
        ([{**WING, "on": ["base.1"]}, {**FOLD, "name": "other"}],
         r"step 3 \(fold\): the flange wing hangs across the line"),
        ([{**WING, "on": ["base.1"]}, {**FOLD, "panel": "wing", "name": "more",
                                       "line": [[0, 20], [100, 20]]}],
         r"what is to stay of wing does not hold the whole of its own bend"),
        ([{**JOG, "height": 5}], r"the jog is 5 mm high, of which its bends take 6 mm"),
        ([{**JOG, "angle": 120}], r"the jog turns by 120 degrees"),
        ([{**JOG, "line": [[60, 0], [70, 60]]}], r"does not run on square to the line"),
        ([{**FOLD, "name": "base"}], r"there is a panel 'base' already"),
        ([{"do": "flange", "name": "side", "on": ["base.1"],
           "outline": [[0, 0], [50, 0], [100, 0], [100, 40], [0, 40]]}],
         r"edge 1 of side and edge 2 run on in one line"),
        ([{"do": "flange", "name": "side", "on": ["base.1"],
           "outline": [[0, 0], [100, 0], [100, 40], [0, 40, 0.2]]}],
         r"a bend reaches the arc beside edge 4 of side"),
        ([{"do": "flange", "name": "side", "on": ["base.1"]}], r"Give either a length or an out"),
        ([{"do": "flange", "name": "side", "on": ["base.1"],
           "outline": [[0, 0], [50, 40], [0, 40]]}], r"first side is not the one at the bend"),
        ([{"do": "flange", "name": "side", "on": ["base.1"],
           "outline": [[0, 0], [120, 0], [120, 40], [0, 40]]}],
         r"along the bend from 0 to 120 mm, of which the edge gives 0 to 100"),
    ],
)  # fmt: skip
def test_what_cannot_be_done_across_says_why(steps, said):
    with pytest.raises(InputError, match=said):
        made(PANEL, *steps)


@st.composite
def folds(draw):
    """Any panel of straight sides, folded across along any line and perhaps once more."""
    corners = draw(st.integers(3, 7))
    turns = [2 * math.pi * (i + draw(st.floats(0, 0.6))) / corners for i in range(corners)]
    reach = [draw(st.floats(60, 120)) for _ in turns]
    outline = [
        [round(r * math.cos(t), 3), round(r * math.sin(t), 3)]
        for r, t in zip(reach, turns, strict=True)
    ]
    way = draw(st.floats(0, 2 * math.pi))
    off = draw(st.floats(-15, 15))
    along, across = (math.cos(way), math.sin(way)), (-math.sin(way), math.cos(way))
    line = [[off * across[0] + s * along[0], off * across[1] + s * along[1]] for s in (-50, 50)]
    fold = {
        "do": "fold", "panel": "base", "name": "wing", "line": line,
        "angle": draw(st.sampled_from([20, 60, 90, 120])),
        "direction": draw(st.sampled_from(["up", "down"])),
        "measured": draw(st.sampled_from(["outside", "inside", "tangent"])),
    }  # fmt: skip
    return [{"do": "panel", "name": "base", "outline": outline}, fold]


@settings(max_examples=30, deadline=None)
@given(folds())
def test_any_fold_is_its_solid_unfolded(steps):
    try:
        part = made(*steps)
    except InputError:
        part = None
    assume(part is not None)
    assume(not any(f.code == "flat-overlap" for f in blank(part).findings))
    require_its_solid_unfolds_alike(part)
