"""How a sheet is laid out: views at its left, tables at its right over the title block.

Rows that have no room there go on on further sheets, which hold nothing but tables.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from types import MappingProxyType

from kaigata.core.markup.page import Box, Page, Pen, Words
from kaigata.core.markup.tables import COLUMN, Table, draw_rows
from kaigata.core.markup.title_block import BLOCK_HEIGHT, Title, draw_frame, draw_title, frame_of

__all__ = ["PAD", "halves", "with_tables", "with_titles"]

PAD = 4.0
"""Between what lies beside each other on a sheet, mm."""


def halves(frame: Box) -> tuple[Box, Box]:
    """Return what of a frame is for the views and what for the tables."""
    between = frame.right - COLUMN - PAD
    return frame.within(right=frame.right - between), Box(
        left=between + PAD / 2,
        bottom=frame.bottom + BLOCK_HEIGHT + PAD,
        right=frame.right - PAD / 2,
        top=frame.top,
    )


def with_tables(
    page: Page, room: Box, tables: tuple[Table, ...], remarks: tuple[str, ...]
) -> list[Page]:
    """Draw the tables beside the views and, where they have no room there, on further sheets."""
    x = room.left - PAD / 2
    page.line((x, room.top), (x, room.bottom - PAD), Pen.RULE)
    for n, text in enumerate(remarks):
        page.words.append(
            Words(text=text, at=(room.left + 1.0, room.bottom + 2.0 + 5.0 * n), size=2.4)
        )
    places = _places(page, room.within(bottom=5.0 * len(remarks) + PAD))
    sheet, box = next(places)
    pages = [sheet]
    for table in tables:
        done = 0
        while done < len(table.rows):
            done, end = draw_rows(sheet, box, table, done)
            box = box.within(top=box.top - end)
            if done < len(table.rows):
                sheet, box = next(places)
                if sheet is not pages[-1]:
                    pages.append(sheet)
    return pages


def _places(page: Page, room: Box) -> Iterator[tuple[Page, Box]]:
    """Yield where tables may stand: a room of the first sheet, then columns of further ones."""
    yield page, room
    while True:
        further = Page(page.width, page.height)
        for column in _columns(draw_frame(further)):
            yield further, column


def _columns(frame: Box) -> list[Box]:
    """Return the columns of a sheet that holds nothing but tables, left to right."""
    step = COLUMN + 2 * PAD
    boxes = []
    for n in range(max(1, int((frame.width - PAD) // step))):
        left = frame.left + PAD + n * step
        is_over_block = left + COLUMN > frame.right - COLUMN - PAD
        bottom = frame.bottom + (BLOCK_HEIGHT if is_over_block else 0.0) + PAD
        boxes.append(Box(left=left, bottom=bottom, right=left + COLUMN, top=frame.top))
    return boxes


def with_titles(
    pages: Sequence[Page],
    title: Title,
    facts: dict[str, str],
    own: Sequence[tuple[str, str]] = (),
    *,
    scales: Mapping[int, str] = MappingProxyType({}),
) -> None:
    """Draw the title block on every sheet, with its number: as ``draw_title``.

    ``scales`` are those of sheets, counted from 0, that have another than ``facts`` says.
    """
    for n, page in enumerate(pages, 1):
        frame = frame_of(page.width, page.height)
        block = Box(
            left=frame.right - COLUMN - PAD,
            bottom=frame.bottom,
            right=frame.right,
            top=frame.bottom + BLOCK_HEIGHT,
        )
        of_sheet = {**facts, "scale": scales.get(n - 1, facts["scale"])}
        draw_title(page, block, title, of_sheet, f"{n}/{len(pages)}", own)
