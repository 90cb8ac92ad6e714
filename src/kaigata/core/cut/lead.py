"""Leads: from a pierce in scrap to the contour, and out of it again."""

from __future__ import annotations

import math
from collections.abc import Container, Sequence
from dataclasses import dataclass

import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry import Point as ShapelyPoint

from kaigata.core.cut.rims import Rims
from kaigata.core.plane import Contour, Point, Segment
from kaigata.core.plane.meet import distance_to
from kaigata.core.plane.tolerance import FINE_CHORD, KERNEL, LENGTH

__all__ = ["Lead", "LeadRules", "Scrap", "entered", "good_starts", "lead_ins", "nearest_start"]

_QUARTER = math.tan(math.pi / 8)
"""Bulge of a quarter circle."""


_SHARES = (1.0, 0.6, 0.35, 0.2)
_SLACK = 4 * FINE_CHORD
_APART = 12.0
"""mm: places to enter closer to each other than this are as good as one."""

_FROM_BEND = 6.0
"""mm: contours are entered this far from bend lines where they can be."""

_EDGES = 24
"""Segments of a contour that are tried, longest first."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LeadRules:
    """How contours are entered and left, mm and degrees.

    ``kind`` is ``line``, ``arc`` (a quarter circle that runs into the contour smoothly) or
    ``none``; ``angle`` is that between a line and the contour. The beam runs on along the contour
    for ``over_cut`` and leaves it into scrap by ``lead_out``. With ``by_machine`` the machine keeps
    the kerf off the part: leads are lines that end on the part's own contour, and the machine cuts
    their corner with it short.
    """

    kind: str = "line"
    length: float
    angle: float = 60.0
    lead_out: float = 0.0
    over_cut: float = 0.0
    by_machine: bool = False


@dataclass(frozen=True, slots=True)
class Lead:
    """Where a contour is entered: its path from there on, the lead to it (None: no room) and out.

    ``is_short`` tells that the lead in is shorter than asked for.
    """

    path: Contour
    lead: Segment | None
    out: Segment | None = None
    is_short: bool = False

    @property
    def pierce(self) -> Point:
        """Where the beam starts."""
        return self.lead.start if self.lead is not None else self.entry

    @property
    def entry(self) -> Point:
        """Where the contour is entered."""
        x, y, _ = self.path.vertices[0]
        return (x, y)


class Scrap:
    """What a lead must keep clear of on a sheet: every part's material, and the sheet's edge.

    Parameters
    ----------
    sheet : Polygon
        The sheet, mm; the whole kerf stays on it.
    materials : list of Polygon
        The parts.
    kerf : float
        Width of the cut, mm.
    """

    def __init__(self, sheet: Polygon, materials: list[Polygon], kerf: float) -> None:
        self._room = sheet.buffer(_SLACK - kerf / 2, join_style="mitre")
        shapely.prepare(self._room)
        self._rims = Rims(materials)

    def is_off(self, p: Point, own: int, least: float) -> bool:
        """Whether a point in scrap lies a distance from a part, mm."""
        near = self._rims.near(ShapelyPoint(p), least - _SLACK)
        return all(part != own for part, _ in near)

    def is_clear(self, lead: LineString, *, half_kerf: float, own: int, apart: float) -> bool:
        """Whether a cut keeps half a kerf from its own part and ``apart`` from every other.

        It begins or ends in scrap, so that it would cross a contour on its way into a part.
        """
        if not self._room.covers(lead):
            return False
        near = self._rims.near(lead, max(apart, half_kerf))
        return all(away >= (half_kerf if part == own else apart) - _SLACK for part, away in near)

    def stays(self, line: LineString, *, kerf: float, beside: Container[int] = ()) -> bool:
        """Whether no cut round a part takes what lies along a line, but for the parts named."""
        near = self._rims.near(line, kerf - _SLACK)
        return all(part in beside for part, _ in near)


def lead_ins(
    path: Contour,
    *,
    own: int,
    rules: LeadRules,
    kerf: float,
    scrap: Scrap,
    most: int,
    starts: Sequence[tuple[int, float]],
) -> list[Lead]:
    """Return places to enter a path, with a lead from scrap where there is room, best first.

    Where no lead finds room all are shortened, and at last there is none. The path keeps its
    material on the left, so scrap is on its right.

    Parameters
    ----------
    path : Contour
        The tool's centre path on the sheet, mm.
    own : int
        Which of the scrap's materials it bounds.
    rules : LeadRules
        Kind and lengths of the leads.
    kerf : float
        Width of the cut, mm.
    scrap : Scrap
        What to keep clear of.
    most : int
        How many places are enough.
    starts : sequence of (segment, share)
        Where to try, best first; see ``good_starts``.
    """
    half = kerf / 2
    wanted = rules.kind != "none" and rules.length > 0
    # The cut stays out of every other part's kerf, and the pierce out of its own, where a narrow
    # hole leaves any room for it.
    apart = half + kerf
    ways = [(least, share) for least in (apart, half) for share in _SHARES]
    for least, share in ways if wanted else ():
        found: list[Lead] = []
        for index, t in starts:
            lead = _lead(path.segments[index], t, rules, share)
            if any(math.dist(lead.end, other.entry) < _APART for other in found):
                continue
            if not scrap.is_off(lead.start, own, least):
                continue
            course = _course(lead, path.segments[index], t, half, rules)
            if scrap.is_clear(course, half_kerf=half, own=own, apart=apart):
                out = _lead_out(path.segments[index], t, rules)
                if out and not scrap.is_clear(_line(out), half_kerf=half, own=own, apart=apart):
                    out = None
                found.append(Lead(entered(path, index, t), lead, out, share < 1.0))
                if len(found) == most:
                    return found
        if found:
            return found
    places = starts[: 1 if wanted else most]
    return [Lead(entered(path, index, t), None) for index, t in places]


def good_starts(path: Contour, half: float, bends: Sequence[LineString]) -> list[tuple[int, float]]:
    """Return places to enter a path moved by half a kerf, best first.

    Middles of long lines come first, then of arcs, then quarters; what lies near a bend line's
    end last. Arcs about corners of the part are no places, but where there is nothing else.
    """
    sides = [i for i, s in enumerate(path.segments) if s.bulge <= 0 or s.radius > half + KERNEL]
    ranked = sorted(
        sides or range(len(path.segments)),
        key=lambda i: (not path.segments[i].is_line, -path.segments[i].length),
    )
    starts = [(i, t) for t in (0.5, 0.25, 0.75) for i in ranked[:_EDGES]]
    if not bends:
        return starts
    lines = shapely.union_all(list(bends))
    points = shapely.points([path.segments[i].at(t) for i, t in starts])
    is_near = shapely.distance(points, lines) < _FROM_BEND
    return [s for near in (False, True) for s, n in zip(starts, is_near, strict=True) if n == near]


def nearest_start(path: Contour, at: Point) -> tuple[int, float]:
    """Return the place on a path nearest to a point, as segment and share along it."""
    near = [(distance_to(s, at), i) for i, s in enumerate(path.segments)]
    _, index = min(near)
    return index, min(1.0, max(0.0, path.segments[index].share_of(at)))


def _line(segment: Segment) -> LineString:
    return LineString([segment.start, *segment.flattened(FINE_CHORD)])


def _lead(segment: Segment, t: float, rules: LeadRules, share: float) -> Segment:
    """Return the lead that ends a share ``t`` along a segment, from the segment's right."""
    length = rules.length * share
    x, y = segment.at(t)
    dx, dy = segment.heading(t)
    if rules.kind == "arc" and not rules.by_machine:
        # A quarter circle of that length, its centre to the right of the contour.
        r = length / (math.pi / 2)
        return Segment((x + (dy - dx) * r, y - (dx + dy) * r), (x, y), -_QUARTER)
    away, back = _apart(rules, length)
    return Segment((x + dy * away - dx * back, y - dx * away - dy * back), (x, y))


