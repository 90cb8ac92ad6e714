"""Plans to fill a gauge by: in which sequence its shapes come, on which sheets, how they lean."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import product
from typing import TypeVar

import numpy as np

from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.holes import dealt
from kaigata.core.nest.inlays import Couple, Inlay
from kaigata.core.nest.score import charge_of

__all__ = ["MANY", "Plan", "build", "changed", "first_plan", "plans", "unused_sheets"]

Thing = TypeVar("Thing")

MANY = 40
"""Copies from which on filling takes its time, so that few plans are tried where others wait."""
_SHAKE = 0.35
"""Spread of the noise on the logarithm of a part's area."""
_LEANS = (0.0, 0.05, 0.25, 1.0)
"""How much a way's top may count beside its right end."""
_DEALT, _DEALT_FIRST = 0.3, 0.8
"""How often the holes of a changed plan are filled otherwise, or from the stock at all."""
_SHARES = (0.0, 0.5, 0.9)
"""How much of what lies in holes stays there, and how many inlays may be chosen from."""
_POWERS, _NOISES = (1.0, 1.25, 1.6), (0.0, 0.05, 0.2)
"""How much more large guests count, and how much what they count is shaken."""
_ANEW, _OTHERWISE = 0.25, 0.3
"""How often a changed plan has another sequence altogether; other sheets first, or another lean."""


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
    inlays : tuple of Inlay
        What goes along in holes.
    couples : tuple of Couple
        Which shapes are laid by twos.
    """

    sequence: tuple[int, ...]
    fresh: tuple[str, ...]
    lean: float
    inlays: tuple[Inlay, ...] = ()
    couples: tuple[Couple, ...] = ()


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
    """Return what shapes may be sorted by, what does best of all in the most orders first.

    The area of the bounds, their own, that of their convex hull, their longest side, their height,
    or the smallest first.
    """
    hull = bench.table.hull[bench.table.first]
    sides = hull[:, 2:] - hull[:, :2]
    area = np.maximum(bench.area, 1e-9)
    longest, height = sides.max(axis=1), sides[:, 1]
    return [sides.prod(axis=1), area, bench.hull_area, longest, height, area.max() / area]


def _ranks(bench: Bench) -> list[np.ndarray]:
    """Return what may count before size: nothing, or the priority where priorities differ."""
    nothing = np.zeros(len(bench.area))
    return [nothing, bench.priority] if len(set(bench.priority[bench.first :])) > 1 else [nothing]


def changed(
    bench: Bench,
    plan: Plan,
    stock: Sequence[Inlay],
    couples: Sequence[Couple],
    draw: np.random.Generator,
) -> Plan:
    """Return a plan changed a little: some shapes come sooner or later, at times all are shaken.

    Now and then holes are filled otherwise, from a stock of inlays, or other shapes are laid by
    twos.
    """
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
    inlays = plan.inlays
    if stock and draw.random() < (_DEALT if inlays else _DEALT_FIRST):
        keep, use = _one_of(_SHARES, draw), _one_of(_SHARES, draw)
        given = [x for x in inlays if draw.random() < keep]
        power, noise = _one_of(_POWERS, draw), _one_of(_NOISES, draw)
        inlays = dealt(bench, [x for x in stock if draw.random() < use], given, power, noise, draw)
    together = {couple.shape for couple in plan.couples}
    if couples and anew:
        share = draw.random()
        together = {couple.shape for couple in couples if draw.random() < share}
    elif couples and draw.random() < _OTHERWISE:
        together ^= {_one_of(couples, draw).shape}
    paired = tuple(couple for couple in couples if couple.shape in together)
    return Plan(tuple(sequence), fresh, lean, inlays, paired)


def _one_of(things: Sequence[Thing], draw: np.random.Generator) -> Thing:
    return things[int(draw.integers(len(things)))]


def _sequence(bench: Bench, rank: np.ndarray, key: np.ndarray) -> tuple[int, ...]:
    return tuple(sorted(bench.open_shapes, key=lambda k: (-rank[k], -round(float(key[k]), 6), k)))


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


def unused_sheets(bench: Bench, loads: Iterable[Load]) -> list[str]:
    """Return the sheets still in stock, in the usual order."""
    return _left_in_stock(first_plan(bench), loads)


def _left_in_stock(plan: Plan, loads: Iterable[Load]) -> list[str]:
    used = Counter(x.sheet for x in loads)
    fresh = []
    for sheet in plan.fresh:
        if used[sheet]:
            used[sheet] -= 1
        else:
            fresh.append(sheet)
    return fresh


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
    lying = Counter(int(k) for x in loads for k in bench.kinds(x))
    return bench.fill(
        loads,
        bench.wanted() - lying,
        sequence=plan.sequence,
        fresh=_left_in_stock(plan, loads),
        lean=plan.lean,
        inlays=plan.inlays,
        couples=plan.couples,
        worth=lambda layout: at_most == math.inf or charge_of(bench, layout.loads) <= at_most,
        should_stop=should_stop,
    )
