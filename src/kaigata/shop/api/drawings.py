"""Drawings of blanks over HTTP: they open in the browser, which prints or keeps them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Literal

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, ConfigDict
from rest_framework.exceptions import NotFound
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.findings import counted
from kaigata.core.formats.blank_files import blank_of_document
from kaigata.core.formats.drawing_files import SHEETS
from kaigata.core.formats.page_svg import page_svg
from kaigata.core.formats.whole import file_name
from kaigata.core.markup import PAPERS, ChosenSizes, Markup, MovedNote, Page, features
from kaigata.core.markup.chosen import PlaceKind
from kaigata.core.markup.lettering import Number, Remarks
from kaigata.shop.api.answers import BINARY, answer, download, read
from kaigata.shop.api.parts import ready_blank
from kaigata.shop.models import Blank, OrderLine
from kaigata.shop.services.assemblies import assembly_drawing, assembly_name, assembly_pdf
from kaigata.shop.services.blanks import document_of
from kaigata.shop.services.drawings import (
    UNITS,
    change_markup,
    drawing_of,
    drawing_pdf_of,
    drawing_state,
    markup_of,
    template_of,
)

__all__ = [
    "AssemblySheetView",
    "AssemblyView",
    "DrawingView",
    "SheetFileView",
    "SheetsView",
    "TemplateView",
]

_ASKED = [
    OpenApiParameter("paper", str, enum=list(PAPERS), description="A fitting one unless given."),
    OpenApiParameter("units", str, enum=list(UNITS), description="Millimetres unless given."),
]
_TYPES = {"svg": "image/svg+xml", "dxf": "application/dxf"}
_PDF = {(200, "application/pdf"): OpenApiTypes.BINARY}


class _Asked(BaseModel):
    """What a drawing is made for."""

    paper: Literal["", *PAPERS] = ""
    units: Literal[*UNITS] = "mm"


class DrawingView(APIView):
    """The drawing of a blank."""

    @extend_schema(parameters=_ASKED, responses=_PDF, operation_id="blank_drawing")
    def get(self, request: Request, part: int) -> HttpResponse:
        """Show a blank's drawing as PDF."""
        asked, blank = _Asked.model_validate(request.query_params.dict()), ready_blank(part)
        pdf = drawing_pdf_of(blank, paper=asked.paper, units=asked.units)
        return _shown(pdf, blank.part.name, "")


class NoteAt(BaseModel):
    """Where a bend's note stands on the first page, mm of paper from its lower left corner.

    ``by`` is how far that is from the middle of its bend line, mm of the flat.
    """

    bend: int
    at: tuple[float, float]
    by: tuple[float, float]
    is_moved: bool


class PlaceAt(BaseModel):
    """A place of the flat that sizes may be taken from: mm of the flat, and of the first page."""

    place: tuple[float, float]
    at: tuple[float, float]
    kind: PlaceKind
    radius: float


class PageView(BaseModel):
    """A page of a drawing, as SVG: width and height mm of paper."""

    svg: str
    width: float
    height: float


class SheetsAnswer(BaseModel):
    """A drawing to look at: its pages, the scale of its flat, and what is added by hand.

    Sizes may be taken between ``places``; ``lost_sizes`` are the numbers, from 0, of those chosen
    that meet the part no more and are not drawn.
    """

    pages: list[PageView]
    scale: float
    notes: list[NoteAt]
    places: list[PlaceAt]
    lost_sizes: list[int]
    markup: Markup
    seen: str


class MarkupAsk(BaseModel):
    """What to change about what is added to a drawing.

    A moved note of null is laid back; ``sizes`` take the place of all that were chosen.
    """

    model_config = ConfigDict(extra="forbid")

    seen: str
    number: Number | None = None
    remarks: Remarks | None = None
    moved: dict[int, MovedNote | None] = {}
    sizes: ChosenSizes | None = None


class SheetsView(APIView):
    """The sheets of a blank's drawing on the screen, and what is added to them by hand."""

    @extend_schema(parameters=_ASKED, responses=SheetsAnswer, operation_id="sheets_show")
    def get(self, request: Request, part: int) -> Response:
        """Show a blank's drawing as SVG."""
        return answer(_sheets(ready_blank(part), request))

    @extend_schema(
        parameters=_ASKED, request=MarkupAsk, responses=SheetsAnswer, operation_id="markup_change"
    )
    def patch(self, request: Request, part: int) -> Response:
        """Change what is added to a drawing by hand."""
        ask = read(MarkupAsk, request)
        values = ask.model_dump(include={"number", "remarks"}, exclude_none=True)
        change_markup(ready_blank(part), values, ask.moved, ask.sizes, seen=ask.seen)
        return answer(_sheets(ready_blank(part), request))


