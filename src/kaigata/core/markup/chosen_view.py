"""Chosen sizes on a drawing: beside the flat where they run across or upwards, else at their place.

Those across stand in rows over the flat, those upwards in columns right of it, the shorter ones
nearer, the overall size outermost. A size that is the overall one gives it its tolerance.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from kaigata.core.blank import Blank
from kaigata.core.errors import InputError
from kaigata.core.findings import counted
from kaigata.core.markup.chosen import ChosenSize, Feature, Way, features, measured
from kaigata.core.markup.dimensions import (
    arrow,
    arrowed,
    figure_box,
    figure_length,
    figure_span,
    write_figure,
)
from kaigata.core.markup.measure import Unit, standard_scale
from kaigata.core.markup.page import Box, Page, Pen
from kaigata.core.markup.stage import Stage
from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import CHORD, LENGTH

__all__ = ["FIRST", "ROW", "DrawnSize", "SizePlan", "draw_beside", "draw_inside", "planned"]

FIRST, ROW = 7.0, 6.0
"""From the flat to the first dimension line, and from each to the next, mm of paper."""
_MOST = 0.6
"""Share of the room that sizes beside the flat may take."""
_APART = 1.5
"""Between two sizes in a row, mm of paper."""
_LEADERS = (6.0, 10.0, 15.0, 22.0, 30.0)
"""How long a leader may be, the best first, mm of paper."""
_ROUND_ABOUT = (45, 135, -45, -135, 20, 160, -20, -160, 75, 105, -75, -105)
"""Which way a leader may leave a circle, the best first, degrees."""
_OFFS = (7.0, -7.0, 13.0, -13.0, 19.0, -19.0)
"""Where a straight size may stand beside what it measures, mm of paper."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnSize:
    """A size as it was drawn: which of those chosen, its figure, and what its arrows point at.

    ``tips`` are on the paper: both ends of the dimension line, or of something round a point of
    its edge and its middle; ``tolerance`` is what is written of its deviations.
    """

    index: int
    figure: str
    tips: tuple[Point, Point]
    tolerance: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class _Wanted:
    """A size with what it is measured between; its figure and how long that is on the paper."""

    index: int
    size: ChosenSize
    ends: tuple[Feature, Feature]
    text: str
    tolerance: tuple[str, ...]

    @property
    def wide(self) -> float:
        """How long its figure with its deviations is, mm of paper."""
        return figure_length(self.text, self.tolerance)

    def drawn(self, tips: tuple[Point, Point]) -> DrawnSize:
        """Return it as drawn with its arrows at two points."""
        return DrawnSize(index=self.index, figure=self.text, tips=tips, tolerance=self.tolerance)

    def is_before(self, axis: int, side: float) -> bool:
        """Whether a figure beyond its end would lead away from the middle of a flat."""
        return (self.ends[0].at[axis] + self.ends[1].at[axis]) / 2 > side / 2

    def span(self, axis: int, side: float, scale: float) -> tuple[float, float]:
        """Return what of a row or column it takes, mm of paper from the flat's lower left."""
        low, high = sorted(f.at[axis] * scale for f in self.ends)
        figure = figure_span(high - low, self.wide, is_before=self.is_before(axis, side))
        return min(low, low + figure[0]), max(high, low + figure[1])


@dataclass(frozen=True, slots=True, kw_only=True)
class SizePlan:
    """What of the chosen sizes stands where: rows over the flat, columns beside it, and the rest.

    ``overall`` holds the tolerances of the flat's width and height, ``merged`` the numbers of the
    sizes that give one of them its tolerance, and which; ``lost`` the numbers of the sizes that
    meet the part no more.
    """

    scale: float
    rows: tuple[tuple[_Wanted, ...], ...]
    columns: tuple[tuple[_Wanted, ...], ...]
    inside: tuple[_Wanted, ...]
    overall: tuple[tuple[str, ...], tuple[str, ...]]
    merged: tuple[tuple[int, int], ...]
    lost: tuple[int, ...]


