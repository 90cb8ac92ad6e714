"""What a searcher is given to do: a gauge's layout comes in, a better one goes out.

Jobs are plain values and their outcome depends on nothing else, so they run in any process and the
same job always gives the same layout when it counts attempts instead of time.
"""

from __future__ import annotations

import math
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass

from kaigata.core.errors import Stopped
from kaigata.core.nest.bench import Bench, Layout
from kaigata.core.nest.holes import found_for, kept
from kaigata.core.nest.improve import HASTY, Bout, Hand, Pace
from kaigata.core.nest.inlays import Couple, Inlay
from kaigata.core.nest.moves import brought_in, tightened
from kaigata.core.nest.plans import Plan, build, changed
from kaigata.core.nest.portions import Brought, Portion
from kaigata.core.nest.score import charge_of, score

__all__ = ["Job", "Move", "Outcome", "do_job"]

_TRIES = 50
"""Times each hole is filled to find what fills it best."""
_HAIR = 1e-3
"""mm², or a price, by which charges may differ and be the same."""


@dataclass(frozen=True, slots=True)
class Move:
    """How a layout is to be bettered.

    Attributes
    ----------
    kind : str
        ``fill holes``: look for what fills holes well; ``reorder``: fill from nothing by many
        changes of the plan; ``tighten``: shorten the last
        sheet; ``pull``: squeeze its parts, or copies that lie nowhere, into the other sheets.
    stay : float
        How much of the parts' area stays on the sheets while others are pulled in.
    beside : int
        How many other sheets the last one's parts may change over with while it is shortened.
    sealed : bool
        Whether parts move together with what lies in their holes.
    pace : Pace
        How boldly the last sheet is shortened.
    """

    kind: str
    stay: float = 1.0
    beside: int = 0
    sealed: bool = False
    pace: Pace = HASTY


@dataclass(frozen=True)
class Job:
    """Something to do for one gauge.

    Attributes
    ----------
    gauge : int
        Which bench.
    move : Move
        What to do.
    layout : Layout
        What lies where now.
    plan : Plan
        What it was filled by.
    seed : int
        For the random numbers.
    seconds : float, optional
        How long it may take; None where attempts are counted.
    attempts : int, optional
        Or how many attempts it may make.
    share : float
        By how much of its length a sheet was shortened last.
    portion : Portion, optional
        What to pull where.
    holes : tuple of (shape, number)
        Holes to look for inlays for.
    stock : tuple of Inlay
        Inlays to fill holes with.
    couples : tuple of Couple
        Shapes that may be laid by twos.
    others : tuple of Plan
        Plans to try before changed ones.
    """

    gauge: int
    move: Move
    layout: Layout
    plan: Plan
    seed: int = 0
    seconds: float | None = 2.0
    attempts: int | None = None
    share: float = 0.03
    portion: Portion | None = None
    holes: tuple[tuple[int, int], ...] = ()
    stock: tuple[Inlay, ...] = ()
    couples: tuple[Couple, ...] = ()
    others: tuple[Plan, ...] = ()


@dataclass(frozen=True)
class Outcome:
    """What a job came to: the layout, the plan it was filled by, attempts made.

    Of a pull also what was brought into its portion, to be united with what others brought; of a
    look at holes the inlays found.
    """

    layout: Layout
    plan: Plan
    made: int
    share: float
    brought: Brought | None = None
    inlays: tuple[Inlay, ...] = ()


def do_job(bench: Bench, job: Job, should_stop: Callable[[], bool]) -> Outcome:
    """Do a job on its bench; stopped, it gives what it has."""
    until = None if job.seconds is None else time.monotonic() + job.seconds
    bout = Bout(until, job.attempts, should_stop)
    hand = Hand(job.seed, job.share)
    layout, plan, brought = job.layout, job.plan, None
    inlays: tuple[Inlay, ...] = ()
    if job.holes:
        inlays = _found(bench, job.holes, hand, bout)
    elif job.portion is not None:
        brought = brought_in(bench, layout, job.portion, job.move.stay, hand, bout)
    elif job.move.kind == "reorder":
        layout, plan = _reordered(bench, job, hand, bout)
    else:
        layout = tightened(bench, layout, job.move.beside, hand, bout, job.move.pace)
    return Outcome(layout, plan, bout.made, hand.share, brought, inlays)


def _found(
    bench: Bench, holes: Sequence[tuple[int, int]], hand: Hand, bout: Bout
) -> tuple[Inlay, ...]:
    """Fill each of some holes again and again; return what was best for each."""
    found: tuple[Inlay, ...] = ()
    for _ in range(_TRIES):
        if not bout.goes_on():
            break
        more = (found_for(bench, host, hole, hand.draw) for host, hole in holes)
        found = kept((*found, *filter(None, more)))
    return found


def _reordered(bench: Bench, job: Job, hand: Hand, bout: Bout) -> tuple[Layout, Plan]:
    """Fill a gauge again and again by a plan changed a little, and keep what is no worse."""
    best, plan, least = job.layout, job.plan, score(bench, job.layout)
    others, differing = iter(job.others), len(set(bench.priority[bench.first :])) > 1
    with suppress(Stopped):
        while bout.goes_on():
            other = next(others, None) or changed(bench, plan, job.stock, job.couples, hand.draw)
            # A filling only ever needs more metal as it goes on; with copies left out, less counts.
            at_most = math.inf if best.left_out else charge_of(bench, best.loads) + _HAIR
            built = build(bench, other, job.layout, bout.is_over, at_most=at_most)
            found = score(bench, built)
            # A guest may have taken the room of a more urgent part that is left out.
            unfair = built.left_out and other.inlays and differing
            if found <= least and not unfair:
                best, plan, least = built, other, found
    return best, plan
