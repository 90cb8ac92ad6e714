"""Outside corners of the tool's path: rounded about the corner, sharp, or looped.

A path moved by half a kerf goes round a corner of the part in an arc about it. Running both edges
on to where they meet leaves the corner of the part as it is drawn and keeps the head from
dwelling at it; a loop beyond that point lets a beam that lags catch up in scrap.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

import shapely
from shapely.geometry import LineString

from kaigata.core.plane import Contour, Point, Segment
from kaigata.core.plane.segment import bulge_of_sweep
from kaigata.core.plane.tolerance import KERNEL, LENGTH, SAME

__all__ = ["cornered"]

_LEAST, _MOST = math.radians(10), math.radians(125)
"""Turns between which a corner is run out; a sharper one would reach far into scrap."""

_LOOPED = math.radians(45)
"""Corners that turn less than this are not looped: the loop would be wide."""

IsClear = Callable[[Sequence[Segment], float], bool]
"""Whether a run keeps off its own part and stays a distance in mm, its middle's, from others."""


def cornered(path: Contour, half: float, style: str, reach: float, is_clear: IsClear) -> Contour:
    """Return a path with its corner arcs run out to sharp or looped corners.

    Parameters
    ----------
    path : Contour
        The tool's centre path, material on its left, mm.
    half : float
        Half the kerf, mm: the radius of its corner arcs.
    style : str
        ``round``, ``sharp`` or ``loop``.
    reach : float
        How far a loop runs on beyond the corner, mm.
    is_clear : callable
        Whether what a corner adds lies in scrap; where it does not, a loop becomes sharp and a
        sharp corner stays round. A loop also keeps out of every other part's kerf, and of its own
        but at its corner: an edge that is cut twice is burnt.
    """
    if style == "round":
        return path
    line = path.polygon(SAME).exterior
    shapely.prepare(line)

    def is_free(way: Sequence[Segment], arc: Segment) -> bool:
        if not way[1:-1]:
            return is_clear(way, half)
        # A kerf off both edges: from the corner's arc to its point, and on from there.
        near = half * math.tan(arc.sweep / 2) + 2 * half / math.sin(min(arc.sweep, math.pi / 2))
        beyond = _beyond(way, near)
        return (
            beyond is not None
            and shapely.distance(beyond, line) > 2 * half - SAME
            and is_clear(way, 3 * half)
        )

    out: list[Segment] = []
    last = len(path.segments) - 1
    for i, arc in enumerate(path.segments):
        # The first and last piece may be halves of one corner where the path was entered on it.
        ways = [] if i in (0, last) else _ways(arc, half, style, reach)
        for piece in next((w for w in ways if is_free(w, arc)), [arc]):
            _append(out, piece)
    return Contour.of_segments(out)


def _beyond(way: Sequence[Segment], near: float) -> LineString | None:
    """Return a loop without what of it lies nearer to its corner, if it reaches further at all."""
    there, turn, back = way
    if min(there.length, back.length) <= near:
        return None
    first, last = there.at(near / there.length), back.at(1 - near / back.length)
    return LineString([first, turn.start, *turn.flattened(SAME), last])


def _append(out: list[Segment], piece: Segment) -> None:
    """Add a piece to a run, as one with the line before it where it goes straight on."""
    if out and out[-1].is_line and piece.is_line:
        (ux, uy), (vx, vy) = out[-1].heading(1.0), piece.heading(0.0)
        if ux * vx + uy * vy > 0 and abs(ux * vy - uy * vx) * piece.chord < LENGTH:
            out[-1] = Segment(out[-1].start, piece.end)
            return
    out.append(piece)


def _ways(arc: Segment, half: float, style: str, reach: float) -> list[list[Segment]]:
    if arc.bulge <= 0 or abs(arc.radius - half) > KERNEL or not _LEAST < arc.sweep < _MOST:
        return []
    (ux, uy), (vx, vy) = arc.heading(0.0), arc.heading(1.0)
    on = half * math.tan(arc.sweep / 2)
    m = (arc.start[0] + ux * on, arc.start[1] + uy * on)
    sharp = [Segment(arc.start, m), Segment(m, arc.end)]
    if style == "sharp" or arc.sweep < _LOOPED:
        return [sharp]
    a: Point = (m[0] + ux * reach, m[1] + uy * reach)
    b: Point = (m[0] - vx * reach, m[1] - vy * reach)
    turn = Segment(a, b, bulge_of_sweep(arc.sweep - 2 * math.pi))
    return [[Segment(arc.start, a), turn, Segment(b, arc.end)], sharp]
