"""The nest of an order: searching, laying by hand, choosing, releasing, taking its files."""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from typing import Annotated, Any, Literal

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field, RootModel
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.errors import InputError
from kaigata.core.formats.documents import (
    NestedSheetDocument,
    OrderSheetDocument,
    UnplacedDocument,
)
from kaigata.core.formats.nest_files import sheet_dxf, sheet_outline, stock_sheet
from kaigata.core.formats.report import nest_csv, nest_report
from kaigata.core.formats.svg import contour_path, region_path
from kaigata.core.nest import StockSheet
from kaigata.shop.api.answers import BINARY, RunAnswer, answer, download, read, run_answer
from kaigata.shop.models import Material, Nest, NestRun, Order
from kaigata.shop.models import StockSheet as Stock
from kaigata.shop.services import nesting, route_card, stock
from kaigata.shop.services.handwork import lay_by_hand

__all__ = [
    "NestFileView",
    "NestGoOnView",
    "NestReleaseView",
    "NestSheetsView",
    "NestStopView",
    "NestView",
    "sheet_choices",
]

ALTERNATIVES = 8
"""Nests of an order that are shown side by side."""


class NestRules(BaseModel):
    """Rules of a nest, mm, degrees, seconds; ``sheets`` null means all that fit.

    With ``any_turn`` parts may lie at any angle, but for those whose grain matters.
    """

    model_config = ConfigDict(extra="forbid")

    spacing: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] = 6.0
    margin: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] = 12.0
    turns: Annotated[list[Literal[0, 90, 180, 270]], Field(min_length=1)] = [0, 90, 180, 270]
    any_turn: bool = False
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
    """A part as it is drawn about its own 0,0; ``turns`` null means any."""

    id: str
    path: str
    width: float
    height: float
    middle: tuple[float, float]
    quantity: int
    turns: list[float] | None
    may_mirror: bool


class SheetDrawing(BaseModel):
    """A stock sheet as it is drawn."""

    id: str
    path: str
    width: float
    height: float
    thickness: float | None
    material: str | None


class CopyName(RootModel[tuple[str, int]]):
    """A copy of a part."""


class FaultAnswer(BaseModel):
    """A rule that placements made by hand break."""

    sheet: int
    kind: Literal["overlap", "spacing", "margin", "turn", "mirror", "sheet"]
    placements: list[CopyName]
    text: str


class AlternativeAnswer(BaseModel):
    """A nest of the order beside others."""

    run: int
    spacing: float
    turns: list[int]
    utilisation: float
    sheets: int
    left_out: int
    counted_area: float
    cost: float | None
    is_chosen: bool
    is_released: bool


class AlternativeAsk(BaseModel):
    """The search whose nest is chosen."""

    model_config = ConfigDict(extra="forbid")

    run: int


class GoOnAsk(BaseModel):
    """How long to search on, seconds; null for as long as the rules say."""

    model_config = ConfigDict(extra="forbid")

    seconds: Annotated[float, Field(gt=0, le=3600, allow_inf_nan=False)] | None = None


class HandAsk(BaseModel):
    """Sheets as someone laid them, and the copies that stay where they are.

    ``seen`` is the digest of the nest they were laid from: another one is not written over.
    """

    model_config = ConfigDict(extra="forbid")

    seen: str
    sheets: Annotated[list[NestedSheetDocument], Field(max_length=10_000)]
    locked: list[CopyName] = []


class NestAnswer(BaseModel):
    """The nest of an order: rules, choices, the search shown, and its best answer."""

    rules: NestRules
    choices: list[SheetChoice]
    run: RunAnswer | None
    history: list[BetterAnswer]
    nest: int | None
    digest: str
    sheets: list[NestedSheetDocument]
    unplaced: list[UnplacedDocument]
    utilisation: float
    spacing: float
    margin: float
    mass: float | None
    cost: float | None
    parts: list[NestPartDrawing]
    stock: list[SheetDrawing]
    locked: list[CopyName]
    faults: list[FaultAnswer]
    alternatives: list[AlternativeAnswer]
    is_released: bool


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

    @extend_schema(request=AlternativeAsk, responses=NestAnswer, operation_id="nest_choose")
    def patch(self, request: Request, order: int) -> Response:
        """Choose one of the order's nests."""
        known = get_object_or_404(Order, pk=order)
        run = get_object_or_404(known.nestruns, pk=read(AlternativeAsk, request).run)
        nesting.choose_run(known, run)
        return answer(_nest_answer(known))


