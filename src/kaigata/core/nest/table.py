"""The shapes of one gauge in flat arrays: how each may lie, and how every two keep apart.

A *way* is a shape mirrored or not and turned. Remnant outlines are shapes too: what lies outside of
them is an obstacle with one way only. Compiled loops know parts only as numbers of ways.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any, NamedTuple

import numpy as np
import numpy.typing as npt
from shapely.geometry import Polygon, box

from kaigata.core.nest.cells import Cells, cells_for
from kaigata.core.nest.nofit import Floats, Forms, Ints, NoFits, no_fits_for
from kaigata.core.nest.order import NestOrder, NestPart, StockSheet
from kaigata.core.nest.shapes import coarser, convex_pieces, grown_polygon, outward_points
from kaigata.core.nest.strips import Solids, make_solids
from kaigata.core.plane import Contour, Motion

__all__ = ["ShapeTable", "Table", "Way"]

FREE_TURNS = 8
"""Turns tried of a part that may lie at any angle: every 45 degrees. With more of them the search
finds less in the same time."""

_SAME = 0.01
"""mm, and mm of outline: shapes that differ less are one shape for placing."""
_CHORD = 0.005
"""mm: chords so near to their arcs that a disc is the same in every turn."""


@dataclass(frozen=True, slots=True)
class Way:
    """A way to lay a part: mirrored or not, and turned, radians."""

    part: str
    mirrored: bool
    turn: float


class Table(NamedTuple):
    """Ways and no-fit polygons of a gauge, for compiled loops.

    ``kind[w]`` is the shape of way w; shape s may lie in the ways ``first[s]`` to ``last[s]``.
    Of two ways the one of lower ``rank`` counts as lying, the other as moving beside it.
    ``back[w]`` (a, b, c, d) undoes the way's turn: (a x + b y, c x + d y). ``reach[w]`` are the
    exact bounds of the part about its 0,0 and ``hull[w]`` those of its grown shape, mm. The no-fit
    polygon of way v against a lying way w is ``fits.pair[w, v]`` where ``rank[w] <= rank[v]``, made
    from ``forms`` when it is first asked for.
    """

    kind: Ints
    rank: Ints
    first: Ints
    last: Ints
    back: Floats
    reach: Floats
    hull: Floats
    forms: Forms
    fits: NoFits
    cells: Cells
    solids: Solids


class ShapeTable:
    """Shapes of the parts and remnants of one gauge, with their ways and no-fit polygons.

    Parameters
    ----------
    order : NestOrder
        Where spacing and margin come from.
    parts : sequence of NestPart
        Parts of one gauge.
    sheets : sequence of StockSheet
        Sheets of that gauge.
    extra : iterable of Way
        Ways that parts lie in already and that are not among the allowed ones.

    Attributes
    ----------
    ways : list of Way
        All ways, by number.
    grown : list of Polygon
        The shapes, grown by half the spacing: remnants, parts, then parts once more with their
        holes closed, of those in whose holes others can lie.
    closed : dict of int to int
        The shapes with holes closed, by the same shape with holes.
    holds : (n, n) array of bool
        Whether a hole of one shape is large enough to think of another lying in it.
    """

    def __init__(
        self,
        order: NestOrder,
        parts: Sequence[NestPart],
        sheets: Sequence[StockSheet],
        extra: Iterable[Way] = (),
    ) -> None:
        self.parts = tuple(parts)
        remnants = [s for s in sheets if s.outline is not None]
        self.obstacle = {s.id: i for i, s in enumerate(remnants)}
        self.kind = {p.id: len(remnants) + i for i, p in enumerate(parts)}
        self._least = least = min(p.region.outer.area for p in parts)
        self.grown = [_outside(s, order, parts) for s in remnants] + [
            grown_polygon(p.region, grow=order.spacing / 2, least_hole=least) for p in parts
        ]
        holds = self._holding()
        hosts = [int(k) for k in np.flatnonzero(holds.any(axis=1)) if k >= len(remnants)]
        self.closed = {k: len(self.grown) + i for i, k in enumerate(hosts)}
        base = np.array([*range(len(self.grown)), *hosts])
        self.grown += [Polygon(self.grown[k].exterior) for k in hosts]
        self.holds = holds[np.ix_(base, base)]
        self.holds[list(self.closed.values())] = False
        self._inner = [np.array(p.representative_point().coords[0]) for p in self.grown]
        self.ways: list[Way] = [Way(s.id, mirrored=False, turn=0.0) for s in remnants]
        first, last = list(range(len(remnants))), list(range(1, len(remnants) + 1))
        for part in parts:
            first.append(len(self.ways))
            self.ways += _different_ways(part, least)
            last.append(len(self.ways))
        known = set(self.ways)
        for k in hosts:
            ways = self.ways[first[k] : last[k]]
            first.append(len(self.ways))
            self.ways += ways
            last.append(len(self.ways))
        self.ways += sorted(set(extra) - known, key=lambda w: (w.part, w.mirrored, w.turn))
        self._known = {_name(w): (i, 0.0, 0.0) for i, w in reversed([*enumerate(self.ways)])}
        kinds = [i if i < len(remnants) else self.kind[w.part] for i, w in enumerate(self.ways)]
        for twin in self.closed.values():
            kinds[first[twin] : last[twin]] = [twin] * (last[twin] - first[twin])
        # A closed shape next to the same shape with holes, so that they share no-fit polygons.
        rank = 2 * base[kinds] + (np.array(kinds) != base[kinds])
        forms = self._forms(kinds, first, base)
        fits = no_fits_for(forms)
        self.table = Table(
            kind=np.array(kinds, dtype=np.int64),
            rank=rank,
            first=np.array(first, dtype=np.int64),
            last=np.array(last, dtype=np.int64),
            back=np.array([_back(w) for w in self.ways]),
            reach=np.array([self._reach(i, w) for i, w in enumerate(self.ways)]),
            hull=np.array([_bounds(self.grown[k], w)
                           for k, w in zip(kinds, self.ways, strict=True)]),
            forms=forms,
            fits=fits,
            cells=cells_for(fits),
            solids=make_solids([_rings(self.grown[k], w)
                                for k, w in zip(kinds, self.ways, strict=True)]),
        )  # fmt: skip

    def __getstate__(self) -> dict[str, Any]:
        """Return what another process needs, without room for more polygons."""
        fits, cells = self.table.fits.trimmed(), self.table.cells.emptied()
        table = self.table._replace(fits=fits, cells=cells)
        return {**self.__dict__, "table": table}

    def __setstate__(self, state: dict[str, Any]) -> None:
        """Take that, and make room."""
        self.__dict__.update(state)
        fits = no_fits_for(self.table.forms, self.table.fits)
        self.table = self.table._replace(fits=fits, cells=cells_for(fits))

    def rings(self, kind: int, way: int) -> list[Floats]:
        """Return a grown shape's outline and holes in a way, closed, mm."""
        return _rings(self.grown[kind], self.ways[way])

    def inner_point(self, kind: int, way: int) -> Floats:
        """Return a point in a shape, not in its holes, as it lies in a way, mm."""
        a, b, c, d = _back(self.ways[way])
        point: Floats = self._inner[kind] @ np.array([[a, b], [c, d]])
        return point

    def known(self, way: Way) -> tuple[int, float, float]:
        """Return the number of a way, or of one that shows the same shape and how far it is off.

        Raises
        ------
        KeyError
            The part may not lie so.
        """
        name = _name(way)
        if name not in self._known:
            self._known[name] = self._shown_by_another(way)
        return self._known[name]

    def _shown_by_another(self, way: Way) -> tuple[int, float, float]:
        kind = self.kind[way.part]
        part = self.parts[kind - len(self.obstacle)]
        wanted, corner = _at_zero(part, way, self._least)
        for number in range(self.table.first[kind], self.table.last[kind]):
            other, its = _at_zero(part, self.ways[number], self._least)
            if self.ways[number].mirrored == way.mirrored and _same_shape(wanted, other):
                return number, corner[0] - its[0], corner[1] - its[1]
        raise KeyError(way)

    def _reach(self, index: int, way: Way) -> tuple[float, float, float, float]:
        if index < len(self.obstacle):
            x0, y0, x1, y1 = self.grown[index].bounds
            return (x0, y0, x1, y1)
        part = self.parts[self.kind[way.part] - len(self.obstacle)]
        return part.region.outer.moved(Motion.turned(way.turn, mirrored=way.mirrored)).bounds

    def _forms(self, kinds: Sequence[int], first: Sequence[int], base: Ints) -> Forms:
        """Return what no-fit polygons are made from."""
        n = len(base) - len(self.closed)
        whole = [convex_pieces(p) for p in self.grown[:n]]
        # Each shape twice: as it is, and with its holes filled for partners they cannot hold.
        filled = [
            convex_pieces(Polygon(p.exterior)) if p.interiors and i >= len(self.obstacle)
            else whole[i]
            for i, p in enumerate(self.grown[:n])
        ]  # fmt: skip
        end = np.cumsum([0, *(len(pieces) for pieces in whole + filled)])
        rings = [ring for pieces in whole + filled for ring in pieces]
        own = base[list(kinds)]
        turns = np.round(np.degrees([w.turn for w in self.ways]) * 1e6)
        mirrored = [w.mirrored for w in self.ways]
        twin = [
            first[self.closed[k]] + i - first[k] if k in self.closed else -1
            for i, k in enumerate(kinds)
        ]
        frame = (end[own], end[own + 1], end[n + own], end[n + own + 1], mirrored, turns, twin)
        return Forms(
            points=np.vstack(rings),
            piece=np.cumsum([0, *(len(r) for r in rings)]).astype(np.int64),
            frame=np.stack(frame, axis=1).astype(np.int64),
            holds=self.holds,
        )

    def _holding(self) -> npt.NDArray[np.bool_]:
        n = len(self.grown)
        holds = np.zeros((n, n), dtype=bool)
        area = np.array([p.area for p in self.grown])
        sides = np.array([_sides(p) for p in self.grown])
        for outer, polygon in enumerate(self.grown):
            for hole in (Polygon(h) for h in polygon.interiors):
                holds[outer] |= (hole.area > area) & (_sides(hole) >= sides).all(axis=1)
        return holds


