"""Whether two blanks are the same part, however they lie."""

from __future__ import annotations

import math

from kaigata.core.blank.blank import Blank
from kaigata.core.plane import Motion
from kaigata.core.plane.tolerance import JOIN

__all__ = ["are_alike"]

_ROOM = 5 * JOIN


def are_alike(a: Blank, b: Blank) -> bool:
    """Return whether two blanks are one part: turned, or turned over with its bends.

    A mirror image whose bends go the same way is the other hand, and not alike.
    """
    if not _may_be(a, b):
        return False
    want = _features(a)
    for mirrored in (False, True):
        for quarter in range(4):
            turned = b.moved(Motion.turned(quarter * math.pi / 2, mirrored=mirrored))
            x0, y0, _, _ = turned.region.outer.bounds
            if _same(want, _features(turned.moved(Motion(x=-x0, y=-y0)))):
                return True
    return False


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
    """Return what can be told apart, corners, holes, bends and marks: each a kind and numbers."""
    out: list[Feature] = [("corner", x, y, 0.0) for x, y, _ in blank.region.outer.vertices]
    for hole in blank.region.holes:
        x0, y0, x1, y1 = hole.bounds
        out.append(("hole", (x0 + x1) / 2, (y0 + y1) / 2, -hole.area))
    for bend in blank.bends:
        (x0, y0), (x1, y1) = bend.line
        kind = f"{bend.direction} {bend.inside_radius:.2f}"
        out.append((kind, (x0 + x1) / 2, (y0 + y1) / 2, math.degrees(bend.angle)))
    # A hole that is sunk from the other side makes another part.
    out += [(m.text, *m.at, m.diameter) for m in blank.marks]
    return out


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
