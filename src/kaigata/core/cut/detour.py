"""Rapid moves round what is already cut free: it may have tipped up."""

from __future__ import annotations

import heapq
import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon
from shapely.strtree import STRtree

from kaigata.core.plane import Point

__all__ = ["Freed"]

_AWAY = 2.0
"""mm: the head passes freed metal at this distance."""

_MOST = 16
"""Pieces in the way that are gone round; more are flown over."""

_LONGEST = 3.0
"""A way round that is longer than this many times the straight one is not taken."""


class Freed:
    """What of a sheet has been cut free so far, and ways round it."""

    def __init__(self, sheet: Polygon, shapes: Sequence[Polygon]) -> None:
        self._sheet = sheet
        self._shapes = list(shapes)
        self._tree = STRtree(self._shapes)
        self._is_free = np.zeros(len(self._shapes), dtype=bool)

    def add(self, index: int) -> None:
        """Say that a shape is cut free."""
        self._is_free[index] = True

    def way(self, start: Point, end: Point) -> list[Point]:
        """Return the points of a way over nothing freed; where none is found the straight one.

        Corners of what lies in the way join a graph of points that see each other until the
        shortest way through it crosses nothing.
        """
        corners: dict[int, list[Point]] = {i: self._corners(i) for i in self._under(start, end)}
        while corners and len(corners) <= _MOST:
            blocking: set[int] = set()
            found = self._shortest([start, end, *(p for c in corners.values() for p in c)],
                                   blocking)  # fmt: skip
            if found:
                is_short = _length(found) <= _LONGEST * math.dist(start, end)
                return found if is_short else [start, end]
            if blocking <= corners.keys():
                break
            corners.update((i, self._corners(i)) for i in blocking - corners.keys())
        return [start, end]

    def _under(self, a: Point, b: Point) -> list[int]:
        """Return which freed shapes a straight move would cross."""
        line = LineString([a, b])
        near = self._tree.query(line, predicate="intersects")
        near = near[self._is_free[near]]
        return [int(i) for i in near if self._shapes[i].intersection(line).length > 1e-3]

    def _corners(self, index: int) -> list[Point]:
        hull = self._shapes[index].convex_hull.buffer(_AWAY, quad_segs=1).simplify(_AWAY / 2)
        points = np.array(hull.exterior.coords)[:-1]
        inside = shapely.contains_xy(self._sheet, *points.T)
        return [(float(x), float(y)) for x, y in points[inside]]

    def _shortest(self, points: Sequence[Point], blocking: set[int]) -> list[Point]:
        """Return the shortest way from the first point to the second, and note what blocks."""
        best, back = {0: 0.0}, {0: 0}
        queue = [(math.dist(points[0], points[1]), 0)]
        done: set[int] = set()
        while queue:
            _, at = heapq.heappop(queue)
            if at == 1:
                way = [1]
                while way[-1]:
                    way.append(back[way[-1]])
                return [points[i] for i in reversed(way)]
            if at in done:
                continue
            done.add(at)
            for to in range(1, len(points)):
                cost = best[at] + math.dist(points[at], points[to])
                if to in done or cost >= best.get(to, math.inf):
                    continue
                under = self._under(points[at], points[to])
                if under:
                    blocking.update(under)
                    continue
                best[to], back[to] = cost, at
                heapq.heappush(queue, (cost + math.dist(points[to], points[1]), to))
        return []


def _length(points: Sequence[Point]) -> float:
    return math.fsum(math.dist(a, b) for a, b in pairwise(points))
