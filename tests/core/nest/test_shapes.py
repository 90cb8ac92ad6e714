"""Grown shapes hold all they stand for, and fall into convex pieces that make them up."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon, box
from shapely.ops import unary_union

from kaigata.core.nest.shapes import (
    closed,
    coarser,
    convex_pieces,
    grown_polygon,
    outward_points,
)
from kaigata.core.plane import Contour, Motion, Region
from tests.strategies import rounded_rectangles, stars

FINE = 0.001
RING = Region(Contour.circle((0, 0), 100), (Contour.circle((0, 0), 70).reversed(),))


@given(rounded_rectangles(), st.floats(0, 15))
def test_a_grown_shape_holds_every_point_nearer_than_its_growth(drawn, grow):
    *_, contour = drawn

    grown = grown_polygon(Region(contour), grow=grow, least_hole=0)

    true = contour.polygon(FINE).buffer(grow, quad_segs=64)
    assert true.difference(grown).area < 1e-3 * true.length


@given(rounded_rectangles(), st.floats(0, 15))
def test_a_grown_shape_is_little_larger_than_it_must_be(drawn, grow):
    _, _, radius, contour = drawn

    grown = grown_polygon(Region(contour), grow=grow, least_hole=0)

    true = contour.polygon(FINE).buffer(grow, quad_segs=64)
    # Mitred corners of the tangents stand out by the sagitta and what the mitre adds to it.
    sagitta = max(0.2, 0.004 * radius)
    assert true.hausdorff_distance(grown) < 2 * sagitta + 0.15 * grow


@given(st.floats(2, 400), st.floats(0.2, 0.95))
def test_no_straight_edge_cuts_off_what_an_arc_bounds(radius, bulge):
    """Bulging out of the material or into it, the points lie outside of the material."""
    for sign in (1, -1):
        half = radius * math.sin(2 * math.atan(bulge))
        top = (
            (half, 0, sign * bulge),
            (-half, 0, 0),
            (-half, -5 * radius, 0),
            (half, -5 * radius, 0),
        )
        contour = Contour.from_rows(top)

        held = Polygon(outward_points(contour))

        assert contour.polygon(FINE).difference(held).area < FINE * contour.length


def test_a_hole_is_drawn_smaller_than_it_is_and_a_small_one_is_filled():
    grown = grown_polygon(RING, grow=5, least_hole=100)

    (hole,) = grown.interiors
    reach = np.hypot(*np.array(hole.coords).T)
    assert reach.max() <= 65 + 1e-9
    assert reach.min() > 63
    assert not grown_polygon(RING, grow=5, least_hole=15000).interiors
    assert not grown_polygon(RING, grow=5, least_hole=13500).interiors


def test_growing_closes_a_slit_and_keeps_what_is_left_open():
    """A slit as wide as the spacing lets nothing in once both its sides have grown."""
    rows = [(0, 0), (100, 0), (100, 60), (54, 60), (54, 20), (46, 20), (46, 60), (0, 60)]

    closed = grown_polygon(Region(Contour.from_rows(rows)), grow=4, least_hole=0)
    open_ = grown_polygon(Region(Contour.from_rows(rows)), grow=1, least_hole=0)

    slit = LineString([(50, 30), (50, 60)])
    assert closed.contains(slit)
    assert not open_.intersects(slit)


@given(stars(), st.floats(0.1, 8), st.floats(0, 50))
def test_what_is_closed_holds_the_shape_and_hardly_more_than_nothing_could_enter(star, grow, most):
    grown = Polygon(star.polygon()).buffer(grow, join_style="mitre", mitre_limit=2.0)

    held = closed(grown, grow, most=most)

    assert grown.difference(held).area <= 0.001 * grown.length
    wide = grown.buffer(grow, join_style="mitre", mitre_limit=2.0)
    shut = grown.union(wide.buffer(-grow, join_style="mitre", mitre_limit=2.0)).area
    assert held.area <= max(shut, grown.area + most) + 0.001 * grown.length


@pytest.mark.parametrize("grow", [3.0, 0.25])
def test_the_reliefs_of_a_tray_are_closed_and_a_pocket_something_could_lie_in_is_not(grow):
    flaps = [box(6, -40, 394, 340), box(-40, 6, 440, 294)]
    reliefs = [Point(x, y).buffer(5) for x in (3, 397) for y in (3, 297)]
    tray = unary_union([box(0, 0, 400, 300), *flaps]).difference(unary_union(reliefs))
    tray = tray.buffer(grow, join_style="mitre")

    held = closed(tray, grow, most=0.001 * tray.area)

    assert len(convex_pieces(tray)) > 50
    assert len(convex_pieces(held)) == 3
    assert held.area < 1.001 * tray.area
    # Where a small part is nested too they stay open, unless they are too narrow for any.
    assert (len(convex_pieces(closed(tray, grow, most=5.0))) > 50) == (grow < 1)
    # Its corners, as large as its flaps are long, stay open.
    assert not held.intersects(box(-37, -37, -3, -3))


@given(rounded_rectangles(), st.floats(1, 8))
def test_lines_that_run_into_arcs_as_files_have_them_make_one_convex_piece(drawn, grow):
    *_, contour = drawn
    rows = [(round(x, 4), round(y, 4), bulge) for x, y, bulge in contour.vertices]

    grown = grown_polygon(Region(Contour.from_rows(rows)), grow=grow, least_hole=0)

    assert len(convex_pieces(grown)) == 1


def is_convex(piece):
    sides = np.roll(piece, -1, axis=0) - piece
    after = np.roll(sides, -1, axis=0)
    turns = sides[:, 0] * after[:, 1] - sides[:, 1] * after[:, 0]
    return turns.min() > -1e-3


@given(stars(), st.floats(0, 6.2))
def test_pieces_are_convex_and_make_up_the_shape(star, turn):
    polygon = star.moved(Motion.turned(turn)).polygon()

    pieces = convex_pieces(polygon)

    assert all(is_convex(p) for p in pieces)
    areas = [Polygon(p).area for p in pieces]
    assert sum(areas) == pytest.approx(polygon.area, rel=1e-6, abs=0.1)
    assert (
        unary_union([Polygon(p) for p in pieces]).symmetric_difference(polygon).area
        < 1e-6 * polygon.area + 0.1
    )


def test_a_convex_shape_is_one_piece_and_a_ring_has_no_more_than_it_needs():
    disc = grown_polygon(Region(RING.outer), grow=2, least_hole=0)
    ring = grown_polygon(RING, grow=2, least_hole=0)
    corner = Polygon([(0, 0), (90, 0), (90, 30), (30, 30), (30, 90), (0, 90)])

    assert len(convex_pieces(disc)) == 1
    assert len(convex_pieces(corner)) == 2
    pieces = convex_pieces(ring)
    # At most one for each edge of the hole: from each the ring is seen to its outside.
    assert len(pieces) <= len(ring.interiors[0].coords)
    assert sum(Polygon(p).area for p in pieces) == pytest.approx(ring.area, rel=1e-9)


@given(
    st.integers(800, 3000), st.integers(2, 40), st.floats(60, 400), st.floats(0, 0.3),
    st.integers(0, 2**16),
)  # fmt: skip
def test_a_traced_outline_is_held_by_one_of_few_corners(count, waves, radius, depth, seed):
    turn = np.linspace(0, 2 * np.pi, count, endpoint=False)
    rough = np.random.default_rng(seed).uniform(-0.05, 0.05, count)
    reach = radius * (1 + depth * np.sin(waves * turn)) + rough
    traced = Polygon(np.stack([reach * np.cos(turn), reach * np.sin(turn)], axis=1))

    held = coarser(traced, size=2 * radius)

    assert traced.difference(held).area < 1e-6
    # A hundredth of its size, and what mitres add to half of that.
    assert held.hausdorff_distance(traced) < 0.04 * radius
    assert len(held.exterior.coords) < min(count / 2, 16 * waves + 120)


def test_a_shape_of_few_corners_is_left_as_it_is():
    plate = Polygon([(0, 0), (90, 0), (90, 30), (30, 30), (30, 90), (0, 90)])

    assert coarser(plate, size=90) is plate
