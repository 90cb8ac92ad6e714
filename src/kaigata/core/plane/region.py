"""A region of the plane: an outer contour and the holes in it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

from shapely.geometry import Polygon

from kaigata.core.plane.contour import Contour
from kaigata.core.plane.motion import Motion
from kaigata.core.plane.tolerance import FINE_CHORD

__all__ = ["Region"]


@dataclass(frozen=True)
class Region:
    """An outer contour (counter-clockwise) with holes (clockwise), mm.

    Examples
    --------
    >>> washer = Region(Contour.circle((0, 0), 2), (Contour.circle((0, 0), 1).reversed(),))
    >>> round(washer.area / math.pi, 6)
    3.0
    """

    outer: Contour
    holes: tuple[Contour, ...] = ()

    @classmethod
    def oriented(cls, outer: Contour, holes: tuple[Contour, ...] = ()) -> Region:
        """Return the region with its contours turned the way round they must run."""
        return cls(
            outer if outer.area > 0 else outer.reversed(),
            tuple(h if h.area < 0 else h.reversed() for h in holes),
        )

    @property
    def contours(self) -> tuple[Contour, ...]:
        """The outer contour, then the holes."""
        return (self.outer, *self.holes)

    @cached_property
    def area(self) -> float:
        """Net area, holes taken off, mm²."""
        return math.fsum(c.area for c in self.contours)

    @cached_property
    def length(self) -> float:
        """Length of all contours, mm."""
        return math.fsum(c.length for c in self.contours)

    def moved(self, motion: Motion) -> Region:
        """Return the region after a motion."""
        return Region(self.outer.moved(motion), tuple(h.moved(motion) for h in self.holes))

    def polygon(self, chord: float = FINE_CHORD) -> Polygon:
        """Return the region as a polygon with chords within ``chord`` mm of its arcs."""
        return Polygon(self.outer.flattened(chord), [h.flattened(chord) for h in self.holes])
