"""Stores over HTTP: materials with gauges and bend charts, limits, cut charts, stock, machines."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.cut import Post
from kaigata.core.formats.documents import ContourRows
from kaigata.core.formats.svg import contour_path
from kaigata.core.markup import Lettering
from kaigata.core.metal.limits import LIMIT_REASONS, Limits
from kaigata.core.metal.tooling import die_opening, force_per_metre, least_flange
from kaigata.shop.api.answers import answer, download, read
from kaigata.shop.models import (
    CutRow,
    Gauge,
    Machine,
    Material,
    Pressing,
    ShopLimits,
    StockSheet,
)
from kaigata.shop.services import machines, metal_tables, stock
from kaigata.shop.services.charts import chart_of_record, keep_chart
from kaigata.shop.services.drawings import change_lettering, lettering
from kaigata.shop.services.stock import edge_of

__all__ = [
    "GaugeView",
    "LetteringView",
    "LimitsView",
    "PointView",
    "SheetView",
    "SheetsView",
    "ShopDataView",
    "StoresAnswer",
    "StoresView",
    "TableView",
    "stores_answer",
]

Method = Literal["k", "k-by-ratio", "din-6935", "allowance", "deduction"]
Origin = Literal["standard", "supplier", "measured", "typed"]
Size = Annotated[float, Field(ge=0, le=10_000, allow_inf_nan=False)]


class PointView(BaseModel):
    """A row of a bend chart; degrees, mm."""

    model_config = ConfigDict(extra="forbid")

    value: Annotated[float, Field(ge=-1000, le=10_000, allow_inf_nan=False)]
    ratio: Size = 0.0
    angle: Annotated[float, Field(ge=0, le=180)] = 0.0
    radius: Size = 0.0
    origin: Origin = "typed"


class GaugeAnswer(BaseModel):
    """A thickness with its bend chart, and what air bending it to 90 degrees asks for."""

    id: int
    thickness: float
    number: str
    radii: list[float]
    method: Method
    points: list[PointView]
    opening: float
    least_flange: float
    force: float
    parts: int


class MaterialAnswer(BaseModel):
    """A material with its gauges."""

    name: str
    title: str
    density: float
    price: float
    tensile: float
    note: str
    gauges: list[GaugeAnswer]


class LimitAnswer(BaseModel):
    """A threshold of the findings with its reason."""

    name: str
    value: float
    reason: str


class CutRowAnswer(BaseModel):
    """A row of the cut chart; see ``CutChartRow`` of the core."""

    id: int
    process: str
    material: str
    thickness: float
    kerf: float
    kerf_origin: str
    feed: float
    pierce_seconds: float
    lead_in: float
    rapid: float
    lead_kind: str
    lead_angle: float
    lead_out: float
    over_cut: float
    smallest_hole: float
    small_holes: str
    corner: str
    joint_width: float
    joint_count: float
    joint_spacing: float
    hourly_rate: float


class StockAnswer(BaseModel):
    """A stock sheet or remnant."""

    id: int
    name: str
    material: str
    thickness: float
    width: float
    height: float
    is_remnant: bool
    count: int
    grain: float
    cost: float | None
    path: str


class MachineAnswer(BaseModel):
    """A cutting machine."""

    id: int
    name: str
    process: str
    post: str
    width: float
    height: float


class PressingAnswer(BaseModel):
    """What is pressed ``in`` or ``out`` of the sheet: its hole, and the room it needs, mm."""

    id: int
    name: str
    kind: Literal["in", "out"]
    hole: float | None
    clear: float


class PostAnswer(BaseModel):
    """A post, and whether it is as it came, changed, or the shop's own."""

    post: Post
    origin: Literal["standard", "changed", "own"]


class StoresAnswer(BaseModel):
    """All shop data."""

    materials: list[MaterialAnswer]
    limits: list[LimitAnswer]
    lettering: Lettering
    cut_rows: list[CutRowAnswer]
    sheets: list[StockAnswer]
    machines: list[MachineAnswer]
    posts: list[PostAnswer]
    pressings: list[PressingAnswer]


class GaugeAsk(BaseModel):
    """What to change about a gauge."""

    model_config = ConfigDict(extra="forbid")

    number: Annotated[str, Field(max_length=10)] | None = None
    radii: Annotated[list[Annotated[float, Field(ge=0, le=1000)]], Field(max_length=40)] | None = (
        None
    )
    method: Method | None = None
    points: Annotated[list[PointView], Field(max_length=2000)] | None = None


