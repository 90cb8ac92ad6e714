"""The contours of the parts on a sheet, to find which of them lie near a line."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.strtree import STRtree

__all__ = ["Rims"]


class Rims:
    """Every contour by itself: of a perforated plate only the holes nearby are looked at.

    Parameters
    ----------
    materials : sequence of Polygon
        The parts where they lie, mm.

    Attributes
    ----------
    owner : (n,) array of int
        Which part each contour bounds.
    """

    def __init__(self, materials: Sequence[Polygon]) -> None:
        rings = [
            (LineString(ring), i)
            for i, m in enumerate(materials)
            for ring in (m.exterior, *m.interiors)
        ]
        self._lines = np.array([line for line, _ in rings], dtype=object)
        self.owner: npt.NDArray[np.int64] = np.array([i for _, i in rings], dtype=np.int64)
        self._tree = STRtree(self._lines)

    def near(self, what: BaseGeometry, distance: float) -> list[tuple[int, float]]:
        """Return the parts whose contours come within a distance of a line or point, and how near.

        A part with several such contours is there several times.
        """
        found = self._tree.query(what, predicate="dwithin", distance=distance)
        away = shapely.distance(self._lines[found], what)
        return list(zip(self.owner[found].tolist(), away.tolist(), strict=True))

    def touched(self, lines: Sequence[LineString], distance: float) -> npt.NDArray[np.int64]:
        """Return the rows (line, part) of all lines within a distance of a part's contours."""
        line, ring = self._tree.query(lines, predicate="dwithin", distance=distance)
        return np.stack([line, self.owner[ring]], axis=1)
