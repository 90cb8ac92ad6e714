"""The frame of a drawing and its title block."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kaigata.core.markup.lettering import Lettering, Markup, TitleField, own_fields
from kaigata.core.markup.page import Anchor, Box, Face, Page, Pen, Words

__all__ = ["BLOCK_HEIGHT", "Title", "draw_frame", "draw_title", "frame_of", "left_open"]

BLOCK_HEIGHT = 52.0
_LABEL = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Title:
    """What stands in the title block beside what the drawing itself gives; empty where unknown.

    Attributes
    ----------
    part : str
        What the part is called.
    order : str
        Which order it is for.
    material : str
        What it is of.
    quantity : int
        Pieces.
    source : str
        The file it was made from.
    drawn : str
        Who unfolded it, and when.
    mass : str
        Of one piece.
    """

    part: str
    order: str = ""
    material: str = ""
    quantity: int = 1
    source: str = ""
    drawn: str = ""
    mass: str = ""


def left_open(title: Title, lettering: Lettering, markup: Markup) -> list[str]:
    """Return in words what a title block must say before a packet goes out and does not.

    Examples
    --------
    >>> left_open(Title(part="Tray"), Lettering(required=("mass",)), Markup())
    ['the title block says no mass']
    """
    said = {
        TitleField.NUMBER: markup.number,
        TitleField.MATERIAL: title.material,
        TitleField.MASS: title.mass,
        TitleField.TOLERANCE: lettering.tolerance,
        TitleField.DRAWN: title.drawn,
    }
    words = {
        TitleField.NUMBER: "drawing number",
        TitleField.TOLERANCE: "general tolerance",
        TitleField.DRAWN: "name of who has drawn it: stamp station 2",
    }
    open_ = [words.get(f, f.value) for f in lettering.required if not said[f]]
    texts = dict(own_fields(lettering, markup))
    open_ += [f.label for f in lettering.fields if f.must_say and not texts[f.label]]
    return [f"the title block says no {what}" for what in open_]


def frame_of(width: float, height: float) -> Box:
    """Return what the frame of a sheet encloses, with room for filing at its left, mm."""
    return Box(left=20.0, bottom=10.0, right=width - 10.0, top=height - 10.0)


def draw_frame(page: Page) -> Box:
    """Draw the frame of a sheet; return what it encloses."""
    frame = frame_of(page.width, page.height)
    page.box(frame, Pen.FRAME)
    return frame


def draw_title(
    page: Page,
    box: Box,
    title: Title,
    facts: dict[str, str],
    sheet: str,
    own: Sequence[tuple[str, str]] = (),
) -> None:
    """Draw the title block into a box.

    Parameters
    ----------
    page : Page
        What to draw on.
    box : Box
        Where.
    title : Title
        What it says of the part.
    facts : dict
        What it says of the drawing: ``called`` (what the thing is), ``size_of`` (of what its
        ``size`` is), ``thickness``, ``scale``, ``unit``, the general ``tolerance``, the drawing's
        ``number`` and the ``maker``, who has a cell where one is named.
    sheet : str
        Which sheet of how many.
    own : sequence of (str, str)
        The shop's own fields, their labels and texts, in a row of their own.
    """
    page.box(box, Pen.FRAME)
    third = box.width / 3
    name = (facts["called"], title.part, Face.STRONG, 5.0)
    maker = (third, "Maker", facts["maker"], Face.STRONG, 3.2)
    own_row = tuple((box.width / len(own), *field, Face.WORDS, 3.2) for field in own)
    rows = (
        ((2 * third, *name), maker) if facts["maker"] else ((box.width, *name),),
        (
            (2 * third, f"{facts['size_of']}, {facts['unit']}", facts["size"],
             Face.STRONG_FIGURES, 4.2),
            (third, f"Thickness, {facts['unit']}", facts["thickness"], Face.STRONG_FIGURES, 4.2),
        ),
        (
            (2 * third, "Material", title.material, Face.WORDS, 3.2),
            (third, "Pieces", str(title.quantity), Face.FIGURES, 3.2),
        ),
        (
            (2 * third, "Order", title.order, Face.WORDS, 3.2),
            (third, "Mass of one", title.mass, Face.FIGURES, 3.2),
        ),
        (
            (third, "Drawing no", facts["number"], Face.WORDS, 3.2),
            (third, "General tolerance", facts["tolerance"], Face.WORDS, 3.2),
            (third, "Checked", "", Face.WORDS, 3.2),
        ),
        (
            (third, "Made from", title.source, Face.WORDS, 2.4),
            (third, "Drawn", title.drawn, Face.WORDS, 2.4),
            (third / 2, "Scale", facts["scale"], Face.FIGURES, 3.0),
            (third / 2, "Sheet", sheet, Face.FIGURES, 3.0),
        ),
        *((own_row,) if own_row else ()),
    )  # fmt: skip
    high = box.height / len(rows)
    y = box.top
    for row in rows:
        x = box.left
        for wide, label, text, face, size in row:
            cell = Box(left=x, bottom=y - high, right=x + wide, top=y)
            _cell(page, cell, label, text, face, size)
            x += wide
        y -= high


def _cell(page: Page, box: Box, label: str, text: str, face: Face, size: float) -> None:
    page.box(box, Pen.RULE)
    page.words.append(Words(text=label, at=(box.left + 1.2, box.top - 1.9), size=_LABEL))
    # What is too long for its cell is set smaller, down to half; then it runs on.
    wide = 0.61 if face in (Face.FIGURES, Face.STRONG_FIGURES) else 0.56
    fits = (box.width - 3.0) / (wide * max(1, len(text)))
    page.words.append(
        Words(text=text, at=(box.left + 1.2, box.bottom + 2.9), size=max(size / 2, min(size, fits)),
              face=face, anchor=Anchor.START)
    )  # fmt: skip