class GaugeCopy(BaseModel):
    """The thickness of a gauge that starts as the copy of another."""

    model_config = ConfigDict(extra="forbid")

    thickness: Annotated[float, Field(gt=0, le=100)]


class LimitsAsk(BaseModel):
    """Thresholds to change, by name."""

    model_config = ConfigDict(extra="forbid")

    values: dict[str, Size]


class TableAsk(BaseModel):
    """A table as CSV."""

    model_config = ConfigDict(extra="forbid")

    text: Annotated[str, Field(max_length=5_000_000)]
    name: Annotated[str, Field(max_length=200)] = "table.csv"


SheetCount = Annotated[int, Field(ge=0, le=100_000)]
Money = Annotated[float, Field(ge=0, le=1e9, allow_inf_nan=False)]
Length = Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)]


class SheetAsk(BaseModel):
    """How many of a sheet there are, what one costs, and its grain: 0 along x, 90 across."""

    model_config = ConfigDict(extra="forbid")

    count: SheetCount | None = None
    cost: Money | None = None
    grain: Literal[0, 90] | None = None


class NewSheet(BaseModel):
    """A stock sheet to keep, mm; ``outline`` of a remnant, rows x, y and bulge."""

    model_config = ConfigDict(extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=80)]
    material: str
    thickness: Length
    width: Length
    height: Length
    count: SheetCount = 1
    cost: Money | None = None
    grain: Literal[0, 90] = 0
    outline: Annotated[ContourRows, Field(min_length=3, max_length=5000)] | None = None


def _gauge(gauge: Gauge) -> GaugeAnswer:
    opening = die_opening(gauge.thickness)
    return GaugeAnswer(
        id=gauge.pk,
        thickness=gauge.thickness,
        number=gauge.number,
        radii=gauge.radii,
        method=gauge.method,
        points=[PointView(**p) for p in gauge.points],
        opening=opening,
        least_flange=least_flange(opening, math.pi / 2),
        force=force_per_metre(gauge.thickness, opening, gauge.material.tensile),
        parts=metal_tables.parts_of(gauge).count(),
    )


def stores_answer() -> StoresAnswer:
    """Return all shop data as it is now."""
    kept = ShopLimits.objects.first()
    known = {**{n: getattr(Limits(), n) for n in LIMIT_REASONS}, **(kept.values if kept else {})}
    return StoresAnswer(
        materials=[
            MaterialAnswer(
                gauges=[_gauge(g) for g in m.gauges.select_related("material")],
                **{f: getattr(m, f) for f in ("name", "title", "density", "price", "tensile",
                                              "note")},
            )
            for m in Material.objects.all()
        ],
        lettering=lettering(),
        limits=[
            LimitAnswer(name=n, value=known[n], reason=reason)
            for n, reason in LIMIT_REASONS.items()
        ],
        cut_rows=[
            CutRowAnswer(
                id=r.pk,
                material=r.material.name if r.material else "every",
                **{
                    f: getattr(r, f)
                    for f in CutRowAnswer.model_fields
                    if f not in ("id", "material")
                },
            )
            for r in CutRow.objects.select_related("material")
        ],
        sheets=[
            StockAnswer(
                id=s.pk,
                material=s.material.name,
                is_remnant=s.outline is not None,
                path=contour_path(edge_of(s)),
                **{f: getattr(s, f) for f in ("name", "thickness", "width", "height", "count",
                                              "grain", "cost")},
            )
            for s in StockSheet.objects.select_related("material")
        ],
        machines=[
            MachineAnswer(**{f: getattr(m, f) for f in MachineAnswer.model_fields})
            for m in Machine.objects.all()
        ],
        posts=[PostAnswer(post=p, origin=machines.origin_of(p)) for p in machines.known_posts()],
        pressings=[
            PressingAnswer(**{f: getattr(p, f) for f in PressingAnswer.model_fields})
            for p in Pressing.objects.all()
        ],
    )  # fmt: skip


class ShopDataView(APIView):
    """A view whose changes are of shop data."""

    right = "stores"


