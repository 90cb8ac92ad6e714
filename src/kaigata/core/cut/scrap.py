"""Cuts through what is left when the parts are out: the skeleton in pieces, the remnant off."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import shapely
from shapely.geometry import LineString, Polygon

from kaigata.core.cut.passes import Stroke
from kaigata.core.plane import Segment

__all__ = ["cut_off", "skeleton_cuts"]

_CLEAR = 1.0
"""mm: cuts through scrap keep this far from the kerf round a part."""

_SHORTEST = 5.0
"""mm: bridges shorter than this break by hand."""


def skeleton_cuts(
    sheet: Polygon, materials: Sequence[Polygon], kerf: float, size: float, right: float
) -> list[Stroke]:
    """Return cuts that leave no piece of the skeleton larger than a size.

    Parameters
    ----------
    sheet : Polygon
        The sheet's outline, mm.
    materials : sequence of Polygon
        The placed parts.
    kerf : float
        Width of the cut, mm.
    size : float
        Largest side of a piece, mm.
    right : float
        x up to which the sheet is used; beyond it nothing is cut.
    """
    x0, y0, x1, y1 = sheet.bounds
    x1 = min(x1, right)
    columns, rows = math.ceil((x1 - x0) / size), math.ceil((y1 - y0) / size)
    xs = [x0 + (x1 - x0) * i / columns for i in range(1, columns)]
    ys = [y0 + (y1 - y0) * i / rows for i in range(1, rows)]
    lines = [LineString([(x, y0), (x, y1)]) for x in xs]
    lines += [LineString([(x0, y), (x1, y)]) for y in ys]
    taken = shapely.union_all([m.buffer(kerf + _CLEAR) for m in materials])
    room = sheet.buffer(-kerf / 2)
    return [
        _stroke("skeleton", piece)
        for line in lines
        for piece in _pieces(line, room, taken)
        if piece.length >= _SHORTEST
    ]


def cut_off(sheet: Polygon, materials: Sequence[Polygon], kerf: float, at: float) -> list[Stroke]:
    """Return the cut across a sheet at ``x = at`` that parts the remnant off, if there is one.

    Its kerf is taken from the used side, so that the remnant is as long as it is said to be, but
    where the margin there has no room for it beside the kerf round the parts.
    """
    x0, y0, x1, y1 = sheet.bounds
    reach = max((m.bounds[2] for m in materials), default=x0)
    has_room = at - reach >= 2 * kerf
    x = at - kerf / 2 if has_room else at + kerf / 2
    if not x0 + kerf < x < x1 - kerf:
        return []
    taken = shapely.union_all([m.buffer(kerf / 2) for m in materials])
    line = LineString([(x, y0), (x, y1)])
    return [_stroke("cut-off", p) for p in _pieces(line, sheet.buffer(-kerf / 2), taken)]


def _pieces(line: LineString, room: Polygon, taken: Polygon) -> Iterator[LineString]:
    rest = line.intersection(room).difference(taken)
    for piece in getattr(rest, "geoms", [rest]):
        if isinstance(piece, LineString) and not piece.is_empty:
            yield piece


def _stroke(name: str, line: LineString) -> Stroke:
    (ax, ay), (bx, by) = line.coords[0], line.coords[-1]
    return Stroke(name, (Segment((ax, ay), (bx, by)),))
