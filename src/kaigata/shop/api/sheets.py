"""What drawings of blanks and of assemblies have in common over HTTP: paper, units, files."""

from __future__ import annotations

from typing import Literal

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter
from pydantic import BaseModel

from kaigata.core.findings import counted
from kaigata.core.formats.whole import file_name
from kaigata.core.markup import PAPERS
from kaigata.shop.services.drawings import UNITS

__all__ = ["ASKED", "PDF", "SHEET_TYPES", "DrawingAsk", "no_such_sheet", "shown"]

ASKED = [
    OpenApiParameter("paper", str, enum=list(PAPERS), description="A fitting one unless given."),
    OpenApiParameter("units", str, enum=list(UNITS), description="Millimetres unless given."),
]
PDF = {(200, "application/pdf"): OpenApiTypes.BINARY}
SHEET_TYPES = {"svg": "image/svg+xml", "dxf": "application/dxf"}


class DrawingAsk(BaseModel):
    """What a drawing is made for."""

    paper: Literal["", *PAPERS] = ""
    units: Literal[*UNITS] = "mm"


def no_such_sheet(count: int) -> str:
    """Return what to say where a drawing has not the sheet asked for, or not as that."""
    return f"The drawing has {counted(count, 'sheet')}, as svg or dxf"


def shown(pdf: bytes, title: str, addition: str) -> HttpResponse:
    """Answer with a PDF that the browser shows."""
    response = HttpResponse(pdf, content_type="application/pdf")
    name = f"{file_name(title)}{addition}.pdf"
    response["Content-Disposition"] = f'inline; filename="{name}"'
    return response