def planned(
    blank: Blank, sizes: Sequence[ChosenSize], unit: Unit, room: tuple[float, float]
) -> SizePlan:
    """Return where chosen sizes stand, and the largest standard scale that leaves room for them.

    Parameters
    ----------
    blank : Blank
        What is drawn.
    sizes : sequence of ChosenSize
        In its frame.
    unit : Unit
        What lengths are written in.
    room : (float, float)
        Width and height of what there is for the flat and the sizes beside it, mm of paper.

    Raises
    ------
    InputError
        The sizes take too much of it.
    """
    places = list(features(blank)) if sizes else []
    across: list[_Wanted] = []
    upwards: list[_Wanted] = []
    inside: list[_Wanted] = []
    lost: list[int] = []
    merged: list[tuple[int, int]] = []
    overall: list[tuple[str, ...]] = [(), ()]
    for index, size in enumerate(sizes):
        found = measured(size, places)
        if found is None:
            lost.append(index)
            continue
        start, end, value = found
        tolerance = size.tolerance(unit)
        axis = _axis(size, start, end)
        if axis is not None and abs(value - (blank.width, blank.height)[axis]) <= CHORD:
            overall[axis] = tolerance or overall[axis]
            if size.upper is not None:
                merged.append((index, axis))
            continue
        wanted = _Wanted(
            index=index, size=size, ends=(start, end), text=_text(start, size, value, unit),
            tolerance=tolerance,
        )  # fmt: skip
        (inside if axis is None else (across, upwards)[axis]).append(wanted)
    scale, rows, columns = 0.0, 0, 0
    while True:
        left = (room[0] - columns * ROW, room[1] - rows * ROW)
        scale = standard_scale(blank.width, blank.height, room=left)
        over = _stacked(across, 0, blank.width, scale)
        beside = _stacked(upwards, 1, blank.height, scale)
        if len(over) <= rows and len(beside) <= columns:
            break
        rows, columns = max(rows, len(over)), max(columns, len(beside))
        if rows * ROW > room[1] * _MOST or columns * ROW > room[0] * _MOST:
            raise InputError(
                f"{counted(len(across) + len(upwards), 'chosen size')} beside the flat leave it no "
                "room on this paper",
                where=blank.name,
                fix="Take larger paper, or take some of the sizes out",
            )
    return SizePlan(scale=scale, rows=over, columns=beside, inside=tuple(inside),
                    overall=(overall[0], overall[1]), merged=tuple(merged),
                    lost=tuple(lost))  # fmt: skip


def _axis(size: ChosenSize, start: Feature, end: Feature) -> int | None:
    """Return along which axis a size lies: 0 across, 1 upwards, None where along neither."""
    if size.way is Way.STRAIGHT:
        level, upright = (abs(start.at[i] - end.at[i]) <= LENGTH for i in (1, 0))
        return 0 if level else 1 if upright else None
    return {Way.LEVEL: 0, Way.UPRIGHT: 1}.get(size.way)


def _text(start: Feature, size: ChosenSize, value: float, unit: Unit) -> str:
    sign = ("ø" if start.is_whole else "R") if size.way is Way.ROUND else ""
    # A radius is small, and its tolerance smaller than a fraction.
    return f"{sign}{unit.exact(value) if sign == 'R' else unit.length(value)}"


def _stacked(
    wanted: Sequence[_Wanted], axis: int, side: float, scale: float
) -> tuple[tuple[_Wanted, ...], ...]:
    """Return rows in which no size lies on another, the shorter sizes in the first."""
    rows: list[list[_Wanted]] = []

    def long(w: _Wanted) -> float:
        return abs(w.ends[0].at[axis] - w.ends[1].at[axis])

    for w in sorted(wanted, key=lambda w: (long(w), w.index)):
        low, high = w.span(axis, side, scale)
        for row in rows:
            others = (o.span(axis, side, scale) for o in row)
            if all(high + _APART <= a or b + _APART <= low for a, b in others):
                row.append(w)
                break
        else:
            rows.append([w])
    return tuple(tuple(row) for row in rows)


def draw_beside(page: Page, stage: Stage, plan: SizePlan, taken: list[Box]) -> list[DrawnSize]:
    """Draw the rows and columns of sizes beside the flat; what is ``taken`` is added to."""
    out = []
    sides = (stage.width / stage.scale, stage.height / stage.scale)
    far = (stage.at[1] + stage.height, stage.at[0] + stage.width)
    for axis, lines in ((0, plan.rows), (1, plan.columns)):
        for n, line in enumerate(lines):
            off = far[axis] + FIRST + n * ROW
            for w in line:
                low, high = sorted((stage.on_paper(f.at) for f in w.ends), key=lambda p: p[axis])
                ends = tuple((p[0], off) if axis == 0 else (off, p[1]) for p in (low, high))
                box = arrowed(
                    page,
                    (low, high),
                    (ends[0], ends[1]),
                    w.text,
                    tolerance=w.tolerance,
                    is_before=w.is_before(axis, sides[axis]),
                )
                taken.append(box)
                out.append(w.drawn((ends[0], ends[1])))
    return out


