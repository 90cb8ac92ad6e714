"""The door of the engine: from an order to better and better nests within a time.

First every gauge is filled by its usual plan, which gives a complete nest at once, and once more
with the parts joined that only fit each other. Then come rounds: each gives every searcher a job
for some gauge, takes in what came out, and offers the nest when it is better.
"""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Callable, Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from itertools import islice

from kaigata.core.errors import InputError, LimitError, Stopped
from kaigata.core.nest.bench import Bench, Layout
from kaigata.core.nest.crew import Crew
from kaigata.core.nest.figures import Nest, Placement, Unplaced, measured
from kaigata.core.nest.jobs import Job, Outcome
from kaigata.core.nest.joining import joined_order
from kaigata.core.nest.leftovers import reason_left_out, with_fillers
from kaigata.core.nest.order import NestOrder, gauge_name, require_usable
from kaigata.core.nest.plans import MANY, build, first_plan, plans, unused_sheets
from kaigata.core.nest.race import Race
from kaigata.core.nest.rules import RuleBook
from kaigata.core.nest.score import better_of
from kaigata.core.nest.table import Way

__all__ = ["Progress", "search"]

_LONG = 28.0
"""Seconds of a search from which on rounds last as long as they should; in a shorter one they are
shorter alike."""
_WORTH_HELP = 2.0
"""Seconds below which a search is over before other processes have begun."""
_ATTEMPTS = 6
"""Attempts a job may make when attempts are counted."""
_JOINED = 0.15
"""Share of the time for the order with parts joined that only fit each other."""
_PLANS = 48
"""Plans that fewer than many copies are laid by before the first nest is given."""


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
    LimitError
        There is not memory enough, or a process that searches ended early.
    """
    require_usable(order)
    if seconds <= 0 or (steps is not None and steps < 1) or workers < 1:
        raise InputError(
            f"a search of {seconds:g} s, {steps} steps with {workers} workers cannot be",
            fix="Give at least one of each",
        )
    is_long = seconds >= _WORTH_HELP if steps is None else steps > 1
    try:
        with Crew(workers if is_long else 1, should_stop) as crew:
            return _search(
                order, crew, seconds=seconds, steps=steps, seed=seed, start=start,
                locked=frozenset(locked), on_better=on_better, should_stop=should_stop,
            )  # fmt: skip
    except MemoryError:
        raise LimitError(
            "there is not memory enough for the outlines of these parts",
            fix="Draw them with fewer corners, or nest fewer different parts at once",
        ) from None


def _search(
    order: NestOrder,
    crew: Crew,
    *,
    seconds: float,
    steps: int | None,
    seed: int,
    should_stop: Callable[[], bool],
    start: Nest | None = None,
    locked: frozenset[tuple[str, int]] = frozenset(),
    on_better: Callable[[Progress], None] = lambda progress: None,
) -> Nest:
    began = time.monotonic()
    table = _Tables(order, start, locked)
    book = _Book(table, seed, on_better, began, should_stop)
    book.begin()
    if start is None:
        _try_joined(order, crew, book, seconds=seconds, steps=steps, seed=seed,
                    should_stop=should_stop)  # fmt: skip
    ends = None if steps is not None else began + seconds
    left = None if steps is None else steps - 1
    is_over = left == 0 or (ends is not None and time.monotonic() >= ends)
    if is_over or not any(b.wanted().total() > 1 for b in table.benches):
        return book.nest
    crew.give(table.benches)
    book.improve(crew, ends, left, seconds)
    return book.nest


def _try_joined(
    order: NestOrder,
    crew: Crew,
    book: _Book,
    *,
    seconds: float,
    steps: int | None,
    seed: int,
    should_stop: Callable[[], bool],
) -> None:
    """Nest the order with the parts joined that only fit each other, where there are such."""
    if steps == 1 or (together := joined_order(order)) is None:
        return
    with suppress(Stopped):
        nest = _search(
            together.order, crew, seconds=_JOINED * seconds,
            steps=None if steps is None else max(1, int(_JOINED * steps)),
            seed=seed, should_stop=should_stop,
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
    """The race of each gauge, and the nest that the best layouts make together."""

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
        self._rules = RuleBook(table.order)
        self._races: list[Race] = []
        self._steps = 1
        self._round = 0
        self.nest: Nest

    def begin(self) -> None:
        """Lay everything once: what is given stays, the rest comes by the usual plan."""
        for g, (bench, given) in enumerate(
            zip(self._table.benches, self._table.start, strict=True)
        ):
            layout = self._sound(bench, self._first(bench, given))
            self._races.append(
                Race(self._rules, g, bench, layout,
                     may_reorder=given is None, seed=self._seed)
            )  # fmt: skip
        self.nest = self._made()
        self._tell()

    def _first(self, bench: Bench, given: Layout | None) -> Layout:
        plan = first_plan(bench)
        if given is None:
            nothing = Layout((), Counter())
            built = build(bench, plan, nothing, self._should_stop)
            others = islice(plans(bench), 1, _PLANS)
            if bench.wanted().total() >= MANY:
                # Each takes its time, so only where not all will fit: it matters which are left.
                some_out = any(bench.fits_at_all(k) for k in built.left_out)
                others = islice(others, 1 if some_out else 0)
            # A stop no longer costs the nest there is.
            with suppress(Stopped):
                for other in others:
                    again = build(bench, other, nothing, self._should_stop)
                    built = better_of(bench, built, again)
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
            broken = self._rules.broken(bench.sheets[x.sheet], bench.placements(x))
            rows = [i for i in {rule.rows[-1] for rule in broken} if not x.fixed[i]]
            loads.append(x.without(rows))
            off.update(int(k) for k in bench.kinds(x)[rows])
        return Layout(tuple(x for x in loads if len(x)), off)

    def take_up(self, sheets: Sequence[tuple[str, list[Placement]]]) -> None:
        """Take sheets found elsewhere where they are better than what lies here."""
        better = False
        for bench, race in zip(self._table.benches, self._races, strict=True):
            loads = tuple(bench.load_of(s, lying) for s, lying in sheets if s in bench.sheets)
            lying = Counter(int(k) for x in loads for k in bench.kinds(x))
            found = self._sound(bench, Layout(loads, bench.wanted() - lying))
            better = race.join(found) or better
        if better:
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
            if not jobs:
                break
            limit = None
            if ends is not None:
                scale = min(1.0, seconds / _LONG)
                limit = min(ends - now, *(scale * (j.seconds or seconds) for j in jobs))
            jobs = [replace(j, seconds=limit, attempts=attempts) for j in jobs]
            outcomes = crew.do(jobs)
            made = sum(o.made for o in outcomes)
            self._steps += made
            left = None if left is None else left - max(1, made)
            self._take_in(jobs, outcomes)
            self._round += 1

    def _jobs(self, workers: int, spent: float) -> list[Job]:
        """Return what the searchers do this round; ``spent`` is the share of the time gone by."""
        gauges = [g for g, race in enumerate(self._races) if race.can_gain()]
        if not gauges:
            return []
        shared = Counter(gauges[(self._round * workers + i) % len(gauges)] for i in range(workers))
        jobs = [job for g, count in shared.items() for job in self._races[g].jobs(count, spent)]
        seed = (self._seed * 1_000_003 + self._round) * 64
        return [replace(job, seed=seed + i) for i, job in enumerate(jobs)]

    def _take_in(self, jobs: list[Job], outcomes: list[Outcome]) -> None:
        better = False
        for g in dict.fromkeys(j.gauge for j in jobs):
            mine = [i for i, j in enumerate(jobs) if j.gauge == g]
            gained = self._races[g].take_in([jobs[i] for i in mine], [outcomes[i] for i in mine])
            better = gained or better
        if better:
            self.nest = self._made()
            self._tell()

    def _made(self) -> Nest:
        """Return the layouts as a nest, fillers added."""
        filled, missing = [], []
        for bench, race, gauge in zip(
            self._table.benches, self._races, self._table.gauges, strict=True
        ):
            full = with_fillers(bench, race.best)
            filled += [(x.sheet, bench.placements(x)) for x in full.loads]
            missing += [
                Unplaced(part=bench.parts[k - bench.first].id, quantity=n,
                         why=reason_left_out(bench, k, gauge_name(gauge),
                                     fits=bench.fits_at_all(k)))
                for k, n in sorted((full.left_out + bench.surplus).items())
            ]  # fmt: skip
        return measured(self._table.order, filled, missing)

    def _tell(self) -> None:
        self._on_better(Progress(self.nest, time.monotonic() - self._began, self._steps))
