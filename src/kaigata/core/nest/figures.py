"""A nest and what it measures."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from shapely.geometry import box

from kaigata.core.nest.order import Gauge, NestOrder, StockSheet
from kaigata.core.plane import Motion

__all__ = [
    "Nest",
    "NestedSheet",
    "Placement",
    "Remnant",
    "Unplaced",
    "area_up_to",
    "measured",
    "measured_as_numbered",
    "metal_rates",
    "motion_of",
    "remnants_of",
]

LEAST_REMNANT = 300.0
"""mm: what is left of a sheet is worth keeping when it is at least this long."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Placement:
    """One copy of a part: mirrored, then turned (radians) about its 0,0, then moved, mm."""

    part: str
    copy: int
    x: float
    y: float
    turn: float
    mirrored: bool = False


def motion_of(placement: Placement) -> Motion:
    """Return the motion that lays a part where its placement says."""
    return Motion.turned(placement.turn, x=placement.x, y=placement.y, mirrored=placement.mirrored)


@dataclass(frozen=True, slots=True, kw_only=True)
class NestedSheet:
    """A sheet with its placements; ``used_length`` in mm, ``utilisation`` of the whole sheet."""

    sheet: str
    number: int
    placements: tuple[Placement, ...]
    used_length: float = 0.0
    utilisation: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Unplaced:
    """Copies that found no place, and why."""

    part: str
    quantity: int
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Nest:
    """A nest with its figures.

    ``counted_area`` is the metal it is charged for, mm²; ``charge`` is what that metal costs, or
    its area again where sheets have no cost.
    """

    sheets: tuple[NestedSheet, ...]
    unplaced: tuple[Unplaced, ...]
    utilisation: float
    counted_area: float
    charge: float = 0.0

    @property
    def left_out(self) -> int:
        """How many copies found no place."""
        return sum(u.quantity for u in self.unplaced)


@dataclass(frozen=True, slots=True, kw_only=True)
class Remnant:
    """What is left of a gauge's last sheet beyond its used length; mm."""

    sheet: str
    number: int
    width: float
    height: float


def remnants_of(order: NestOrder, nest: Nest) -> tuple[Remnant, ...]:
    """Return the rectangles worth keeping that a nest leaves: of whole sheets, not of remnants."""
    stock = {s.id: s for s in order.sheets}
    last = {stock[s.sheet].gauge: s for s in sorted(nest.sheets, key=lambda s: s.number)}
    found = []
    for sheet in last.values():
        kind = stock[sheet.sheet]
        left = round(kind.width - sheet.used_length, 1)
        if kind.outline is None and left >= LEAST_REMNANT:
            found.append(
                Remnant(sheet=sheet.sheet, number=sheet.number, width=left, height=kind.height)
            )
    return tuple(found)


def measured(
    order: NestOrder,
    filled: Sequence[tuple[str, Sequence[Placement]]],
    unplaced: Sequence[Unplaced] = (),
) -> Nest:
    """Return filled sheets as a nest with figures.

    Within a gauge the sheet on which counting only up to the used length saves most is numbered
    last, because the last one is counted so.

    Parameters
    ----------
    order : NestOrder
        The order.
    filled : sequence of (sheet id, placements)
        What lies where; sheets without a placement are left out.
    unplaced : sequence of Unplaced
        What found no place.

    Returns
    -------
    Nest
        The nest, sheets numbered from 1 gauge by gauge, copies numbered from 1 part by part.
    """
    measure = _Measure(order)
    stock = {s.id: s for s in order.sheets}
    groups: dict[Gauge, list[tuple[NestedSheet, float]]] = {}
    for sheet_id, placements in filled:
        if placements:
            sheet = stock[sheet_id]
            nested = measure.sheet(sheet, placements)
            saved = sheet.area - area_up_to(sheet, nested.used_length)
            groups.setdefault(sheet.gauge, []).append((nested, saved))
    sheets: list[NestedSheet] = []
    copies: dict[str, int] = {}
    for gauge, group in groups.items():
        rate = metal_rates([s for s in order.sheets if s.gauge == gauge])
        group.sort(key=lambda pair: pair[1] * rate[pair[0].sheet])
        for nested, _ in group:
            sheets.append(_numbered(nested, len(sheets) + 1, copies))
    return _nest_of(order, sheets, unplaced)


