"""The door of the engine: from an order to better and better nests within a time.

First every gauge is filled by its usual plan, which gives a complete nest at once, and once more
with the parts joined that only fit each other. Then come rounds: each gives every searcher a job,
takes in what came out, and offers the nest when it is better. At first gauges are filled in other
sequences. Then a gauge on one sheet is tightened; on several, the last sheet is tightened while its
parts (or what found no place) are squeezed into the others, and what is left of it is laid anew.
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable, Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from itertools import islice

import numpy as np

from kaigata.core.errors import InputError, Stopped
from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.crew import Crew, call_up
from kaigata.core.nest.figures import Nest, Placement, Unplaced, measured
from kaigata.core.nest.improve import is_shortest
from kaigata.core.nest.jobs import (
    Job,
    Outcome,
    build,
    first_plan,
    last_of,
    plans,
    score,
)
from kaigata.core.nest.joining import joined_order
from kaigata.core.nest.leftovers import (
    reason_left_out,
    taken_off,
    unused_sheets,
    with_fillers,
)
from kaigata.core.nest.order import NestOrder, gauge_name, require_usable
from kaigata.core.nest.rules import broken_rules
from kaigata.core.nest.table import Way

__all__ = ["Progress", "search"]

_ROUND, _REORDER_ROUND = 4.0, 1.0
"""Seconds a round lasts, and one that fills in other sequences."""
_LONG = 28.0
"""Seconds of a search from which on that holds; in a shorter one rounds are shorter alike."""
_WORTH_HELP = 2.0
"""Seconds below which a search is over before other processes have begun."""
_ATTEMPTS = 6
"""Attempts a job may make when attempts are counted."""
_JOINED = 0.15
"""Share of the time for the order with parts joined that only fit each other."""
_SHARES = (1.0, 0.75, 0.9, 0.6, 1.0, 0.8)
"""How much of the parts' area stays on the bench in a round; the smallest parts step aside."""
_MANY, _VERY_MANY = 40, 400
"""Copies of a gauge from which on the smallest step aside in some rounds, and from which on they do
not: laying so many again takes longer than it gains."""
_PLANS = 48
"""Plans that fewer than many copies are laid by before the first nest is given."""
_REORDERING, _REORDERING_ONE = 0.5, 0.2
"""Share of the time up to which a gauge is filled in other sequences: on several sheets, on one."""
_STALE = 3
"""Rounds of it in a row that found nothing, after which it ends sooner."""


@dataclass(frozen=True, slots=True)
class Progress:
    """A better nest, when it was found and after how many attempts."""

    nest: Nest
    seconds: float
    step: int


def search(
    order: NestOrder,
    *,
    seconds: float = 30.0,
    steps: int | None = None,
    seed: int = 7,
    workers: int = 1,
    start: Nest | None = None,
    locked: Collection[tuple[str, int]] = (),
    on_better: Callable[[Progress], None] = lambda progress: None,
    should_stop: Callable[[], bool] = lambda: False,
) -> Nest:
    """Return the best nest found for an order.

    The first nest is always finished, whatever the time.

    Parameters
    ----------
    order : NestOrder
        What to place on what.
    seconds : float
        How long to search.
    steps : int, optional
        Attempts to make instead of looking at the clock; then the same seed and the same number
        of workers give the same nest.
    seed : int
        Seed of the random numbers.
    workers : int
        Processes to search with.
    start : Nest, optional
        A nest to go on from; copies it does not place are placed first.
    locked : collection of (part, copy)
        Placements of ``start`` that stay where they are.
    on_better : callable
        Called with each better nest, the first one included.
    should_stop : callable
        Asked often; when it says yes the best nest so far is returned.

    Returns
    -------
    Nest
        The best nest; copies that found no place are listed with the reason.

    Raises
    ------
    InputError
        The order cannot be nested as it is.
    Stopped
        It was stopped before the first nest was complete.
    """
    require_usable(order)
    if seconds <= 0 or (steps is not None and steps < 1) or workers < 1:
        raise InputError(
            f"a search of {seconds:g} s, {steps} steps with {workers} workers cannot be",
            fix="Give at least one of each",
        )
    began = time.monotonic()
    if workers > 1 and seconds >= _WORTH_HELP:
        call_up()
    table = _Tables(order, start, frozenset(locked))
    book = _Book(table, seed, on_better, began, should_stop)
    book.begin()
    if start is None:
        _try_joined(order, book, seconds=seconds, steps=steps, seed=seed, workers=workers,
                    should_stop=should_stop)  # fmt: skip
    ends = None if steps is not None else began + seconds
    left = None if steps is None else steps - 1
    if left == 0 or not any(b.wanted().total() > 1 for b in table.benches):
        return book.nest
    for bench in table.benches:
        bench.prepare()
    alone = ends is not None and seconds < _WORTH_HELP
    crew = Crew(table.benches, 1 if alone else workers, should_stop)
    try:
        book.improve(crew, ends, left, seconds)
    finally:
        crew.close()
    return book.nest


