"""Drawings of blanks: what the shop knows for the title block, and in which units."""

from __future__ import annotations

from kaigata.core.formats.drawing_files import drawing_pdf, template_pdf, title_of
from kaigata.core.markup import INCH, MILLIMETRE, Title
from kaigata.shop.models import Blank, Stamp
from kaigata.shop.services.blanks import document_of, mass_of, mesh_of
from kaigata.shop.services.people import initials_of

__all__ = ["drawing_of", "template_of", "title_block_of"]

UNITS = {"mm": MILLIMETRE, "in": INCH}
_BLANK_STATION = 2
_POUND = 0.45359237


def drawing_of(blank: Blank, *, paper: str = "", units: str = "mm") -> bytes:
    """Return a blank's drawing as PDF.

    Raises
    ------
    KaigataError
        What was drawn is not what the part is.
    """
    document = document_of(blank)
    return drawing_pdf(
        document, title_block_of(blank, units), pieces=mesh_of(blank) if document.bends else (),
        unit=UNITS[units], paper=paper,
    )  # fmt: skip


def template_of(blank: Blank, *, paper: str = "", units: str = "mm") -> bytes:
    """Return a blank's flat at 1:1 on a printer's pages.

    Raises
    ------
    LimitError
        It takes more pages than can be laid together.
    """
    return template_pdf(document_of(blank), paper or UNITS[units].papers[0])


def title_block_of(blank: Blank, units: str = "mm") -> Title:
    """Return what stands in the title block of a blank's drawing."""
    line = blank.part.line
    document = document_of(blank)
    mass = mass_of(blank)
    stamp = Stamp.objects.filter(order=line.order, station=_BLANK_STATION).first()
    return title_of(
        document.model_copy(update={"material": line.material.title if line.material else None}),
        order=f"{line.order.number} {line.order.title}".strip(),
        source=blank.part.source.name,
        drawn=f"{initials_of(stamp.by)} {stamp.at:%Y-%m-%d}" if stamp else "",
        mass=_mass_text(mass, units) if mass else "",
    )


def _mass_text(kilograms: float, units: str) -> str:
    return f"{kilograms:.3f} kg" if units == "mm" else f"{kilograms / _POUND:.3f} lb"
