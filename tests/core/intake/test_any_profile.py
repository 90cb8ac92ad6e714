"""Profiles drawn at random, with a hole in one of their straights: the flat is the sum of both."""

import math

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kaigata.core.blank import FaceUp, chart_takes, unfold
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.metal.charts import constant_chart
from tests.solids import flat_length, less, only_solid, profile, round_bar, turned

K = 0.42
WIDE = 70.0


@st.composite
def profiles(draw):
    """Straights and bends whose headings stay within a right angle, so that none runs into another.

    Returns the steps, the thickness, and where a hole lies: which straight, and along the width.
    """
    thickness = draw(st.sampled_from([0.8, 1.5, 2.0, 3.0, 6.0]))
    lengths = st.floats(8 * thickness + 12, 120).map(lambda v: round(v, 2))
    steps, heading = [draw(lengths)], 0.0
    for _ in range(draw(st.integers(1, 4))):
        to = draw(st.integers(-85, 85).filter(lambda h, now=heading: abs(h - now) >= 8))
        # An inside radius of 0 is a sharp corner; the smallest others are as shops bend them.
        radius = draw(st.sampled_from([0.0, 0.5, 1.0, 2.5])) * thickness
        steps += [(to - heading, radius), draw(lengths)]
        heading = to
    hole = (2 * draw(st.integers(0, len(steps) // 2)), draw(st.floats(15, WIDE - 15)))
    return steps, thickness, hole


def on_straight(steps, thickness, index):
    """The middle of a straight on the profile's lower side, and its heading, as it is folded."""
    x = z = heading = 0.0
    for i, step in enumerate(steps):
        if isinstance(step, tuple):
            turn, inside = math.radians(step[0]), step[1]
            reach = inside + thickness if turn > 0 else -inside
            x, z = x - reach * math.sin(heading), z + reach * math.cos(heading)
            heading += turn
            x, z = x + reach * math.sin(heading), z - reach * math.cos(heading)
            continue
        length = step / 2 if i == index else step
        x, z = x + length * math.cos(heading), z + length * math.sin(heading)
        if i == index:
            return (x, z), heading
    raise IndexError(index)


def drilled(steps, thickness, hole, radius):
    """The folded profile with a hole square through the middle of one of its straights."""
    index, across = hole
    (x, z), heading = on_straight(steps, thickness, index)
    nx, nz = -math.sin(heading), math.cos(heading)
    tool = round_bar((x - nx, across, z - nz), (nx, 0, nz), radius, thickness + 2)
    return less(profile(steps, thickness=thickness, wide=WIDE), tool)


def flat(shape, **options):
    part = folded_part(Solid(only_solid(shape)), "thing")
    takes = chart_takes(part, constant_chart(K, part.thickness))
    return part, unfold(part, takes=takes, **options)


@settings(max_examples=30)
@given(profiles())
def test_the_flat_is_as_long_as_its_steps_and_the_hole_lies_where_they_say(drawn):
    steps, thickness, (index, across) = drawn
    radius = 3.1

    total = flat_length(steps, thickness=thickness, k=K)
    # A square blank does not tell its length from its width.
    assume(abs(total - WIDE) > 0.01)

    part, blank = flat(drilled(steps, thickness, (index, across), radius))

    sizes = sorted((blank.width, blank.height))
    assert part.thickness == pytest.approx(thickness, abs=1e-6)
    assert sizes == pytest.approx(sorted((total, WIDE)), abs=1e-5)
    assert blank.region.area == pytest.approx(total * WIDE - math.pi * radius**2, rel=1e-6)
    along = flat_length(steps[:index], thickness=thickness, k=K) + steps[index] / 2
    (ring,) = blank.region.holes
    x0, y0, x1, y1 = ring.bounds
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    if abs(blank.width - total) > 1e-3:
        x, y = y, x
    assert min(x, total - x) == pytest.approx(min(along, total - along), abs=1e-5)
    assert min(y, WIDE - y) == pytest.approx(min(across, WIDE - across), abs=1e-5)


@settings(max_examples=25)
@given(profiles())
def test_every_bend_is_there_with_its_angle_radius_and_way(drawn):
    steps, thickness, hole = drawn

    _, blank = flat(drilled(steps, thickness, hole, 2.0))

    bends = [s for s in steps if isinstance(s, tuple)]
    found = sorted(
        (round(math.degrees(b.angle), 4), round(b.inside_radius, 4)) for b in blank.bends
    )
    assert found == sorted((round(abs(a), 4), round(r, 4)) for a, r in bends)
    ups = sum(b.is_up for b in blank.bends)
    # Which side lies up is the part's own matter; turned over, all bends go the other way.
    assert ups in {sum(a > 0 for a, _ in bends), sum(a < 0 for a, _ in bends)}
    assert all(b.length == pytest.approx(WIDE, abs=1e-5) for b in blank.bends)


@settings(max_examples=10)
@given(profiles(), st.integers(-170, 170))
def test_how_it_lies_in_space_and_which_side_is_shown_change_no_size(drawn, degrees):
    steps, thickness, hole = drawn
    shape = drilled(steps, thickness, hole, 2.0)

    _, plain = flat(shape)
    _, askew = flat(turned(shape, (1, 2, 3), degrees, by=(500, -300, 40)))
    _, other = flat(shape, face_up=FaceUp.OTHER)

    for blank in (askew, other):
        assert sorted((blank.width, blank.height)) == pytest.approx(
            sorted((plain.width, plain.height)), abs=1e-4
        )
        assert blank.region.area == pytest.approx(plain.region.area, rel=1e-6)
    assert sum(b.is_up for b in other.bends) == sum(not b.is_up for b in plain.bends)
