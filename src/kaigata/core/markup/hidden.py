"""Which lines of a view are hidden by what lies before them."""

from __future__ import annotations

import math
from collections import defaultdict
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import SAME

__all__ = ["Hidden", "twice_area"]

Floats = npt.NDArray[np.float64]

_CELLS, _MOST_CELLS = 40, 240
"""Cells along the longer side of the view, in each of which pieces and triangles are compared; of
many triangles more, so that few are in each."""
_PIECES = 500
"""Pieces that an edge as long as the view is cut into."""


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
        twice = (b[:, 0] - a[:, 0]) * (c[:, 1] - a[:, 1]) - (b[:, 1] - a[:, 1]) * (
            c[:, 0] - a[:, 0]
        )
        # Seen from their edge they hide nothing.
        self._corners = triangles[np.abs(twice) > SAME * nearer]
        self._nearer = nearer
        extent = triangles.reshape(-1, 3)[:, :2].max(axis=0)
        cells = min(_MOST_CELLS, max(_CELLS, math.isqrt(len(self._corners)) // 2))
        self._cell = float(extent.max()) / cells
        self._step = float(extent.max()) / _PIECES
        low = (self._corners[:, :, :2].min(axis=1) // self._cell).astype(int)
        high = (self._corners[:, :, :2].max(axis=1) // self._cell).astype(int)
        self._in_cell = defaultdict[tuple[int, int], list[int]](list)
        for n, ((x0, y0), (x1, y1)) in enumerate(zip(low.tolist(), high.tolist(), strict=True)):
            for x in range(x0, x1 + 1):
                for y in range(y0, y1 + 1):
                    self._in_cell[x, y].append(n)

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
        cells = (points[:, :2] // self._cell).astype(int)
        order = np.lexsort(cells.T)
        ends = np.flatnonzero(np.any(np.diff(cells[order], axis=0), axis=1)) + 1
        for rows in np.split(order, ends):
            if len(rows):
                x, y = cells[rows[0]].tolist()
                hidden[rows] = self._behind(points[rows], self._in_cell.get((x, y), []))
        return hidden

    def _behind(self, points: Floats, triangles: list[int]) -> npt.NDArray[np.bool_]:
        """Tell which points lie behind some of the triangles."""
        a, b, c = np.moveaxis(self._corners[triangles], 1, 0)
        x, y = points[:, 0, None], points[:, 1, None]
        shares = [twice_area(p, q, x, y) for p, q in ((b, c), (c, a), (a, b))]
        whole = shares[0] + shares[1] + shares[2]
        u, v, w = (s / whole for s in shares)
        inside = (u >= 0) & (v >= 0) & (w >= 0)
        depth = u * a[:, 2] + v * b[:, 2] + w * c[:, 2]
        behind: npt.NDArray[np.bool_] = inside & (depth > points[:, 2, None] + self._nearer)
        return np.any(behind, axis=1)  # type: ignore[no-any-return]


def twice_area(a: Floats, b: Floats, x: Floats, y: Floats) -> Floats:
    """Return twice the areas of triangles from sides to points, turned counter-clockwise."""
    area: Floats = (b[:, 0] - a[:, 0]) * (y - a[:, 1]) - (b[:, 1] - a[:, 1]) * (x - a[:, 0])
    return area
