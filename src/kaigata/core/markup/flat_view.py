"""The flat on a drawing: outline and holes, bend lines with their notes, dimensions."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from kaigata.core.blank import Blank, BlankBend
from kaigata.core.markup.chosen_view import (
    FIRST,
    ROW,
    DrawnSize,
    SizePlan,
    draw_beside,
    draw_inside,
    planned,
)
from kaigata.core.markup.dimensions import arrowed, column_of, row_of
from kaigata.core.markup.holes import HoleGroup
from kaigata.core.markup.lettering import Lettering, Markup, MovedNote, bend_notes
from kaigata.core.markup.measure import Unit
from kaigata.core.markup.ordinates import has_room, merged
from kaigata.core.markup.page import Anchor, Box, Face, Fill, Page, Pen, Words
from kaigata.core.markup.stage import Stage
from kaigata.core.plane import Contour, Motion, Point
from kaigata.core.plane.tolerance import SAME

__all__ = ["AROUND", "FlatView", "draw_flat", "triangle"]

AROUND = Box(left=19.0, bottom=19.0, right=18.0, top=13.0)
"""What dimensions take of the room on each side, mm of paper."""
_APART = 0.005
"""mm: ordinates of places nearer than this are one."""
_FIGURE = 2.2
"""Size of a bend's number, mm."""
_LINE = 1.25
"""From line to line of a note, of the size of its type."""
_HEXAGON = 2.1
"""From the middle of a bend's number to a corner of its hexagon, mm."""
_SIGN = 4.0
"""What the sign of a bend's direction takes between its number and its note, mm."""
_LETTERS = 60
"""Holes that each get their letter; of more, one of each kind does."""
_SPOTS = (0.5, 0.35, 0.65, 0.2, 0.8, 0.1, 0.9)
"""Shares of a bend line at which its note may stand, the best first."""


@dataclass(frozen=True, slots=True)
class NotePlace:
    """Where a bend's number stands: mm of paper, and mm of the flat from the middle of its line."""

    at: Point
    by: Point


@dataclass(frozen=True, slots=True, kw_only=True)
class FlatView(Stage):
    """How the flat lies on the page, and what is written beside it.

    ``has_all_ordinates`` tells whether the places of all holes are given beside the flat,
    ``notes`` where each bend's note stands, by the bend's number, and ``said_once`` what the notes
    leave to be said for all bends. ``sizes`` are the chosen sizes as they are drawn, ``overall``
    the numbers, from 0, of those that give an overall size its deviations, with what is written
    there, and ``lost`` the numbers of those that meet the part no more.
    """

    has_all_ordinates: bool
    notes: dict[int, NotePlace] = field(default_factory=dict)
    said_once: str = ""
    sizes: tuple[DrawnSize, ...] = ()
    overall: tuple[tuple[int, tuple[str, ...]], ...] = ()
    lost: tuple[int, ...] = ()


