"""From a folded part to its flat blank."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import linemerge

from kaigata.core.blank.blank import Blank, BlankBend, BlankMark, BlankPanel, Line
from kaigata.core.blank.place import Layout, lay_out
from kaigata.core.blank.pose import FaceUp, flat_pose, gauge
from kaigata.core.errors import InputError
from kaigata.core.findings import Finding, Level
from kaigata.core.metal.charts import BendChart, BendTake
from kaigata.core.part import FoldedPart
from kaigata.core.plane import Region
from kaigata.core.plane.tolerance import AREA, JOIN, KERNEL

__all__ = ["chart_takes", "numbered", "unfold"]


def unfold(
    part: FoldedPart,
    *,
    takes: Sequence[BendTake],
    anchor: int = 1,
    face_up: FaceUp = FaceUp.AS_MODELLED,
    turn: float = 0.0,
) -> Blank:
    """Return the flat blank of a folded part.

    Parameters
    ----------
    part : FoldedPart
        The part.
    takes : sequence of BendTake
        What each bend takes, in the order of the part's bends: ``chart_takes`` asks a chart.
    anchor : int
        Number of the panel that stays put, from 1.
    face_up : FaceUp
        Which side lies up.
    turn : float
        How far the straightened blank is turned counter-clockwise, radians.

    Returns
    -------
    Blank
        Straight, its bounding box's lower left corner at 0,0, with findings.

    Raises
    ------
    InputError
        There is no such panel, or the part closes a ring.
    """
    # A rolled sheet without a flat panel hangs on its first bend.
    if not 1 <= anchor <= max(len(part.panels), 1):
        raise InputError(
            f"there is no panel {anchor}; the part has {len(part.panels)}",
            where=part.name,
            fix="Choose a panel by its number in the result",
        )
    layout = lay_out(part, takes=takes, anchor=anchor - 1)
    region = layout.region()
    # A flat that lies on itself is no valid polygon, and is still to be drawn.
    polygon = shapely.make_valid(region.polygon(KERNEL * 10))
    blank = Blank(
        name=part.name,
        thickness=part.thickness,
        region=region,
        bends=tuple(_bends(layout, polygon)),
        panels=tuple(_panels(layout)),
        marks=tuple(_marks(layout)),
        findings=(*_overlaps(layout, region), *_remarks(layout)),
    )
    laid = blank.moved(flat_pose(region, face_up=face_up, turn=turn))
    return gauge(replace(laid, bends=numbered(laid.bends)))


def chart_takes(part: FoldedPart, chart: BendChart) -> tuple[BendTake, ...]:
    """Return what each bend of a part takes by a chart."""
    return tuple(chart.take(b.angle, b.inside_radius) for b in part.bends)


def _bends(layout: Layout, polygon: BaseGeometry) -> list[BlankBend]:
    part = layout.part
    found = []
    for i, bend in enumerate(part.bends, start=len(part.panels)):
        lines = _middle_lines(layout, i, polygon)
        if not lines:
            continue
        beside = {
            j + 1 for e in bend.edges for j, _ in part.meetings[e.number] if j < len(part.panels)
        }
        found.append(
            BlankBend(
                number=0,
                line=(lines[0][0], lines[-1][1]),
                lines=tuple(lines),
                angle=bend.angle,
                is_up=bend.is_up,
                inside_radius=layout.take(i).inside_radius,
                k=layout.take(i).k,
                thickness=part.thickness,
                origin=layout.take(i).origin,
                place=i - len(part.panels),
                panels=tuple(sorted(beside)),
            )
        )
    return found


def _middle_lines(layout: Layout, piece: int, polygon: BaseGeometry) -> list[Line]:
    """Return the pieces of a bend's middle that lie on its own material, in order along it."""
    bend = layout.part.pieces[piece]
    along = [y for e in bend.edges for s in e.run for y in (s.start[1], s.end[1])]
    motion = layout.motions[piece]
    middle = LineString([motion.point((0.0, min(along))), motion.point((0.0, max(along)))])
    inside = middle.intersection(polygon)
    if inside.geom_type == "MultiLineString":
        inside = linemerge(inside)
    start = middle.coords[0]
    lines: list[Line] = []
    for g in getattr(inside, "geoms", [inside]):
        if g.geom_type != "LineString" or g.length < JOIN:
            continue
        a, b = sorted((g.coords[0], g.coords[-1]), key=lambda p: math.dist(p, start))
        lines.append(((a[0], a[1]), (b[0], b[1])))
    return sorted(lines, key=lambda line: math.dist(line[0], start))


