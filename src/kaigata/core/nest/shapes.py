"""Grown shapes: a part's outline with half the spacing around it, in convex pieces."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from typing import TypeAlias

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon
from shapely.geometry.polygon import orient

from kaigata.core.plane import Contour, Point, Region, Segment
from kaigata.core.plane.tolerance import AREA, LENGTH

__all__ = ["Pieces", "closed", "coarser", "convex_pieces", "grown_polygon", "outward_points"]

Pieces: TypeAlias = tuple[npt.NDArray[np.float64], ...]

CONVEX_SAGITTA, CONVEX_SHARE = 0.2, 0.004
CONCAVE_SAGITTA, CONCAVE_SHARE = 0.4, 0.01
"""How far a straight edge may leave the arc it stands for, outwards: mm, or a share of the radius
where that is more. A concave arc costs most in no-fit polygons, so it is taken coarser."""

_MOST_SAGITTA = 1.0
"""mm: but never further than this, or a shallow arc would become its chord."""

MITRE_LIMIT = 2.0

_MOST_CORNERS = 100
"""Corners above which a shape is taken coarser: the work of no-fit polygons grows with the fourth
power of the corners that two shapes have."""

_COARSEST = 0.01
"""Share of its size by which the coarsest outline of a shape may be off."""

_CLOSED, _NEXT_TO_NOTHING = (2.0, 4.0, 8.0), 0.001
"""Half the width up to which pockets are closed that something could enter, mm, as long as all of
them are no more than a share of the shape."""
_HAIR = 0.0005
"""mm: how far off a corner may be that is left out; with what two shapes may touch, 0.006, it stays
below the tolerance of spacing."""


def outward_points(contour: Contour) -> list[Point]:
    """Return a contour as points of a polygon that holds the material it bounds.

    Arcs that bulge out of the material become tangents, arcs that bulge into it chords, so a
    placement of the polygon is never closer than it looks. The material lies to the left.
    """
    return [p for s in contour.segments for p in _outward(s)]


def _outward(segment: Segment) -> Iterator[Point]:
    if segment.bulge > 0:
        radius, sweep = segment.radius, segment.sweep
        sagitta = _sagitta(CONVEX_SAGITTA, CONVEX_SHARE, radius)
        step = 2 * math.acos(1 / (1 + sagitta / radius))
        n = max(1, math.ceil(sweep / step), math.ceil(sweep / (math.pi / 2)))
        cx, cy = segment.centre
        stretch = 1 / math.cos(sweep / n / 2)
        for i in range(n):
            x, y = segment.at((i + 0.5) / n)
            yield (cx + (x - cx) * stretch, cy + (y - cy) * stretch)
        yield segment.end
    else:
        radius = 0.0 if segment.is_line else segment.radius
        yield from segment.flattened(_sagitta(CONCAVE_SAGITTA, CONCAVE_SHARE, radius))


def _sagitta(least: float, share: float, radius: float) -> float:
    return min(max(least, share * radius), _MOST_SAGITTA)


def grown_polygon(region: Region, *, grow: float, least_hole: float) -> Polygon:
    """Return a region as a polygon grown by a distance, small holes filled.

    Parameters
    ----------
    region : Region
        The part.
    grow : float
        Distance, mm; corners are mitred, so the result holds every point nearer than that.
    least_hole : float
        Holes smaller than this are filled, mm²: nothing of the order can lie in them.

    Returns
    -------
    Polygon
        Without crossing edges, without what nothing can enter, and coarse where it would have very
        many corners.
    """
    holes = [h for h in region.holes if -h.area >= least_hole]
    polygon = Polygon(outward_points(region.outer), [outward_points(h) for h in holes])
    if not polygon.is_valid:
        polygon = _largest(polygon.buffer(0))
    if grow > LENGTH:
        polygon = _largest(polygon.buffer(grow, join_style="mitre", mitre_limit=MITRE_LIMIT))
        polygon = closed(polygon, grow, most=min(least_hole, _NEXT_TO_NOTHING * polygon.area))
    kept = [r for r in polygon.interiors if Polygon(r).area >= least_hole]
    x0, y0, x1, y1 = polygon.bounds
    return orient(coarser(Polygon(polygon.exterior, kept), size=max(x1 - x0, y1 - y0)))


def closed(polygon: Polygon, grow: float, *, most: float) -> Polygon:
    """Return a grown shape without the pockets and slits that nothing can enter.

    Whatever lies beside it has been grown as well and goes nowhere where a disc of that radius does
    not. Wider ones, as reliefs are, are closed too where they are next to nothing: each of their
    corners costs more in no-fit polygons than it ever holds. Corners that are hardly any are
    left out: where lines run into arcs there are many that turn inwards by a hair, and each would
    be a convex piece more.

    Parameters
    ----------
    polygon : Polygon
        A shape grown by ``grow``, mm.
    most : float
        What all of the wider pockets that are closed may have together, mm².

    Returns
    -------
    Polygon
        It holds the shape, but for a hair.
    """
    shape = polygon
    for by in (grow, *(b for b in _CLOSED if b > grow)):
        wide = polygon.buffer(by, join_style="mitre", mitre_limit=MITRE_LIMIT)
        narrow = wide.buffer(-by, join_style="mitre", mitre_limit=MITRE_LIMIT)
        wanted = _largest(polygon.union(narrow))
        if by > grow and wanted.area > polygon.area + most:
            break
        shape = wanted
    return shape.simplify(_HAIR)


def coarser(polygon: Polygon, *, size: float) -> Polygon:
    """Return a polygon that holds another and has fewer corners where that has very many.

    What comes as thousands of short lines (a traced outline, a spline written out) is moved
    outwards by half of what it may be off and thinned by less than that (Douglas and Peucker,
    Algorithms for the reduction of the number of points, 1973), ever coarser until it has few
    corners or is off by a hundredth of its size.
    """
    shape, off = polygon, CONVEX_SAGITTA
    while shapely.get_num_coordinates(shape) > _MOST_CORNERS and off <= _COARSEST * size:
        wide = polygon.buffer(off / 2, join_style="mitre", mitre_limit=MITRE_LIMIT)
        # Where a ring begins the library may thin it by twice what it is told.
        shape, off = _largest(wide.simplify(off / 4)), 2 * off
    return shape


def _largest(shape: Polygon) -> Polygon:
    return max(getattr(shape, "geoms", [shape]), key=lambda g: g.area)


def convex_pieces(polygon: Polygon) -> Pieces:
    """Return convex polygons that make up a polygon, each (n, 2) mm, counter-clockwise.

    A constrained Delaunay triangulation whose triangles are merged across their edges as long as
    the result stays convex (Hertel and Mehlhorn, Fast triangulation of simple polygons, 1983).
    """
    hull = polygon.convex_hull
    if hull.area - polygon.area < AREA:
        return (np.array(orient(hull).exterior.coords[:-1]),)
    triangles = shapely.constrained_delaunay_triangles(polygon)
    rings = [list(orient(t).exterior.coords[:-1]) for t in triangles.geoms if t.area > AREA]
    return tuple(np.array(r) for r in _merged(rings))


def _merged(rings: list[list[Point]]) -> list[list[Point]]:
    owner: dict[tuple[Point, Point], int] = {}
    alive: dict[int, list[Point]] = dict(enumerate(rings))
    for i, ring in alive.items():
        for a, b in _sides(ring):
            owner[a, b] = i
    for edge in sorted(owner, key=lambda e: -math.dist(*e)):
        here, there = owner.get(edge), owner.get((edge[1], edge[0]))
        if here is None or there is None or here == there:
            continue
        ring = _joined(alive[here], alive[there], edge)
        if not _is_convex(ring):
            continue
        alive[here] = ring
        del alive[there], owner[edge], owner[edge[1], edge[0]]
        for side in _sides(ring):
            owner[side] = here
    return list(alive.values())


def _sides(ring: Sequence[Point]) -> Iterator[tuple[Point, Point]]:
    return zip(ring, [*ring[1:], ring[0]], strict=True)


def _joined(a: list[Point], b: list[Point], edge: tuple[Point, Point]) -> list[Point]:
    """Return two rings as one across the edge that ``a`` runs forwards and ``b`` backwards."""
    i, j = a.index(edge[1]), b.index(edge[0])
    return a[i:] + a[:i] + (b[j:] + b[:j])[1:-1]


def _is_convex(ring: Sequence[Point]) -> bool:
    n = len(ring)
    for i in range(n):
        (ax, ay), (bx, by), (cx, cy) = ring[i - 1], ring[i], ring[(i + 1) % n]
        if (bx - ax) * (cy - by) - (by - ay) * (cx - bx) < -AREA:
            return False
    return True