def _outside(sheet: StockSheet, order: NestOrder, parts: Sequence[NestPart]) -> Polygon:
    """Return what lies outside a remnant's room, wide enough that no part reaches over it."""
    edge = sheet.outline or Contour.rectangle(sheet.width, sheet.height)
    inset = order.margin - order.spacing / 2
    # What bounds the room is taken as a hole: arcs in few chords that never reach beyond the edge.
    ring = Polygon(outward_points(edge.reversed()))
    room = ring.buffer(-inset, join_style="mitre", mitre_limit=5.0)
    bounds = [p.region.outer.bounds for p in parts]
    far = 2 * max(math.hypot(b[2] - b[0], b[3] - b[1]) for b in bounds) + 100.0
    outside = box(-far, -far, sheet.width + far, sheet.height + far).difference(room)
    return coarser(outside, size=max(sheet.width, sheet.height))


def _different_ways(part: NestPart, least: float) -> list[Way]:
    """Return the ways a part may lie in, those that show the same shape again left out."""
    turns = part.turns
    if turns is None:
        turns = tuple(2 * math.pi * i / FREE_TURNS for i in range(FREE_TURNS))
    kept: list[tuple[Way, Polygon]] = []
    for mirrored in (False, True) if part.may_mirror else (False,):
        for turn in turns:
            way = Way(part.id, mirrored, turn)
            outline, _ = _at_zero(part, way, least)
            if not any(_same_shape(outline, other) for _, other in kept):
                kept.append((way, outline))
    return [w for w, _ in kept]


