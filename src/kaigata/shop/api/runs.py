"""Cuts and packets of an order: starting them, following them, taking what they give."""

from __future__ import annotations

from typing import Annotated, Literal

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.errors import InputError
from kaigata.core.formats.cut_files import path_dxf
from kaigata.core.formats.documents import CutSheetDocument, FindingDocument
from kaigata.shop.api.answers import BINARY, RunAnswer, answer, download, read, run_answer
from kaigata.shop.api.nests import sheet_choices
from kaigata.shop.models import CutRun, Order, Packet, Program, Run
from kaigata.shop.services import cutting, nesting, packing, route_card
from kaigata.shop.services.digests import digest

__all__ = ["CutView", "PacketFileView", "PacketView", "ProgramFileView"]


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
    end: tuple[float, float]
    path: str
    lead: str
    seconds: tuple[float, float, float]
    length: float


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
    gauges = {(c.material, round(c.thickness, 3)) for c in sheet_choices(order)}
    rows = cutting.cut_chart()
    return CutAnswer(
        choice=CutChoice.model_validate(order.cut_choice or {}),
        chart=[
            ChartRowAnswer(**{f: getattr(r, f) for f in ChartRowAnswer.model_fields})
            for r in rows
            if any(round(r.thickness, 3) == t and r.material in ("*", m) for m, t in gauges)
        ],
        run=run_answer(run, _now(order)) if run else None,
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
    newest = nesting.current_run(order)
    return {
        **route_card.nest_inputs(order),
        "nest": newest.nest.digest if newest and hasattr(newest, "nest") else "",
        "cut settings": digest(order.cut_choice),
    }


class ProgramFileView(APIView):
    """Files of a program."""

    @extend_schema(responses=BINARY, operation_id="program_file")
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
        run=run_answer(packet, now) if packet else None,
        size=len(packet.content) if packet and packet.content else 0,
        files=[PacketFile(**f) for f in manifest["files"]],
    )


class PacketFileView(APIView):
    """The packet's zip."""

    @extend_schema(responses=BINARY, operation_id="packet_file")
    def get(self, request: Request, packet: int) -> HttpResponse:
        """Download the zip."""
        known = get_object_or_404(Packet.objects.select_related("order"), pk=packet)
        if known.content is None:
            raise InputError("the packet is not ready", fix="Wait until it is packed")
        return download(bytes(known.content), f"{known.order.number} packet", "zip",
                        "application/zip")  # fmt: skip
