"""Folded profiles by their section, held against the kernel's own extrusion of it."""

import contextlib
import math

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kaigata.core.blank.alike import are_alike
from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.part.recipe import Recipe, built_recipe, folded_recipe, sentences
from tests.core.part.recipe.test_made import blank, sides
from tests.solids import folded_solid, profile, volume

THICK, RADIUS, WIDE = 2.0, 2.5, 70.0
QUARTER = math.tan(math.pi / 8)


def recipe(section, metal="right", *more):
    step = {"do": "profile", "name": "p", "section": section, "width": WIDE, "metal": metal}
    return Recipe.model_validate(
        {"kind": "fold-recipe", "part": "made", "thickness": THICK, "inside_radius": RADIUS,
         "steps": [step, *more]}
    )  # fmt: skip


def made(*args):
    return folded_recipe(recipe(*args))


@pytest.mark.parametrize(
    ("section", "metal", "length"),
    [
        # Corners on the inner face, the outer one, the middle: setbacks 2.5, 4.5, 3.5.
        ([[0, 0], [60, 0], [60, 40]], "right", 100 - 2 * 2.5 + 5.309291),
        ([[0, 0], [60, 0], [60, 40]], "left", 100 - 2 * 4.5 + 5.309291),
        ([[0, 0], [60, 0], [60, 40]], "both", 100 - 2 * 3.5 + 5.309291),
        # A turn to the right is the other way about.
        ([[0, 0], [60, 0], [60, -40]], "right", 100 - 2 * 4.5 + 5.309291),
        # A Z with the metal to the right: one corner inner, one outer.
        ([[0, 0], [50, 0], [50, 30], [90, 30]], "right", 120 - 2 * 2.5 - 2 * 4.5 + 2 * 5.309291),
        # An arc of radius 6 on the inner face, on the outer one, and a half round.
        ([[0, 0], [50, 0, QUARTER], [56, 6], [56, 40]], "right", 84 + math.pi / 2 * 6.88),
        ([[0, 0], [50, 0, QUARTER], [56, 6], [56, 40]], "left", 84 + math.pi / 2 * 4.88),
        ([[0, 0], [50, 0, 1], [50, 8], [20, 8]], "right", 80 + math.pi * 4.88),
    ],
)
def test_a_section_adds_up(section, metal, length):
    assert sides(made(section, metal)) == pytest.approx(sorted([WIDE, length]), abs=1e-5)


def test_its_panels_bear_flanges_and_holes():
    more = (
        {"do": "flange", "name": "end", "on": ["p-2.2"], "length": 20, "ends": [9, 9]},
        {"do": "hole", "panel": "p-1", "at": [20, 20], "diameter": 8},
        {"do": "hole", "panel": "p-3", "at": [20, 30], "diameter": 8},
    )
    built = built_recipe(recipe([[0, 0], [60, 0], [60, 40], [110, 40]], "right", *more))
    assert {n.name for n in built.names} == {"p-1", "p-2", "p-3", "end"}
    assert len(built.part.bends) == 3
    assert len(blank(built.part).region.holes) == 2


@pytest.mark.parametrize(
    ("section", "said"),
    [
        ([[0, 0], [60, 0], [120, 0]], r"step 1 \(profile\): at corner 2 the section does not turn"),
        ([[0, 0], [60, 0], [60, 0], [9, 9]], r"corner 2 of the section is corner 3 again"),
        ([[0, 0, 0.5], [60, 0], [60, 40]], r"begins or ends with an arc"),
        ([[0, 0], [60, 0, 0.3], [80, 5], [90, 40]], r"an arc does not go on from a straight"),
        ([[0, 0], [60, 0, -1], [60, -1], [20, -1]], r"corner 2 leaves no inside radius in 2 mm"),
        ([[0, 0], [60, 0], [60, 2]], r"the flange is 2 mm long, of which its bend takes 2.5 mm"),
    ],
)
def test_a_section_that_cannot_be_folded_says_why(section, said):
    with pytest.raises(InputError, match=said):
        made(section)


