"""No-fit polygons: where the reference point of one shape may not lie for another's sake.

Convex pieces of the two shapes are added piece by piece and united, so that holes, pockets and
C shapes need no special case. One polygon serves a pair of shapes at one turn of the second
against the first; turning both turns it with them.
"""

from __future__ import annotations

from collections.abc import Hashable

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon

from kaigata.core.nest.kernels import convex_sums
from kaigata.core.nest.shapes import Pieces
from kaigata.core.plane.tolerance import AREA

__all__ = ["EdgePool", "no_fit_edges"]

Edges = npt.NDArray[np.float64]


def no_fit_edges(fixed: Pieces, moving: Pieces) -> Edges:
    """Return the edges, (n, 4) mm, of the no-fit polygon of two shapes in convex pieces.

    Parameters
    ----------
    fixed : tuple of arrays
        Convex pieces of the shape that lies.
    moving : tuple of arrays
        Convex pieces of the shape that is placed.

    Returns
    -------
    array
        Rows (x0, y0, x1, y1); an upright line crosses them in pairs.
    """
    points, first = convex_sums(*_end_to_end(fixed), *_end_to_end(tuple(-b for b in moving)))
    rings = shapely.linearrings(
        points, indices=np.repeat(np.arange(len(first) - 1), np.diff(first))
    )
    united = shapely.union_all(shapely.polygons(rings))
    rows = []
    for polygon in getattr(united, "geoms", [united]):
        for ring in (polygon.exterior, *polygon.interiors):
            if ring is polygon.exterior or Polygon(ring).area > AREA:
                p = shapely.get_coordinates(ring)
                rows.append(np.hstack([p[:-1], p[1:]]))
    return np.vstack(rows)


def _end_to_end(pieces: Pieces) -> tuple[Edges, npt.NDArray[np.int64]]:
    return np.vstack(pieces), np.cumsum([0, *(len(p) for p in pieces)])


class EdgePool:
    """The edges of all no-fit polygons met so far in one array, found by key."""

    def __init__(self) -> None:
        self.edges: Edges = np.zeros((4096, 4))
        self._used = 0
        self._rows: dict[Hashable, tuple[int, int]] = {}
        self._boxes: dict[Hashable, tuple[float, float, float, float]] = {}

    def __contains__(self, key: Hashable) -> bool:
        """Whether the polygon of a key is there."""
        return key in self._rows

    def add(self, key: Hashable, edges: Edges) -> None:
        """Keep a polygon's edges."""
        need = self._used + len(edges)
        if need > len(self.edges):
            grown = np.zeros((max(need, 2 * len(self.edges)), 4))
            grown[: self._used] = self.edges[: self._used]
            self.edges = grown
        self.edges[self._used : need] = edges
        self._rows[key] = (self._used, len(edges))
        p = edges[:, :2]
        (x0, y0), (x1, y1) = p.min(axis=0), p.max(axis=0)
        self._boxes[key] = (float(x0), float(y0), float(x1), float(y1))
        self._used = need

    def rows(self, key: Hashable) -> tuple[int, int]:
        """Return where a polygon's edges begin and how many there are."""
        return self._rows[key]

    def box(self, key: Hashable) -> tuple[float, float, float, float]:
        """Return the bounding box of a polygon, mm."""
        return self._boxes[key]
