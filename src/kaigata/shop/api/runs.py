"""Nests, cuts and packets of an order: starting them, following them, taking what they give."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.errors import InputError
from kaigata.core.formats.cut_files import path_dxf
from kaigata.core.formats.documents import (
    CutSheetDocument,
    FindingDocument,
    NestedSheetDocument,
    UnplacedDocument,
)
from kaigata.core.formats.nest_files import sheet_dxf, sheet_outline
from kaigata.core.formats.report import nest_report
from kaigata.core.formats.svg import contour_path, region_path
from kaigata.shop.api.answers import answer, download, read
from kaigata.shop.models import CutRun, Material, Nest, NestRun, Order, Packet, Program, Run
from kaigata.shop.models import StockSheet as Stock
from kaigata.shop.services import cutting, nesting, packing, route_card
from kaigata.shop.services.digests import changes, digest

__all__ = ["CutView", "NestFileView", "NestStopView", "NestView", "PacketFileView", "PacketView",
           "ProgramFileView"]  # fmt: skip

_BINARY = {(200, "application/octet-stream"): OpenApiTypes.BINARY}


class RunAnswer(BaseModel):
    """How far background work has come, and what has made its result stale since."""

    id: int
    state: Literal["queued", "running", "done", "stopped", "failed"]
    progress: float
    what: str
    where: str
    fix: str
    stale: list[str]


class NestRules(BaseModel):
    """Rules of a nest, mm, degrees, seconds; ``sheets`` null means all that fit."""

    model_config = ConfigDict(extra="forbid")

    spacing: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] = 6.0
    margin: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] = 12.0
    turns: Annotated[list[Literal[0, 90, 180, 270]], Field(min_length=1)] = [0, 90, 180, 270]
    seconds: Annotated[float, Field(gt=0, le=3600, allow_inf_nan=False)] = 20.0
    sheets: list[int] | None = None


class SheetChoice(BaseModel):
    """A stock sheet that could be used."""

    id: int
    name: str
    material: str
    thickness: float
    width: float
    height: float
    is_remnant: bool
    count: int


class BetterAnswer(BaseModel):
    """A better answer of a search."""

    seconds: float
    utilisation: float
    sheets: int
    left_out: int


class NestPartDrawing(BaseModel):
    """A part as it is drawn about its own 0,0."""

    id: str
    path: str
    width: float
    height: float


class SheetDrawing(BaseModel):
    """A stock sheet as it is drawn."""

    id: str
    path: str
    width: float
    height: float
    thickness: float | None
    material: str | None


class NestAnswer(BaseModel):
    """The nest of an order: rules, choices, the newest search, and its best answer."""

    rules: NestRules
    choices: list[SheetChoice]
    run: RunAnswer | None
    history: list[BetterAnswer]
    nest: int | None
    sheets: list[NestedSheetDocument]
    unplaced: list[UnplacedDocument]
    utilisation: float
    spacing: float
    margin: float
    mass: float | None
    cost: float | None
    parts: list[NestPartDrawing]
    stock: list[SheetDrawing]


def _run_answer(run: Run, now: dict[str, str]) -> RunAnswer:
    return RunAnswer(
        id=run.pk,
        state=run.state,
        progress=run.progress,
        what=run.what,
        where=run.where,
        fix=run.fix,
        stale=changes(run.inputs, {n: now.get(n, v) for n, v in run.inputs.items()} | now),
    )


class NestView(APIView):
    """The nest of an order."""

    @extend_schema(responses=NestAnswer, operation_id="nest_show")
    def get(self, request: Request, order: int) -> Response:
        """Show the newest nest of an order."""
        return answer(_nest_answer(get_object_or_404(Order, pk=order)))

    @extend_schema(request=NestRules, responses={202: NestAnswer}, operation_id="nest_start")
    def post(self, request: Request, order: int) -> Response:
        """Search for a nest with these rules."""
        known = get_object_or_404(Order, pk=order)
        known.nest_rules = read(NestRules, request).model_dump()
        known.save(update_fields=["nest_rules"])
        nesting.start_nesting(known)
        return answer(_nest_answer(known), 202)


class NestStopView(APIView):
    """Stopping a search."""

    @extend_schema(request=None, responses=NestAnswer, operation_id="nest_stop")
    def post(self, request: Request, order: int) -> Response:
        """Stop the search; its best answer stays."""
        known = get_object_or_404(Order, pk=order)
        nesting.stop_nesting(known)
        return answer(_nest_answer(known))


def _nest_answer(order: Order) -> NestAnswer:
    run = order.nestruns.select_related("nest").first()
    kept: Nest | None = getattr(run, "nest", None) if run else None
    empty: dict[str, Any] = {"nest": None, "sheets": [], "unplaced": [], "utilisation": 0.0,
                             "mass": None, "cost": None, "parts": [], "stock": [],
                             "spacing": 0.0, "margin": 0.0}  # fmt: skip
    return NestAnswer(
        rules=NestRules.model_validate(nesting.rules_of(order)),
        choices=_choices(order),
        run=_run_answer(run, route_card.nest_inputs(order)) if run else None,
        history=[BetterAnswer(**h) for h in run.history] if run else [],
        **(_nest_drawing(kept) if kept else empty),
    )


def _choices(order: Order) -> list[SheetChoice]:
    lines = order.lines.filter(material__isnull=False, part__thickness__isnull=False)
    gauges = set(lines.values_list("material_id", "part__thickness"))
    wanted = {(m, round(t, 3)) for m, t in gauges}
    return [
        SheetChoice(
            id=s.pk,
            name=s.name,
            material=s.material.name,
            thickness=s.thickness,
            width=s.width,
            height=s.height,
            is_remnant=s.outline is not None,
            count=s.count,
        )
        for s in Stock.objects.select_related("material")
        if (s.material_id, round(s.thickness, 3)) in wanted
    ]


def _nest_drawing(kept: Nest) -> dict[str, Any]:
    _, order, nest = nesting.open_nest(kept)
    used = {p.part for s in nest.sheets for p in s.placements}
    sheets = {s.sheet for s in nest.sheets}
    mass, cost = _mass_and_cost(order, nest)
    document = kept.document
    parts = []
    for p in order.parts:
        if p.id in used:
            x0, y0, x1, y1 = p.region.outer.bounds
            parts.append(
                NestPartDrawing(id=p.id, path=region_path(p.region), width=x1 - x0, height=y1 - y0)
            )
    stock = [
        SheetDrawing(
            id=s.id,
            path=contour_path(sheet_outline(s)),
            width=s.width,
            height=s.height,
            thickness=s.thickness,
            material=s.material,
        )
        for s in order.sheets
        if s.id in sheets
    ]
    return {
        "nest": kept.pk,
        "sheets": [NestedSheetDocument.model_validate(s) for s in document["sheets"]],
        "unplaced": [UnplacedDocument.model_validate(u) for u in document["unplaced"]],
        "utilisation": document["utilisation"],
        "spacing": order.spacing,
        "margin": order.margin,
        "mass": mass,
        "cost": cost,
        "parts": parts,
        "stock": stock,
    }


def _mass_and_cost(order: Any, nest: Any) -> tuple[float | None, float | None]:
    """Return the mass of the sheets used, kg, and what they cost by price per kg."""
    materials = {m.name: m for m in Material.objects.all()}
    stock = {s.id: s for s in order.sheets}
    used = [stock[s.sheet] for s in nest.sheets]
    if any(s.material not in materials or not s.thickness for s in used):
        return None, None
    masses = [(s, s.area * s.thickness * materials[s.material].density / 1e9) for s in used]
    return sum(m for _, m in masses), sum(m * materials[s.material].price for s, m in masses)


class NestFileView(APIView):
    """Files of a nest."""

    @extend_schema(responses=_BINARY, operation_id="nest_file")
    def get(self, request: Request, nest: int, name: str) -> HttpResponse:
        """Download nest.json, report.html or a sheet's DXF (sheet-N.dxf)."""
        kept = get_object_or_404(Nest.objects.select_related("run__order"), pk=nest)
        document, order, found = nesting.open_nest(kept)
        if name == "report.html":
            report = nest_report(order, found, title=document.name)
            return download(report, "report", "html", "text/html")
        sheet = next((s for s in found.sheets if f"sheet-{s.number}.dxf" == name), None)
        if sheet is None:
            raise InputError(f"the nest has no file {name}", fix="Ask for report.html or a sheet")
        text = sheet_dxf(order, sheet).text()
        return download(text, name.removesuffix(".dxf"), "dxf", "application/dxf")