def _try_joined(
    order: NestOrder,
    book: _Book,
    *,
    seconds: float,
    steps: int | None,
    seed: int,
    workers: int,
    should_stop: Callable[[], bool],
) -> None:
    """Nest the order with the parts joined that only fit each other, where there are such."""
    if steps == 1 or (together := joined_order(order)) is None:
        return
    with suppress(Stopped):
        nest = search(
            together.order, seconds=_JOINED * seconds,
            steps=None if steps is None else max(1, int(_JOINED * steps)),
            seed=seed, workers=workers, should_stop=should_stop,
        )  # fmt: skip
        book.take_up(together.apart(nest))


class _Tables:
    """The benches of an order and what lies on them at the start."""

    def __init__(
        self, order: NestOrder, start: Nest | None, locked: frozenset[tuple[str, int]]
    ) -> None:
        self.order = order
        self.gauges = order.gauges
        self.benches: list[Bench] = []
        self.start: list[Layout | None] = []
        gauge_of = {s.id: s.gauge for s in order.sheets}
        for gauge in self.gauges:
            parts = [p for p in order.parts if p.gauge == gauge]
            sheets = [s for s in order.sheets if s.gauge == gauge]
            lying = [s for s in (start.sheets if start else ()) if gauge_of[s.sheet] == gauge]
            extra = {Way(p.part, p.mirrored, p.turn) for s in lying for p in s.placements}
            bench = Bench(order, parts, sheets, extra)
            self.benches.append(bench)
            self.start.append(
                Layout(
                    tuple(
                        bench.load_of(s.sheet, s.placements, lambda p: (p.part, p.copy) in locked)
                        for s in lying
                    ),
                    Counter(),
                )
                if lying
                else None
            )