class NestGoOnView(APIView):
    """Going on from the nest that is shown."""

    @extend_schema(request=GoOnAsk, responses={202: NestAnswer}, operation_id="nest_go_on")
    def post(self, request: Request, order: int) -> Response:
        """Search on from the nest shown: what is locked stays, what lies nowhere is placed."""
        known = get_object_or_404(Order, pk=order)
        nesting.go_on(known, read(GoOnAsk, request).seconds)
        return answer(_nest_answer(known), 202)


class NestSheetsView(APIView):
    """The sheets of a nest, laid by hand."""

    @extend_schema(request=HandAsk, responses=NestAnswer, operation_id="nest_lay")
    def put(self, request: Request, nest: int) -> Response:
        """Keep sheets as someone laid them; what breaks a rule is marked."""
        kept = get_object_or_404(Nest.objects.select_related("run__order"), pk=nest)
        asked = read(HandAsk, request)
        lay_by_hand(kept, asked.sheets, [c.root for c in asked.locked], seen=asked.seen)
        return answer(_nest_answer(Order.objects.get(pk=kept.run.order_id)))


class NestReleaseView(APIView):
    """Releasing a nest: its sheets leave the stock."""

    @extend_schema(request=None, responses=NestAnswer, operation_id="nest_release")
    def post(self, request: Request, nest: int) -> Response:
        """Take the sheets off stock and put the remnants there."""
        kept = get_object_or_404(Nest.objects.select_related("run__order"), pk=nest)
        stock.release(kept)
        return answer(_nest_answer(kept.run.order))

    @extend_schema(request=None, responses=NestAnswer, operation_id="nest_withdraw")
    def delete(self, request: Request, nest: int) -> Response:
        """Put the sheets back and take the remnants away again."""
        kept = get_object_or_404(Nest.objects.select_related("run__order"), pk=nest)
        stock.withdraw(kept)
        return answer(_nest_answer(kept.run.order))


class NestStopView(APIView):
    """Stopping a search."""

    @extend_schema(request=None, responses=NestAnswer, operation_id="nest_stop")
    def post(self, request: Request, order: int) -> Response:
        """Stop the search; its best answer stays."""
        known = get_object_or_404(Order, pk=order)
        nesting.stop_nesting(known)
        return answer(_nest_answer(known))


def _nest_answer(order: Order) -> NestAnswer:
    run = nesting.current_run(order)
    kept: Nest | None = getattr(run, "nest", None) if run else None
    empty: dict[str, Any] = {"nest": None, "digest": "", "sheets": [], "unplaced": [],
                             "utilisation": 0.0, "mass": None, "cost": None, "parts": [],
                             "stock": [], "spacing": 0.0, "margin": 0.0, "locked": [], "faults": [],
                             "is_released": False}  # fmt: skip
    return NestAnswer(
        rules=NestRules.model_validate(nesting.rules_of(order)),
        choices=sheet_choices(order),
        run=run_answer(run, route_card.nest_inputs(order)) if run else None,
        history=[BetterAnswer(**h) for h in run.history] if run else [],
        alternatives=_alternatives(order, run),
        **(_nest_drawing(kept) if kept else empty),
    )


