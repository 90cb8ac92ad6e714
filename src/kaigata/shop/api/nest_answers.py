"""What is answered of an order's nest: its rules, search, alternatives and drawing."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, RootModel

from kaigata.core.formats.documents import (
    NestedSheetDocument,
    OrderSheetDocument,
    UnplacedDocument,
)
from kaigata.core.formats.nest_files import sheet_outline, stock_sheet
from kaigata.core.formats.svg import contour_path, region_path
from kaigata.core.nest import StockSheet
from kaigata.shop.api.answers import RunAnswer, run_answer
from kaigata.shop.models import Material, Nest, NestRun, Order
from kaigata.shop.models import StockSheet as Stock
from kaigata.shop.services import nesting
from kaigata.shop.services.order_inputs import OrderInputs

__all__ = [
    "AlternativeAnswer",
    "CopyName",
    "NestAnswer",
    "NestRules",
    "nest_answer",
    "sheet_choices",
]

ALTERNATIVES = 8
"""Nests of an order that are shown side by side."""


class NestRules(BaseModel):
    """Rules of a nest, mm, degrees, seconds; ``sheets`` null means all that fit.

    With ``any_turn`` parts may lie at any angle, but for those whose grain matters.
    """

    model_config = ConfigDict(extra="forbid")

    spacing: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] = 6.0
    margin: Annotated[float, Field(ge=0, le=500, allow_inf_nan=False)] = 12.0
    turns: Annotated[list[Literal[0, 90, 180, 270]], Field(min_length=1)] = [0, 90, 180, 270]
    any_turn: bool = False
    seconds: Annotated[float, Field(gt=0, le=3600, allow_inf_nan=False)] = 20.0
    sheets: list[int] | None = None


class SheetChoice(BaseModel):
    """A stock sheet that could be used."""

    id: int
    name: str
    material: str
    thickness: float
    width: float
    height: float
    is_remnant: bool
    count: int


class BetterAnswer(BaseModel):
    """A better answer of a search."""

    seconds: float
    utilisation: float
    sheets: int
    left_out: int


class NestPartDrawing(BaseModel):
    """A part as it is drawn about its own 0,0; ``turns`` null means any."""

    id: str
    path: str
    width: float
    height: float
    middle: tuple[float, float]
    quantity: int
    turns: list[float] | None
    may_mirror: bool


class SheetDrawing(BaseModel):
    """A stock sheet as it is drawn."""

    id: str
    path: str
    width: float
    height: float
    thickness: float | None
    material: str | None


class CopyName(RootModel[tuple[str, int]]):
    """A copy of a part."""


class FaultAnswer(BaseModel):
    """A rule that placements made by hand break."""

    sheet: int
    kind: Literal["overlap", "spacing", "margin", "turn", "mirror", "sheet"]
    placements: list[CopyName]
    text: str


class AlternativeAnswer(BaseModel):
    """A nest of the order beside others."""

    run: int
    spacing: float
    turns: list[int]
    utilisation: float
    sheets: int
    left_out: int
    counted_area: float
    cost: float | None
    is_chosen: bool
    is_released: bool


class NestAnswer(BaseModel):
    """The nest of an order: rules, choices, the search shown, and its best answer."""

    rules: NestRules
    choices: list[SheetChoice]
    run: RunAnswer | None
    history: list[BetterAnswer]
    nest: int | None
    digest: str
    sheets: list[NestedSheetDocument]
    unplaced: list[UnplacedDocument]
    utilisation: float
    spacing: float
    margin: float
    mass: float | None
    cost: float | None
    parts: list[NestPartDrawing]
    stock: list[SheetDrawing]
    locked: list[CopyName]
    faults: list[FaultAnswer]
    alternatives: list[AlternativeAnswer]
    is_released: bool


def nest_answer(order: Order) -> NestAnswer:
    """Return the nest that is shown of an order, the run it came from and what stands beside it."""
    run = nesting.current_run(order)
    kept: Nest | None = getattr(run, "nest", None) if run else None
    empty: dict[str, Any] = {"nest": None, "digest": "", "sheets": [], "unplaced": [],
                             "utilisation": 0.0, "mass": None, "cost": None, "parts": [],
                             "stock": [], "spacing": 0.0, "margin": 0.0, "locked": [], "faults": [],
                             "is_released": False}  # fmt: skip
    return NestAnswer(
        rules=NestRules.model_validate(nesting.rules_of(order)),
        choices=sheet_choices(order),
        run=run_answer(run, OrderInputs.of(order).nest) if run else None,
        history=[BetterAnswer(**h) for h in run.history] if run else [],
        alternatives=_alternatives(order, run),
        **(_nest_drawing(kept) if kept else empty),
    )


def _alternatives(order: Order, shown: NestRun | None) -> list[AlternativeAnswer]:
    """Return the newest nests of an order, the newest first."""
    nests = Nest.objects.filter(run__order=order).select_related("run", "release")
    found = []
    for kept in nests.order_by("-run_id")[:ALTERNATIVES]:
        rules = kept.run.settings["order"]
        sheets = [stock_sheet(OrderSheetDocument.model_validate(s)) for s in rules["sheets"]]
        known = {s.id: s for s in sheets}
        turns = {t for p in rules["parts"] if p["turns"] != "any" for t in p["turns"]}
        fillers = {p["id"] for p in rules["parts"] if p.get("filler")}
        found.append(
            AlternativeAnswer(
                run=kept.run_id,
                spacing=rules["spacing"],
                turns=sorted(int(t) for t in turns),
                utilisation=kept.document["utilisation"],
                sheets=len(kept.document["sheets"]),
                left_out=sum(
                    u["quantity"] for u in kept.document["unplaced"] if u["part"] not in fillers
                ),
                counted_area=kept.counted_area,
                cost=_mass_and_cost([known[s["sheet"]] for s in kept.document["sheets"]])[1],
                is_chosen=shown is not None and kept.run_id == shown.pk,
                is_released=hasattr(kept, "release"),
            )
        )
    return found


def sheet_choices(order: Order) -> list[SheetChoice]:
    """Return the stock sheets of the gauges an order's parts have."""
    lines = order.lines.filter(material__isnull=False, part__thickness__isnull=False)
    gauges = set(lines.values_list("material_id", "part__thickness"))
    wanted = {(m, round(t, 3)) for m, t in gauges}
    return [
        SheetChoice(
            id=s.pk,
            name=s.name,
            material=s.material.name,
            thickness=s.thickness,
            width=s.width,
            height=s.height,
            is_remnant=s.outline is not None,
            count=s.count,
        )
        for s in Stock.objects.select_related("material")
        if (s.material_id, round(s.thickness, 3)) in wanted
    ]


