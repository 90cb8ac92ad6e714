import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.plane import Contour, Region
from kaigata.core.plane.corners import CornerKind, CornerSide, treated

L_SHAPE = Contour.through([(0, 0), (100, 0), (100, 40), (40, 40), (40, 90), (0, 90)])
ROUND_LOSS = 1 - math.pi / 4


@given(st.floats(0.1, 19))
def test_rounds_take_off_outside_and_fill_inside(size):
    outside, count, short = treated(Region(L_SHAPE), size, kind=CornerKind.ROUND)
    assert (count, short) == (5, [])
    assert L_SHAPE.area - outside.area == pytest.approx(5 * ROUND_LOSS * size**2)

    every, count, _ = treated(Region(L_SHAPE), size, kind=CornerKind.ROUND, side=CornerSide.ALL)
    assert count == 6
    assert L_SHAPE.area - every.area == pytest.approx(4 * ROUND_LOSS * size**2)
    assert L_SHAPE.length - every.length == pytest.approx(6 * size * (2 - math.pi / 2))


@given(st.floats(0.1, 19))
def test_chamfers_take_triangles(size):
    region, count, _ = treated(Region(L_SHAPE), size, kind=CornerKind.CHAMFER)

    assert count == 5
    assert L_SHAPE.area - region.area == pytest.approx(5 * size**2 / 2)


def test_only_chosen_corners_and_short_edges_are_left():
    region, count, short = treated(
        Region(L_SHAPE), 5, kind=CornerKind.ROUND, chosen=[(100.2, 40.1), (7, 7)]
    )
    assert (count, short) == (1, [])
    assert L_SHAPE.area - region.area == pytest.approx(ROUND_LOSS * 25)

    narrow = Region(Contour.rectangle(100, 6))
    _, count, short = treated(narrow, 4, kind=CornerKind.ROUND)
    assert count + len(short) == 4
    assert short


def test_arcs_and_holes_are_left_alone():
    hole = Contour.circle((50, 20), 5).reversed()
    region, count, _ = treated(Region(L_SHAPE, (hole,)), 3, kind=CornerKind.ROUND)

    assert count == 5
    assert region.holes[0].area == pytest.approx(hole.area)
