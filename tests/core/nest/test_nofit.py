"""No-fit polygons against overlaps of the shapes themselves."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import Point, Polygon

from kaigata.core.errors import LimitError
from kaigata.core.nest import NestOrder, NestPart, StockSheet, nofit, search
from kaigata.core.nest.improve import Bout, Hand
from kaigata.core.nest.moves import tightened
from kaigata.core.nest.overlap import depth_between
from kaigata.core.nest.shapes import convex_pieces
from kaigata.core.nest.table import ShapeTable, Way
from kaigata.core.plane import Contour, Motion, Region
from tests.core.nest.given import QUARTERS, bench_of, filled, order_of
from tests.strategies import stars

SHEET = StockSheet(id="sheet", width=3000, height=3000)


def shapes_of(*regions, turns=QUARTERS, may_mirror=False, spacing=3.0):
    parts = tuple(
        NestPart(id=f"part {i}", quantity=1, region=r, turns=turns, may_mirror=may_mirror)
        for i, r in enumerate(regions)
    )
    order = NestOrder(sheets=(SHEET,), parts=parts, spacing=spacing, margin=10.0)
    return ShapeTable(order, parts, [SHEET])


def polygon_of(shapes, way):
    outer, *holes = shapes.rings(int(shapes.table.kind[way]), way)
    return Polygon(outer, holes)


def overlap_of(shapes, v, w, x, y):
    """The area that way w at (x, y) and way v at 0,0 share, of shapes that lie in no hole."""
    one, other = polygon_of(shapes, v), affinity.translate(polygon_of(shapes, w), x, y)
    return one.intersection(other).area


@settings(max_examples=15, deadline=None)
@given(stars(), stars(), st.integers(0, 2**16))
def test_inside_is_where_two_shapes_overlap(one, other, seed):
    shapes = shapes_of(Region(one), Region(other))
    table, draw = shapes.table, np.random.default_rng(seed)
    for _ in range(40):
        v, w = (int(i) for i in draw.integers(len(table.kind), size=2))
        x, y = draw.uniform(-400, 400, 2)
        depth = depth_between(table, v, 0.0, 0.0, w, x, y)
        area = overlap_of(shapes, v, w, x, y)
        if depth == 0:
            assert area < 0.5
        elif depth > 0.1:
            assert area > 0


@settings(max_examples=10, deadline=None)
@given(stars(), stars(), st.integers(0, 2**16))
def test_moving_out_by_the_depth_ends_the_overlap(one, other, seed):
    """A move as long as the depth leads out one way or other, and none that is much shorter."""
    shapes = shapes_of(Region(one), Region(other))
    table, draw = shapes.table, np.random.default_rng(seed)
    v, w = 0, int(table.first[1])
    x, y = draw.uniform(-60, 60, 2)
    depth = depth_between(table, v, 0.0, 0.0, w, x, y)
    around = np.linspace(0, 2 * np.pi, 360, endpoint=False)

    def least_left(by):
        return min(
            depth_between(table, v, 0.0, 0.0, w, x + by * np.cos(a), y + by * np.sin(a))
            for a in around
        )

    if depth > 1:
        # Half a degree beside the way out it may still be in by as much as that leads astray.
        assert least_left(1.002 * depth + 0.01) < 0.01 * depth
        assert least_left(0.98 * depth) > 0


@pytest.mark.parametrize("may_mirror", [False, True])
def test_which_of_two_lies_makes_no_difference(may_mirror):
    corner = Contour.from_rows([(0, 0), (200, 0), (200, 40), (60, 40), (60, 150), (0, 150)])
    hook = Contour.from_rows([(0, 0), (90, 0), (90, 120), (60, 120), (60, 30), (0, 30)])
    shapes = shapes_of(Region(corner), Region(hook), may_mirror=may_mirror)
    table, draw = shapes.table, np.random.default_rng(3)
    met = 0
    for _ in range(600):
        v, w = (int(i) for i in draw.integers(len(table.kind), size=2))
        x, y = draw.uniform(-220, 220, 2)
        depth = depth_between(table, v, 0.0, 0.0, w, x, y)
        assert depth_between(table, w, x, y, v, 0.0, 0.0) == pytest.approx(depth, abs=1e-9)
        met += depth > 0

    assert met > 100


def test_a_polygon_is_made_once_for_all_ways_that_lie_so_beside_each_other():
    corner = Contour.from_rows([(0, 0), (200, 0), (200, 40), (60, 40), (60, 150), (0, 150)])
    hook = Contour.from_rows([(0, 0), (90, 0), (90, 120), (60, 120), (60, 30), (0, 30)])
    shapes = shapes_of(Region(corner), Region(hook))
    table, fits = shapes.table, shapes.table.fits
    assert fits.used[0] == 0

    for v in range(len(table.kind)):
        for w in range(len(table.kind)):
            depth_between(table, v, 0.0, 0.0, w, 5.0, 5.0)

    # Four turns of each beside itself, and four of one beside the other.
    assert fits.used[0] == 12
    assert (fits.pair[table.rank[:, None] <= table.rank] >= 0).all()


def test_with_little_room_polygons_are_forgotten_and_come_out_the_same(monkeypatch):
    order = order_of("mix-60")
    ample = bench_of(order)
    monkeypatch.setattr(nofit, "_PLANES", 40_000)
    scarce = bench_of(order)

    one, other = (
        tightened(bench, filled(bench), 0, Hand(1), Bout(None, 3)) for bench in (ample, scarce)
    )

    assert np.array_equal(one.loads[0].way, other.loads[0].way)
    assert np.array_equal(one.loads[0].at, other.loads[0].at)
    assert scarce.table.fits.used[2] <= 40_000 < ample.table.fits.used[2]


def test_without_room_for_one_polygon_it_is_said(monkeypatch):
    monkeypatch.setattr(nofit, "_PLANES", 200)

    with pytest.raises(LimitError, match="fewer corners"):
        search(order_of("mix-60"), steps=1)


def test_a_hole_is_free_for_what_fits_and_closed_for_what_does_not():
    ring = Region(Contour.circle((0, 0), 200), (Contour.circle((0, 0), 150).reversed(),))
    small, large = Region(Contour.rectangle(120, 90)), Region(Contour.rectangle(320, 90))
    shapes = shapes_of(ring, small, large)
    table = shapes.table
    ways = [int(table.first[k]) for k in range(3)]

    assert depth_between(table, ways[0], 0.0, 0.0, ways[1], -60.0, -45.0) == 0
    assert depth_between(table, ways[0], 0.0, 0.0, ways[1], 60.0, 60.0) > 0
    assert depth_between(table, ways[0], 0.0, 0.0, ways[2], -160.0, -45.0) > 0
    assert shapes.holds.tolist()[0][:3] == [False, True, False]
    twin = shapes.closed[0]
    closed = int(table.first[twin])
    assert depth_between(table, closed, 0.0, 0.0, ways[1], -60.0, -45.0) > 100


def test_turns_that_show_the_same_shape_are_one_way():
    disc, square = Region(Contour.circle((30, 0), 50)), Region(Contour.rectangle(80, 80))
    plate = Region(Contour.rectangle(120, 80))
    corner = Region(Contour.from_rows([(0, 0), (90, 0), (90, 30), (30, 30), (30, 90), (0, 90)]))
    shapes = shapes_of(disc, square, plate, corner, may_mirror=True)
    table = shapes.table

    assert (table.last - table.first)[:4].tolist() == [1, 1, 2, 4]


def test_a_turn_left_out_is_known_by_the_one_that_shows_the_same():
    plate = Region(Contour.rectangle(120, 80).moved(Motion(x=7, y=-3)))
    shapes = shapes_of(plate)

    way, dx, dy = shapes.known(Way("part 0", mirrored=False, turn=np.pi))

    shown = polygon_of(shapes, way)
    wanted = affinity.rotate(polygon_of(shapes, int(shapes.table.first[0])), 180, origin=(0, 0))
    assert affinity.translate(shown, dx, dy).symmetric_difference(wanted).area < 1e-6
    with pytest.raises(KeyError):
        shapes.known(Way("part 0", mirrored=False, turn=0.3))


def test_a_remnant_bounded_by_arcs_takes_few_pieces_and_none_lies_beyond_it():
    bulge = 0.3
    outline = Contour.from_rows([(0, 0, -0.05), (600, 0, bulge), (560, 400, -bulge), (0, 400, 0.1)])
    remnant = StockSheet(id="remnant", width=760, height=440, count=1, outline=outline)
    square = NestPart(id="square", quantity=1, region=Region(Contour.rectangle(60, 60)))
    order = NestOrder(sheets=(remnant,), parts=(square,), spacing=4.0, margin=6.0)

    shapes = ShapeTable(order, [square], [remnant])

    outside = shapes.grown[0]
    room = outline.polygon().buffer(-(6.0 - 2.0), join_style="mitre")
    assert len(convex_pieces(outside)) < 60
    assert outside.intersection(room).area < 0.5 * room.length
    assert outside.union(room).buffer(1e-4).contains(outline.polygon())
    assert room.boundary.difference(outside.buffer(1e-3)).length < 1e-6


def test_remnants_keep_parts_inside_their_outline():
    """What lies outside of a remnant's room is a shape too, and an obstacle."""
    outline = Contour.from_rows([(0, 0), (600, 0), (600, 200), (300, 200), (300, 400), (0, 400)])
    remnant = StockSheet(id="remnant", width=600, height=400, count=1, outline=outline)
    part = NestPart(id="part", quantity=1, region=Region(Contour.rectangle(100, 60)), turns=(0.0,))
    order = NestOrder(sheets=(remnant,), parts=(part,), spacing=4.0, margin=10.0)
    shapes = ShapeTable(order, [part], [remnant])
    table, way = shapes.table, int(shapes.table.first[1])
    room = outline.polygon().buffer(-10, join_style="mitre")
    draw, free = np.random.default_rng(1), 0
    for x, y in draw.uniform((-50, -50), (600, 400), (2000, 2)):
        depth = depth_between(table, shapes.obstacle["remnant"], 0.0, 0.0, way, x, y)
        true = Polygon([(x, y), (x + 100, y), (x + 100, y + 60), (x, y + 60)])
        if depth == 0:
            free += 1
            assert room.buffer(0.01).contains(true)
        elif depth > 0.02:
            assert not room.contains(true)

    assert free > 100