def draw_flat(
    page: Page,
    room: Box,
    blank: Blank,
    holes: Sequence[HoleGroup],
    unit: Unit,
    lettering: Lettering,
    markup: Markup,
) -> FlatView:
    """Draw a blank's flat at the largest standard scale in the middle of a room.

    Parameters
    ----------
    page : Page
        What to draw on.
    room : Box
        Where; it holds the dimensions too.
    blank : Blank
        What to draw.
    holes : sequence of HoleGroup
        Its holes, grouped.
    unit : Unit
        What lengths are written in.
    lettering : Lettering
        What is written beside bends, and which ordinates.
    markup : Markup
        The notes that were moved by hand, and the sizes that were chosen.

    Returns
    -------
    FlatView
        How it lies.
    """
    inner = room.within(AROUND.left, AROUND.bottom, AROUND.right, AROUND.top)
    plan = planned(blank, markup.sizes, unit, (inner.width, inner.height))
    scale, over, beside = plan.scale, len(plan.rows) * ROW, len(plan.columns) * ROW
    wide, high = blank.width * scale, blank.height * scale
    at = (
        inner.left + (inner.width - beside - wide) / 2,
        inner.bottom + (inner.height - over - high) / 2,
    )
    place = Motion(x=at[0], y=at[1])
    for contour in blank.region.contours:
        page.run(contour.scaled(scale).moved(place).segments, Pen.CUT)
    has_all = True
    if lettering.ordinates != "none":
        shown = holes if lettering.ordinates == "all" else ()
        has_all = _ordinates(page, blank, shown, unit, scale, at)
    has_all &= lettering.ordinates == "all"
    notes, said_once = bend_notes(blank.bends, lettering, unit)
    stage = Stage(at=at, scale=scale, width=wide, height=high)
    taken = [_box_on(stage, h) for h in blank.region.holes]
    for bend in blank.bends:
        for line in bend.lines:
            pen = Pen.BEND_UP if bend.is_up else Pen.BEND_DOWN
            page.line(stage.on_paper(line[0]), stage.on_paper(line[1]), pen)
    # What was put somewhere by hand stands there; the others keep off it.
    stands = {}
    for bend in sorted(blank.bends, key=lambda b: b.number not in markup.moved):
        note = _Note(bend, notes[bend.number], lettering)
        by = markup.moved.get(bend.number)
        spot = note.moved(page, stage, by, taken) if by else note.placed(page, stage, taken)
        stands[bend.number] = note.place(stage, spot)
    _overall(page, stage, plan, blank, unit, taken)
    sizes = draw_beside(page, stage, plan, taken)
    # Ordinates stand in a row under the flat and in a column left of it.
    under = Box(left=at[0] - 2, bottom=at[1] - AROUND.bottom, right=at[0] + wide, top=at[1] - 1)
    left = Box(left=at[0] - AROUND.left, bottom=at[1] - 2, right=at[0] - 1, top=at[1] + high)
    taken += [under, left]
    _marks(page, stage, blank, taken)
    sizes += draw_inside(page, room, stage, plan, blank, taken)
    _letters(page, stage, holes, taken)
    return FlatView(
        at=at, scale=scale, width=wide, height=high, has_all_ordinates=has_all, notes=stands,
        said_once=said_once, sizes=tuple(sizes), lost=plan.lost,
        overall=tuple((index, plan.overall[axis]) for index, axis in plan.merged),
    )  # fmt: skip


def _overall(
    page: Page, stage: Stage, plan: SizePlan, blank: Blank, unit: Unit, taken: list[Box]
) -> None:
    """Draw the flat's width over it and its height right of it, beyond the sizes that stand there.

    They are the first large figures on the page, the width before the height.
    """
    (x, y), top, right = stage.at, stage.at[1] + stage.height, stage.at[0] + stage.width
    over, beside = top + FIRST + len(plan.rows) * ROW, right + FIRST + len(plan.columns) * ROW
    for points, ends, value, tolerance in (
        (((x, top), (right, top)), ((x, over), (right, over)), blank.width, plan.overall[0]),
        (((right, y), (right, top)), ((beside, y), (beside, top)), blank.height, plan.overall[1]),
    ):
        text = unit.length(value)
        taken.append(arrowed(page, points, ends, text, tolerance=tolerance, is_overall=True))


def _ordinates(
    page: Page, blank: Blank, holes: Sequence[HoleGroup], unit: Unit, scale: float, at: Point
) -> bool:
    """Draw the ordinates under and left of the flat; whether those of all holes have room."""
    middles = [p for group in holes for p in group.places]
    standing = [b.line[0][0] for b in blank.bends if abs(b.line[0][0] - b.line[1][0]) < SAME]
    level = [b.line[0][1] for b in blank.bends if abs(b.line[0][1] - b.line[1][1]) < SAME]
    has_all = True
    for draw, bends, others, side in (
        (row_of, standing, [x for x, _ in middles], blank.width),
        (column_of, level, [y for _, y in middles], blank.height),
    ):
        places = merged([*bends, *others], _APART)
        fits = has_room(places, side * scale)
        if not fits:
            places, has_all = merged(bends, _APART), False
        if places and has_room(places, side * scale):
            strong = [any(abs(p - b) <= _APART for b in bends) for p in places]
            draw(page, at, scale, places, strong, unit)
    return has_all


