"""Contours moved sideways by a distance, exact in lines and arcs.

Every piece is moved to the right of its travel, gaps at outward corners are closed by arcs about
the corner, and where pieces cross they are split; what comes nearer to the contour than the
distance is dropped, and the rest joins to loops. (The scheme of Held, On the Computational
Geometry of Pocket Machining, 1991, chapter 3, with the distance test in place of his winding
rule.)
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import numpy.typing as npt
import shapely
from shapely.strtree import STRtree

from kaigata.core.plane.contour import Contour
from kaigata.core.plane.meet import distance_to, meetings
from kaigata.core.plane.segment import Point, Segment, bulge_of_sweep
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["offset_contour"]

_BACK = 1e-4
"""Radians short of half a circle: of a turn so sharp the sign may be that of rounding."""

_NEAR = 2e-6
"""How much nearer than the distance a piece may seem before it is dropped, mm: twice ``LENGTH``,
the slack of two intersections."""

_JOIN = 1e-5
"""Ends of split pieces this close are one point, mm: crossings at a slant magnify ``LENGTH``."""


def offset_contour(contour: Contour, distance: float) -> list[Contour]:
    """Return the loops that lie a distance to the right of a contour.

    Of an outer contour (counter-clockwise) that is outwards, of a hole's (clockwise) into the
    hole: away from the material, which lies to the left.

    Parameters
    ----------
    contour : Contour
        Without crossings.
    distance : float
        How far, mm, above 0.

    Returns
    -------
    list of Contour
        Loops that run as the contour does, largest first; none where there is no room. A neck
        narrower than twice the distance gives several.

    Notes
    -----
    Only pieces whose boxes come near each other are looked at, so the cost grows little faster than
    the number of pieces.

    Examples
    --------
    >>> ring = offset_contour(Contour.circle((0, 0), 2), 0.5)[0]
    >>> round(ring.area / math.pi, 9)
    6.25
    >>> offset_contour(Contour.circle((0, 0), 0.4).reversed(), 0.5)
    []
    """
    pieces = [s for s in contour.segments if not s.is_nothing()]
    raw = _moved_pieces(pieces, distance)
    if not raw:
        # A circle of just that radius shrinks to its middle.
        return []
    split = _split(raw)
    kept = [s for s, is_off in zip(split, _are_off(split, pieces, distance), strict=True) if is_off]
    sign = 1.0 if contour.area > 0 else -1.0
    loops = [c.simplified() for c in _loops(kept)]
    same_way = [c for c in loops if c.area * sign > LENGTH]
    return sorted(same_way, key=lambda c: -abs(c.area))


def _are_off(moved: Sequence[Segment], pieces: Sequence[Segment], distance: float) -> list[bool]:
    """Return whether the middle of each moved piece is nowhere nearer to a contour's pieces."""
    middles = [s.at(0.5) for s in moved]
    points = np.array(middles)
    around = shapely.box(*(points - distance).T, *(points + distance).T)
    near = STRtree(_boxes(pieces, 0.0)).query(around)
    least = [math.inf] * len(moved)
    for i, j in near.T.tolist():
        least[i] = min(least[i], distance_to(pieces[j], middles[i]))
    return [away > distance - _NEAR for away in least]


def _boxes(pieces: Sequence[Segment], grow: float) -> npt.NDArray[np.object_]:
    x0, y0, x1, y1 = np.array([s.bounds() for s in pieces]).T
    boxes: npt.NDArray[np.object_] = shapely.box(x0 - grow, y0 - grow, x1 + grow, y1 + grow)
    return boxes


def _moved_pieces(pieces: Sequence[Segment], distance: float) -> list[Segment]:
    out: list[Segment] = []
    for i, piece in enumerate(pieces):
        after = pieces[(i + 1) % len(pieces)]
        moved = _moved(piece, distance)
        if moved is not None:
            out.append(moved)
        a, b = _beside(piece, 1.0, distance), _beside(after, 0.0, distance)
        if math.dist(a, b) < LENGTH:
            continue
        out.append(_corner(piece, after, a, b))
    return out


