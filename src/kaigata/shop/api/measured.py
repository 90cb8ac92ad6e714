"""Measurements from the floor over HTTP: what they propose, and taking it into a chart."""

from __future__ import annotations

import math
from dataclasses import asdict
from typing import Annotated

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response

from kaigata.core.metal.measured import Estimate, MeasuredBend, MeasuredSize, kerf_from_sizes
from kaigata.shop.api.answers import answer, read
from kaigata.shop.api.stores import PointView, ShopDataView, StoresAnswer, stores_answer
from kaigata.shop.models import CutRow, Gauge
from kaigata.shop.services.measured import chart_points, propose_k, take_kerf

__all__ = ["MeasuredBendsView", "MeasuredKerfView", "MeasuredSizesView"]

Length = Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)]
_MOST = 200


class SizeAsk(BaseModel):
    """A size of a cut part, mm."""

    model_config = ConfigDict(extra="forbid")

    nominal: Length
    measured: Length
    is_hole: bool = False


class SizesAsk(BaseModel):
    """Sizes of parts that were cut by a row of the cut chart, and with which kerf, mm."""

    model_config = ConfigDict(extra="forbid")

    kerf: Length
    sizes: Annotated[list[SizeAsk], Field(min_length=1, max_length=_MOST)]

    def measured(self) -> list[MeasuredSize]:
        """Return them as the core takes them."""
        return [MeasuredSize(**s.model_dump()) for s in self.sizes]


class BendAsk(BaseModel):
    """A bent coupon; mm, degrees."""

    model_config = ConfigDict(extra="forbid")

    flat: Length
    first: Length
    second: Length
    angle: Annotated[float, Field(gt=0, le=180)]
    radius: Annotated[float, Field(ge=0, le=1000)]


class BendsAsk(BaseModel):
    """Coupons bent of a gauge."""

    model_config = ConfigDict(extra="forbid")

    bends: Annotated[list[BendAsk], Field(min_length=1, max_length=_MOST)]


class EstimateAnswer(BaseModel):
    """What measurements come to: mean, standard deviation, each alone, and those far off."""

    value: float
    spread: float
    each: list[float]
    odd: list[int]


class ChangedAnswer(BaseModel):
    """A part's blank as it is and as it would be, mm."""

    name: str
    order: str
    before: tuple[float, float]
    after: tuple[float, float]


class BendsAnswer(BaseModel):
    """The K that coupons tell of, as rows of the gauge's chart, and what it would change."""

    k: EstimateAnswer
    points: list[PointView]
    changed: list[ChangedAnswer]


class MeasuredBendsView(ShopDataView):
    """Coupons bent of a gauge."""

    changes = False

    @extend_schema(request=BendsAsk, responses=BendsAnswer, operation_id="bends_measured")
    def post(self, request: Request, gauge: int) -> Response:
        """Work out K from measured bends."""
        known = get_object_or_404(Gauge.objects.select_related("material"), pk=gauge)
        bends = [
            MeasuredBend(
                flat=b.flat, first=b.first, second=b.second,
                angle=math.radians(b.angle), inside_radius=b.radius,
            )
            for b in read(BendsAsk, request).bends
        ]  # fmt: skip
        found, changed = propose_k(known, bends)
        rows = [
            ChangedAnswer(name=c.name, order=c.order, before=c.before, after=c.after)
            for c in changed
        ]
        points = [
            PointView(**{**asdict(p), "angle": round(math.degrees(p.angle), 6)})
            for p in chart_points(known, bends, found)
        ]
        return answer(BendsAnswer(k=_estimate(found), points=points, changed=rows))


class MeasuredSizesView(ShopDataView):
    """Sizes of parts cut by a row of the cut chart."""

    changes = False

    @extend_schema(request=SizesAsk, responses=EstimateAnswer, operation_id="sizes_measured")
    def post(self, request: Request, row: int) -> Response:
        """Work out the kerf from measured sizes."""
        get_object_or_404(CutRow, pk=row)
        asked = read(SizesAsk, request)
        return answer(_estimate(kerf_from_sizes(asked.measured(), kerf=asked.kerf)))


class MeasuredKerfView(ShopDataView):
    """The kerf of a row of the cut chart, as measured."""

    @extend_schema(request=SizesAsk, responses=StoresAnswer, operation_id="kerf_take")
    def put(self, request: Request, row: int) -> Response:
        """Take the kerf that measured sizes tell of into the cut chart."""
        known = get_object_or_404(CutRow, pk=row)
        asked = read(SizesAsk, request)
        take_kerf(known, asked.measured(), kerf=asked.kerf)
        return answer(stores_answer(), about=str(known))


def _estimate(found: Estimate) -> EstimateAnswer:
    return EstimateAnswer(
        value=found.value, spread=found.spread, each=list(found.each), odd=list(found.odd)
    )
