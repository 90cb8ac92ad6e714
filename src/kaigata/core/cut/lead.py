"""Lead-ins: straight, from a pierce in scrap to the contour."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon
from shapely.strtree import STRtree

from kaigata.core.plane import Contour, Point, Segment
from kaigata.core.plane.tolerance import FINE_CHORD

__all__ = ["Lead", "Scrap", "lead_in"]

_SLANT = math.radians(60)
"""Angle between the lead and the contour: it runs in with the cut instead of against it."""

_SHARES = (1.0, 0.6, 0.35, 0.2)
_SLACK = 4 * FINE_CHORD


@dataclass(frozen=True, slots=True)
class Lead:
    """Where a contour is entered: its path from there on, and the lead to it (None: no room)."""

    path: Contour
    lead: Segment | None

    @property
    def pierce(self) -> Point:
        """Where the beam starts."""
        if self.lead is not None:
            return self.lead.start
        x, y, _ = self.path.vertices[0]
        return (x, y)


class Scrap:
    """What a lead must keep clear of on a sheet: every part's material, and the sheet's edge."""

    def __init__(self, sheet: Polygon, materials: list[Polygon]) -> None:
        self._sheet = sheet
        shapely.prepare(sheet)
        for m in materials:
            shapely.prepare(m)
        self._materials = np.array(materials, dtype=object)
        self._tree = STRtree(materials)

    def is_clear(self, lead: LineString, *, half_kerf: float, own: int, apart: float) -> bool:
        """Whether a lead keeps half a kerf from its own part and ``apart`` from every other."""
        if not self._sheet.covers(lead):
            return False
        for i in self._tree.query(lead, predicate="dwithin", distance=max(apart, half_kerf)):
            least = half_kerf if i == own else apart
            if shapely.distance(lead, self._materials[i]) < least - _SLACK:
                return False
        return True


def lead_in(path: Contour, *, own: int, length: float, kerf: float, scrap: Scrap) -> Lead:
    """Return where to enter a path, with a lead from scrap where there is room for one.

    Long straight edges are tried first, at their middle; a lead that finds no room is shortened,
    and at last may cross a neighbour's kerf. The path keeps its material on the left, so scrap is
    on its right.

    Parameters
    ----------
    path : Contour
        The tool's centre path on the sheet, mm.
    own : int
        Which of the scrap's materials it bounds.
    length : float
        Wanted length of the lead, mm.
    kerf : float
        Width of the cut, mm.
    scrap : Scrap
        What to keep clear of.
    """
    half = kerf / 2
    for apart in (half + kerf, half):
        for share in _SHARES:
            for index, t in _starts(path):
                lead = _lead(path.segments[index], t, length * share)
                line = LineString([lead.start, lead.end])
                if scrap.is_clear(line, half_kerf=half, own=own, apart=apart):
                    return Lead(_entered(path, index, t), lead)
    index, t = next(_starts(path))
    return Lead(_entered(path, index, t), None)


def _starts(path: Contour) -> Iterator[tuple[int, float]]:
    """Yield places to enter, best first: middles of long lines, then of arcs, then quarters."""
    ranked = sorted(
        range(len(path.segments)),
        key=lambda i: (not path.segments[i].is_line, -path.segments[i].length),
    )
    for t in (0.5, 0.25, 0.75):
        yield from ((i, t) for i in ranked[:24])


def _lead(segment: Segment, t: float, length: float) -> Segment:
    x, y = segment.at(t)
    dx, dy = segment.heading(t)
    away, back = math.sin(_SLANT) * length, math.cos(_SLANT) * length
    return Segment((x + dy * away - dx * back, y - dx * away - dy * back), (x, y))


def _entered(path: Contour, index: int, t: float) -> Contour:
    """Return a path that starts a share ``t`` along one of its segments."""
    s = path.segments
    return Contour.of_segments(
        [s[index].part(t, 1.0), *s[index + 1 :], *s[:index], s[index].part(0.0, t)]
    )
