"""A whole nest from a sequence of parts: each copy goes where it reaches least far right."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from kaigata.core.nest.bench_sheet import BenchSheet, Shapes
from kaigata.core.nest.figures import Nest, Unplaced, measured
from kaigata.core.nest.order import Gauge, NestPart, StockSheet, gauge_name

__all__ = ["Plan", "build"]


@dataclass(frozen=True, slots=True)
class Plan:
    """What a build follows.

    Attributes
    ----------
    sequence : tuple of str
        Part ids; all copies of a part follow each other.
    sheets : tuple of str
        Sheet ids in the order they are taken from stock.
    """

    sequence: tuple[str, ...]
    sheets: tuple[str, ...]


def build(shapes: Shapes, plan: Plan, *, should_stop: Callable[[], bool]) -> Nest | None:
    """Return the nest that a plan gives, or None when it was stopped before its end.

    Parts of higher priority come first whatever the plan says, so none of them is left out for
    the sake of a lower one.
    """
    order = shapes.order
    stock = {s.id: s for s in order.sheets}
    filled: list[BenchSheet] = []
    missing: list[Unplaced] = []
    place = {part: i for i, part in enumerate(plan.sequence)}
    for gauge in order.gauges:
        sheets = [stock[i] for i in plan.sheets if stock[i].gauge == gauge]
        parts = [p for p in order.parts if p.gauge == gauge]
        parts.sort(key=lambda p: (-p.priority, place[p.id]))
        result = _fill(shapes, parts, sheets, should_stop)
        if result is None:
            return None
        done, left_out = result
        filled.extend(done)
        missing.extend(
            Unplaced(part=p.id, quantity=n, why=_reason(shapes, p, sheets, gauge))
            for p in parts
            if (n := left_out[p.id])
        )
    return measured(order, [(b.sheet.id, b.placements) for b in filled], missing)


def _fill(
    shapes: Shapes,
    parts: Sequence[NestPart],
    stock: Sequence[StockSheet],
    should_stop: Callable[[], bool],
) -> tuple[list[BenchSheet], Counter[str]] | None:
    open_sheets: list[BenchSheet] = []
    used: Counter[str] = Counter()
    left_out: Counter[str] = Counter()
    for part in parts:
        for copy in range(part.quantity):
            if should_stop():
                return None
            if not _put(shapes, part, open_sheets, stock, used):
                left_out[part.id] = part.quantity - copy
                break
    return open_sheets, left_out


def _put(
    shapes: Shapes,
    part: NestPart,
    open_sheets: list[BenchSheet],
    stock: Sequence[StockSheet],
    used: Counter[str],
) -> bool:
    """Lay one copy on the first open sheet that takes it, or on a new one."""
    for sheet in open_sheets:
        place = sheet.best_place(part.id)
        if place is not None:
            sheet.put(place)
            return True
    for kind in stock:
        if kind.count is not None and used[kind.id] >= kind.count:
            continue
        fresh = BenchSheet(shapes, kind)
        place = fresh.best_place(part.id)
        if place is not None:
            fresh.put(place)
            open_sheets.append(fresh)
            used[kind.id] += 1
            return True
    return False


def _reason(shapes: Shapes, part: NestPart, sheets: Sequence[StockSheet], gauge: Gauge) -> str:
    name = gauge_name(gauge)
    if not sheets:
        return f"no sheet of {name} in the order"
    if not any(BenchSheet(shapes, s).best_place(part.id) for s in sheets):
        return f"larger than every sheet of {name}"
    have = sum(s.count or 0 for s in sheets)
    return f"the {have} sheet{'s' if have != 1 else ''} of {name} are used up"


def largest_first(parts: Sequence[NestPart]) -> tuple[str, ...]:
    """Return part ids by the size of their outline, largest first."""
    ranked = sorted(parts, key=lambda p: (-round(p.region.outer.area, 3), p.id))
    return tuple(p.id for p in ranked)


def standing_sheets(sheets: Sequence[StockSheet]) -> tuple[str, ...]:
    """Return sheet ids, remnants and smaller sheets first: they are the cheaper metal."""
    return tuple(s.id for s in sorted(sheets, key=lambda s: (s.outline is None, s.area, s.id)))


def score(nest: Nest) -> tuple[int, float]:
    """Return what makes a nest better when less: copies left out, then metal charged for."""
    return (nest.left_out, math.floor(nest.counted_area * 1000) / 1000)
