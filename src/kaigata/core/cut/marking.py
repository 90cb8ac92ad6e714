"""What is marked on parts before they are cut: bend lines, directions, part numbers."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise, product

import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from kaigata.core.cut.passes import Stroke
from kaigata.core.cut.strokes import lettering, width_of
from kaigata.core.findings import Finding, Level, counted
from kaigata.core.nest import BendLine, NestPart, Placement
from kaigata.core.nest.figures import motion_of
from kaigata.core.plane import Motion, Point, Segment

__all__ = ["Marking", "cross", "marks_of"]

_HEIGHTS = (10.0, 8.0, 6.0, 5.0, 4.0, 3.0)
"""mm: heights of a part number, the largest that fits is taken."""

_NOTE_HEIGHT = 3.0
"""mm: height of a bend's direction."""

_SHARES = (0.5, 0.25, 0.75)
"""Where along a bend line its direction may stand."""

_CLEAR = 1.0
"""mm: lettering keeps this far from edges and bend lines."""

_OTHER_WAY = {"up": "down", "down": "up"}

_COARSE = 0.1
"""mm: chords good enough to find room for lettering."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Marking:
    """What is marked.

    ``bends`` is ``blank`` (as each part's blank says), ``none``, ``whole`` or ``ticks``.
    """

    bends: str = "blank"
    directions: bool = False
    numbers: bool = False


def marks_of(
    part: NestPart, placements: Sequence[Placement], wanted: Marking
) -> tuple[list[Stroke], list[Finding]]:
    """Return the strokes that mark copies of a part where they lie on a sheet, mm.

    Lettering is never mirrored, even on mirrored copies, and lies clear of edges, bend lines and
    other lettering. What has no room is left out, and a finding says so.
    """
    region = part.region.polygon(_COARSE)
    bends = [LineString(line) for bend in part.bends for line in bend.lines]
    bends += [LineString(crease) for crease in part.creases]
    spots = _spots(region, bends) if wanted.numbers else []
    style = part.etched if wanted.bends == "blank" else wanted.bends
    strokes: list[Stroke] = []
    left_out: dict[str, list[Point]] = {}
    for placement in placements:
        motion = motion_of(placement)
        name = f"{placement.part} {placement.copy}"
        room = _Room(_moved(region, motion), [_moved(g, motion) for g in bends])
        for bend in part.bends:
            for line in _bend_lines(bend, style, part.tick):
                strokes.append(_stroke(f"{name} bend", [motion.point(p) for p in line]))
            if wanted.directions:
                lettered = _direction(bend, room, motion)
                strokes += [_stroke(f"{name} direction", line) for line in lettered]
                if not lettered:
                    at = motion.point(Segment(*bend.lines[0]).at(0.5))
                    left_out.setdefault("direction of a bend", []).append(at)
        for crease in part.creases if style != "none" else ():
            strokes.append(_stroke(f"{name} crease", [motion.point(p) for p in crease]))
        if wanted.numbers:
            lettered = _number(placement.part, room, [motion.point(p) for p in spots])
            strokes += [_stroke(f"{name} number", line) for line in lettered]
            if not lettered:
                left_out.setdefault("number", []).append(motion.point(spots[0]))
    return strokes, [_left_out(part.id, what, places) for what, places in left_out.items()]


def _left_out(part: str, what: str, places: Sequence[Point]) -> Finding:
    others = counted(len(places) - 1, "other place")
    more = f", nor in {others}" if len(places) > 1 else ""
    x, y = places[0]
    return Finding(
        level=Level.NOTE,
        code="mark-left-out",
        text=f"{part}: there is no room for the {what} at {x:.1f}, {y:.1f}{more}, so it is not "
        "marked. Mark it by hand where it matters.",
        at=places[0],
    )


def cross(name: str, at: Point, size: float) -> list[Stroke]:
    """Return a cross that marks a point, as where a hole is to be drilled."""
    (x, y), h = at, size / 2
    return [
        _stroke(name, [(x - h, y), (x + h, y)]),
        _stroke(name, [(x, y - h), (x, y + h)]),
    ]


def _stroke(name: str, points: Sequence[Point]) -> Stroke:
    return Stroke(name, tuple(Segment(a, b) for a, b in pairwise(points)))


def _bend_lines(bend: BendLine, style: str, tick: float) -> Iterator[tuple[Point, Point]]:
    for a, b in bend.lines if style != "none" else ():
        length = math.dist(a, b)
        if style == "whole" or length <= 2 * tick:
            yield a, b
            continue
        line = Segment(a, b)
        share = tick / length
        yield a, line.at(share)
        yield line.at(1 - share), b


class _Room:
    """Where lettering may lie on a copy: on its material, off its bends and other lettering."""

    def __init__(self, material: BaseGeometry, bends: Sequence[BaseGeometry]) -> None:
        self._material = material
        self._taken = list(bends)
        shapely.prepare(material)

    def takes(self, lines: Sequence[Sequence[Point]]) -> bool:
        """Whether lettering has room; its place is taken then."""
        box = shapely.MultiLineString([list(line) for line in lines]).minimum_rotated_rectangle
        grown = box.buffer(_CLEAR)
        if not self._material.covers(grown) or any(g.intersects(box) for g in self._taken):
            return False
        self._taken.append(grown)
        return True


def _direction(bend: BendLine, room: _Room, motion: Motion) -> list[list[Point]]:
    """Return ``UP 90`` along one of a bend's lines, at a place and on a side that has room.

    It holds for who sees the marks.
    """
    # A mirrored copy lies with its other face up, and from there the bend goes the other way.
    direction = _OTHER_WAY[bend.direction] if motion.mirrored else bend.direction
    text = f"{direction} {math.degrees(bend.angle):.3g}"
    for ends in sorted(bend.lines, key=lambda ends: -math.dist(*ends)):
        a, b = (motion.point(p) for p in ends)
        angle = _upright(math.atan2(b[1] - a[1], b[0] - a[0]))
        for share, side in product(_SHARES, (1.0, -1.0)):
            away = side * (_CLEAR + _NOTE_HEIGHT) - (_NOTE_HEIGHT if side > 0 else 0.0)
            lines = _text(text, _NOTE_HEIGHT, Segment(a, b).at(share), angle, away)
            if room.takes(lines):
                return lines
    return []


def _spots(region: Polygon, bends: Sequence[LineString]) -> list[Point]:
    """Return the middles of a part's four largest flat pieces, where most room is."""
    free = region.difference(shapely.union_all([g.buffer(_CLEAR) for g in bends]))
    pieces = sorted(getattr(free, "geoms", [free]), key=lambda g: -g.area)[:4]
    middles = [shapely.maximum_inscribed_circle(g, tolerance=1.0) for g in pieces if g.area > 0]
    found = [m.coords[0] for m in middles] or [region.representative_point().coords[0]]
    return [(x, y) for x, y in found]


def _number(text: str, room: _Room, spots: Sequence[Point]) -> list[list[Point]]:
    for height, at, angle in product(_HEIGHTS, spots, (0.0, math.pi / 2)):
        lines = _text(text, height, at, angle, -height / 2)
        if room.takes(lines):
            return lines
    return []


def _upright(angle: float) -> float:
    """Return a direction turned so that lettering along it is not upside down."""
    turned = math.remainder(angle, math.pi)
    return turned + math.pi if turned <= -math.pi / 2 + 1e-9 else turned


def _text(text: str, height: float, at: Point, angle: float, away: float) -> list[list[Point]]:
    """Return lettering centred on a point along a direction, its foot ``away`` from it."""
    left = -width_of(text, height) / 2
    motion = Motion.turned(angle, x=at[0], y=at[1])
    return [
        [motion.point((x + left, y + away)) for x, y in line] for line in lettering(text, height)
    ]


def _moved(shape: BaseGeometry, motion: Motion) -> BaseGeometry:
    return shapely.transform(shape, lambda xy: [motion.point((x, y)) for x, y in xy])
