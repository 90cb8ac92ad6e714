"""Whether two blanks are the same part, however they lie."""

from __future__ import annotations

import math
from collections.abc import Iterator

from kaigata.core.blank.blank import Blank
from kaigata.core.plane import Contour, Motion
from kaigata.core.plane.tolerance import JOIN

__all__ = ["are_alike", "turns_between"]

_ROOM = 5 * JOIN


def are_alike(a: Blank, b: Blank) -> bool:
    """Return whether two blanks are one part: turned, or turned over with its bends.

    A mirror image whose bends go the same way is the other hand, and not alike.
    """
    return next(turns_between(a, b), None) is not None


def turns_between(a: Blank, b: Blank) -> Iterator[int]:
    """Yield by how many quarter turns, after turning it over or not, one blank becomes another."""
    if not _may_be(a, b):
        return
    want = _features(a)
    for mirrored in (False, True):
        for quarter in range(4):
            turned = b.moved(Motion.turned(quarter * math.pi / 2, mirrored=mirrored))
            x0, y0, _, _ = turned.region.outer.bounds
            if _same(want, _features(turned.moved(Motion(x=-x0, y=-y0)))):
                yield quarter


def _may_be(a: Blank, b: Blank) -> bool:
    return (
        abs(a.thickness - b.thickness) < JOIN
        and len(a.bends) == len(b.bends)
        and len(a.region.holes) == len(b.region.holes)
        and abs(a.region.area - b.region.area) < 1e-5 * a.region.area + JOIN
        and abs(a.region.length - b.region.length) < 1e-5 * a.region.length + JOIN
    )


Feature = tuple[str, float, float, float]


def _features(blank: Blank) -> list[Feature]:
    """Return what can be told apart, contours, bends and marks: each a kind and numbers."""
    out = [f for c in (blank.region.outer, *blank.region.holes) for f in _of_contour(c)]
    for bend in blank.bends:
        # Both ends tell which way it runs: a square blank has the same middle for two ways.
        kind = f"{bend.direction} {bend.inside_radius:.2f}"
        out += [(kind, x, y, math.degrees(bend.angle)) for x, y in bend.line]
    # A hole that is sunk from the other side makes another part.
    for mark in blank.marks:
        out.append((mark.text, *mark.middle, mark.diameter))
        if mark.end:
            out += [(f"{mark.text} end", *end, 0.0) for end in (mark.at, mark.end)]
    return out


def _of_contour(contour: Contour) -> Iterator[Feature]:
    """Yield the middle and length of each edge; a circle, whose edges begin anywhere, whole."""
    edges = contour.simplified().segments
    x0, y0, x1, y1 = contour.bounds
    middle = ((x0 + x1) / 2, (y0 + y1) / 2)
    if all(not e.is_line and math.dist(e.centre, middle) < _ROOM for e in edges):
        yield "circle", *middle, x1 - x0
    else:
        for edge in edges:
            yield "edge", *edge.at(0.5), edge.length


def _same(one: list[Feature], two: list[Feature]) -> bool:
    if len(one) != len(two):
        return False
    left = list(two)
    for kind, *values in one:
        hit = next(
            (
                f
                for f in left
                if f[0] == kind
                and all(abs(p - q) < _ROOM for p, q in zip(values, f[1:], strict=True))
            ),
            None,
        )
        if hit is None:
            return False
        left.remove(hit)
    return True
