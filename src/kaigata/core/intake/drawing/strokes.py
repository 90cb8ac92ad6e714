"""Lines and arcs out of a DXF file, with the role that layer and line type give them."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import ezdxf
from ezdxf import recover
from ezdxf.disassemble import recursive_decompose
from ezdxf.document import Drawing as DxfDocument

from kaigata.core.errors import InputError
from kaigata.core.intake.drawing.layers import (
    Role,
    Style,
    bend_direction,
    role_of_layer,
    style_of_pattern,
)
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.fit import fit_segments
from kaigata.core.plane.segment import bulge_of_sweep

__all__ = ["Sheet", "Stroke", "read_strokes"]

SPLINE_FIT = 0.008
"""Greatest distance of a fitted arc from its spline, mm; with the sampling it stays below 0.01."""

_SAMPLE = 0.0005

_DRAWN = {"LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE"}
_RUNS = {"LWPOLYLINE", "POLYLINE"}
_BLOCKS = {"INSERT"}
_UNREAD = {"REGION", "MLINE", "SOLID", "TRACE", "3DFACE", "3DSOLID", "BODY", "SURFACE", "HELIX",
           "PLANESURFACE", "EXTRUDEDSURFACE", "ACAD_PROXY_ENTITY"}  # fmt: skip
"""What may be meant as an outline but is no line or arc, so that a hole may be missed in it."""
_WORDS = {"TEXT", "MTEXT", "ATTRIB", "ATTDEF", "DIMENSION", "LEADER", "MULTILEADER"}

_UNIT_MM = {1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0, 8: 2.54e-5, 9: 0.0254, 10: 914.4,
            13: 1e-3, 14: 100.0}  # fmt: skip
"""Millimetres of a unit by its number in ``$INSUNITS``."""


@dataclass(frozen=True, slots=True)
class Stroke:
    """One line or arc of a drawing, mm."""

    segment: Segment
    role: Role
    style: Style
    layer: str
    is_up: bool | None = None


@dataclass(frozen=True, slots=True)
class Sheet:
    """What a drawing holds.

    Attributes
    ----------
    strokes : tuple of Stroke
        Lines and arcs of model space, blocks resolved; in mm when ``unit`` is known, else in
        units of the file.
    unit : float or None
        Millimetres a unit, None when the file does not say.
    words : int
        How many texts and dimensions there are.
    fitted : int
        How many splines and ellipses were fitted by arcs.
    deviation : float
        Greatest distance of those arcs from their curves, mm.
    unread : tuple of (str, int)
        What else could have been meant as an outline, in words, and how much of it.
    """

    strokes: tuple[Stroke, ...]
    unit: float | None
    words: int
    fitted: int
    deviation: float
    unread: tuple[tuple[str, int], ...] = ()


def read_strokes(path: Path, *, unit: float | None = None) -> Sheet:
    """Return the lines and arcs of a DXF file of any release, text or binary.

    Parameters
    ----------
    path : Path
        The file.
    unit : float, optional
        Millimetres a unit, for a file that does not say.

    Raises
    ------
    InputError
        The file is no DXF, or holds something that cannot be drawn.
    """
    document = _opened(path)
    stated = _UNIT_MM.get(int(document.header.get("$INSUNITS", 0)))
    scale = stated or unit
    taker = _Taker(document, scale or 1.0)
    strokes = tuple(taker.strokes())
    unread = tuple(sorted(taker.unread.items()))
    return Sheet(strokes, scale, taker.words, taker.fitted, taker.deviation, unread)


def _opened(path: Path) -> DxfDocument:
    with path.open("rb") as file:
        head = file.read(32)
    if head[:4] in (b"AC10", b"AC1.", b"MC0."):
        raise InputError("it is a DWG, not a DXF", where=path.name, fix="Save the drawing as DXF")
    try:
        return ezdxf.readfile(path)
    except (OSError, ezdxf.DXFError, ValueError, KeyError, IndexError, TypeError):
        pass
    try:
        document, _ = recover.readfile(path)
    except (OSError, ezdxf.DXFError, ValueError, KeyError, IndexError, TypeError) as error:
        raise InputError(
            f"it cannot be read as DXF ({' '.join(str(error).split())[:80]})",
            where=path.name,
            fix="Save the drawing again as DXF, release R12 or later",
        ) from error
    return document


class _Taker:
    """Walks the entities of a drawing and counts what it leaves out."""

    def __init__(self, document: DxfDocument, scale: float) -> None:
        self.document, self.scale = document, scale
        self.words, self.fitted, self.deviation = 0, 0, 0.0
        self.unread = Counter[str]()
        self._hidden = {
            layer.dxf.name.lower()
            for layer in document.layers
            if layer.is_off() or layer.is_frozen()
        }

    def strokes(self) -> Iterator[Stroke]:
        for entity in self.document.modelspace():
            try:
                yield from self._of(entity, "0", Style.WHOLE)
            except (ezdxf.DXFError, ValueError, RecursionError) as error:
                kind = "block" if entity.dxftype() in _BLOCKS else entity.dxftype().lower()
                raise InputError(
                    f"a {kind} cannot be drawn: {' '.join(str(error).split())[:80]}",
                    where=f"entity #{entity.dxf.handle}",
                    fix="Draw it anew, or take it out of the file",
                ) from error

    def _of(self, entity: Any, block_layer: str, block_style: Style) -> Iterator[Stroke]:
        kind = entity.dxftype()
        if kind in _WORDS:
            self.words += 1
            return
        if entity.dxf.get("invisible", 0):
            return
        # What lies on layer 0 of a block takes the layer of where the block stands.
        own = str(entity.dxf.get("layer", "0"))
        layer = block_layer if own == "0" else own
        style = self._style(entity, layer, block_style)
        if layer.lower() in self._hidden:
            return
        if kind in _BLOCKS:
            for part in _exploded(entity):
                yield from self._of(part, layer, style)
        elif kind in _UNREAD or _is_mesh(entity):
            self._miss("mesh" if kind in _RUNS else kind.lower().removeprefix("acad_"), layer)
        elif kind in _RUNS:
            for part in entity.virtual_entities():
                yield from self._drawn(part, layer, style)
        else:
            yield from self._drawn(entity, layer, style)

    def _miss(self, what: str, layer: str) -> None:
        """Count what cannot be read where an outline could be."""
        if role_of_layer(layer) is Role.CUT:
            self.unread[what.replace("_", " ")] += 1

    def _style(self, entity: Any, layer: str, block_style: Style) -> Style:
        name = str(entity.dxf.get("linetype", "BYLAYER"))
        if name.upper() == "BYBLOCK":
            return block_style
        if name.upper() == "BYLAYER":
            if layer not in self.document.layers:
                return Style.WHOLE
            name = str(self.document.layers.get(layer).dxf.get("linetype", "CONTINUOUS"))
        if name not in self.document.linetypes:
            return Style.WHOLE
        tags = self.document.linetypes.get(name).pattern_tags.tags
        return style_of_pattern([float(t.value) for t in tags if t.code == 49])

    def _drawn(self, entity: Any, layer: str, style: Style) -> Iterator[Stroke]:
        if entity.dxftype() not in _DRAWN:
            return
        role = role_of_layer(layer)
        is_up = bend_direction(layer) if role is Role.BEND else None
        for segment in self._segments(entity):
            if segment.chord > 0:
                yield Stroke(segment, role, style, layer, is_up)

    def _segments(self, entity: Any) -> list[Segment]:
        kind = entity.dxftype()
        if kind == "LINE":
            return [Segment(self._mm(entity.dxf.start), self._mm(entity.dxf.end))]
        if kind == "CIRCLE":
            (x, y) = self._mm(entity.ocs().to_wcs(entity.dxf.center))
            r = abs(float(entity.dxf.radius)) * self.scale
            if r == 0:
                return []
            return [Segment((x - r, y), (x + r, y), 1.0), Segment((x + r, y), (x - r, y), 1.0)]
        if kind == "ARC":
            return self._arc(entity)
        points = [self._mm(p) for p in entity.flattening(_SAMPLE / self.scale)]
        return self._fit(points)

    def _arc(self, arc: Any) -> list[Segment]:
        start, end = self._mm(arc.start_point), self._mm(arc.end_point)
        sweep = math.radians((arc.dxf.end_angle - arc.dxf.start_angle) % 360.0 or 360.0)
        # Seen from below an arc runs the other way round.
        turn = math.copysign(1.0, float(arc.dxf.extrusion.z))
        if sweep < 1.5 * math.pi:
            return [Segment(start, end, turn * bulge_of_sweep(sweep))]
        (cx, cy) = self._mm(arc.ocs().to_wcs(arc.dxf.center))
        half = turn * sweep / 2
        dx, dy = start[0] - cx, start[1] - cy
        c, s = math.cos(half), math.sin(half)
        middle = (cx + dx * c - dy * s, cy + dx * s + dy * c)
        bulge = turn * bulge_of_sweep(sweep / 2)
        return [Segment(start, middle, bulge), Segment(middle, end, bulge)]

    def _fit(self, points: list[Point]) -> list[Segment]:
        kept = [p for i, p in enumerate(points) if i == 0 or math.dist(p, points[i - 1]) > 1e-9]
        if len(kept) < 2:
            return []
        self.fitted += 1
        run = fit_segments(kept, SPLINE_FIT)
        self.deviation = max(self.deviation, _furthest(kept, run) + _SAMPLE)
        return run

    def _mm(self, p: Any) -> Point:
        return (float(p.x) * self.scale, float(p.y) * self.scale)


def _is_mesh(entity: Any) -> bool:
    """Whether a polyline is a mesh, whose faces are no outlines."""
    if entity.dxftype() != "POLYLINE":
        return False
    return bool(entity.is_poly_face_mesh or entity.is_polygon_mesh)


def _exploded(insert: Any) -> Iterator[Any]:
    """Yield the entities of a block where it stands, arrays of it resolved."""
    several = insert.multi_insert() if insert.mcount > 1 else [insert]
    for one in several:
        for part in one.virtual_entities(skipped_entity_callback=lambda *_: None):
            if part.dxftype() in _BLOCKS:
                yield from recursive_decompose([part])
            else:
                yield part


def _furthest(points: list[Point], run: list[Segment]) -> float:
    """Return how far points are from the pieces fitted through them, walking both along."""
    worst, at = 0.0, 0
    for p in points:
        while at + 1 < len(run) and math.dist(p, run[at].end) < 1e-9:
            at += 1
        s = run[at]
        if s.is_line:
            (ux, uy) = s.heading(0)
            off = abs((p[0] - s.start[0]) * uy - (p[1] - s.start[1]) * ux)
        else:
            off = abs(math.dist(p, s.centre) - s.radius)
        worst = max(worst, off)
    return worst
