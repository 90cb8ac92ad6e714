"""Drawings of assemblies over HTTP: a worker makes them, the page shows how far it is."""

from __future__ import annotations

from operator import getitem

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.shop.api.answers import BINARY, RunAnswer, answer, run_answer
from kaigata.shop.api.sheets import ASKED, PDF, DrawingAsk, sheet_file, shown
from kaigata.shop.models import AssemblyRun, OrderLine
from kaigata.shop.services.assemblies import (
    assembly_inputs,
    assembly_name,
    assembly_runs,
    start_drawing,
)

__all__ = ["AssemblyPdfView", "AssemblySheetView", "AssemblyView"]


class AssemblyAnswer(BaseModel):
    """The drawing of an assembly: the newest run, and the drawing that is there with its sheets.

    While it is drawn anew ``drawing`` is the one of before. Of each sheet there are width and
    height, mm of paper.
    """

    run: RunAnswer | None
    drawing: int | None
    sheets: list[tuple[float, float]]


class AssemblyView(APIView):
    """The drawing of the assembly that a line of an order came in."""

    changes = False
    right = None

    @extend_schema(parameters=ASKED, responses=AssemblyAnswer, operation_id="assembly_show")
    def get(self, request: Request, line: int) -> Response:
        """Show how far an assembly's drawing is."""
        return answer(_answer(_line(line), _settings(request)))

    @extend_schema(
        parameters=ASKED,
        request=None,
        responses={202: AssemblyAnswer},
        operation_id="assembly_draw",
    )
    def post(self, request: Request, line: int) -> Response:
        """Draw an assembly."""
        known, settings = _line(line), _settings(request)
        start_drawing(known, settings)
        return answer(_answer(known, settings), 202)


def _settings(request: Request) -> dict[str, str]:
    return DrawingAsk.model_validate(request.query_params.dict()).model_dump()


def _answer(line: OrderLine, settings: dict[str, str]) -> AssemblyAnswer:
    runs = assembly_runs(line, settings).defer("sheets", "pdf")
    newest = runs.first()
    drawn = runs.filter(state=AssemblyRun.State.DONE).first()
    return AssemblyAnswer(
        run=run_answer(newest, assembly_inputs(line)) if newest else None,
        drawing=drawn.pk if drawn else None,
        sheets=drawn.sizes if drawn else [],
    )


class AssemblyPdfView(APIView):
    """The drawing of an assembly as PDF."""

    @extend_schema(responses=PDF, operation_id="assembly_pdf")
    def get(self, request: Request, drawing: int) -> HttpResponse:
        """Show an assembly's drawing as PDF."""
        known = _drawn(drawing)
        return shown(bytes(known.pdf), assembly_name(known.came_in), " assembly")


class AssemblySheetView(APIView):
    """One sheet of an assembly's drawing as a file."""

    @extend_schema(responses=BINARY, operation_id="assembly_sheet_download")
    def get(self, request: Request, drawing: int, sheet: int, kind: str) -> HttpResponse:
        """Download a sheet as SVG or DXF, a unit a millimetre of paper."""
        known = _drawn(drawing)
        name = f"{assembly_name(known.came_in)} assembly"
        return sheet_file(known.sheets, name, sheet, kind, getitem)


def _drawn(drawing: int) -> AssemblyRun:
    return get_object_or_404(AssemblyRun, pk=drawing, state=AssemblyRun.State.DONE)


def _line(line: int) -> OrderLine:
    return get_object_or_404(OrderLine.objects.light(), pk=line)