def _beside(piece: Segment, t: float, distance: float) -> Point:
    x, y = piece.at(t)
    dx, dy = piece.heading(t)
    return (x + dy * distance, y - dx * distance)


def _moved(piece: Segment, distance: float) -> Segment | None:
    a, b = _beside(piece, 0.0, distance), _beside(piece, 1.0, distance)
    if piece.bulge < 0 and piece.radius <= distance + LENGTH:
        # The arc is tighter than the distance: what is left of it would be dropped anyway.
        return Segment(a, b) if math.dist(a, b) > LENGTH else None
    return Segment(a, b, piece.bulge)


def _corner(before: Segment, after: Segment, a: Point, b: Point) -> Segment:
    (ux, uy), (vx, vy) = before.heading(1.0), after.heading(0.0)
    turn = math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)
    bend = _curvature(before) + _curvature(after)
    if math.pi - abs(turn) < _BACK and bend:
        # Back the way it came: to which side they part tells a tip of the material from a slit.
        turn = math.copysign(math.pi, -bend)
    # A turn to the left opens a gap on the right, closed by an arc about the corner; a turn to
    # the right makes the pieces cross, and the straight link lies too near and is dropped.
    return Segment(a, b, bulge_of_sweep(turn)) if turn > 0 else Segment(a, b)


def _curvature(piece: Segment) -> float:
    """Return how a piece bends to the left, per mm."""
    return 0.0 if piece.is_line else math.copysign(1.0 / piece.radius, piece.bulge)


def _split(pieces: Sequence[Segment]) -> list[Segment]:
    """Return the pieces cut wherever two of them meet."""
    cuts: list[list[Point]] = [[] for _ in pieces]
    boxes = _boxes(pieces, LENGTH)
    for i, j in STRtree(boxes).query(boxes).T.tolist():
        for p in meetings(pieces[i], pieces[j]) if i < j else ():
            cuts[i].append(p)
            cuts[j].append(p)
    return [
        part for piece, points in zip(pieces, cuts, strict=True) for part in _cut(piece, points)
    ]


def _cut(piece: Segment, points: Sequence[Point]) -> list[Segment]:
    least = LENGTH / piece.length
    shares = sorted(t for p in points if least < (t := piece.share_of(p)) < 1 - least)
    marks = [0.0, *shares, 1.0]
    return [piece.part(t0, t1) for t0, t1 in pairwise(marks) if t1 - t0 > least]


def _loops(pieces: Sequence[Segment]) -> list[Contour]:
    """Join pieces end to start; runs that do not close are no loops."""
    starts: dict[tuple[int, int], list[int]] = {}
    for i, s in enumerate(pieces):
        starts.setdefault(_cell(s.start), []).append(i)
    used = [False] * len(pieces)
    loops = []
    for first in range(len(pieces)):
        run: list[Segment] = []
        at: int | None = first
        while at is not None and not used[at]:
            used[at] = True
            run.append(pieces[at])
            at = _next(pieces, starts, used, pieces[at])
        if run and math.dist(run[-1].end, run[0].start) < 2 * _JOIN:
            loops.append(Contour.of_segments(run))
    return loops


def _cell(p: Point) -> tuple[int, int]:
    return (math.floor(p[0] / _JOIN), math.floor(p[1] / _JOIN))


def _next(
    pieces: Sequence[Segment],
    starts: dict[tuple[int, int], list[int]],
    used: Sequence[bool],
    here: Segment,
) -> int | None:
    """Return the unused piece that starts where this one ends; of several the rightmost."""
    cx, cy = _cell(here.end)
    near = [
        i
        for dx in (-1, 0, 1)
        for dy in (-1, 0, 1)
        for i in starts.get((cx + dx, cy + dy), [])
        if not used[i] and math.dist(pieces[i].start, here.end) < _JOIN
    ]
    ux, uy = here.heading(1.0)

    def turn(i: int) -> float:
        vx, vy = pieces[i].heading(0.0)
        return math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)

    return min(near, key=turn, default=None)