def _lead_out(segment: Segment, t: float, rules: LeadRules) -> Segment | None:
    """Return the way out of a contour: as the lead in, but forwards; after the over-cut none."""
    if rules.lead_out <= 0 or rules.over_cut > 0:
        return None
    x, y = segment.at(t)
    dx, dy = segment.heading(t)
    away, on = _apart(rules, rules.lead_out)
    return Segment((x, y), (x + dy * away + dx * on, y - dx * away + dy * on))


def _apart(rules: LeadRules, length: float) -> tuple[float, float]:
    """Return how far a straight lead reaches away from the contour and along it."""
    angle = math.radians(rules.angle)
    return math.sin(angle) * length, math.cos(angle) * length


def entered(path: Contour, index: int, t: float) -> Contour:
    """Return a path that starts a share ``t`` along one of its segments."""
    s = path.segments
    least = LENGTH / s[index].length
    halves = (
        [s[index].part(t, 1.0)] if t < 1 - least else [],
        [s[index].part(0.0, t)] if t > least else [],
    )
    return Contour.of_segments([*halves[0], *s[index + 1 :], *s[:index], *halves[1]])


def _course(lead: Segment, segment: Segment, t: float, half: float, rules: LeadRules) -> LineString:
    """Return where the beam goes on its way in.

    A machine that keeps the kerf off itself runs straight from the pierce to where the moved lead
    crosses the moved contour: further along by half a kerf times the tangent of half their turn.
    """
    if not rules.by_machine:
        return _line(lead)
    (x, y), (dx, dy) = segment.at(t), segment.heading(t)
    edge = (x - dy * half, y + dx * half)
    ax, ay = edge[0] - lead.start[0], edge[1] - lead.start[1]
    cos = (ax * dx + ay * dy) / math.hypot(ax, ay)
    on = half * math.tan(math.acos(max(-1.0, min(1.0, cos))) / 2)
    further = segment.at(min(1.0, t + on / segment.length))
    return LineString([lead.start, (x, y), further, lead.start])
