"""Drawings of blanks over HTTP: they open in the browser, which prints or keeps them."""

from __future__ import annotations

from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.formats.blank_files import blank_of_document
from kaigata.core.formats.drawing_files import SHEETS
from kaigata.core.formats.page_svg import page_svg
from kaigata.core.markup import ChosenSizes, Markup, MovedNote, features
from kaigata.core.markup.chosen import PlaceKind
from kaigata.core.markup.lettering import Entries, Number, OwnField, Remarks
from kaigata.shop.api.answers import BINARY, answer, read
from kaigata.shop.api.parts import ready_blank
from kaigata.shop.api.sheets import ASKED, PDF, DrawingAsk, sheet_file, shown
from kaigata.shop.models import Blank
from kaigata.shop.services.blanks import document_of
from kaigata.shop.services.drawings import (
    change_markup,
    drawing_of,
    drawing_pdf_of,
    drawing_state,
    lettering,
    markup_of,
    template_of,
)

__all__ = [
    "DrawingView",
    "SheetFileView",
    "SheetsView",
    "TemplateView",
]


class DrawingView(APIView):
    """The drawing of a blank."""

    @extend_schema(parameters=ASKED, responses=PDF, operation_id="blank_drawing")
    def get(self, request: Request, part: int) -> HttpResponse:
        """Show a blank's drawing as PDF."""
        asked, blank = DrawingAsk.model_validate(request.query_params.dict()), ready_blank(part)
        pdf = drawing_pdf_of(blank, paper=asked.paper, units=asked.units)
        return shown(pdf, blank.part.name, "")


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
    that meet the part no more and are not drawn. ``own_fields`` are those that the shop has in its
    title blocks.
    """

    pages: list[PageView]
    scale: float
    notes: list[NoteAt]
    places: list[PlaceAt]
    lost_sizes: list[int]
    own_fields: list[OwnField]
    markup: Markup
    seen: str


class MarkupAsk(BaseModel):
    """What to change about what is added to a drawing.

    A moved note of null is laid back; ``sizes`` take the place of all that were chosen, and
    ``fields`` of all that the shop's own fields said.
    """

    model_config = ConfigDict(extra="forbid")

    seen: str
    number: Number | None = None
    remarks: Remarks | None = None
    moved: dict[int, MovedNote | None] = {}
    sizes: ChosenSizes | None = None
    fields: Entries | None = None


class SheetsView(APIView):
    """The sheets of a blank's drawing on the screen, and what is added to them by hand."""

    @extend_schema(parameters=ASKED, responses=SheetsAnswer, operation_id="sheets_show")
    def get(self, request: Request, part: int) -> Response:
        """Show a blank's drawing as SVG."""
        return answer(_sheets(ready_blank(part), request))

    @extend_schema(
        parameters=ASKED, request=MarkupAsk, responses=SheetsAnswer, operation_id="markup_change"
    )
    def patch(self, request: Request, part: int) -> Response:
        """Change what is added to a drawing by hand."""
        ask = read(MarkupAsk, request)
        values = ask.model_dump(include={"number", "remarks", "fields"}, exclude_none=True)
        change_markup(ready_blank(part), values, ask.moved, ask.sizes, seen=ask.seen)
        return answer(_sheets(ready_blank(part), request))


def _sheets(blank: Blank, request: Request) -> SheetsAnswer:
    asked = DrawingAsk.model_validate(request.query_params.dict())
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
        own_fields=list(lettering().fields),
        markup=markup,
        seen=drawing_state(blank),
    )


class SheetFileView(APIView):
    """One sheet of a blank's drawing as a file."""

    @extend_schema(parameters=ASKED, responses=BINARY, operation_id="sheet_download")
    def get(self, request: Request, part: int, sheet: int, kind: str) -> HttpResponse:
        """Download a sheet as SVG or DXF, a unit a millimetre of paper."""
        asked, blank = DrawingAsk.model_validate(request.query_params.dict()), ready_blank(part)
        pages = drawing_of(blank, paper=asked.paper, units=asked.units).pages
        return sheet_file(pages, blank.part.name, sheet, kind, lambda page, k: SHEETS[k](page))


class TemplateView(APIView):
    """The flat of a blank at 1:1, over as many pages of a printer as it takes."""

    @extend_schema(parameters=ASKED, responses=PDF, operation_id="blank_template")
    def get(self, request: Request, part: int) -> HttpResponse:
        """Show a blank's flat at 1:1 as PDF."""
        asked, blank = DrawingAsk.model_validate(request.query_params.dict()), ready_blank(part)
        pdf = template_of(blank, paper=asked.paper, units=asked.units)
        return shown(pdf, blank.part.name, " 1 to 1")