def test_an_inner_point_lies_in_the_metal_in_every_way():
    bench = bench_of(order_of("mix-60"))
    shapes = bench.shapes
    for w in range(len(bench.table.kind)):
        kind = int(bench.table.kind[w])
        assert polygon_of(shapes, w).contains(Point(*shapes.inner_point(kind, w)))


def test_a_disc_is_one_way_unless_a_hole_that_holds_something_lies_beside_its_middle():
    """What lies in that hole must stay in it when a nest is gone on with."""
    disc = Contour.circle((0, 0), 150)
    middle, beside = (Contour.circle((x, 0), 70).reversed() for x in (0, 50))
    small = Contour.circle((100, 0), 5).reversed()
    plate = Region(Contour.rectangle(60, 60))
    shapes = shapes_of(Region(disc, (middle, small)), Region(disc, (beside,)), plate)

    assert (shapes.table.last - shapes.table.first)[:3].tolist() == [1, 4, 1]
    way, dx, dy = shapes.known(Way("part 1", mirrored=False, turn=np.pi / 2))
    hole = Polygon(shapes.rings(1, way)[1])
    assert hole.contains(Point(dx, 50 + dy))


def test_a_spacing_of_next_to_nothing_is_none():
    shapes = shapes_of(Region(Contour.rectangle(60, 40)), spacing=1e-300)

    assert shapes.grown[0].area == pytest.approx(2400)
