"""Where two segments meet."""

from __future__ import annotations

import math

from kaigata.core.plane.segment import Point, Segment
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["crossings", "distance_to", "meetings"]

_PARALLEL = 1e-12
"""Sine below which two lines count as parallel."""


def meetings(a: Segment, b: Segment) -> list[Point]:
    """Return the points two segments share, ends included; none where they run on each other.

    Examples
    --------
    >>> meetings(Segment((0, 0), (2, 0)), Segment((1, -1), (1, 1)))
    [(1.0, 0.0)]
    >>> meetings(Segment((0, 0), (2, 0)), Segment((0, 1), (2, 1)))
    []
    """
    return [p for p in crossings(a, b) if _lies_on(a, p) and _lies_on(b, p)]


def crossings(a: Segment, b: Segment) -> list[Point]:
    """Return where the endless lines or whole circles of two segments cross or touch.

    Examples
    --------
    >>> crossings(Segment((0, 0), (2, 0)), Segment((5, -3), (5, -1)))
    [(5.0, 0.0)]
    """
    if a.is_line and b.is_line:
        return _line_line(a, b)
    if a.is_line:
        return _line_circle(a, b)
    return _line_circle(b, a) if b.is_line else _circle_circle(a, b)


def distance_to(segment: Segment, p: Point) -> float:
    """Return the distance from a point to a segment, mm.

    Examples
    --------
    >>> distance_to(Segment((-1, 0), (1, 0), 1.0), (0, 0))
    1.0
    """
    if segment.is_line:
        t = min(1.0, max(0.0, segment.share_of(p)))
        return math.dist(p, segment.at(t))
    if 0 <= segment.share_of(p) <= 1:
        return abs(math.dist(p, segment.centre) - segment.radius)
    return min(math.dist(p, segment.start), math.dist(p, segment.end))


def _lies_on(segment: Segment, p: Point) -> bool:
    slack = LENGTH / max(segment.length, LENGTH)
    return -slack <= segment.share_of(p) <= 1 + slack


def _line_line(a: Segment, b: Segment) -> list[Point]:
    ux, uy = a.end[0] - a.start[0], a.end[1] - a.start[1]
    vx, vy = b.end[0] - b.start[0], b.end[1] - b.start[1]
    cross = ux * vy - uy * vx
    if abs(cross) < _PARALLEL * a.chord * b.chord:
        return []
    wx, wy = b.start[0] - a.start[0], b.start[1] - a.start[1]
    t = (wx * vy - wy * vx) / cross
    return [(a.start[0] + t * ux, a.start[1] + t * uy)]


def _line_circle(line: Segment, arc: Segment) -> list[Point]:
    (cx, cy), r = arc.centre, arc.radius
    ux, uy = line.heading(0)
    along = (cx - line.start[0]) * ux + (cy - line.start[1]) * uy
    fx, fy = line.start[0] + along * ux, line.start[1] + along * uy
    h2 = r * r - (fx - cx) ** 2 - (fy - cy) ** 2
    if h2 < -2 * r * LENGTH:
        return []
    h = math.sqrt(max(h2, 0.0))
    return [(fx + h * ux, fy + h * uy), (fx - h * ux, fy - h * uy)]


def _circle_circle(a: Segment, b: Segment) -> list[Point]:
    (ax, ay), r, s = a.centre, a.radius, b.radius
    dx, dy = b.centre[0] - ax, b.centre[1] - ay
    d = math.hypot(dx, dy)
    if d < LENGTH or d > r + s + LENGTH or d < abs(r - s) - LENGTH:
        return []
    k = (d * d + r * r - s * s) / (2 * d)
    h = math.sqrt(max(r * r - k * k, 0.0))
    mx, my = ax + k * dx / d, ay + k * dy / d
    return [(mx - h * dy / d, my + h * dx / d), (mx + h * dy / d, my - h * dx / d)]
