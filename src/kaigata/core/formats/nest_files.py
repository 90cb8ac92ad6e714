"""What nesting takes and hands on: the order, nest.json, and a drawing of each sheet."""

from __future__ import annotations

import math
from pathlib import Path

from kaigata.core.checked import load_document
from kaigata.core.errors import InputError, KaigataError
from kaigata.core.formats.documents import (
    BendLineMarks,
    BlankDocument,
    ContourRows,
    CutChoice,
    NestDocument,
    NestedSheetDocument,
    OrderBendDocument,
    OrderDocument,
    OrderPartDocument,
    OrderSheetDocument,
    PlacementDocument,
    UnplacedDocument,
)
from kaigata.core.formats.dxf import DxfPlan
from kaigata.core.nest import (
    BendLine,
    Nest,
    NestedSheet,
    NestOrder,
    NestPart,
    Placement,
    StockSheet,
)
from kaigata.core.nest.figures import Unplaced, measured, motion_of
from kaigata.core.plane import Contour, Point, Region

__all__ = [
    "cut_choice",
    "nest_document",
    "nest_of_document",
    "order_bends",
    "order_creases",
    "order_from_document",
    "placed_regions",
    "sheet_dxf",
    "sheet_outline",
    "stock_sheet",
]

MM_PER_INCH = 25.4
_DECIMALS = 9


def order_from_document(document: OrderDocument, folder: Path) -> NestOrder:
    """Return the order a document describes, in millimetres and radians.

    Parameters
    ----------
    document : OrderDocument
        The document.
    folder : Path
        Where the blanks it names lie.

    Raises
    ------
    InputError
        A part has neither contours nor a readable blank.
    """
    scale = MM_PER_INCH if document.units == "in" else 1.0
    return NestOrder(
        sheets=tuple(stock_sheet(s, scale) for s in document.sheets),
        parts=tuple(_part(i, p, scale, folder) for i, p in enumerate(document.parts)),
        spacing=document.spacing * scale,
        margin=document.margin * scale,
    )


def cut_choice(document: OrderDocument) -> CutChoice | None:
    """Return how an order is to be cut, its lengths in mm whatever the order's unit."""
    choice = document.cut
    if choice is None or document.units == "mm":
        return choice
    kerf = choice.kerf * MM_PER_INCH if choice.kerf else None
    return choice.model_copy(update={"kerf": kerf, "skeleton": choice.skeleton * MM_PER_INCH})


def stock_sheet(sheet: OrderSheetDocument, scale: float = 1.0) -> StockSheet:
    """Return a stock sheet of an order; ``scale`` is how many mm its unit has."""
    outline = _contour(sheet.outline, scale) if sheet.outline else None
    if outline is not None and outline.area < 0:
        outline = outline.reversed()
    return StockSheet(
        id=sheet.id,
        width=sheet.width * scale,
        height=sheet.height * scale,
        count=sheet.count,
        thickness=sheet.thickness,
        material=sheet.material,
        outline=outline,
        cost=sheet.cost,
    )


def _contour(rows: ContourRows, scale: float) -> Contour:
    contour = Contour.from_rows(rows)
    return contour.scaled(scale) if scale != 1.0 else contour


def _part(index: int, part: OrderPartDocument, scale: float, folder: Path) -> NestPart:
    where = f"$.parts[{index}] ({part.id})"
    thickness, material = part.thickness, part.material
    rows: tuple[ContourRows, list[ContourRows]]
    bends, marks, creases = part.bends, part.bend_line_marks, part.creases
    if part.outer is not None and part.blank is not None:
        raise InputError(
            "the part has contours and a blank", where=where, fix="Leave one of the two out"
        )
    if part.outer is not None:
        rows = (part.outer, part.holes)
    elif part.blank is not None:
        try:
            blank = load_document(folder / part.blank, BlankDocument)
        except KaigataError as error:
            raise error.at(f"{where}.blank") from error
        rows, scale = (blank.outer, blank.holes), 1.0
        thickness = thickness if "thickness" in part.model_fields_set else blank.thickness
        material = material if "material" in part.model_fields_set else blank.material
        bends, marks, creases = order_bends(blank), blank.bend_line_marks, order_creases(blank)
    else:
        raise InputError(
            "the part has no contour",
            where=where,
            fix="Give outer and holes, or the path of a .blank.json as blank",
        )
    turns = None if part.turns == "any" else tuple(math.radians(t % 360) for t in part.turns)
    if turns == ():
        raise InputError("no turn is allowed", where=f"{where}.turns", fix="List at least 0")
    return NestPart(
        id=part.id,
        quantity=part.quantity,
        region=Region.oriented(
            _contour(rows[0], scale), tuple(_contour(h, scale) for h in rows[1])
        ),
        turns=turns,
        may_mirror=part.mirror,
        thickness=thickness,
        material=material,
        priority=part.priority,
        filler=part.filler,
        bends=tuple(_bend(b, scale) for b in bends),
        etched=marks.style if marks.etched else "none",
        tick=marks.length,
        creases=tuple((_scaled(a, scale), _scaled(b, scale)) for a, b in creases),
    )


def order_bends(blank: BlankDocument) -> list[OrderBendDocument]:
    """Return the bends of a blank as an order names them."""
    return [
        OrderBendDocument(lines=b.lines or [b.line], angle=b.angle, direction=b.direction)
        for b in blank.bends
    ]


def order_creases(blank: BlankDocument) -> list[tuple[Point, Point]]:
    """Return the creases of a blank as an order names them."""
    return [(m.at, m.end) for m in blank.marks if m.end is not None]


def _scaled(p: Point, scale: float) -> Point:
    return (p[0] * scale, p[1] * scale)


