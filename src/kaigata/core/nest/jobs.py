"""What a searcher is given to do: a gauge's layout comes in, the better one goes out.

Jobs are plain values and their outcome depends on nothing else, so they run in any process and the
same job always gives the same layout when it counts attempts instead of time.
"""

from __future__ import annotations

import math
import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, replace
from itertools import product
from typing import TypeVar

import numpy as np

from kaigata.core.errors import Stopped
from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.figures import area_up_to, metal_rates
from kaigata.core.nest.improve import Bout, Hand, pull, tighten

Thing = TypeVar("Thing")

_SHAKE = 0.35
"""Spread of the noise on the logarithm of a part's area."""
_LEANS = (0.0, 0.1, 0.25, 1.0)
"""How much a way's top may count beside its right end."""
_ANEW, _OTHERWISE = 0.25, 0.3
"""How often a changed plan has another sequence altogether; other sheets first, or another lean."""
_HAIR = 1e-3
"""mm², or a price, by which charges may differ and be the same."""

__all__ = [
    "Job",
    "Outcome",
    "Plan",
    "changed",
    "charge_of",
    "do_job",
    "first_plan",
    "last_of",
    "plans",
    "score",
]


@dataclass(frozen=True, slots=True)
class Plan:
    """How a gauge is filled from nothing.

    Attributes
    ----------
    sequence : tuple of int
        Shapes in the order they come.
    fresh : tuple of str
        Sheets in the order they are taken.
    lean : float
        How much a way's top counts beside its right end.
    """

    sequence: tuple[int, ...]
    fresh: tuple[str, ...]
    lean: float


def plans(bench: Bench) -> Iterator[Plan]:
    """Yield plans to fill a gauge by, the usual one first.

    Where priorities differ every plan comes twice: by size alone, and by priority before size. The
    first packs better and is right when nothing is left out; else the second is.
    """
    seen = set()
    # Which sheets come first matters most, so all orders of sheets come before another sequence.
    for key, lean, sheets, rank in product(
        _sizes(bench), _LEANS, _sheet_orders(bench), _ranks(bench)
    ):
        plan = Plan(_sequence(bench, rank, key), sheets, lean)
        if plan not in seen:
            seen.add(plan)
            yield plan


def _sizes(bench: Bench) -> list[np.ndarray]:
    """Return what shapes may be sorted by: area, longest side, height, or the smallest first."""
    hull = bench.table.hull[bench.table.first]
    sides = hull[:, 2:] - hull[:, :2]
    area = np.maximum(bench.area, 1e-9)
    return [area, sides.max(axis=1), sides[:, 1], area.max() / area]


def _ranks(bench: Bench) -> list[np.ndarray]:
    """Return what may count before size: nothing, or the priority where priorities differ."""
    nothing = np.zeros(len(bench.area))
    return [nothing, bench.priority] if len(set(bench.priority[bench.first :])) > 1 else [nothing]


def changed(bench: Bench, plan: Plan, draw: np.random.Generator) -> Plan:
    """Return a plan changed a little: some shapes come sooner or later, at times all are shaken."""
    sequence, fresh, lean = list(plan.sequence), plan.fresh, plan.lean
    anew = draw.random() < _ANEW
    if anew:
        size, rank = _one_of(_sizes(bench), draw), _one_of(_ranks(bench), draw)
        noise = _SHAKE if draw.random() < 0.5 else 0.0
        sequence = list(_sequence(bench, rank, np.log(size) + draw.normal(0.0, noise, len(size))))
    else:
        for _ in range(int(draw.integers(1, 4))):
            shape = sequence.pop(int(draw.integers(len(sequence))))
            at = draw.integers(len(sequence) + 1) + draw.normal(0.0, 1.0)
            sequence.insert(int(np.clip(at, 0, len(sequence))), shape)
    if anew or draw.random() < _OTHERWISE:
        fresh = _one_of(_sheet_orders(bench), draw)
    if anew or draw.random() < _OTHERWISE:
        lean = _one_of(_LEANS, draw)
    return Plan(tuple(sequence), fresh, lean)


def _one_of(things: Sequence[Thing], draw: np.random.Generator) -> Thing:
    return things[int(draw.integers(len(things)))]


def _sequence(bench: Bench, rank: np.ndarray, key: np.ndarray) -> tuple[int, ...]:
    shapes = range(bench.first, len(bench.area))
    return tuple(sorted(shapes, key=lambda k: (-rank[k], -round(float(key[k]), 6), k)))


def first_plan(bench: Bench) -> Plan:
    """Return the usual plan: largest first, remnants and small sheets first."""
    return next(plans(bench))


def _sheet_orders(bench: Bench) -> list[tuple[str, ...]]:
    """Return orders to take sheets in: remnants and small ones first, and each kind first."""
    copies = bench.quantity.total()
    standing = sorted(bench.sheets.values(), key=lambda s: (s.outline is None, s.area, s.id))
    orders = [standing] + [[s, *(o for o in standing if o is not s)] for s in reversed(standing)]
    return list(
        dict.fromkeys(
            tuple(
                s.id
                for s in order
                for _ in range(copies if s.count is None else min(s.count, copies))
            )
            for order in orders
        )
    )


def charge_of(bench: Bench, loads: Sequence[Load]) -> float:
    """Return what the metal of loads costs, the last sheet up to its used length only."""
    rate = metal_rates(list(bench.sheets.values()))
    whole = [bench.sheets[x.sheet].area * rate[x.sheet] for x in loads]
    return math.fsum(whole) - max((saved_by(bench, x, rate) for x in loads), default=0.0)


