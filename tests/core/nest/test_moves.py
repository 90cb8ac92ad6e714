"""Moves of the searchers: no copy is lost or doubled, no rule broken, and less metal in the end."""

from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from kaigata.core.nest.bench import Layout
from kaigata.core.nest.improve import Bout, Hand, tighten
from kaigata.core.nest.jobs import Job, do_job
from kaigata.core.nest.moves import pulled, refilled, tightened, without_small
from kaigata.core.nest.plans import first_plan
from kaigata.core.nest.race import Race
from kaigata.core.nest.rules import broken_rules
from kaigata.core.nest.score import charge_of, last_of, score
from kaigata.core.plane import Contour
from tests.core.nest.given import bench_of, filled, order_of


def on_sheets(width, count):
    """The sixty parts on shorter sheets than the order has."""
    order = order_of("mix-60")
    return replace(order, sheets=(replace(order.sheets[0], width=width, count=count),))


def on_a_remnant():
    """Twenty parts on an L-shaped remnant and, where it takes no more, a plain sheet."""
    order = order_of("mix-20")
    plain = order.sheets[0]
    corners = [(0, 0), (1500, 0), (1500, 700), (900, 700), (900, 1000), (0, 1000)]
    remnant = replace(plain, id="remnant", width=1500, count=1, outline=Contour.through(corners))
    return replace(order, sheets=(remnant, plain))


@pytest.fixture(scope="module", params=["two sheets", "a remnant"])
def given(request):
    order = on_sheets(1000.0, 4) if request.param == "two sheets" else on_a_remnant()
    bench = bench_of(order)
    layout = filled(bench)
    assert len(layout.loads) == 2
    return order, bench, layout


def copies(bench, layout):
    return Counter(int(k) for x in layout.loads for k in bench.kinds(x)) + layout.left_out


def broken(order, bench, layout):
    return [
        rule
        for x in layout.loads
        for rule in broken_rules(order, bench.sheets[x.sheet], bench.placements(x))
    ]


def attempts(count):
    return Bout(None, count)


def test_parts_change_over_to_another_sheet_while_the_last_is_shortened(given):
    order, bench, layout = given
    last = last_of(bench, layout)
    loads = [layout.loads[last], layout.loads[1 - last]]

    after = tighten(bench, loads, 0, Hand(3), attempts(12))

    assert bench.used_length(after[0]) < bench.used_length(loads[0])
    assert [x.sheet for x in after] == [x.sheet for x in loads]
    made = Layout(tuple(after), Counter())
    assert copies(bench, made) == copies(bench, layout)
    assert not broken(order, bench, made)
    changed = Counter(bench.kinds(after[1]).tolist()) - Counter(bench.kinds(loads[1]).tolist())
    assert changed, "nothing changed over"


def test_what_is_fixed_stays_where_it_is_while_others_change_over(given):
    _, bench, layout = given
    last = last_of(bench, layout)
    loads = [layout.loads[last], layout.loads[1 - last]]
    fixed = np.arange(len(loads[1])) < 4
    loads[1] = replace(loads[1], fixed=fixed)

    after = tighten(bench, loads, 0, Hand(3), attempts(8))

    where = {(int(w), *at) for w, at in zip(after[1].way, after[1].at.round(9).tolist(),
                                            strict=True)}  # fmt: skip
    for way, at in zip(loads[1].way[fixed], loads[1].at[fixed].round(9).tolist(), strict=True):
        assert (int(way), *at) in where
    assert after[1].fixed.sum() == 4


@pytest.mark.parametrize("move", [tightened, pulled])
def test_a_move_keeps_every_copy_and_every_rule(given, move):
    order, bench, layout = given

    after = move(bench, layout, Hand(5), attempts(6))

    assert copies(bench, after) == copies(bench, layout)
    assert not broken(order, bench, after)


def test_small_parts_that_stepped_aside_are_laid_again(given):
    order, bench, layout = given

    bare = without_small(bench, layout, 0.7)
    full = refilled(bench, bare)

    stay = sum(bench.area[k] for x in bare.loads for k in bench.kinds(x))
    whole = sum(bench.area[k] for x in layout.loads for k in bench.kinds(x))
    assert 0.65 * whole < stay < 0.95 * whole
    off = copies(bench, layout) - copies(bench, bare)
    assert max(bench.area[k] for k in off) <= min(
        bench.area[k] for x in bare.loads for k in bench.kinds(x)
    )
    assert copies(bench, full) == copies(bench, layout)
    assert not broken(order, bench, full)


def test_copies_left_out_are_squeezed_in():
    order = on_sheets(1400.0, 1)
    bench = bench_of(order)
    layout = filled(bench)
    assert layout.left_out

    after = pulled(bench, layout, Hand(2), attempts(60))

    assert after.left_out.total() < layout.left_out.total()
    assert copies(bench, after) == copies(bench, layout)
    assert not broken(order, bench, after)


@pytest.mark.parametrize("kind", ["tighten", "pull", "reorder"])
def test_the_same_job_gives_the_same_layout(given, kind):
    _, bench, layout = given
    job = Job(0, kind, layout, first_plan(bench), seed=4, seconds=None, attempts=4, stay=0.9)

    one, other = (do_job(bench, job, lambda: False) for _ in range(2))

    assert score(bench, one.layout) == score(bench, other.layout)
    for a, b in zip(one.layout.loads, other.layout.loads, strict=True):
        assert np.array_equal(a.at, b.at)
    assert 1 <= one.made <= 4


def test_filling_in_other_sequences_finds_a_better_layout():
    bench = bench_of(order_of("kits-nofit"))
    first = filled(bench)
    job = Job(0, "reorder", first, first_plan(bench), seed=3, seconds=None, attempts=40)

    found = do_job(bench, job, lambda: False)

    assert score(bench, found.layout) < score(bench, first)
    again = filled(bench, found.plan)
    assert score(bench, again) == score(bench, found.layout)


def test_a_race_takes_what_is_better_and_breaks_no_rule(given):
    order, bench, layout = given
    race = Race(order, 0, bench, layout, may_reorder=False)
    jobs = [replace(j, seconds=None, attempts=12) for j in race.jobs(2, 0.0)]
    assert {j.kind for j in jobs} == {"tighten", "pull"}
    done = [do_job(bench, j, lambda: False) for j in jobs]
    # All on one spot would need the least metal of all.
    heap = [replace(x, at=np.zeros_like(x.at)) for x in done[0].layout.loads]
    wrong = replace(done[0], layout=replace(done[0].layout, loads=tuple(heap)))

    assert race.take_in(jobs, done)
    best = race.best
    assert charge_of(bench, best.loads) < charge_of(bench, layout.loads)
    assert not race.take_in(jobs[:1], [wrong])
    assert race.best is best


def test_a_part_of_a_bout_ends_sooner():
    bout = attempts(10)
    part = bout.part(0.7)

    assert sum(1 for _ in iter(part.goes_on, False)) == 7
    assert not Bout(1e-9, None).part(0.5).goes_on()


def test_copies_left_out_are_laid_where_there_is_room_again(given):
    order, bench, layout = given
    bare = without_small(bench, layout, 0.7)
    off = copies(bench, layout) - copies(bench, bare)

    full = refilled(bench, replace(bare, left_out=off))

    assert off
    assert not full.left_out
    assert copies(bench, full) == copies(bench, layout)
    assert not broken(order, bench, full)
