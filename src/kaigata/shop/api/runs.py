"""Cuts and packets of an order: starting them, following them, taking what they give."""

from __future__ import annotations

from typing import Annotated, Literal

from django.db import transaction
from django.db.models.functions import Length
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.errors import InputError
from kaigata.core.formats.documents import CutSheetDocument, FindingDocument, MarkingChoice
from kaigata.core.metal.stores import PROCESSES
from kaigata.shop.api.answers import BINARY, RunAnswer, answer, download, read, run_answer
from kaigata.shop.api.nest_answers import sheet_choices
from kaigata.shop.models import CutRun, Order, Packet, Program, Run
from kaigata.shop.services import cut_by_hand, cutting, machines, packing
from kaigata.shop.services.order_inputs import OrderInputs, cut_runs, cut_settings

__all__ = [
    "CutCompareView",
    "CutHandView",
    "CutView",
    "PacketFileView",
    "PacketView",
    "ProgramFileView",
]


PostName = Annotated[str, Field(min_length=1, max_length=40)]
ContourKey = tuple[str, int, str]
Place = Annotated[float, Field(allow_inf_nan=False)]


class CutWishes(BaseModel):
    """How to cut; ``kerf`` null takes the chart's, ``skeleton`` 0 leaves the skeleton whole."""

    model_config = ConfigDict(extra="forbid")

    process: Literal["laser", "plasma", "waterjet"] = "laser"
    kerf: Annotated[float, Field(gt=0, lt=20)] | None = None
    post: PostName = "plain"
    order: Literal["short", "heat"] = "short"
    round_freed: bool = False
    common_cut: bool = False
    marking: MarkingChoice = MarkingChoice()
    skeleton: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    cut_off: bool = False


class PathAsk(BaseModel):
    """What hands settle of a sheet's path: the whole order (or none) and pierces, mm."""

    model_config = ConfigDict(extra="forbid")

    sheet: Annotated[int, Field(ge=1)]
    order: Annotated[list[ContourKey], Field(max_length=100_000)] = []
    pierces: Annotated[list[tuple[str, int, str, Place, Place]], Field(max_length=100_000)] = []


class PathByHand(PathAsk):
    """What hands have settled of a sheet's path."""


class PassDrawing(BaseModel):
    """A run of the tool as it is drawn; one that goes on belongs to the contour before it."""

    kind: Literal["mark", "cut", "scrap"]
    goes_on: bool
    part: str
    copy_: Annotated[int, Field(alias="copy")]
    name: str
    way: list[tuple[float, float]]
    pierce: tuple[float, float]
    entry: tuple[float, float]
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


class PostTitle(BaseModel):
    """A post by its name and title."""

    name: str
    title: str


class ChartRowAnswer(BaseModel):
    """What the cut chart says for a gauge."""

    process: str
    material: str
    thickness: float
    kerf: float
    feed: float
    pierce_seconds: float
    lead_in: float


class CutFinding(FindingDocument):
    """A finding about a sheet's path; sheet 0 is about all."""

    sheet: int = 0


class ProcessFigures(BaseModel):
    """What the nest takes by a process: all sheets together, mm and seconds."""

    process: str
    state: str
    what: str
    pierces: int
    cut_length: float
    rapid_length: float
    lead_length: float
    seconds: float
    cost: float
    kerfs: list[float]
    is_shown: bool


class CutAnswer(BaseModel):
    """The cutting of an order: the choice, the newest run by it, figures and paths."""

    choice: CutWishes
    chart: list[ChartRowAnswer]
    posts: list[PostTitle]
    run: RunAnswer | None
    sheets: list[CutSheetDocument]
    findings: list[CutFinding]
    programs: list[ProgramAnswer]
    processes: list[ProcessFigures]
    by_hand: list[PathByHand]
    nest: int | None


class CutView(APIView):
    """The cutting of an order."""

    @extend_schema(responses=CutAnswer, operation_id="cut_show")
    def get(self, request: Request, order: int) -> Response:
        """Show the newest paths of an order."""
        return answer(_cut_answer(get_object_or_404(Order, pk=order)))

    @extend_schema(request=CutWishes, responses={202: CutAnswer}, operation_id="cut_start")
    def post(self, request: Request, order: int) -> Response:
        """Plan paths and programs for the newest nest."""
        known = get_object_or_404(Order, pk=order)
        _choose(known, request)
        cutting.start_cutting(known)
        return answer(_cut_answer(known), 202)

    @extend_schema(request=CutWishes, responses=CutAnswer, operation_id="cut_choose")
    def patch(self, request: Request, order: int) -> Response:
        """Choose how to cut, and show what was planned so, if anything was."""
        known = get_object_or_404(Order, pk=order)
        _choose(known, request)
        return answer(_cut_answer(known))


def _choose(order: Order, request: Request) -> None:
    order.cut_choice = read(CutWishes, request).model_dump()
    order.save(update_fields=["cut_choice"])


