"""The true outline of each plate: cut back for its bends, with reliefs and cut corners."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from kaigata.core.errors import InputError
from kaigata.core.part.recipe.plates import ACROSS, Flange, Joint, Line, Notch, Plate
from kaigata.core.part.recipe.rounding import AtBend, Side, Span, rounded
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.meet import crossings
from kaigata.core.plane.segment import bulge_of_sweep
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["outline"]


@dataclass(frozen=True, slots=True)
class _Run:
    """A stretch of an edge at one depth, to ``end``; the last of an edge goes to the corner.

    One that ``is_cut`` frees the bend beside it already.
    """

    end: float
    depth: float
    flange: Flange | None = None
    is_cut: bool = False


def outline(plate: Plate, own: Span | None = None) -> list[Side]:
    """Return the outline of a plate in order, counter-clockwise.

    Parameters
    ----------
    plate : Plate
        The plate.
    own : Span, optional
        Where the bend it hangs on lies, on its first edge.

    Raises
    ------
    InputError
        Bends have no room, or a flange hangs where it cannot.
    """
    edges = [_runs(plate, i, own) for i in range(len(plate.edges))]
    lines = _Lines(plate, own)
    corners = lines.corners(edges)
    edges = [_with_stubs(lines, i, edges, corners) for i in range(len(edges))]
    corners = lines.corners(edges)
    sides: list[Side] = []
    for i, runs in enumerate(edges):
        start, end = _between_reliefs(plate, i, runs, (corners[i - 1], corners[i]), own)
        if sides and i - 1 in plate.reliefs:
            sides += _corner_relief(plate, i - 1, sides[-1].run.end, start)
        sides += [replace(side, edge=i) for side in _along(lines, i, runs, (start, end))]
    if len(edges) - 1 in plate.reliefs:
        sides += _corner_relief(plate, len(edges) - 1, sides[-1].run.end, sides[0].run.start)
    return rounded(plate, sides)


def _with_stubs(
    lines: _Lines, edge: int, edges: Sequence[Sequence[_Run]], corners: Sequence[Point]
) -> list[_Run]:
    """Return the stretches of an edge, bends shortened to where the corners beside leave room.

    What is left between such a bend and a corner without a relief is cut as deep as one, but no
    deeper than where the edge beside leans in over the end of the bend.
    """
    plate, runs = lines.plate, edges[edge]
    segment = plate.edges[edge]
    start, end = (segment.share_of(corners[i]) * segment.chord for i in (edge - 1, edge))
    out = list(runs)
    first, last = runs[0].flange, runs[-1].flange
    if last and last is not plate and edge not in plate.reliefs:
        high, depth = last.limits[1], last.joint.depth
        if high < end - LENGTH:
            after = (edge + 1) % len(edges)
            deep = lines.depth_under(after, edges[after][0].depth, edge, high)
            stub = min(depth + last.joint.notch.depth, max(depth, deep))
            out[-1:] = [_Run(high, depth, last), _Run(end, stub, is_cut=True)]
    if first and first is not plate and (edge - 1) % len(plate.edges) not in plate.reliefs:
        low, depth = first.limits[0], first.joint.depth
        if low > start + LENGTH:
            deep = lines.depth_under(edge - 1, edges[edge - 1][-1].depth, edge, low)
            stub = min(depth + first.joint.notch.depth, max(depth, deep))
            out.insert(0, _Run(low, stub, is_cut=True))
    return out


def _between_reliefs(
    plate: Plate,
    edge: int,
    runs: Sequence[_Run],
    corners: tuple[Point, Point],
    own: Span | None,
) -> tuple[Point, Point]:
    """Return where an edge begins and ends: in its corners, or beside their reliefs."""
    segment, (start, end) = plate.edges[edge], corners
    before = plate.reliefs.get((edge - 1) % len(plate.edges))
    after = plate.reliefs.get(edge)
    if before and (first := runs[0].flange):
        low = own.start if own and first is plate else first.limits[0]
        at = max(segment.share_of(start) * segment.chord + before[0], low)
        start = plate.on_edge(edge, at, runs[0].depth)
    if after and (last := runs[-1].flange):
        high = own.end if own and last is plate else last.limits[1]
        at = min(segment.share_of(end) * segment.chord - after[0], high)
        end = plate.on_edge(edge, at, runs[-1].depth)
    return start, end


def _corner_relief(plate: Plate, edge: int, start: Point, end: Point) -> list[Side]:
    """Return the pieces round the relief between the bends of an edge and the next."""
    (ux, uy), (vx, vy) = (plate.edges[k % len(plate.edges)].heading(0.0) for k in (edge, edge + 1))
    if plate.reliefs[edge][1]:
        # An arc that begins square to the one bend and ends square to the other.
        inner = math.pi - math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)
        return [Side(Segment(start, end, bulge_of_sweep(-inner)))]
    straight = Segment(start, (start[0] - uy, start[1] + ux))
    across = Segment(end, (end[0] - vy, end[1] + vx))
    deep = (crossings(straight, across) or [start])[0]
    return [Side(Segment(start, deep)), Side(Segment(deep, end))]


def _runs(plate: Plate, edge: int, own: Span | None) -> list[_Run]:
    """Return the stretches of an edge in order: free, and along bends."""
    length = plate.edges[edge].chord
    if isinstance(plate, Flange) and own and edge == 0:
        base = plate.rise
        # What reaches past the bend to a neighbour is cut free of it.
        free = base + plate.joint.notch.depth
        # A side of its own outline goes on from the end of the bend, however it slants.
        at = base if plate.is_shaped else free
        left = free if _reach(plate, -1, at, own.start) < own.start - LENGTH else base
        right = free if _reach(plate, 1, at, own.end) > own.end + LENGTH else base
        # No further up than where a side that leans in meets the end of the bend.
        if left == free and _reach(plate, -1, free, own.start) > own.start + LENGTH:
            left = _height(plate, -1, own.start)
        if right == free and _reach(plate, 1, free, own.end) < own.end - LENGTH:
            right = _height(plate, 1, own.end)
        stretches = [_Run(own.start, left), _Run(own.end, base, plate), _Run(length, right)]
        # Beside a relief its own bend is the last of the edge, as any other.
        first, last = len(plate.edges) - 1 in plate.reliefs, 0 in plate.reliefs
        return stretches[int(first) : 3 - int(last)]
    runs: list[_Run] = []
    at = 0.0
    for flange in sorted(plate.hung, key=lambda f: f.joint.start):
        joint = flange.joint
        if joint.edge != edge:
            continue
        _require_room(plate, flange, own)
        if joint.start < at - LENGTH:
            raise InputError(
                f"it overlaps another flange on {plate.called(edge)} by {at - joint.start:.6g} mm",
                where=flange.where,
                fix="Leave its ends free, or hang it on another edge",
            )
        if not joint.reaches_start:
            runs.append(_Run(joint.start, 0.0))
        runs.append(_Run(joint.end, joint.depth, flange))
        at = joint.end
    if not runs or at < length - LENGTH:
        runs.append(_Run(length, 0.0))
    return runs


def _reach(plate: Flange, side: int, height: float, otherwise: float) -> float:
    """Return where the side right (1) or left (-1) of a flange's bend lies at a height, along it.

    That of a side that ends with the bend is ``otherwise``.
    """
    line = _beside(plate, side)
    if line is None or abs(line.along[1]) < LENGTH:
        return otherwise
    first = plate.edges[0].start[0]
    return line.at[0] - first + line.along[0] * (height - line.at[1]) / line.along[1]


def _height(plate: Flange, side: int, along: float) -> float:
    """Return the height at which a slanted side of a flange lies so far along its bend."""
    line = _beside(plate, side)
    if line is None:
        return plate.rise
    first = plate.edges[0].start[0]
    return line.at[1] + line.along[1] * (along + first - line.at[0]) / line.along[0]


def _beside(plate: Flange, side: int) -> Line | None:
    """Return the line on which the side right (1) or left (-1) of a flange's bend lies.

    None of one that ends with its bend, or is bent itself there.
    """
    place = side % len(plate.edges)
    if any(
        f.joint.edge == place and (f.joint.reaches_start if side > 0 else f.joint.reaches_end)
        for f in plate.hung
    ):
        return None
    line = plate.sides.get(place)
    if line is None and plate.is_shaped:
        # As it leaves the bend, where it may be an arc.
        edge, end = plate.edges[place], 0.0 if side > 0 else 1.0
        return Line(edge.at(end), edge.heading(end))
    return line


def _require_room(plate: Plate, flange: Flange, own: Span | None) -> None:
    joint = flange.joint
    wide = plate.edges[0].chord
    short = 0.0
    if own and isinstance(plate, Flange) and not plate.is_shaped:
        short = {1: wide - own.end, 3: own.start}.get(joint.edge, 0.0)
        if flange.is_shaped and joint.edge == ACROSS:
            short = max(wide - own.end, own.start, key=abs)
    if abs(short) > LENGTH and joint.edge not in plate.sides:
        raise InputError(
            f"{plate.called(joint.edge)} ends with its bend, {short:.6g} mm inside of "
            "where it was said",
            where=flange.where,
            fix="Leave an end of that bend free, so that it does not reach the corner",
        )
    if not plate.edges[joint.edge].is_line:
        raise InputError(
            f"{plate.called(joint.edge)} is an arc",
            where=flange.where,
            fix="Hang flanges on straight edges",
        )
    if joint.edge in plate.sides:
        raise InputError(
            f"{plate.called(joint.edge)} is cut to the flange beside it",
            where=flange.where,
            fix="Hang it on another edge, or leave the corner open",
        )
    notched = joint.depth > LENGTH and not (joint.reaches_start and joint.reaches_end)
    if notched and joint.angle > 0 and joint.notch.width <= 0:
        raise InputError(
            f"its bend begins {joint.depth:.6g} mm inside the edge and stops within it, so the "
            "sheet would tear",
            where=flange.where,
            fix="Give its relief a width, or lay the bend beside the edge",
        )


class _Lines:
    """The straight lines a plate's edges lie on, at any depth."""

    def __init__(self, plate: Plate, own: Span | None) -> None:
        self.plate = plate
        self.sides = dict(plate.sides)
        if own and isinstance(plate, Flange) and not plate.is_shaped:
            # A flange that is cut to no neighbour ends with its bend.
            self.sides.setdefault(1, Line((own.end, 0.0), (0.0, 1.0)))
            self.sides.setdefault(3, Line((own.start, 0.0), (0.0, -1.0)))

    def line(self, edge: int, depth: float) -> Line:
        side = self.sides.get(edge)
        if side is None:
            at = self.plate.on_edge(edge, 0.0, depth)
            return Line(at, self.plate.edges[edge].heading(0.0))
        (x, y), (ux, uy) = side.at, side.along
        return Line((x - uy * depth, y + ux * depth), side.along)

    def corners(self, edges: Sequence[Sequence[_Run]]) -> list[Point]:
        """Return where each edge meets the next, at the depths of the stretches that meet."""
        after = [*edges[1:], edges[0]]
        return [
            self._corner(i, here[-1].depth, there[0].depth)
            for i, (here, there) in enumerate(zip(edges, after, strict=True))
        ]

    def uncut(self, joint: Joint) -> tuple[float, float]:
        """Return from where to where along its edge a bend would go without its neighbours."""
        edge, segment = joint.edge, self.plate.edges[joint.edge]
        first, last = joint.start, joint.end
        if joint.reaches_start:
            corner = self._corner((edge - 1) % len(self.plate.edges), 0.0, joint.depth)
            first = segment.share_of(corner) * segment.chord
        if joint.reaches_end:
            corner = self._corner(edge, joint.depth, 0.0)
            last = segment.share_of(corner) * segment.chord
        return first, last

    def depth_under(self, beside: int, depth: float, edge: int, along: float) -> float:
        """Return how deep below a place along one edge the line of another lies; inf if nowhere."""
        place = self.plate.on_edge(edge, along, 0.0)
        inward = Segment(place, self.plate.on_edge(edge, along, 1.0))
        found = crossings(self.line(beside % len(self.plate.edges), depth).stretch(), inward)
        deep = inward.share_of(found[0]) if found else 0.0
        return deep if deep > 0 else math.inf

    def _corner(self, edge: int, depth: float, next_depth: float) -> Point:
        """Return where an edge meets the next, each at its depth."""
        edges = self.plate.edges
        after = (edge + 1) % len(edges)
        if not (edges[edge].is_line and edges[after].is_line):
            if abs(depth) > LENGTH or abs(next_depth) > LENGTH:
                raise InputError(
                    f"a bend reaches the arc beside {self.plate.called(edge)}",
                    where=self.plate.where,
                    fix="Leave that end of the edge free",
                )
            return edges[edge].end
        one, two = self.line(edge, depth), self.line(after, next_depth)
        found = crossings(one.stretch(), two.stretch())
        if found:
            return found[0]
        if abs(depth - next_depth) > LENGTH:
            raise InputError(
                f"{self.plate.called(edge)} and edge {self.plate.number(after)} run on in one "
                "line, and a bend on one of them reaches the other",
                where=self.plate.where,
                fix="Leave that end of the edge free",
            )
        return self.plate.on_edge(after, 0.0, next_depth)


