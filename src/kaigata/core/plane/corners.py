"""Corners of contours rounded or chamfered, for safe handling."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from enum import StrEnum
from itertools import pairwise

from shapely.geometry import Polygon

from kaigata.core.plane.contour import Contour
from kaigata.core.plane.region import Region
from kaigata.core.plane.segment import Point, Segment, bulge_of_sweep
from kaigata.core.plane.tolerance import FINE_CHORD

__all__ = ["CornerKind", "CornerSide", "sharp_corners", "treated"]

_LEAST_TURN = math.radians(5)


class CornerKind(StrEnum):
    """What becomes of a corner."""

    ROUND = "round"
    CHAMFER = "chamfer"


class CornerSide(StrEnum):
    """Which corners: those that point out of the metal, into it, or both."""

    OUTSIDE = "outside"
    INSIDE = "inside"
    ALL = "all"


def treated(
    region: Region,
    size: float,
    *,
    kind: CornerKind,
    side: CornerSide = CornerSide.OUTSIDE,
    chosen: Collection[Point] = (),
    keep: Sequence[Polygon] = (),
) -> tuple[Region, int, list[Point]]:
    """Return a region with its sharp corners rounded or chamfered.

    Only corners between two straight edges are treated; one whose edges are too short, or whose
    round or chamfer would run into something else, is left sharp.

    Parameters
    ----------
    region : Region
        The region, mm.
    size : float
        Radius of the round, or how much of each edge the chamfer takes, mm.
    kind : CornerKind
        Round or chamfer.
    side : CornerSide
        Which corners.
    chosen : collection of points
        Only corners within 0.5 mm of one of these; all when empty.
    keep : sequence of Polygon
        Where nothing is taken away and nothing filled.

    Returns
    -------
    tuple
        The region, how many corners were treated, and where ones were left sharp.
    """
    count, left = 0, []
    contours = []
    room = _Room(region, keep)
    for contour in region.contours:
        made, done, short = _contour(contour, size, kind, side, chosen, room)
        contours.append(made)
        count += done
        left += short
    return Region(contours[0], tuple(contours[1:])), count, left


def sharp_corners(region: Region) -> list[tuple[Point, CornerSide]]:
    """Return the corners of a region that can be treated, and to which side each points."""
    return [
        (b.start, CornerSide.OUTSIDE if _turn(a, b) > 0 else CornerSide.INSIDE)
        for contour in region.contours
        for a, b in pairwise([contour.segments[-1], *contour.segments])
        if _is_wanted(a, b, CornerSide.ALL, ())
    ]


class _Room:
    """What corners may take away or fill: metal, or the gaps in it, each place once."""

    def __init__(self, region: Region, keep: Sequence[Polygon]) -> None:
        self._metal = region.polygon()
        self._keep = keep
        self._taken: list[Polygon] = []

    def has(self, shape: Polygon, *, is_metal: bool) -> bool:
        """Whether a shape lies in metal, or outside of it, alone; it is taken then."""
        over = self._metal.intersection(shape).area
        wrong = shape.area - over if is_metal else over
        wrong += math.fsum(k.intersection(shape).area for k in self._keep)
        # Arcs beside it are chords here.
        if wrong > FINE_CHORD * shape.length or any(t.intersects(shape) for t in self._taken):
            return False
        self._taken.append(shape)
        return True


def _contour(
    contour: Contour,
    size: float,
    kind: CornerKind,
    side: CornerSide,
    chosen: Collection[Point],
    room_for: _Room,
) -> tuple[Contour, int, list[Point]]:
    pieces = list(contour.segments)
    n = len(pieces)
    # What the corner at the start of each piece takes of the two edges beside it.
    takes = [
        _taken(pieces[i - 1], pieces[i], size, kind)
        if _is_wanted(pieces[i - 1], pieces[i], side, chosen)
        else 0.0
        for i in range(n)
    ]
    short = []
    for i in range(n):
        before, after = pieces[i - 1].chord, pieces[i].chord
        room = min(before - takes[i - 1], after - takes[(i + 1) % n])
        if takes[i] > 0 and takes[i] > room - 1e-6:
            short.append(pieces[i].start)
            takes[i] = 0.0
    for i in range(n):
        if takes[i] > 0:
            shape = _between(pieces[i - 1], pieces[i], takes[i], kind)
            if not room_for.has(shape, is_metal=_turn(pieces[i - 1], pieces[i]) > 0):
                short.append(pieces[i].start)
                takes[i] = 0.0
    out: list[Segment] = []
    for i, piece in enumerate(pieces):
        start, end = takes[i], takes[(i + 1) % n]
        whole = piece.chord
        trimmed = piece.part(start / whole, 1 - end / whole) if start or end else piece
        if start:
            previous = out[-1].end if out else _shortened_end(pieces[-1], takes[0])
            bulge = 0.0
            if kind is CornerKind.ROUND:
                bulge = bulge_of_sweep(_turn(pieces[i - 1], piece))
            out.append(Segment(previous, trimmed.start, bulge))
        out.append(trimmed)
    return Contour.of_segments(out), sum(t > 0 for t in takes), short


def _between(before: Segment, after: Segment, take: float, kind: CornerKind) -> Polygon:
    """Return what lies between a sharp corner and what becomes of it."""
    start, end = _shortened_end(before, take), after.at(take / after.chord)
    bulge = bulge_of_sweep(_turn(before, after)) if kind is CornerKind.ROUND else 0.0
    edge = Segment(start, end, bulge).flattened(FINE_CHORD)
    return Polygon([after.start, start, *edge])


def _shortened_end(piece: Segment, by: float) -> Point:
    return piece.at(1 - by / piece.chord)


def _turn(a: Segment, b: Segment) -> float:
    (ux, uy), (vx, vy) = a.heading(1), b.heading(0)
    return math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)


def _taken(a: Segment, b: Segment, size: float, kind: CornerKind) -> float:
    if kind is CornerKind.CHAMFER:
        return size
    return size * abs(math.tan(_turn(a, b) / 2))


def _is_wanted(a: Segment, b: Segment, side: CornerSide, chosen: Collection[Point]) -> bool:
    if not (a.is_line and b.is_line):
        return False
    turn = _turn(a, b)
    if abs(turn) < _LEAST_TURN or abs(turn) > math.pi - _LEAST_TURN:
        return False
    if side is not CornerSide.ALL and (turn > 0) != (side is CornerSide.OUTSIDE):
        return False
    return not chosen or any(math.dist(b.start, p) < 0.5 for p in chosen)
