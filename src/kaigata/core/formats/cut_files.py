"""What cutting hands on: programs that were read back and proved, path drawings, cut.json."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from kaigata.core.cut import Pass, Post, ToolPath
from kaigata.core.cut.posts import corner_of
from kaigata.core.cut.proof import Proof, prove
from kaigata.core.cut.toolpath import placed_on
from kaigata.core.errors import InputError
from kaigata.core.findings import Finding
from kaigata.core.formats.blank_files import finding_document
from kaigata.core.formats.documents import (
    CutDocument,
    CutSheetDocument,
    PierceDocument,
    ProofDocument,
)
from kaigata.core.formats.gcode import gcode
from kaigata.core.formats.gcode_reader import Stretch, looped, read_program
from kaigata.core.formats.nest_files import sheet_dxf
from kaigata.core.nest import NestedSheet, NestOrder
from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["Program", "cut_document", "proved_program", "write_cut"]


@dataclass(frozen=True, slots=True)
class Program:
    """A path, its program, its zero on the sheet, and what reading the program back gave.

    ``path_dxf`` is a drawing of what the program does, the text of a DXF file.
    """

    path: ToolPath
    text: str
    proof: Proof
    zero: Point
    path_dxf: str

    @property
    def name(self) -> str:
        """The program's file."""
        return f"sheet-{self.path.number}.nc"


def proved_program(
    path: ToolPath, order: NestOrder, sheet: NestedSheet, post: Post, *, title: str = ""
) -> Program:
    """Return the program of a path once reading it back has shown that it leaves the parts.

    Raises
    ------
    InputError
        It does not: it is not given out.
    """
    stock = next(s for s in order.sheets if s.id == sheet.sheet)
    zero = corner_of(stock.width, stock.height, post.zero)
    names = {
        "material": stock.material or "",
        "thickness": f"{stock.thickness:g}" if stock.thickness else "",
    }
    where = f"sheet-{path.number}.nc"
    if path.marks and not post.can_mark:
        raise InputError(
            f"the post {post.name!r} does not tell marks from cuts: they would be cut through",
            where=where,
            fix="Give it marking commands of its own or remarks, or mark nothing",
        )
    text = gcode(path, post, zero=zero, title=title, names=names)
    try:
        done = read_program(text, post, zero=zero, radius=path.rules.kerf / 2)
    except InputError as error:
        raise InputError(
            f"the program of sheet {path.number} was not given out: {error.what}",
            where=f"{where} {error.where}",
            fix="Choose another kerf, process or post for this sheet",
        ) from error
    proof = prove(path, done, *placed_on(order, sheet))
    if not proof.ok:
        raise InputError(
            f"the program of sheet {path.number} was not given out: {proof.fault}",
            where=where,
            fix="Choose another kerf or process for this sheet",
        )
    return Program(path, text, proof, zero, _path_dxf(order, sheet, zero, done))


def _sheet(program: Program) -> CutSheetDocument:
    path = program.path
    return CutSheetDocument(
        number=path.number,
        program=program.name,
        kerf=path.rules.kerf,
        zero=program.zero,
        contours=len(path.passes),
        pierces=path.pierces,
        cut_length=round(path.cut_length, 6),
        lead_length=round(path.lead_length, 6),
        rapid_length=round(path.rapid_length, 6),
        mark_length=round(path.mark_length, 6),
        seconds=round(path.seconds, 3),
        cost=round(path.cost, 4),
        order=[
            PierceDocument.model_validate(
                {
                    "part": p.part,
                    "copy": p.copy,
                    "contour": p.name,
                    "pierce": (round(p.pierce[0], 6), round(p.pierce[1], 6)),
                }
            )
            for p in path.passes
        ],
        joints=[g for p in path.passes for g in _gaps(p, "joint")],
        shared=[g for p in path.passes for g in _gaps(p, "shared")],
        skeleton=[
            {"what": s.name, "from": s.segments[0].start, "to": s.segments[-1].end}
            for s in path.scrap
        ],
        proof=ProofDocument(
            largest_deviation=round(program.proof.largest_deviation, 6),
            contours=program.proof.contours,
            ok=program.proof.ok,
        ),
    )


def _gaps(wanted: Pass, kind: str) -> list[dict[str, object]]:
    return [
        {
            "part": wanted.part,
            "copy": wanted.copy,
            "at": [round(g.at[0], 6), round(g.at[1], 6)],
            "width": round(g.width, 6),
        }
        for g in wanted.gaps
        if g.kind == kind
    ]


def cut_document(
    process: str, programs: Sequence[Program], withheld: Sequence[Finding] = ()
) -> CutDocument:
    """Return programs with their figures as ``cut.json``, and what kept others from being made."""
    found = [*withheld, *(f for p in programs for f in p.path.findings)]
    return CutDocument(
        process=process,
        sheets=[_sheet(p) for p in programs],
        findings=[finding_document(f) for f in found],
    )


def write_cut(programs: Sequence[Program], document: CutDocument, folder: Path) -> list[str]:
    """Write programs, path drawings and ``cut.json`` into a folder and return their names."""
    files = {}
    for program in programs:
        files[program.name] = program.text
        files[f"sheet-{program.path.number}.path.dxf"] = program.path_dxf
    files["cut.json"] = document.model_dump_json(by_alias=True, indent=1) + "\n"
    for name, text in files.items():
        (folder / name).write_text(text, encoding="utf-8")
    return list(files)


def _path_dxf(order: NestOrder, sheet: NestedSheet, zero: Point, done: Sequence[Stretch]) -> str:
    """Return a nested sheet with what its program does, read back, as the text of a DXF file.

    What comes before a cut's loop and after it is drawn as leads.
    """
    plan = sheet_dxf(order, sheet)
    at = zero
    for cut in done:
        if math.dist(at, cut.segments[0].start) > LENGTH:
            plan.line(at, cut.segments[0].start, "PATH_RAPID")
        at = cut.segments[-1].end
        if cut.is_mark:
            plan.run(cut.segments, "MARK")
            continue
        way_in, loop, way_out = looped(cut.segments)
        if not loop:
            plan.run(cut.segments, "PATH_CUT")
            continue
        for stretch, layer in ((way_in, "PATH_LEAD"), (loop, "PATH_CUT"), (way_out, "PATH_LEAD")):
            if stretch:
                plan.run(stretch, layer)
    return plan.text()
