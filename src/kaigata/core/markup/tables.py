"""Tables on a drawing: bends and holes, row by row, from one column of the paper to the next."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kaigata.core.blank import Blank, BlankBend
from kaigata.core.markup.flat_view import triangle
from kaigata.core.markup.holes import HoleGroup
from kaigata.core.markup.measure import Unit, angle_text
from kaigata.core.markup.page import Anchor, Box, Face, Page, Pen, Words

__all__ = ["COLUMN", "Table", "bend_table", "draw_rows", "hole_table"]

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


def bend_table(blank: Blank, unit: Unit) -> Table:
    """Return the bends of a blank, by number."""
    bends = sorted(blank.bends, key=lambda b: b.number)
    return Table(
        title=f"Bends, {unit.name}",
        headings=(
            Heading(words="no", at=5.0),
            Heading(words="turn", at=20.5),
            Heading(words="R", at=29.0),
            Heading(words="K", at=37.0),
            Heading(words="allowance", at=52.0),
            Heading(words="from edge", at=67.0),
            Heading(words="length", at=80.0),
            Heading(words="seq", at=87.0),
        ),
        rows=tuple(_bend_row(b, unit) for b in bends),
        ups=tuple(b.is_up for b in bends),
    )


def _bend_row(bend: BlankBend, unit: Unit) -> tuple[str, ...]:
    return (
        str(bend.number),
        angle_text(bend.angle),
        unit.short(bend.inside_radius),
        f"{bend.k:.3f}".lstrip("0") or "0",
        unit.length(bend.allowance) if bend.thickness else "",
        unit.length(bend.from_edge),
        unit.length(bend.length),
        str(bend.sequence),
    )


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
