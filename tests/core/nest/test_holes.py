"""Holes filled from a stock of inlays, and parts that move together with what lies in them."""

import itertools
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest
from scipy.optimize import OptimizeResult
from shapely.geometry import Point, Polygon

from kaigata.core.nest import NestOrder, NestPart, StockSheet
from kaigata.core.nest.bench import Layout
from kaigata.core.nest.holes import dealt, found_for, holes_of, kept
from kaigata.core.nest.inlays import items_of
from kaigata.core.nest.plans import build, changed, first_plan
from kaigata.core.nest.rules import broken_rules
from kaigata.core.nest.score import charge_of
from kaigata.core.nest.sealing import opened, sealed
from kaigata.core.plane import Contour, Motion, Region
from tests.core.nest.given import NOTHING, QUARTERS, bench_of, broken, copies, filled, order_of


@pytest.fixture(scope="module")
def given():
    """Two hundred copies, of which 45 have holes, and a stock of what fills these."""
    order = order_of("mix-200")
    bench = bench_of(order)
    draw = np.random.default_rng(5)
    found = [found_for(bench, *hole, draw) for _ in range(12) for hole in holes_of(bench)]
    return order, bench, kept(filter(None, found))


def test_every_hole_that_can_hold_a_part_is_named(given):
    _, bench, _ = given
    least = min(p.region.outer.area for p in bench.parts)

    for host, hole in holes_of(bench):
        part = bench.parts[host - bench.first]
        large = [h for h in part.region.holes if -h.area > least]
        assert hole < len(large)
    with_holes = {h for h, _ in holes_of(bench)}
    for k in bench.open_shapes:
        if k not in with_holes:
            assert not bench.shapes.holds[k].any()


def test_guests_lie_in_the_hole_in_every_turn_of_their_host(given):
    _, bench, stock = given
    assert len(stock) > 50

    for inlay in stock:
        first = bench.table.first[inlay.host]
        for j in range(bench.table.last[inlay.host] - first):
            ring = bench.shapes.rings(inlay.host, first + j)[1 + inlay.hole]
            hole = Polygon(ring).buffer(0.02)
            for guest, (way, x, y) in zip(inlay.guests, inlay.seats[:, j], strict=True):
                outline = bench.shapes.rings(guest, int(way))[0] + (x, y)
                assert hole.contains(Polygon(outline))


def test_guests_may_only_turn_along_as_they_may_turn():
    ring = Region(Contour.rectangle(400, 300), (Contour.rectangle(340, 240).moved(
        Motion(x=30, y=30)).reversed(),))  # fmt: skip
    order = NestOrder(
        sheets=(StockSheet(id="sheet", width=1000, height=1000, count=1),),
        parts=(
            NestPart(id="ring", quantity=2, region=ring, turns=QUARTERS[:2]),
            NestPart(id="plate", quantity=4, region=Region(Contour.rectangle(200, 90)),
                     turns=QUARTERS[:1]),
        ),
        spacing=5.0, margin=10.0,
    )  # fmt: skip
    bench = bench_of(order)
    [(host, hole)] = holes_of(bench)

    draw = np.random.default_rng(1)
    inlay = next(filter(None, (found_for(bench, host, hole, draw) for _ in range(20))))

    assert (inlay.seats[:, 0, 0] >= 0).all()
    assert (inlay.seats[:, 1, 0] == -1).all()


