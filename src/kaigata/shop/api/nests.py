"""The nest of an order: searching, laying by hand, choosing, releasing, taking its files."""

from __future__ import annotations

import json
from typing import Annotated

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.errors import InputError
from kaigata.core.formats.documents import (
    NestedSheetDocument,
)
from kaigata.core.formats.nest_files import sheet_dxf
from kaigata.core.formats.report import nest_csv, nest_report
from kaigata.shop.api.answers import BINARY, answer, download, read
from kaigata.shop.api.nest_answers import CopyName, NestAnswer, NestRules, nest_answer
from kaigata.shop.models import Nest, Order
from kaigata.shop.services import nesting, stock
from kaigata.shop.services.handwork import lay_by_hand

__all__ = [
    "NestFileView",
    "NestGoOnView",
    "NestReleaseView",
    "NestSheetsView",
    "NestStopView",
    "NestView",
]


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


class NestView(APIView):
    """The nest of an order."""

    @extend_schema(responses=NestAnswer, operation_id="nest_show")
    def get(self, request: Request, order: int) -> Response:
        """Show the newest nest of an order."""
        return answer(nest_answer(get_object_or_404(Order, pk=order)))

    @extend_schema(request=NestRules, responses={202: NestAnswer}, operation_id="nest_start")
    def post(self, request: Request, order: int) -> Response:
        """Search for a nest with these rules."""
        known = get_object_or_404(Order, pk=order)
        known.nest_rules = read(NestRules, request).model_dump()
        known.save(update_fields=["nest_rules"])
        nesting.start_nesting(known)
        return answer(nest_answer(known), 202)

    @extend_schema(request=AlternativeAsk, responses=NestAnswer, operation_id="nest_choose")
    def patch(self, request: Request, order: int) -> Response:
        """Choose one of the order's nests."""
        known = get_object_or_404(Order, pk=order)
        run = get_object_or_404(known.nestruns, pk=read(AlternativeAsk, request).run)
        nesting.choose_run(known, run)
        return answer(nest_answer(known))


class NestGoOnView(APIView):
    """Going on from the nest that is shown."""

    @extend_schema(request=GoOnAsk, responses={202: NestAnswer}, operation_id="nest_go_on")
    def post(self, request: Request, order: int) -> Response:
        """Search on from the nest shown: what is locked stays, what lies nowhere is placed."""
        known = get_object_or_404(Order, pk=order)
        nesting.go_on(known, read(GoOnAsk, request).seconds)
        return answer(nest_answer(known), 202)


class NestSheetsView(APIView):
    """The sheets of a nest, laid by hand."""

    @extend_schema(request=HandAsk, responses=NestAnswer, operation_id="nest_lay")
    def put(self, request: Request, nest: int) -> Response:
        """Keep sheets as someone laid them; what breaks a rule is marked."""
        kept = get_object_or_404(Nest.objects.select_related("run__order"), pk=nest)
        asked = read(HandAsk, request)
        lay_by_hand(kept, asked.sheets, [c.root for c in asked.locked], seen=asked.seen)
        return answer(nest_answer(Order.objects.get(pk=kept.run.order_id)))


class NestReleaseView(APIView):
    """Releasing a nest: its sheets leave the stock."""

    right = "release"

    @extend_schema(request=None, responses=NestAnswer, operation_id="nest_release")
    def post(self, request: Request, nest: int) -> Response:
        """Take the sheets off stock and put the remnants there."""
        kept = get_object_or_404(Nest.objects.select_related("run__order"), pk=nest)
        stock.release(kept)
        return answer(nest_answer(kept.run.order))

    @extend_schema(request=None, responses=NestAnswer, operation_id="nest_withdraw")
    def delete(self, request: Request, nest: int) -> Response:
        """Put the sheets back and take the remnants away again."""
        kept = get_object_or_404(Nest.objects.select_related("run__order"), pk=nest)
        stock.withdraw(kept)
        return answer(nest_answer(kept.run.order))


class NestStopView(APIView):
    """Stopping a search."""

    @extend_schema(request=None, responses=NestAnswer, operation_id="nest_stop")
    def post(self, request: Request, order: int) -> Response:
        """Stop the search; its best answer stays."""
        known = get_object_or_404(Order, pk=order)
        nesting.stop_nesting(known)
        return answer(nest_answer(known))


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
