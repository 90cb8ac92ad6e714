"""The racks of orders: the lines, and the files dropped onto them."""

from __future__ import annotations

from typing import Annotated, Literal

from django.core.files.uploadedfile import UploadedFile
from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import region_of_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.core.formats.svg import region_path
from kaigata.core.formats.whole import free_name
from kaigata.shop.api.answers import answer, download, read
from kaigata.shop.models import Material, Order, OrderLine, Part
from kaigata.shop.services import orders
from kaigata.shop.services.archives import put_archive
from kaigata.shop.services.drawn import DRAWN, complete_given
from kaigata.shop.services.reading import put_on_rack
from kaigata.shop.services.results import results_table

__all__ = [
    "ArchivesView",
    "FilesView",
    "LineView",
    "LinesView",
    "RackLine",
    "RackView",
    "ResultsView",
    "SetsView",
    "rack_line",
]


class SetsAsk(BaseModel):
    """How many sets of the file are wanted."""

    model_config = ConfigDict(extra="forbid")

    sets: Annotated[int, Field(ge=1, le=orders.MOST_PIECES)]


class LinesAsk(BaseModel):
    """Lines as CSV: part and quantity; material, priority, filler and mirror where wanted."""

    model_config = ConfigDict(extra="forbid")

    text: Annotated[str, Field(max_length=5_000_000)]
    name: Annotated[str, Field(max_length=200)] = "order.csv"


class DrawnBendView(BaseModel):
    """A bend line of a drawing and what is given of it; degrees, mm.

    ``radius`` null is an inside radius as large as the sheet is thick.
    """

    angle: Annotated[float, Field(gt=0, lt=180)]
    radius: Annotated[float, Field(ge=0, le=1000)] | None
    up: bool


class DrawnView(BaseModel):
    """A drawn flat: its overall size, and a row for each of its bend lines.

    Lengths are in units of its file until ``unit`` (mm a unit) is known.
    """

    width: float
    height: float
    unit: float | None
    bends: list[DrawnBendView]


class RackLine(BaseModel):
    """A part on the rack: its state, and the silhouette of its blank once there is one.

    ``places`` tells in how many places its file has it, 0 where that is not known.
    """

    id: int
    part: int
    name: str
    source: str
    file: str
    quantity: int
    per_set: int
    places: int
    priority: int
    is_filler: bool
    may_mirror: bool
    state: Literal["reading", "asking", "ready", "refused"]
    has_shell: bool
    is_recipe: bool
    drawn: DrawnView | None
    what: str
    where: str
    fix: str
    material: str | None
    material_title: str | None
    thickness: float | None
    width: float | None
    height: float | None
    silhouette: str
    findings: int
    worst: Literal["error", "warning", "note"] | None


class Rack(BaseModel):
    """The parts of an order."""

    lines: list[RackLine]


class LineChange(BaseModel):
    """What can be changed about a line."""

    model_config = ConfigDict(extra="forbid")

    quantity: Annotated[int, Field(ge=1, le=orders.MOST_PIECES)] | None = None
    name: Annotated[str, Field(min_length=1, max_length=120)] | None = None
    material: str | None = None
    priority: Annotated[int, Field(ge=0, le=orders.MOST_PRIORITY)] | None = None
    is_filler: bool | None = None
    may_mirror: bool | None = None


class LinesView(APIView):
    """The lines of an order as a table."""

    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR}, operation_id="lines_download")
    def get(self, request: Request, order: int) -> HttpResponse:
        """Download what is wanted of each part, how it is nested, its thickness and file."""
        known = get_object_or_404(Order, pk=order)
        return download(
            orders.lines_table(known), f"{known.number}-parts", "csv", "text/csv; charset=utf-8"
        )

    @extend_schema(request=LinesAsk, responses=Rack, operation_id="lines_put")
    def put(self, request: Request, order: int) -> Response:
        """Take what is wanted of each part in: all or, when a line is wrong, nothing."""
        known = get_object_or_404(Order, pk=order)
        asked = read(LinesAsk, request)
        orders.take_lines(known, asked.text, asked.name)
        return answer(_rack(known))


class ResultsView(APIView):
    """How reading the files of an order went."""

    @extend_schema(responses={(200, "text/csv"): OpenApiTypes.STR}, operation_id="results_download")
    def get(self, request: Request, order: int) -> HttpResponse:
        """Download a row for each part: done, done with findings, or failed and why."""
        known = get_object_or_404(Order, pk=order)
        table = results_table(known)
        return download(table, f"{known.number}-results", "csv", "text/csv; charset=utf-8")


class RackView(APIView):
    """The parts of an order."""

    @extend_schema(responses=Rack, operation_id="rack_show")
    def get(self, request: Request, order: int) -> Response:
        """List the parts of an order with their silhouettes."""
        return answer(_rack(get_object_or_404(Order, pk=order)))


def _rack(order: Order) -> Rack:
    return Rack(lines=[rack_line(line) for line in order.lines.with_blanks()])


