"""A part's blank: its figures, its drawing, its folded view and its files."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.blank.mesh import MeshPiece
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import bend_table_csv, blank_dxf, region_of_document
from kaigata.core.formats.documents import BendDocument, FindingDocument, PanelDocument
from kaigata.core.formats.svg import contour_path
from kaigata.shop.api.answers import answer, download, read
from kaigata.shop.models import Blank, Part
from kaigata.shop.services.blanks import BlankChange, change_blank, document_of, mesh_of

__all__ = ["BlankFileView", "BlankView", "MeshView"]

At = tuple[float, float]


class HoleView(BaseModel):
    """A hole as it is drawn and gauged: middle, size, and diameter where it is round."""

    path: str
    at: At
    width: float
    height: float
    diameter: float | None


class BlankAnswer(BaseModel):
    """A blank with everything a drawing of it needs; mm, degrees, kg."""

    part: int
    name: str
    order: int
    line: int
    source: str
    quantity: int
    material: str | None
    thickness: float
    width: float
    height: float
    area: float
    cut_length: float
    mass: float | None
    k: float
    own_k: float | None
    k_origin: str
    anchor: int
    is_turned_over: bool
    quarter_turns: int
    outer: str
    holes: list[HoleView]
    bends: list[BendDocument]
    panels: list[PanelDocument]
    findings: list[FindingDocument]


class BlankAsk(BaseModel):
    """What to change about how a part is unfolded; ``own_k`` null takes the chart's K again."""

    model_config = ConfigDict(extra="forbid")

    own_k: Annotated[float, Field(ge=0, le=1)] | None = None
    anchor: Annotated[int, Field(ge=1)] | None = None
    is_turned_over: bool | None = None
    quarter_turns: int | None = None
    sequence: list[int] | None = None


class JointAnswer(BaseModel):
    """How a bend rolls up; mm, radians."""

    start: At
    across: At
    allowance: float
    angle: float
    is_up: bool
    neutral: float


class PieceAnswer(BaseModel):
    """A panel (its number) or bend (its number) as triangles in the blank."""

    panel: int | None
    bend: int | None
    parent: int | None
    triangles: list[float]
    outlines: list[list[float]]
    joint: JointAnswer | None


class MeshAnswer(BaseModel):
    """The pieces of a part, each after the one it hangs on."""

    thickness: float
    pieces: list[PieceAnswer]


def _ready(part: int) -> Blank:
    known = get_object_or_404(Part.objects.select_related("line__material", "source"), pk=part)
    if known.state != Part.State.READY:
        raise InputError(
            known.what or f"the part is {known.state}",
            where=known.where or known.name,
            fix=known.fix or "Wait until it is read",
        )
    return known.blank


def _answer(blank: Blank) -> BlankAnswer:
    document, line = document_of(blank), blank.part.line
    region = region_of_document(document)
    holes = []
    for hole in region.holes:
        x0, y0, x1, y1 = hole.bounds
        is_round = all(not s.is_line for s in hole.segments) and math.isclose(
            -hole.area, math.pi * (x1 - x0) ** 2 / 4, rel_tol=1e-6
        )
        holes.append(
            HoleView(
                path=contour_path(hole),
                at=((x0 + x1) / 2, (y0 + y1) / 2),
                width=x1 - x0,
                height=y1 - y0,
                diameter=x1 - x0 if is_round else None,
            )
        )
    density = line.material.density if line.material else None
    return BlankAnswer(
        part=blank.part.pk,
        name=document.part,
        order=line.order_id,
        line=line.pk,
        source=blank.part.source.name,
        quantity=line.quantity,
        material=line.material.name if line.material else None,
        thickness=document.thickness,
        width=document.width,
        height=document.height,
        area=document.area,
        cut_length=document.cut_length,
        mass=document.area * document.thickness * density / 1e9 if density else None,
        k=blank.k,
        own_k=blank.own_k,
        k_origin=blank.k_origin,
        anchor=blank.anchor,
        is_turned_over=blank.is_turned_over,
        quarter_turns=blank.quarter_turns,
        outer=contour_path(region.outer),
        holes=holes,
        bends=document.bends,
        panels=document.panels,
        findings=document.findings,
    )


class BlankView(APIView):
    """The blank of a part."""

    @extend_schema(responses=BlankAnswer, operation_id="blank_show")
    def get(self, request: Request, part: int) -> Response:
        """Show a blank."""
        return answer(_answer(_ready(part)))

    @extend_schema(request=BlankAsk, responses=BlankAnswer, operation_id="blank_change")
    def patch(self, request: Request, part: int) -> Response:
        """Change how a part is unfolded."""
        asked = read(BlankAsk, request)
        given = asked.model_dump(exclude_unset=True)
        clear = "own_k" in given and given["own_k"] is None
        change = BlankChange(**given, clear_own_k=clear)
        return answer(_answer(change_blank(_ready(part).part, change)))


class MeshView(APIView):
    """The folded view of a part."""

    @extend_schema(responses=MeshAnswer, operation_id="mesh_show")
    def get(self, request: Request, part: int) -> Response:
        """Give the triangles a folded view turns."""
        blank = _ready(part)
        pieces = [_piece(p, blank) for p in mesh_of(blank)]
        return answer(MeshAnswer(thickness=blank.document["thickness"], pieces=pieces))


def _piece(piece: MeshPiece, blank: Blank) -> PieceAnswer:
    joint = piece.joint
    return PieceAnswer(
        panel=piece.panel,
        bend=_bend_number(piece, blank) if joint else None,
        parent=piece.parent,
        triangles=[round(v, 4) for v in piece.triangles.ravel().tolist()],
        outlines=[[round(v, 4) for v in o.ravel().tolist()] for o in piece.outlines],
        joint=JointAnswer(**{f: getattr(joint, f) for f in joint.__slots__}) if joint else None,
    )


def _bend_number(piece: MeshPiece, blank: Blank) -> int:
    """Return the number of the bend whose line runs through the middle of a piece."""
    joint = piece.joint
    assert joint is not None
    half = joint.allowance / 2
    outline = piece.outlines[0]
    x = joint.start[0] + joint.across[0] * half
    y = joint.start[1] + joint.across[1] * half
    low, high = outline.min(axis=0), outline.max(axis=0)

    def off(bend: dict[str, list[list[float]]]) -> float:
        (ax, ay), (bx, by) = bend["line"]
        n = math.hypot(bx - ax, by - ay)
        across = abs((x - ax) * (by - ay) - (y - ay) * (bx - ax)) / n
        mx, my = (ax + bx) / 2, (ay + by) / 2
        beside = max(low[0] - mx, mx - high[0], low[1] - my, my - high[1], 0.0)
        return across + float(beside)

    best = min(blank.document["bends"], key=off)
    return int(best["id"])


_FILES = {
    "dxf": ("application/dxf", blank_dxf, "dxf"),
    "csv": ("text/csv", bend_table_csv, "bends.csv"),
    "json": ("application/json", lambda d: d.model_dump_json(indent=1), "blank.json"),
}


class BlankFileView(APIView):
    """Files of a blank."""

    @extend_schema(
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY},
        operation_id="blank_file",
    )
    def get(self, request: Request, part: int, kind: Literal["dxf", "csv", "json"]) -> HttpResponse:
        """Download a blank as DXF, its bend table as CSV, or its JSON."""
        if kind not in _FILES:
            raise NotFound(f"There is no file of kind {kind}; there are {', '.join(_FILES)}")
        media, write, suffix = _FILES[kind]
        document = document_of(_ready(part))
        return download(write(document), document.part, suffix, media)