def _along(
    lines: _Lines, edge: int, runs: Sequence[_Run], corners: tuple[Point, Point]
) -> Iterator[Side]:
    """Yield the pieces of an edge from one corner to the next."""
    plate = lines.plate
    if not plate.edges[edge].is_line:
        yield Side(plate.edges[edge])
        return
    at = corners[0]
    for run, later in zip(runs, [*runs[1:], None], strict=True):
        if later is None:
            steps = [Segment(at, corners[1])]
        else:
            path = [at, *_step(plate, edge, run, later)]
            steps = list(_joined(path, _notch_beside(plate, run, later)))
        yield from _stretch(lines, edge, run, steps[0])
        yield from (Side(s) for s in steps[1:] if not s.is_nothing())
        at = steps[-1].end


def _notch_beside(plate: Plate, run: _Run, later: _Run) -> Notch | None:
    """Return the relief between a free stretch and a bend that ends there, if it cuts anything."""
    bend, free = (later, run) if run.flange is None else (run, later)
    flange = bend.flange
    if flange is None or flange is plate or free.flange is not None or free.is_cut:
        return None
    joint = flange.joint
    if joint.angle == 0 or joint.notch.width <= 0:
        return None
    return joint.notch if bend.depth + joint.notch.depth > free.depth + LENGTH else None


