"""The drawing of a blank: a sheet with the flat, the folded part and tables, more if needed.

The left of the first sheet holds the flat, over the folded part where there is one; the right
holds the tables over the title block. Rows that have no room there go on on further sheets.
"""

from __future__ import annotations

import textwrap
from dataclasses import dataclass

from kaigata.core.blank import Blank
from kaigata.core.errors import InputError
from kaigata.core.markup.chosen import ChosenSize
from kaigata.core.markup.chosen_view import planned
from kaigata.core.markup.flat_view import AROUND, FlatView, draw_flat
from kaigata.core.markup.folded_sheet import FoldedSheet, FoldedViews, draw_folded
from kaigata.core.markup.folded_view import Seen
from kaigata.core.markup.holes import HoleGroup, hole_groups
from kaigata.core.markup.layout import PAD, halves, with_tables, with_titles
from kaigata.core.markup.lettering import (
    NOTHING_ADDED,
    USUAL_LETTERING,
    Lettering,
    Markup,
    own_fields,
)
from kaigata.core.markup.measure import MILLIMETRE, Unit, scale_name
from kaigata.core.markup.page import PAPERS, Box, Face, Page, Pen, Words
from kaigata.core.markup.shading import draw_shaded
from kaigata.core.markup.stage import draw_lines, fitted
from kaigata.core.markup.tables import Table, bend_table, hole_table, mark_table
from kaigata.core.markup.title_block import Title, draw_frame, frame_of

__all__ = ["Drawing", "FoldedPicture", "draw_blank", "paper_for"]

_SMALLEST = 0.2
"""Scale below which a flat is drawn on larger paper where none is asked for."""
_VIEW = 0.34
"""Share of the height for the folded part."""
_LETTERS = 66
"""Letters in a line under the tables."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FoldedPicture:
    """The folded part as it is seen, and its overall sizes, mm.

    With ``views`` it has a sheet of its own too, where it is seen square to its axes.
    """

    seen: Seen
    size: tuple[float, float, float]
    views: FoldedViews | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """A drawing: its sheets, how the flat lies on the first, what its tables list, chosen sizes.

    ``folded`` is the sheet of the folded part, where it has one.
    """

    pages: tuple[Page, ...]
    flat: FlatView
    tables: tuple[Table, ...]
    chosen: tuple[ChosenSize, ...] = ()
    folded: FoldedSheet | None = None


def draw_blank(
    blank: Blank,
    title: Title,
    *,
    folded: FoldedPicture | None = None,
    unit: Unit = MILLIMETRE,
    paper: str = "",
    lettering: Lettering = USUAL_LETTERING,
    markup: Markup = NOTHING_ADDED,
) -> Drawing:
    """Draw a blank.

    Parameters
    ----------
    blank : Blank
        What to draw.
    title : Title
        What the title block says.
    folded : FoldedPicture, optional
        The folded part, drawn beside the flat.
    unit : Unit
        What lengths are written in.
    paper : str
        A key of ``PAPERS``; where none is given one that is usual with the unit.
    lettering : Lettering
        How it is lettered.
    markup : Markup
        What is added by hand.

    Returns
    -------
    Drawing
        Its sheets.

    Raises
    ------
    InputError
        There is no such paper, the bend table has no room for its columns, or the chosen sizes
        leave the flat none.
    """
    groups = hole_groups(blank)
    page = Page(*PAPERS[paper_for(blank, unit, markup, paper, has_view=folded is not None)])
    frame = draw_frame(page)
    left, right = halves(frame)
    flat_room, view_room = _rooms(left, has_view=folded is not None)
    flat = draw_flat(page, flat_room, blank, groups, unit, lettering, markup)
    page.words.append(
        Words(text="Flat, seen from the side that lies up", at=(left.left + PAD, left.top - 4.5),
              size=3.2, face=Face.STRONG)
    )  # fmt: skip
    if folded is not None and view_room is not None:
        _draw_view(page, view_room, folded, unit, is_shaded=lettering.is_shaded)
    every = (
        bend_table(blank, unit, lettering),
        hole_table(groups, unit),
        mark_table(blank, unit),
    )
    tables = tuple(t for t in every if t.rows)
    pages = with_tables(page, right, tables, _remarks(groups, flat, markup))
    sheet = None
    if folded is not None and folded.views is not None:
        sheet = draw_folded(page.width, page.height, folded.views, unit)
        pages.insert(1, sheet.page)
    facts = {
        "called": "Part",
        "size_of": "Blank",
        "size": f"{unit.length(blank.width)} × {unit.length(blank.height)}",
        "thickness": unit.exact(blank.thickness) if blank.thickness else "",
        "scale": scale_name(flat.scale),
        "unit": unit.name,
        "tolerance": lettering.tolerance,
        "number": markup.number,
        "maker": lettering.maker,
    }
    of_folded = {1: scale_name(sheet.scale)} if sheet is not None else {}
    with_titles(pages, title, facts, own_fields(lettering, markup), scales=of_folded)
    return Drawing(pages=tuple(pages), flat=flat, tables=tables, chosen=markup.sizes, folded=sheet)


def paper_for(blank: Blank, unit: Unit, markup: Markup, paper: str = "", *, has_view: bool) -> str:
    """Return the paper asked for or, where none is, one that fits.

    That is the smaller of the usual papers unless the flat is drawn too small on it; where chosen
    sizes leave the flat no room on the larger one it is a larger one still.

    Raises
    ------
    InputError
        There is no such paper.
    """
    if paper:
        if paper not in PAPERS:
            raise InputError(f"there is no paper {paper!r}", fix=f"Take one of {', '.join(PAPERS)}")
        return paper
    smaller, larger, *still_larger = unit.papers
    for fitting in (smaller, larger, *still_larger):
        left, _ = halves(frame_of(*PAPERS[fitting]))
        room, _ = _rooms(left, has_view=has_view)
        inner = room.within(AROUND.left, AROUND.bottom, AROUND.right, AROUND.top)
        try:
            scale = planned(blank, markup.sizes, unit, (inner.width, inner.height)).scale
        except InputError:
            continue
        if fitting != smaller or scale >= _SMALLEST:
            return fitting
    return unit.papers[-1]


def _rooms(left: Box, *, has_view: bool) -> tuple[Box, Box | None]:
    """Return what of the views' side is for the flat and what for the folded part."""
    body = left.within(top=6.0)
    if not has_view:
        return body, None
    high = body.height * _VIEW
    return body.within(bottom=high), body.within(top=body.height - high)


