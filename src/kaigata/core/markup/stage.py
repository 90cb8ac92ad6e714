"""Where something drawn true to shape lies on a page: a flat, or a part as it is seen."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from kaigata.core.markup.page import Box, Page, Pen
from kaigata.core.plane import Point

__all__ = ["Stage", "draw_lines", "fitted"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """Something on a page: where its lower left corner lies, its scale, and how large it is there.

    Of a flat its points are those of the flat, of what is seen those of the view.
    """

    at: Point
    scale: float
    width: float
    height: float

    def on_paper(self, p: Point) -> Point:
        """Return where a point of it lies on the paper."""
        return (self.at[0] + p[0] * self.scale, self.at[1] + p[1] * self.scale)


def fitted(wide: float, high: float, room: Box) -> Stage:
    """Return how something so large, mm, lies in the middle of a room and fills it."""
    scale = min(room.width / wide, room.height / high)
    width, height = wide * scale, high * scale
    at = (room.left + (room.width - width) / 2, room.bottom + (room.height - height) / 2)
    return Stage(at=at, scale=scale, width=width, height=height)


def draw_lines(page: Page, stage: Stage, lines: Iterable[tuple[Point, Point]], pen: Pen) -> None:
    """Draw straight lines of what lies on a stage."""
    for a, b in lines:
        page.line(stage.on_paper(a), stage.on_paper(b), pen)
