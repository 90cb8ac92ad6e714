"""The flat at 1:1 on the pages of a printer, to be laid together: for checking cut parts by eye."""

from __future__ import annotations

import math

import shapely
from shapely.geometry import box

from kaigata.core.blank import Blank
from kaigata.core.errors import InputError, LimitError
from kaigata.core.markup.measure import angle_text
from kaigata.core.markup.page import PAPERS, Anchor, Box, Face, Page, Pen, Words
from kaigata.core.plane import Motion, Point
from kaigata.core.plane.tolerance import CHORD

__all__ = ["CHECK_LENGTH", "template_pages"]

_EDGE = 10.0
"""What a printer leaves white, mm."""
_OVERLAP = 10.0
"""What a page shows of the next one, for laying them on each other."""
_BEYOND = 5.0
"""What is drawn beyond the crop marks, mm."""
_MOST = 200
"""Pages that somebody may want to lay together."""
CHECK_LENGTH = 100.0
"""mm of the line by which a print is checked."""


def template_pages(blank: Blank, paper: str = "A4") -> list[Page]:
    """Return a blank's flat at 1:1, cut into pages with crop marks and a line to check.

    Parameters
    ----------
    blank : Blank
        What to draw.
    paper : str
        A key of ``PAPERS``; it is taken lying or standing, whichever gives fewer pages.

    Returns
    -------
    list of Page
        Row by row from the lower left; pages on which nothing of the part lies are left out.

    Raises
    ------
    InputError
        There is no such paper.
    LimitError
        More pages than can be laid together.
    """
    if paper not in PAPERS:
        raise InputError(f"there is no paper {paper!r}", fix=f"Take one of {', '.join(PAPERS)}")
    lying = PAPERS[paper]
    wide, high = min((lying, lying[::-1]), key=lambda p: math.prod(_counts(blank, p)))
    columns, rows = _counts(blank, (wide, high))
    if columns * rows > _MOST:
        raise LimitError(
            f"at 1:1 it takes {columns * rows} pages, more than {_MOST}", fix="Take larger paper"
        )
    step = _step((wide, high))
    whole = blank.region.polygon(CHORD)
    shapely.prepare(whole)
    pages = []
    for row in range(rows):
        for column in range(columns):
            at = (column * step[0], row * step[1])
            shown = box(*at, at[0] + wide - 2 * _EDGE, at[1] + high - 2 * _EDGE)
            if whole.intersects(shown):
                name = f"{blank.name}: column {column + 1} of {columns}, row {row + 1} of {rows}"
                pages.append(_page(blank, (wide, high), at, name))
    return pages


def _step(paper: tuple[float, float]) -> Point:
    return (paper[0] - 2 * _EDGE - _OVERLAP, paper[1] - 2 * _EDGE - _OVERLAP)


def _counts(blank: Blank, paper: tuple[float, float]) -> tuple[int, int]:
    """Return how many columns and rows of pages hold a blank."""
    wide, high = _step(paper)
    return (
        max(1, math.ceil((blank.width - _OVERLAP) / wide)),
        max(1, math.ceil((blank.height - _OVERLAP) / high)),
    )


def _page(blank: Blank, paper: tuple[float, float], at: Point, name: str) -> Page:
    room = Box(left=_EDGE, bottom=_EDGE, right=paper[0] - _EDGE, top=paper[1] - _EDGE)
    window = room.within(-_BEYOND, -_BEYOND, -_BEYOND, -_BEYOND)
    page = Page(*paper, window=window)
    place = Motion(x=_EDGE - at[0], y=_EDGE - at[1])
    for contour in blank.region.contours:
        x0, y0, x1, y1 = contour.bounds
        (left, bottom), (right, top) = place.point((x0, y0)), place.point((x1, y1))
        if window.meets(Box(left=left, bottom=bottom, right=right, top=top)):
            page.run(contour.moved(place).segments, Pen.CUT)
    for bend in blank.bends:
        pen = Pen.BEND_UP if bend.is_up else Pen.BEND_DOWN
        for a, b in bend.lines:
            page.line(place.point(a), place.point(b), pen)
        (x0, y0), (x1, y1) = (place.point(p) for p in bend.line)
        text = f"{bend.number} {bend.direction} {angle_text(bend.angle)}"
        middle = ((x0 + x1) / 2, (y0 + y1) / 2)
        if _is_in(room, middle):
            page.words.append(
                Words(text=text, at=middle, size=4.0, face=Face.FIGURES, anchor=Anchor.MIDDLE,
                      turn=0.0 if bend.is_level else math.pi / 2, is_clear=True)
            )  # fmt: skip
    _crop_marks(page, room)
    _check(page, room, name)
    return page


def _is_in(box_: Box, p: Point) -> bool:
    return box_.left <= p[0] <= box_.right and box_.bottom <= p[1] <= box_.top


def _crop_marks(page: Page, room: Box) -> None:
    """Draw crosses at the corners, and at the far sides where the next page's corners come."""
    for x in (room.left, room.right - _OVERLAP, room.right):
        for y in (room.bottom, room.top - _OVERLAP, room.top):
            page.line((x - 2.5, y), (x + 2.5, y), Pen.DIMENSION)
            page.line((x, y - 2.5), (x, y + 2.5), Pen.DIMENSION)


def _check(page: Page, room: Box, name: str) -> None:
    """Draw the line whose length tells whether a print is true, and which page this is."""
    y, x = room.top + 2.8, room.left + 5.0
    page.line((x, y), (x + CHECK_LENGTH, y), Pen.DIMENSION)
    for end in (x, x + CHECK_LENGTH):
        page.line((end, y - 1.5), (end, y + 1.5), Pen.DIMENSION)
    page.words.append(
        Words(text=f"{CHECK_LENGTH:g} mm: if not, print at 100 %", at=(x + CHECK_LENGTH / 2, y),
              size=2.5, anchor=Anchor.MIDDLE, is_clear=True)
    )  # fmt: skip
    page.words.append(
        Words(text=name, at=(room.right - 5.0, _EDGE / 2), size=3.0, face=Face.STRONG,
              anchor=Anchor.END)
    )  # fmt: skip
