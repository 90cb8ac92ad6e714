"""Arcs in a program's decimals, and what a machine that keeps the kerf off makes of them."""

import math
import random
from statistics import fmean

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.formats.arc_words import Joints, rounded_arc
from kaigata.core.formats.kept_off import TANGENT
from kaigata.core.plane import Segment
from tests.strategies import angles, places

LAST = 1e-4


def turned_right(u, v):
    return u[1] * v[0] - u[0] * v[1]


def arc_of(x, y, heading, radius, sweep):
    """Return an arc of a radius that sets out in a heading; a negative sweep turns right."""
    side = math.copysign(radius, sweep)
    cx, cy = x - side * math.sin(heading), y + side * math.cos(heading)
    end = heading + sweep
    to = (cx + side * math.sin(end), cy - side * math.cos(end))
    return Segment((x, y), to, math.tan(sweep / 4))


def rounded(p):
    return (round(p[0], 4), round(p[1], 4))


@given(
    places, places, angles, st.floats(0.08, 3),
    st.one_of(st.floats(0.3, 3), st.floats(-3, -0.3)),
)  # fmt: skip
def test_a_fillet_turns_nowhere_to_the_right_of_its_lines(x, y, heading, radius, sweep):
    arc = arc_of(x, y, heading, radius, sweep)
    before, after = arc.heading(0.0), arc.heading(1.0)
    at, to = rounded(arc.start), rounded(arc.end)

    made = rounded_arc(at, to, arc, 4, Joints(before, after))

    cx, cy = made.centre
    side = math.copysign(1.0, sweep)
    first = (side * cy / math.hypot(cx, cy), -side * cx / math.hypot(cx, cy))
    assert turned_right(before, first) < TANGENT
    assert turned_right(made.heading, after) < TANGENT
    assert made.parted < 0.0015
    # Its middle has not moved by more than rounding and the lean.
    middle = Segment(at, to, math.tan(sweep / 4)).at(0.5)
    assert math.dist(middle, (at[0] + cx, at[1] + cy)) == pytest.approx(
        math.hypot(cx, cy), abs=0.0012
    )


def test_where_a_machine_offsets_arcs_their_ends_are_as_far_from_the_centre():
    """A controller takes one of the two radii for the whole arc."""
    rng = random.Random(5)
    plain, even = [], []
    for _ in range(200):
        x, y, heading = (rng.uniform(-500, 500) for _ in range(3))
        arc = arc_of(x, y, heading, rng.uniform(2, 90), rng.uniform(0.2, 3))
        at, to = rounded(arc.start), rounded(arc.end)
        near, made = (rounded_arc(at, to, arc, 4, joints) for joints in (None, Joints()))
        plain.append(near.parted)
        even.append(made.parted)
        assert math.dist(made.centre, near.centre) < 10 * LAST

    assert fmean(even) < LAST / 10
    assert fmean(even) < fmean(plain) / 3


@given(places, places, angles, st.floats(0.5, 50), st.floats(0.3, 3))
def test_where_nothing_keeps_off_the_nearest_centre_is_taken(x, y, heading, radius, sweep):
    arc = arc_of(x, y, heading, radius, sweep)
    at, to = rounded(arc.start), rounded(arc.end)

    made = rounded_arc(at, to, arc, 4)

    centre = (at[0] + made.centre[0], at[1] + made.centre[1])
    assert math.dist(centre, arc.centre) < 2 * LAST
    assert made.parted < 2 * LAST
