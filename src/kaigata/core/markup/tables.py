"""Tables on a drawing: bends and holes, row by row, from one column of the paper to the next."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from kaigata.core.blank import IN_THE_SHEET, Blank
from kaigata.core.errors import InputError
from kaigata.core.markup.flat_view import triangle
from kaigata.core.markup.holes import HoleGroup
from kaigata.core.markup.lettering import BendFact, Lettering, fact_text
from kaigata.core.markup.measure import Unit
from kaigata.core.markup.page import Anchor, Box, Face, Page, Pen, Words

__all__ = [
    "COLUMN",
    "Heading",
    "Table",
    "bend_table",
    "draw_rows",
    "hole_table",
    "mark_table",
    "require_room",
]

COLUMN = 88.0
"""Width of a table, mm of paper."""
_ROW = 5.0
_SIZE = 2.5
_HEAD = 3 * _ROW
"""Title, headings and the air above them, mm."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Heading:
    """A column of a table: its words, and where its texts end, or begin where it says so, mm."""

    words: str
    at: float
    is_figures: bool = True
    begins: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A table: its title, columns and rows of texts.

    ``ups`` tells of each row whether a bend goes up, where its second column is to show that.
    """

    title: str
    headings: tuple[Heading, ...]
    rows: tuple[tuple[str, ...], ...]
    ups: tuple[bool, ...] = ()


_COLUMNS: dict[BendFact, tuple[str, float]] = {
    BendFact.DIRECTION: ("way", 10.0),
    BendFact.ANGLE: ("turn", 11.5),
    BendFact.INCLUDED: ("included", 13.0),
    BendFact.RADIUS: ("R", 8.5),
    BendFact.K: ("K", 8.0),
    BendFact.ALLOWANCE: ("allowance", 15.0),
    BendFact.DEDUCTION: ("deduction", 15.0),
    BendFact.FROM_EDGE: ("from edge", 15.0),
    BendFact.LENGTH: ("length", 13.0),
    BendFact.SEQUENCE: ("seq", 7.0),
}
"""Words over each column of the bend table, and its width, mm."""
_NUMBER, _SIGN = 5.0, 4.0
"""Width of a bend's number and of the sign of its direction, mm."""


def bend_table(blank: Blank, unit: Unit, lettering: Lettering) -> Table:
    """Return the bends of a blank, a row each.

    Raises
    ------
    InputError
        The columns asked for have no room beside each other.
    """
    headings = _bend_headings(lettering)
    bends = sorted(
        blank.bends, key=lambda b: b.sequence if lettering.order == "sequence" else b.number
    )
    return Table(
        title=f"Bends, {unit.name}",
        headings=headings,
        rows=tuple(
            (str(b.number), *(fact_text(b, fact, unit) for fact in lettering.columns))
            for b in bends
        ),
        ups=tuple(b.is_up for b in bends),
    )


def require_room(lettering: Lettering) -> None:
    """Refuse a bend table with more columns than have room beside each other.

    Raises
    ------
    InputError
        They have none.
    """
    _bend_headings(lettering)


def _bend_headings(lettering: Lettering) -> tuple[Heading, ...]:
    headings = [Heading(words="no", at=_NUMBER)]
    at = _NUMBER + _SIGN
    for fact in lettering.columns:
        words, wide = _COLUMNS[fact]
        at += wide
        headings.append(Heading(words=words, at=at))
    if at > COLUMN:
        raise InputError(
            f"the columns of the bend table take {at:g} mm, of which there are {COLUMN:g}",
            fix="Leave one out",
        )
    return tuple(headings)


def hole_table(groups: Sequence[HoleGroup], unit: Unit) -> Table:
    """Return the holes of a blank, a row for those that are alike."""
    return Table(
        title=f"Holes and openings, {unit.name}",
        headings=(
            Heading(words="kind", at=1.0, is_figures=False, begins=True),
            Heading(words="size", at=12.0, begins=True),
            Heading(words="count", at=57.0),
            Heading(words="made later", at=60.0, is_figures=False, begins=True),
        ),
        rows=tuple((g.letter, _hole_size(g, unit), str(len(g.places)), g.note) for g in groups),
    )


def mark_table(blank: Blank, unit: Unit) -> Table:
    """Return what is marked on a blank and made of no hole, a row for those that are alike.

    Its size is a line's length, or the width of a footprint.
    """
    found = Counter(
        (m.text, f"ø {unit.length(m.diameter)}" if m.end is None else unit.length(m.length))
        for m in blank.marks
        if m.kind in IN_THE_SHEET
    )
    return Table(
        title=f"Marked and not cut, {unit.name}",
        headings=(
            Heading(words="what", at=1.0, is_figures=False, begins=True),
            Heading(words="size", at=44.0, begins=True),
            Heading(words="count", at=88.0),
        ),
        rows=tuple((what, size, str(count)) for (what, size), count in sorted(found.items())),
    )


def _hole_size(group: HoleGroup, unit: Unit) -> str:
    if group.diameter is not None:
        return f"ø {unit.length(group.diameter)}"
    return f"{unit.length(group.width)} × {unit.length(group.height)}"


def draw_rows(page: Page, box: Box, table: Table, first: int = 0) -> tuple[int, float]:
    """Draw a table's title, headings and as many rows as a box has room for.

    Parameters
    ----------
    page : Page
        What to draw on.
    box : Box
        Where: from its top downwards.
    table : Table
        What to draw.
    first : int
        The first row to draw.

    Returns
    -------
    (int, float)
        The first row that had no room, and where the table ends, mm of paper. Where not one row
        has room nothing is drawn.
    """
    count = min(len(table.rows) - first, int((box.height - _HEAD) // _ROW))
    if count <= 0:
        return first, box.top
    title = table.title if first == 0 else f"{table.title}, continued"
    y = box.top - _ROW
    page.words.append(Words(text=title, at=(box.left, y), size=3.2, face=Face.STRONG))
    y -= _ROW
    _row(page, box.left, y, table, tuple(h.words for h in table.headings), is_head=True)
    page.line((box.left, y - _ROW / 2), (box.left + COLUMN, y - _ROW / 2), Pen.FRAME)
    for n in range(first, first + count):
        y -= _ROW
        _row(page, box.left, y, table, table.rows[n])
        if table.ups:
            at = (box.left + table.headings[0].at + 2.6, y)
            page.fills.append(triangle(at, up=table.ups[n]))
        page.line((box.left, y - _ROW / 2), (box.left + COLUMN, y - _ROW / 2), Pen.RULE)
    return first + count, y - _ROW / 2


def _row(
    page: Page, left: float, y: float, table: Table, cells: Sequence[str], *, is_head: bool = False
) -> None:
    for heading, text in zip(table.headings, cells, strict=True):
        page.words.append(
            Words(
                text=text,
                at=(left + heading.at, y),
                size=_SIZE,
                face=Face.WORDS if is_head or not heading.is_figures else Face.FIGURES,
                anchor=Anchor.START if heading.begins else Anchor.END,
            )
        )
