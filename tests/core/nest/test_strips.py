"""Strips may only rule out places that the no-fit polygons rule out too."""

import numpy as np
import pytest

from kaigata.core.nest.overlap import depth_between
from kaigata.core.nest.strips import free_from, make_solids, make_walls, wall_up
from tests.core.nest.given import bench_of, filled, order_of

ROOM_TO_WORK = np.empty((2, 48, 2))


def square(x0, y0, x1, y1):
    return np.array([(x0, y0), (x1, y0), (x1, y1), (x0, y1), (x0, y0)], dtype=float)


@pytest.mark.parametrize("name", ["mix-60", "jigsaw-gap-16", "mix-200"])
def test_strips_rule_out_no_place_that_is_free(name):
    bench = bench_of(order_of(name))
    table, load = bench.table, filled(bench).loads[0]
    draw = np.random.default_rng(4)
    load = load.without(draw.permutation(len(load))[: len(load) // 2])
    room = bench.room(load.sheet)[None, :]
    walls = make_walls(
        bench.sheets[load.sheet].width, room, float(np.abs(table.reach - table.hull).max())
    )
    for w, (x, y) in zip(load.way, load.at, strict=True):
        wall_up(table.solids, walls, 0, w, x + table.hull[w, 0], y)
    free = ruled_out = 0
    for _ in range(3000):
        w = int(draw.integers(len(table.kind)))
        low, high = room[0, :2] - table.reach[w, :2], room[0, 2:] - table.reach[w, 2:]
        if np.any(high < low):
            continue
        x, y = low + draw.random(2) * (high - low)
        left = x + table.hull[w, 0]
        goes = free_from(table.solids, walls, 0, w, left, left + 40.0, ROOM_TO_WORK)
        overlaps = any(
            depth_between(table, v, *at, w, x, y) > 0
            for v, at in zip(load.way, load.at, strict=True)
        )
        free += not overlaps
        ruled_out += goes > left
        assert overlaps or goes == left

    assert free > 50
    assert ruled_out > 50


def test_a_gap_is_found_where_every_strip_leaves_it():
    """Between two posts is a slot: what is lower goes through, what is not waits."""
    post, low_bar, high_bar = square(0, 0, 20, 60), square(0, 0, 30, 35), square(0, 0, 30, 45)
    solids = make_solids([[post], [low_bar], [high_bar]])
    walls = make_walls(200.0, np.array([[0.0, 0.0, 200.0, 160.0]]), 0.0)
    wall_up(solids, walls, 0, 0, 50.0, 0.0)
    wall_up(solids, walls, 0, 0, 50.0, 100.0)

    assert free_from(solids, walls, 0, 1, 40.0, 150.0, ROOM_TO_WORK) == 40.0
    assert free_from(solids, walls, 0, 2, 40.0, 150.0, ROOM_TO_WORK) == 70.0
    assert free_from(solids, walls, 0, 2, 40.0, 60.0, ROOM_TO_WORK) == 60.0


def test_a_hole_and_a_slope_are_not_solid():
    ring = [square(0, 0, 40, 40), square(10, 10, 30, 30)[::-1]]
    wedge = [np.array([(0, 0), (40, 0), (40, 40), (0, 0)], dtype=float)]
    solids = make_solids([ring, wedge])

    middle = slice(*solids.first[[4, 5]])
    assert solids.stretch[middle].tolist() == [[0, 10], [30, 40]]
    slope = slice(*solids.first[[solids.strip[1] + 4, solids.strip[1] + 5]])
    assert solids.stretch[slope].tolist() == [[0, 20]]
