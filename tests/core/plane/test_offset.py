import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.plane import Contour
from kaigata.core.plane.offset import offset_contour
from tests.strategies import rounded_rectangles, stars

HALF_KERF = 0.6


@given(rounded_rectangles())
def test_rounded_rectangle_grows_by_steiners_sum(shape):
    contour = shape[3]

    (grown,) = offset_contour(contour, HALF_KERF)

    # Steiner: a convex region grown by d has area A + d L + pi d^2 and length L + 2 pi d.
    want = contour.area + HALF_KERF * contour.length + math.pi * HALF_KERF**2
    assert grown.area == pytest.approx(want, abs=1e-6, rel=1e-12)
    assert grown.length == pytest.approx(contour.length + 2 * math.pi * HALF_KERF, abs=1e-6)
    assert len(grown.vertices) == 8


def test_obround_hole_shrinks_to_a_thinner_obround():
    hole = Contour(((0, 0, 0), (40, 0, 1), (40, 10, 0), (0, 10, 1))).reversed()

    (path,) = offset_contour(hole, 0.5)

    assert -path.area == pytest.approx(40 * 9 + math.pi * 4.5**2, abs=1e-9)


def test_inside_corner_stays_sharp_and_outside_corners_are_rounded():
    ell = Contour.through([(0, 0), (30, 0), (30, 10), (10, 10), (10, 30), (0, 30)])

    (path,) = offset_contour(ell, 1.0)

    assert sum(s.bulge != 0 for s in path.segments) == 5
    assert min(math.dist(s.start, (11, 11)) for s in path.segments) < 1e-6


def test_hole_with_a_neck_gives_two_paths():
    bone = Contour.through(
        [(0, 0), (10, 0), (10, 4.8), (20, 4.8), (20, 0), (30, 0),
         (30, 10), (20, 10), (20, 5.2), (10, 5.2), (10, 10), (0, 10)]
    ).reversed()  # fmt: skip

    paths = offset_contour(bone, 0.5)

    # Besides 9 x 9 the tool's centre bulges a little into each mouth of the neck.
    other = bone.polygon().buffer(-0.5, quad_segs=256)
    assert [-p.area for p in paths] == pytest.approx([g.area for g in other.geoms], abs=1e-4)


def test_hole_narrower_than_the_kerf_gives_no_path():
    assert offset_contour(Contour.rectangle(20, 0.9).reversed(), 0.5) == []


@given(stars(), st.sampled_from([0.1, 0.6, 2.0]))
def test_stars_agree_with_a_general_polygon_library(star, distance):
    grown = offset_contour(star, distance)[0]

    # Chords of the library's round corners lie inside: 256 to a quarter leave 5e-6 of the area.
    other = star.polygon().buffer(distance, quad_segs=256)
    assert grown.area == pytest.approx(type(other)(other.exterior).area, rel=1e-5)
