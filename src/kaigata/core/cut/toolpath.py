"""The tool's path over one sheet."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import shapely
from shapely.geometry import Polygon
from shapely.strtree import STRtree

from kaigata.core.cut.kerf import KerfLoop, kerf_loops
from kaigata.core.cut.lead import Lead, Scrap, lead_in
from kaigata.core.cut.sequence import Stop, nearest_next
from kaigata.core.findings import Finding, Level
from kaigata.core.metal.stores import CutChartRow
from kaigata.core.nest import NestedSheet, NestOrder, Placement
from kaigata.core.nest.figures import motion_of
from kaigata.core.plane import Contour, Point, Segment
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["CutRules", "Pass", "ToolPath", "tool_path"]

CutRules = CutChartRow


@dataclass(frozen=True, slots=True)
class Pass:
    """From one pierce to the beam's end: an optional lead, then once round a contour.

    ``nominal`` is the contour of the part that it cuts, where it lies on the sheet.
    """

    part: str
    copy: int
    name: str
    lead: Segment | None
    path: Contour
    nominal: Contour

    @property
    def pierce(self) -> Point:
        """Where the beam starts."""
        return self.lead.start if self.lead else self.path.segments[0].start

    @property
    def end(self) -> Point:
        """Where the beam ends."""
        return self.path.segments[0].start


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
        return math.fsum(p.path.length for p in self.passes) + self.lead_length

    @property
    def lead_length(self) -> float:
        """Length of all leads."""
        return math.fsum(p.lead.length for p in self.passes if p.lead)

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
        """Time by feeds and pierces, without accelerations."""
        rules = self.rules
        minutes = self.cut_length / rules.feed + self.rapid_length / rules.rapid
        return minutes * 60 + len(self.passes) * rules.pierce_seconds


@dataclass(frozen=True, slots=True)
class _Task:
    placement: int
    loop: KerfLoop
    lead: Lead
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
    tasks = []
    for i, placement in enumerate(sheet.placements):
        motion = motion_of(placement)
        for loop in loops[placement.part]:
            path = loop.path.moved(motion)
            lead = lead_in(path, own=i, length=rules.lead_in, kerf=rules.kerf, scrap=scrap)
            nominal = regions[i].contours[loop.hole or 0]
            tasks.append(_Task(i, loop, lead, nominal))
            if lead.lead is None:
                findings.append(_no_room(placement, loop, lead))
    stops = _stops(tasks, regions=[r.outer.polygon() for r in regions])
    passes = []
    for at in nearest_next(stops, start=(0.0, 0.0)):
        task, placement = tasks[at], sheet.placements[tasks[at].placement]
        passes.append(
            Pass(
                part=placement.part,
                copy=placement.copy,
                name=task.loop.name,
                lead=task.lead.lead,
                path=task.lead.path,
                nominal=task.nominal,
            )
        )
    return ToolPath(sheet.sheet, sheet.number, rules, tuple(passes), tuple(findings))


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
        end = task.lead.path.segments[0].start
        stops.append(Stop(task.lead.pierce, end, frozenset(before)))
    return stops


def _no_room(placement: Placement, loop: KerfLoop, lead: Lead) -> Finding:
    x, y = lead.pierce
    return Finding(
        level=Level.WARNING,
        code="no-lead",
        text=f"{placement.part} copy {placement.copy}, {loop.name}: there is no scrap for a "
        f"lead-in, so the beam pierces on the contour at {x:.1f}, {y:.1f}. Widen the spacing or "
        "shorten the lead.",
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