class _Book:
    """The best layout of each gauge, and the nest they make together."""

    def __init__(
        self,
        table: _Tables,
        seed: int,
        on_better: Callable[[Progress], None],
        began: float,
        should_stop: Callable[[], bool],
    ) -> None:
        self._table, self._seed, self._on_better = table, seed, on_better
        self._began, self._should_stop = began, should_stop
        self._layouts: list[Layout] = []
        self._shares = [0.03] * len(table.benches)
        self._plans = [first_plan(b) for b in table.benches]
        self._stale = [0] * len(table.benches)
        self._steps = 1
        self._round = 0
        self.nest: Nest

    def begin(self) -> None:
        """Lay everything once: what is given stays, the rest comes by the usual plan."""
        for bench, given in zip(self._table.benches, self._table.start, strict=True):
            self._layouts.append(self._sound(bench, self._first(bench, given)))
        self.nest = self._made()
        self._tell()

    def _first(self, bench: Bench, given: Layout | None) -> Layout:
        plan = first_plan(bench)
        if given is None:
            nothing = Layout((), Counter())
            built = build(bench, plan, nothing, self._should_stop)
            others = islice(plans(bench), 1, _PLANS)
            if bench.wanted().total() >= _MANY:
                # Each takes its time, so only where not all will fit: it matters which are left.
                some_out = any(self._fits_at_all(bench, k) for k in built.left_out)
                others = islice(others, 1 if some_out else 0)
            for other in others:
                again = build(bench, other, nothing, self._should_stop)
                built = self._better(bench, built, again)
        else:
            lying = Counter(int(k) for x in given.loads for k in bench.kinds(x))
            built = bench.fill(
                given.loads,
                bench.wanted() - lying,
                sequence=plan.sequence,
                fresh=unused_sheets(bench, given.loads),
                should_stop=self._should_stop,
            )
        return built

    def _sound(self, bench: Bench, layout: Layout) -> Layout:
        """Return a layout with what breaks a rule taken off, to be squeezed in by the rounds."""
        loads, off = [], Counter(layout.left_out)
        for x in layout.loads:
            broken = broken_rules(self._table.order, bench.sheets[x.sheet], bench.placements(x))
            rows = [i for i in {rule.rows[-1] for rule in broken} if not x.fixed[i]]
            loads.append(x.without(rows))
            off.update(int(k) for k in bench.kinds(x)[rows])
        return Layout(tuple(x for x in loads if len(x)), off)

    def take_up(self, sheets: Sequence[tuple[str, list[Placement]]]) -> None:
        """Take sheets found elsewhere where they are better than what lies here."""
        before = self._layouts
        after = []
        for bench, known in zip(self._table.benches, before, strict=True):
            loads = tuple(bench.load_of(s, lying) for s, lying in sheets if s in bench.sheets)
            lying = Counter(int(k) for x in loads for k in bench.kinds(x))
            found = self._sound(bench, Layout(loads, bench.wanted() - lying))
            after.append(self._better(bench, known, found))
        if any(a is not b for a, b in zip(after, before, strict=True)):
            self._layouts = after
            self.nest = self._made()
            self._tell()

    def improve(self, crew: Crew, ends: float | None, left: int | None, seconds: float) -> None:
        """Go round until the time or the attempts are used up."""
        steps = left or 1
        while not self._should_stop() and (left is None or left > 0):
            now = time.monotonic()
            if ends is not None and now >= ends - 0.02:
                break
            attempts = None if left is None else max(1, min(_ATTEMPTS, left // crew.workers))
            spent = (now - self._began) / seconds if left is None else 1.0 - left / steps
            jobs = self._jobs(crew.workers, spent)
            longest = _REORDER_ROUND if any(j.kind == "reorder" for j in jobs) else _ROUND
            limit = None if ends is None else min(ends - now, longest, longest * seconds / _LONG)
            jobs = [replace(j, seconds=limit, attempts=attempts) for j in jobs]
            if not jobs:
                break
            outcomes = crew.do(jobs)
            made = sum(o.made for o in outcomes)
            self._steps += made
            left = None if left is None else left - max(1, made)
            self._take_in(jobs, outcomes)
            self._round += 1

    def _jobs(self, workers: int, spent: float) -> list[Job]:
        """Return what the searchers do this round; ``spent`` is the share of the time gone by."""
        gauges = [g for g, b in enumerate(self._table.benches) if self._can_gain(b, g)]
        if not gauges:
            return []
        jobs = []
        mine = [gauges[(self._round * workers + i) % len(gauges)] for i in range(workers)]
        bare = {g: self._bare(g) for g in dict.fromkeys(mine)}
        for i, g in enumerate(mine):
            same = [k for k, other in enumerate(mine) if other == g]
            seed = (self._seed * 1_000_003 + self._round) * 64 + i
            if self._is_reordered(g, spent):
                job = Job(g, "reorder", self._layouts[g], 0, plan=self._plans[g])
            else:
                job = self._job(g, bare[g], same.index(i), len(same))
            jobs.append(replace(job, seed=seed))
        return jobs

    def _is_reordered(self, g: int, spent: float) -> bool:
        """Whether a gauge is still filled in other sequences, before what lies there is moved.

        On several sheets the sequence decides what goes where; on one, moving finds more.
        """
        if self._table.start[g] is not None:
            return False
        layout = self._layouts[g]
        several = len(layout.loads) > 1 or bool(layout.left_out)
        return self._stale[g] < _STALE and spent < (_REORDERING if several else _REORDERING_ONE)

    def _can_gain(self, bench: Bench, g: int) -> bool:
        layout = self._layouts[g]
        movable = sum(int((~x.fixed).sum()) for x in layout.loads)
        if len(layout.loads) == 1 and not layout.left_out and is_shortest(bench, layout.loads[0]):
            return False
        return movable > 1 or (movable > 0 and len(layout.loads) > 1)

    def _bare(self, g: int) -> Layout:
        """Return a gauge's layout without its smaller parts: how many, differs from round to round.

        What metal is needed is decided by the large parts. The small ones find room in gaps and
        holes again, and without them in the way the large ones move more freely and more cheaply.
        """
        bench, layout = self._table.benches[g], self._layouts[g]
        share = _SHARES[self._round // max(1, len(self._layouts)) % len(_SHARES)]
        kinds = np.concatenate([bench.kinds(x) for x in layout.loads])
        one_sheet = len(layout.loads) == 1
        if share == 1.0 or one_sheet or not _MANY <= len(kinds) < _VERY_MANY:
            return layout
        by_size = np.argsort(-bench.area[kinds], kind="stable")
        upto = np.searchsorted(np.cumsum(bench.area[kinds][by_size]),
                               share * bench.area[kinds].sum())  # fmt: skip
        least = bench.area[kinds[by_size[min(upto, len(kinds) - 1)]]]
        loads = [
            x.without(np.flatnonzero((bench.area[bench.kinds(x)] < least) & ~x.fixed))
            for x in layout.loads
        ]
        return replace(layout, loads=tuple(x for x in loads if len(x)))

    def _job(self, g: int, layout: Layout, member: int, members: int) -> Job:
        bench = self._table.benches[g]
        last = last_of(bench, layout)
        job = Job(g, "tighten", layout, 0, last=last, share=self._shares[g])
        fits = [k for k in layout.left_out for _ in range(layout.left_out[k])
                if self._fits_at_all(bench, k)]  # fmt: skip
        if fits:
            pool, into, pullers = fits, list(range(len(layout.loads))), members
        elif len(layout.loads) > 1:
            # One shortens the last sheet while the others bring its parts elsewhere.
            load = layout.loads[last]
            pool = bench.kinds(load)[~load.fixed].tolist()
            into = [i for i in range(len(layout.loads)) if i != last]
            pullers = members - 1 if members > 1 else self._round // len(self._layouts) % 2
        else:
            return job
        if member >= pullers:
            return job
        if pullers > 1:
            # The sheets and the copies are shared out, differently each round.
            draw = np.random.default_rng(self._seed * 7919 + self._round)
            into = [into[i] for i in draw.permutation(len(into))][member::pullers]
            pool = [pool[i] for i in draw.permutation(len(pool))][member::pullers]
        if not into or not pool:
            return job
        return replace(job, kind="pull", into=tuple(into), pool=tuple(pool))

    def _fits_at_all(self, bench: Bench, kind: int) -> bool:
        table = bench.table
        for sheet in bench.sheets:
            room = bench.room(sheet)
            for w in range(table.first[kind], table.last[kind]):
                wide, high = table.reach[w, 2:] - table.reach[w, :2]
                if wide <= room[2] - room[0] and high <= room[3] - room[1]:
                    return True
        return False

    def _take_in(self, jobs: list[Job], outcomes: list[Outcome]) -> None:
        changed = False
        for g in dict.fromkeys(j.gauge for j in jobs):
            bench, before = self._table.benches[g], self._layouts[g]
            layout = before
            done = [(j, o) for j, o in zip(jobs, outcomes, strict=True) if j.gauge == g]
            for _, outcome in done:
                if outcome.plan is not None:
                    built = self._better(bench, layout, outcome.layout)
                    if built is not layout:
                        layout, self._plans[g] = built, outcome.plan
            if any(j.kind == "reorder" for j, _ in done):
                gained = score(bench, layout)[:-1] < score(bench, before)[:-1]
                self._stale[g] = 0 if gained else self._stale[g] + 1
            improved = [(j, o) for j, o in done if j.kind != "reorder"]
            if improved:
                bare = self._improved(bench, g, improved)
                layout = self._better(bench, layout, self._refilled(bench, before, bare))
            if layout is not before and not self._breaks(bench, before, layout):
                self._layouts[g] = layout
                changed = True
        if changed:
            self.nest = self._made()
            self._tell()

    def _refilled(self, bench: Bench, before: Layout, bare: Layout) -> Layout:
        """Return a layout with the parts laid again that were taken off to make it."""
        lying = Counter(int(k) for x in bare.loads for k in bench.kinds(x))
        wanted = bench.wanted() - lying
        if not wanted:
            return bare
        last = last_of(bench, bare)
        lengths = [
            bench.used_length(x) if i == last else bench.sheets[x.sheet].width
            for i, x in enumerate(bare.loads)
        ]
        sequence = first_plan(bench).sequence
        within = bench.fill(bare.loads, wanted, sequence=sequence, lengths=lengths)
        if not within.left_out:
            return within
        fresh = unused_sheets(bench, within.loads)
        return bench.fill(within.loads, within.left_out, sequence=sequence, fresh=fresh)

    @staticmethod
    def _better(bench: Bench, one: Layout, other: Layout | None) -> Layout:
        if other is None or score(bench, other) >= score(bench, one):
            return one
        return other

    def _breaks(self, bench: Bench, before: Layout, layout: Layout) -> bool:
        """Whether a changed sheet breaks a rule: checked by exact distances, not hoped."""
        known = {id(x) for x in before.loads}
        return any(
            broken_rules(self._table.order, bench.sheets[x.sheet], bench.placements(x))
            for x in layout.loads
            if id(x) not in known
        )

    def _improved(self, bench: Bench, g: int, done: list[tuple[Job, Outcome]]) -> Layout:
        """Return the layout with the last sheet shortened and with what was squeezed in elsewhere.

        When parts went from the last sheet, the rest of it is laid anew if that is better.
        """
        layout, last = done[0][0].layout, done[0][0].last
        loads = list(layout.loads)
        gone: Counter[int] = Counter()
        came: Counter[int] = Counter()
        for job, outcome in done:
            if job.kind == "pull":
                for i, load in outcome.loads.items():
                    loads[i] = load
                gone += Counter(job.pool) - Counter(outcome.pool)
                came += Counter(outcome.pool) - Counter(job.pool)
            else:
                self._shares[g] = outcome.share
                if bench.used_length(outcome.loads[last]) < bench.used_length(loads[last]):
                    loads[last] = outcome.loads[last]
        if layout.left_out:
            return Layout(tuple(loads), layout.left_out - gone + came)
        if not gone:
            return replace(layout, loads=tuple(loads))
        rest = taken_off(bench, loads[last], gone)
        others = tuple(x for i, x in enumerate(loads) if i != last)
        if not len(rest) and not came:
            return Layout(others, layout.left_out)
        return self._laid_anew(bench, others, rest, came)

    def _laid_anew(
        self, bench: Bench, others: tuple[Load, ...], rest: Load, came: Counter[int]
    ) -> Layout:
        """Return the best layout with the last sheet's copies as they lie or laid from nothing.

        ``came`` are copies that came off other sheets; they go wherever there is room.
        """
        loads = (*others, rest) if len(rest) else others
        fresh = unused_sheets(bench, loads)
        first = bench.fill(loads, came, sequence=first_plan(bench).sequence, fresh=fresh)
        best = first
        if rest.fixed.any():
            return best
        others = first.loads[: len(others)]
        wanted = Counter(int(k) for x in first.loads[len(others) :] for k in bench.kinds(x))
        if not wanted:
            return best
        used = Counter(x.sheet for x in others)
        tried = set()
        for plan in islice(plans(bench), None if wanted.total() < _MANY else 3):
            sheet = next((s for s in dict.fromkeys(plan.fresh)
                          if plan.fresh.count(s) > used[s] and (s, plan.sequence, plan.lean)
                          not in tried), None)  # fmt: skip
            if sheet is None:
                continue
            tried.add((sheet, plan.sequence, plan.lean))
            laid = bench.fill((), wanted, sequence=plan.sequence, fresh=(sheet,), lean=plan.lean)
            if not laid.left_out:
                best = self._better(bench, best, Layout((*others, *laid.loads), Counter()))
        return best

    def _made(self) -> Nest:
        """Return the layouts as a nest, fillers added."""
        filled, missing = [], []
        for bench, layout, gauge in zip(
            self._table.benches, self._layouts, self._table.gauges, strict=True
        ):
            full = with_fillers(bench, layout)
            filled += [(x.sheet, bench.placements(x)) for x in full.loads]
            missing += [
                Unplaced(part=bench.parts[k - bench.first].id, quantity=n,
                         why=reason_left_out(bench, k, gauge_name(gauge),
                                     fits=self._fits_at_all(bench, k)))
                for k, n in sorted((full.left_out + bench.surplus).items())
            ]  # fmt: skip
        return measured(self._table.order, filled, missing)

    def _tell(self) -> None:
        self._on_better(Progress(self.nest, time.monotonic() - self._began, self._steps))
