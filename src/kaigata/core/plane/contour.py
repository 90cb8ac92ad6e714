"""Closed contours of lines and arcs, as the file formats write them."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import TypeAlias

import numpy as np
import shapely
from shapely.geometry import Polygon

from kaigata.core.errors import InputError
from kaigata.core.plane.meet import meetings
from kaigata.core.plane.motion import Motion
from kaigata.core.plane.segment import Point, Segment, bulge_of_sweep
from kaigata.core.plane.tolerance import ANGLE, FINE_CHORD, HAIR, LENGTH

__all__ = ["Contour", "Vertex"]

Vertex: TypeAlias = tuple[float, float, float]

_AT_CORNER = 0.01
"""mm: nearer to their corner than this two neighbours meet in it."""
_BACK = -0.9
"""Cosine of the turn from which on neighbours may run too close for chords to tell them apart."""


@dataclass(frozen=True)
class Contour:
    """A closed run of vertices ``(x, y, bulge)``, mm; the bulge is of the piece that leaves it.

    Examples
    --------
    >>> square = Contour.through([(0, 0), (2, 0), (2, 2), (0, 2)])
    >>> square.area, square.length
    (4.0, 8.0)
    >>> square.reversed().area
    -4.0
    """

    vertices: tuple[Vertex, ...]

    @classmethod
    def through(cls, points: Iterable[Point]) -> Contour:
        """Return the straight-edged contour through points."""
        return cls(tuple((float(x), float(y), 0.0) for x, y in points))

    @classmethod
    def circle(cls, centre: Point, radius: float) -> Contour:
        """Return a counter-clockwise circle as two half arcs."""
        x, y = centre
        return cls(((x - radius, y, 1.0), (x + radius, y, 1.0)))

    @classmethod
    def rectangle(cls, width: float, height: float) -> Contour:
        """Return a rectangle with its lower left corner at 0,0."""
        return cls.through([(0, 0), (width, 0), (width, height), (0, height)])

    @classmethod
    def slot(cls, length: float, width: float) -> Contour:
        """Return a slot with round ends about 0,0, its length over both along x.

        One that is no longer than wide is a circle.
        """
        straight, half = (length - width) / 2, width / 2
        if straight <= LENGTH:
            return cls.circle((0.0, 0.0), half)
        return cls(
            (
                (-straight, -half, 0.0),
                (straight, -half, 1.0),
                (straight, half, 0.0),
                (-straight, half, 1.0),
            )
        )

    @classmethod
    def of_segments(cls, segments: Sequence[Segment]) -> Contour:
        """Return the contour that runs through segments laid end to end."""
        return cls(tuple((s.start[0], s.start[1], s.bulge) for s in segments))

    @classmethod
    def from_rows(cls, rows: Iterable[Sequence[float]]) -> Contour:
        """Return a contour from the rows ``[x, y]`` or ``[x, y, bulge]`` of a document."""
        return cls(
            tuple((float(r[0]), float(r[1]), float(r[2]) if len(r) > 2 else 0.0) for r in rows)
        )

    def rows(self) -> list[list[float]]:
        """Return the rows a document holds: the bulge only where there is one."""
        return [[x, y, b] if b else [x, y] for x, y, b in self.vertices]

    @cached_property
    def segments(self) -> tuple[Segment, ...]:
        """The lines and arcs, in order."""
        v = self.vertices
        ends = v[1:] + v[:1]
        return tuple(
            Segment((a[0], a[1]), (b[0], b[1]), a[2]) for a, b in zip(v, ends, strict=True)
        )

    @cached_property
    def area(self) -> float:
        """Signed area, mm², positive counter-clockwise."""
        return math.fsum(s.area for s in self.segments)

    @cached_property
    def length(self) -> float:
        """Length all round, mm."""
        return math.fsum(s.length for s in self.segments)

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """``(x0, y0, x1, y1)``, mm, exact for arcs."""
        boxes = [s.bounds() for s in self.segments]
        return (
            min(b[0] for b in boxes),
            min(b[1] for b in boxes),
            max(b[2] for b in boxes),
            max(b[3] for b in boxes),
        )

    @property
    def diameter(self) -> float | None:
        """The diameter where the contour is a full circle, mm; None where it is none."""
        x0, _, x1, _ = self.bounds
        whole = math.pi * (x1 - x0) ** 2 / 4
        if any(s.is_line for s in self.segments):
            return None
        return x1 - x0 if math.isclose(abs(self.area), whole, rel_tol=1e-6) else None

    def flattened(self, chord: float) -> list[Point]:
        """Return the contour as points, chords within ``chord`` mm of its arcs, not closed."""
        return [p for s in self.segments for p in s.flattened(chord)]

    def polygon(self, chord: float = FINE_CHORD) -> Polygon:
        """Return the filled contour as a polygon."""
        # Arrays: from a list of points the library would look at each coordinate by itself.
        filled: Polygon = shapely.polygons(np.array(self.flattened(chord)))
        return filled

    def reversed(self) -> Contour:
        """Return the contour run the other way round."""
        return Contour.of_segments([s.reversed() for s in reversed(self.segments)])

    def moved(self, motion: Motion) -> Contour:
        """Return the contour after a motion; mirroring keeps the way round it runs."""
        f = -1.0 if motion.mirrored else 1.0
        moved = Contour(tuple((*motion.point((x, y)), f * b) for x, y, b in self.vertices))
        return moved.reversed() if motion.mirrored else moved

    def scaled(self, factor: float) -> Contour:
        """Return the contour with every length multiplied by ``factor``."""
        return Contour(tuple((x * factor, y * factor, b) for x, y, b in self.vertices))

    def simplified(self) -> Contour:
        """Return the contour with pieces of one line or circle joined and empty ones left out."""
        pieces = [s for s in self.segments if not s.is_nothing()]
        at = 0
        while len(pieces) > 2 and at < len(pieces):
            joined = _joined(pieces[at - 1], pieces[at])
            if joined is None:
                at += 1
                continue
            pieces[at - 1] = joined
            del pieces[at]
            at = max(at - 1, 0)
        return Contour.of_segments(pieces)

    def without_spikes(self) -> Contour:
        """Return the contour without lines that run back along the line before them.

        Examples
        --------
        >>> rows = ((0, 0, 0), (9, 0, 0), (9, 5, 0), (9, 3, 0), (0, 3, 0))
        >>> Contour(rows).without_spikes() == Contour((*rows[:2], *rows[3:]))
        True
        """
        run: list[Segment] = []
        for piece in self.segments:
            _add(run, piece)
        while len(run) > 2 and _runs_back(run[-1], run[0]):
            last, first = run.pop(), run.pop(0)
            _add(run, Segment(last.start, first.end))
        return Contour.of_segments(run)


def _add(run: list[Segment], piece: Segment) -> None:
    """Add a piece to a run, what it goes back of the pieces before it taken off both."""
    while run and not piece.is_nothing() and _runs_back(run[-1], piece):
        piece = Segment(run.pop().start, piece.end)
    if not piece.is_nothing():
        run.append(piece)


def _runs_back(a: Segment, b: Segment) -> bool:
    if not (a.is_line and b.is_line):
        return False
    (ux, uy), (vx, vy) = a.heading(1), b.heading(0)
    return abs(ux * vy - uy * vx) * min(a.chord, b.chord) < LENGTH and ux * vx + uy * vy < 0


def _joined(a: Segment, b: Segment) -> Segment | None:
    """Return the one segment that two successive ones make, or None."""
    if a.is_line != b.is_line:
        return None
    if a.is_line:
        (ux, uy), (vx, vy) = a.heading(1), b.heading(0)
        across = abs(ux * vy - uy * vx) * min(a.chord, b.chord)
        return Segment(a.start, b.end) if across < LENGTH and ux * vx + uy * vy > 0 else None
    same_turn = (a.bulge > 0) == (b.bulge > 0)
    sweep = a.sweep + b.sweep
    if not same_turn or abs(sweep) > 1.5 * math.pi:
        return None
    if abs(a.radius - b.radius) > LENGTH * 10 or math.dist(a.centre, b.centre) > LENGTH * 10:
        return None
    return Segment(a.start, b.end, bulge_of_sweep(sweep))


def require_simple(contour: Contour, *, where: str) -> None:
    """Refuse a contour that crosses itself or holds nothing.

    Raises
    ------
    InputError
        The contour has fewer than two vertices, no area, or crosses itself.
    """
    n = len(contour.vertices)
    if n < 2 or (n == 2 and not any(abs(v[2]) > ANGLE for v in contour.vertices)):
        raise InputError(f"a contour of {n} vertices holds nothing", where=where)
    if any(s.is_nothing() for s in contour.segments):
        bad = next(s for s in contour.segments if s.is_nothing())
        x, y = bad.start
        raise InputError(
            f"two neighbouring vertices are the same point {x:g}, {y:g}",
            where=where,
            fix="leave one of them out; a contour is closed without repeating its first vertex",
        )
    for x, y in _turned_back(contour):
        raise InputError(
            f"the contour turns back across itself at {x:.2f}, {y:.2f}",
            where=where,
            fix="draw it so that it runs round once",
        )
    polygon = contour.polygon(HAIR)
    if not polygon.is_valid or polygon.area < LENGTH:
        from shapely.validation import explain_validity

        reason = explain_validity(polygon)
        at = reason[reason.find("[") + 1 : -1].split() if "[" in reason else []
        place = ", ".join(f"{float(v):.2f}" for v in at)
        what = f"the contour crosses itself at {place}" if place else "the contour has no area"
        raise InputError(what, where=where, fix="draw it so that it runs round once")


def _turned_back(contour: Contour) -> Iterator[Point]:
    """Yield where neighbours that meet in a cusp meet once more, by however little they cross."""
    segments = contour.segments
    for before, after in zip(segments, [*segments[1:], *segments[:1]], strict=True):
        (ux, uy), (vx, vy) = before.heading(1.0), after.heading(0.0)
        if ux * vx + uy * vy < _BACK:
            corners = (before.start, before.end, after.end)
            for p in meetings(before, after):
                if min(math.dist(p, c) for c in corners) > _AT_CORNER:
                    yield p
