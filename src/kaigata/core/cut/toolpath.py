"""The tool's path over one sheet."""

from __future__ import annotations

import math
from collections.abc import Container, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon
from shapely.strtree import STRtree

from kaigata.core.cut.corners import cornered
from kaigata.core.cut.detour import Freed
from kaigata.core.cut.joints import jointed, require_joints
from kaigata.core.cut.judge import (
    crowding,
    cut_twice,
    few_joints,
    hole_marked,
    lost_webs,
    tight_lead,
)
from kaigata.core.cut.kerf import KerfLoop, kerf_loops
from kaigata.core.cut.lead import (
    Lead,
    LeadRules,
    Scrap,
    good_starts,
    lead_ins,
    nearest_start,
)
from kaigata.core.cut.marking import cross, marks_of
from kaigata.core.cut.passes import CutRules, Pass, Run, Stroke, ToolPath, line_of, piece_of
from kaigata.core.cut.posts import corner_of
from kaigata.core.cut.scrap import cut_off, skeleton_cuts
from kaigata.core.cut.sequence import Stop, heat_spread, nearest_next
from kaigata.core.cut.shared import sharing
from kaigata.core.cut.shorten import best_entries, shortened
from kaigata.core.cut.wishes import ByHand, ContourKey, Wishes
from kaigata.core.errors import InputError
from kaigata.core.findings import Finding
from kaigata.core.nest import NestedSheet, NestOrder, Placement
from kaigata.core.nest.figures import motion_of
from kaigata.core.plane import Contour, Point, Region, Segment
from kaigata.core.plane.tolerance import FINE_CHORD, LENGTH

__all__ = ["placed_on", "tool_path"]

_ENTRIES = 10
"""Places to enter a contour that are weighed against each other for short ways."""

_SLOW = 0.4
"""Share of the feed at which small holes are cut."""

_WRITTEN = 4
"""Decimals of a millimetre in most programs."""

_CROSS = 3.0
"""mm: size of the cross that marks a hole to drill, at most its width."""


@dataclass(frozen=True, slots=True)
class _Sheet:
    """What lies where: the parts' regions on the sheet, their polygons, and the sheet's edge.

    ``start`` is where the head sets out.
    """

    placements: tuple[Placement, ...]
    regions: list[Region]
    materials: list[Polygon]
    edge: Polygon
    bends: list[list[LineString]]
    start: Point


@dataclass(frozen=True, slots=True)
class _Task:
    placement: int
    loop: KerfLoop
    leads: list[Lead]
    nominal: Contour


def placed_on(order: NestOrder, sheet: NestedSheet) -> tuple[list[Region], Polygon]:
    """Return the parts of a sheet where they lie, and the sheet's edge, mm."""
    parts = {p.id: p for p in order.parts}
    stock = next(s for s in order.sheets if s.id == sheet.sheet)
    outline = stock.outline or Contour.rectangle(stock.width, stock.height)
    regions = [parts[p.part].region.moved(motion_of(p)) for p in sheet.placements]
    return regions, outline.polygon()


