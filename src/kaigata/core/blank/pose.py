"""How a blank lies: straight, in the first quadrant, with its bends gauged from the edges."""

from __future__ import annotations

import math
from dataclasses import replace

from kaigata.core.blank.blank import Blank, BlankBend
from kaigata.core.plane import Contour, Motion
from kaigata.core.plane.tolerance import KERNEL, LENGTH

__all__ = ["gauge", "straightened"]


def straightened(blank: Blank, *, quarter_turns: int = 0) -> Blank:
    """Return the blank turned so that its longest straight outer edge lies along x.

    Among equally long edges the one that needs the least turn wins, and of the two ways to lay it
    the one that keeps the blank closer to how it lay. Then it is turned by ``quarter_turns`` times
    90 degrees and moved so that its bounding box's lower left corner is at 0,0.
    """
    turn = _least_turn(blank.region.outer) + quarter_turns * math.pi / 2
    turned = blank.moved(Motion.turned(turn))
    x0, y0, _, _ = turned.region.outer.bounds
    return turned.moved(Motion(x=-x0, y=-y0))


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
    n = max(bend.length, LENGTH)
    level = Motion.turned(-math.atan2(y1 - y0, x1 - x0))
    _, low, _, high = outer.moved(level).bounds
    at = level.point(((x0 + x1) / 2, (y0 + y1) / 2))[1]
    return min(at - low, high - at) if n else 0.0
