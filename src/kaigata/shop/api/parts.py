"""A part's blank: its figures, its drawing, its folded view and its files."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Literal

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.exceptions import NotFound
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.blank.flat_cutouts import CutoutKind
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import bend_table_csv, blank_dxf, region_of_document
from kaigata.core.formats.documents import (
    BendDocument,
    BendLineMarks,
    BlankDocument,
    FindingDocument,
    MarkDocument,
    PanelDocument,
)
from kaigata.core.formats.svg import contour_path
from kaigata.core.packet.revision import compare_blanks
from kaigata.shop.api.answers import answer, download, read
from kaigata.shop.api.racks import DrawnBendView
from kaigata.shop.models import Blank, Part
from kaigata.shop.services.blanks import (
    BlankChange,
    change_blank,
    chart_has_moved,
    document_of,
    mass_of,
    state_of,
)
from kaigata.shop.services.reading import give_drawn, put_revision
from kaigata.shop.services.solids import solid_of
from kaigata.shop.services.twins import join_twins, twin_of

__all__ = [
    "BlankFileView",
    "BlankView",
    "GivenView",
    "RevisionView",
    "ShellView",
    "TwinView",
    "ready_blank",
]

At = tuple[float, float]
Place = Annotated[float, Field(ge=-100_000, le=100_000, allow_inf_nan=False)]


class HoleView(BaseModel):
    """A hole as it is drawn and gauged: middle, size, and diameter where it is round."""

    path: str
    at: At
    width: float
    height: float
    diameter: float | None


class BendRule(BaseModel):
    """What one bend is given of its own, instead of the model's radius and the chart's K."""

    radius: float | None = None
    k: float | None = None


class CornerRule(BaseModel):
    """A corner treatment of the blank; ``chosen`` are the corners it is for, all when empty.

    Places are those of ``sharp_corners``.
    """

    model_config = ConfigDict(extra="forbid")

    kind: Literal["round", "chamfer"]
    size: Annotated[float, Field(gt=0, le=1000)]
    side: Literal["outside", "inside", "all"] = "outside"
    chosen: list[At] = []


class FlatCutoutView(BaseModel):
    """A cutout that exists only in the flat: its middle on the blank as it lies, mm and degrees.

    ``length`` is over all along its own x, of a hole the diameter; ``width`` across that.
    """

    model_config = ConfigDict(extra="forbid")

    kind: CutoutKind
    at: tuple[Place, Place]
    length: Annotated[float, Field(gt=0, le=10_000)]
    width: Annotated[float, Field(ge=0, le=10_000)] = 0.0
    turn: Annotated[float, Field(ge=-360, le=360)] = 0.0


class SharpCorner(BaseModel):
    """A corner that can be treated: its name among ``chosen``, and where it is on the blank."""

    at: At
    shown: At
    side: Literal["outside", "inside"]


class ChangeView(BaseModel):
    """A difference between this revision of a part and the one before."""

    kind: str
    text: str
    at: At | None


class GivenAsk(BaseModel):
    """What a drawing does not say: mm a unit, thickness in mm, how its bends are made."""

    model_config = ConfigDict(extra="forbid")

    unit: Literal[1.0, 25.4] | None = None
    thickness: Annotated[float, Field(gt=0, le=100)] | None = None
    bends: list[DrawnBendView] | None = None


class ShellAnswer(BaseModel):
    """A refused solid to look at: triangles, mm, and the place it was refused for."""

    triangles: list[float]
    spot: tuple[float, float, float] | None


class BlankAnswer(BaseModel):
    """A blank with everything a drawing of it needs; mm, degrees, kg."""

    part: int
    state: str
    name: str
    order: int
    line: int
    source: str
    quantity: int
    material: str | None
    thickness: float
    width: float
    height: float
    area: float
    cut_length: float
    mass: float | None
    own_k: float | None
    chart_name: str
    chart_method: str
    chart_has_moved: bool
    bend_rules: dict[str, BendRule]
    corners: list[CornerRule]
    sharp_corners: list[SharpCorner]
    line_marks: BendLineMarks
    flat_cutouts: list[FlatCutoutView]
    marks: list[MarkDocument]
    revision: int
    revision_fault: str
    changes: list[ChangeView]
    previous_outer: str | None
    previous_holes: list[str]
    twin: str | None
    anchor: int
    is_turned_over: bool
    turn: float
    grain: Literal["", "along", "across"]
    outer: str
    holes: list[HoleView]
    bends: list[BendDocument]
    panels: list[PanelDocument]
    findings: list[FindingDocument]


class BlankAsk(BaseModel):
    """What to change about how a part is unfolded; ``own_k`` null takes the chart's K again.

    ``seen`` is the state of the blank that was shown: another one is not changed.
    """

    model_config = ConfigDict(extra="forbid")

    seen: str
    own_k: Annotated[float, Field(ge=0, le=1)] | None = None
    anchor: Annotated[int, Field(ge=1)] | None = None
    is_turned_over: bool | None = None
    turn: Annotated[float, Field(ge=-720, le=720)] | None = None
    grain: Literal["", "along", "across"] | None = None
    sequence: list[int] | None = None
    take_chart: bool = False
    bend: int | None = None
    bend_radius: Annotated[float, Field(ge=0, le=5000)] | None = None
    bend_k: Annotated[float, Field(ge=0, le=1)] | None = None
    clear_bend: bool = False
    corners: list[CornerRule] | None = None
    line_marks: BendLineMarks | None = None
    flat_cutouts: Annotated[list[FlatCutoutView], Field(max_length=200)] | None = None


def ready_blank(part: int) -> Blank:
    """Return the blank of a part; refuse one that has none, with its reason."""
    known = get_object_or_404(Part.objects.select_related("line__material", "source"), pk=part)
    if known.state != Part.State.READY:
        raise InputError(
            known.what or f"the part is {known.state}",
            where=known.where or known.name,
            fix=known.fix or "Wait until it is read",
        )
    return known.blank


def _answer(blank: Blank) -> BlankAnswer:
    document, line = document_of(blank), blank.part.line
    region = region_of_document(document)
    before = BlankDocument.model_validate(blank.previous) if blank.previous else None
    old = region_of_document(before) if before else None
    holes = []
    for hole in region.holes:
        x0, y0, x1, y1 = hole.bounds
        holes.append(
            HoleView(
                path=contour_path(hole),
                at=((x0 + x1) / 2, (y0 + y1) / 2),
                width=x1 - x0,
                height=y1 - y0,
                diameter=hole.diameter,
            )
        )
    return BlankAnswer(
        part=blank.part.pk,
        state=state_of(blank),
        name=document.part,
        order=line.order_id,
        line=line.pk,
        source=blank.part.source.name,
        quantity=line.quantity,
        material=line.material.name if line.material else None,
        thickness=document.thickness,
        width=document.width,
        height=document.height,
        area=document.area,
        cut_length=document.cut_length,
        mass=mass_of(blank),
        own_k=blank.own_k,
        chart_name=blank.chart["name"],
        chart_method=blank.chart["method"],
        chart_has_moved=chart_has_moved(blank),
        bend_rules={
            str(b.id): BendRule(**blank.bend_rules[str(b.place)])
            for b in document.bends
            if str(b.place) in blank.bend_rules
        },
        corners=[CornerRule(**c) for c in blank.corners],
        sharp_corners=[
            SharpCorner(at=(x, y), shown=(x + blank.shift[0], y + blank.shift[1]), side=side)
            for (x, y), side in blank.sharp_corners
        ],
        line_marks=document.bend_line_marks,
        flat_cutouts=[
            FlatCutoutView(
                **{**c, "at": (c["at"][0] + blank.shift[0], c["at"][1] + blank.shift[1])}
            )
            for c in blank.flat_cutouts
        ],
        marks=document.marks,
        revision=blank.part.revision,
        revision_fault=blank.part.revision_fault,
        changes=[
            ChangeView(kind=c.kind, text=c.text, at=c.at)
            for c in (compare_blanks(before, document) if before else [])
        ],
        previous_outer=contour_path(old.outer) if old else None,
        previous_holes=[contour_path(h) for h in old.holes] if old else [],
        twin=twin_of(blank),
        anchor=blank.anchor,
        is_turned_over=blank.is_turned_over,
        turn=blank.turn,
        grain=blank.grain,
        outer=contour_path(region.outer),
        holes=holes,
        bends=document.bends,
        panels=document.panels,
        findings=document.findings,
    )


class GivenView(APIView):
    """What people give of a drawn flat."""

    @extend_schema(request=GivenAsk, responses={204: None}, operation_id="given_change")
    def patch(self, request: Request, part: int) -> Response:
        """Give unit, thickness or bends of a drawing."""
        known = get_object_or_404(Part.objects.select_related("line__material", "source"), pk=part)
        asked = read(GivenAsk, request).model_dump(exclude_unset=True)
        give_drawn(known, asked)
        return Response(status=204)


class ShellView(APIView):
    """A refused solid."""

    @extend_schema(responses=ShellAnswer, operation_id="shell_show")
    def get(self, request: Request, part: int) -> Response:
        """Give the triangles of a solid that was refused, and the place."""
        known = get_object_or_404(Part, pk=part)
        if known.shell is None:
            raise NotFound("There is nothing to look at: the file gave no solid")
        return answer(ShellAnswer(triangles=known.shell, spot=known.spot))


class RevisionView(APIView):
    """A newer file of a part."""

    parser_classes = (MultiPartParser,)

    @extend_schema(
        request={"multipart/form-data": {"type": "object", "properties": {
            "file": {"type": "string", "format": "binary"}}, "required": ["file"]}},
        responses={204: None},
        operation_id="revision_put",
    )  # fmt: skip
    def post(self, request: Request, part: int) -> Response:
        """Drop a newer file onto a part; it is read in the background."""
        known = get_object_or_404(Part.objects.select_related("line"), pk=part)
        file = request.FILES.get("file")
        if file is None:
            raise InputError("no file came with the request", fix="Send it as the field file")
        put_revision(known, file.name, file.read())
        return Response(status=204)


class TwinView(APIView):
    """The same part twice under two names."""

    @extend_schema(request=None, responses={204: None}, operation_id="twins_join")
    def post(self, request: Request, part: int) -> Response:
        """Make one part of this one and the earlier one that is the same; quantities add up."""
        join_twins(ready_blank(part))
        return Response(status=204)


class BlankView(APIView):
    """The blank of a part."""

    @extend_schema(responses=BlankAnswer, operation_id="blank_show")
    def get(self, request: Request, part: int) -> Response:
        """Show a blank."""
        return answer(_answer(ready_blank(part)))

    @extend_schema(request=BlankAsk, responses=BlankAnswer, operation_id="blank_change")
    def patch(self, request: Request, part: int) -> Response:
        """Change how a part is unfolded."""
        asked = read(BlankAsk, request)
        given = asked.model_dump(exclude={"seen"}, exclude_unset=True, mode="json")
        clear = "own_k" in given and given["own_k"] is None
        change = BlankChange(**given, clear_own_k=clear)
        return answer(_answer(change_blank(ready_blank(part).part, change, seen=asked.seen)))


_FILES: dict[str, tuple[str, Callable[[Blank], str | bytes], str]] = {
    "dxf": ("application/dxf", lambda b: blank_dxf(document_of(b)), "dxf"),
    "csv": ("text/csv", lambda b: bend_table_csv(document_of(b)), "bends.csv"),
    "json": ("application/json", lambda b: document_of(b).model_dump_json(indent=1), "blank.json"),
    "step": ("model/step", solid_of, "step"),
}


class BlankFileView(APIView):
    """Files of a blank."""

    @extend_schema(
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY},
        operation_id="blank_file",
    )
    def get(self, request: Request, part: int, kind: str) -> HttpResponse:
        """Download a blank as DXF, its bend table as CSV, its JSON, or the folded part as STEP."""
        if kind not in _FILES:
            raise NotFound(f"There is no file of kind {kind}; there are {', '.join(_FILES)}")
        media, write, suffix = _FILES[kind]
        blank = ready_blank(part)
        return download(write(blank), blank.part.name, suffix, media)