def _name(way: Way) -> tuple[str, bool, int]:
    """Return what tells ways apart: turns that differ by less than a millionth degree are one."""
    return way.part, way.mirrored, round(math.degrees(way.turn) * 1e6) % 360_000_000


def _at_zero(part: NestPart, way: Way, least: float) -> tuple[Polygon, tuple[float, float]]:
    """Return a part in a way, the lower left corner of its bounds at 0,0; and where that was.

    Of its holes only those are there that are no smaller than ``least``, mm²: what can hold a part.
    """
    motion = Motion.turned(way.turn, mirrored=way.mirrored)
    outer = part.region.outer.moved(motion)
    x, y, _, _ = outer.bounds
    rings = [outer, *(h.moved(motion) for h in part.region.holes if -h.area >= least)]
    shell, *holes = (np.array(ring.flattened(_CHORD)) - (x, y) for ring in rings)
    return Polygon(shell, holes), (x, y)


def _same_shape(a: Polygon, b: Polygon) -> bool:
    if any(abs(p - q) > _SAME for p, q in zip(a.bounds, b.bounds, strict=True)):
        return False
    differing = float(a.buffer(0).symmetric_difference(b.buffer(0)).area)
    return differing < _SAME * float(a.length)


def _back(way: Way) -> tuple[float, float, float, float]:
    m = Motion.turned(way.turn)
    return (-m.cos, -m.sin, -m.sin, m.cos) if way.mirrored else (m.cos, m.sin, -m.sin, m.cos)


def _bounds(polygon: Polygon, way: Way) -> tuple[float, float, float, float]:
    points = _rings(polygon, way)[0]
    (x0, y0), (x1, y1) = points.min(axis=0), points.max(axis=0)
    return (float(x0), float(y0), float(x1), float(y1))


def _rings(polygon: Polygon, way: Way) -> list[Floats]:
    """Return a shape's outline and holes in a way, closed."""
    a, b, c, d = _back(way)
    rings = (polygon.exterior, *polygon.interiors)
    return [np.array(r.coords) @ np.array([[a, b], [c, d]]) for r in rings]


def _sides(shape: Polygon) -> list[float]:
    a, b, c, *_ = shape.minimum_rotated_rectangle.exterior.coords
    return sorted((math.dist(a, b), math.dist(b, c)))