def saved_by(bench: Bench, load: Load, rate: dict[str, float]) -> float:
    """Return what counting a sheet only up to its used length saves."""
    sheet = bench.sheets[load.sheet]
    return (sheet.area - area_up_to(sheet, bench.used_length(load))) * rate[load.sheet]


def score(bench: Bench, layout: Layout) -> tuple[float, ...]:
    """Return what makes a layout better when less.

    Copies left out by priority, then metal, then what lies on the last sheet: the less there is,
    the sooner it shortens.
    """
    priorities = sorted(set(bench.priority[bench.first :].tolist()), reverse=True)
    left = [
        float(sum(n for k, n in layout.left_out.items() if bench.priority[k] == p))
        for p in priorities
    ]
    last = last_of(bench, layout)
    # Squares, because it is the large parts that are hard to bring elsewhere.
    on_last = (bench.area[bench.kinds(layout.loads[last])] ** 2).sum() if layout.loads else 0.0
    return (*left, round(charge_of(bench, layout.loads), 3), round(float(on_last), 3))


def last_of(bench: Bench, layout: Layout) -> int:
    """Return which load is the last sheet: the one whose used length saves most, else the least."""
    rate = metal_rates(list(bench.sheets.values()))
    saved = [
        (saved_by(bench, x, rate), -float(bench.net[bench.kinds(x)].sum())) for x in layout.loads
    ]
    return max(range(len(saved)), key=lambda i: saved[i], default=0)


@dataclass(frozen=True)
class Job:
    """Something to do for one gauge.

    Attributes
    ----------
    gauge : int
        Which bench.
    kind : str
        ``reorder``: fill from nothing by many changes of ``plan``; ``tighten``: shorten the load
        ``last``; ``pull``: squeeze ``pool`` into the loads ``into``.
    layout : Layout
        What lies where now.
    seed : int
        For the random numbers.
    seconds : float, optional
        How long it may take.
    attempts : int, optional
        Or how many attempts it may make.
    plan, last, into, pool
        As the kind needs them.
    share : float
        By how much of its length a sheet was shortened last.
    """

    gauge: int
    kind: str
    layout: Layout
    seed: int
    seconds: float | None = None
    attempts: int | None = None
    plan: Plan | None = None
    last: int = 0
    into: tuple[int, ...] = ()
    pool: tuple[int, ...] = ()
    share: float = 0.03


@dataclass(frozen=True)
class Outcome:
    """What a job came to: the loads it was given to change, what is left, attempts made.

    Or the whole layout, and the plan it was filled by.
    """

    loads: dict[int, Load]
    pool: tuple[int, ...]
    made: int
    share: float = 0.03
    layout: Layout | None = None
    plan: Plan | None = None


def do_job(bench: Bench, job: Job, should_stop: Callable[[], bool]) -> Outcome:
    """Do a job on its bench; stopped, it gives what it has."""
    until = None if job.seconds is None else time.monotonic() + job.seconds
    bout = Bout(until, job.attempts, should_stop)
    hand = Hand(job.seed)
    loads = job.layout.loads
    if job.kind == "reorder":
        return _reordered(bench, job, hand, bout)
    if job.kind == "tighten":
        hand.shares[loads[job.last].sheet] = job.share
        better = tighten(bench, loads[job.last], hand, bout)
        return Outcome({job.last: better}, (), bout.made, hand.shares[better.sheet])
    fuller, pool = pull(
        bench, [loads[i] for i in job.into], job.pool, hand, bout,
        large_first=not job.layout.left_out,
    )  # fmt: skip
    return Outcome(dict(zip(job.into, fuller, strict=True)), tuple(pool), bout.made)


def _reordered(bench: Bench, job: Job, hand: Hand, bout: Bout) -> Outcome:
    """Fill a gauge again and again by a plan changed a little, and keep what is no worse."""
    best, plan, least = job.layout, job.plan or first_plan(bench), score(bench, job.layout)
    with suppress(Stopped):
        while bout.goes_on():
            other = changed(bench, plan, hand.draw)
            # A filling only ever needs more metal as it goes on; with copies left out, less counts.
            at_most = math.inf if best.left_out else charge_of(bench, best.loads) + _HAIR
            built = build(bench, other, job.layout, bout.is_over, at_most=at_most)
            found = score(bench, built)
            if found <= least:
                best, plan, least = built, other, found
    return Outcome({}, (), bout.made, layout=best, plan=plan)


def build(
    bench: Bench,
    plan: Plan,
    kept: Layout,
    should_stop: Callable[[], bool],
    *,
    at_most: float = math.inf,
) -> Layout:
    """Fill a gauge by a plan around what must stay.

    Once the metal is charged more than ``at_most``, the copies still to come are left out.

    Raises
    ------
    Stopped
        It was stopped before the end.
    """
    loads = [
        replace(x, way=x.way[x.fixed], at=x.at[x.fixed], fixed=x.fixed[x.fixed])
        for x in kept.loads
        if x.fixed.any()
    ]
    used = Counter(x.sheet for x in loads)
    lying = Counter(int(k) for x in loads for k in bench.kinds(x))
    fresh = []
    for sheet in plan.fresh:
        if used[sheet]:
            used[sheet] -= 1
        else:
            fresh.append(sheet)
    return bench.fill(
        loads,
        bench.wanted() - lying,
        sequence=plan.sequence,
        fresh=fresh,
        lean=plan.lean,
        worth=lambda layout: charge_of(bench, layout.loads) <= at_most,
        should_stop=should_stop,
    )
