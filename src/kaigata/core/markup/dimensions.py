"""Dimensions: overall sizes between arrows, and ordinates in a row under or a column beside."""

from __future__ import annotations

import math
from collections.abc import Sequence

from kaigata.core.markup.measure import Unit
from kaigata.core.markup.ordinates import spread
from kaigata.core.markup.page import Anchor, Box, Face, Fill, Page, Pen, Words
from kaigata.core.plane import Point

__all__ = [
    "CHOSEN",
    "arrow",
    "arrowed",
    "column_of",
    "figure_box",
    "figure_length",
    "figure_span",
    "row_of",
    "write_figure",
]

_SIZE, _LARGE, _DEVIATION = 2.5, 3.5, 1.9
"""Sizes of type, mm: of ordinates, overall sizes, and deviations that stand over each other."""
CHOSEN = 3.0
"""Size of type of chosen sizes, mm, which nothing else on a sheet has in this face."""
_ADVANCE = 0.6
"""From figure to figure, of the size of the type."""
_BESIDE = 1.6
"""Between the end of a dimension line and a figure that stands beyond it, mm."""
_HALF = 2.2
"""Half the height of a figure with its deviations, mm."""
_GAP = 3.2
_ARROW = 2.4


def arrowed(
    page: Page,
    points: tuple[Point, Point],
    ends: tuple[Point, Point],
    text: str,
    *,
    tolerance: Sequence[str] = (),
    is_overall: bool = False,
    is_before: bool = False,
) -> Box:
    """Draw the distance of two points along a dimension line; return what its figure takes.

    Parameters
    ----------
    page : Page
        What to draw on.
    points : (Point, Point)
        What is measured.
    ends : (Point, Point)
        Where the dimension line begins and ends: to the right, or upwards where it is upright.
    text : str
        The figure.
    tolerance : sequence of str
        Its deviations, the upper first.
    is_overall : bool
        Whether it is written strong and large.
    is_before : bool
        Whether a figure that has no room between the arrows stands before the line, not beyond it.
    """
    for point, end in zip(points, ends, strict=True):
        page.line(_past(end, point, -1.0), _past(point, end, -1.5), Pen.DIMENSION)
    page.line(ends[0], ends[1], Pen.DIMENSION)
    for tip, other in (ends, ends[::-1]):
        page.fills.append(arrow(tip, other))
    long = math.dist(*ends)
    way = ((ends[1][0] - ends[0][0]) / long, (ends[1][1] - ends[0][1]) / long)
    wide = figure_length(text, tolerance, is_overall=is_overall)
    begin, _ = figure_span(long, wide, is_before=is_before)
    at = (ends[0][0] + way[0] * begin, ends[0][1] + way[1] * begin)
    write_figure(page, at, way, text, tolerance, is_overall=is_overall)
    return figure_box(at, way, wide)


def figure_span(long: float, wide: float, *, is_before: bool = False) -> tuple[float, float]:
    """Return from where to where along a dimension line so long a figure so wide stands.

    In its middle; where it has no room between the arrows beyond its end, or before its beginning.
    """
    if long >= 2.5 * _ARROW + wide:
        begin = (long - wide) / 2
    else:
        begin = -_BESIDE - wide if is_before else long + _BESIDE
    return begin, begin + wide


def figure_box(at: Point, way: Point, wide: float) -> Box:
    """Return the bounds of a figure with its deviations that begins at a place and runs one way."""
    ends = (at, (at[0] + way[0] * wide, at[1] + way[1] * wide))
    dx, dy = abs(way[1]) * _HALF, abs(way[0]) * _HALF
    return Box(
        left=min(p[0] for p in ends) - dx,
        bottom=min(p[1] for p in ends) - dy,
        right=max(p[0] for p in ends) + dx,
        top=max(p[1] for p in ends) + dy,
    )


def figure_length(text: str, tolerance: Sequence[str] = (), *, is_overall: bool = False) -> float:
    """Return how long a figure with its deviations is, mm of paper."""
    size = _LARGE if is_overall else CHOSEN
    after = max((len(t) for t in tolerance), default=0) * _ADVANCE * _small(size, tolerance)
    return _ADVANCE * size * len(text) + (after + 0.6 if after else 0.0)


