"""What unfolding hands on: the blank's JSON, its DXF and its bend table."""

from __future__ import annotations

import csv
import io
import math
from pathlib import Path

from kaigata.core.blank import FLAT_ONLY, Blank, BlankBend, BlankMark
from kaigata.core.findings import Finding
from kaigata.core.formats.documents import (
    BendDocument,
    BendLineMarks,
    BlankDocument,
    FindingDocument,
    MarkDocument,
    PanelDocument,
)
from kaigata.core.formats.dxf import DxfPlan
from kaigata.core.formats.whole import file_name
from kaigata.core.plane import Contour, Motion, Point, Region, Segment

__all__ = [
    "bend_table_csv",
    "blank_document",
    "blank_dxf",
    "blank_of_document",
    "finding_document",
    "moved_outlines",
    "region_of_document",
    "write_blank",
]

_DECIMALS = 9


def blank_document(
    blank: Blank,
    *,
    quantity: int = 1,
    material: str | None = None,
    line_marks: BendLineMarks | None = None,
) -> BlankDocument:
    """Return a blank as its JSON document."""
    return BlankDocument(
        part=blank.name,
        quantity=quantity,
        thickness=_rounded(blank.thickness) or None,
        material=material,
        width=_rounded(blank.width),
        height=_rounded(blank.height),
        area=_rounded(blank.region.area),
        cut_length=_rounded(blank.region.length),
        outer=contour_rows(blank.region.outer),
        holes=[contour_rows(h) for h in blank.region.holes],
        bends=[_bend_document(b) for b in blank.bends],
        panels=[
            PanelDocument(
                id=p.number, at=(_rounded(p.at[0]), _rounded(p.at[1])), area=_rounded(p.area)
            )
            for p in blank.panels
        ],
        marks=[
            MarkDocument(
                kind=m.kind,
                at=(_rounded(m.at[0]), _rounded(m.at[1])),
                diameter=_rounded(m.diameter),
                note=m.text,
                side=None if m.is_near is None else "near" if m.is_near else "far",
                end=m.end and (_rounded(m.end[0]), _rounded(m.end[1])),
            )
            for m in blank.marks
        ],
        bend_line_marks=line_marks or BendLineMarks(),
        flat_only=[(_rounded(x), _rounded(y)) for x, y in blank.flat_only],
        findings=[finding_document(f) for f in blank.findings],
    )


def contour_rows(contour: Contour) -> list[list[float]]:
    """Return a contour's rows, rounded to what a file holds (1e-9 mm)."""
    return [[_rounded(v) for v in row] for row in contour.rows()]


def finding_document(finding: Finding) -> FindingDocument:
    """Return a finding as it stands in documents."""
    return FindingDocument(
        level=finding.level.value,
        code=finding.code,
        text=finding.text,
        at=finding.at,
        panels=list(finding.panels),
        outline=list(finding.outline),
    )


def region_of_document(document: BlankDocument) -> Region:
    """Return the region a blank's document holds."""
    return Region.oriented(
        Contour.from_rows(document.outer), tuple(Contour.from_rows(h) for h in document.holes)
    )


def blank_of_document(document: BlankDocument) -> Blank:
    """Return the blank a document holds, without its panels' regions."""
    bends = tuple(
        BlankBend(
            number=b.id,
            line=b.line,
            lines=tuple(b.lines),
            angle=math.radians(b.angle),
            is_up=b.direction == "up",
            inside_radius=b.inside_radius,
            k=b.k,
            thickness=document.thickness or 0.0,
            panels=tuple(b.panels),
            from_edge=b.from_edge,
            sequence=b.sequence,
            origin=b.origin,
            place=b.place,
        )
        for b in document.bends
    )
    return Blank(
        name=document.part,
        thickness=document.thickness or 0.0,
        region=region_of_document(document),
        bends=bends,
        panels=(),
        marks=tuple(
            BlankMark.said(
                m.note,
                kind=m.kind,
                at=m.at,
                diameter=m.diameter,
                is_near=None if m.side is None else m.side == "near",
                end=m.end,
            )
            for m in document.marks
        ),
        flat_only=tuple(document.flat_only),
    )


def moved_outlines(document: BlankDocument, motion: Motion) -> BlankDocument:
    """Return a blank's document after a motion: its contours, bends and marks, for comparison."""
    return blank_document(
        blank_of_document(document).moved(motion),
        quantity=document.quantity,
        material=document.material,
        line_marks=document.bend_line_marks,
    )


