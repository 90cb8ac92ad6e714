"""Regions: what they measure, and which are refused."""

import math

import pytest
from hypothesis import given

from kaigata.core.errors import InputError
from kaigata.core.plane import Contour, Motion, Region
from kaigata.core.plane.region import require_sound
from tests.strategies import motions, rounded_rectangles

PLATE = Contour.rectangle(100, 80)


def hole(width, height, x, y):
    return Contour.rectangle(width, height).moved(Motion(x=x, y=y)).reversed()


@given(rounded_rectangles(), motions())
def test_a_motion_keeps_what_a_region_measures(drawn, motion):
    width, height, radius, contour = drawn
    region = Region(contour, (Contour.circle((width / 2, height / 2), radius / 2).reversed(),))

    moved = region.moved(motion)

    assert moved.area == pytest.approx(region.area, rel=1e-9)
    assert moved.length == pytest.approx(region.length, rel=1e-9)
    assert moved.outer.area > 0
    assert moved.holes[0].area < 0
    assert region.area == pytest.approx(region.polygon(1e-3).area, rel=1e-3)


def test_contours_are_turned_the_way_they_must_run():
    region = Region.oriented(PLATE.reversed(), (hole(10, 10, 5, 5).reversed(),))

    assert region.area == pytest.approx(100 * 80 - 100)
    assert [c.area > 0 for c in region.contours] == [True, False]


@pytest.mark.parametrize("bulge", [-0.672, -0.6745, -0.6882616990228825])
def test_an_outline_that_turns_back_across_itself_is_refused_by_however_little(bulge):
    # The arc leaves the last corner on the wrong side of the edge that it came by.
    outer = Contour.from_rows([[0, 0, bulge], [50, 5], [100, 0], [30, 100]])
    with pytest.raises(InputError, match=r"turns back across itself at 0\.\d\d, \d\.\d\d; draw"):
        require_sound(Region(outer, (hole(4, 4, -3, 1),)), where="parts[0]", name="P")


def test_a_corner_in_which_an_arc_touches_the_edge_before_is_taken():
    tip = Contour.from_rows([[10, 0, 0.4142135623730951], [20, 10], [20, 60], [42.513, 0]])
    require_sound(Region.oriented(tip), where="parts[0]", name="P")


@pytest.mark.parametrize(
    ("holes", "text", "place"),
    [
        ([hole(30, 20, 80, 30)], "reaches out of the part", r"holes\[0\]"),
        ([hole(30, 20, 10, 10), hole(30, 20, 30, 20)], r"runs into holes\[0\]", r"holes\[1\]"),
        ([hole(100, 80, 0, 0)], "leaves nothing of the part", r"holes\[0\]"),
        ([hole(5, 5, 200, 200)], "reaches out of the part", r"holes\[0\]"),
    ],
)
def test_a_hole_that_is_none_is_refused_with_its_place(holes, text, place):
    with pytest.raises(InputError, match=text) as refused:
        require_sound(Region(PLATE, tuple(holes)), where="parts[2]", name="lid")
    assert refused.match(place)


def test_holes_that_only_touch_are_sound():
    touching = (hole(20, 20, 10, 10), hole(20, 20, 30, 10))
    disc = Contour.circle((80, 40), 20).reversed()

    require_sound(Region(PLATE, (*touching, disc)), where="parts[0]", name="lid")

    assert Region(PLATE, (disc,)).area == pytest.approx(8000 - 400 * math.pi)