def write_figure(
    page: Page,
    at: Point,
    way: Point,
    text: str,
    tolerance: Sequence[str] = (),
    *,
    is_overall: bool = False,
) -> None:
    """Write a figure from a place on, and its deviations after it, over each other if two."""
    size = _LARGE if is_overall else CHOSEN
    turn = math.atan2(way[1], way[0])
    face = Face.STRONG_FIGURES if is_overall else Face.FIGURES
    page.words.append(Words(text=text, at=at, size=size, face=face, turn=turn, is_clear=True))
    after = _ADVANCE * size * len(text) + 0.6
    heights = (1.1, -1.1) if len(tolerance) > 1 else (0.0,)
    for said, up in zip(tolerance, heights, strict=False):
        spot = (at[0] + way[0] * after - way[1] * up, at[1] + way[1] * after + way[0] * up)
        page.words.append(
            Words(text=said, at=spot, size=_small(size, tolerance), face=Face.FIGURES, turn=turn,
                  is_clear=True)
        )  # fmt: skip


def _small(size: float, tolerance: Sequence[str]) -> float:
    """Return the size of deviations: small where two stand over each other."""
    return _DEVIATION if len(tolerance) > 1 else size


def _past(a: Point, b: Point, by: float) -> Point:
    """Return the point ``by`` mm beyond ``a`` seen from ``b``; before it where that is negative."""
    long = math.dist(a, b)
    share = by / long if long else 0.0
    share = max(share, -0.5) if by < 0 else share
    return (a[0] + (b[0] - a[0]) * -share, a[1] + (b[1] - a[1]) * -share)


def arrow(tip: Point, other: Point) -> Fill:
    """Return the head of an arrow that comes from another point."""
    long = math.dist(tip, other)
    ux, uy = ((other[0] - tip[0]) / long, (other[1] - tip[1]) / long) if long else (1.0, 0.0)
    size = min(_ARROW, long / 3)
    x, y, half = tip[0] + ux * size, tip[1] + uy * size, size / 6
    return Fill(points=(tip, (x - uy * half, y + ux * half), (x + uy * half, y - ux * half)))


def row_of(
    page: Page, at: Point, scale: float, places: Sequence[float], strong: Sequence[bool], unit: Unit
) -> None:
    """Write how far places lie right of a flat's left edge, in a row under it.

    Parameters
    ----------
    page : Page
        What to draw on.
    at : Point
        The flat's lower left corner on the paper.
    scale : float
        Its scale.
    places : sequence of float
        The places, mm of the flat, rising.
    strong : sequence of bool
        Which are written strong: those of bend lines.
    unit : Unit
        What they are written in.
    """
    _ordinates(page, at, scale, places, strong, unit, is_level=True)


def column_of(
    page: Page, at: Point, scale: float, places: Sequence[float], strong: Sequence[bool], unit: Unit
) -> None:
    """Write how far places lie above a flat's lower edge, in a column left of it: as ``row_of``."""
    _ordinates(page, at, scale, places, strong, unit, is_level=False)


def _ordinates(
    page: Page,
    at: Point,
    scale: float,
    places: Sequence[float],
    strong: Sequence[bool],
    unit: Unit,
    *,
    is_level: bool,
) -> None:
    first, edge = at if is_level else (at[1], at[0])
    wanted = [first + p * scale for p in (0.0, *places)]
    stands = spread(wanted, _GAP)
    for want, stand, place, bold in zip(
        wanted, stands, (0.0, *places), (False, *strong), strict=True
    ):
        way = [(want, edge - 1.0), (want, edge - 2.5), (stand, edge - 5.0), (stand, edge - 6.0)]
        points = way if is_level else [(y, x) for x, y in way]
        page.lines(points, Pen.DIMENSION)
        spot = (stand, edge - 6.6)
        page.words.append(
            Words(
                text="0" if place == 0 else unit.length(place),
                at=spot if is_level else spot[::-1],
                size=_SIZE,
                face=Face.STRONG_FIGURES if bold else Face.FIGURES,
                anchor=Anchor.END,
                turn=math.pi / 2 if is_level else 0.0,
            )
        )