@st.composite
def sections(draw):
    """Any section of straights, turned by any angles, and the steps it is extruded by."""
    metal = draw(st.sampled_from(["left", "right", "both"]))
    share = {"left": 1.0, "right": 0.0, "both": 0.5}[metal]
    turns = draw(
        st.lists(st.sampled_from([30, 45, 90, 120, -30, -60, -90]), min_size=1, max_size=4)
    )
    lengths = [draw(st.integers(25, 60)) + i / 7 for i in range(len(turns) + 1)]
    points, heading = [(0.0, 0.0)], 0.0
    for length, turn in zip(lengths, [*turns, 0], strict=True):
        x, y = points[-1]
        points.append((x + length * math.cos(heading), y + length * math.sin(heading)))
        heading += math.radians(turn)

    def setback(turn):
        outside = (share if turn > 0 else 1 - share) * THICK
        return (RADIUS + outside) * math.tan(math.radians(abs(turn)) / 2)

    backs = [0.0, *map(setback, turns), 0.0]
    steps = []
    for i, length in enumerate(lengths):
        steps.append(length - backs[i] - backs[i + 1])
        if i < len(turns):
            steps.append((turns[i], RADIUS))
    return points, metal, steps


@settings(max_examples=40, deadline=None)
@given(sections())
def test_any_section_is_its_extrusion_unfolded(given_section):
    points, metal, steps = given_section
    part = made(points, metal)
    solid = profile(steps, thickness=THICK, wide=WIDE)
    # A section that runs into itself is no sheet.
    assume(volume(solid) == pytest.approx(part.volume, rel=1e-7))
    try:
        read = folded_part(Solid(solid), "solid")
    except InputError:
        read = None
    assume(read is not None)
    assert are_alike(blank(read), blank(part))


PANEL = {"do": "panel", "name": "base", "rectangle": [100, 60]}
WALL = [[0, 0], [0, 30], [-12, 30]]
"""A wall 30 high on the edge and a lip turned in by 12, on the seen side of the line."""
MITRE = {"do": "corners", "of": "base", "how": "mitred", "gap": 0.5}


def along(*on, section=WALL, **more):
    return {"do": "profile", "name": "rim", "section": section, "on": [*on], **more}


def panel_recipe(*steps):
    return Recipe.model_validate(
        {"kind": "fold-recipe", "part": "made", "thickness": THICK, "inside_radius": RADIUS,
         "steps": [PANEL, *steps]}
    )  # fmt: skip


def flanges(metal, on):
    """Return the wall and its lip as flanges: with the metal left of the line that is inside."""
    is_inside = metal == "left"
    how = {"measured": "inside" if is_inside else "outside",
           "bend": "outside" if is_inside else "inside"}  # fmt: skip
    lips = [f"rim-{i}.3" for i in range(1, len(on) + 1)] if len(on) > 1 else ["rim.3"]
    return ({"do": "flange", "name": "rim", "on": on, "length": 30, **how},
            {"do": "flange", "name": "lip", "on": lips, "length": 12, **how})  # fmt: skip


@pytest.mark.parametrize("metal", ["left", "right"])
@pytest.mark.parametrize(
    ("on", "corners"),
    [
        (["base.2"], ()),
        (["base.1", "base.2"], ()),
        (["base.1", "base.2"], (MITRE,)),
        (["base.1", "base.2", "base.3", "base.4"], (MITRE,)),
    ],
)
def test_a_profile_along_edges_is_what_its_flanges_are(metal, on, corners):
    # The line lies on the seen face when the metal is right of it, and there the wall turns up.
    run = blank(folded_recipe(panel_recipe(along(*on, metal=metal), *corners)))
    by_hand = blank(folded_recipe(panel_recipe(*flanges(_other(metal), on), *corners)))

    assert are_alike(run, by_hand)
    assert len(run.bends) == 2 * len(on)


def _other(metal):
    # Turned left, what lies right of the line is outside of the bend.
    return {"left": "right", "right": "left"}[metal]


def test_its_panels_are_called_by_edge_and_straight_and_bear_holes():
    hole = {"do": "hole", "panel": "rim-2-2", "at": [20, 6], "diameter": 4}
    built = built_recipe(panel_recipe(along("base.1", "base.3"), hole))
    assert {n.name for n in built.names} == {"base", "rim-1-1", "rim-1-2", "rim-2-1", "rim-2-2"}
    one = built_recipe(panel_recipe(along("base.2")))
    assert {n.name for n in one.names} == {"base", "rim-1", "rim-2"}


def test_a_rounded_profile_begins_with_its_arc_at_the_edge():
    section = [[0, 0, QUARTER], [8, 8], [8, 30]]
    flat = blank(folded_recipe(panel_recipe(along("base.2", section=section, metal="right"))))
    # The arc lies on the inner face: radius 8 inside, beginning just at the edge.
    assert flat.width == pytest.approx(100 + math.pi / 2 * (8 + 0.44 * 2) + 22)
    (bend,) = flat.bends
    assert bend.inside_radius == pytest.approx(8)


