"""The JSON documents of the command line: millimetres and degrees, checked on reading."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

__all__ = [
    "BendDocument",
    "BendLineMarks",
    "BlankDocument",
    "ContourRows",
    "CutChoice",
    "CutDocument",
    "CutSheetDocument",
    "FindingDocument",
    "MarkingChoice",
    "NestDocument",
    "NestedSheetDocument",
    "OrderBendDocument",
    "OrderDocument",
    "OrderPartDocument",
    "OrderSheetDocument",
    "PlacementDocument",
    "UnplacedDocument",
]

Finite = Annotated[float, Field(allow_inf_nan=False)]
Positive = Annotated[float, Field(gt=0, allow_inf_nan=False)]
NotNegative = Annotated[float, Field(ge=0, allow_inf_nan=False)]
Count = Annotated[int, Field(ge=1)]
Row = Annotated[list[Finite], Field(min_length=2, max_length=3)]
ContourRows = Annotated[list[Row], Field(min_length=2)]
At = tuple[float, float]


class _Model(BaseModel):
    model_config = ConfigDict(extra="ignore", frozen=True)


class FindingDocument(_Model):
    """One thing to know."""

    level: Literal["error", "warning", "note"]
    code: str
    text: str
    at: At | None = None
    panels: list[int] = []
    outline: list[At] = []


class BendDocument(_Model):
    """A bend of a blank; lengths mm, angle degrees."""

    id: int
    line: tuple[At, At]
    lines: list[tuple[At, At]]
    angle: float
    direction: Literal["up", "down"]
    inside_radius: float
    k: float
    allowance: float
    deduction: float
    setback: float = 0.0
    included_angle: float = 0.0
    origin: str = ""
    place: int = 0
    length: float
    zone: At
    from_edge: float
    sequence: int
    panels: list[int]


class PanelDocument(_Model):
    """A flat region of a blank."""

    id: int
    at: At
    area: float


class MarkDocument(_Model):
    """Something only marked on a blank.

    ``side`` is the one it is made from or rises over, as the blank lies: ``near``, ``far``, or
    null where it is the same from both. A line runs from ``at`` to ``end``.
    """

    kind: str
    at: At
    diameter: float = 0.0
    note: str = ""
    side: Literal["near", "far"] | None = None
    end: At | None = None


class BendLineMarks(_Model):
    """How bend lines are put on the blank: whole, as end ticks of a length in mm, or not."""

    style: Literal["whole", "ticks", "none"] = "whole"
    length: Annotated[float, Field(gt=0, le=1000)] = 10.0
    etched: bool = False


class BlankDocument(_Model):
    """``NAME.blank.json``; ``flat_only`` holds the middles of holes cut in the flat alone."""

    part: str
    quantity: Count = 1
    units: Literal["mm"] = "mm"
    thickness: Positive | None = None
    material: str | None = None
    width: float
    height: float
    area: float
    cut_length: float
    outer: ContourRows
    holes: list[ContourRows] = []
    bends: list[BendDocument] = []
    panels: list[PanelDocument] = []
    marks: list[MarkDocument] = []
    bend_line_marks: BendLineMarks = BendLineMarks()
    flat_only: list[At] = []
    findings: list[FindingDocument] = []


class OrderSheetDocument(_Model):
    """A stock sheet an order may use."""

    id: Annotated[str, Field(min_length=1)]
    width: Positive
    height: Positive
    count: Annotated[int, Field(ge=0)] | None = None
    thickness: Positive | None = None
    material: str | None = None
    outline: ContourRows | None = None
    grain: float | None = None
    cost: Annotated[float, Field(ge=0, allow_inf_nan=False)] | None = None


class OrderBendDocument(_Model):
    """A bend of a part in an order, for marking and for leads to keep away from."""

    lines: list[tuple[At, At]]
    angle: Finite
    direction: Literal["up", "down"]


class OrderPartDocument(_Model):
    """A part of an order: its contours, a blank, or a file to unfold."""

    id: Annotated[str, Field(min_length=1)]
    quantity: Count = 1
    outer: ContourRows | None = None
    holes: list[ContourRows] = []
    blank: str | None = None
    file: str | None = None
    turns: list[Finite] | Literal["any"] = "any"
    mirror: bool = False
    thickness: Positive | None = None
    material: str | None = None
    priority: int = 0
    filler: bool = False
    bends: list[OrderBendDocument] = []
    bend_line_marks: BendLineMarks = BendLineMarks()
    creases: list[tuple[At, At]] = []
    k: Annotated[float, Field(ge=0, le=1)] | None = None
    anchor: Count | None = None
    face_up: Literal["as-modelled", "other"] | None = None


class MarkingChoice(_Model):
    """What is marked before cutting; ``bends`` as each blank says, or alike for all."""

    bends: Literal["blank", "none", "whole", "ticks"] = "blank"
    directions: bool = False
    numbers: bool = False


class CutChoice(_Model):
    """How an order is cut; ``skeleton`` is the largest side of its pieces, 0 leaves it whole."""

    process: Literal["laser", "plasma", "waterjet"] | None = None
    post: str | None = None
    chart: str | None = None
    kerf: Positive | None = None
    order: Literal["short", "heat"] = "short"
    round_freed: bool = False
    common_cut: bool = False
    marking: MarkingChoice = MarkingChoice()
    skeleton: Annotated[float, Field(ge=0, allow_inf_nan=False)] = 0.0
    cut_off: bool = False


class OrderDocument(_Model):
    """``ORDER.json``."""

    units: Literal["mm", "in"] = "mm"
    name: str = ""
    spacing: NotNegative = 0.0
    margin: NotNegative = 0.0
    sheets: Annotated[list[OrderSheetDocument], Field(min_length=1)]
    parts: Annotated[list[OrderPartDocument], Field(min_length=1)]
    cut: CutChoice | None = None


class PlacementDocument(_Model):
    """One copy of a part on a sheet."""

    part: str
    copy_: Annotated[int, Field(alias="copy")]
    x: Finite
    y: Finite
    turn: Finite = 0.0
    mirrored: bool = False


class NestedSheetDocument(_Model):
    """A sheet with its placements."""

    sheet: str
    number: Count
    copies: Count = 1
    placements: list[PlacementDocument]
    used_length: float
    utilisation: float


class UnplacedDocument(_Model):
    """Copies that found no place, and why."""

    part: str
    quantity: Count
    why: str


class NestDocument(_Model):
    """``nest.json``; ``order`` holds the order it nests, so that it can be cut on its own."""

    sheets: list[NestedSheetDocument]
    utilisation: float
    unplaced: list[UnplacedDocument] = []
    order: OrderDocument | None = None

    @property
    def missed(self) -> int:
        """How many copies without a place are missed: all but those of fillers."""
        parts = self.order.parts if self.order else []
        fillers = {p.id for p in parts if p.filler}
        return sum(u.quantity for u in self.unplaced if u.part not in fillers)


class PierceDocument(_Model):
    """A contour in the order of cutting."""

    part: str
    copy_: Annotated[int, Field(alias="copy")]
    contour: str
    pierce: At


class ProofDocument(_Model):
    """What reading the program back gave."""

    largest_deviation: float
    contours: int
    ok: bool


class CutSheetDocument(_Model):
    """A sheet's program and figures; lengths mm."""

    number: int
    program: str
    kerf: float
    zero: At
    contours: int
    pierces: int
    cut_length: float
    lead_length: float
    rapid_length: float
    mark_length: float
    seconds: float
    cost: float = 0.0
    order: list[PierceDocument]
    joints: list[dict[str, object]] = []
    shared: list[dict[str, object]] = []
    skeleton: list[dict[str, object]] = []
    proof: ProofDocument


class CutDocument(_Model):
    """``cut.json``."""

    process: str
    sheets: list[CutSheetDocument]
    findings: list[FindingDocument] = []
