"""Comparing what a program does with the nominal parts, before it is given out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from numba import njit
from shapely.geometry import LineString, Polygon

from kaigata.core.cut.toolpath import ToolPath
from kaigata.core.plane import Contour, Segment
from kaigata.core.plane.tolerance import CODE, FINE_CHORD

__all__ = ["Proof", "prove"]

Floats = npt.NDArray[np.float64]

_NEAR = 6
"""Chords to either side that are looked at before the whole ring is."""

_ROUND = 128
"""Chords to a quarter turn of the region grown here by half a kerf."""


@dataclass(frozen=True, slots=True)
class Proof:
    """What comparing gave: largest deviation of a cut edge, mm, and how many contours agree."""

    largest_deviation: float
    contours: int
    fault: str = ""

    @property
    def ok(self) -> bool:
        """Whether the program may be given out."""
        return not self.fault


def prove(path: ToolPath, cuts: Sequence[Sequence[Segment]]) -> Proof:
    """Compare the cuts read back from a program with the parts they must leave.

    Each nominal contour is grown (a hole shrunk) by half the kerf by a general polygon library,
    not by the offset that made the path, and the cut must follow its edge within ``CODE``.

    Parameters
    ----------
    path : ToolPath
        What was to be cut.
    cuts : sequence of sequences of Segment
        The loop that each stretch with the beam on closes, in the program's order.

    Returns
    -------
    Proof
        With a fault, where there is one, that names the contour.
    """
    if len(cuts) != len(path.passes):
        fault = f"the program has {len(cuts)} cuts, the path {len(path.passes)}"
        return Proof(0.0, 0, fault)
    largest = 0.0
    half = path.rules.kerf / 2
    for wanted, cut in zip(path.passes, cuts, strict=True):
        name = f"{wanted.part} copy {wanted.copy} {wanted.name}"
        if not cut:
            return Proof(largest, 0, f"{name} is not closed")
        found = _deviation(wanted.nominal, cut, half, is_hole=wanted.name != "outer")
        largest = max(largest, found)
        if found > CODE:
            return Proof(largest, 0, f"{name} is cut {found:.4f} mm off its size")
    return Proof(largest, len(cuts))


def _deviation(nominal: Contour, cut: Sequence[Segment], half: float, *, is_hole: bool) -> float:
    """Return how far a cut strays from the edge of the nominal shape moved by half a kerf."""
    points = [cut[0].start, *(p for s in cut for p in s.flattened(FINE_CHORD))]
    line = LineString(points)
    shape = nominal.polygon().buffer(-half if is_hole else half, quad_segs=_ROUND)
    rings = [LineString(Polygon(g).exterior) for g in getattr(shape, "geoms", [shape])]
    middle = line.interpolate(0.5, normalized=True)
    ring = min(rings, key=lambda r: float(shapely.distance(r, middle)))
    gap = LineString([points[0], points[-1]]).length
    return max(float(gap), _strays(line, ring), _strays(ring, line))


def _strays(line: LineString, other: LineString) -> float:
    """Return how far the vertices of one line are from another at most."""
    points, ring = shapely.get_coordinates(line), shapely.get_coordinates(other)
    return float(_farthest(points, ring, 2 * FINE_CHORD))


@njit(cache=True)
def _farthest(points: Floats, ring: Floats, enough: float) -> float:
    """Return the greatest distance of points from a closed run of chords.

    Points that follow the ring are looked for near the chord that the one before was nearest to;
    only where nothing is within ``enough`` there is the whole ring looked at. So a distance above
    ``enough`` is exact, and one below it is never told too small.
    """
    n, at, worst = len(ring) - 1, 0, 0.0
    for p in range(len(points)):
        best = np.inf
        for span in (_NEAR, n):
            for step in range(-span, span + 1) if span < n else range(n):
                k = (at + step) % n
                ax, ay = ring[k]
                dx, dy = ring[k + 1, 0] - ax, ring[k + 1, 1] - ay
                x, y = points[p, 0] - ax, points[p, 1] - ay
                length = dx * dx + dy * dy
                t = min(1.0, max(0.0, (x * dx + y * dy) / length)) if length > 0.0 else 0.0
                apart = math.hypot(x - t * dx, y - t * dy)
                if apart < best:
                    best, nearest = apart, k
            if best <= enough:
                break
        at = nearest
        worst = max(worst, best)
    return worst
