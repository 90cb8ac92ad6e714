"""Where a flat lies on a page."""

from __future__ import annotations

from dataclasses import dataclass

from kaigata.core.plane import Point

__all__ = ["Stage"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """A flat on a page: where its lower left corner lies, its scale, and how large it is there."""

    at: Point
    scale: float
    width: float
    height: float

    def on_paper(self, p: Point) -> Point:
        """Return where a point of the flat lies on the paper."""
        return (self.at[0] + p[0] * self.scale, self.at[1] + p[1] * self.scale)
