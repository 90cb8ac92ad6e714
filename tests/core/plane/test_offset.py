import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.plane import Contour, Motion
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


EXACT = 1e-6
"""mm: how true the centre path of a tool must be."""


def assert_apart(path, edge_distance, distance):
    """Every point of a path must lie as far from the edge as it says, by the closed form."""
    for segment in path.segments:
        for t in (0.0, 0.13, 0.5, 0.77, 1.0):
            assert abs(edge_distance(*segment.at(t)) - distance) < EXACT


@pytest.mark.parametrize("half", [0.05, 0.61, 2.0])
def test_circle_and_its_hole_are_offset_to_circles(half):
    def edge(x, y):
        return abs(math.hypot(x - 7, y + 3) - 12)

    (out,) = offset_contour(Contour.circle((7, -3), 12), half)
    (into,) = offset_contour(Contour.circle((7, -3), 12).reversed(), half)

    assert_apart(out, edge, half)
    assert_apart(into, edge, half)
    assert out.area == pytest.approx(math.pi * (12 + half) ** 2, abs=EXACT)
    assert into.area == pytest.approx(-math.pi * (12 - half) ** 2, abs=EXACT)


@pytest.mark.parametrize("half", [0.05, 0.61, 2.0])
def test_obround_is_offset_by_the_closed_form(half):
    shape = Contour(((0, 0, 0), (40, 0, 1), (40, 10, 0), (0, 10, 1)))

    def edge(x, y):
        return abs(math.hypot(x - min(40.0, max(0.0, x)), y - 5) - 5)

    for path in (*offset_contour(shape, half), *offset_contour(shape.reversed(), half)):
        assert_apart(path, edge, half)


@given(rounded_rectangles())
def test_rounded_rectangle_is_offset_by_the_closed_form(shape):
    width, height, radius, contour = shape

    def edge(x, y):
        # Distance to a box shrunk by the radius, less the radius.
        dx = max(abs(x - width / 2) - (width / 2 - radius), 0.0)
        dy = max(abs(y - height / 2) - (height / 2 - radius), 0.0)
        return math.hypot(dx, dy) - radius

    (path,) = offset_contour(contour, HALF_KERF)

    assert_apart(path, edge, HALF_KERF)


def test_inside_corner_of_an_ell_is_where_both_edges_are_a_distance_away():
    ell = Contour.through([(0, 0), (30, 0), (30, 10), (10, 10), (10, 30), (0, 30)])
    half = 0.37

    (path,) = offset_contour(ell, half)

    corner = min((s.start for s in path.segments), key=lambda p: math.dist(p, (10, 10)))
    assert math.dist(corner, (10 + half, 10 + half)) < EXACT
    # Steiner's sum, less the square that the inside corner does not gain, and its quarter circle.
    want = ell.area + half * ell.length + 5 * math.pi / 4 * half**2 - half**2
    assert path.area == pytest.approx(want, abs=EXACT)


def test_a_sliver_is_offset_round_its_point():
    sliver = Contour.through([(0, 0), (100, 0), (0, 0.5)])
    half = 0.3

    (path,) = offset_contour(sliver, half)

    want = sliver.area + half * sliver.length + math.pi * half**2
    assert path.area == pytest.approx(want, abs=EXACT)
    assert path.bounds[2] == pytest.approx(100 + half, abs=EXACT)


def test_arcs_that_stand_for_a_spline_are_offset_one_by_one():
    # A wave of tangent arcs, closed by lines: as a fitted free curve comes out.
    bulge, count, span = 0.2, 8, 10.0
    wave = [(i * span, 0.0, bulge if i % 2 else -bulge) for i in range(count)]
    shape = Contour((*wave, (count * span, 0, 0), (count * span, 40, 0), (0, 40, 0)))
    arcs = [s for s in shape.segments if not s.is_line]
    half = 0.4

    (path,) = offset_contour(shape, half)

    moved = [s for s in path.segments if not s.is_line and s.radius > 2 * half]
    assert len(moved) == len(arcs)
    for arc in arcs:
        near = min(moved, key=lambda s: math.dist(s.centre, arc.centre))
        assert math.dist(near.centre, arc.centre) < EXACT
        assert near.radius == pytest.approx(arc.radius + math.copysign(half, arc.bulge), abs=EXACT)


def test_a_circle_of_just_the_distance_shrinks_to_nothing():
    assert offset_contour(Contour.circle((3, 4), HALF_KERF).reversed(), HALF_KERF) == []


TIP = Contour.from_rows([[10, 0, math.tan(math.pi / 8)], [20, 10], [20, 60], [42.513, 0]])
"""An arc that sets out where the edge before it came from: the metal ends in a tip between them."""


@pytest.mark.parametrize("distance", [0.05, 0.3, 3.0])
@pytest.mark.parametrize("mirrored", [False, True])
@pytest.mark.parametrize("decimals", [4, 6, 15])
def test_a_tip_between_an_arc_and_its_tangent_is_gone_round(distance, mirrored, decimals):
    turned = TIP.moved(Motion.turned(0.3, mirrored=mirrored))
    tip = Contour.from_rows([[round(v, decimals) for v in row] for row in turned.vertices])
    outline = tip if tip.area > 0 else tip.reversed()

    (path,) = offset_contour(outline, distance)

    assert path.polygon().exterior.distance(outline.polygon().exterior) == pytest.approx(
        distance, abs=0.001
    )
    assert path.area == pytest.approx(
        outline.polygon().buffer(distance, quad_segs=128).area, rel=0.002
    )


def test_a_slit_that_ends_between_an_arc_and_its_tangent_is_entered_as_far_as_there_is_room():
    # A plate with the tip cut out of its edge: what was metal is air.
    plate = [[42.513, 0], [60, 0], [60, 70], [0, 70], [0, 0]]
    slit = Contour.from_rows([*plate, [10, 0, math.tan(math.pi / 8)], [20, 10], [20, 60]])

    (path,) = offset_contour(slit, 0.3)

    assert path.polygon().exterior.distance(slit.polygon().exterior) == pytest.approx(0.3, abs=1e-3)
    assert path.area == pytest.approx(slit.polygon().buffer(0.3, quad_segs=128).area, rel=0.002)
