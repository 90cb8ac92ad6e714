"""The sheet of the folded part: seen from the front, the top and a side, with its sizes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from kaigata.core.blank.mesh import MeshPiece
from kaigata.core.markup.dimensions import arrowed, column_of, row_of
from kaigata.core.markup.folded_view import (
    FROM_LEFT,
    FROM_RIGHT,
    FRONT,
    TOP,
    Seen,
    folded_bodies,
    seen_together,
)
from kaigata.core.markup.layout import PAD
from kaigata.core.markup.levels import levels
from kaigata.core.markup.measure import Unit, scale_name, standard_scale
from kaigata.core.markup.ordinates import has_room
from kaigata.core.markup.page import Box, Face, Page, Pen, Words
from kaigata.core.markup.stage import Stage, draw_lines
from kaigata.core.markup.tables import COLUMN
from kaigata.core.markup.title_block import BLOCK_HEIGHT, draw_frame
from kaigata.core.plane import Contour, Point

__all__ = ["FoldedSheet", "FoldedViews", "draw_folded", "folded_views", "is_third_angle"]

_BETWEEN = 16.0
"""From view to view, mm of paper."""
_BESIDE, _ABOVE, _UNDER = 6.0, 24.0, 10.0
"""What is left free at the left, and what heading and width at the top and names at the foot take,
mm of paper."""
_OFF, _FIGURE = 9.0, 3.0
"""From a view to its dimension line, and what the figure takes beyond that, mm of paper."""
_ORDINATES = 17.0
"""What a row or column of ordinates takes, mm of paper."""
_ALONG = ("width", "depth", "height")
"""What the sizes along x, y and z are called."""
_SMALL_END, _LARGE_END, _LONG = 1.2, 2.2, 4.4
"""The cone of the sign for how views lie beside each other (ISO 5456-2): radii and length, mm."""


@dataclass(frozen=True, slots=True, kw_only=True)
class FoldedViews:
    """A folded part seen square to its axes.

    The side is seen from the right in third-angle projection, from the left in first-angle;
    ``levels`` are those along x, y and z.
    """

    front: Seen
    top: Seen
    side: Seen
    is_third_angle: bool
    levels: tuple[tuple[float, ...], ...] = ((), (), ())


@dataclass(frozen=True, slots=True, kw_only=True)
class FoldedSheet:
    """A sheet with the folded part: its scale, and where on the paper each view lies.

    ``levels`` are those along x, y and z that stand beside the views.
    """

    page: Page
    scale: float
    front: Box
    top: Box
    side: Box
    levels: tuple[tuple[float, ...], ...]


def is_third_angle(paper: str) -> bool:
    """Whether drawings on a paper show views in third-angle projection, as ASME Y14.3 does.

    Examples
    --------
    >>> is_third_angle("A3"), is_third_angle("letter")
    (False, True)
    """
    return not paper.startswith("A")


def folded_views(
    pieces: Sequence[MeshPiece], thickness: float, *, is_third_angle: bool
) -> FoldedViews:
    """Return a folded part as it is seen from the front, the top and a side.

    Parameters
    ----------
    pieces : sequence of MeshPiece
        The part, as ``fold_mesh`` gives it.
    thickness : float
        Of the sheet, mm.
    is_third_angle : bool
        Whether the side is seen from the right.
    """
    ways = (FRONT, TOP, FROM_RIGHT if is_third_angle else FROM_LEFT)
    bodies = folded_bodies(pieces, thickness, [way.eye for way in ways])
    front, top, side = (seen_together([b], way) for b, way in zip(bodies, ways, strict=True))
    return FoldedViews(
        front=front, top=top, side=side, is_third_angle=is_third_angle,
        levels=levels(pieces, thickness),
    )  # fmt: skip


def draw_folded(width: float, height: float, views: FoldedViews, unit: Unit) -> FoldedSheet:
    """Draw a sheet with the folded part.

    Parameters
    ----------
    width, height : float
        Of the sheet, mm.
    views : FoldedViews
        The part.
    unit : Unit
        What lengths are written in.
    """
    page = Page(width, height)
    frame = draw_frame(page)
    of_x, of_y, of_z = views.levels
    beside, under = (_ORDINATES if any(v) else 0.0 for v in (of_y + of_z, of_x))
    room = frame.within(left=_BESIDE + beside, bottom=_UNDER + under, right=PAD, top=_ABOVE)
    scale = _scale(room, views)
    front, top, side = _boxes(room, views, scale)
    lower = min(front, top, key=lambda box: box.bottom)
    for seen, box, name in ((views.front, front, "front"), (views.top, top, "top"),
                            (views.side, side, _side(views))):  # fmt: skip
        _draw(page, seen, box, scale)
        y = box.bottom - 4.0 - (under if box is lower else 0.0)
        page.words.append(Words(text=f"from the {name}", at=(box.left, y), size=2.4))
    _sizes(page, views, (front, top), unit)
    shown: list[tuple[float, ...]] = []
    for write, box, long, along in ((row_of, lower, front.width, of_x),
                                    (column_of, top, top.height, of_y),
                                    (column_of, front, front.height, of_z)):  # fmt: skip
        shown.append(along if has_room(along, long) else ())
        if shown[-1]:
            write(page, (box.left, box.bottom), scale, along, [False] * len(along), unit)
    angle = "third angle" if views.is_third_angle else "first angle"
    heading = f"Folded, {scale_name(scale)}, {angle}"
    at = (frame.left + PAD, frame.top - 4.5)
    page.words.append(Words(text=heading, at=at, size=3.2, face=Face.STRONG))
    _sign(page, (at[0] + 1.8 * len(heading), at[1]), is_third_angle=views.is_third_angle)
    _tell_left_out(page, (at[0], at[1] - 4.5), views.levels, shown)
    return FoldedSheet(page=page, scale=scale, front=front, top=top, side=side, levels=tuple(shown))


def _tell_left_out(
    page: Page,
    at: Point,
    wanted_levels: Sequence[tuple[float, ...]],
    shown: Sequence[tuple[float, ...]],
) -> None:
    """Write how many levels along which size have no room beside the views, if any have none."""
    left_out = [
        f"{len(wanted)} along its {name}"
        for name, wanted, has in zip(_ALONG, wanted_levels, shown, strict=True)
        if len(wanted) > len(has)
    ]
    if left_out:
        said = f"Distances without room on this paper: {', '.join(left_out)}"
        page.words.append(Words(text=said, at=at, size=2.4))


def _side(views: FoldedViews) -> str:
    return "right" if views.is_third_angle else "left"


def _scale(room: Box, views: FoldedViews) -> float:
    """Return the largest standard scale at which no view comes to lie under the title block."""
    x, z = views.front.width, views.front.height
    y = views.top.height
    wide, high = room.width - _BETWEEN, room.height - _BETWEEN
    beside, above = COLUMN + 2 * PAD + _OFF + _FIGURE, BLOCK_HEIGHT
    # All left of the block, all above it, or the lower row left of it and the upper above it.
    rooms = [(wide - beside, high), (wide, high - above)]
    most = [standard_scale(x + y, y + z, room=r) for r in rooms]
    if not views.is_third_angle:
        corner = standard_scale(x, z, room=(room.width - beside, room.height - above))
        most.append(min(corner, standard_scale(x + y, y + z, room=(wide, high))))
    return max(most)


def _boxes(room: Box, views: FoldedViews, scale: float) -> tuple[Box, Box, Box]:
    """Return where the views lie, from the upper left corner of their room on."""
    x, z = views.front.width * scale, views.front.height * scale
    y = views.top.height * scale
    upper, lower = (y, z) if views.is_third_angle else (z, y)
    rows = (room.top - upper, room.top - upper - _BETWEEN - lower)
    of_front, of_top = (rows[1], rows[0]) if views.is_third_angle else rows
    right = room.left + x + _BETWEEN

    def box(left: float, bottom: float, wide: float, high: float) -> Box:
        return Box(left=left, bottom=bottom, right=left + wide, top=bottom + high)

    front, top = box(room.left, of_front, x, z), box(room.left, of_top, x, y)
    return front, top, box(right, of_front, y, z)


def _draw(page: Page, seen: Seen, box: Box, scale: float) -> None:
    stage = Stage(at=(box.left, box.bottom), scale=scale, width=box.width, height=box.height)
    draw_lines(page, stage, seen.edges, Pen.EDGE)
    draw_lines(page, stage, seen.tangents, Pen.TANGENT)
    draw_lines(page, stage, seen.hidden, Pen.HIDDEN)


def _sizes(page: Page, views: FoldedViews, boxes: tuple[Box, Box], unit: Unit) -> None:
    """Write the overall width over the views, and height and depth at their right."""
    upper = max(boxes, key=lambda b: b.top)
    y = upper.top + _OFF
    arrowed(
        page,
        ((upper.left, upper.top), (upper.right, upper.top)),
        ((upper.left, y), (upper.right, y)),
        unit.length(views.front.width),
        is_overall=True,
    )
    for box, size in zip(boxes, (views.front.height, views.top.height), strict=True):
        x = box.right + _OFF
        arrowed(
            page,
            ((box.right, box.bottom), (box.right, box.top)),
            ((x, box.bottom), (x, box.top)),
            unit.length(size),
            is_overall=True,
        )


def _sign(page: Page, at: Point, *, is_third_angle: bool) -> None:
    """Draw a cone from its side and from its small end, at the side where that is shown."""
    x, y = at
    circles, cone = (x + 3.0, x + 7.0) if is_third_angle else (x + 10.0, x + 2.0)
    for radius in (_SMALL_END, _LARGE_END):
        page.run(Contour.circle((circles, y), radius).segments, Pen.RULE)
    far = cone + _LONG
    page.lines(
        [(cone, y - _SMALL_END), (far, y - _LARGE_END), (far, y + _LARGE_END),
         (cone, y + _SMALL_END)],
        Pen.RULE, closed=True,
    )  # fmt: skip
