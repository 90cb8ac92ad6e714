"""Folded profiles by their section, held against the kernel's own extrusion of it."""

import math

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kaigata.core.blank.alike import are_alike
from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.part.recipe import Recipe, built_recipe, folded_recipe
from tests.core.part.recipe.test_made import blank, sides
from tests.solids import profile, volume

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
