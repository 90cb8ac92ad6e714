"""A blank's drawing, and its flat at 1:1 for a printer, as PDF."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from kaigata.core.blank.mesh import MeshPiece
from kaigata.core.errors import KaigataError
from kaigata.core.formats.blank_files import blank_of_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.formats.whole import file_name
from kaigata.core.markup import (
    MILLIMETRE,
    FoldedPicture,
    Title,
    Unit,
    differences,
    draw_blank,
    folded_size,
    seen_from,
    template_pages,
)

__all__ = ["drawing_pdf", "template_pdf", "title_of", "write_drawing"]


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


def write_drawing(
    document: BlankDocument, title: Title, folder: Path, *, pieces: Sequence[MeshPiece] = ()
) -> str:
    """Write a blank's drawing into a folder and return its name: as ``drawing_pdf``."""
    name = f"{file_name(document.part)}.pdf"
    (folder / name).write_bytes(drawing_pdf(document, title, pieces=pieces))
    return name


def drawing_pdf(
    document: BlankDocument,
    title: Title,
    *,
    pieces: Sequence[MeshPiece] = (),
    unit: Unit = MILLIMETRE,
    paper: str = "",
) -> bytes:
    """Return the drawing of a blank.

    Parameters
    ----------
    document : BlankDocument
        The blank.
    title : Title
        What the title block says.
    pieces : sequence of MeshPiece
        The blank's mesh, from which the folded part is drawn; none where it is not known.
    unit : Unit
        What lengths are written in.
    paper : str
        Which paper; a fitting one where none is given.

    Returns
    -------
    bytes
        A PDF.

    Raises
    ------
    InputError
        There is no such paper.
    KaigataError
        What was drawn is not what the part is; nothing is given out then.
    """
    blank = blank_of_document(document)
    folded = None
    if blank.bends and blank.thickness and pieces:
        folded = FoldedPicture(
            seen=seen_from(pieces, blank.thickness), size=folded_size(pieces, blank.thickness)
        )
    drawing = draw_blank(blank, title, folded=folded, unit=unit, paper=paper)
    wrong = differences(drawing, blank, unit)
    if wrong:
        raise KaigataError(
            f"its drawing is not as the part is: {'; '.join(wrong)}",
            where=document.part,
            fix="Report it with the part: no drawing is given out",
        )
    return pages_pdf(drawing.pages, title=title.part)


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