class _Note:
    """A bend's number, the sign of its direction and what else is said of it."""

    def __init__(self, bend: BlankBend, lines: tuple[str, ...], lettering: Lettering) -> None:
        self.bend, self.lines, self.size = bend, lines, lettering.size
        self.is_level = lettering.is_level
        letters = max(map(len, lines), default=0)
        # Where nothing else is said the sign of the direction still is.
        self.whole = 2 * _HEXAGON + _SIGN + 0.6 * self.size * letters
        self.height = max(2 * _HEXAGON, _LINE * self.size * len(lines))

    def placed(self, page: Page, view: Stage, taken: list[Box]) -> Point:
        """Write it on its bend line where there is room; return where its number stands.

        Where there is none for all of it only the number stands there; the bend table has the rest.
        """
        a, along, long = self._line(view)
        way = (1.0, 0.0) if self.is_level else along
        for length in (self.whole, 2 * _HEXAGON):
            half = length / 2 if way == along else _HEXAGON
            starts = [s * long - half for s in _SPOTS if half <= s * long <= long - half]
            spots = [_ahead(a, along, s + _HEXAGON) for s in starts]
            boxes = [self._box(p, way, length) for p in spots]
            free = next((i for i, x in enumerate(boxes) if not any(map(x.meets, taken))), None)
            if free is not None:
                break
        else:
            spots, free, length = [_ahead(a, along, long / 2)], 0, 2 * _HEXAGON
            boxes = [self._box(spots[0], way, length)]
        taken.append(boxes[free])
        self._write(page, spots[free], way, is_whole=length > 2 * _HEXAGON)
        return spots[free]

    def moved(self, page: Page, view: Stage, note: MovedNote, taken: list[Box]) -> Point:
        """Write it where it was moved to, with a leader from its bend line if it is to have one."""
        a, along, long = self._line(view)
        x, y = _ahead(a, along, long / 2)
        at = (x + note.by[0] * view.scale, y + note.by[1] * view.scale)
        way = (1.0, 0.0) if self.is_level else along
        reach = (at[0] - a[0]) * along[0] + (at[1] - a[1]) * along[1]
        foot = _ahead(a, along, min(long, max(0.0, reach)))
        if note.leader and math.dist(foot, at) > _HEXAGON:
            page.line(foot, at, Pen.DIMENSION)
        taken.append(self._box(at, way, self.whole))
        self._write(page, at, way, is_whole=True)
        return at

    def place(self, view: Stage, at: Point) -> NotePlace:
        """Return where it stands when its number stands there."""
        a, along, long = self._line(view)
        x, y = _ahead(a, along, long / 2)
        return NotePlace(at, ((at[0] - x) / view.scale, (at[1] - y) / view.scale))

    def _line(self, view: Stage) -> tuple[Point, Point, float]:
        """Return where the longest piece of the bend line begins, its way, and how long it is."""
        a, b = max(self.bend.lines, key=lambda x: math.dist(*x))
        a, b = sorted((view.on_paper(a), view.on_paper(b)), key=lambda p: (round(p[0], 6), p[1]))
        long = math.dist(a, b)
        return a, ((b[0] - a[0]) / long, (b[1] - a[1]) / long) if long else (1.0, 0.0), long

    def _box(self, at: Point, way: Point, length: float) -> Box:
        """Return the bounds of so much of it, its number at a place."""
        x, y = _ahead(at, way, length / 2 - _HEXAGON)
        high = self.height if length > 2 * _HEXAGON else 2 * _HEXAGON
        rx = (abs(way[0]) * length + abs(way[1]) * high) / 2
        ry = (abs(way[1]) * length + abs(way[0]) * high) / 2
        return Box(left=x - rx, bottom=y - ry, right=x + rx, top=y + ry)

    def _write(self, page: Page, at: Point, way: Point, *, is_whole: bool) -> None:
        if is_whole:
            turn = math.atan2(way[1], way[0])
            _clear(page, at, _ahead(at, way, _HEXAGON + _SIGN - 0.2), way, self.size)
            sign = _ahead(at, way, _HEXAGON + 2.0)
            page.fills.append(triangle(sign, up=self.bend.is_up, turn=turn))
            x, y = _ahead(at, way, _HEXAGON + _SIGN - 0.2)
            for n, text in enumerate(self.lines):
                down = _LINE * self.size * (n - (len(self.lines) - 1) / 2)
                spot = (x + way[1] * down, y - way[0] * down)
                page.words.append(
                    Words(text=text, at=spot, size=self.size, face=Face.FIGURES, turn=turn,
                          is_clear=True)
                )  # fmt: skip
        _hexagon(page, at, self.bend.number)


def _ahead(a: Point, way: Point, by: float) -> Point:
    return (a[0] + way[0] * by, a[1] + way[1] * by)


def _clear(page: Page, a: Point, b: Point, along: Point, high: float) -> None:
    """Leave paper between two points of a line, so high."""
    x, y = -along[1] * high / 2, along[0] * high / 2
    corners = (
        (a[0] - x, a[1] - y),
        (b[0] - x, b[1] - y),
        (b[0] + x, b[1] + y),
        (a[0] + x, a[1] + y),
    )
    page.fills.append(Fill(points=corners, is_clear=True))


