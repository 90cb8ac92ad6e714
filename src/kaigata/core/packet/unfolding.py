"""From a file to the documents of its blanks, with the shop's bend charts."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from kaigata.core.blank import FaceUp, unfold
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import blank_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.core.formats.whole import free_name
from kaigata.core.intake import read_parts
from kaigata.core.metal.allowance import check_factor
from kaigata.core.metal.stores import (
    STANDARD_K,
    BendChartRow,
    chart_factor,
    find_material,
    read_bend_chart,
    standard_materials,
)

__all__ = ["UnfoldedFile", "unfold_file"]


@dataclass(frozen=True, slots=True)
class UnfoldedFile:
    """The blanks of a file, and why other solids of it gave none."""

    blanks: tuple[BlankDocument, ...]
    refused: tuple[InputError, ...]


def unfold_file(
    path: Path,
    *,
    k: float | None = None,
    material: str | None = None,
    bend_chart: Path | None = None,
    anchor: int = 1,
    face_up: FaceUp = FaceUp.AS_MODELLED,
) -> UnfoldedFile:
    """Unfold every part of a file.

    ``k`` goes before ``bend_chart``, and that before the material's own chart; when nothing is
    said K is 0.44.

    Parameters
    ----------
    path : Path
        A STEP file.
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

    Returns
    -------
    UnfoldedFile
        At least one blank.

    Raises
    ------
    InputError
        An option is unusable, or nothing of the file can be unfolded.
    """
    if k is not None:
        check_factor(k)
    known = find_material(standard_materials(), material) if material else None
    chart = read_bend_chart(bend_chart) if bend_chart else known.chart if known else None
    found = read_parts(path)
    blanks: list[BlankDocument] = []
    refused = list(found.refused)
    for read in found.parts:
        try:
            factor = k if k is not None else _factor(chart, read.part.thickness)
            blank = unfold(read.part, k=factor, anchor=anchor, face_up=face_up)
        except InputError as error:
            refused.append(error)
            continue
        document = blank_document(
            blank, quantity=read.quantity, material=known.name if known else None
        )
        # Solids of one file may share a name; their files must not.
        name = free_name(document.part, [b.part for b in blanks])
        blanks.append(document.model_copy(update={"part": name}))
    if not blanks:
        raise refused[0]
    return UnfoldedFile(tuple(blanks), tuple(refused))


def _factor(chart: tuple[BendChartRow, ...] | None, thickness: float) -> float:
    if chart is None:
        return STANDARD_K
    row = chart_factor(chart, thickness)
    if row is None:
        have = ", ".join(f"{r.thickness:g}" for r in chart)
        raise InputError(
            f"the part is {thickness:.4g} mm thick, the bend chart has {have}",
            fix="Add the thickness to the chart or give K",
        )
    return row.k