def draw_inside(
    page: Page, room: Box, stage: Stage, plan: SizePlan, blank: Blank, taken: list[Box]
) -> list[DrawnSize]:
    """Draw what is taken straight or of something round, clear of what else is written there.

    It stays within its room where it can; what is ``taken`` of the paper is added to.
    """
    edges = blank.region.polygon(CHORD).boundary
    shapely.prepare(edges)

    def is_free(box: Box) -> bool:
        if not room.holds(box) or any(map(box.meets, taken)):
            return False
        (x, y), s = stage.at, stage.scale
        shown = shapely.box((box.left - x) / s, (box.bottom - y) / s, (box.right - x) / s,
                            (box.top - y) / s)  # fmt: skip
        return not edges.intersects(shown)

    def has_way(line: tuple[Point, Point]) -> bool:
        run = shapely.LineString(line)
        return not any(run.intersects(shapely.box(*b.corners)) for b in taken)

    out = []
    for w in plan.inside:
        spots = _leaders(stage, w) if w.size.way is Way.ROUND else _lines(stage, w, blank)
        spot = next((s for s in spots if is_free(s.box) and has_way(s.run)), None)
        spot = spot or next((s for s in spots if is_free(s.box)), spots[0])
        taken.append(spot.box)
        out.append(spot.draw(page, w))
    return out


@dataclass(frozen=True, slots=True, kw_only=True)
class _Line:
    """A place for a straight size: its points, the ends of its line, and what its figure takes."""

    points: tuple[Point, Point]
    ends: tuple[Point, Point]
    box: Box

    @property
    def run(self) -> tuple[Point, Point]:
        """What nothing else written may lie on."""
        return self.ends

    def draw(self, page: Page, w: _Wanted) -> DrawnSize:
        arrowed(page, self.points, self.ends, w.text, tolerance=w.tolerance)
        return w.drawn(self.ends)


def _lines(stage: Stage, w: _Wanted, blank: Blank) -> list[_Line]:
    a, b = sorted((stage.on_paper(f.at) for f in w.ends), key=lambda p: (round(p[0], 6), p[1]))
    long = math.dist(a, b)
    way = ((b[0] - a[0]) / long, (b[1] - a[1]) / long)
    up = (-way[1], way[0])
    middle = stage.on_paper((blank.width / 2, blank.height / 2))
    outwards = (a[0] + b[0]) / 2 - middle[0], (a[1] + b[1]) / 2 - middle[1]
    side = 1.0 if up[0] * outwards[0] + up[1] * outwards[1] >= 0 else -1.0
    begin, _ = figure_span(long, w.wide)
    out = []
    for off in _OFFS:
        ends = tuple((p[0] + up[0] * off * side, p[1] + up[1] * off * side) for p in (a, b))
        at = (ends[0][0] + way[0] * begin, ends[0][1] + way[1] * begin)
        out.append(_Line(points=(a, b), ends=(ends[0], ends[1]), box=figure_box(at, way, w.wide)))
    return out


@dataclass(frozen=True, slots=True, kw_only=True)
class _Leader:
    """A place for the size of something round: a point of its edge, an elbow, and its figure."""

    middle: Point
    rim: Point
    elbow: Point
    foot: Point
    text_at: Point
    box: Box

    @property
    def run(self) -> tuple[Point, Point]:
        """What nothing else written may lie on: the leader beyond the hole that it leaves."""
        a, b = self.rim, self.elbow
        return ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2), b

    def draw(self, page: Page, w: _Wanted) -> DrawnSize:
        page.lines([self.rim, self.elbow, self.foot], Pen.DIMENSION)
        page.fills.append(arrow(self.rim, self.elbow))
        write_figure(page, self.text_at, (1.0, 0.0), w.text, w.tolerance)
        return w.drawn((self.rim, self.middle))


def _leaders(stage: Stage, w: _Wanted) -> list[_Leader]:
    """Return places for the size of something round, from its edge outwards, the best first."""
    round_one = w.ends[0]
    x, y = stage.on_paper(round_one.at)
    out = []
    for long in _LEADERS:
        for rim, (ux, uy) in _ways_out(stage, round_one):
            elbow = (rim[0] + ux * long, rim[1] + uy * long)
            away = 1.0 if ux > 0 else -1.0
            foot = (elbow[0] + 1.5 * away, elbow[1])
            begin = foot[0] + 0.6 if ux > 0 else foot[0] - 0.6 - w.wide
            out.append(
                _Leader(middle=(x, y), rim=rim, elbow=elbow, foot=foot, text_at=(begin, foot[1]),
                        box=figure_box((begin, foot[1]), (1.0, 0.0), w.wide))
            )  # fmt: skip
    return out


def _ways_out(stage: Stage, round_one: Feature) -> list[tuple[Point, Point]]:
    """Return where leaders may touch what is round, and which way they go from there.

    Of a circle all round; of an arc at its middle, outwards or inwards.
    """
    x, y = stage.on_paper(round_one.at)
    if round_one.rim is not None:
        rim = stage.on_paper(round_one.rim)
        ux, uy = (rim[0] - x) / math.dist((x, y), rim), (rim[1] - y) / math.dist((x, y), rim)
        return [(rim, (ux, uy)), (rim, (-ux, -uy))]
    radius = round_one.radius * stage.scale
    ways = [(math.cos(math.radians(d)), math.sin(math.radians(d))) for d in _ROUND_ABOUT]
    return [((x + ux * radius, y + uy * radius), (ux, uy)) for ux, uy in ways]
