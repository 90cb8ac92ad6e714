"""The views of an assembly: as it stands, and exploded, each part with its number beside it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from kaigata.core.markup.balloons import ASIDE, balloons_of, draw_balloon
from kaigata.core.markup.exploded import exploded
from kaigata.core.markup.folded_view import Body, Seen, seen_together
from kaigata.core.markup.layout import PAD, halves
from kaigata.core.markup.page import Box, Face, Page, Pen, Words
from kaigata.core.markup.shading import draw_shaded
from kaigata.core.markup.stage import Stage, draw_lines, fitted
from kaigata.core.markup.title_block import BLOCK_HEIGHT, draw_frame
from kaigata.core.part import IN_PLACE
from kaigata.core.plane import Point

__all__ = ["Component", "NumberedView", "draw_assembled", "exploded_view"]

_HEADING = 6.0
"""What the name of a view takes of its room, mm of paper."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Component:
    """A part of an assembly.

    Attributes
    ----------
    name, material : str
        What it is called and made of.
    quantity : int
        How many there are in one assembly.
    thickness : float
        Of its sheet, mm; 0 where it is no folded sheet.
    size : (float, float), optional
        Width and height of its blank, mm.
    bodies : tuple of Body
        Each of them as it is seen; none where they cannot be drawn.
    """

    name: str
    quantity: int
    material: str = ""
    thickness: float = 0.0
    size: tuple[float, float] | None = None
    bodies: tuple[Body, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class NumberedView:
    """A view of an assembly.

    Attributes
    ----------
    name : str
        What it shows.
    page : Page
        The sheet that it is on.
    targets : dict
        What each number points at, mm of paper.
    has_hidden : bool
        Whether some number leads to a part that others hide.
    """

    name: str
    page: Page
    targets: dict[int, Point]
    has_hidden: bool


def draw_assembled(
    page: Page, room: Box, components: Sequence[Component], *, is_shaded: bool = True
) -> NumberedView:
    """Draw an assembly as it stands, as large as its room allows."""
    seen = seen_together([b for c in components for b in c.bodies])
    return _draw(page, room, seen, components, "Assembled", is_shaded=is_shaded)


def exploded_view(
    width: float, height: float, components: Sequence[Component], *, is_shaded: bool = True
) -> NumberedView | None:
    """Return a further sheet with the parts come apart; None where none lie on each other.

    Parameters
    ----------
    width, height : float
        Of the sheet, mm.
    components : sequence of Component
        The parts.
    """
    bodies = [b for c in components for b in c.bodies]
    moves = exploded(bodies)
    if not moves.any():
        return None
    apart = [_moved(b, m) for b, m in zip(bodies, moves, strict=True)]
    numbers = iter(apart)
    shown = [replace(c, bodies=tuple(next(numbers) for _ in c.bodies)) for c in components]
    page = Page(width, height)
    frame = draw_frame(page)
    seen = seen_together([*apart, _paths(bodies, moves)])
    left, _ = halves(frame)
    rooms = (left, frame.within(bottom=BLOCK_HEIGHT + PAD))
    room = max(rooms, key=lambda r: _stage(r, seen).scale)
    return _draw(page, room, seen, shown, "Exploded", is_shaded=is_shaded)


def _moved(body: Body, by: np.ndarray) -> Body:
    x, y, z = by.tolist()
    return body.placed(replace(IN_PLACE, origin=(x, y, z)))


def _paths(bodies: Sequence[Body], moves: np.ndarray) -> Body:
    """Return the ways that bodies go as a body of lines: of the middles of the sides behind."""
    corners = [b.triangles.reshape(-1, 3) for b in bodies]
    low, high = (np.array([f(c, axis=0) for c in corners]) for f in (np.min, np.max))
    begins = np.where(moves > 0, low, np.where(moves < 0, high, (low + high) / 2))
    far = moves.any(axis=1)
    return Body(
        triangles=np.zeros((0, 3, 3)),
        edges=np.stack([begins, begins + moves], axis=1)[far],
        tangents=np.zeros((0, 2, 3)),
        nearer=0.0,
    )


def _stage(room: Box, seen: Seen) -> Stage:
    return fitted(seen.width, seen.height, room.within(ASIDE, PAD, ASIDE, PAD + _HEADING))


def _draw(
    page: Page,
    room: Box,
    seen: Seen,
    components: Sequence[Component],
    name: str,
    *,
    is_shaded: bool,
) -> NumberedView:
    """Draw what is seen as large as its room allows, and beside it a number for each component."""
    stage = _stage(room, seen)
    count = sum(len(c.bodies) for c in components)
    own = [e for e, owner in zip(seen.edges, seen.owners, strict=True) if owner < count]
    paths = [e for e, owner in zip(seen.edges, seen.owners, strict=True) if owner >= count]
    if is_shaded:
        draw_shaded(page, stage, seen)
    draw_lines(page, stage, own, Pen.EDGE)
    draw_lines(page, stage, seen.tangents, Pen.TANGENT)
    draw_lines(page, stage, paths, Pen.PATH)
    parts = replace(seen, edges=tuple(own), owners=tuple(o for o in seen.owners if o < count))
    within = room.within(top=_HEADING)
    balloons = balloons_of(parts, [c.bodies for c in components], stage.on_paper, within)
    for balloon in balloons:
        draw_balloon(page, balloon)
    page.words.append(
        Words(text=f"{name}, not to scale", at=(room.left + PAD, room.top - 4.5), size=3.2,
              face=Face.STRONG)
    )  # fmt: skip
    return NumberedView(
        name=name,
        page=page,
        targets={b.number: b.target for b in balloons},
        has_hidden=any(not b.is_seen for b in balloons),
    )
