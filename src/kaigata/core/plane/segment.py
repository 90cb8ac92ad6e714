"""One straight or circular piece of a contour, given by its ends and a bulge."""

from __future__ import annotations

import cmath
import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import TypeAlias

from kaigata.core.plane.tolerance import ANGLE, LENGTH

__all__ = ["Point", "Segment", "bulge_of_sweep"]

Point: TypeAlias = tuple[float, float]

_QUARTERS = (0.0, math.pi / 2, math.pi, 3 * math.pi / 2)


def bulge_of_sweep(sweep: float) -> float:
    """Return the bulge of an arc: the tangent of a quarter of its sweep.

    Parameters
    ----------
    sweep : float
        Signed turn of the arc, radians, counter-clockwise positive.

    Returns
    -------
    float
        The bulge, no unit.

    Examples
    --------
    >>> round(bulge_of_sweep(math.pi), 6)
    1.0
    """
    return math.tan(sweep / 4)


@dataclass(frozen=True, slots=True)
class Segment:
    """A line (``bulge`` 0) or an arc from ``start`` to ``end``, mm.

    Examples
    --------
    >>> half = Segment((0.0, 0.0), (2.0, 0.0), 1.0)
    >>> half.centre, half.radius, round(half.length, 6)
    ((1.0, 0.0), 1.0, 3.141593)
    """

    start: Point
    end: Point
    bulge: float = 0.0

    @property
    def is_line(self) -> bool:
        """Whether the segment is straight."""
        return self.bulge == 0.0

    @property
    def chord(self) -> float:
        """Straight distance from start to end, mm."""
        return math.dist(self.start, self.end)

    @property
    def sweep(self) -> float:
        """Signed turn of the arc, radians; 0 for a line."""
        return 4 * math.atan(self.bulge)

    @property
    def centre(self) -> Point:
        """Centre of the arc, mm. Not to be asked of a line."""
        (x0, y0), (x1, y1), b = self.start, self.end, self.bulge
        q = (1 - b * b) / (4 * b)
        return ((x0 + x1) / 2 - (y1 - y0) * q, (y0 + y1) / 2 + (x1 - x0) * q)

    @property
    def radius(self) -> float:
        """Radius of the arc, mm. Not to be asked of a line."""
        return self.chord * (1 + self.bulge * self.bulge) / (4 * abs(self.bulge))

    @property
    def length(self) -> float:
        """Length along the segment, mm."""
        return self.chord if self.is_line else self.radius * abs(self.sweep)

    @property
    def area(self) -> float:
        """Signed area between the segment and the origin, mm²."""
        (x0, y0), (x1, y1) = self.start, self.end
        area = (x0 * y1 - x1 * y0) / 2
        if self.is_line:
            return area
        sweep = self.sweep
        return area + self.radius**2 * (sweep - math.sin(sweep)) / 2

    def at(self, t: float) -> Point:
        """Return the point a share ``t`` (0 to 1) along the segment."""
        (x0, y0), (x1, y1) = self.start, self.end
        if self.is_line:
            return (x0 + (x1 - x0) * t, y0 + (y1 - y0) * t)
        cx, cy = self.centre
        turn = self.sweep * t
        c, s = math.cos(turn), math.sin(turn)
        return (cx + (x0 - cx) * c - (y0 - cy) * s, cy + (x0 - cx) * s + (y0 - cy) * c)

    def heading(self, t: float) -> Point:
        """Return the unit direction of travel a share ``t`` along the segment."""
        (x0, y0), (x1, y1) = self.start, self.end
        n = self.chord
        dx, dy = (x1 - x0) / n, (y1 - y0) / n
        if self.is_line:
            return (dx, dy)
        turn = self.sweep * (t - 0.5)
        c, s = math.cos(turn), math.sin(turn)
        return (dx * c - dy * s, dx * s + dy * c)

    def part(self, t0: float, t1: float) -> Segment:
        """Return the piece between the shares ``t0`` and ``t1``."""
        start = self.start if t0 == 0 else self.at(t0)
        end = self.end if t1 == 1 else self.at(t1)
        return Segment(start, end, bulge_of_sweep(self.sweep * (t1 - t0)) if self.bulge else 0.0)

    def reversed(self) -> Segment:
        """Return the same piece travelled the other way."""
        return Segment(self.end, self.start, -self.bulge)

    def share_of(self, p: Point) -> float:
        """Return the share along the segment (not clamped for a line) that is nearest to ``p``."""
        (x0, y0), (x1, y1) = self.start, self.end
        if self.is_line:
            dx, dy = x1 - x0, y1 - y0
            return ((p[0] - x0) * dx + (p[1] - y0) * dy) / (dx * dx + dy * dy)
        cx, cy = self.centre
        turn = math.atan2(p[1] - cy, p[0] - cx) - math.atan2(y0 - cy, x0 - cx)
        sweep = self.sweep
        # measured from half a free turn before the start, so that a point just before it is small
        slack = (2 * math.pi - abs(sweep)) / 2
        turn = (turn if sweep > 0 else -turn) + slack
        return (turn % (2 * math.pi) - slack) / abs(sweep)

    def flattened(self, chord: float) -> Iterator[Point]:
        """Yield points after the start, the end among them, chords within ``chord`` of the arc."""
        if not self.is_line:
            sweep, radius = self.sweep, self.radius
            step = 2 * math.acos(max(0.0, 1 - chord / max(radius, chord)))
            n = max(2, math.ceil(abs(sweep) / step))
            centre = complex(*self.centre)
            spoke, turn = complex(*self.start) - centre, cmath.rect(1.0, sweep / n)
            # Turning the spoke step by step is ten times quicker than a sine for each point.
            for _ in range(1, n):
                spoke *= turn
                yield (centre.real + spoke.real, centre.imag + spoke.imag)
        yield self.end

    def bounds(self) -> tuple[float, float, float, float]:
        """Return ``(x0, y0, x1, y1)``, mm, exact for arcs."""
        xs = [self.start[0], self.end[0]]
        ys = [self.start[1], self.end[1]]
        if not self.is_line:
            (cx, cy), r, sweep = self.centre, self.radius, self.sweep
            first = math.atan2(self.start[1] - cy, self.start[0] - cx)
            for quarter in _QUARTERS:
                turn = (quarter - first) if sweep > 0 else (first - quarter)
                if turn % (2 * math.pi) <= abs(sweep) + ANGLE:
                    xs.append(cx + r * round(math.cos(quarter)))
                    ys.append(cy + r * round(math.sin(quarter)))
        return min(xs), min(ys), max(xs), max(ys)

    def is_nothing(self) -> bool:
        """Whether both ends are one point, so that there is nothing of it."""
        return self.chord < LENGTH
