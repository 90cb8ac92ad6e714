"""The sheets of one gauge on the bench: what lies on each, and filling them."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from kaigata.core.errors import Stopped
from kaigata.core.nest.figures import Placement
from kaigata.core.nest.inlays import Couple, Inlay, items_of
from kaigata.core.nest.nofit import Floats, Ints
from kaigata.core.nest.order import NestOrder, NestPart, StockSheet
from kaigata.core.nest.place import Filling, fill, wall_up_all
from kaigata.core.nest.strips import make_walls
from kaigata.core.nest.table import ShapeTable, Table, Way

__all__ = ["Bench", "Layout", "Load"]

_PORTION, _LOOKS = 25, 20
"""Copies laid at least between two looks at whether to go on; looks at most."""
_FEW_KINDS = 100
"""Parts up to which fillings ask the same no-fit polygons so often that boundaries pay."""


@dataclass(frozen=True, eq=False)
class Load:
    """What lies on one sheet: way, place (mm) and whether it must stay, one row a copy."""

    sheet: str
    way: Ints
    at: Floats
    fixed: np.ndarray

    def without(self, rows: Iterable[int]) -> Load:
        """Return the load without some rows."""
        keep = np.ones(len(self.way), dtype=bool)
        keep[list(rows)] = False
        return replace(self, way=self.way[keep], at=self.at[keep], fixed=self.fixed[keep])

    def joined(self, other: Load) -> Load:
        """Return the load with what lies in another of the same sheet."""
        return Load(
            self.sheet,
            np.concatenate([self.way, other.way]),
            np.vstack([self.at, other.at]),
            np.concatenate([self.fixed, other.fixed]),
        )

    def __len__(self) -> int:
        """How many copies lie on it."""
        return len(self.way)


@dataclass(frozen=True, eq=False)
class Layout:
    """The loads of a gauge and the copies that lie nowhere, by shape."""

    loads: tuple[Load, ...]
    left_out: Counter[int]


class Bench:
    """Parts, sheets and shapes of one gauge.

    ``beyond`` is how far grown shapes reach beyond their parts, mm. ``open_shapes`` are the parts'
    shapes, and ``closed`` those with their holes closed by the same shape with holes.

    Parameters
    ----------
    order : NestOrder
        The order.
    parts, sheets : sequence
        Those of one gauge.
    extra : iterable of Way
        Ways that copies lie in already.
    """

    def __init__(
        self,
        order: NestOrder,
        parts: Sequence[NestPart],
        sheets: Sequence[StockSheet],
        extra: Iterable[Way] = (),
    ) -> None:
        self.margin = order.margin
        self.parts = tuple(parts)
        self.sheets = {s.id: s for s in sheets}
        self.shapes = ShapeTable(order, parts, sheets, extra)
        self.first = len(self.shapes.obstacle)
        reach, hull = self.table.reach[self.first :], self.table.hull[self.first :]
        self.beyond = float(np.abs(reach - hull).max())
        self.closed = self.shapes.closed
        self.open_shapes = range(self.first, self.first + len(parts))
        self.hull_area = np.array([p.convex_hull.area for p in self.shapes.grown])
        self.area, self.net, self.priority = np.zeros((3, len(self.shapes.grown)))
        for i, part in enumerate(parts, start=self.first):
            self.area[i], self.net[i] = part.region.outer.area, part.region.area
            self.priority[i] = part.priority
        for k, twin in self.closed.items():
            self.area[twin] = self.net[twin] = self.area[k]
            self.priority[twin] = self.priority[k]
        # More copies than metal are not even tried: a slip of the pen may order a million.
        metal = math.fsum(math.inf if s.count is None else s.area * s.count for s in sheets)
        ordered = Counter({k: p.quantity for k, p in enumerate(parts, start=self.first)})
        self.quantity = Counter(
            {k: n if metal == math.inf else min(n, int(metal / self.net[k]) + 1)
             for k, n in ordered.items()}
        )  # fmt: skip
        self.surplus = ordered - self.quantity

    @property
    def table(self) -> Table:
        """The shapes for compiled loops."""
        return self.shapes.table

    def room(self, sheet: str, length: float | None = None) -> Floats:
        """Return where parts may reach on a sheet, up to a length if one is given, mm."""
        s, m = self.sheets[sheet], self.margin
        return np.array([m, m, (length if length is not None else s.width) - m, s.height - m])

    def rooms(self, loads: Sequence[Load], last: int) -> list[Floats]:
        """Return where parts may reach on each load's sheet, on one only as far as they do, mm."""
        return [
            self.room(x.sheet, self.used_length(x) if i == last else None)
            for i, x in enumerate(loads)
        ]

    def obstacle(self, sheet: str) -> int | None:
        """Return the way of what lies outside a remnant; None for a rectangle."""
        return self.shapes.obstacle.get(sheet)

    def wanted(self) -> Counter[int]:
        """Return how many copies of each shape are ordered, fillers left out."""
        fillers = {k for k, p in enumerate(self.parts, start=self.first) if p.filler}
        return Counter({k: n for k, n in self.quantity.items() if k not in fillers})

    def fillers(self) -> Counter[int]:
        """Return how many copies of each filler may be used."""
        return self.quantity - self.wanted()

    def fits_at_all(self, kind: int) -> bool:
        """Whether a shape in one of its ways is no larger than the room on some sheet."""
        ways = slice(self.table.first[kind], self.table.last[kind])
        size = self.table.reach[ways, 2:] - self.table.reach[ways, :2]
        rooms = [self.room(sheet) for sheet in self.sheets]
        return any(bool(np.all(size <= room[2:] - room[:2], axis=1).any()) for room in rooms)

    def used_length(self, load: Load) -> float:
        """Return the furthest x a load reaches plus the margin, mm."""
        return float((load.at[:, 0] + self.table.reach[load.way, 2]).max()) + self.margin

    def kinds(self, load: Load) -> Ints:
        """Return the shape of each copy of a load."""
        return self.table.kind[load.way]

    def fill(
        self,
        loads: Sequence[Load],
        wanted: Counter[int],
        *,
        sequence: Sequence[int],
        fresh: Sequence[str] = (),
        lean: float = 0.0,
        rooms: Sequence[Floats] | None = None,
        inlays: Sequence[Inlay] = (),
        couples: Sequence[Couple] = (),
        worth: Callable[[Layout], bool] = lambda layout: True,
        should_stop: Callable[[], bool] = lambda: False,
    ) -> Layout:
        """Lay copies on sheets beside what lies there, each where it reaches least far right.

        Parameters
        ----------
        loads : sequence of Load
            Sheets in use, tried first.
        wanted : Counter
            Copies to lay, by shape.
        sequence : sequence of int
            Shapes in the order they come; all copies of one follow each other.
        fresh : sequence of str
            Sheets to begin one after another when none in use takes a copy.
        lean : float
            How much a way's top counts beside its right end.
        rooms : sequence of (4,) array, optional
            Where parts may reach on the sheets in use, mm; else everywhere.
        inlays : sequence of Inlay
            What goes along in holes, as far as it is wanted.
        couples : sequence of Couple
            Shapes whose copies are laid by twos where there is room for both.
        worth : callable
            Asked now and then whether to go on from what lies there; else the rest is left out.
        should_stop : callable
            Asked as often.

        Returns
        -------
        Layout
            The sheets in use and those begun, and what found no place.

        Raises
        ------
        Stopped
            It was stopped before the end.
        """
        shapes = [s for k in sequence for s in (k, self.closed.get(k)) if s is not None]
        items = items_of(shapes, wanted, inlays, couples)
        sheets = [load.sheet for load in loads] + list(fresh)
        lying = sum(len(load) for load in loads)
        blocks = [self.obstacle(s) for s in sheets]
        n, b = len(items.kind), sum(x is not None for x in blocks)
        room = np.array(
            [
                rooms[i] if rooms is not None and i < len(loads) else self.room(s)
                for i, s in enumerate(sheets)
            ]
        ).reshape(-1, 4)
        filling = Filling(
            sheet=np.full(n + lying + b, -1),
            way=np.zeros(n + lying + b, dtype=np.int64),
            at=np.zeros((n + lying + b, 2)),
            head=np.full(len(sheets), -1),
            next=np.full(n + lying + b, -1),
            room=room,
            stock=np.unique(np.array(sheets, dtype=str), return_inverse=True)[1].astype(np.int64),
            reached=np.full((len(sheets), len(self.table.kind)), -1e30),
            walls=make_walls(float(room[:, 2].max(initial=0.0)) + self.margin, room, self.beyond),
            host=items.host,
            seat=items.seat,
            seats=items.seats,
            mate=items.mate,
            met=np.full((len(sheets), len(self.table.kind)), -1e30),
            by_sums=len(self.parts) > _FEW_KINDS,
        )
        row = n
        for s, load in enumerate(loads):
            for way, at in zip(load.way, load.at, strict=True):
                _put(filling, row, s, way, at)
                row += 1
        for s, block in enumerate(blocks):
            if block is not None:
                _put(filling, row, s, block, np.zeros(2))
                row += 1
        wall_up_all(self.table, filling)
        kinds = items.kind
        portion = max(_PORTION, n // _LOOKS)
        for begin in range(0, n, portion):
            if should_stop():
                raise Stopped("the search was stopped before its first nest was complete")
            if begin and not worth(self._layout(loads, sheets, filling, kinds)):
                break
            fill(self.table, filling, kinds, begin, min(n, begin + portion), lean)
        return self._layout(loads, sheets, filling, kinds)

    def _layout(
        self, loads: Sequence[Load], sheets: Sequence[str], filling: Filling, kinds: Ints
    ) -> Layout:
        done = []
        where = filling.sheet[: len(kinds)]
        for s, sheet in enumerate(sheets):
            rows = np.flatnonzero(where == s)
            way, at = filling.way[rows], filling.at[rows]
            fixed = np.zeros(len(rows), dtype=bool)
            if s < len(loads):
                way, at = np.concatenate([loads[s].way, way]), np.vstack([loads[s].at, at])
                fixed = np.concatenate([loads[s].fixed, fixed])
            if len(way) or s < len(loads):
                done.append(Load(sheet, way, at, fixed))
        return Layout(tuple(done), Counter(kinds[where < 0].tolist()))

    def placements(self, load: Load) -> list[Placement]:
        """Return a load as placements."""
        ways = [self.shapes.ways[w] for w in load.way]
        return [
            Placement(part=w.part, copy=0, x=float(x), y=float(y), turn=w.turn, mirrored=w.mirrored)
            for w, (x, y) in zip(ways, load.at, strict=True)
        ]

    def load_of(
        self,
        sheet: str,
        placements: Sequence[Placement],
        fixed: Callable[[Placement], bool] = lambda placement: False,
    ) -> Load:
        """Return placements as a load; ``fixed`` tells which must stay."""
        ways = [self.shapes.known(Way(p.part, p.mirrored, p.turn)) for p in placements]
        at = [(p.x + dx, p.y + dy) for p, (_, dx, dy) in zip(placements, ways, strict=True)]
        return Load(
            sheet,
            np.array([w for w, _, _ in ways], dtype=np.int64),
            np.array(at, dtype=float).reshape(-1, 2),
            np.array([fixed(p) for p in placements], dtype=bool),
        )


def _put(filling: Filling, row: int, sheet: int, way: int, at: Floats) -> None:
    filling.sheet[row], filling.way[row], filling.at[row] = sheet, way, at
    filling.next[row] = filling.head[sheet]
    filling.head[sheet] = row