def _panels(layout: Layout) -> list[BlankPanel]:
    out = []
    for i, panel in enumerate(layout.part.panels):
        region = layout.piece_regions(i)[0]
        p = region.polygon(0.05).representative_point()
        out.append(
            BlankPanel(
                number=i + 1,
                at=(p.x, p.y),
                area=panel.area,
                region=region,
                motion=layout.motions[i],
            )
        )
    return out


def _marks(layout: Layout) -> list[BlankMark]:
    return [
        BlankMark(
            kind=f.kind,
            at=layout.point(f.piece, f.at),
            diameter=f.diameter,
            note=f.note,
            is_near=f.is_above,
            end=f.end and layout.point(f.piece, f.end),
        )
        for f in layout.part.features
    ]


def _remarks(layout: Layout) -> list[Finding]:
    return [
        Finding(level=r.level, code=r.code, text=r.text, at=layout.point(r.piece, r.at))
        for r in layout.part.remarks
    ]


def _overlaps(layout: Layout, region: Region) -> list[Finding]:
    """Return a finding where pieces lie on each other in the flat."""
    polygon = region.polygon(0.05)
    count = len(layout.part.pieces)
    pieces = math.fsum(r.area for i in range(count) for r in layout.piece_regions(i))
    if polygon.is_valid and pieces - region.area < max(KERNEL * pieces, AREA):
        return []
    extra = pieces - polygon.buffer(0).area
    common = _overlap(layout)
    p = common.representative_point() if common else None
    return [
        Finding(
            level=Level.ERROR,
            code="flat-overlap",
            text=f"The flat lies on itself over {max(extra, 0.0):.1f} mm2: it cannot be cut from "
            "one sheet. Make the part of two pieces or shorten what meets.",
            at=(p.x, p.y) if p else None,
            outline=tuple((x, y) for x, y in common.exterior.coords) if common else (),
        )
    ]


def _overlap(layout: Layout) -> Polygon | None:
    """Return the largest area where two pieces lie on each other."""
    shapes = [
        r.polygon(0.05).buffer(0)
        for i in range(len(layout.part.pieces))
        for r in layout.piece_regions(i)
    ]
    found = [
        g
        for i, a in enumerate(shapes)
        for b in shapes[:i]
        for g in _areas(a.intersection(b))
        if g.area > KERNEL * min(a.area, b.area)
    ]
    return max(found, key=lambda g: g.area, default=None)


def _areas(shape: BaseGeometry) -> list[Polygon]:
    return [g for g in getattr(shape, "geoms", [shape]) if isinstance(g, Polygon)]


def numbered(bends: tuple[BlankBend, ...]) -> tuple[BlankBend, ...]:
    """Return bends with numbers: standing ones left to right, then level ones bottom to top."""

    def reading_order(b: BlankBend) -> tuple[bool, float, float]:
        (x0, y0), (x1, y1) = b.line
        x, y = (x0 + x1) / 2, (y0 + y1) / 2
        return (b.is_level, round(y if b.is_level else x, 3), round(x if b.is_level else y, 3))

    ordered = sorted(bends, key=reading_order)
    return tuple(replace(b, number=n, sequence=n) for n, b in enumerate(ordered, start=1))
