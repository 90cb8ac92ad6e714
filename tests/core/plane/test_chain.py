"""Runs of segments joined into closed contours."""

import math
from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.errors import InputError
from kaigata.core.plane import Contour, Segment
from kaigata.core.plane.chain import closed_contours, closed_loops
from tests.strategies import rounded_rectangles, stars


def lines(*points):
    return [Segment(a, b) for a, b in pairwise(points)]


@given(stars(), st.randoms(use_true_random=False), st.integers(1, 4))
def test_a_contour_in_pieces_is_put_together_again(star, rng, longest):
    runs, rest = [], list(star.segments)
    while rest:
        n = rng.randint(1, longest)
        runs.append(rest[:n])
        rest = rest[n:]
    rng.shuffle(runs)

    (contour,) = closed_contours(runs)

    assert contour.area == pytest.approx(star.area, rel=1e-9)
    assert contour.length == pytest.approx(star.length, rel=1e-9)


@given(rounded_rectangles(), stars(), st.randoms(use_true_random=False))
def test_two_contours_stay_two(drawn, star, rng):
    *_, rounded = drawn
    far = [
        Segment((s.start[0] + 2000, s.start[1]), (s.end[0] + 2000, s.end[1]), s.bulge)
        for s in star.segments
    ]
    runs = [[s] for s in (*rounded.segments, *far)]
    rng.shuffle(runs)

    found = sorted(closed_contours(runs), key=lambda c: c.bounds[0])

    assert [c.area for c in found] == pytest.approx([rounded.area, star.area], rel=1e-9)


def test_contours_that_touch_in_a_point_stay_apart():
    """Two squares corner to corner, material to the left of each: not one figure of eight."""
    square = lines((0, 0), (10, 0), (10, 10), (0, 10), (0, 0))
    other = lines((10, 10), (20, 10), (20, 20), (10, 20), (10, 10))

    found = closed_contours([[s] for s in (*square, *other)])

    assert sorted(c.area for c in found) == [100, 100]


def test_holes_that_touch_in_a_point_become_one():
    """Of clockwise contours the material lies outside, so its wedge lies between the two."""
    square = lines((0, 0), (0, 10), (10, 10), (10, 0), (0, 0))
    other = lines((10, 10), (10, 20), (20, 20), (20, 10), (10, 10))

    (found,) = closed_contours([[s] for s in (*square, *other)])

    assert found.area == pytest.approx(-200)


def test_ends_within_the_tolerance_are_one_point():
    gap = 0.0005
    runs = [lines((0, 0), (10, 0)), lines((10 + gap, 0), (10, 10)), lines((10, 10 + gap), (0, 0))]

    (loop,) = closed_loops(runs, 0.001)

    assert loop == [0, 1, 2]


def test_an_edge_that_does_not_close_is_refused_with_the_place():
    with pytest.raises(InputError, match=r"does not close at x 10\.000, y 10\.000"):
        closed_contours([lines((0, 0), (10, 0), (10, 10))])


def test_what_vanishes_is_left_out():
    speck = [Segment((5, 0), (5, 1e-9))]
    square = lines((0, 0), (10, 0), (10, 10), (0, 10), (0, 0))

    (contour,) = closed_contours([square, speck])

    assert contour.area == 100
    assert len(contour.vertices) == 4


def test_a_circle_of_two_arcs_is_a_circle():
    arcs = Contour.circle((3, 4), 5).segments

    (contour,) = closed_contours([[arcs[1]], [arcs[0]]])

    assert contour.area == pytest.approx(25 * math.pi)