def rack_line(line: OrderLine) -> RackLine:
    """Return a line as the rack shows it."""
    part = line.part
    blank = None
    if part.state == Part.State.READY:
        blank = BlankDocument.model_validate(part.blank.document)
    levels = [f.level for f in blank.findings] if blank else []
    return RackLine(
        id=line.pk,
        part=part.pk,
        name=part.name,
        source=part.source.name,
        file=part.source_id,
        quantity=line.quantity,
        places=len(part.places),
        per_set=line.per_set,
        priority=line.priority,
        is_filler=line.is_filler,
        may_mirror=line.may_mirror,
        state=part.state,
        has_shell=part.state == Part.State.REFUSED and part.shell is not None,
        is_recipe=part.source.is_recipe,
        drawn=_drawn(part),
        what=part.what,
        where=part.where,
        fix=part.fix,
        material=line.material.name if line.material else None,
        material_title=line.material.title if line.material else None,
        thickness=part.thickness,
        width=blank.width if blank else None,
        height=blank.height if blank else None,
        silhouette=region_path(region_of_document(blank)) if blank else "",
        findings=len(levels),
        worst=next((v for v in ("error", "warning", "note") if v in levels), None),
    )


def _drawn(part: Part) -> DrawnView | None:
    if part.drawn is None:
        return None
    flat = DRAWN.validate_python(part.drawn)
    x0, y0, x1, y1 = flat.region.outer.bounds
    return DrawnView(
        width=x1 - x0,
        height=y1 - y0,
        unit=part.given.get("unit"),
        bends=[DrawnBendView(**row) for row in complete_given(flat, part.given)],
    )


_UPLOAD = {
    "multipart/form-data": {
        "type": "object",
        "properties": {"file": {"type": "string", "format": "binary"}},
        "required": ["file"],
    }
}


def _uploaded(request: Request) -> UploadedFile:
    """Return the file that came with a request."""
    file = request.FILES.get("file")
    if file is None:
        raise InputError("no file came with the request", fix="Send it as the field file")
    return file


class FilesView(APIView):
    """Files dropped onto the rack."""

    parser_classes = (MultiPartParser,)

    @extend_schema(request=_UPLOAD, responses={201: RackLine}, operation_id="file_put")
    def post(self, request: Request, order: int) -> Response:
        """Put a file onto the rack; it is read in the background."""
        known = get_object_or_404(Order, pk=order)
        file = _uploaded(request)
        line = put_on_rack(known, file.name, file.read())
        return answer(rack_line(line), 201, about=file.name)


class LeftOutView(BaseModel):
    """A file of a zip that is no part, and why."""

    name: str
    why: str


class ArchiveAnswer(BaseModel):
    """What came onto the rack from a zip, and what did not."""

    lines: list[RackLine]
    left_out: list[LeftOutView]


class ArchivesView(APIView):
    """Zips of many files."""

    parser_classes = (MultiPartParser,)

    @extend_schema(request=_UPLOAD, responses={201: ArchiveAnswer}, operation_id="archive_put")
    def post(self, request: Request, order: int) -> Response:
        """Put every file of a zip onto the rack; they are read in the background."""
        known = get_object_or_404(Order, pk=order)
        file = _uploaded(request)
        lines, left_out = put_archive(known, file.name, file.read())
        return answer(
            ArchiveAnswer(
                lines=[rack_line(line) for line in lines],
                left_out=[LeftOutView(name=o.name, why=o.why) for o in left_out],
            ),
            201,
        )


class LineView(APIView):
    """A line of an order."""

    @extend_schema(request=LineChange, responses=RackLine, operation_id="line_change")
    def patch(self, request: Request, line: int) -> Response:
        """Change quantity, name or material of a line, and how its part may be nested."""
        known = get_object_or_404(OrderLine.objects.with_blanks(), pk=line)
        asked = read(LineChange, request)
        if asked.name is not None:
            _rename(known, asked.name)
        values = asked.model_dump(exclude_none=True, exclude={"name"})
        if "material" in asked.model_fields_set:
            values["material"] = get_object_or_404(Material, name=asked.material)
        orders.change_line(known, **values)
        return answer(rack_line(OrderLine.objects.get(pk=line)))

    @extend_schema(request=None, responses={204: None}, operation_id="line_take_out")
    def delete(self, request: Request, line: int) -> Response:
        """Take a part out of its order."""
        get_object_or_404(OrderLine, pk=line).part.delete()
        return Response(status=204)


class SetsView(APIView):
    """Sets of an assembly."""

    @extend_schema(request=SetsAsk, responses=Rack, operation_id="sets_make")
    def put(self, request: Request, line: int) -> Response:
        """Want so many sets of the file a line came with: each of its parts as often as in one."""
        known = get_object_or_404(OrderLine.objects.light(), pk=line)
        orders.make_sets(known, read(SetsAsk, request).sets)
        return answer(_rack(known.order))


def _rename(line: OrderLine, name: str) -> None:
    others = line.order.lines.exclude(pk=line.pk).values_list("part__name", flat=True)
    if free_name(name, others) != name:
        raise InputError(
            f"the order has a part {name!r} already",
            where=line.part.name,
            fix="Give another name: nests and programs tell parts by it",
        )
    line.part.name = name
    line.part.save(update_fields=["name"])