def _bend_document(bend: BlankBend) -> BendDocument:
    def line(ends: tuple[tuple[float, float], tuple[float, float]]) -> list[list[float]]:
        return [[_rounded(v) for v in p] for p in ends]

    return BendDocument.model_validate(
        {
            "id": bend.number,
            "line": line(bend.line),
            "lines": [line(x) for x in bend.lines],
            "angle": _rounded(math.degrees(bend.angle)),
            "direction": bend.direction,
            "inside_radius": _rounded(bend.inside_radius),
            "k": bend.k,
            "allowance": _rounded(bend.allowance),
            "deduction": _rounded(bend.deduction),
            "setback": _rounded(bend.setback),
            "included_angle": _rounded(180.0 - math.degrees(bend.angle)),
            "origin": bend.origin,
            "place": bend.place,
            "length": _rounded(bend.length),
            "zone": [_rounded(v) for v in bend.zone()],
            "from_edge": _rounded(bend.from_edge),
            "sequence": bend.sequence,
            "panels": list(bend.panels),
        }
    )


def _rounded(value: float) -> float:
    return round(value, _DECIMALS) + 0.0


def blank_dxf(document: BlankDocument) -> str:
    """Return a blank as the text of a DXF file."""
    plan = DxfPlan()
    plan.region(region_of_document(document))
    for bend in document.bends:
        layer = "BEND_UP" if bend.direction == "up" else "BEND_DOWN"
        layer = "MARK" if document.bend_line_marks.etched else layer
        for a, b in bend.lines:
            for p, q in _marked(a, b, document.bend_line_marks):
                plan.line(p, q, layer)
        (x0, y0), (x1, y1) = bend.line
        note = f"{bend.id} {bend.direction} {bend.angle:g}%%d R{bend.inside_radius:g}"
        plan.note(note, ((x0 + x1) / 2, (y0 + y1) / 2), size=3.5)
    for mark in document.marks:
        _draw_mark(plan, mark)
    for at in document.flat_only:
        plan.note(FLAT_ONLY, at, size=2.5)
    return plan.text()


def _marked(a: Point, b: Point, marks: BendLineMarks) -> list[tuple[Point, Point]]:
    """Return what of a bend line is put on the blank."""
    if marks.style == "none":
        return []
    line = Segment(a, b)
    if marks.style == "whole" or line.chord <= 2 * marks.length:
        return [(a, b)]
    share = marks.length / line.chord
    return [(a, line.at(share)), (line.at(1 - share), b)]


def _draw_mark(plan: DxfPlan, mark: MarkDocument) -> None:
    """Draw a line, a ring for what reaches over its hole, a cross in the hole for what does not."""
    (x, y), radius = mark.at, mark.diameter / 2
    if mark.end is not None:
        plan.line(mark.at, mark.end, "MARK")
        x, y = (x + mark.end[0]) / 2, (y + mark.end[1]) / 2
    elif mark.kind == "tapped-hole":
        arm = radius / 2
        plan.line((x - arm, y), (x + arm, y), "MARK")
        plan.line((x, y - arm), (x, y + arm), "MARK")
    else:
        plan.contour(Contour.circle(mark.at, max(radius, 0.5)), "MARK")
    plan.note(mark.note, (x + radius + 1.0, y), size=2.5)


def bend_table_csv(document: BlankDocument) -> str:
    """Return a blank's bend table, a row a bend in the order they are bent."""
    stream = io.StringIO()
    table = csv.writer(stream, lineterminator="\n")
    table.writerow(
        ["id", "direction", "angle", "inside_radius", "k", "allowance", "deduction", "length",
         "from_edge", "sequence"]
    )  # fmt: skip
    for b in sorted(document.bends, key=lambda b: b.sequence):
        lengths = (b.allowance, b.deduction, b.length, b.from_edge)
        table.writerow(
            [b.id, b.direction, f"{b.angle:.6g}", f"{b.inside_radius:.6g}", f"{b.k:g}"]
            + [f"{v:.4f}" for v in lengths]
            + [b.sequence]
        )
    return stream.getvalue()


def write_blank(document: BlankDocument, folder: Path) -> list[str]:
    """Write a blank's JSON, DXF and bend table into a folder and return their names."""
    stem = file_name(document.part)
    files = {
        f"{stem}.blank.json": document.model_dump_json(indent=1) + "\n",
        f"{stem}.dxf": blank_dxf(document),
        f"{stem}.bends.csv": bend_table_csv(document),
    }
    for name, text in files.items():
        (folder / name).write_text(text, encoding="utf-8")
    return list(files)
