"""What is marked on parts before they are cut: bend lines, directions, part numbers."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from kaigata.core.cut.passes import Stroke
from kaigata.core.cut.strokes import lettering, width_of
from kaigata.core.nest import BendLine, NestPart, Placement
from kaigata.core.nest.figures import motion_of
from kaigata.core.plane import Motion, Point, Segment

__all__ = ["Marking", "cross", "marks_of"]

_HEIGHTS = (10.0, 8.0, 6.0, 5.0, 4.0, 3.0)
"""mm: heights of a part number, the largest that fits is taken."""

_NOTE_HEIGHT = 3.0
"""mm: height of a bend's direction."""

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


def marks_of(part: NestPart, placements: Sequence[Placement], wanted: Marking) -> list[Stroke]:
    """Return the strokes that mark copies of a part where they lie on a sheet, mm.

    Lettering is never mirrored, even on mirrored copies. A number that fits nowhere is left out.
    """
    region = part.region.polygon(_COARSE)
    bends = [LineString(line) for bend in part.bends for line in bend.lines]
    style = part.etched if wanted.bends == "blank" else wanted.bends
    strokes: list[Stroke] = []
    for placement in placements:
        motion = motion_of(placement)
        name = f"{placement.part} {placement.copy}"
        for bend in part.bends:
            for line in _bend_lines(bend, style, part.tick):
                strokes.append(_stroke(f"{name} bend", [motion.point(p) for p in line]))
            if wanted.directions:
                strokes += _direction(name, bend, region, bends, motion)
        if wanted.numbers:
            strokes += _number(placement, region, bends, motion)
    return strokes


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


def _direction(
    name: str, bend: BendLine, region: Polygon, bends: Sequence[LineString], motion: Motion
) -> list[Stroke]:
    """Return ``UP 90`` beside the first bend line, along it, on the side that has room.

    It holds for who sees the marks.
    """
    # A mirrored copy lies with its other face up, and from there the bend goes the other way.
    direction = _OTHER_WAY[bend.direction] if motion.mirrored else bend.direction
    text = f"{direction} {math.degrees(bend.angle):.3g}"
    a, b = (motion.point(p) for p in bend.lines[0])
    angle = _upright(math.atan2(b[1] - a[1], b[0] - a[0]))
    middle = Segment(a, b).at(0.5)
    placed = _moved(region, motion)
    others = [_moved(g, motion) for g in bends]
    for side in (1.0, -1.0):
        away = side * (_CLEAR + _NOTE_HEIGHT) - (_NOTE_HEIGHT if side > 0 else 0.0)
        lines = _text(text, _NOTE_HEIGHT, middle, angle, away)
        if _fits(lines, placed, others):
            return [_stroke(f"{name} direction", line) for line in lines]
    return []


def _number(
    placement: Placement, region: Polygon, bends: Sequence[LineString], motion: Motion
) -> list[Stroke]:
    free = region.difference(shapely.union_all([g.buffer(_CLEAR) for g in bends]))
    pieces = sorted(getattr(free, "geoms", [free]), key=lambda g: -g.area)
    others = [_moved(g, motion) for g in bends]
    placed = _moved(region, motion)
    for height in _HEIGHTS:
        for piece in pieces[:4]:
            centre = shapely.maximum_inscribed_circle(piece, tolerance=1.0).coords[0]
            at = motion.point((centre[0], centre[1]))
            for angle in (0.0, math.pi / 2):
                lines = _text(placement.part, height, at, angle, -height / 2)
                if _fits(lines, placed, others):
                    return [_stroke(f"{placement.part} {placement.copy} number", line)
                            for line in lines]  # fmt: skip
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


def _fits(lines: Sequence[Sequence[Point]], region: Polygon, bends: Sequence[LineString]) -> bool:
    box = shapely.MultiLineString([list(line) for line in lines]).minimum_rotated_rectangle
    grown = box.buffer(_CLEAR)
    return region.covers(grown) and not any(g.intersects(box) for g in bends)


def _moved(shape: BaseGeometry, motion: Motion) -> BaseGeometry:
    return shapely.transform(shape, lambda xy: [motion.point((x, y)) for x, y in xy])