class CutChoice(BaseModel):
    """How to cut; ``kerf`` null takes the chart's."""

    model_config = ConfigDict(extra="forbid")

    process: Literal["laser", "plasma", "waterjet"] = "laser"
    kerf: Annotated[float, Field(gt=0, lt=20)] | None = None
    post: Literal["plain", "plain-inch"] = "plain"


class PassDrawing(BaseModel):
    """A pass as it is drawn."""

    part: str
    copy_: Annotated[int, Field(alias="copy")]
    name: str
    pierce: tuple[float, float]
    path: str
    lead: str


class ProgramAnswer(BaseModel):
    """A sheet's program as it is drawn."""

    id: int
    number: int
    passes: list[PassDrawing]
    rapids: str


class ChartRowAnswer(BaseModel):
    """What the cut chart says for a gauge."""

    process: str
    material: str
    thickness: float
    kerf: float
    feed: float
    pierce_seconds: float
    lead_in: float


class CutAnswer(BaseModel):
    """The cutting of an order: the choice, the newest run, figures and paths."""

    choice: CutChoice
    chart: list[ChartRowAnswer]
    run: RunAnswer | None
    sheets: list[CutSheetDocument]
    findings: list[FindingDocument]
    programs: list[ProgramAnswer]
    nest: int | None


