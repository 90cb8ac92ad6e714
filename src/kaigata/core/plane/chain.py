"""Runs of segments joined end to end into closed contours."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence

from kaigata.core.errors import InputError
from kaigata.core.plane.contour import Contour
from kaigata.core.plane.segment import Point, Segment
from kaigata.core.plane.tolerance import JOIN

__all__ = ["closed_contours", "closed_loops"]


def closed_contours(runs: Sequence[Sequence[Segment]], tolerance: float = JOIN) -> list[Contour]:
    """Return the contours that directed runs make, material on their left.

    Where several runs leave one point, the one that bounds the same wedge of material is taken,
    so that contours that touch in a point stay apart.

    Parameters
    ----------
    runs : sequence of sequences of Segment
        Each end to end in itself, mm.
    tolerance : float
        How far apart ends may be that are one point, mm.

    Returns
    -------
    list of Contour
        Simplified; in the order in which their first runs come.

    Raises
    ------
    InputError
        A run's end meets no other run's start.
    """
    kept = [r for r in ([s for s in run if s.chord > tolerance / 10] for run in runs) if r]
    loops = closed_loops(kept, tolerance)
    out = [Contour.of_segments([s for i in loop for s in kept[i]]).simplified() for loop in loops]
    return [c for c in out if len(c.vertices) > 1]


def closed_loops(runs: Sequence[Sequence[Segment]], tolerance: float = JOIN) -> list[list[int]]:
    """Return the loops that directed runs make, each as places in ``runs``.

    As ``closed_contours``, of which it is the inner part; runs must not be empty.
    """
    starts: dict[tuple[int, int], list[int]] = defaultdict(list)
    for i, run in enumerate(runs):
        starts[_cell(run[0].start, tolerance)].append(i)
    used = [False] * len(runs)
    out = []
    for first in range(len(runs)):
        if used[first]:
            continue
        loop: list[int] = []
        at = first
        while not used[at]:
            used[at] = True
            loop.append(at)
            at = _next(runs, starts, used, runs[at][-1], first, tolerance)
        out.append(loop)
    return out


def _cell(p: Point, size: float) -> tuple[int, int]:
    return (math.floor(p[0] / size), math.floor(p[1] / size))


def _next(
    runs: Sequence[Sequence[Segment]],
    starts: dict[tuple[int, int], list[int]],
    used: Sequence[bool],
    last: Segment,
    first: int,
    tolerance: float,
) -> int:
    x, y = _cell(last.end, tolerance)
    near = [
        i
        for dx in (-1, 0, 1)
        for dy in (-1, 0, 1)
        for i in starts.get((x + dx, y + dy), ())
        if (i == first or not used[i]) and math.dist(runs[i][0].start, last.end) <= tolerance
    ]
    if not near:
        raise InputError(
            f"the edge of the flat does not close at x {last.end[0]:.3f}, y {last.end[1]:.3f}",
            fix="Heal the solid where its faces do not meet and export it again",
        )
    if len(near) == 1:
        return near[0]
    back = last.heading(1)
    return min(near, key=lambda i: _wedge((-back[0], -back[1]), runs[i][0].heading(0)))


def _wedge(back: Point, ahead: Point) -> float:
    """Return the angle clockwise from where a run came from to where one leaves, over 0."""
    turn = math.atan2(
        back[0] * ahead[1] - back[1] * ahead[0], back[0] * ahead[0] + back[1] * ahead[1]
    )
    return -turn % (2 * math.pi) or 2 * math.pi