class StoresView(ShopDataView):
    """All shop data."""

    @extend_schema(responses=StoresAnswer, operation_id="stores_show")
    def get(self, request: Request) -> Response:
        """Show materials, charts, limits, stock and machines."""
        return answer(stores_answer())


class GaugeView(ShopDataView):
    """A gauge and its bend chart."""

    @extend_schema(request=GaugeAsk, responses=StoresAnswer, operation_id="gauge_change")
    def patch(self, request: Request, gauge: int) -> Response:
        """Change a gauge; parts keep the chart they were unfolded with until told otherwise."""
        known = get_object_or_404(Gauge.objects.select_related("material"), pk=gauge)
        asked = read(GaugeAsk, request)
        known.number = known.number if asked.number is None else asked.number
        known.radii = known.radii if asked.radii is None else sorted(set(asked.radii))
        record = {
            "thickness": known.thickness,
            "name": str(known),
            "method": asked.method or known.method,
            "points": known.points
            if asked.points is None
            else [p.model_dump() for p in asked.points],
        }
        keep_chart(known, chart_of_record(record))
        return answer(stores_answer())

    @extend_schema(request=GaugeCopy, responses=StoresAnswer, operation_id="gauge_copy")
    def post(self, request: Request, gauge: int) -> Response:
        """Start a gauge as the copy of another."""
        known = get_object_or_404(Gauge, pk=gauge)
        metal_tables.copy_gauge(known, read(GaugeCopy, request).thickness)
        return answer(stores_answer(), 201)

    @extend_schema(request=None, responses=StoresAnswer, operation_id="gauge_take_out")
    def delete(self, request: Request, gauge: int) -> Response:
        """Take a gauge out that no part uses."""
        metal_tables.take_out(get_object_or_404(Gauge.objects.select_related("material"), pk=gauge))
        return answer(stores_answer())


class LimitsView(ShopDataView):
    """The thresholds of the findings."""

    @extend_schema(request=LimitsAsk, responses=StoresAnswer, operation_id="limits_change")
    def patch(self, request: Request) -> Response:
        """Change thresholds; findings follow when a part is next unfolded."""
        metal_tables.change_limits(read(LimitsAsk, request).values)
        return answer(stores_answer())


class LetteringView(ShopDataView):
    """How drawings are lettered."""

    @extend_schema(request=Lettering, responses=StoresAnswer, operation_id="lettering_change")
    def patch(self, request: Request) -> Response:
        """Letter all drawings another way; what is not said stays."""
        change_lettering(read(Lettering, request))
        return answer(stores_answer())


class TableView(ShopDataView):
    """Materials, stock sheets, and the bend charts of a material, as CSV."""

    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR}, operation_id="table_download")
    def get(self, request: Request, name: str) -> HttpResponse:
        """Download ``materials``, ``stock`` or the bend charts of a material."""
        return download(metal_tables.table(name), name, "csv", "text/csv; charset=utf-8")

    @extend_schema(request=TableAsk, responses=StoresAnswer, operation_id="table_put")
    def put(self, request: Request, name: str) -> Response:
        """Take a table in: all of it or, when a line is wrong, nothing."""
        asked = read(TableAsk, request)
        metal_tables.take_in(name, asked.text, asked.name)
        return answer(stores_answer())


class SheetView(ShopDataView):
    """A stock sheet."""

    @extend_schema(request=SheetAsk, responses=StoresAnswer, operation_id="sheet_change")
    def patch(self, request: Request, sheet: int) -> Response:
        """Change how many of a sheet there are, or what one costs."""
        asked = read(SheetAsk, request).model_dump(exclude_unset=True)
        if not StockSheet.objects.filter(pk=sheet).update(**asked):
            raise Http404
        return answer(stores_answer())

    @extend_schema(request=None, responses=StoresAnswer, operation_id="sheet_take_out")
    def delete(self, request: Request, sheet: int) -> Response:
        """Take a sheet out of Stores."""
        get_object_or_404(StockSheet, pk=sheet).delete()
        return answer(stores_answer())


class SheetsView(ShopDataView):
    """The stock sheets."""

    @extend_schema(request=NewSheet, responses={201: StoresAnswer}, operation_id="sheet_add")
    def post(self, request: Request) -> Response:
        """Keep one more stock sheet or remnant."""
        stock.add_sheet(**read(NewSheet, request).model_dump())
        return answer(stores_answer(), 201)
