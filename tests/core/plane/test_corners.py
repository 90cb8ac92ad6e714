import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import box

from kaigata.core.plane import Contour, Motion, Region
from kaigata.core.plane.corners import CornerKind, CornerSide, sharp_corners, treated
from tests.strategies import stars

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


@pytest.mark.parametrize("kind", list(CornerKind))
@pytest.mark.parametrize(("at", "radius"), [((10, 10), 6.0), ((12, 12), 2.5)])
def test_a_corner_with_a_hole_where_it_would_be_cut_is_left_sharp(kind, at, radius):
    region = Region.oriented(Contour.rectangle(100, 60), (Contour.circle(at, radius),))

    made, count, short = treated(region, 29, kind=kind)

    assert made.polygon().is_valid
    # A round of this size runs between the corner and the small hole.
    is_in_the_way = kind is CornerKind.CHAMFER or radius > 3
    assert (count, short) == ((3, [(0, 0)]) if is_in_the_way else (4, []))


def test_a_chamfer_does_not_cut_through_an_edge_that_bulges_in():
    outer = Contour(((0, 0, 0), (100, 0, 0), (100, 60, -0.95), (0, 60, 0)))
    region = Region(outer)

    made, count, short = treated(region, 49, kind=CornerKind.CHAMFER)

    assert made.polygon().is_valid
    assert (count, len(short)) == (0, 2)


@given(
    stars(), st.sampled_from([0.5, 3.0, 12.0, 40.0]), st.sampled_from(list(CornerKind)),
    st.sampled_from(list(CornerSide)),
)  # fmt: skip
def test_what_comes_of_any_shape_is_a_shape_and_only_its_corners_differ(contour, size, kind, side):
    region = Region.oriented(contour)

    made, count, _ = treated(region, size, kind=kind, side=side)

    assert made.polygon().is_valid
    lost = region.polygon().difference(made.polygon()).area
    won = made.polygon().difference(region.polygon()).area
    if side is CornerSide.OUTSIDE:
        assert won < 1e-3 * region.outer.length
    if side is CornerSide.INSIDE:
        assert lost < 1e-3 * region.outer.length
    if count == 0:
        assert made.outer.vertices == region.outer.vertices


@given(
    stars(), st.sampled_from([3.0, 12.0]), st.sampled_from(list(CornerKind)),
    st.floats(-60, 60), st.floats(5, 60),
)  # fmt: skip
def test_where_metal_is_to_be_kept_nothing_changes(contour, size, kind, x, width):
    region = Region.oriented(contour)
    strip = box(x, -1000, x + width, 1000)

    made, count, left = treated(region, size, kind=kind, side=CornerSide.ALL, keep=[strip])

    apart = made.polygon().symmetric_difference(region.polygon())
    assert apart.intersection(strip).area < 0.05
    assert count + len(left) == len(sharp_corners(region))


def test_every_sharp_corner_is_told_with_its_side():
    """A plate with a notch and a window: the notch's root and the window point into the metal."""
    outer = Contour.through([(0, 0), (60, 0), (60, 20), (40, 20), (40, 40), (0, 40)])
    region = Region.oriented(outer, (Contour.rectangle(10, 10).moved(Motion(x=10, y=10)),))

    found = dict(sharp_corners(region))

    inside = {at for at, side in found.items() if side is CornerSide.INSIDE}
    assert len(found) == 10
    assert inside == {(40, 20), (10, 10), (20, 10), (20, 20), (10, 20)}