def _step(plate: Plate, edge: int, run: _Run, later: _Run) -> list[Point]:
    """Return the points from the end of one stretch to the beginning of the next."""
    here = run.end
    notch = _notch_beside(plate, run, later)
    if notch is None:
        return [plate.on_edge(edge, here, run.depth), plate.on_edge(edge, here, later.depth)]
    bend = later if run.flange is None else run
    # A relief lies beside its bend, on the free stretch.
    first, last = (here - notch.width, here) if bend is later else (here, here + notch.width)
    floor = bend.depth + notch.depth - (notch.width / 2 if notch.is_round else 0.0)
    return [
        plate.on_edge(edge, first, run.depth),
        plate.on_edge(edge, first, floor),
        plate.on_edge(edge, last, floor),
        plate.on_edge(edge, last, later.depth),
    ]


def _joined(path: Sequence[Point], notch: Notch | None) -> Iterator[Segment]:
    for i, (a, b) in enumerate(pairwise(path)):
        # The floor of a relief is its third piece; seen from the panel its round bulges inwards.
        is_floor = notch is not None and i == 2
        yield Segment(a, b, -1.0 if is_floor and notch and notch.is_round else 0.0)


def _stretch(lines: _Lines, edge: int, run: _Run, line: Segment) -> Iterator[Side]:
    """Yield a stretch of an edge, which a bend may lie along."""
    plate, flange = lines.plate, run.flange
    segment = plate.edges[edge]
    length = segment.chord
    start, end = (segment.share_of(p) * length for p in (line.start, line.end))
    if end < start - LENGTH or (flange and end < start + LENGTH):
        raise InputError(
            f"{plate.called(edge)} has no room for it: {start - end:.6g} mm are wanting",
            where=plate.where if flange is None else flange.where,
            fix="Leave more of the edge free, or make the panel larger",
        )
    if line.is_nothing():
        return
    span = Span(start, end)
    yield Side(line, AtBend(flange, span, _beyond(lines, flange, span)) if flange else None)


def _beyond(lines: _Lines, flange: Flange, span: Span) -> Span:
    """Return where a bend ends on its flange: as wide as it begins, or with the flange's outline.

    An end that a neighbour has cut short does not run on in the outline.
    """
    joint = flange.joint
    far = Span(joint.end - span.end, joint.end - span.start)
    if flange is lines.plate or not flange.is_shaped:
        return far
    first, last = lines.uncut(joint)
    low, high = flange.limits
    start, end = far.start, far.end
    if abs(span.end - last) < LENGTH:
        start = max(_reach(flange, -1, flange.rise, start), joint.end - high)
    if abs(span.start - first) < LENGTH:
        end = min(_reach(flange, 1, flange.rise, end), joint.end - low)
    return Span(start, end)
