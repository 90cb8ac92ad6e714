"""Shapes of an order prepared for placing, and one sheet being filled."""

from __future__ import annotations

import math
from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from shapely.geometry import Polygon, box

from kaigata.core.nest.figures import Placement
from kaigata.core.nest.kernels import first_place
from kaigata.core.nest.nofit import EdgePool, no_fit_edges
from kaigata.core.nest.order import NestOrder, NestPart, StockSheet
from kaigata.core.nest.shapes import Pieces, convex_pieces, grown_polygon
from kaigata.core.plane import Motion

__all__ = ["BenchSheet", "Shapes", "Way"]

STEP = 5.0
EXACT = 0.01
_FAR = 1e29


@dataclass(frozen=True, slots=True)
class Way:
    """A way to lay a part: mirrored or not, and turned, radians."""

    part: str
    mirrored: bool
    turn: float


@dataclass(frozen=True, slots=True)
class Place:
    """Where a way can go on a sheet, and how far right it then reaches, mm."""

    way: Way
    x: float
    y: float
    right: float


class Shapes:
    """Grown shapes of every part of an order, and the no-fit polygons between them."""

    def __init__(self, order: NestOrder) -> None:
        self.order = order
        self.pool = EdgePool()
        self.parts: dict[str, NestPart] = {p.id: p for p in order.parts}
        least = min(p.region.outer.area for p in order.parts)
        self._polygons = {
            p.id: grown_polygon(p.region, grow=order.spacing / 2, least_hole=least)
            for p in order.parts
        }
        self._pieces: dict[tuple[str, bool, float, bool], Pieces] = {}
        self._bounds: dict[Way, tuple[float, float, float, float]] = {}
        self._edges: dict[Hashable, np.ndarray] = {}

    @cached_property
    def ways(self) -> dict[str, tuple[Way, ...]]:
        """The ways to lay each part, those that show the same shape again left out."""
        return {
            p.id: self._different(
                [
                    Way(p.id, mirrored, turn)
                    for mirrored in ((False, True) if p.may_mirror else (False,))
                    for turn in p.allowed_turns
                ]
            )
            for p in self.order.parts
        }

    def _different(self, ways: list[Way]) -> tuple[Way, ...]:
        kept: list[tuple[Way, Polygon]] = []
        for way in ways:
            outline = Polygon(self._outline(way))
            if not any(_same_shape(outline, other) for _, other in kept):
                kept.append((way, outline))
        return tuple(w for w, _ in kept)

    def _outline(self, way: Way) -> np.ndarray:
        x0, y0, _, _ = self.bounds(way)
        points = self.parts[way.part].region.outer.moved(_motion(way)).flattened(0.1)
        return np.array(points) - (x0, y0)

    def bounds(self, way: Way) -> tuple[float, float, float, float]:
        """Return the exact bounds of a part laid in a way about its own 0,0, mm."""
        if way not in self._bounds:
            self._bounds[way] = self.parts[way.part].region.outer.moved(_motion(way)).bounds
        return self._bounds[way]

    def pieces(self, part: str, *, mirrored: bool, turn: float, filled: bool = False) -> Pieces:
        """Return the convex pieces of a part's grown shape in a way, its holes filled or not."""
        key = (part, mirrored, turn, filled)
        if key not in self._pieces:
            if turn == 0:
                polygon = self._polygons[part]
                flat = convex_pieces(Polygon(polygon.exterior) if filled else polygon)
                flip = [(p * (-1.0, 1.0))[::-1] for p in flat] if mirrored else flat
                self._pieces[key] = tuple(np.ascontiguousarray(p) for p in flip)
            else:
                straight = self.pieces(part, mirrored=mirrored, turn=0.0, filled=filled)
                self._pieces[key] = tuple(_turned(p, turn) for p in straight)
        return self._pieces[key]

    def _may_hold(self, outer: str, inner: str) -> bool:
        """Whether a hole of one part is large enough to think of the other lying in it."""
        held = self._polygons[inner]
        sides = _sides(held.minimum_rotated_rectangle)
        return any(
            float(Polygon(hole).area) > float(held.area)
            and all(a >= b for a, b in zip(_sides(Polygon(hole).minimum_rotated_rectangle), sides,
                                           strict=True))
            for hole in self._polygons[outer].interiors
        )  # fmt: skip

    def no_fit(self, lying: Way, moving: Way) -> Hashable:
        """Return the pool's key of the no-fit polygon of two ways, made when it is missing."""
        key = (lying, moving)
        if key not in self.pool:
            relative = round((moving.turn - lying.turn) % (2 * math.pi), 12)
            base = (lying.part, lying.mirrored, moving.part, moving.mirrored, relative)
            if base not in self._edges:
                self._edges[base] = no_fit_edges(
                    self.pieces(lying.part, mirrored=lying.mirrored, turn=0.0,
                                filled=not self._may_hold(lying.part, moving.part)),
                    self.pieces(moving.part, mirrored=moving.mirrored, turn=relative,
                                filled=not self._may_hold(moving.part, lying.part)),
                )  # fmt: skip
            edges = self._edges[base]
            both = [_turned(edges[:, :2], lying.turn), _turned(edges[:, 2:], lying.turn)]
            self.pool.add(key, np.hstack(both))
        return key

    def no_fit_outside(self, sheet: StockSheet, moving: Way) -> Hashable | None:
        """Return the key of where a way would leave a remnant's outline; None for a rectangle."""
        if sheet.outline is None:
            return None
        key = (sheet.id, moving)
        if key not in self.pool:
            inset = self.order.margin - self.order.spacing / 2
            room = sheet.outline.polygon().buffer(-inset, join_style="mitre", mitre_limit=5.0)
            outside = box(-1, -1, sheet.width + 1, sheet.height + 1).difference(room)
            fixed = [p for g in getattr(outside, "geoms", [outside]) for p in convex_pieces(g)]
            pieces = self.pieces(
                moving.part, mirrored=moving.mirrored, turn=moving.turn, filled=True
            )
            self.pool.add(key, no_fit_edges(tuple(fixed), pieces))
        return key


