"""The tool's path over one sheet."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import shapely
from shapely.geometry import Polygon
from shapely.strtree import STRtree

from kaigata.core.cut.kerf import KerfLoop, kerf_loops
from kaigata.core.cut.lead import Lead, LeadRules, Scrap, lead_ins
from kaigata.core.cut.sequence import Stop, nearest_next
from kaigata.core.cut.shorten import shortened
from kaigata.core.findings import Finding, Level
from kaigata.core.metal.stores import CutChartRow
from kaigata.core.nest import NestedSheet, NestOrder, Placement
from kaigata.core.nest.figures import motion_of
from kaigata.core.plane import Contour, Point, Segment
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["CutRules", "Pass", "ToolPath", "tool_path"]

CutRules = CutChartRow

_ENTRIES = 10
"""Places to enter a contour that are weighed against each other for short ways."""

_SHARP = math.radians(20)
"""The head stops at corners sharper than this."""

_SLOW = 0.4
"""Share of the feed at which small holes are cut."""


@dataclass(frozen=True, slots=True)
class Pass:
    """From a pierce to the beam's end: an optional lead, once round a contour, a way out.

    ``nominal`` is the contour of the part that it cuts, where it lies on the sheet; ``over`` is
    the stretch cut twice after closing; ``speed`` is the share of the feed it is cut at.
    """

    part: str
    copy: int
    name: str
    lead: Segment | None
    path: Contour
    nominal: Contour
    over: tuple[Segment, ...] = ()
    out: Segment | None = None
    speed: float = 1.0

    @property
    def segments(self) -> tuple[Segment, ...]:
        """All the beam does from its pierce to its end."""
        return (
            *((self.lead,) if self.lead else ()),
            *self.path.segments,
            *self.over,
            *((self.out,) if self.out else ()),
        )

    @property
    def length(self) -> float:
        """Length with the beam on, mm."""
        return math.fsum(s.length for s in self.segments)

    @property
    def pierce(self) -> Point:
        """Where the beam starts."""
        return self.lead.start if self.lead else self.path.segments[0].start

    @property
    def end(self) -> Point:
        """Where the beam ends."""
        if self.out:
            return self.out.end
        return self.over[-1].end if self.over else self.path.segments[0].start


@dataclass(frozen=True, slots=True)
class ToolPath:
    """The passes of a sheet in the order they are cut, and what they measure, mm and seconds."""

    sheet: str
    number: int
    rules: CutRules
    passes: tuple[Pass, ...]
    findings: tuple[Finding, ...]

    @property
    def cut_length(self) -> float:
        """Length with the beam on, leads included."""
        return math.fsum(p.length for p in self.passes)

    @property
    def lead_length(self) -> float:
        """Length of all leads, in and out."""
        return math.fsum(s.length for p in self.passes for s in (p.lead, p.out) if s)

    @property
    def rapids(self) -> list[Segment]:
        """The moves between passes, from the work zero on."""
        ends = [(0.0, 0.0), *(p.end for p in self.passes)]
        ways = [Segment(a, p.pierce) for a, p in zip(ends, self.passes, strict=False)]
        return [s for s in ways if s.chord > LENGTH]

    @property
    def rapid_length(self) -> float:
        """Length of all rapid moves."""
        return math.fsum(s.length for s in self.rapids)

    @property
    def seconds(self) -> float:
        """Time by feeds, accelerations and pierces; the head stops at sharp corners."""
        return math.fsum(s for i in range(len(self.passes)) for s in self.seconds_of(i))

    def seconds_of(self, index: int) -> tuple[float, float, float]:
        """Return how long the rapid to a pass, its pierce and its cut take."""
        rules, wanted = self.rules, self.passes[index]
        at = self.passes[index - 1].end if index else (0.0, 0.0)
        feed = rules.feed / 60 * wanted.speed
        return (
            _move_seconds(math.dist(at, wanted.pierce), rules.rapid / 60, rules.acceleration),
            rules.pierce_seconds,
            math.fsum(_move_seconds(r, feed, rules.acceleration) for r in _runs(wanted.segments)),
        )

    @property
    def cost(self) -> float:
        """What the machine costs for that time."""
        return self.seconds / 3600 * self.rules.hourly_rate


def _move_seconds(length: float, speed: float, acceleration: float) -> float:
    """Return the time of a move from rest to rest: mm, mm/s, mm/s²."""
    if length <= 0:
        return 0.0
    if length * acceleration < speed * speed:
        return 2 * math.sqrt(length / acceleration)
    return length / speed + speed / acceleration


def _runs(segments: Sequence[Segment]) -> list[float]:
    """Return the lengths between the corners at which the head stops."""
    runs = [0.0]
    heading: tuple[float, float] | None = None
    for s in segments:
        (x, y), to = s.heading(0.0), s.heading(1.0)
        if heading and x * heading[0] + y * heading[1] < math.cos(_SHARP):
            runs.append(0.0)
        runs[-1] += s.length
        heading = to
    return runs


@dataclass(frozen=True, slots=True)
class _Task:
    placement: int
    loop: KerfLoop
    leads: list[Lead]
    nominal: Contour


def tool_path(order: NestOrder, sheet: NestedSheet, rules: CutRules) -> ToolPath:
    """Return the tool's path over a nested sheet.

    Outside contours are moved outwards and holes inwards by half the kerf; every contour has a
    lead where scrap leaves room; holes go before their outline, and parts that lie in a hole
    before that hole.

    Parameters
    ----------
    order : NestOrder
        The parts and sheets.
    sheet : NestedSheet
        What lies where.
    rules : CutRules
        Kerf, feed, pierce time and lead length.

    Returns
    -------
    ToolPath
        With findings about what the kerf cannot enter and where a lead found no room.
    """
    parts = {p.id: p for p in order.parts}
    loops: dict[str, list[KerfLoop]] = {}
    findings: list[Finding] = []
    for name in dict.fromkeys(p.part for p in sheet.placements):
        loops[name], found = kerf_loops(parts[name].region, rules.kerf, part=name)
        findings += found
    stock = next(s for s in order.sheets if s.id == sheet.sheet)
    outline = stock.outline or Contour.rectangle(stock.width, stock.height)
    regions = [parts[p.part].region.moved(motion_of(p)) for p in sheet.placements]
    materials = [r.polygon() for r in regions]
    findings += _crowding(sheet.placements, materials, rules.kerf)
    scrap = Scrap(outline.polygon(), materials)
    lead_rules = LeadRules(
        kind=rules.lead_kind,
        length=rules.lead_in,
        angle=rules.lead_angle,
        lead_out=rules.lead_out,
        over_cut=rules.over_cut,
    )
    tasks = []
    for i, placement in enumerate(sheet.placements):
        motion = motion_of(placement)
        for loop in loops[placement.part]:
            path = loop.path.moved(motion)
            leads = lead_ins(
                path, own=i, rules=lead_rules, kerf=rules.kerf, scrap=scrap, most=_ENTRIES
            )
            tasks.append(_Task(i, loop, leads, regions[i].contours[loop.hole or 0]))
            findings += _tight(placement, loop, leads[0], lead_rules)
    stops = _stops(tasks, regions=[r.outer.polygon() for r in regions])
    first = nearest_next(stops, start=(0.0, 0.0))
    passes = [
        _pass(tasks[at], sheet.placements[tasks[at].placement], tasks[at].leads[entry], rules)
        for at, entry in shortened(stops, first, start=(0.0, 0.0))
    ]
    return ToolPath(sheet.sheet, sheet.number, rules, tuple(passes), tuple(findings))


def _pass(task: _Task, placement: Placement, lead: Lead, rules: CutRules) -> Pass:
    x0, y0, x1, y1 = task.nominal.bounds
    is_small = task.loop.hole is not None and min(x1 - x0, y1 - y0) < rules.smallest_hole
    return Pass(
        part=placement.part,
        copy=placement.copy,
        name=task.loop.name,
        lead=lead.lead,
        path=lead.path,
        nominal=task.nominal,
        over=tuple(_first_of(lead.path, rules.over_cut)),
        out=lead.out,
        speed=_SLOW if is_small else 1.0,
    )


def _first_of(path: Contour, length: float) -> Iterator[Segment]:
    """Yield a path's first stretch of a length, at most a quarter of it."""
    left = min(length, path.length / 4)
    for segment in path.segments:
        if left <= LENGTH:
            return
        share = min(1.0, left / segment.length)
        yield segment if share == 1.0 else segment.part(0.0, share)
        left -= segment.length * share


