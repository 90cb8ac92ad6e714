"""Stores over HTTP: materials with gauges, cut charts, stock, machines."""

from __future__ import annotations

from typing import Annotated

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.shop.api.answers import answer, read
from kaigata.shop.models import CutRow, Gauge, Machine, Material, Part, StockSheet
from kaigata.shop.services.blanks import unfold_part

__all__ = ["GaugeView", "SheetView", "StoresView"]


class GaugeAnswer(BaseModel):
    """A thickness with its bend chart's K."""

    id: int
    thickness: float
    k: float
    origin: str


class MaterialAnswer(BaseModel):
    """A material with its gauges."""

    name: str
    title: str
    density: float
    price: float
    gauges: list[GaugeAnswer]


class CutRowAnswer(BaseModel):
    """A row of the cut chart."""

    id: int
    process: str
    material: str
    thickness: float
    kerf: float
    feed: float
    pierce_seconds: float
    lead_in: float
    rapid: float


class SheetAnswer(BaseModel):
    """A stock sheet or remnant."""

    id: int
    name: str
    material: str
    thickness: float
    width: float
    height: float
    is_remnant: bool
    count: int


class MachineAnswer(BaseModel):
    """A cutting machine."""

    name: str
    process: str
    post: str
    width: float
    height: float


class StoresAnswer(BaseModel):
    """All shop data."""

    materials: list[MaterialAnswer]
    cut_rows: list[CutRowAnswer]
    sheets: list[SheetAnswer]
    machines: list[MachineAnswer]


class GaugeAsk(BaseModel):
    """A gauge's K."""

    model_config = ConfigDict(extra="forbid")

    k: Annotated[float, Field(ge=0, le=1)]


class SheetAsk(BaseModel):
    """How many of a sheet there are."""

    model_config = ConfigDict(extra="forbid")

    count: Annotated[int, Field(ge=0, le=100_000)]


def _stores() -> StoresAnswer:
    return StoresAnswer(
        materials=[
            MaterialAnswer(
                name=m.name,
                title=m.title,
                density=m.density,
                price=m.price,
                gauges=[
                    GaugeAnswer(id=g.pk, thickness=g.thickness, k=g.k, origin=g.origin)
                    for g in m.gauges.all()
                ],
            )
            for m in Material.objects.prefetch_related("gauges")
        ],
        cut_rows=[
            CutRowAnswer(
                id=r.pk,
                material=r.material.name if r.material else "every",
                **{f: getattr(r, f) for f in ("process", "thickness", "kerf", "feed",
                                              "pierce_seconds", "lead_in", "rapid")},
            )
            for r in CutRow.objects.select_related("material")
        ],
        sheets=[
            SheetAnswer(
                id=s.pk,
                material=s.material.name,
                is_remnant=s.outline is not None,
                **{f: getattr(s, f) for f in ("name", "thickness", "width", "height", "count")},
            )
            for s in StockSheet.objects.select_related("material")
        ],
        machines=[
            MachineAnswer(**{f: getattr(m, f) for f in MachineAnswer.model_fields})
            for m in Machine.objects.all()
        ],
    )  # fmt: skip


class StoresView(APIView):
    """All shop data."""

    @extend_schema(responses=StoresAnswer, operation_id="stores_show")
    def get(self, request: Request) -> Response:
        """Show materials, charts, stock and machines."""
        return answer(_stores())


class GaugeView(APIView):
    """A gauge's bend chart."""

    @extend_schema(request=GaugeAsk, responses=StoresAnswer, operation_id="gauge_change")
    def patch(self, request: Request, gauge: int) -> Response:
        """Change a gauge's K; the blanks that rest on it are unfolded again."""
        known = get_object_or_404(Gauge, pk=gauge)
        known.k, known.origin = read(GaugeAsk, request).k, "typed"
        known.save()
        parts = Part.objects.filter(
            state=Part.State.READY,
            line__material=known.material,
            thickness__range=(known.thickness - 1e-3, known.thickness + 1e-3),
        )
        for part in parts.select_related("line__material"):
            unfold_part(part)
        return answer(_stores())


class SheetView(APIView):
    """A stock sheet."""

    @extend_schema(request=SheetAsk, responses=StoresAnswer, operation_id="sheet_change")
    def patch(self, request: Request, sheet: int) -> Response:
        """Change how many of a sheet there are."""
        known = get_object_or_404(StockSheet, pk=sheet)
        known.count = read(SheetAsk, request).count
        known.save()
        return answer(_stores())
