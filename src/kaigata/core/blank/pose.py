"""How a blank lies: straight, in the first quadrant, with its bends gauged from the edges."""

from __future__ import annotations

import math
from dataclasses import replace
from enum import StrEnum

from kaigata.core.blank.blank import Blank, BlankBend
from kaigata.core.plane import Contour, Motion, Region
from kaigata.core.plane.tolerance import KERNEL

__all__ = ["FaceUp", "flat_pose", "gauge"]


class FaceUp(StrEnum):
    """Which side of the sheet the blank shows."""

    AS_MODELLED = "as-modelled"
    OTHER = "other"


def flat_pose(region: Region, *, face_up: FaceUp, turn: float = 0.0) -> Motion:
    """Return the motion that lays a region straight.

    Turned over first where the other face is to be up; then the longest straight outer edge
    comes to lie along x (among equally long ones the one that needs the least turn); then it is
    turned by ``turn`` radians; then its lower left corner moves to 0,0.
    """
    over = Motion(mirrored=face_up is FaceUp.OTHER)
    outer = region.outer.moved(over)
    straight = Motion.turned(_least_turn(outer) + turn)
    x0, y0, _, _ = outer.moved(straight).bounds
    return over.then(straight).then(Motion(x=-x0, y=-y0))


def _least_turn(outer: Contour) -> float:
    lines = [s for s in outer.segments if s.is_line]
    if not lines:
        return 0.0
    longest = max(s.chord for s in lines)
    turns = []
    for s in lines:
        if s.chord < longest - KERNEL:
            continue
        dx, dy = s.heading(0)
        # To the x axis either way round: the turn lies within a right angle.
        turn = -math.atan2(dy, dx)
        turns.append((turn + math.pi / 2) % math.pi - math.pi / 2)
    return min(turns, key=lambda t: (round(abs(t), 6), t))


def gauge(blank: Blank) -> Blank:
    """Return the blank with each bend's distance from the nearer outermost edge across it."""
    bends = tuple(replace(b, from_edge=_from_edge(blank.region.outer, b)) for b in blank.bends)
    return replace(blank, bends=bends)


def _from_edge(outer: Contour, bend: BlankBend) -> float:
    (x0, y0), (x1, y1) = bend.line
    level = Motion.turned(-math.atan2(y1 - y0, x1 - x0))
    _, low, _, high = outer.moved(level).bounds
    at = level.point(((x0 + x1) / 2, (y0 + y1) / 2))[1]
    return min(at - low, high - at)