def _stops(tasks: Sequence[_Task], *, regions: Sequence[Polygon]) -> list[Stop]:
    of_placement: dict[int, list[int]] = {}
    for i, task in enumerate(tasks):
        of_placement.setdefault(task.placement, []).append(i)
    tree = STRtree(regions)
    stops = []
    for task in tasks:
        if task.loop.hole is None:
            before = [i for i in of_placement[task.placement] if tasks[i].loop.hole is not None]
        else:
            hole = task.nominal.polygon()
            inside = tree.query(hole, predicate="contains")
            before = [i for p in inside if p != task.placement for i in of_placement[p]]
        entries = tuple((e.pierce, e.out.end if e.out else e.entry) for e in task.leads)
        stops.append(Stop(entries, frozenset(before)))
    return stops


def _tight(placement: Placement, loop: KerfLoop, lead: Lead, rules: LeadRules) -> Iterator[Finding]:
    """Yield what there is to say of a contour without room for its lead."""
    x, y = lead.pierce
    name = f"{placement.part} copy {placement.copy}, {loop.name}"
    if lead.lead is None and rules.kind != "none":
        yield Finding(
            level=Level.WARNING,
            code="no-lead",
            text=f"{name}: there is no scrap for a lead-in, so the beam pierces on the contour at "
            f"{x:.1f}, {y:.1f}. Widen the spacing or shorten the lead.",
            at=lead.pierce,
        )
    elif lead.lead is not None and lead.is_short:
        yield Finding(
            level=Level.NOTE,
            code="short-lead",
            text=f"{name}: the lead-in is {lead.lead.length:.1f} mm instead of {rules.length:g} "
            f"at {x:.1f}, {y:.1f}: scrap is tight there.",
            at=lead.pierce,
        )


def _crowding(
    placements: Sequence[Placement], materials: Sequence[Polygon], kerf: float
) -> list[Finding]:
    """Return a finding for each pair of parts that lies closer than the kerf is wide."""
    tree = STRtree(materials)
    out = []
    for i, j in tree.query(materials, predicate="dwithin", distance=kerf).T:
        if i >= j:
            continue
        gap = float(shapely.distance(materials[i], materials[j]))
        a, b = placements[i], placements[j]
        p = shapely.shortest_line(materials[i], materials[j]).coords[0]
        out.append(
            Finding(
                level=Level.ERROR,
                code="spacing-under-kerf",
                text=f"{a.part} copy {a.copy} and {b.part} copy {b.copy} lie {gap:.2f} mm apart, "
                f"the kerf is {kerf:g}: cutting one cuts into the other. Nest again with a "
                "spacing wider than the kerf.",
                at=(p[0], p[1]),
            )
        )
    return out
