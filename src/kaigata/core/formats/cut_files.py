"""What cutting hands on: programs that were read back and proved, path drawings, cut.json."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from kaigata.core.cut import Post, ToolPath
from kaigata.core.cut.proof import Proof, prove
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import finding_document
from kaigata.core.formats.documents import (
    CutDocument,
    CutSheetDocument,
    PierceDocument,
    ProofDocument,
)
from kaigata.core.formats.gcode import gcode
from kaigata.core.formats.gcode_reader import looped, read_cuts
from kaigata.core.formats.nest_files import sheet_dxf
from kaigata.core.nest import Nest, NestedSheet, NestOrder
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["Program", "cut_document", "path_dxf", "proved_program", "write_cut"]


@dataclass(frozen=True, slots=True)
class Program:
    """A path, its program, and what reading the program back gave."""

    path: ToolPath
    text: str
    proof: Proof

    @property
    def name(self) -> str:
        """The program's file."""
        return f"sheet-{self.path.number}.nc"


def proved_program(path: ToolPath, post: Post, *, title: str = "") -> Program:
    """Return the program of a path once reading it back has shown that it leaves the parts.

    Raises
    ------
    InputError
        It does not: it is not given out.
    """
    text = gcode(path, post, title=title)
    proof = prove(path, [looped(cut)[1] for cut in read_cuts(text)])
    if not proof.ok:
        raise InputError(
            f"the program of sheet {path.number} was not given out: {proof.fault}",
            where=f"sheet-{path.number}.nc",
            fix="Choose another kerf or process for this sheet",
        )
    return Program(path, text, proof)


def cut_document(process: str, programs: Sequence[Program]) -> CutDocument:
    """Return programs with their figures as ``cut.json``."""
    return CutDocument(
        process=process,
        sheets=[_sheet(p) for p in programs],
        findings=[finding_document(f) for p in programs for f in p.path.findings],
    )


def _sheet(program: Program) -> CutSheetDocument:
    path = program.path
    return CutSheetDocument(
        number=path.number,
        program=program.name,
        kerf=path.rules.kerf,
        zero=(0.0, 0.0),
        contours=len(path.passes),
        pierces=len(path.passes),
        cut_length=round(path.cut_length, 6),
        lead_length=round(path.lead_length, 6),
        rapid_length=round(path.rapid_length, 6),
        mark_length=0.0,
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
        proof=ProofDocument(
            largest_deviation=round(program.proof.largest_deviation, 6),
            contours=program.proof.contours,
            ok=program.proof.ok,
        ),
    )


def write_cut(
    programs: Sequence[Program],
    document: CutDocument,
    order: NestOrder,
    nest: Nest,
    folder: Path,
) -> list[str]:
    """Write programs, path drawings and ``cut.json`` into a folder and return their names."""
    sheets = {s.number: s for s in nest.sheets}
    files = {}
    for program in programs:
        number = program.path.number
        files[program.name] = program.text
        files[f"sheet-{number}.path.dxf"] = path_dxf(order, sheets[number], program.text)
    files["cut.json"] = document.model_dump_json(by_alias=True, indent=1) + "\n"
    for name, text in files.items():
        (folder / name).write_text(text, encoding="utf-8")
    return list(files)


def path_dxf(order: NestOrder, sheet: NestedSheet, program: str) -> str:
    """Return a nested sheet with what its program does, read back, as the text of a DXF file.

    What comes before a cut's loop and after it is drawn as leads.
    """
    plan = sheet_dxf(order, sheet)
    at = (0.0, 0.0)
    for cut in read_cuts(program):
        if math.dist(at, cut[0].start) > LENGTH:
            plan.line(at, cut[0].start, "PATH_RAPID")
        way_in, loop, way_out = looped(cut)
        for stretch, layer in ((way_in, "PATH_LEAD"), (loop, "PATH_CUT"), (way_out, "PATH_LEAD")):
            if stretch:
                plan.run(stretch, layer)
        at = cut[-1].end
    return plan.text()