def _bend(bend: OrderBendDocument, scale: float) -> BendLine:
    return BendLine(
        lines=tuple((_scaled(a, scale), _scaled(b, scale)) for a, b in bend.lines),
        angle=math.radians(bend.angle),
        direction=bend.direction,
    )


def nest_document(nest: Nest, document: OrderDocument, order: NestOrder) -> NestDocument:
    """Return a nest as its JSON document, in the order's units, the order beside it."""
    scale = MM_PER_INCH if document.units == "in" else 1.0
    return NestDocument(
        sheets=[
            NestedSheetDocument(
                sheet=s.sheet,
                number=s.number,
                placements=[_placement(p, scale) for p in s.placements],
                used_length=_rounded(s.used_length / scale),
                utilisation=_rounded(s.utilisation),
            )
            for s in nest.sheets
        ],
        utilisation=_rounded(nest.utilisation),
        unplaced=[
            UnplacedDocument(part=u.part, quantity=u.quantity, why=u.why) for u in nest.unplaced
        ],
        order=_self_contained(document, order, scale),
    )


def _placement(p: Placement, scale: float) -> PlacementDocument:
    return PlacementDocument.model_validate(
        {
            "part": p.part,
            "copy": p.copy,
            "x": _rounded(p.x / scale),
            "y": _rounded(p.y / scale),
            "turn": _rounded(math.degrees(p.turn)),
            "mirrored": p.mirrored,
        }
    )


def _self_contained(document: OrderDocument, order: NestOrder, scale: float) -> OrderDocument:
    """Return the order with every part's contours in it, so that a nest can be cut on its own."""
    shapes = {p.id: p for p in order.parts}

    def rows(contour: Contour) -> list[list[float]]:
        return [[_rounded(r[0] / scale), _rounded(r[1] / scale), *r[2:]] for r in contour.rows()]

    parts = [
        p.model_copy(
            update={
                "outer": rows(shapes[p.id].region.outer),
                "holes": [rows(h) for h in shapes[p.id].region.holes],
                "thickness": shapes[p.id].thickness,
                "material": shapes[p.id].material,
                "bends": [_bend_rows(b, scale) for b in shapes[p.id].bends],
                "bend_line_marks": _etched(shapes[p.id]),
                "creases": [(_told(a, scale), _told(b, scale)) for a, b in shapes[p.id].creases],
                "blank": None,
                "file": None,
            }
        )
        for p in document.parts
    ]
    return document.model_copy(update={"parts": parts})


def _etched(part: NestPart) -> BendLineMarks:
    if part.etched == "none":
        return BendLineMarks()
    return BendLineMarks.model_validate({"style": part.etched, "length": part.tick, "etched": True})


def _told(p: Point, scale: float) -> Point:
    return (_rounded(p[0] / scale), _rounded(p[1] / scale))


def _bend_rows(bend: BendLine, scale: float) -> OrderBendDocument:
    return OrderBendDocument.model_validate(
        {
            "lines": [[_told(a, scale), _told(b, scale)] for a, b in bend.lines],
            "angle": _rounded(math.degrees(bend.angle)),
            "direction": bend.direction,
        }
    )


def nest_of_document(document: NestDocument, order: NestOrder, *, units: str) -> Nest:
    """Return the nest a document describes.

    Raises
    ------
    InputError
        It names a part or sheet the order does not have.
    """
    scale = MM_PER_INCH if units == "in" else 1.0
    parts, sheets = {p.id for p in order.parts}, {s.id for s in order.sheets}
    filled = []
    for i, sheet in enumerate(document.sheets):
        if sheet.sheet not in sheets:
            raise InputError(f"no sheet {sheet.sheet!r} in the order", where=f"$.sheets[{i}]")
        stranger = next((p.part for p in sheet.placements if p.part not in parts), None)
        if stranger is not None:
            raise InputError(f"no part {stranger!r} in the order", where=f"$.sheets[{i}]")
        filled.append(
            NestedSheet(
                sheet=sheet.sheet,
                number=sheet.number,
                placements=tuple(
                    Placement(
                        part=p.part,
                        copy=p.copy_,
                        x=p.x * scale,
                        y=p.y * scale,
                        turn=math.radians(p.turn),
                        mirrored=p.mirrored,
                    )
                    for p in sheet.placements
                ),
                used_length=sheet.used_length * scale,
                utilisation=sheet.utilisation,
            )
        )
    again = measured(order, [(s.sheet, s.placements) for s in filled])
    return Nest(
        sheets=tuple(filled),
        unplaced=tuple(
            Unplaced(part=u.part, quantity=u.quantity, why=u.why) for u in document.unplaced
        ),
        utilisation=document.utilisation,
        counted_area=again.counted_area,
        charge=again.charge,
    )


def _rounded(value: float) -> float:
    return round(value, _DECIMALS) + 0.0


def placed_regions(order: NestOrder, sheet: NestedSheet) -> list[tuple[Placement, Region]]:
    """Return each placement of a sheet with its region where it lies, mm."""
    regions = {p.id: p.region for p in order.parts}
    return [(p, regions[p.part].moved(motion_of(p))) for p in sheet.placements]


def sheet_outline(sheet: StockSheet) -> Contour:
    """Return the edge of a stock sheet."""
    return sheet.outline or Contour.rectangle(sheet.width, sheet.height)


def sheet_dxf(order: NestOrder, sheet: NestedSheet) -> DxfPlan:
    """Return a nested sheet as a drawing, to be added to or written."""
    plan = DxfPlan()
    stock = next(s for s in order.sheets if s.id == sheet.sheet)
    plan.contour(sheet_outline(stock), "SHEET")
    for _, region in placed_regions(order, sheet):
        plan.region(region)
    return plan
