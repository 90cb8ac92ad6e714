"""Bend lines of a drawing found again in a newer one, wherever it is drawn on its page."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.intake.drawing import DrawnBend, DrawnFlat, matched_lines
from kaigata.core.plane import Contour, Motion, Region

WIDE, HIGH = 400.0, 120.0
places = st.lists(st.integers(2, 38).map(lambda n: 10.0 * n), min_size=1, max_size=6, unique=True)


def flat(xs, *, levels=(), at=(0.0, 0.0)):
    """A plate with standing bend lines at some x, and level ones at some y."""
    motion = Motion(x=at[0], y=at[1])
    ends = [((x, 0.0), (x, HIGH)) for x in xs] + [((0.0, y), (WIDE, y)) for y in levels]
    bends = tuple(DrawnBend(lines=((motion.point(a), motion.point(b)),)) for a, b in ends)
    return DrawnFlat("plate", Region(Contour.rectangle(WIDE, HIGH).moved(motion)), bends)


@given(places, st.randoms(), st.sampled_from([(0.0, 0.0), (1000.0, -300.0)]))
def test_lines_written_in_another_order_and_elsewhere_are_the_same(xs, random, at):
    mixed = list(xs)
    random.shuffle(mixed)

    same = matched_lines(flat(xs, levels=[50.0]), flat(mixed, levels=[50.0], at=at))

    assert {xs[i]: mixed[j] for i, j in same.items() if i < len(xs)} == {x: x for x in xs}
    assert same[len(xs)] == len(xs)


@given(places.filter(lambda xs: len(xs) > 1), st.sampled_from([-3.0, 3.0]))
def test_a_line_that_moved_is_still_itself_and_one_that_came_is_new(xs, by):
    later = [xs[0] + by, *xs[1:], 5.0]

    same = matched_lines(flat(xs), flat(later))

    assert same == {i: i for i in range(len(xs))}


@pytest.mark.parametrize(
    ("before", "after"),
    [(flat([]), flat([50])), (flat([50]), flat([])), (flat([200]), flat([], levels=[60]))],
)
def test_lines_of_another_direction_are_others(before, after):
    assert matched_lines(before, after) == {}
