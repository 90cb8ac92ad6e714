"""Zones of bends on a drawn flat: where each begins and ends, and how they meet in corners."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import NoReturn

from shapely import union_all
from shapely.geometry import LineString, MultiLineString
from shapely.geometry import Point as Point2
from shapely.geometry.base import BaseGeometry

from kaigata.core.errors import InputError
from kaigata.core.intake.drawing.across import on_material
from kaigata.core.intake.drawing.flats import DrawnFlat, Line
from kaigata.core.metal.charts import BendTake
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.meet import meetings
from kaigata.core.plane.tolerance import CHORD, JOIN

__all__ = ["BendGiven", "Chord", "Zones"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BendGiven:
    """What a drawing does not say of a bend: radians, and what it takes."""

    angle: float
    is_up: bool
    take: BendTake


_PARALLEL = 1e-3
"""Sine of the angle up to which two bend lines are parallel."""
_FAR = 4.0
"""Zone widths from a corner at which bend lines that meet there are side by side, not mitred."""


@dataclass(frozen=True, slots=True)
class Chord:
    """A cut across the flat where a bend zone begins (side -1) or ends (side 1)."""

    bend: int
    side: float
    ends: Line


class Zones:
    """What each bend takes of a flat: the cuts beside its line, ended where zones meet.

    ``chords`` bound the zones; ``tears`` run from where two zones meet to the edge, where the
    material is not joined.

    Raises
    ------
    InputError
        A zone does not fit between the edges, or two zones run into each other.
    """

    def __init__(self, flat: DrawnFlat, given: Sequence[BendGiven]) -> None:
        self._flat, self._given, self._region = flat, given, flat.region
        self._shape = flat.region.polygon(CHORD)
        self.chords = [chord for i in range(len(given)) for chord in self._chords(i)]
        self.tears: list[Line] = []
        self._mitre()
        self._require_apart()

    def middle(self, bend: int) -> tuple[Point, Point]:
        """Return a point of a bend line and its unit direction."""
        (ax, ay), (bx, by) = self._flat.bends[bend].lines[0]
        n = math.hypot(bx - ax, by - ay)
        return (ax, ay), ((bx - ax) / n, (by - ay) / n)

    def _chords(self, bend: int) -> list[Chord]:
        (ox, oy), (ux, uy) = self.middle(bend)
        half = self._given[bend].take.spread / 2
        spans = [
            sorted((p[0] - ox) * ux + (p[1] - oy) * uy for p in line)
            for line in self._flat.bends[bend].lines
        ]
        out = []
        for side in (-1.0, 1.0):
            bx, by = ox - uy * side * half, oy + ux * side * half
            # A hole beside the line divides the cut, and every piece of it bounds the zone.
            beside = [
                (a, b)
                for a, b in on_material(self._region, self._shape, (bx, by), (ux, uy))
                if any(min(b, high) - max(a, low) > JOIN for low, high in spans)
            ]
            if not beside:
                x, y = self._flat.bends[bend].lines[0][0]
                raise InputError(
                    f"the zone of bend {bend + 1} ({2 * half:.2f} mm wide) does not fit beside "
                    f"its line at x {x:.2f}, y {y:.2f}",
                    where=self._flat.name,
                    fix="Give a smaller radius, or move the line away from the edge",
                )
            out += [
                Chord(bend, side, ((bx + ux * a, by + uy * a), (bx + ux * b, by + uy * b)))
                for a, b in beside
            ]
        return out

    def _mitre(self) -> None:
        """Cut back zones that meet in a corner: each ends on the line between them.

        Raises
        ------
        InputError
            Two bend lines cross away from their ends.
        """
        for a in range(len(self._given)):
            for b in range(a):
                self._mitre_two(a, b)

    def require_all(self, zones: Sequence[int | None]) -> None:
        """Refuse a flat in which a bend has no zone of its own: it would be left unbent."""
        lost = next((i for i in range(len(self._given)) if i not in zones), None)
        if lost is not None:
            x, y = self._flat.bends[lost].lines[0][0]
            raise InputError(
                f"nothing is left to bend at bend {lost + 1}, at x {x:.2f}, y {y:.2f}",
                where=self._flat.name,
                fix="Give smaller radii, or move the line away from edges and other bends",
            )

    def _require_apart(self) -> None:
        """Refuse zones that lie over each other, or side by side with nothing flat between them."""
        zones = [self._zone(i) for i in range(len(self._given))]
        for b in range(len(zones)):
            for a in range(b):
                (_, ua), (_, ub) = self.middle(a), self.middle(b)
                # Zones that were mitred meet in a corner, so only parallel ones may not even touch.
                is_parallel = abs(ua[0] * ub[1] - ua[1] * ub[0]) < _PARALLEL
                room = JOIN if is_parallel else 0.0
                over = zones[a].buffer(room).intersection(zones[b].buffer(room))
                if over.area > JOIN:
                    self._refuse_zones(a, b)

    def _zone(self, bend: int) -> BaseGeometry:
        """Return what a bend takes of the flat, between its chords."""
        left, right = (
            [LineString(c.ends) for c in self.chords if c.bend == bend and c.side == side]
            for side in (-1.0, 1.0)
        )
        width = self._given[bend].take.spread
        return union_all(
            [union_all([p, q]).convex_hull for p in left for q in right
             if p.distance(q) < width + JOIN]
        )  # fmt: skip

    def _refuse_zones(self, a: int, b: int) -> NoReturn:
        one, two = (MultiLineString(self._flat.bends[i].lines) for i in (a, b))
        needed = (self._given[a].take.spread + self._given[b].take.spread) / 2
        x, y = self._flat.bends[b].lines[0][0]
        raise InputError(
            f"the zones of bends {a + 1} and {b + 1} run into each other at x {x:.2f}, y {y:.2f}: "
            f"the lines lie {one.distance(two):.2f} mm apart, and {needed:.2f} mm are bent between",
            where=self._flat.name,
            fix="Give smaller radii, or move the lines apart",
        )

    def _mitre_two(self, a: int, b: int) -> None:
        crossings = [
            (i, j, p)
            for i, one in enumerate(self.chords)
            for j, two in enumerate(self.chords)
            if one.bend == a and two.bend == b
            for p in meetings(Segment(*one.ends), Segment(*two.ends))
        ]
        if not crossings:
            return
        (pa, ua), (pb, ub) = self.middle(a), self.middle(b)
        corner = _crossing(pa, ua, pb, ub)
        inward = [self._inward(bend, corner) for bend in (a, b)]
        if inward[0] is None or inward[1] is None:
            if not self._shape.covers(Point2(corner)):
                self._refuse_zones(b, a)
            raise InputError(
                f"bend lines {b + 1} and {a + 1} cross at x {corner[0]:.2f}, y {corner[1]:.2f}",
                where=self._flat.name,
                fix="A sheet folds along one of them; take the other out or end it before",
            )
        way = (inward[0][0] + inward[1][0], inward[0][1] + inward[1][1])
        i, j, at = max(
            crossings,
            key=lambda c: (c[2][0] - corner[0]) * way[0] + (c[2][1] - corner[1]) * way[1],
        )
        if math.dist(at, corner) > _FAR * max(g.take.spread for g in self._given):
            self._refuse_zones(b, a)
        for n, heading in ((i, inward[0]), (j, inward[1])):
            p, q = self.chords[n].ends
            forward = (q[0] - p[0]) * heading[0] + (q[1] - p[1]) * heading[1] > 0
            ends = (at, q) if forward else (p, at)
            self.chords[n] = replace(self.chords[n], ends=ends)
        # Towards the corner, which zones of unequal width do not share by halves.
        beyond = self._edge_beyond(at, (corner[0] - at[0], corner[1] - at[1]))
        self.tears.append((at, beyond))

    def _inward(self, bend: int, corner: Point) -> Point | None:
        """Return which way a bend runs from a corner near or beyond its end; else None."""
        lines = self._flat.bends[bend].lines
        reach = max(g.take.spread for g in self._given)
        (ux, uy) = self.middle(bend)[1]
        (ax, ay), (bx, by) = lines[0][0], lines[-1][1]
        if (corner[0] - ax) * ux + (corner[1] - ay) * uy <= reach:
            return (ux, uy)
        return (-ux, -uy) if (corner[0] - bx) * ux + (corner[1] - by) * uy >= -reach else None

    def _edge_beyond(self, p: Point, way: Point) -> Point:
        """Return the first place on the flat's edge from a point on in a direction."""
        n = math.hypot(*way)
        x0, y0, x1, y1 = self._region.outer.bounds
        far = math.dist((x0, y0), (x1, y1)) / n
        ray = Segment(p, (p[0] + way[0] * far, p[1] + way[1] * far))
        hits = [m for c in self._region.contours for s in c.segments for m in meetings(ray, s)]
        return min(hits, key=lambda m: math.dist(m, p))


def _crossing(p: Point, u: Point, q: Point, v: Point) -> Point:
    """Return where two lines through points p and q cross; they are not parallel."""
    cross = u[0] * v[1] - u[1] * v[0]
    t = ((q[0] - p[0]) * v[1] - (q[1] - p[1]) * v[0]) / cross
    return (p[0] + t * u[0], p[1] + t * u[1])
