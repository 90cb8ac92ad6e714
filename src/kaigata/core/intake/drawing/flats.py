"""From a drawing's contours to parts: outlines with their holes and bend lines."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import shapely
from shapely.geometry import Point as Point2
from shapely.geometry import Polygon

from kaigata.core.errors import InputError
from kaigata.core.findings import Finding, Level, counted
from kaigata.core.intake.drawing.across import edges_along, is_on, stops_across
from kaigata.core.intake.drawing.joining import GAP, Joined, join
from kaigata.core.intake.drawing.layers import Role, Style
from kaigata.core.intake.drawing.strokes import Sheet, Stroke, read_strokes
from kaigata.core.plane import Contour, Point, Region, Segment
from kaigata.core.plane.contour import require_simple
from kaigata.core.plane.tolerance import CHORD

__all__ = ["Drawing", "DrawnBend", "DrawnFlat", "read_drawing"]

Line = tuple[Point, Point]

_PAPER = math.sqrt(2.0)
_LARGEST = 4000.0
"""A part longer than this, mm, is worth a question about its unit."""

_SMALLEST = 12.0

_WORTH_SAYING = 1e-3
"""Gaps under this, mm, are rounding of the file."""


@dataclass(frozen=True, slots=True)
class DrawnBend:
    """A bend line of a flat: its pieces on material, mm, and its direction where the file says."""

    lines: tuple[Line, ...]
    is_up: bool | None = None


@dataclass(frozen=True, slots=True)
class DrawnFlat:
    """A part of a drawing."""

    name: str
    region: Region
    bends: tuple[DrawnBend, ...]
    findings: tuple[Finding, ...] = ()


@dataclass(frozen=True, slots=True)
class Drawing:
    """What a DXF holds: its parts, mm, or in units of the file where it does not say its unit."""

    flats: tuple[DrawnFlat, ...]
    unit: float | None


def read_drawing(path: Path, *, unit: float | None = None) -> Drawing:
    """Return the parts of a DXF file.

    Ends of lines up to 0.05 mm apart are joined; splines and ellipses become arcs within 0.01 mm.
    Text, dimensions, frames and centre lines are left out. A bend line is dashed, or lies on a
    layer whose name tells so; it is taken to the edges it is meant to reach.

    Parameters
    ----------
    path : Path
        A DXF file.
    unit : float, optional
        Millimetres a unit, for a file that does not say.

    Returns
    -------
    Drawing
        At least one part; ``unit`` is None when neither the file nor the caller says it, and
        lengths are then in the file's own units.

    Raises
    ------
    InputError
        The file is no DXF, nothing is drawn, or a contour is open, branches or crosses another;
        the text gives the place in units of the drawing.
    """
    sheet = read_strokes(path, unit=unit)
    scale = sheet.unit or 1.0
    cuts = [s.segment for s in sheet.strokes if s.role is Role.CUT and s.style is Style.WHOLE]
    if not cuts:
        raise InputError(
            "nothing is drawn in model space that could be an outline" + _only(sheet),
            where=path.name,
            fix="Draw the outline whole, on a layer that is not named for text or frames",
        )
    joined = join(cuts, scale=scale)
    frames = _frames(joined.contours, has_words=sheet.words > 0)
    regions = _regions([c for c in joined.contours if c not in frames], scale)
    bends = _bends(sheet.strokes, regions)
    # Outlines with nothing in them may be the holes of what was taken for a frame.
    is_plain = not any(region.holes for region in regions) and not any(bends)
    left_out = tuple(_left_out(frame, is_doubtful=is_plain) for frame in frames)
    names = _names(path.stem, len(regions))
    flats = tuple(
        DrawnFlat(name, region, tuple(bends[i]), left_out + _findings(sheet, joined, region))
        for i, (name, region) in enumerate(zip(names, regions, strict=True))
    )
    return Drawing(flats, sheet.unit)


def _names(stem: str, count: int) -> list[str]:
    return [stem] if count == 1 else [f"{stem}-{i}" for i in range(1, count + 1)]


def _frames(contours: Sequence[Contour], *, has_words: bool) -> list[Contour]:
    """Return the contours that frame a sheet of paper, the outermost first.

    A frame is a rectangle of a paper's proportions around everything else in a drawing with text.
    """
    left = sorted(contours, key=lambda c: -abs(c.area))
    frames: list[Contour] = []
    while has_words and len(left) > 1 and _is_paper(left[0]):
        around = left[0].polygon(CHORD)
        if not all(around.contains(c.polygon(CHORD)) for c in left[1:]):
            break
        frames.append(left.pop(0))
    return frames


def _is_paper(contour: Contour) -> bool:
    if len(contour.vertices) != 4 or any(v[2] for v in contour.vertices):
        return False
    a, b = contour.segments[0].chord, contour.segments[1].chord
    square = abs(abs(contour.area) - a * b) < 1e-6 * a * b
    return square and abs(max(a, b) / min(a, b) / _PAPER - 1) < 0.05


def _regions(contours: Sequence[Contour], scale: float) -> list[Region]:
    """Return the parts that contours make: outlines at even depth, their holes one deeper."""
    if not contours:
        raise InputError("no closed outline is drawn", fix="Draw the outline whole and closed")
    for c in contours:
        require_simple(c, where="the drawing")
    shapes = [c.polygon(CHORD) for c in contours]
    _require_apart(shapes, scale)
    inside = [
        [j for j, other in enumerate(shapes) if j != i and other.contains(shape)]
        for i, shape in enumerate(shapes)
    ]
    outers = [i for i in range(len(contours)) if len(inside[i]) % 2 == 0]
    out = []
    for i in outers:
        depth = len(inside[i]) + 1
        holes = tuple(
            contours[j] for j in range(len(contours)) if len(inside[j]) == depth and i in inside[j]
        )
        out.append(Region.oriented(contours[i], holes))
    return out


def _require_apart(shapes: Sequence[Polygon], scale: float) -> None:
    rings = [s.exterior for s in shapes]
    tree = shapely.STRtree(rings)
    for i, j in tree.query(rings, predicate="intersects").T.tolist():
        if i >= j:
            continue
        p = rings[i].intersection(rings[j]).representative_point()
        raise InputError(
            f"two contours touch or cross at x {p.x / scale:.3f}, y {p.y / scale:.3f}",
            fix="Contours must stay clear of each other; mend the drawing there",
        )


# Bend lines.


def _bends(strokes: Sequence[Stroke], regions: Sequence[Region]) -> list[list[DrawnBend]]:
    shapes = [r.polygon(CHORD) for r in regions]
    pieces: list[list[tuple[Line, bool | None]]] = [[] for _ in regions]
    for stroke in strokes:
        if not stroke.segment.is_line or not _may_bend(stroke):
            continue
        home = _home(stroke.segment, shapes)
        if home is None:
            continue
        chain = stroke.role is not Role.BEND and stroke.style is Style.CHAIN
        for line in _to_edges(stroke.segment, regions[home], shapes[home], exact=chain):
            pieces[home].append((line, stroke.is_up))
    return [_grouped(_single(p), shapes[i]) for i, p in enumerate(pieces)]


def _may_bend(stroke: Stroke) -> bool:
    if stroke.role is Role.BEND:
        return True
    return stroke.role is Role.CUT and stroke.style is not Style.WHOLE


def _home(line: Segment, shapes: Sequence[Polygon]) -> int | None:
    """Return the part a line lies on: the innermost that holds its middle."""
    middle = Point2(line.at(0.5))
    own = [i for i, s in enumerate(shapes) if s.covers(middle)]
    if own:
        return min(own, key=lambda i: shapes[i].area)
    # The middle may lie in an opening that interrupts the bend.
    whole = shapely.LineString([line.start, line.end])
    met = [i for i, s in enumerate(shapes) if s.intersection(whole).length > 0.1 * whole.length]
    return min(met, key=lambda i: shapes[i].area, default=None)


def _to_edges(line: Segment, region: Region, shape: Polygon, *, exact: bool) -> list[Line]:
    """Return the pieces of a line on material, its ends taken to the edges they are meant for.

    With ``exact`` the line must already end on edges: what is drawn in dashes and dots is a centre
    line otherwise.
    """
    ux, uy = heading = line.heading(0)
    along = edges_along(region, line.start, heading, GAP)
    marks = sorted([*stops_across(region, line.start, heading), *(t for e in along for t in e)])

    def is_inside(at: float) -> bool:
        # Where the line lies on an edge, or a hair beside it, there is nothing to bend.
        is_free = all(not a < at < b for a, b in along)
        return is_free and is_on(shape, line.start, heading, at)

    # An end on metal stops short of an edge, one beside it has run past one.
    first, last = GAP, line.chord - GAP
    if is_inside(first):
        low = max((t for t in marks if t <= first), default=None)
    else:
        low = min((t for t in marks if first < t <= last), default=None)
    if is_inside(last):
        high = min((t for t in marks if t >= last), default=None)
    else:
        high = max((t for t in marks if first <= t < last), default=None)
    if low is None or high is None:
        return []
    if exact and max(abs(low), abs(high - line.chord)) > 2 * GAP:
        return []
    stops = [low, *(t for t in marks if low + GAP < t < high - GAP), high]
    out = []
    for a, b in itertools.pairwise(stops):
        if b - a > GAP and is_inside((a + b) / 2):
            out.append(
                (
                    (line.start[0] + ux * a, line.start[1] + uy * a),
                    (line.start[0] + ux * b, line.start[1] + uy * b),
                )
            )
    return out


def _single(pieces: Sequence[tuple[Line, bool | None]]) -> list[tuple[Line, bool | None]]:
    """Return the pieces with those drawn twice once."""
    out: list[tuple[Line, bool | None]] = []
    for (a, b), is_up in pieces:
        for n, ((c, d), other) in enumerate(out):
            apart = min(
                max(math.dist(a, c), math.dist(b, d)), max(math.dist(a, d), math.dist(b, c))
            )
            if apart < 2 * GAP:
                out[n] = ((c, d), other if other is not None else is_up)
                break
        else:
            out.append(((a, b), is_up))
    return out


def _grouped(pieces: Sequence[tuple[Line, bool | None]], shape: Polygon) -> list[DrawnBend]:
    """Return bends: pieces of one line with only openings between them are one."""
    left = list(pieces)
    out = []
    while left:
        line, is_up = left.pop(0)
        lines = [line]
        for other, up in list(left):
            if up == is_up and _in_line(lines, other) and _only_void(lines, other, shape):
                lines.append(other)
                left.remove((other, up))
        (ax, ay), (bx, by) = line
        lines = [_same_way(x, (bx - ax, by - ay)) for x in lines]
        lines.sort(key=lambda x: (x[0][0] - ax) * (bx - ax) + (x[0][1] - ay) * (by - ay))
        out.append(DrawnBend(tuple(lines), is_up))
    return out


def _in_line(lines: Sequence[Line], other: Line) -> bool:
    (ax, ay), (bx, by) = lines[0]
    n = math.hypot(bx - ax, by - ay)
    return all(abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) / n < GAP for x, y in other)


def _only_void(lines: Sequence[Line], other: Line, shape: Polygon) -> bool:
    gap = min(
        ((p, q) for line in lines for p in line for q in other), key=lambda pq: math.dist(*pq)
    )
    between = shapely.LineString(gap)
    inner = Polygon(shape.exterior)
    # Only an opening within the part: beyond its outline another flange begins.
    return bool(inner.covers(between)) and shape.intersection(between).length < 4 * GAP


def _same_way(line: Line, heading: Point) -> Line:
    (ax, ay), (bx, by) = line
    return line if (bx - ax) * heading[0] + (by - ay) * heading[1] > 0 else (line[1], line[0])


# What there is to know.


def _findings(sheet: Sheet, joined: Joined, region: Region) -> tuple[Finding, ...]:
    out = []
    if sheet.unit is not None:
        doubt = _unit_doubt(region, sheet.unit)
        if doubt:
            out.append(doubt)
    if sheet.fitted:
        are = counted(sheet.fitted, "spline or ellipse is", "splines or ellipses are")
        out.append(
            Finding(
                level=Level.NOTE,
                code="spline-fitted",
                text=f"{are} cut as arcs, at most {sheet.deviation:.4f} mm from the drawing.",
            )
        )
    if sheet.unread:
        out.append(
            Finding(
                level=Level.WARNING,
                code="not-read",
                text=f"Not read, for it is no line or arc: {_kinds(sheet)}. Draw what belongs to "
                "the part as lines and arcs.",
            )
        )
    if joined.widest_gap > _WORTH_SAYING:
        out.append(
            Finding(
                level=Level.NOTE,
                code="gaps-closed",
                text=f"Ends up to {joined.widest_gap:.3f} mm apart were joined; ends up to "
                f"{GAP:g} mm apart count as one.",
            )
        )
    shape = region.polygon(CHORD)
    for line in joined.loose:
        p = line.at(0.5)
        if shape.covers(Point2(p)):
            out.append(
                Finding(
                    level=Level.WARNING,
                    code="loose-line",
                    text=f"A line of {line.length:.1f} mm closes nothing and is left out. Dash it "
                    "or put it on a layer for bends if it is a bend line, or take it out.",
                    at=p,
                )
            )
    marked = sum(s.role is Role.MARK for s in sheet.strokes)
    if marked:
        out.append(
            Finding(
                level=Level.NOTE,
                code="marks-left-out",
                text=f"On layers for marking {counted(marked, 'line is', 'lines are')} not cut "
                "and not taken over.",
            )
        )
    return tuple(out)


def _kinds(sheet: Sheet) -> str:
    return ", ".join(f"{n} {kind}" for kind, n in sheet.unread)


def _only(sheet: Sheet) -> str:
    return f", only {_kinds(sheet)}" if sheet.unread else ""


def _left_out(frame: Contour, *, is_doubtful: bool) -> Finding:
    x0, y0, x1, y1 = frame.bounds
    return Finding(
        level=Level.WARNING if is_doubtful else Level.NOTE,
        code="frame-left-out",
        text=f"A rectangle of {x1 - x0:.2f} x {y1 - y0:.2f} around everything is taken for the "
        "frame of the drawing and left out. If it is the part's outline, take the text out.",
    )


def _unit_doubt(region: Region, unit: float) -> Finding | None:
    x0, y0, x1, y1 = region.outer.bounds
    w, h = x1 - x0, y1 - y0
    if _SMALLEST <= max(w, h) <= _LARGEST:
        return None
    other, name = (1 / 25.4, "millimetres") if unit == 25.4 else (25.4, "inches")
    factor = other if unit in (1.0, 25.4) else 1.0 / unit
    name = name if unit in (1.0, 25.4) else "millimetres"
    return Finding(
        level=Level.WARNING,
        code="unit-doubtful",
        text=f"The drawing's unit makes the part {w:.2f} x {h:.2f} mm in size. Read as {name} it "
        f"would be {w * factor:.2f} x {h * factor:.2f} mm. Check the unit it was saved in.",
    )
