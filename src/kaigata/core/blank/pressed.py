"""Findings on what is pressed into a blank, out of it or along it: it needs room."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import shapely
from shapely.geometry import Polygon

from kaigata.core.blank.blank import Blank
from kaigata.core.findings import Finding, Level

__all__ = ["creases_off_metal", "pressed_too_near"]

_SLACK = 0.01
"""How much nearer than it may be something is before it is told, mm."""


def pressed_too_near(
    blank: Blank, shape: Polygon, holes: Sequence[Polygon], zones: Sequence[Polygon]
) -> Iterator[Finding]:
    """Yield a finding for each mark pressed in or out nearer an edge or a bend than it may be.

    Parameters
    ----------
    blank : Blank
        The blank.
    shape : Polygon
        Its region.
    holes : sequence of Polygon
        Its holes; the one that something is pressed into does not count.
    zones : sequence of Polygon
        What each bend takes of it.
    """
    for mark in blank.marks:
        if mark.kind not in ("press-in", "formed"):
            continue
        middle, need = shapely.Point(mark.at), mark.diameter / 2
        rings = [shape.exterior, *(h.exterior for h in holes if not h.contains(middle))]
        edge = min(ring.distance(middle) for ring in rings)
        bend = min((zone.distance(middle) for zone in zones), default=math.inf)
        near = min(edge, bend)
        if near >= need - _SLACK:
            continue
        what = "an edge" if edge <= bend else "where a bend begins"
        yield Finding(
            level=Level.WARNING,
            code="pressed-near-edge",
            text=f"The middle of {mark.note} lies {near:.2f} mm from {what}, it needs "
            f"{need:.2f}. Move it or make room.",
            at=mark.at,
        )


def creases_off_metal(blank: Blank, shape: Polygon, zones: Sequence[Polygon]) -> Iterator[Finding]:
    """Yield a finding for each crease that runs over a hole, an edge or a bend.

    Parameters
    ----------
    blank : Blank
        The blank.
    shape : Polygon
        Its region, holes left out.
    zones : sequence of Polygon
        What each bend takes of it.
    """
    for mark in blank.marks:
        if mark.end is None:
            continue
        line = shapely.LineString([mark.at, mark.end])
        if not shape.buffer(_SLACK).covers(line):
            over = "the edge of the metal"
        elif any(zone.intersection(line).length > _SLACK for zone in zones):
            over = "a bend"
        else:
            continue
        yield Finding(
            level=Level.WARNING,
            code="crease-off-metal",
            text=f"{mark.text} runs over {over}. End it before that, or say it in pieces.",
            at=mark.middle,
        )
