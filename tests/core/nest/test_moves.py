"""Moves of the searchers: no copy is lost or doubled, no rule broken, and less metal in the end."""

from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from kaigata.core.nest.bench import Layout
from kaigata.core.nest.improve import Bout, Hand, tighten
from kaigata.core.nest.jobs import Job, Move, Outcome, do_job
from kaigata.core.nest.moves import brought_in, refilled, tightened, united, without_small
from kaigata.core.nest.plans import first_plan
from kaigata.core.nest.portions import portions_of
from kaigata.core.nest.race import Race
from kaigata.core.nest.rules import RuleBook
from kaigata.core.nest.score import charge_of, last_of, score
from kaigata.core.plane import Contour
from tests.core.nest.given import bench_of, broken, copies, filled, order_of


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


def pulled(bench, layout, hand, bout, *, stay=1.0):
    """What one searcher makes of a whole layout."""
    [whole] = portions_of(bench, layout, 1, hand.draw)
    return united(bench, layout, [(whole, brought_in(bench, layout, whole, stay, hand, bout))])


@pytest.mark.parametrize(
    "move",
    [
        lambda *what: tightened(what[0], what[1], 0, *what[2:]),
        lambda *what: tightened(what[0], what[1], 1, *what[2:]),
        pulled,
        lambda *what: pulled(*what, stay=0.8),
    ],
    ids=["tighten", "tighten beside", "pull", "pull without small"],
)
def test_a_move_keeps_every_copy_and_every_rule(given, move):
    order, bench, layout = given

    after = move(bench, layout, Hand(5), attempts(6))

    assert copies(bench, after) == copies(bench, layout)
    assert not broken(order, bench, after)