def test_ends_left_free_are_cut_free():
    flat = blank(folded_recipe(panel_recipe(along("base.2", ends=[10, 15]))))
    assert [b.length for b in flat.bends] == pytest.approx([35, 35])


@pytest.mark.parametrize(
    ("steps", "said"),
    [
        ((along("base.2", width=40),), "a profile along edges is as wide as they are"),
        ((along("base.2", section=[[0, 0], [30, 0], [30, 20]]),),
         "at corner 1 the section does not turn"),
        ((along("base.9"),), "base has no edge 9 for a flange, it has 4"),
        ((along("lid.1"),), "there is no panel 'lid' yet"),
        ((along("base.2", ends=[50, 20]),), "edge 2 of base is 60 mm long, of which 70 mm"),
        ((along("base.2", section=[[0, 0], [0, 3], [-20, 3]]),), "of rim-1 has no room for it"),
        ((along(),), "there is a first panel already"),
    ],
)  # fmt: skip
def test_a_profile_that_cannot_run_there_says_why(steps, said):
    with pytest.raises(InputError, match=said):
        folded_recipe(panel_recipe(*steps))


def test_a_profile_along_edges_begins_no_part():
    step = along("base.2")
    for first, said in (
        (step, "no panel 'base' yet"),
        ({**step, "width": 30}, "as wide as they are"),
        ({**step, "on": []}, "it has no width; Give its width, or the edges"),
    ):
        told = Recipe.model_validate(
            {"kind": "fold-recipe", "part": "made", "thickness": 2, "steps": [first]}
        )
        with pytest.raises(InputError, match=said):
            folded_recipe(told)


def test_the_solid_of_a_tray_with_a_run_rim_reads_back_as_its_blank(tmp_path):
    section = [[0, 0], [0, 25], [14, 25], [14, 16]]
    part = folded_recipe(
        panel_recipe(along(*(f"base.{n}" for n in (1, 2, 3, 4)), section=section), MITRE)
    )
    solid = folded_solid(part)
    assert volume(solid) == pytest.approx(part.volume, rel=1e-6)
    assert are_alike(blank(folded_part(Solid(solid), "made")), blank(part))


def test_it_is_said_in_a_sentence():
    told = sentences(panel_recipe(along("base.1", "base.2", ends=[3, 4])))[1]
    assert told == (
        "Run the folded profile rim, a section of 3 corners with the metal to the right of the "
        "line, along edges 1 and 2 of base, 3 and 4 mm of the edge left free."
    )


@st.composite
def rims(draw):
    """Any section of two or three straights run along any edges of a panel, corners cut anyhow."""
    heading, at, section = 0.0, (0.0, 0.0), [[0.0, 0.0]]
    for n in range(draw(st.integers(1, 3))):
        turn = draw(st.sampled_from([90, 90, 60, 45, 120, -90, -60]))
        heading += math.radians(turn)
        long = draw(st.integers(14, 40)) + n / 7
        at = (at[0] + long * math.cos(heading), at[1] + long * math.sin(heading))
        section.append([*at])
    edges = draw(st.lists(st.sampled_from([1, 2, 3, 4]), min_size=1, unique=True))
    metal = draw(st.sampled_from(["left", "right", "both"]))
    steps = [along(*(f"base.{n}" for n in sorted(edges)), section=section, metal=metal)]
    if any({n, n % 4 + 1} <= set(edges) for n in edges):
        relief = draw(st.sampled_from(["round", "square"]))
        steps.append({**MITRE, "relief": relief, "how": draw(st.sampled_from(["mitred", "open"]))})
    return panel_recipe(*steps)


@settings(max_examples=40, deadline=None)
@given(rims())
def test_any_rim_is_its_solid_unfolded(told):
    part = None
    # What has no room says so.
    with contextlib.suppress(InputError):
        part = folded_recipe(told)
    assume(part is not None)
    solid = folded_solid(part)
    # Panels that run into each other make less than their sum: no sheet to be read.
    assume(volume(solid) == pytest.approx(part.volume, rel=1e-7))
    assume(not any(f.code == "flat-overlap" for f in blank(part).findings))
    assert are_alike(blank(folded_part(Solid(solid), "solid")), blank(part))