def test_no_copy_is_dealt_twice(given):
    _, bench, stock = given
    draw = np.random.default_rng(2)

    for power, noise in ((1.0, 0.0), (1.6, 0.2)):
        used = dealt(bench, stock, (), power, noise, draw)
        again = dealt(bench, stock, used[: len(used) // 2], power, noise, draw)
        for inlays in (used, again):
            assert not Counter(k for x in inlays for k in x.guests) - bench.wanted()
            holes = Counter((x.host, x.hole) for x in inlays)
            assert all(n <= bench.quantity[host] for (host, _), n in holes.items())
    assert dealt(bench, (), (), 1.0, 0.0, draw) == ()


def test_what_is_dealt_is_worth_the_most(given):
    """More area in holes than by giving the best away first."""
    _, bench, stock = given
    draw = np.random.default_rng(2)
    free, hosts, greedy = bench.wanted(), Counter(), 0.0
    for inlay in sorted(stock, key=lambda x: -x.area):
        while hosts[inlay.host, inlay.hole] < bench.quantity[inlay.host] and not (
            Counter(inlay.guests) - free
        ):
            free -= Counter(inlay.guests)
            hosts[inlay.host, inlay.hole] += 1
            greedy += inlay.area

    assert sum(x.area for x in dealt(bench, stock, (), 1.0, 0.0, draw)) >= greedy


def test_without_an_answer_of_the_programme_the_best_are_dealt_first(given, monkeypatch):
    _, bench, stock = given
    draw = np.random.default_rng(2)
    best = sum(x.area for x in dealt(bench, stock, (), 1.0, 0.0, draw))
    monkeypatch.setattr("kaigata.core.nest.holes.linprog", lambda *_, **__: OptimizeResult(x=None))

    used = dealt(bench, stock, (), 1.0, 0.0, draw)

    assert not Counter(k for x in used for k in x.guests) - bench.wanted()
    assert 0.8 * best < sum(x.area for x in used) <= best + 1e-6


def test_items_hold_every_copy_once_and_guests_after_their_hosts(given):
    _, bench, stock = given
    inlays = dealt(bench, stock, (), 1.0, 0.0, np.random.default_rng(1))

    items = items_of(first_plan(bench).sequence, bench.wanted(), inlays)

    assert Counter(items.kind.tolist()) == bench.wanted()
    guests = np.flatnonzero(items.host >= 0)
    assert len(guests) == sum(len(x.guests) for x in inlays)
    assert (items.host[guests] < guests).all()
    few = items_of(first_plan(bench).sequence, Counter({inlays[0].host: 1}), inlays)
    assert few.kind.tolist() == [inlays[0].host]


def test_a_filling_lays_inlays_along_and_keeps_every_rule(given):
    order, bench, stock = given
    inlays = dealt(bench, stock, (), 1.0, 0.0, np.random.default_rng(1))

    layout = build(bench, replace(first_plan(bench), inlays=inlays), NOTHING, lambda: False)

    assert copies(bench, layout) == bench.wanted()
    assert not broken(order, bench, layout)
    in_holes = sum(len(i.guests) for x in sealed(bench, layout, {}).inside for i in x)
    assert in_holes >= 0.9 * sum(len(x.guests) for x in inlays)


def test_changed_plans_fill_holes_otherwise(given):
    _, bench, stock = given
    plan, draw, seen = first_plan(bench), np.random.default_rng(3), set()
    for _ in range(12):
        plan = changed(bench, plan, stock, (), draw)
        seen.add(plan.inlays)
        assert not Counter(k for x in plan.inlays for k in x.guests) - bench.wanted()
        assert charge_of(bench, build(bench, plan, NOTHING, lambda: False).loads) > 0

    assert len(seen) > 3


def test_what_is_sealed_and_opened_is_as_it_was(given):
    _, bench, _ = given
    layout = filled(bench)

    before = sealed(bench, layout, {})
    same = opened(bench, before, before.layout)

    gone = sum(map(len, layout.loads)) - sum(map(len, before.layout.loads))
    assert gone == sum(len(i.guests) for x in before.inside for i in x) > 60
    assert all(a is b for a, b in zip(same.loads, layout.loads, strict=True))
    assert not same.left_out


def test_guests_go_where_their_hosts_go(given):
    """Sealed parts of a shape change places and turn; all still lie apart and none is lost."""
    order, bench, _ = given
    layout = filled(bench)
    before = sealed(bench, layout, {})
    twins = set(bench.closed.values())

    moved = []
    for load in before.layout.loads:
        kinds, way, at = bench.kinds(load), load.way.copy(), load.at.copy()
        for i, kind in enumerate(kinds.tolist()):
            half_turned = way[i] + 2
            if kind in twins and half_turned < bench.table.last[kind]:
                # A half turn about the middle of its bounds.
                a, b = bench.table.hull[way[i]], bench.table.hull[half_turned]
                at[i] += (a[:2] + a[2:] - b[:2] - b[2:]) / 2
                way[i] = half_turned
        moved.append(replace(load, way=way, at=at))
    after = opened(bench, before, Layout(tuple(moved), Counter()))

    assert copies(bench, after) == copies(bench, layout)
    assert any(not np.array_equal(a.way, b.way)
               for a, b in zip(before.layout.loads, moved, strict=True))  # fmt: skip
    # Parts that are not the same turned round may now overlap others, but no guest does: those
    # come after all that was moved.
    for load, made in zip(moved, after.loads, strict=True):
        rules = broken_rules(order, bench.sheets[made.sheet], bench.placements(made))
        assert not [r for r in rules if max(r.rows) >= len(load)]


def test_sheets_that_look_alike_when_sealed_keep_their_own_guests(given):
    _, bench, stock = given
    one, other = next(
        (a, b)
        for a, b in itertools.pairwise(stock)
        if (a.host, a.hole) == (b.host, b.hole) and sorted(a.guests) != sorted(b.guests)
    )
    what = {"sequence": first_plan(bench).sequence, "fresh": list(bench.sheets)[:1]}
    loads = [
        bench.fill((), Counter([x.host, *x.guests]), inlays=[x], **what).loads[0]
        for x in (one, other)
    ]
    layout = Layout(tuple(loads), Counter())

    before = sealed(bench, layout, {})
    after = opened(bench, before, before.layout)

    first, second = before.layout.loads
    assert np.array_equal(first.way, second.way)
    assert np.array_equal(first.at, second.at)
    assert copies(bench, after) == copies(bench, layout)


def test_a_sealed_part_without_a_place_is_laid_anew_with_its_guests(given):
    order, bench, _ = given
    layout = filled(bench)
    before = sealed(bench, layout, {})
    load = before.layout.loads[0]
    row = next(i for i, k in enumerate(bench.kinds(load)) if k in bench.closed.values())
    off = Counter([int(bench.kinds(load)[row])])

    less = Layout((load.without([row]), *before.layout.loads[1:]), off)
    after = opened(bench, before, less)

    assert copies(bench, after) == copies(bench, layout)
    assert not after.left_out
    assert not broken(order, bench, after)


def test_what_must_stay_is_not_sealed(given):
    _, bench, _ = given
    layout = filled(bench)
    fixed = Layout(
        tuple(replace(x, fixed=np.ones(len(x), dtype=bool)) for x in layout.loads), Counter()
    )

    assert not any(sealed(bench, fixed, {}).inside)


def test_a_closed_shape_lets_nothing_into_its_holes(given):
    _, bench, _ = given
    table = bench.table
    host = max(bench.closed, key=lambda k: bench.area[k])
    twin, small = bench.closed[host], min(bench.open_shapes, key=lambda k: bench.area[k])
    load = filled(bench).loads[0]
    w = table.first[host]
    lying = replace(load, way=np.array([w]), at=np.array([[50.0, 50.0]]), fixed=np.array([True]))
    hole = bench.shapes.rings(host, w)[1] + (50.0, 50.0)
    room = np.concatenate([hole.min(axis=0), hole.max(axis=0)])
    what = {"sequence": [small], "rooms": [room]}

    within = bench.fill([lying], Counter({small: 1}), **what)
    closed = replace(lying, way=np.array([table.first[twin]]))
    without = bench.fill([closed], Counter({small: 1}), **what)

    assert not within.left_out
    assert Polygon(hole).contains(
        Point(*(within.loads[0].at[1] + bench.shapes.inner_point(small, within.loads[0].way[1])))
    )
    assert without.left_out[small] == 1
