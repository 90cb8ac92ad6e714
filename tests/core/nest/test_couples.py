"""Copies of one shape laid by twos."""

from collections import Counter
from dataclasses import replace
from threading import Thread

import numpy as np
import pytest
from shapely.geometry import Polygon

from kaigata.core.nest import NestOrder, NestPart, StockSheet
from kaigata.core.nest.couples import couples_of
from kaigata.core.nest.inlays import items_of
from kaigata.core.nest.plans import build, changed, first_plan
from kaigata.core.plane import Contour, Region
from tests.core.nest.given import NOTHING, QUARTERS, bench_of, broken, copies, filled, order_of


def order_with(outline, quantity, turns=QUARTERS, size=(1000, 500)):
    part = NestPart(
        id="part", quantity=quantity, region=Region(Contour.from_rows(outline)), turns=turns
    )
    sheet = StockSheet(id="sheet", width=size[0], height=size[1], count=3)
    return NestOrder(sheets=(sheet,), parts=(part,), spacing=4.0, margin=10.0)


@pytest.fixture(scope="module")
def given():
    """Sixty copies, angles and hooks among them, at four turns."""
    order = order_of("mix-60")
    bench = bench_of(order)
    return order, bench, couples_of(bench)


def outlines(bench, couple, j):
    """The grown outlines of both copies, the first in the j-th of its ways."""
    first = int(bench.table.first[couple.shape]) + j
    way, x, y = couple.seats[j]
    return (
        Polygon(bench.shapes.rings(couple.shape, first)[0]),
        Polygon(bench.shapes.rings(couple.shape, int(way))[0] + (x, y)),
    )


def test_two_right_angled_triangles_make_a_rectangle():
    order = order_with([(0, 0), (200, 0), (0, 120)], 4)
    bench = bench_of(order)

    (couple,) = couples_of(bench)

    one, other = outlines(bench, couple, 0)
    both = one.union(other)
    x0, y0, x1, y1 = both.bounds
    # Only what the mitred corners of the grown triangles reach over is lost.
    assert 2 * one.area / ((x1 - x0) * (y1 - y0)) > 0.9


@pytest.mark.parametrize(
    ("outline", "quantity", "turns"),
    [
        ([(0, 0), (200, 0), (200, 120), (0, 120)], 4, QUARTERS),
        ([(0, 0), (200, 0), (0, 120)], 1, QUARTERS),
        ([(0, 0), (200, 0), (0, 120)], 4, QUARTERS[:1]),
    ],
    ids=["rectangles gain nothing", "one copy has no other", "a triangle that may not turn"],
)
def test_no_couple_where_two_are_no_denser_than_one(outline, quantity, turns):
    assert not couples_of(bench_of(order_with(outline, quantity, turns)))


def test_both_touch_and_do_not_overlap_in_every_turn(given):
    _, bench, couples = given
    assert len(couples) > 3

    for couple in couples:
        bounds = []
        for j in range(len(couple.seats)):
            one, other = outlines(bench, couple, j)
            assert one.intersection(other).area < 0.02 * one.length
            assert one.distance(other) < 0.01
            x0, y0, x1, y1 = one.union(other).bounds
            bounds.append((x1 - x0) * (y1 - y0))
        assert max(bounds) - min(bounds) < 1e-3 * max(bounds)


def test_every_second_copy_goes_along_with_the_one_before_it(given):
    _, bench, couples = given
    sequence = first_plan(bench).sequence

    items = items_of(sequence, bench.wanted(), (), couples)

    assert Counter(items.kind.tolist()) == bench.wanted()
    hosts = np.flatnonzero(items.mate >= 0)
    assert (items.host[items.mate[hosts]] == hosts).all()
    assert (items.kind[items.mate[hosts]] == items.kind[hosts]).all()
    of_shape = Counter(items.kind[hosts].tolist())
    assert of_shape == {c.shape: bench.wanted()[c.shape] // 2 for c in couples}


def test_a_filling_by_twos_has_every_copy_and_keeps_every_rule(given):
    order, bench, couples = given

    layout = build(bench, replace(first_plan(bench), couples=couples), NOTHING, lambda: False)

    assert copies(bench, layout) == bench.wanted()
    assert not broken(order, bench, layout)


def test_laid_by_twos_triangles_fill_the_sheet_better():
    order = order_with([(0, 0), (230, 0), (0, 150)], 18, QUARTERS[::2], size=(1000, 540))
    bench = bench_of(order)
    plan = first_plan(bench)

    by_twos = filled(bench, replace(plan, couples=couples_of(bench)))

    assert copies(bench, by_twos) == bench.wanted()
    assert not broken(order, bench, by_twos)
    (load,) = by_twos.loads
    # Nine rectangles, grown by their spacing, in three columns.
    assert bench.used_length(load) < 3 * (230 + 15) + 20


def test_where_two_find_no_room_one_is_laid_alone():
    order = order_with([(0, 0), (200, 0), (0, 200)], 2, size=(230, 230))
    bench = bench_of(order)

    layout = filled(bench, replace(first_plan(bench), couples=couples_of(bench)))

    assert copies(bench, layout) == bench.wanted()
    assert not broken(order, bench, layout)
    assert sum(len(x) for x in layout.loads) == 2


def test_a_walk_of_two_at_any_angle_comes_to_an_end():
    # Adding an offset and taking it off again may move a place by a hair; that must not go on.
    order = order_of("mix-60-any")
    bench = bench_of(order)
    couples, draw = couples_of(bench), np.random.default_rng(7)
    layouts = []

    def lay():
        plan = replace(first_plan(bench), couples=couples)
        for _ in range(8):
            plan = changed(bench, plan, (), couples, draw)
            layouts.append(filled(bench, plan))

    laying = Thread(target=lay, daemon=True)
    laying.start()
    laying.join(60)

    assert not laying.is_alive()
    assert all(copies(bench, layout) == bench.wanted() for layout in layouts)


def test_changed_plans_lay_other_shapes_by_twos(given):
    _, bench, couples = given
    plan, draw, seen = first_plan(bench), np.random.default_rng(3), set()
    for _ in range(30):
        plan = changed(bench, plan, (), couples, draw)
        seen.add(tuple(c.shape for c in plan.couples))

    assert len(seen) > 5
    assert not any(changed(bench, plan, (), (), draw).couples for _ in range(5))


def test_the_second_of_two_is_not_laid_beyond_the_sheet():
    order = order_with([(0, 0), (230, 0), (0, 150)], 4, QUARTERS[::2], size=(252, 172))
    bench = bench_of(order)

    layout = filled(bench, replace(first_plan(bench), couples=couples_of(bench)))

    # One alone has just room on each of the three sheets.
    assert [len(load) for load in layout.loads] == [1, 1, 1]
    assert layout.left_out.total() == 1
    assert not broken(order, bench, layout)
