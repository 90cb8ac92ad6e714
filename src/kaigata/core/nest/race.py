"""The search for one gauge, round by round: what searchers do next, and what is kept of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from kaigata.core.nest.bench import Bench, Layout
from kaigata.core.nest.improve import is_shortest
from kaigata.core.nest.jobs import Job, Outcome
from kaigata.core.nest.order import NestOrder
from kaigata.core.nest.plans import MANY, first_plan
from kaigata.core.nest.rules import broken_rules
from kaigata.core.nest.score import better_of, score

__all__ = ["Race"]

_VERY_MANY = 400
"""Copies of a gauge from which on the smallest do not step aside any more, as they do where there
are many: laying so many again takes longer than it gains."""
_STAYING = (1.0, 0.75, 0.9, 0.6, 1.0, 0.8)
"""How much of the parts' area stays on the bench in a round; the smallest parts step aside."""
_ROUND, _ROUND_OF_REORDERING, _ROUND_OF_VERY_MANY = 2.0, 1.0, 4.0
"""Seconds a round lasts, the last of either kind; what a searcher has begun at its end is lost."""
_REORDERING, _REORDERING_ONE = 0.25, 0.2
"""Share of the time up to which a gauge is filled in other sequences: on several sheets, on one."""
_STALE = 3
"""Rounds of it in a row that found nothing, after which it ends sooner."""


class Race:
    """The best layout of a gauge and how to better it.

    Parameters
    ----------
    order : NestOrder
        By whose rules a layout is judged.
    gauge : int
        Which bench.
    bench : Bench
        The bench.
    layout : Layout
        What lies there at first.
    may_reorder : bool
        Whether it may be filled anew in other sequences.
    """

    def __init__(
        self, order: NestOrder, gauge: int, bench: Bench, layout: Layout, *, may_reorder: bool
    ) -> None:
        self._order, self._gauge, self._bench = order, gauge, bench
        self._may_reorder = may_reorder
        self._plan, self._share = first_plan(bench), 0.03
        self._stale = self._turn = 0
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
        several = len(self.best.loads) > 1 or bool(self.best.left_out)
        upto = _REORDERING if several else _REORDERING_ONE
        copies = sum(len(x) for x in self.best.loads)
        seconds, reordering = _ROUND, _ROUND_OF_REORDERING
        if copies >= _VERY_MANY:
            seconds = reordering = _ROUND_OF_VERY_MANY
        base = Job(self._gauge, "tighten", self.best, self._plan,
                   seconds=seconds, share=self._share)  # fmt: skip
        if self._may_reorder and self._stale < _STALE and spent < upto:
            return [replace(base, kind="reorder", seconds=reordering)] * count
        if not several:
            return [base] * count
        missing = any(self._bench.fits_at_all(k) for k in self.best.left_out)
        jobs = []
        for _ in range(count):
            kind = "pull" if missing or self._turn % 2 else "tighten"
            staying = _STAYING[self._turn // 2 % len(_STAYING)]
            stay = staying if MANY <= copies < _VERY_MANY else 1.0
            jobs.append(replace(base, kind=kind, stay=stay))
            self._turn += 1
        return jobs

    def take_in(self, jobs: Sequence[Job], outcomes: Sequence[Outcome]) -> bool:
        """Take in what came out of jobs; whether the best layout is better."""
        before = score(self._bench, self.best)
        for job, outcome in zip(jobs, outcomes, strict=True):
            if job.kind == "tighten":
                self._share = outcome.share
            found = better_of(self._bench, self.best, outcome.layout)
            if found is not self.best and not self._breaks(job.layout, found):
                self.best, self._plan = found, outcome.plan
        after = score(self._bench, self.best)
        if jobs[0].kind == "reorder":
            self._stale = 0 if after[:-1] < before[:-1] else self._stale + 1
        return after < before

    def _breaks(self, before: Layout, after: Layout) -> bool:
        """Whether a changed sheet breaks a rule: checked by exact distances, not hoped."""
        known = {(x.sheet, x.way.tobytes(), x.at.tobytes()) for x in before.loads}
        bench = self._bench
        return any(
            broken_rules(self._order, bench.sheets[x.sheet], bench.placements(x))
            for x in after.loads
            if (x.sheet, x.way.tobytes(), x.at.tobytes()) not in known
        )