class CutView(APIView):
    """The cutting of an order."""

    @extend_schema(responses=CutAnswer, operation_id="cut_show")
    def get(self, request: Request, order: int) -> Response:
        """Show the newest paths of an order."""
        return answer(_cut_answer(get_object_or_404(Order, pk=order)))

    @extend_schema(request=CutChoice, responses={202: CutAnswer}, operation_id="cut_start")
    def post(self, request: Request, order: int) -> Response:
        """Plan paths and programs for the newest nest."""
        known = get_object_or_404(Order, pk=order)
        known.cut_choice = read(CutChoice, request).model_dump()
        known.save(update_fields=["cut_choice"])
        cutting.start_cutting(known)
        return answer(_cut_answer(known), 202)


def _cut_answer(order: Order) -> CutAnswer:
    run: CutRun | None = order.cutruns.first()
    document = run.document if run and run.document else {"sheets": [], "findings": []}
    gauges = {(c.material, round(c.thickness, 3)) for c in _choices(order)}
    rows = cutting.cut_chart()
    return CutAnswer(
        choice=CutChoice.model_validate(order.cut_choice or {}),
        chart=[
            ChartRowAnswer(**{f: getattr(r, f) for f in ChartRowAnswer.model_fields})
            for r in rows
            if any(round(r.thickness, 3) == t and r.material in ("*", m) for m, t in gauges)
        ],
        run=_run_answer(run, _now(order)) if run else None,
        sheets=[CutSheetDocument.model_validate(s) for s in document["sheets"]],
        findings=[FindingDocument.model_validate(f) for f in document["findings"]],
        programs=[
            ProgramAnswer(id=p.pk, number=p.number, **p.drawing)
            for p in (run.programs.all() if run else [])
        ],
        nest=run.nest_id if run else None,
    )


def _now(order: Order) -> dict[str, str]:
    """Return what cutting rests on now, except the run's own number."""
    newest: NestRun | None = order.nestruns.filter(nest__isnull=False).first()
    return {
        **route_card.nest_inputs(order),
        "nest": newest.nest.digest if newest else "",
        "cut settings": digest(order.cut_choice),
    }


class ProgramFileView(APIView):
    """Files of a program."""

    @extend_schema(responses=_BINARY, operation_id="program_file")
    def get(self, request: Request, program: int, kind: Literal["nc", "dxf"]) -> HttpResponse:
        """Download a sheet's program, or its path as DXF."""
        known = get_object_or_404(Program.objects.select_related("run__nest"), pk=program)
        stem = f"sheet-{known.number}"
        if kind == "nc":
            return download(known.text, stem, "nc", "text/plain")
        _, order, nest = nesting.open_nest(known.run.nest)
        sheet = next(s for s in nest.sheets if s.number == known.number)
        return download(path_dxf(order, sheet, known.text), stem, "path.dxf", "application/dxf")


class PacketFile(BaseModel):
    """A file of the packet."""

    name: str
    size: int
    sha256: str
    made_from: str


class PacketAnswer(BaseModel):
    """The newest packet of an order."""

    packet: int | None
    run: RunAnswer | None
    size: int
    files: list[PacketFile]


class PacketView(APIView):
    """The packet of an order."""

    @extend_schema(responses=PacketAnswer, operation_id="packet_show")
    def get(self, request: Request, order: int) -> Response:
        """Show what the newest packet holds."""
        return answer(_packet_answer(get_object_or_404(Order, pk=order)))

    @extend_schema(request=None, responses={202: PacketAnswer}, operation_id="packet_start")
    def post(self, request: Request, order: int) -> Response:
        """Pack the newest programs and what goes with them."""
        known = get_object_or_404(Order, pk=order)
        packing.start_packing(known)
        return answer(_packet_answer(known), 202)


def _packet_answer(order: Order) -> PacketAnswer:
    packet: Packet | None = order.packets.first()
    manifest = packet.manifest if packet and packet.manifest else {"files": []}
    newest = order.cutruns.filter(state=Run.State.DONE).first()
    now = {**_now(order), "cutting paths": str(newest.pk) if newest else ""}
    return PacketAnswer(
        packet=packet.pk if packet and packet.manifest else None,
        run=_run_answer(packet, now) if packet else None,
        size=len(packet.content) if packet and packet.content else 0,
        files=[PacketFile(**f) for f in manifest["files"]],
    )


class PacketFileView(APIView):
    """The packet's zip."""

    @extend_schema(responses=_BINARY, operation_id="packet_file")
    def get(self, request: Request, packet: int) -> HttpResponse:
        """Download the zip."""
        known = get_object_or_404(Packet.objects.select_related("order"), pk=packet)
        if known.content is None:
            raise InputError("the packet is not ready", fix="Wait until it is packed")
        return download(bytes(known.content), f"{known.order.number} packet", "zip",
                        "application/zip")  # fmt: skip