class CutHandView(APIView):
    """What hands settle of a path."""

    @extend_schema(request=PathAsk, responses={202: CutAnswer}, operation_id="cut_by_hand")
    def put(self, request: Request, order: int) -> Response:
        """Keep an order of contours and pierces for a sheet, and plan its path by them."""
        known = get_object_or_404(Order, pk=order)
        asked = read(PathAsk, request)
        with transaction.atomic():
            cut_by_hand.keep_by_hand(known, asked.sheet, asked.order, asked.pierces)
            cutting.start_cutting(known)
        return answer(_cut_answer(known), 202)


class CutCompareView(APIView):
    """Comparing processes."""

    @extend_schema(request=None, responses={202: CutAnswer}, operation_id="cut_compare")
    def post(self, request: Request, order: int) -> Response:
        """Plan the paths by the other processes too."""
        known = get_object_or_404(Order, pk=order)
        cutting.compare_processes(known)
        return answer(_cut_answer(known), 202)


def _cut_answer(order: Order) -> CutAnswer:
    settings, rests_on = cut_settings(order), OrderInputs.of(order)
    runs = cut_runs(order, settings)
    run: CutRun | None = runs.first()
    # While paths are planned anew those of before stay in sight.
    shown = run and (runs.filter(nest=run.nest_id, state=Run.State.DONE).first() or run)
    document = shown.document if shown and shown.document else {"sheets": [], "findings": []}
    gauges = {(c.material, round(c.thickness, 3)) for c in sheet_choices(order)}
    programs = list(shown.programs.defer("text", "path_dxf")) if shown else []
    of_sheets = [
        CutFinding(sheet=p.number, **f) for p in programs for f in p.document.get("findings", [])
    ]
    told = {f.text for f in of_sheets}
    return CutAnswer(
        choice=CutWishes.model_validate(order.cut_choice or {}),
        chart=[
            ChartRowAnswer(**{f: getattr(r, f) for f in ChartRowAnswer.model_fields})
            for r in cutting.cut_chart()
            if any(round(r.thickness, 3) == t and r.material in ("*", m) for m, t in gauges)
        ],
        posts=[PostTitle(name=p.name, title=p.title) for p in machines.known_posts()],
        run=_cut_run_answer(run, rests_on, settings) if run else None,
        sheets=[CutSheetDocument.model_validate(s) for s in document["sheets"]],
        findings=[
            *(CutFinding(**f) for f in document["findings"] if f["text"] not in told),
            *of_sheets,
        ],
        programs=[ProgramAnswer(id=p.pk, number=p.number, **p.drawing) for p in programs],
        processes=_processes(order, rests_on),
        by_hand=[
            PathByHand(
                sheet=number,
                order=list(hand.order),
                pierces=[(*key, *at) for key, at in hand.pierces.items()],
            )
            for number, hand in cut_by_hand.hand_of(order).items()
        ],
        nest=shown.nest_id if shown else None,
    )


def _cut_run_answer(run: CutRun, rests_on: OrderInputs, settings: dict[str, object]) -> RunAnswer:
    own = {"cutting paths": str(run.pk)}
    return run_answer(run, {**rests_on.cut(settings), **own})


def _processes(order: Order, rests_on: OrderInputs) -> list[ProcessFigures]:
    """Return the newest figures of each process for the nest and settings of now."""
    found = []
    for process in PROCESSES:
        settings = cut_settings(order, process)
        run = cut_runs(order, settings).first()
        if run is None or _cut_run_answer(run, rests_on, settings).stale:
            continue
        sheets = (run.document or {"sheets": []})["sheets"]
        found.append(
            ProcessFigures(
                process=process,
                state=run.state,
                what=run.what,
                kerfs=sorted({s["kerf"] for s in sheets}),
                is_shown=settings == cut_settings(order),
                pierces=sum(s["pierces"] for s in sheets),
                **{
                    name: sum(s[name] for s in sheets)
                    for name in ("cut_length", "rapid_length", "lead_length", "seconds", "cost")
                },
            )
        )
    return found


class ProgramFileView(APIView):
    """Files of a program."""

    @extend_schema(responses=BINARY, operation_id="program_file")
    def get(self, request: Request, program: int, kind: Literal["nc", "dxf"]) -> HttpResponse:
        """Download a sheet's program, or its path as DXF."""
        known = get_object_or_404(Program, pk=program)
        stem = f"sheet-{known.number}"
        if kind == "nc":
            return download(known.text, stem, "nc", "text/plain")
        if kind == "dxf":
            return download(known.path_dxf, stem, "path.dxf", "application/dxf")
        raise NotFound(f"There is no file of kind {kind}; there are nc and dxf")


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

    right = "release"

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
    # The zip itself stays where it is: the page asks every few seconds.
    packets = order.packets.defer("content").annotate(size=Length("content"))
    packet = packets.first()
    manifest = packet.manifest if packet and packet.manifest else {"files": []}
    settings = cut_settings(order)
    newest = cut_runs(order, settings).filter(state=Run.State.DONE).first()
    now = {
        **OrderInputs.of(order).packet(settings),
        "cutting paths": str(newest.pk) if newest else "",
    }
    return PacketAnswer(
        packet=packet.pk if packet and packet.manifest else None,
        run=run_answer(packet, now) if packet else None,
        size=(packet.size or 0) if packet else 0,
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
