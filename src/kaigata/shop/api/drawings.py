"""Drawings of blanks over HTTP: they open in the browser, which prints or keeps them."""

from __future__ import annotations

from typing import Literal

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.views import APIView

from kaigata.core.formats.whole import file_name
from kaigata.core.markup import PAPERS
from kaigata.shop.api.parts import ready_blank
from kaigata.shop.models import Blank
from kaigata.shop.services.drawings import UNITS, drawing_of, template_of

__all__ = ["DrawingView", "TemplateView"]

_ASKED = [
    OpenApiParameter("paper", str, enum=list(PAPERS), description="A fitting one unless given."),
    OpenApiParameter("units", str, enum=list(UNITS), description="Millimetres unless given."),
]
_PDF = {(200, "application/pdf"): OpenApiTypes.BINARY}


class _Asked(BaseModel):
    """What a drawing is made for."""

    paper: Literal["", *PAPERS] = ""
    units: Literal["mm", "in"] = "mm"


class DrawingView(APIView):
    """The drawing of a blank."""

    @extend_schema(parameters=_ASKED, responses=_PDF, operation_id="blank_drawing")
    def get(self, request: Request, part: int) -> HttpResponse:
        """Show a blank's drawing as PDF."""
        asked, blank = _Asked.model_validate(request.query_params.dict()), ready_blank(part)
        pdf = drawing_of(blank, paper=asked.paper, units=asked.units)
        return _shown(pdf, blank, "")


class TemplateView(APIView):
    """The flat of a blank at 1:1, over as many pages of a printer as it takes."""

    @extend_schema(parameters=_ASKED, responses=_PDF, operation_id="blank_template")
    def get(self, request: Request, part: int) -> HttpResponse:
        """Show a blank's flat at 1:1 as PDF."""
        asked, blank = _Asked.model_validate(request.query_params.dict()), ready_blank(part)
        pdf = template_of(blank, paper=asked.paper, units=asked.units)
        return _shown(pdf, blank, " 1 to 1")


def _shown(pdf: bytes, blank: Blank, addition: str) -> HttpResponse:
    response = HttpResponse(pdf, content_type="application/pdf")
    name = f"{file_name(blank.part.name)}{addition}.pdf"
    response["Content-Disposition"] = f'inline; filename="{name}"'
    return response