def test_small_parts_that_stepped_aside_are_laid_again(given):
    order, bench, layout = given

    bare = Layout(tuple(without_small(bench, layout.loads, 0.7)), Counter())
    bare = replace(bare, left_out=copies(bench, layout) - copies(bench, bare))
    full = refilled(bench, bare)

    stay = sum(bench.area[k] for x in bare.loads for k in bench.kinds(x))
    whole = sum(bench.area[k] for x in layout.loads for k in bench.kinds(x))
    assert 0.65 * whole < stay < 0.95 * whole
    assert max(bench.area[k] for k in bare.left_out) <= min(
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


@pytest.mark.parametrize(
    "move", [Move("tighten", beside=1), Move("pull", stay=0.9), Move("reorder")]
)
def test_the_same_job_gives_the_same_layout(given, move):
    _, bench, layout = given
    job = Job(0, move, layout, first_plan(bench), seed=4, seconds=None, attempts=4)
    if move.kind == "pull":
        [whole] = portions_of(bench, layout, 1, np.random.default_rng(1))
        job = replace(job, portion=whole)

    one, other = (do_job(bench, job, lambda: False) for _ in range(2))

    assert score(bench, one.layout) == score(bench, other.layout)
    both = [x.brought or x.layout for x in (one, other)]
    for a, b in zip(*(x.loads for x in both), strict=True):
        assert np.array_equal(a.at, b.at)
    assert 1 <= one.made <= 4
    assert (one.brought is not None) == (move.kind == "pull")


def test_filling_in_other_sequences_finds_a_better_layout():
    bench = bench_of(order_of("kits-nofit"))
    first = filled(bench)
    job = Job(0, Move("reorder"), first, first_plan(bench), seed=3, seconds=None, attempts=40)

    found = do_job(bench, job, lambda: False)

    assert score(bench, found.layout) < score(bench, first)
    again = filled(bench, found.plan)
    assert score(bench, again) == score(bench, found.layout)


def race_of(order, bench, layout, seed=1):
    return Race(RuleBook(order), 0, bench, layout, may_reorder=False, seed=seed)


def done_by(bench, jobs, attempts):
    jobs = [replace(j, seed=i, seconds=None, attempts=attempts) for i, j in enumerate(jobs)]
    return jobs, [do_job(bench, j, lambda: False) for j in jobs]


def test_a_race_takes_what_is_better_and_breaks_no_rule(given):
    order, bench, layout = given
    race = race_of(order, bench, layout)
    jobs, done = done_by(bench, race.jobs(2, 0.0), 12)
    # All on one spot would need the least metal of all.
    heap = [replace(x, at=np.zeros_like(x.at)) for x in done[0].layout.loads]
    wrong = replace(done[0], layout=replace(done[0].layout, loads=tuple(heap)))

    assert race.take_in(jobs, done)
    best = race.best
    assert charge_of(bench, best.loads) < charge_of(bench, layout.loads)
    assert not race.take_in(jobs[:1], [wrong])
    assert race.best is best


@pytest.fixture(scope="module")
def many():
    """Two hundred copies on two full sheets and part of a third."""
    order = order_of("mix-200")
    bench = bench_of(order)
    return order, bench, filled(bench)


def test_a_race_does_sooner_again_what_gained(many):
    order, bench, layout = many
    race = race_of(order, bench, Layout(layout.loads[:3], Counter()))
    moves = []
    for _ in range(12):
        [job] = race.jobs(1, 0.0)
        moves.append(job.move)
        # Only pulls bring anything here: each takes the largest part off the last sheet.
        after = job.layout
        if job.move.kind == "pull":
            last = last_of(bench, after)
            largest = [np.argmax(bench.area[bench.kinds(after.loads[last])])]
            loads = list(after.loads)
            loads[last] = loads[last].without(largest)
            after = replace(after, loads=tuple(loads))
        race.take_in([job], [Outcome(after, job.plan, 1, 0.03)])

    told = Counter(m.kind for m in moves)
    assert {(m.beside, m.sealed) for m in moves if m.kind == "tighten"} >= {
        (0, False), (0, True), (1, True)
    }  # fmt: skip
    assert told["pull"] > told["tighten"]


@pytest.mark.parametrize("count", [2, 3])
def test_portions_have_nothing_in_common(many, count):
    _, bench, layout = many
    portions = portions_of(bench, layout, count, np.random.default_rng(3))

    moved = [
        (s.load, int(row))
        for p in portions
        for s in p.stretches
        for row in np.flatnonzero(s.inside(bench, layout))
    ]
    last = last_of(bench, layout)
    assert (
        len(moved)
        == len(set(moved))
        > 0.6 * sum(len(x) for i, x in enumerate(layout.loads) if i != last)
    )
    assert last not in {load for load, _ in moved}
    pool = Counter(k for p in portions for k in p.pool)
    assert pool == Counter(bench.kinds(layout.loads[last]).tolist())


def test_few_copies_are_one_portion_for_all(given):
    _, bench, layout = given
    one, other = portions_of(bench, layout, 2, np.random.default_rng(3))

    assert one == other
    assert len(one.pool) == len(layout.loads[last_of(bench, layout)])


@pytest.mark.parametrize("are_out", [False, True], ids=["on a last sheet", "left out"])
def test_what_two_bring_at_once_is_united_and_breaks_no_rule(many, are_out):
    order, bench, layout = many
    # There is room for some: the smallest parts have been taken off.
    bare = without_small(bench, layout.loads[:2], 0.97)
    off = copies(bench, layout) - copies(bench, Layout(tuple(bare), Counter()))
    loose = Layout(tuple(bare), off)
    if not are_out:
        fresh = (bare[0].sheet,) * 2
        last = bench.fill((), off, sequence=first_plan(bench).sequence, fresh=fresh)
        loose = Layout((*bare, last.loads[0]), Counter())
    portions = portions_of(bench, loose, 2, np.random.default_rng(1))
    assert portions[0] != portions[1]
    done = [
        (p, brought_in(bench, loose, p, 1.0, Hand(i), attempts(20))) for i, p in enumerate(portions)
    ]

    both = united(bench, loose, done)

    assert copies(bench, both) == copies(bench, loose)
    assert not broken(order, bench, both)
    alone = [united(bench, loose, [one]) for one in done]
    assert score(bench, both) < min(score(bench, one) for one in alone) < score(bench, loose)


def test_copies_left_out_are_laid_where_there_is_room_again(given):
    order, bench, layout = given
    bare = Layout(tuple(without_small(bench, layout.loads, 0.7)), Counter())
    off = copies(bench, layout) - copies(bench, bare)

    full = refilled(bench, replace(bare, left_out=off))

    assert off
    assert not full.left_out
    assert copies(bench, full) == copies(bench, layout)
    assert not broken(order, bench, full)