def tool_path(
    order: NestOrder, sheet: NestedSheet, rules: CutRules, wishes: Wishes | None = None
) -> ToolPath:
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
        The row of the cut chart: kerf, feed, pierce time, leads, corners, micro-joints.
    wishes : Wishes, optional
        What else is asked for.

    Returns
    -------
    ToolPath
        With findings about what the kerf cannot enter and where a lead found no room.

    Raises
    ------
    InputError
        Joints are not wider than the kerf, or an order made by hand breaks what must come first.
    """
    wishes = wishes or Wishes()
    require_joints(rules)
    by_hand = wishes.by_hand.get(sheet.number, ByHand())
    laid = _laid(order, sheet, wishes.zero)
    webs = list(lost_webs(laid.placements, laid.materials, rules.kerf))
    findings = [*crowding(laid.placements, laid.materials, laid.edge, rules.kerf), *webs]
    scrap = Scrap(laid.edge, laid.materials, rules.kerf)
    tasks, drilled = [], []
    loops = _loops(order, laid, rules, findings)
    for task, is_drilled in _tasks(laid, loops, rules, wishes, scrap, by_hand):
        if is_drilled:
            drilled.append(task)
            continue
        tasks.append(task)
        is_by_hand = _key(task, laid) in by_hand.pierces
        findings += tight_lead(_name(task, laid), task.leads[0], rules, is_by_hand=is_by_hand)
    stops = _stops(tasks, laid, rules.kerf)
    order_of = _ordered(tasks, stops, laid, wishes, by_hand)
    passes = _passes([(tasks[at], entry) for at, entry in order_of], laid, rules, wishes, scrap)
    _require_all_named(passes, by_hand.order)
    findings += few_joints(passes, rules)
    if webs and not wishes.common_cut:
        findings += cut_twice(passes)
    marks = _marks(order, sheet, wishes, drilled, laid, findings)
    strokes = _scrap_cuts(sheet, laid, rules, wishes)
    runs = _runs(passes, marks, strokes, laid, round_freed=wishes.round_freed)
    return ToolPath(
        sheet=sheet.sheet,
        number=sheet.number,
        rules=rules,
        passes=tuple(passes),
        runs=tuple(runs),
        findings=tuple(findings),
        marks=tuple(marks),
        scrap=tuple(strokes),
    )


def _laid(order: NestOrder, sheet: NestedSheet, zero: str) -> _Sheet:
    regions, edge = placed_on(order, sheet)
    stock = next(s for s in order.sheets if s.id == sheet.sheet)
    start = corner_of(stock.width, stock.height, zero)
    parts = {p.id: p for p in order.parts}
    bends = []
    for placement in sheet.placements:
        motion = motion_of(placement)
        lines = [line for bend in parts[placement.part].bends for line in bend.lines]
        bends.append([LineString([motion.point(p) for p in line]) for line in lines])
    return _Sheet(sheet.placements, regions, [r.polygon() for r in regions], edge, bends, start)


def _loops(
    order: NestOrder, laid: _Sheet, rules: CutRules, findings: list[Finding]
) -> dict[str, list[KerfLoop]]:
    """Return the centre paths of each part in its own frame, and note what they cannot reach."""
    parts = {p.id: p for p in order.parts}
    loops: dict[str, list[KerfLoop]] = {}
    for placement in laid.placements:
        name = placement.part
        if name in loops:
            continue
        loops[name], found = kerf_loops(parts[name].region, rules.kerf, part=name)
        # Found in the part's frame; told where its first copy lies.
        motion = motion_of(placement)
        findings += [replace(f, at=motion.point(f.at)) if f.at else f for f in found]
    return loops


def _tasks(
    laid: _Sheet,
    loops: Mapping[str, Sequence[KerfLoop]],
    rules: CutRules,
    wishes: Wishes,
    scrap: Scrap,
    by_hand: ByHand,
) -> Iterator[tuple[_Task, bool]]:
    """Yield every contour with the places to enter it, and whether it is only to be drilled."""
    lead_rules = LeadRules(
        kind="line" if wishes.by_machine else rules.lead_kind,
        length=rules.lead_in,
        angle=rules.lead_angle,
        lead_out=rules.lead_out,
        over_cut=rules.over_cut,
        by_machine=wishes.by_machine,
    )
    for i, placement in enumerate(laid.placements):
        motion = motion_of(placement)
        for loop in loops[placement.part]:
            path = loop.path.moved(motion)
            nominal = laid.regions[i].contours[loop.hole or 0]
            if _is_small(loop, nominal, rules) and rules.small_holes == "mark":
                yield _Task(i, loop, [], nominal), True
                continue
            wanted = by_hand.pierces.get((placement.part, placement.copy, loop.name))
            starts = (
                [nearest_start(path, wanted)]
                if wanted
                else good_starts(path, rules.kerf / 2, laid.bends[i])
            )
            leads = lead_ins(
                path, own=i, rules=lead_rules, kerf=rules.kerf, scrap=scrap, most=_ENTRIES,
                starts=starts,
            )  # fmt: skip
            yield _Task(i, loop, leads, nominal), False


def _is_small(loop: KerfLoop, nominal: Contour, rules: CutRules) -> bool:
    x0, y0, x1, y1 = nominal.bounds
    return loop.hole is not None and min(x1 - x0, y1 - y0) < rules.smallest_hole


def _ordered(
    tasks: Sequence[_Task],
    stops: Sequence[Stop],
    laid: _Sheet,
    wishes: Wishes,
    by_hand: ByHand,
) -> list[tuple[int, int]]:
    """Return the contours in their order, each with the entry that is used."""
    start = laid.start
    if by_hand.order:
        return best_entries(stops, _order_by_hand(tasks, stops, laid, by_hand.order), start=start)
    if wishes.order == "heat":
        return best_entries(stops, heat_spread(stops, start=start), start=start)
    return shortened(stops, start=start)


def _key(task: _Task, laid: _Sheet) -> ContourKey:
    placement = laid.placements[task.placement]
    return (placement.part, placement.copy, task.loop.name)


def _name(task: _Task, laid: _Sheet) -> str:
    """Return a contour as findings name it."""
    part, copy, name = _key(task, laid)
    return f"{part} copy {copy}, {name}"


def _order_by_hand(
    tasks: Sequence[_Task], stops: Sequence[Stop], laid: _Sheet, wanted: Sequence[ContourKey]
) -> list[int]:
    """Return an order made by hand as places of tasks, once it holds what must come first.

    Contours it does not name come as late as they may: who orders by hand does not see those of
    which common cuts leave nothing.
    """
    places = {_key(task, laid): i for i, task in enumerate(tasks)}
    wanted = list(wanted)
    if len(set(wanted)) < len(wanted) or not places.keys() >= set(wanted):
        raise _other_contours()
    for key in [k for k in places if k not in wanted]:
        later = (n for n, k in enumerate(wanted) if places[key] in stops[places[k]].after)
        wanted.insert(next(later, len(wanted)), key)
    order = [places[k] for k in wanted]
    done: set[int] = set()
    for i in order:
        missing = next((j for j in stops[i].after if j not in done), None)
        if missing is not None:
            first, second = (" ".join(map(str, _key(tasks[k], laid))) for k in (missing, i))
            raise InputError(
                f"{first} must be cut before {second}", fix="Move it to before that contour"
            )
        done.add(i)
    return order


def _require_all_named(passes: Sequence[Pass], wanted: Sequence[ContourKey]) -> None:
    """Refuse an order made by hand that does not name every contour there is a cut for."""
    if wanted and any(p.stretches and (p.part, p.copy, p.name) not in wanted for p in passes):
        raise _other_contours()


def _other_contours() -> InputError:
    return InputError(
        "the order made by hand is of other contours than the sheet now has",
        fix="Let the order be found again",
    )


def _passes(
    ordered: Sequence[tuple[_Task, int]],
    laid: _Sheet,
    rules: CutRules,
    wishes: Wishes,
    scrap: Scrap,
) -> list[Pass]:
    """Return the passes in their order, with what common cuts and joints leave out of them.

    A contour of which something left between two gaps would be mostly loops is cut with sharp
    corners: more would be burnt in scrap than cut.
    """

    def made(unlooped: Container[ContourKey]) -> list[Pass]:
        passes = []
        for task, entry in ordered:
            is_looped = _key(task, laid) not in unlooped
            plain = rules if is_looped or rules.corner != "loop" else replace(rules, corner="sharp")
            passes.append(_enclosing(task, entry, laid, plain, wishes, scrap))
        if wishes.common_cut:
            passes = sharing(passes)
        return jointed(passes, rules, laid.bends, scrap)

    passes = made(())
    if rules.corner != "loop":
        return passes
    unlooped = {(p.part, p.copy, p.name) for p in passes if p.gaps and _is_mostly_loops(p, rules)}
    return made(unlooped) if unlooped else passes


def _is_mostly_loops(wanted: Pass, rules: CutRules) -> bool:
    """Whether of a stretch between gaps more is loops through scrap than contour."""
    for run in wanted.stretches:
        # Loops (and the rare keyhole) turn so far to the right; each runs out and back by the
        # lead's length.
        loops = math.fsum(s.length + 2 * rules.lead_in for s in run if s.bulge < -1)
        if 2 * loops > math.fsum(s.length for s in run):
            return True
    return False


def _enclosing(
    task: _Task, entry: int, laid: _Sheet, rules: CutRules, wishes: Wishes, scrap: Scrap
) -> Pass:
    """Return a pass whose swept kerf a polygon library, too, sees to go all the way round.

    Such libraries now and then lose the inside of a line that ends on itself, in one entry out of
    hundreds; whoever checks the program with one would doubt it, and another entry is as good.
    """
    leads = [task.leads[entry], *(lead for lead in task.leads if lead != task.leads[entry])]
    for lead in leads[:3]:
        made = _pass(task, lead, laid, rules, wishes, scrap)
        points = [
            p
            for run in made.stretches
            for p in (run[0].start, *(q for s in run for q in s.flattened(FINE_CHORD)))
        ]
        line = shapely.linestrings(np.round(np.array(points), _WRITTEN))
        if line.buffer(rules.kerf / 2).interiors:
            return made
    return _pass(task, leads[0], laid, rules, wishes, scrap)


def _pass(
    task: _Task, lead: Lead, laid: _Sheet, rules: CutRules, wishes: Wishes, scrap: Scrap
) -> Pass:
    placement = laid.placements[task.placement]
    half = rules.kerf / 2

    def is_clear(added: Sequence[Segment], apart: float) -> bool:
        return scrap.is_clear(line_of(added), half_kerf=half, own=task.placement, apart=apart)

    style = "round" if wishes.by_machine else rules.corner
    path = cornered(lead.path, half, style, rules.lead_in, is_clear)
    # A machine that keeps the kerf off cuts the corner between a lead and the contour short; what
    # it missed there is cut at the end.
    least = rules.kerf if wishes.by_machine and lead.lead else 0.0
    return Pass(
        part=placement.part,
        copy=placement.copy,
        name=task.loop.name,
        lead=lead.lead,
        path=path,
        nominal=task.nominal,
        over=tuple(piece_of(path.segments, 0.0, min(max(rules.over_cut, least), path.length / 4))),
        out=lead.out,
        speed=_SLOW if _is_small(task.loop, task.nominal, rules) else 1.0,
        placement=task.placement,
    )


def _stops(tasks: Sequence[_Task], laid: _Sheet, kerf: float) -> list[Stop]:
    of_placement: dict[int, list[int]] = {}
    for i, task in enumerate(tasks):
        of_placement.setdefault(task.placement, []).append(i)
    outlines = [r.outer.polygon() for r in laid.regions]
    tree = STRtree(outlines)
    stops = []
    for task in tasks:
        if task.loop.hole is None:
            freed = _freed_by(task.placement, outlines, tree, kerf)
            before = [
                i for p in freed for i in of_placement.get(p, ()) if tasks[i].loop.hole is not None
            ]
        else:
            hole = task.nominal.polygon()
            inside = tree.query(hole, predicate="contains")
            before = [i for p in inside if p != task.placement for i in of_placement.get(p, ())]
        entries = tuple((e.pierce, e.out.end if e.out else e.entry) for e in task.leads)
        stops.append(Stop(entries, frozenset(before)))
    return stops


def _freed_by(
    placement: int, outlines: Sequence[Polygon], tree: STRtree, kerf: float
) -> Iterator[int]:
    """Yield the parts that a cut round one may free: itself, and its neighbours within two kerfs.

    Between those no skeleton stands once both are cut; one with such neighbours all round is loose
    before its own turn comes.
    """
    yield placement
    outline = outlines[placement]
    near = np.sort(tree.query(outline, predicate="dwithin", distance=2 * kerf + LENGTH))
    yield from (int(i) for i in near if not outlines[int(i)].intersects(outline))


def _marks(
    order: NestOrder,
    sheet: NestedSheet,
    wishes: Wishes,
    drilled: Sequence[_Task],
    laid: _Sheet,
    findings: list[Finding],
) -> list[Stroke]:
    """Return everything that is marked, in an order of short ways."""
    marks: list[Stroke] = []
    for part in order.parts:
        placements = [p for p in sheet.placements if p.part == part.id]
        if placements:
            lettered, found = marks_of(part, placements, wishes.marking)
            marks += lettered
            findings += found
    for task in drilled:
        x0, y0, x1, y1 = task.nominal.bounds
        at, width = ((x0 + x1) / 2, (y0 + y1) / 2), min(x1 - x0, y1 - y0)
        marks += cross(" ".join(map(str, _key(task, laid))), at, min(_CROSS, width))
        findings.append(hole_marked(_name(task, laid), at, width))
    stops = [Stop(((m.segments[0].start, m.segments[-1].end),), frozenset()) for m in marks]
    return [marks[i] for i in nearest_next(stops, start=laid.start)]


def _scrap_cuts(sheet: NestedSheet, laid: _Sheet, rules: CutRules, wishes: Wishes) -> list[Stroke]:
    strokes: list[Stroke] = []
    right = sheet.used_length or laid.edge.bounds[2]
    if wishes.cut_off:
        strokes += cut_off(laid.edge, laid.materials, rules.kerf, right)
    if wishes.skeleton:
        strokes += skeleton_cuts(laid.edge, laid.materials, rules.kerf, wishes.skeleton, right)
    return strokes


def _runs(
    passes: Sequence[Pass],
    marks: Sequence[Stroke],
    strokes: Sequence[Stroke],
    laid: _Sheet,
    *,
    round_freed: bool,
) -> list[Run]:
    """Return all the tool does, each run with the way to it from where the last one ended."""
    work: list[tuple[str, int, tuple[Segment, ...]]] = [
        *(("mark", i, m.segments) for i, m in enumerate(marks)),
        *(("cut", i, s) for i, p in enumerate(passes) for s in p.stretches),
        *(("scrap", i, s.segments) for i, s in enumerate(strokes)),
    ]
    freed = Freed(laid.edge, [p.nominal.polygon() for p in passes]) if round_freed else None
    at = laid.start
    runs = []
    for n, (kind, of, segments) in enumerate(work):
        to = segments[0].start
        points = freed.way(at, to) if freed else [at, to]
        way = [Segment(a, b) for a, b in pairwise(points)]
        runs.append(Run(kind, of, tuple(s for s in way if s.chord > LENGTH), segments))
        at = segments[-1].end
        is_last = n + 1 == len(work) or work[n + 1][:2] != (kind, of)
        if freed and kind == "cut" and is_last:
            freed.add(of)
    return runs