def _alternatives(order: Order, shown: NestRun | None) -> list[AlternativeAnswer]:
    """Return the newest nests of an order, the newest first."""
    nests = Nest.objects.filter(run__order=order).select_related("run", "release")
    found = []
    for kept in nests.order_by("-run_id")[:ALTERNATIVES]:
        rules = kept.run.settings["order"]
        sheets = [stock_sheet(OrderSheetDocument.model_validate(s)) for s in rules["sheets"]]
        known = {s.id: s for s in sheets}
        turns = {t for p in rules["parts"] if p["turns"] != "any" for t in p["turns"]}
        fillers = {p["id"] for p in rules["parts"] if p.get("filler")}
        found.append(
            AlternativeAnswer(
                run=kept.run_id,
                spacing=rules["spacing"],
                turns=sorted(int(t) for t in turns),
                utilisation=kept.document["utilisation"],
                sheets=len(kept.document["sheets"]),
                left_out=sum(
                    u["quantity"] for u in kept.document["unplaced"] if u["part"] not in fillers
                ),
                counted_area=kept.counted_area,
                cost=_mass_and_cost([known[s["sheet"]] for s in kept.document["sheets"]])[1],
                is_chosen=shown is not None and kept.run_id == shown.pk,
                is_released=hasattr(kept, "release"),
            )
        )
    return found


def sheet_choices(order: Order) -> list[SheetChoice]:
    """Return the stock sheets of the gauges an order's parts have."""
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
    known = {s.id: s for s in order.sheets}
    mass, cost = _mass_and_cost([known[s.sheet] for s in nest.sheets])
    document = kept.document
    parts = []
    for p in order.parts:
        x0, y0, x1, y1 = p.region.outer.bounds
        parts.append(
            NestPartDrawing(
                id=p.id,
                path=region_path(p.region),
                width=x1 - x0,
                height=y1 - y0,
                middle=((x0 + x1) / 2, (y0 + y1) / 2),
                quantity=p.quantity,
                turns=None if p.turns is None else [round(math.degrees(t), 6) for t in p.turns],
                may_mirror=p.may_mirror,
            )
        )
    sheets = [
        SheetDrawing(
            id=s.id,
            path=contour_path(sheet_outline(s)),
            width=s.width,
            height=s.height,
            thickness=s.thickness,
            material=s.material,
        )
        for s in order.sheets
    ]
    return {
        "nest": kept.pk,
        "digest": kept.digest,
        "sheets": [NestedSheetDocument.model_validate(s) for s in document["sheets"]],
        "unplaced": [UnplacedDocument.model_validate(u) for u in document["unplaced"]],
        "utilisation": document["utilisation"],
        "spacing": order.spacing,
        "margin": order.margin,
        "mass": mass,
        "cost": cost,
        "parts": parts,
        "stock": sheets,
        "locked": [CopyName(tuple(c)) for c in kept.locked],
        "faults": [FaultAnswer.model_validate(f) for f in kept.faults],
        "is_released": hasattr(kept, "release"),
    }


def _mass_and_cost(used: Sequence[StockSheet]) -> tuple[float | None, float | None]:
    """Return the mass of the sheets used, kg, and what they cost: their own cost, else by mass."""
    materials = {m.name: m for m in Material.objects.all()}
    masses, cost = 0.0, 0.0
    for sheet in used:
        metal = materials.get(sheet.material or "")
        if metal is None or not sheet.thickness:
            return None, None
        mass = sheet.area * sheet.thickness * metal.density / 1e9
        masses += mass
        cost += mass * metal.price if sheet.cost is None else sheet.cost
    return masses, cost


class NestFileView(APIView):
    """Files of a nest."""

    @extend_schema(responses=BINARY, operation_id="nest_file")
    def get(self, request: Request, nest: int, name: str) -> HttpResponse:
        """Download nest.json, report.html, parts.csv or a sheet's DXF (sheet-N.dxf)."""
        kept = get_object_or_404(Nest.objects.select_related("run__order"), pk=nest)
        document, order, found = nesting.open_nest(kept)
        if name == "nest.json":
            text = json.dumps(kept.document, indent=1)
            return download(text, "nest", "json", "application/json")
        if name == "parts.csv":
            return download(nest_csv(order, found), "parts", "csv", "text/csv; charset=utf-8")
        if name == "report.html":
            report = nest_report(order, found, title=document.name)
            return download(report, "report", "html", "text/html")
        sheet = next((s for s in found.sheets if f"sheet-{s.number}.dxf" == name), None)
        if sheet is None:
            raise InputError(
                f"the nest has no file {name}",
                fix="Ask for report.html, parts.csv, nest.json or a sheet",
            )
        text = sheet_dxf(order, sheet).text()
        return download(text, name.removesuffix(".dxf"), "dxf", "application/dxf")