def _nest_drawing(kept: Nest) -> dict[str, Any]:
    _, order, nest = nesting.open_nest(kept)
    known = {s.id: s for s in order.sheets}
    mass, cost = _mass_and_cost([known[s.sheet] for s in nest.sheets])
    document = kept.document
    parts = []
    for p in order.parts:
        x0, y0, x1, y1 = p.region.outer.bounds
        parts.append(
            NestPartDrawing(
                id=p.id,
                path=region_path(p.region),
                width=x1 - x0,
                height=y1 - y0,
                middle=((x0 + x1) / 2, (y0 + y1) / 2),
                quantity=p.quantity,
                turns=None if p.turns is None else [round(math.degrees(t), 6) for t in p.turns],
                may_mirror=p.may_mirror,
            )
        )
    sheets = [
        SheetDrawing(
            id=s.id,
            path=contour_path(sheet_outline(s)),
            width=s.width,
            height=s.height,
            thickness=s.thickness,
            material=s.material,
        )
        for s in order.sheets
    ]
    return {
        "nest": kept.pk,
        "digest": kept.digest,
        "sheets": [NestedSheetDocument.model_validate(s) for s in document["sheets"]],
        "unplaced": [UnplacedDocument.model_validate(u) for u in document["unplaced"]],
        "utilisation": document["utilisation"],
        "spacing": order.spacing,
        "margin": order.margin,
        "mass": mass,
        "cost": cost,
        "parts": parts,
        "stock": sheets,
        "locked": [CopyName(tuple(c)) for c in kept.locked],
        "faults": [FaultAnswer.model_validate(f) for f in kept.faults],
        "is_released": hasattr(kept, "release"),
    }


def _mass_and_cost(used: Sequence[StockSheet]) -> tuple[float | None, float | None]:
    """Return the mass of the sheets used, kg, and what they cost: their own cost, else by mass."""
    materials = {m.name: m for m in Material.objects.all()}
    masses, cost = 0.0, 0.0
    for sheet in used:
        metal = materials.get(sheet.material or "")
        if metal is None or not sheet.thickness:
            return None, None
        mass = sheet.area * sheet.thickness * metal.density / 1e9
        masses += mass
        cost += mass * metal.price if sheet.cost is None else sheet.cost
    return masses, cost
