"""Stretches along the part's own contour, for machines that keep the kerf off it themselves."""

from __future__ import annotations

import cmath
import math
from dataclasses import dataclass

from kaigata.core.cut.lead import entered, nearest_start
from kaigata.core.cut.passes import CutRules, Pass, piece_of
from kaigata.core.plane import Point, Segment

__all__ = ["EdgeRun", "edge_run"]

_APPROACH = 2.0
"""Kerfs over which the head comes to a place on the contour that has no lead."""

_ASIDE = 0.003
"""Radians by which it turns left there: rounding could make a turn to the right of none, for which
a machine finds no room."""


@dataclass(frozen=True, slots=True)
class EdgeRun:
    """A stretch of a pass along the contour itself.

    ``way_in`` is straight, longer than half the kerf and ends on the contour. It is cut where it
    ``is_lead``; otherwise the head only comes along it, much as the stretch heads, and the beam
    starts at its end, half a kerf beside the contour.
    """

    way_in: Segment
    is_lead: bool
    edge: tuple[Segment, ...]


def edge_run(wanted: Pass, place: int, rules: CutRules) -> EdgeRun:
    """Return one of a pass's stretches along the contour that the pass keeps off.

    Parameters
    ----------
    wanted : Pass
        A pass planned for such a machine: its lead ends on the contour.
    place : int
        Which of its ``stretches``.
    rules : CutRules
        The row of the cut chart it was planned by.
    """
    half = rules.kerf / 2
    start, end = wanted.spans[place]
    pieces = list(piece_of(wanted.path.segments, start, end))
    first = _foot(wanted.path.segments[0], 0.0, half)
    nominal = entered(wanted.nominal, *nearest_start(wanted.nominal, first))

    def length_to(foot: Point) -> float:
        index, share = nearest_start(nominal, foot)
        before = math.fsum(s.length for s in nominal.segments[:index])
        return before + share * nominal.segments[index].length

    low = length_to(_foot(pieces[0], 0.0, half)) if start > 0.0 else 0.0
    if end < wanted.path.length:
        high = length_to(_foot(pieces[-1], 1.0, half))
        high = high if high > low else nominal.length
    else:
        twice = length_to(_foot(wanted.over[-1], 1.0, half)) if wanted.over else 0.0
        high = nominal.length + twice
    edge = tuple(piece_of([*nominal.segments, *nominal.segments], low, high))
    x, y = edge[0].start
    if wanted.lead and start == 0.0:
        return EdgeRun(Segment(wanted.lead.start, (x, y)), True, edge)
    heading = complex(*pieces[0].heading(0.0)) * cmath.rect(_APPROACH * rules.kerf, -_ASIDE)
    return EdgeRun(Segment((x - heading.real, y - heading.imag), (x, y)), False, edge)


def _foot(segment: Segment, t: float, half: float) -> Point:
    """Return the point of the contour that a point of the path keeps to the right of."""
    (x, y), (dx, dy) = segment.at(t), segment.heading(t)
    return (x - dy * half, y + dx * half)
