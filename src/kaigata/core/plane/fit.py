"""Arcs and lines through the points of a free curve."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from kaigata.core.plane.segment import Point, Segment, bulge_of_sweep
from kaigata.core.plane.tolerance import FIT, LENGTH

__all__ = ["fit_segments"]


def fit_segments(points: Sequence[Point], tolerance: float = FIT) -> list[Segment]:
    """Return few lines and arcs that follow points in order, each within ``tolerance`` of them.

    Each piece ends on one of the points; it is made as long as it can be (a doubling search and a
    bisection), which needs ``O(n log n)`` distance tests of whole runs.

    Parameters
    ----------
    points : sequence of points
        At least two, mm, no two neighbours alike.
    tolerance : float
        Greatest distance from a point to its piece, mm.

    Returns
    -------
    list of Segment
        End to end, the first starting at the first point.
    """
    p = np.asarray(points, float)
    out: list[Segment] = []
    at, last = 0, len(p) - 1
    while at < last:
        reach, step = at + 1, 1
        best = Segment((p[at, 0], p[at, 1]), (p[reach, 0], p[reach, 1]))
        while step and reach < last:
            to = min(reach + step, last)
            piece = _piece(p[at : to + 1], tolerance)
            if piece is not None:
                best, reach, step = piece, to, step * 2
            else:
                step = step // 2
        out.append(best)
        at = reach
    return out


def _piece(run: npt.NDArray[np.float64], tolerance: float) -> Segment | None:
    """Return a line or arc from the first point to the last that passes all of them, or None."""
    start, end = (float(run[0, 0]), float(run[0, 1])), (float(run[-1, 0]), float(run[-1, 1]))
    dx, dy = end[0] - start[0], end[1] - start[1]
    chord = math.hypot(dx, dy)
    if chord < LENGTH:
        return None
    rel = run - run[0]
    along, across = (rel @ (dx, dy)) / chord, (rel @ (-dy, dx)) / chord
    if np.abs(across).max() < tolerance / 20 and np.all(np.diff(along) > 0):
        return Segment(start, end)
    # An arc through both ends whose rise over the middle follows the points: each point gives the
    # half sweep it would need (inscribed angle), and the middle one of those is tried.
    inner = slice(1, -1)
    turn = math.pi - (
        np.arctan2(np.abs(across[inner]), -(along[inner] - chord))
        + np.arctan2(np.abs(across[inner]), along[inner])
    )
    sweep = 2 * (math.pi - float(np.median(turn)))
    if not 0 < sweep < 1.2 * math.pi:
        return None
    sign = -1.0 if float(np.median(across[inner])) > 0 else 1.0
    arc = Segment(start, end, bulge_of_sweep(sign * sweep))
    cx, cy = arc.centre
    off = np.abs(np.hypot(run[:, 0] - cx, run[:, 1] - cy) - arc.radius)
    return arc if off.max() < tolerance else None