def _motion(way: Way) -> Motion:
    return Motion.turned(way.turn, mirrored=way.mirrored)


def _turned(points: np.ndarray, turn: float) -> np.ndarray:
    m = Motion.turned(turn)
    return np.ascontiguousarray(points @ np.array([[m.cos, m.sin], [-m.sin, m.cos]]))


def _sides(rectangle: Polygon) -> list[float]:
    a, b, c, *_ = rectangle.exterior.coords
    return sorted((math.dist(a, b), math.dist(b, c)))


def _same_shape(a: Polygon, b: Polygon) -> bool:
    """Whether two outlines, each from its lower left corner, are one shape for placing."""
    if any(abs(p - q) > EXACT for p, q in zip(a.bounds, b.bounds, strict=True)):
        return False
    differing = float(a.buffer(0).symmetric_difference(b.buffer(0)).area)
    return differing < EXACT * float(a.length)


class BenchSheet:
    """A sheet being filled from the left.

    A sheet only fills up, so what a way did not fit left of once it will not fit left of later:
    each way's search goes on where its last one ended.
    """

    def __init__(self, shapes: Shapes, sheet: StockSheet) -> None:
        self.sheet = sheet
        self.placements: list[Placement] = []
        self._shapes = shapes
        self._lying: list[tuple[Way, float, float]] = []
        self._reached: dict[Way, float] = {}

    def best_place(self, part: str) -> Place | None:
        """Return the place of a part that reaches least far right, or None."""
        found = [p for way in self._shapes.ways[part] if (p := self._place(way))]
        return min(found, key=lambda p: (round(p.right, 3), p.y), default=None)

    def put(self, place: Place) -> None:
        """Lay a part at a place."""
        way = place.way
        self._lying.append((way, place.x, place.y))
        self.placements.append(
            Placement(
                part=way.part, copy=0, x=place.x, y=place.y, turn=way.turn, mirrored=way.mirrored
            )
        )

    def _place(self, way: Way) -> Place | None:
        shapes, margin = self._shapes, self._shapes.order.margin
        bx0, by0, bx1, by1 = shapes.bounds(way)
        left, right = margin - bx0, self.sheet.width - margin - bx1
        low, high = margin - by0, self.sheet.height - margin - by1
        start = self._reached.get(way, left)
        if right < left or high < low or start > right:
            return None
        rows, at, boxes = self._obstacles(way, start)
        x, y = first_place(
            start, right, low, high, STEP, EXACT, shapes.pool.edges, rows[0], rows[1], at, boxes
        )
        self._reached[way] = x
        return Place(way, x, y, x + bx1) if x < _FAR else None

    def _obstacles(
        self, way: Way, start: float
    ) -> tuple[tuple[np.ndarray, np.ndarray], np.ndarray, np.ndarray]:
        """Return what stands in the way right of ``start``: edge rows, positions and boxes."""
        shapes = self._shapes
        keys = [(shapes.no_fit(lying, way), x, y) for lying, x, y in self._lying]
        outside = shapes.no_fit_outside(self.sheet, way)
        if outside is not None:
            keys.append((outside, 0.0, 0.0))
        pool = shapes.pool
        kept = [(k, x, y) for k, x, y in keys if pool.box(k)[2] + x > start]
        first = np.array([pool.rows(k)[0] for k, _, _ in kept], dtype=np.int64)
        count = np.array([pool.rows(k)[1] for k, _, _ in kept], dtype=np.int64)
        at = np.array([(x, y) for _, x, y in kept], dtype=float).reshape(-1, 2)
        boxes = np.array([pool.box(k) for k, _, _ in kept], dtype=float).reshape(-1, 4)
        return (first, count), at, boxes + np.hstack([at, at])
