"""The search for one gauge, round by round: what searchers do next, and what is kept of it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import islice
from weakref import WeakKeyDictionary

import numpy as np

from kaigata.core.nest.bench import Bench, Layout
from kaigata.core.nest.couples import couples_of
from kaigata.core.nest.holes import dealt, holes_of, kept
from kaigata.core.nest.improve import PATIENT, Pace, is_shortest
from kaigata.core.nest.inlays import Inlay
from kaigata.core.nest.jobs import Job, Move, Outcome
from kaigata.core.nest.moves import any_left_out, moved_rows, united
from kaigata.core.nest.plans import MANY, Plan, first_plan, plans
from kaigata.core.nest.portions import portions_of
from kaigata.core.nest.rules import RuleBook
from kaigata.core.nest.score import better_of, score
from kaigata.core.nest.sealing import Known, Sealed, opened, sealed

__all__ = ["Race"]

_VERY_MANY = 400
"""Copies of a gauge from which on the smallest do not step aside any more, as they do where there
are many: laying so many again takes longer than it gains."""
_MOVES = (
    Move("tighten", sealed=True),
    Move("pull", sealed=True),
    Move("tighten", beside=1, sealed=True),
    Move("tighten"),
    Move("tighten", beside=1),
    Move("pull"),
    Move("pull", stay=0.9),
)
"""What is done in rounds, the last only where copies are many but not very many."""
_MOVES_ON_ONE = (Move("tighten", pace=PATIENT), Move("tighten", sealed=True, pace=PATIENT))
"""What is done where all lies on one sheet."""
_STRIDES = (1.0, 0.5, 2.0)
"""Shares that searchers shorten a sheet by at first, each its own."""
_EMPTIER = 0.98
"""A last sheet with less than this share of what lay on it is as good as a gain."""
_RARELY = 4
"""Rounds that a move waits at most before it is tried again."""
_ROUND, _ROUND_ON_ONE, _ROUND_OF_REORDERING, _ROUND_OF_VERY_MANY = 2.0, 4.0, 1.0, 4.0
"""Seconds a round lasts, the last of either kind; what a searcher has begun at its end is lost."""
_OTHERS, _POWERS = 24, (1.25, 1.6)
"""Usual plans tried first, each in several ways; how much more large guests count in them."""
_LOOKING = 1.5
"""Seconds that are spent at most to find what fills holes."""
_REORDERING, _REORDERING_ONE = 0.25, 0.2
"""Share of the time up to which a gauge is filled in other sequences: on several sheets, on one."""
_STALE = 3
"""Rounds of it in a row that found nothing, after which it ends sooner."""


class Race:
    """The best layout of a gauge and how to better it.

    Parameters
    ----------
    rules : RuleBook
        What a layout is judged by.
    gauge : int
        Which bench.
    bench : Bench
        The bench.
    layout : Layout
        What lies there at first.
    may_reorder : bool
        Whether it may be filled anew in other sequences.
    seed : int
        For the random numbers.
    """

    def __init__(
        self, rules: RuleBook, gauge: int, bench: Bench, layout: Layout,
        *, may_reorder: bool, seed: int,
    ) -> None:  # fmt: skip
        self._rules, self._gauge, self._bench = rules, gauge, bench
        self._may_reorder = may_reorder
        self._plan = first_plan(bench)
        self._share: dict[Pace, float] = {}
        self._stale = 0
        self._sealed: Sealed | None = None
        self._known_sealed: Known = WeakKeyDictionary()
        # With few copies there is not the same hole twice, nor anything left to choose from.
        self._holes = holes_of(bench) if may_reorder and bench.wanted().total() >= MANY else []
        self._stock: tuple[Inlay, ...] = ()
        self._couples = couples_of(bench) if may_reorder else ()
        self._others: tuple[Plan, ...] = ()
        every = dict.fromkeys((*_MOVES, *_MOVES_ON_ONE))
        self._due = {move: float(i > 1) for i, move in enumerate(every)}
        self._waits = dict.fromkeys(every, 1)
        self._draw = np.random.default_rng((seed, gauge))
        self.best = layout

    def join(self, layout: Layout) -> bool:
        """Take another layout if it is better; whether it is."""
        before = self.best
        self.best = better_of(self._bench, before, layout)
        return self.best is not before

    def can_gain(self) -> bool:
        """Whether there is anything left to better."""
        layout = self.best
        movable = sum(int((~x.fixed).sum()) for x in layout.loads)
        if len(layout.loads) == 1 and not layout.left_out:
            return movable > 1 and not is_shortest(self._bench, layout.loads[0])
        return movable > 0 and (movable > 1 or len(layout.loads) > 1)

    def jobs(self, count: int, spent: float) -> list[Job]:
        """Return what so many searchers do next; ``spent`` is the share of the time gone by."""
        missing = any_left_out(self._bench, self.best)
        several = len(self.best.loads) > 1 or missing
        upto = _REORDERING if several else _REORDERING_ONE
        copies = sum(len(x) for x in self.best.loads)
        seconds, reordering = _ROUND if several else _ROUND_ON_ONE, _ROUND_OF_REORDERING
        if copies >= _VERY_MANY:
            seconds = reordering = _ROUND_OF_VERY_MANY
        base = Job(self._gauge, Move("reorder"), self.best, self._plan,
                   seconds=reordering)  # fmt: skip
        self._sealed = None
        if self._holes:
            mine = [tuple(self._holes[i::count]) for i in range(count)]
            looking = replace(base, move=Move("fill holes"), seconds=_LOOKING)
            return [replace(looking, holes=holes) for holes in mine if holes]
        # What was found for holes is tried once, however late.
        if self._others or (self._may_reorder and self._stale < _STALE and spent < upto):
            others, self._others = self._others, ()
            base = replace(base, stock=self._stock, couples=self._couples)
            return [replace(base, others=others[i::count]) for i in range(count)]
        moves: tuple[Move, ...] = _MOVES_ON_ONE
        if several:
            moves = _MOVES if MANY <= copies < _VERY_MANY else _MOVES[:-1]
        move = min(
            (m for m in moves
             if (m.kind == "pull" or not missing) and (self._bench.closed or not m.sealed)),
            key=self._due.__getitem__,
        )  # fmt: skip
        layout = self.best
        if move.sealed:
            self._sealed = sealed(self._bench, self.best, self._known_sealed)
            layout = self._sealed.layout
        base = replace(base, move=move, layout=layout, seconds=seconds)
        if move.kind != "pull":
            share = self._share.get(move.pace, move.pace.first)
            return [replace(base, share=share * _STRIDES[i % len(_STRIDES)]) for i in range(count)]
        portions = portions_of(self._bench, layout, count, self._draw)
        return [replace(base, portion=p) for p in portions]

    def take_in(self, jobs: Sequence[Job], outcomes: Sequence[Outcome]) -> bool:
        """Take in what came out of jobs; whether the best layout is better."""
        if jobs[0].holes:
            self._stock = kept(inlay for outcome in outcomes for inlay in outcome.inlays)
            self._holes = []
            self._others = tuple(self._usual_in_other_ways())
            return False
        before = score(self._bench, self.best)
        brought = [
            (j.portion, o.brought) for j, o in zip(jobs, outcomes, strict=True)
            if j.portion is not None and o.brought is not None
        ]  # fmt: skip
        # Apart from each other they worked on the same layout, so all of it can be had.
        apart = len({id(portion) for portion, _ in brought}) == len(brought)
        for group in [brought] if apart else [[b] for b in brought]:
            if group:
                self._take(united(self._bench, jobs[0].layout, group), self._plan)
        for outcome in outcomes:
            if outcome.brought is None:
                self._take(outcome.layout, outcome.plan)
        after = score(self._bench, self.best)
        has_gained = after[:-1] < before[:-1]
        move = jobs[0].move
        if move.kind == "tighten":
            self._share[move.pace] = outcomes[0].share
        if move.kind == "reorder":
            self._stale = 0 if has_gained else self._stale + 1
        else:
            # What gained is done again soon, what did not ever more rarely.
            has_gained = has_gained or after[-1] < _EMPTIER * before[-1]
            self._waits[move] = 1 if has_gained else min(_RARELY, self._waits[move] + 1)
            self._due[move] += self._waits[move]
        return after < before

    def _usual_in_other_ways(self) -> Iterator[Plan]:
        """Yield the usual plans with holes filled in two ways or, of few copies, in one and not.

        Shapes of which two lie well together are laid by twos: all of them, none, or of very many
        copies also some. Of these a layout with filled holes is better to go on from, sealed.
        """
        deals = [dealt(self._bench, self._stock, (), p, 0.0, self._draw) for p in _POWERS]
        very_many = self._bench.wanted().total() >= _VERY_MANY
        for plan in islice(plans(self._bench), _OTHERS):
            for inlays in dict.fromkeys(deals if very_many else (deals[0], ())):
                some = tuple(c for c in self._couples if very_many and self._draw.random() < 0.5)
                for couples in dict.fromkeys((self._couples, some, ())):
                    yield replace(plan, inlays=inlays, couples=couples)

    def _take(self, layout: Layout, plan: Plan) -> None:
        if self._sealed is not None:
            layout = opened(self._bench, self._sealed, layout)
        found = better_of(self._bench, self.best, layout)
        if found is not self.best and not self._breaks(self.best, found):
            self.best, self._plan = found, plan

    def _breaks(self, before: Layout, after: Layout) -> bool:
        """Whether a changed sheet breaks a rule: checked by exact distances, not hoped."""
        return any(
            self._rules.broken(self._bench.sheets[x.sheet], self._bench.placements(x), moved)
            for x, moved in moved_rows(before, after)
        )