def _sheets(blank: Blank, request: Request) -> SheetsAnswer:
    asked = _Asked.model_validate(request.query_params.dict())
    drawing, markup = drawing_of(blank, paper=asked.paper, units=asked.units), markup_of(blank)
    return SheetsAnswer(
        pages=[
            PageView(svg=page_svg(page), width=page.width, height=page.height)
            for page in drawing.pages
        ],
        scale=drawing.flat.scale,
        notes=[
            NoteAt(bend=bend, at=place.at, by=place.by, is_moved=bend in markup.moved)
            for bend, place in sorted(drawing.flat.notes.items())
        ],
        places=[
            PlaceAt(place=f.at, at=drawing.flat.on_paper(f.at), kind=f.kind, radius=f.radius)
            for f in features(blank_of_document(document_of(blank)))
        ],
        lost_sizes=list(drawing.flat.lost),
        markup=markup,
        seen=drawing_state(blank),
    )


class SheetFileView(APIView):
    """One sheet of a blank's drawing as a file."""

    @extend_schema(parameters=_ASKED, responses=BINARY, operation_id="sheet_download")
    def get(self, request: Request, part: int, sheet: int, kind: str) -> HttpResponse:
        """Download a sheet as SVG or DXF, a unit a millimetre of paper."""
        asked, blank = _Asked.model_validate(request.query_params.dict()), ready_blank(part)
        pages = drawing_of(blank, paper=asked.paper, units=asked.units).pages
        return _sheet_file(pages, blank.part.name, sheet, kind)


class TemplateView(APIView):
    """The flat of a blank at 1:1, over as many pages of a printer as it takes."""

    @extend_schema(parameters=_ASKED, responses=_PDF, operation_id="blank_template")
    def get(self, request: Request, part: int) -> HttpResponse:
        """Show a blank's flat at 1:1 as PDF."""
        asked, blank = _Asked.model_validate(request.query_params.dict()), ready_blank(part)
        pdf = template_of(blank, paper=asked.paper, units=asked.units)
        return _shown(pdf, blank.part.name, " 1 to 1")


class AssemblyView(APIView):
    """The drawing of the assembly that a line of an order came in."""

    @extend_schema(parameters=_ASKED, responses=_PDF, operation_id="assembly_drawing")
    def get(self, request: Request, line: int) -> HttpResponse:
        """Show an assembly's drawing as PDF."""
        asked = _Asked.model_validate(request.query_params.dict())
        known = _line(line)
        pdf = assembly_pdf(known, paper=asked.paper, units=asked.units)
        return _shown(pdf, assembly_name(known), " assembly")


class AssemblySheetView(APIView):
    """One sheet of an assembly's drawing as a file."""

    @extend_schema(parameters=_ASKED, responses=BINARY, operation_id="assembly_sheet_download")
    def get(self, request: Request, line: int, sheet: int, kind: str) -> HttpResponse:
        """Download a sheet as SVG or DXF, a unit a millimetre of paper."""
        asked, known = _Asked.model_validate(request.query_params.dict()), _line(line)
        pages = assembly_drawing(known, paper=asked.paper, units=asked.units).pages
        return _sheet_file(pages, f"{assembly_name(known)} assembly", sheet, kind)


def _line(line: int) -> OrderLine:
    lines = OrderLine.objects.select_related("order", "part__source")
    return get_object_or_404(lines.defer("part__source__content"), pk=line)


def _sheet_file(pages: Sequence[Page], name: str, sheet: int, kind: str) -> HttpResponse:
    if kind not in SHEETS or not 1 <= sheet <= len(pages):
        raise NotFound(f"The drawing has {counted(len(pages), 'sheet')}, as svg or dxf")
    return download(SHEETS[kind](pages[sheet - 1]), f"{name} sheet {sheet}", kind, _TYPES[kind])


def _shown(pdf: bytes, title: str, addition: str) -> HttpResponse:
    response = HttpResponse(pdf, content_type="application/pdf")
    name = f"{file_name(title)}{addition}.pdf"
    response["Content-Disposition"] = f'inline; filename="{name}"'
    return response
