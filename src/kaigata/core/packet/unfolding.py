"""From a file to the documents of its blanks, with the shop's bend charts."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import NamedTuple

from kaigata.core.blank import Blank, FaceUp, chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.blank.drawn import drawn_blank
from kaigata.core.blank.judge import judged
from kaigata.core.blank.mesh import MeshPiece, fold_mesh
from kaigata.core.errors import InputError, KaigataError
from kaigata.core.findings import Finding, Level
from kaigata.core.formats.blank_files import blank_document, finding_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.core.formats.whole import free_name
from kaigata.core.intake import ReadPart, is_drawing, read_flats, read_parts
from kaigata.core.metal.charts import BendChart, constant_chart
from kaigata.core.metal.limits import Limits
from kaigata.core.metal.stores import (
    STANDARD_K,
    chart_of,
    find_material,
    read_bend_charts,
    standard_materials,
)
from kaigata.core.part import FoldedPart, Frame

__all__ = ["UnfoldChoice", "UnfoldedFile", "refuse_overlap", "unfold_file"]


@dataclass(frozen=True, slots=True, kw_only=True)
class UnfoldChoice:
    """How a file is to be unfolded.

    ``k`` goes before ``bend_chart``, and that before the material's own chart; when nothing is
    said K is 0.44.

    Attributes
    ----------
    k : float, optional
        Neutral-axis factor of every bend.
    material : str, optional
        Name of a material of the shop data.
    bend_chart : Path, optional
        A bend chart as CSV.
    anchor : int
        Number of the panel that stays put.
    face_up : FaceUp
        Which side lies up.
    unit : float, optional
        Millimetres a unit of a drawing that does not say.
    thickness : float, optional
        Sheet thickness of a drawing, mm.
    """

    k: float | None = None
    material: str | None = None
    bend_chart: Path | None = None
    anchor: int = 1
    face_up: FaceUp = FaceUp.AS_MODELLED
    unit: float | None = None
    thickness: float | None = None


@dataclass(frozen=True, slots=True)
class UnfoldedFile:
    """The blanks of a file, and why other solids of it gave none.

    ``meshes`` has by a blank's part the pieces it is folded of, none where that is not known,
    ``folded`` the folded part and ``places`` where it lies each time that the file has it, where
    they are.
    """

    blanks: tuple[BlankDocument, ...]
    refused: tuple[KaigataError, ...]
    meshes: dict[str, tuple[MeshPiece, ...]]
    folded: dict[str, FoldedPart]
    places: dict[str, tuple[Frame, ...]]


class _Made(NamedTuple):
    """A blank, how many the file has, the pieces it is folded of, and the folded part."""

    quantity: int
    blank: Blank
    pieces: tuple[MeshPiece, ...] = ()
    part: FoldedPart | None = None
    places: tuple[Frame, ...] = ()


def unfold_file(path: Path, choice: UnfoldChoice) -> UnfoldedFile:
    """Unfold every part of a file.

    Parameters
    ----------
    path : Path
        A STEP file, or a DXF of flats.
    choice : UnfoldChoice
        How.

    Returns
    -------
    UnfoldedFile
        At least one blank.

    Raises
    ------
    InputError
        An option is unusable, or nothing of the file can be unfolded.
    """
    known = find_material(standard_materials(), choice.material) if choice.material else None
    given = read_bend_charts(choice.bend_chart) if choice.bend_chart else None
    charts = given or (known.charts if known else None)

    def chart(thickness: float) -> BendChart:
        if choice.k is not None:
            return constant_chart(choice.k, thickness, name="typed")
        if charts is None:
            return constant_chart(STANDARD_K, thickness, name="the usual", origin="standard")
        return chart_of(charts, thickness)

    limits = Limits(tensile=known.tensile) if known else Limits()
    made, refused = (_drawn if is_drawing(path) else _solids)(path, choice, chart, limits)
    blanks: list[BlankDocument] = []
    meshes: dict[str, tuple[MeshPiece, ...]] = {}
    folded: dict[str, FoldedPart] = {}
    places: dict[str, tuple[Frame, ...]] = {}
    material = known.name if known else None
    for one in made:
        document = blank_document(one.blank, quantity=one.quantity, material=material)
        # Parts of one file may share a name; their files must not.
        name = free_name(document.part, [b.part for b in blanks])
        blanks.append(document.model_copy(update={"part": name}))
        meshes[name] = one.pieces
        if one.part is not None:
            folded[name] = replace(one.part, name=name)
            places[name] = one.places
    if not blanks:
        first = refused[0]
        raise first if first.where.startswith(path.name) else first.at(path.name)
    blanks = _with_twins(blanks, [one.blank for one in made])
    return UnfoldedFile(tuple(blanks), tuple(refused), meshes, folded, places)


def _solids(
    path: Path, choice: UnfoldChoice, chart: Callable[[float], BendChart], limits: Limits
) -> tuple[list[_Made], list[KaigataError]]:
    found = read_parts(path)
    refused: list[KaigataError] = [
        r.error.at(r.name) if len(found.refused) + len(found.parts) > 1 else r.error
        for r in found.refused
    ]
    made = []
    for read in found.parts:
        try:
            made.append(_unfolded(read, choice, chart, limits))
        except InputError as error:
            refused.append(error)
    return made, refused


def _unfolded(
    read: ReadPart, choice: UnfoldChoice, chart: Callable[[float], BendChart], limits: Limits
) -> _Made:
    takes = chart_takes(read.part, chart(read.part.thickness))
    anchor, face_up = choice.anchor, choice.face_up
    blank = refuse_overlap(unfold(read.part, takes=takes, anchor=anchor, face_up=face_up))
    judgement = judged(blank, limits, part=read.part)
    pieces = fold_mesh(read.part, takes=takes, anchor=anchor, face_up=face_up)
    return _Made(
        read.quantity, replace(blank, findings=judgement), tuple(pieces), read.part, read.places
    )


def _drawn(
    path: Path, choice: UnfoldChoice, chart: Callable[[float], BendChart], limits: Limits
) -> tuple[list[_Made], list[KaigataError]]:
    drawing = read_flats(path, unit=choice.unit)
    if drawing.unit is None:
        sizes = []
        for flat in drawing.flats[:1]:
            x0, y0, x1, y1 = flat.region.outer.bounds
            w, h = x1 - x0, y1 - y0
            sizes = [f"{w:.2f} x {h:.2f} mm", f"{w * 25.4:.2f} x {h * 25.4:.2f} mm"]
        raise InputError(
            f"the drawing does not say its unit: as millimetres the part is {sizes[0]}, as inches "
            f"{sizes[1]}",
            where=path.name,
            fix="Say which with --units mm or --units in",
        )
    thickness = choice.thickness or 0.0
    blanks = [
        drawn_blank(
            flat.name,
            flat.region,
            [(b.lines, b.is_up) for b in flat.bends],
            thickness=thickness,
            k=_usual_factor(choice, chart, thickness),
            face_up=choice.face_up,
            findings=flat.findings,
        )
        for flat in drawing.flats
    ]
    return [_Made(1, replace(b, findings=judged(b, limits))) for b in blanks], []


def _usual_factor(
    choice: UnfoldChoice, chart: Callable[[float], BendChart], thickness: float
) -> float:
    """Return the factor of the bends a drawing does not describe: 90 degrees, as round as thick."""
    if thickness:
        return chart(thickness).take(math.pi / 2, thickness).k
    return STANDARD_K if choice.k is None else choice.k


def refuse_overlap(blank: Blank) -> Blank:
    """Return the blank when it can be cut from one sheet.

    Raises
    ------
    InputError
        The flat lies on itself.
    """
    over = next((f for f in blank.findings if f.code == "flat-overlap"), None)
    if over is None:
        return blank
    what, _, fix = over.text.partition(": ")
    place = "near x {:.2f}, y {:.2f} of the flat".format(*over.at) if over.at else "the flat"
    raise InputError(what, where=place, fix=fix)


def _with_twins(documents: list[BlankDocument], blanks: list[Blank]) -> list[BlankDocument]:
    """Return the documents with a finding on each that is the same part as an earlier one."""
    out = list(documents)
    for i, blank in enumerate(blanks):
        twin = next((j for j in range(i) if are_alike(blanks[j], blank)), None)
        if twin is None:
            continue
        both = documents[twin].quantity + documents[i].quantity
        finding = Finding(
            level=Level.NOTE,
            code="same-part",
            text=f"This is the same part as {documents[twin].part}. Make one part of the two, "
            f"{both} pieces.",
        )
        out[i] = documents[i].model_copy(
            update={"findings": [*documents[i].findings, finding_document(finding)]}
        )
    return out
