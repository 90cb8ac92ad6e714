"""Which lines of a view are hidden by what lies before them."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import SAME

__all__ = ["Hidden", "twice_area"]

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

_CELLS, _MOST_CELLS = 40, 240
"""Cells along the longer side of the view, in each of which pieces and triangles are compared; of
many triangles more, so that few are in each."""
_PIECES = 500
"""Pieces that an edge as long as the view is cut into."""
_SEAM = 1e-9
"""Share of a triangle by which it reaches over its sides, so that nothing is seen between two."""


Part: TypeAlias = tuple[int, tuple[Point, Point]]
"""What there is of an edge in the view, with the number of that edge."""


@dataclass(frozen=True)
class _Cut:
    """Edges cut into pieces: the edge of each, its first piece, and of each edge how many."""

    edges: Floats
    owner: npt.NDArray[np.int64]
    first: npt.NDArray[np.int64]
    counts: npt.NDArray[np.int64]

    def runs(self, chosen: npt.NDArray[np.bool_]) -> list[Part]:
        """Return the runs of chosen pieces that follow each other on one edge."""
        before, after = np.r_[False, chosen[:-1]], np.r_[chosen[1:], False]
        first_of = self.first == np.arange(len(self.owner))
        last_of = np.r_[first_of[1:], True]
        begins = np.flatnonzero(chosen & (first_of | ~before))
        ends = np.flatnonzero(chosen & (last_of | ~after))
        number = self.owner[begins]
        shares = [(v - self.first[begins]) / self.counts[number] for v in (begins, ends + 1)]
        a, b = self.edges[number, 0, :2], self.edges[number, 1, :2]
        lines = np.stack([a + (b - a) * share[:, None] for share in shares], axis=1)
        return [
            (n, ((x0, y0), (x1, y1)))
            for n, ((x0, y0), (x1, y1)) in zip(number.tolist(), lines.tolist(), strict=True)
        ]


class Hidden:
    """Triangles as seen, in cells of the view, that hide what lies behind them."""

    def __init__(self, triangles: Floats, nearer: float) -> None:
        a, b, c = triangles[:, 0], triangles[:, 1], triangles[:, 2]
        twice = twice_area(a, b, c[:, 0], c[:, 1])
        # Seen from their edge they hide nothing.
        facing = np.abs(twice) > SAME * nearer
        extent = triangles.reshape(-1, 3)[:, :2].max(axis=0)
        self._planes = _Planes.of(a[facing], b[facing], c[facing], twice[facing])
        self._nearest = triangles[facing, :, 2].max(axis=1)
        self._nearer = nearer
        self._count = min(_MOST_CELLS, max(_CELLS, math.isqrt(int(facing.sum())) // 2))
        self._cell = float(extent.max()) / self._count
        self._step = float(extent.max()) / _PIECES
        self._in_cell = self._dealt(triangles[facing, :, :2])

    def _cells(self, points: Floats) -> Ints:
        """Return in which column and row of cells points lie."""
        return np.clip(points // self._cell, 0, self._count).astype(np.int64)

    def _number(self, column: Ints, row: Ints) -> Ints:
        return column * (self._count + 1) + row

    def _dealt(self, corners: Floats) -> dict[int, Ints]:
        """Return for each cell the triangles whose bounds reach into it."""
        low, high = self._cells(corners.min(axis=1)), self._cells(corners.max(axis=1))
        wide, tall = (high - low + 1).T
        counts = wide * tall
        owner = np.repeat(np.arange(len(corners)), counts)
        within = np.arange(len(owner)) - np.repeat(np.cumsum(counts) - counts, counts)
        numbers = self._number(
            low[owner, 0] + within % wide[owner], low[owner, 1] + within // wide[owner]
        )
        return {n: owner[rows] for n, rows in _alike(numbers)}

    def parted(self, edges: Floats) -> tuple[list[Part], list[Part]]:
        """Return what of edges (n, 2, 3) is not hidden, and what is."""
        if not len(edges):
            return [], []
        long = np.hypot(*(edges[:, 1] - edges[:, 0])[:, :2].T)
        counts = np.maximum(1, np.ceil(long / self._step)).astype(int)
        owner = np.repeat(np.arange(len(edges)), counts)
        first = np.repeat(np.cumsum(counts) - counts, counts)
        share = (np.arange(len(owner)) - first + 0.5) / counts[owner]
        points = edges[owner, 0] + (edges[owner, 1] - edges[owner, 0]) * share[:, None]
        seen = ~self._is_hidden(points)
        cut = _Cut(edges, owner, first, counts)
        return cut.runs(seen), cut.runs(~seen)

    def _is_hidden(self, points: Floats) -> npt.NDArray[np.bool_]:
        hidden = np.zeros(len(points), dtype=bool)
        for number, rows in _alike(self._number(*self._cells(points[:, :2]).T)):
            there = self._in_cell.get(number)
            if there is not None:
                farthest = points[rows, 2].min() + self._nearer
                planes = self._planes.some(there[self._nearest[there] > farthest])
                hidden[rows] = planes.hide(points[rows], self._nearer)
        return hidden


@dataclass(frozen=True)
class _Planes:
    """Triangles as seen: a corner, and what the shares of the other two and the depth grow by.

    ``second`` and ``third`` are (n, 2), what the barycentric coordinate of the second and the third
    corner grows by along x and y; ``deeper`` is (n, 2), along each of the two.
    """

    corner: Floats
    second: Floats
    third: Floats
    deeper: Floats

    @classmethod
    def of(cls, a: Floats, b: Floats, c: Floats, twice: Floats) -> _Planes:
        """Return them for the corners of triangles, (n, 3) each, and twice their areas."""
        (bx, by, bz), (cx, cy, cz) = (b - a).T, (c - a).T
        return cls(
            corner=a,
            second=np.column_stack([cy, -cx]) / twice[:, None],
            third=np.column_stack([-by, bx]) / twice[:, None],
            deeper=np.column_stack([bz, cz]),
        )

    def some(self, rows: Ints) -> _Planes:
        """Return some of them."""
        return _Planes(self.corner[rows], self.second[rows], self.third[rows], self.deeper[rows])

    def hide(self, points: Floats, nearer: float) -> npt.NDArray[np.bool_]:
        """Tell which points lie behind some of them, by more than ``nearer``."""
        x, y = points[:, 0, None] - self.corner[:, 0], points[:, 1, None] - self.corner[:, 1]
        second = self.second[:, 0] * x + self.second[:, 1] * y
        third = self.third[:, 0] * x + self.third[:, 1] * y
        inside = (second >= -_SEAM) & (third >= -_SEAM) & (second + third <= 1 + _SEAM)
        depth = self.corner[:, 2] + self.deeper[:, 0] * second + self.deeper[:, 1] * third
        behind: npt.NDArray[np.bool_] = inside & (depth > points[:, 2, None] + nearer)
        return np.any(behind, axis=1)  # type: ignore[no-any-return]


def _alike(numbers: Ints) -> Iterator[tuple[int, Ints]]:
    """Yield each number there is, and where it stands."""
    order = np.argsort(numbers, kind="stable")
    begins = np.flatnonzero(np.diff(numbers[order], prepend=-1))
    for rows in np.split(order, begins[1:]):
        if len(rows):
            yield int(numbers[rows[0]]), rows


def twice_area(a: Floats, b: Floats, x: Floats, y: Floats) -> Floats:
    """Return twice the areas of triangles from sides to points, turned counter-clockwise."""
    area: Floats = (b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (b[:, 1] - a[:, 1]) * (x - a[:, 0])
    return area
