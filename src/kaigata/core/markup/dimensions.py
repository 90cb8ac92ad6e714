"""Dimensions: overall sizes between arrows, and ordinates in a row under or a column beside."""

from __future__ import annotations

import math
from collections.abc import Sequence

from kaigata.core.markup.measure import Unit
from kaigata.core.markup.ordinates import spread
from kaigata.core.markup.page import Anchor, Face, Fill, Page, Pen, Words
from kaigata.core.plane import Point

__all__ = ["arrowed", "column_of", "row_of"]

_SIZE, _LARGE = 2.5, 3.5
_GAP = 3.2
_ARROW = 2.4


def arrowed(page: Page, a: Point, b: Point, off: float, text: str) -> None:
    """Draw the distance of two points, which lie level or upright, along a line beside them.

    Parameters
    ----------
    page : Page
        What to draw on.
    a, b : Point
        The points, the lower or left one first.
    off : float
        Where the dimension line runs: its y when they lie level, else its x.
    text : str
        The figure.
    """
    is_level = math.isclose(a[1], b[1])
    ends = [(a[0], off), (b[0], off)] if is_level else [(off, a[1]), (off, b[1])]
    for point, end in zip((a, b), ends, strict=True):
        page.line(_past(end, point, -1.0), _past(point, end, -1.5), Pen.DIMENSION)
    page.line(ends[0], ends[1], Pen.DIMENSION)
    for tip, other in (ends, ends[::-1]):
        page.fills.append(_arrow(tip, other))
    x, y = (ends[0][0] + ends[1][0]) / 2, (ends[0][1] + ends[1][1]) / 2
    # What has no room between the arrows stands beside the line.
    is_beside = math.dist(a, b) < 2.5 * _ARROW + 0.6 * _LARGE * len(text)
    turn = 0.0 if is_level or is_beside else math.pi / 2
    at = (x, y + _LARGE * is_beside) if is_level else (x + 1.5 * is_beside, y)
    anchor = Anchor.START if is_beside and not is_level else Anchor.MIDDLE
    page.words.append(
        Words(text=text, at=at, size=_LARGE, face=Face.STRONG_FIGURES, anchor=anchor, turn=turn,
              is_clear=not is_beside)
    )  # fmt: skip


def _past(a: Point, b: Point, by: float) -> Point:
    """Return the point ``by`` mm beyond ``a`` seen from ``b``; before it where that is negative."""
    long = math.dist(a, b)
    share = by / long if long else 0.0
    share = max(share, -0.5) if by < 0 else share
    return (a[0] + (b[0] - a[0]) * -share, a[1] + (b[1] - a[1]) * -share)


def _arrow(tip: Point, other: Point) -> Fill:
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