def _hexagon(page: Page, at: Point, number: int) -> None:
    corners = [
        (at[0] + _HEXAGON * math.cos(k * math.pi / 3), at[1] + _HEXAGON * math.sin(k * math.pi / 3))
        for k in range(6)
    ]
    page.fills.append(Fill(points=tuple(corners), is_open=True, is_clear=True))
    page.words.append(
        Words(text=str(number), at=at, size=_FIGURE, face=Face.STRONG_FIGURES,
              anchor=Anchor.MIDDLE)
    )  # fmt: skip


def triangle(at: Point, *, up: bool, turn: float = 0.0, size: float = 1.1) -> Fill:
    """Return the sign of a bend's direction: up filled and standing, down open and on its tip."""
    tip = math.pi / 2 if up else -math.pi / 2
    points = tuple(
        (at[0] + size * math.cos(turn + tip + k * 2 * math.pi / 3),
         at[1] + size * math.sin(turn + tip + k * 2 * math.pi / 3))
        for k in range(3)
    )  # fmt: skip
    return Fill(points=points, is_open=not up, is_clear=not up)


def _box_on(view: Stage, contour: Contour) -> Box:
    x0, y0, x1, y1 = contour.bounds
    (left, bottom), (right, top) = view.on_paper((x0, y0)), view.on_paper((x1, y1))
    return Box(left=left, bottom=bottom, right=right, top=top)


def _marks(page: Page, view: Stage, blank: Blank, taken: list[Box]) -> None:
    """Draw what is only marked; along a line its note, where there is room for it."""
    for mark in blank.marks:
        x, y = view.on_paper(mark.at)
        if mark.end is not None:
            page.line((x, y), view.on_paper(mark.end), Pen.MARK)
            _note_along(page, (x, y), view.on_paper(mark.end), mark.text, taken)
        elif mark.kind == "tapped-hole":
            arm = mark.diameter / 4 * view.scale
            page.line((x - arm, y), (x + arm, y), Pen.MARK)
            page.line((x, y - arm), (x, y + arm), Pen.MARK)
        else:
            radius = max(mark.diameter / 2 * view.scale, 0.5)
            page.run(Contour.circle((x, y), radius).segments, Pen.MARK)


def _note_along(page: Page, a: Point, b: Point, text: str, taken: list[Box]) -> None:
    a, b = sorted((a, b), key=lambda p: (round(p[0], 6), p[1]))
    long, wide = math.dist(a, b), 0.55 * _FIGURE * len(text)
    if long < 1.5 * wide:
        return
    way = ((b[0] - a[0]) / long, (b[1] - a[1]) / long)
    for share in (0.3, 0.7, 0.5):
        x, y = _ahead(a, way, long * share)
        rx = (abs(way[0]) * wide + abs(way[1]) * _FIGURE) / 2
        ry = (abs(way[1]) * wide + abs(way[0]) * _FIGURE) / 2
        box = Box(left=x - rx, bottom=y - ry, right=x + rx, top=y + ry)
        if any(map(box.meets, taken)):
            continue
        taken.append(box)
        turn = math.atan2(way[1], way[0])
        page.words.append(
            Words(text=text, at=(x, y), size=_FIGURE, anchor=Anchor.MIDDLE, turn=turn,
                  is_clear=True)
        )  # fmt: skip
        return


def _letters(page: Page, view: Stage, holes: Sequence[HoleGroup], taken: Iterable[Box]) -> None:
    """Write beside each hole the letter of its row in the hole table."""
    many = sum(len(g.places) for g in holes) > _LETTERS
    notes = list(taken)
    for group in holes:
        for place in group.places[:1] if many else group.places:
            spots = list(_beside(view.on_paper(place), group, view.scale))
            at = next((p for p in spots if not any(map(_letter_box(p).meets, notes))), spots[0])
            notes.append(_letter_box(at))
            page.words.append(
                Words(text=group.letter, at=at, size=2.2, face=Face.STRONG, anchor=Anchor.MIDDLE)
            )


def _beside(at: Point, group: HoleGroup, scale: float) -> Iterator[Point]:
    """Yield places for a hole's letter: in it where it is wide enough, else round about it."""
    rx, ry = group.width * scale / 2, group.height * scale / 2
    if min(rx, ry) > 2.0:
        yield at
    for dx, dy in ((1, 1), (1, -1), (-1, 1), (-1, -1), (1, 0), (-1, 0), (0, 1), (0, -1)):
        share = 0.75 if dx and dy else 1.0
        yield (at[0] + dx * (rx * share + 1.5), at[1] + dy * (ry * share + 1.5))


def _letter_box(at: Point) -> Box:
    return Box(left=at[0] - 0.9, bottom=at[1] - 1.1, right=at[0] + 0.9, top=at[1] + 1.1)
