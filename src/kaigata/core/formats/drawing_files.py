"""A blank's drawing, and its flat at 1:1 for a printer, as PDF."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path

from kaigata.core.blank.mesh import MeshPiece
from kaigata.core.errors import KaigataError
from kaigata.core.formats.blank_files import blank_of_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.core.formats.page_dxf import page_dxf
from kaigata.core.formats.page_svg import page_svg
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.formats.whole import file_name
from kaigata.core.markup import (
    MILLIMETRE,
    AssemblyDrawing,
    Component,
    Drawing,
    FoldedPicture,
    Lettering,
    Markup,
    Title,
    Unit,
    assembly_differences,
    differences,
    draw_assembly,
    draw_blank,
    folded_size,
    folded_views,
    is_third_angle,
    paper_for,
    seen_from,
    template_pages,
)
from kaigata.core.markup.lettering import NOTHING_ADDED, USUAL_LETTERING
from kaigata.core.markup.page import Page

__all__ = [
    "SHEETS",
    "DrawingChoice",
    "checked_assembly",
    "checked_drawing",
    "template_pdf",
    "title_of",
    "write_drawing",
]


def title_of(
    document: BlankDocument, *, order: str = "", source: str = "", drawn: str = "", mass: str = ""
) -> Title:
    """Return the title block of a blank's drawing, with what is known of it elsewhere."""
    return Title(
        part=document.part,
        material=document.material or "",
        quantity=document.quantity,
        order=order,
        source=source,
        drawn=drawn,
        mass=mass,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawingChoice:
    """How a drawing is made: its unit, its paper (a fitting one where none is given), and words.

    ``title`` is what its title block says where more is known than the part itself.
    """

    unit: Unit = MILLIMETRE
    paper: str = ""
    lettering: Lettering = USUAL_LETTERING
    markup: Markup = NOTHING_ADDED
    title: Title | None = None


_AS_USUAL = DrawingChoice()


SHEETS: dict[str, Callable[[Page], str]] = {"svg": page_svg, "dxf": page_dxf}
"""What writes a sheet of a drawing as a file of its own, by the kind of that."""


def write_drawing(
    document: BlankDocument,
    title: Title,
    folder: Path,
    *,
    pieces: Sequence[MeshPiece] = (),
    choice: DrawingChoice = _AS_USUAL,
    sheets: Sequence[str] = (),
) -> list[str]:
    """Write a blank's drawing into a folder and return the names: as ``checked_drawing``.

    It is a PDF, and of each of the kinds in ``sheets`` a file for each sheet.
    """
    stem = file_name(document.part)
    drawing = checked_drawing(document, title, pieces=pieces, choice=choice)
    (folder / f"{stem}.pdf").write_bytes(pages_pdf(drawing.pages, title=title.part))
    names = [f"{stem}.pdf"]
    for kind in sheets:
        for number, page in enumerate(drawing.pages, start=1):
            names.append(f"{stem}-sheet-{number}.{kind}")
            (folder / names[-1]).write_text(SHEETS[kind](page), encoding="utf-8")
    return names


def checked_drawing(
    document: BlankDocument,
    title: Title,
    *,
    pieces: Sequence[MeshPiece] = (),
    choice: DrawingChoice = _AS_USUAL,
) -> Drawing:
    """Return the drawing of a blank, every size and count taken again from it and compared.

    Parameters
    ----------
    document : BlankDocument
        The blank.
    title : Title
        What the title block says.
    pieces : sequence of MeshPiece
        The blank's mesh, from which the folded part is drawn; none where it is not known.
    choice : DrawingChoice
        How.

    Raises
    ------
    InputError
        There is no such paper, or no room for the columns asked for.
    KaigataError
        What was drawn is not what the part is; nothing is given out then.
    """
    blank = blank_of_document(document)
    folded = None
    if blank.bends and blank.thickness and pieces:
        views = None
        if choice.lettering.folded == "views":
            paper = paper_for(blank, choice.unit, choice.markup, choice.paper, has_view=True)
            is_third = is_third_angle(paper)
            views = folded_views(pieces, blank.thickness, is_third_angle=is_third)
        folded = FoldedPicture(
            seen=seen_from(pieces, blank.thickness),
            size=folded_size(pieces, blank.thickness),
            views=views,
        )
    drawing = draw_blank(
        blank,
        title,
        folded=folded,
        unit=choice.unit,
        paper=choice.paper,
        lettering=choice.lettering,
        markup=choice.markup,
    )
    _refuse_wrong(differences(drawing, blank, choice.unit), document.part)
    return drawing


def _refuse_wrong(wrong: Sequence[str], where: str) -> None:
    if wrong:
        raise KaigataError(
            f"its drawing is not as the part is: {'; '.join(wrong)}",
            where=where,
            fix="Report it with the part: no drawing is given out",
        )


def checked_assembly(
    components: Sequence[Component],
    title: Title,
    *,
    unit: Unit = MILLIMETRE,
    paper: str = "",
    lettering: Lettering = USUAL_LETTERING,
) -> AssemblyDrawing:
    """Return the drawing of an assembly, its list and numbers taken again from it and compared.

    Raises
    ------
    InputError
        There is no such paper, or nothing that can be drawn.
    KaigataError
        What was drawn is not what the parts are; nothing is given out then.
    """
    drawing = draw_assembly(components, title, unit=unit, paper=paper, lettering=lettering)
    _refuse_wrong(assembly_differences(drawing, components, unit), title.part)
    return drawing


def template_pdf(document: BlankDocument, paper: str = "A4") -> bytes:
    """Return a blank's flat at 1:1 over as many pages of a printer as it takes.

    Raises
    ------
    InputError
        There is no such paper.
    LimitError
        It takes more pages than can be laid together.
    """
    pages = template_pages(blank_of_document(document), paper)
    return pages_pdf(pages, title=f"{document.part}, 1:1")