def _draw_view(
    page: Page, room: Box, folded: FoldedPicture, unit: Unit, *, is_shaded: bool
) -> None:
    """Draw the folded part as large as its room allows, with its overall sizes."""
    page.line((room.left, room.top), (room.right, room.top), Pen.RULE)
    sizes = " × ".join(unit.length(v) for v in folded.size)
    for text, y, face in (("Folded, not to scale", 4.5, Face.STRONG), (sizes, 9.5, Face.FIGURES)):
        page.words.append(Words(text=text, at=(room.left + PAD, room.top - y), size=3.2, face=face))
    inner = room.within(PAD, PAD, PAD, 3 * PAD)
    stage = fitted(folded.seen.width, folded.seen.height, inner)
    if is_shaded:
        draw_shaded(page, stage, folded.seen)
    draw_lines(page, stage, folded.seen.edges, Pen.EDGE)
    draw_lines(page, stage, folded.seen.tangents, Pen.TANGENT)


def _remarks(groups: tuple[HoleGroup, ...], flat: FlatView, markup: Markup) -> tuple[str, ...]:
    """Return the lines that stand under the tables, the lowest first."""
    out = ["Bend up: filled triangle, long dashes. Down: open triangle, dash-dot."]
    if groups and not flat.has_all_ordinates:
        out.append("Holes whose place is not given here: as in the DXF.")
    if flat.said_once:
        out.append(flat.said_once)
    for remark in reversed(markup.remarks):
        out += reversed(textwrap.wrap(remark, _LETTERS))
    return tuple(out)
