"""A straight line across a region: where it meets edges, and where it lies on material."""

from __future__ import annotations

import itertools
import math

from shapely.geometry import Point as Point2
from shapely.geometry import Polygon

from kaigata.core.plane import Point, Region, Segment
from kaigata.core.plane.meet import meetings

__all__ = ["edges_along", "is_on", "on_material", "stops_across"]


def stops_across(region: Region, base: Point, heading: Point) -> list[float]:
    """Return where an endless line meets edges of a region, as distances from its base, mm."""
    x0, y0, x1, y1 = region.outer.bounds
    far = math.dist((x0, y0), (x1, y1)) + math.dist(base, (x0, y0))
    long = Segment(_at(base, heading, -far), _at(base, heading, far))
    return sorted(
        (p[0] - base[0]) * heading[0] + (p[1] - base[1]) * heading[1]
        for c in region.contours
        for s in c.segments
        for p in meetings(long, s)
    )


def edges_along(
    region: Region, base: Point, heading: Point, near: float
) -> list[tuple[float, float]]:
    """Return the stretches over which straight edges run along an endless line, nearer than that.

    Distances from the base, mm. There is material on one side of the line only.
    """
    ux, uy = heading
    found = []
    for contour in region.contours:
        for s in contour.segments:
            off = [((x - base[0]) * uy - (y - base[1]) * ux) for x, y in (s.start, s.end)]
            if s.is_line and max(map(abs, off)) < near:
                ends = [(x - base[0]) * ux + (y - base[1]) * uy for x, y in (s.start, s.end)]
                found.append((min(ends), max(ends)))
    return found


def is_on(shape: Polygon, base: Point, heading: Point, at: float) -> bool:
    """Whether a point of the line, so far from its base, lies on a shape."""
    return bool(shape.contains(Point2(_at(base, heading, at))))


def on_material(
    region: Region, shape: Polygon, base: Point, heading: Point
) -> list[tuple[float, float]]:
    """Return the stretches of the line on a region, of which ``shape`` is the polygon."""
    stops = stops_across(region, base, heading)
    return [
        (a, b) for a, b in itertools.pairwise(stops) if is_on(shape, base, heading, (a + b) / 2)
    ]


def _at(base: Point, heading: Point, distance: float) -> Point:
    return (base[0] + heading[0] * distance, base[1] + heading[1] * distance)
