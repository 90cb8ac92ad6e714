"""What drawings of blanks and of assemblies have in common over HTTP: paper, units, files."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Literal, TypeVar

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter
from pydantic import BaseModel
from rest_framework.exceptions import NotFound

from kaigata.core.findings import counted
from kaigata.core.formats.whole import file_name
from kaigata.core.markup import PAPERS
from kaigata.shop.api.answers import download
from kaigata.shop.services.drawings import UNITS

__all__ = ["ASKED", "PDF", "DrawingAsk", "sheet_file", "shown"]

T = TypeVar("T")

ASKED = [
    OpenApiParameter("paper", str, enum=list(PAPERS), description="A fitting one unless given."),
    OpenApiParameter("units", str, enum=list(UNITS), description="Millimetres unless given."),
]
PDF = {(200, "application/pdf"): OpenApiTypes.BINARY}
_TYPES = {"svg": "image/svg+xml", "dxf": "application/dxf"}


class DrawingAsk(BaseModel):
    """What a drawing is made for."""

    paper: Literal["", *PAPERS] = ""
    units: Literal[*UNITS] = "mm"


def sheet_file(
    sheets: Sequence[T], name: str, sheet: int, kind: str, write: Callable[[T, str], str]
) -> HttpResponse:
    """Answer with one sheet of a drawing as a file, or that it has no such sheet."""
    if kind not in _TYPES or not 1 <= sheet <= len(sheets):
        raise NotFound(f"The drawing has {counted(len(sheets), 'sheet')}, as svg or dxf")
    return download(write(sheets[sheet - 1], kind), f"{name} sheet {sheet}", kind, _TYPES[kind])


def shown(pdf: bytes, title: str, addition: str) -> HttpResponse:
    """Answer with a PDF that the browser shows."""
    response = HttpResponse(pdf, content_type="application/pdf")
    name = f"{file_name(title)}{addition}.pdf"
    response["Content-Disposition"] = f'inline; filename="{name}"'
    return response