def measured_as_numbered(
    order: NestOrder, sheets: Sequence[NestedSheet], unplaced: Sequence[Unplaced] = ()
) -> Nest:
    """Return sheets with the numbers and copies they have as a nest with figures.

    For sheets that were changed by hand: nothing changes its name while someone looks at it. A
    sheet without a placement is left out.
    """
    measure = _Measure(order)
    stock = {s.id: s for s in order.sheets}
    kept = [
        replace(measure.sheet(stock[s.sheet], s.placements), number=s.number)
        for s in sheets
        if s.placements
    ]
    return _nest_of(order, kept, unplaced)


def _nest_of(order: NestOrder, sheets: Sequence[NestedSheet], unplaced: Sequence[Unplaced]) -> Nest:
    """Return measured sheets as a nest; a gauge's last is charged up to its used length."""
    parts = {p.id: p for p in order.parts}
    stock = {s.id: s for s in order.sheets}
    last = {stock[s.sheet].gauge: s for s in sorted(sheets, key=lambda s: s.number)}
    counted, charge = [], []
    for s in sheets:
        sheet = stock[s.sheet]
        is_last = last[sheet.gauge] is s
        counted.append(area_up_to(sheet, s.used_length) if is_last else sheet.area)
        rate = metal_rates([o for o in order.sheets if o.gauge == sheet.gauge])[s.sheet]
        charge.append(counted[-1] * rate)
    net = math.fsum(parts[p.part].region.area for s in sheets for p in s.placements)
    metal = math.fsum(counted)
    return Nest(
        sheets=tuple(sheets),
        unplaced=tuple(unplaced),
        utilisation=net / metal if metal else 0.0,
        counted_area=metal,
        charge=math.fsum(charge),
    )


def metal_rates(sheets: Sequence[StockSheet]) -> dict[str, float]:
    """Return what a mm² of each sheet of a gauge costs; 1 where not all of them have a cost."""
    if any(s.cost is None for s in sheets):
        return {s.id: 1.0 for s in sheets}
    return {s.id: (s.cost or 0.0) / s.area for s in sheets}


def _numbered(nested: NestedSheet, number: int, copies: dict[str, int]) -> NestedSheet:
    placements = []
    for p in nested.placements:
        copies[p.part] = copies.get(p.part, 0) + 1
        placements.append(replace(p, copy=copies[p.part]))
    return replace(nested, number=number, placements=tuple(placements))


class _Measure:
    """Measures sheets; how far a part reaches is found once for each way it lies in."""

    def __init__(self, order: NestOrder) -> None:
        self._margin = order.margin
        self._parts = {p.id: p for p in order.parts}
        self._known: dict[tuple[str, bool, float], float] = {}

    def sheet(self, sheet: StockSheet, placements: Sequence[Placement]) -> NestedSheet:
        """Return what lies on a sheet with its figures, not numbered yet."""
        reach = max(self._reach(p) for p in placements)
        net = math.fsum(self._parts[p.part].region.area for p in placements)
        return NestedSheet(
            sheet=sheet.id,
            number=0,
            placements=tuple(placements),
            used_length=reach + self._margin,
            utilisation=net / sheet.area,
        )

    def _reach(self, p: Placement) -> float:
        """Return the furthest x that a placement reaches, mm."""
        key = (p.part, p.mirrored, p.turn)
        if key not in self._known:
            still = Motion.turned(p.turn, mirrored=p.mirrored)
            self._known[key] = self._parts[p.part].region.outer.moved(still).bounds[2]
        return p.x + self._known[key]


def area_up_to(sheet: StockSheet, length: float) -> float:
    """Return a sheet's area left of a length, mm²."""
    if sheet.outline is None:
        return length * sheet.height
    left = box(-1.0, -1.0, length, sheet.height + 1.0)
    return float(sheet.outline.polygon().intersection(left).area)
