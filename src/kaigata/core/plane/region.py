"""A region of the plane: an outer contour and the holes in it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from shapely.geometry import Polygon
from shapely.strtree import STRtree

from kaigata.core.errors import InputError
from kaigata.core.plane.contour import Contour, require_simple
from kaigata.core.plane.motion import Motion
from kaigata.core.plane.tolerance import FINE_CHORD, HAIR

__all__ = ["Region", "require_sound"]


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
        outer = shapely.linearrings(np.array(self.outer.flattened(chord)))
        holes = [shapely.linearrings(np.array(h.flattened(chord))) for h in self.holes]
        filled: Polygon = shapely.polygons(outer, holes or None)
        return filled


def require_sound(region: Region, *, where: str, name: str) -> None:
    """Refuse a region one of whose contours is unusable, or whose holes are not holes in it.

    Parameters
    ----------
    region : Region
        What to judge.
    where : str
        The path of the part in its document; ``outer`` or ``holes[i]`` is put behind it.
    name : str
        What people call the part.

    Raises
    ------
    InputError
        A contour crosses itself or holds nothing, a hole reaches out of the outline, or into
        another hole.
    """
    places = ["outer", *(f"holes[{i}]" for i in range(len(region.holes)))]
    for contour, place in zip(region.contours, places, strict=True):
        require_simple(contour, where=f"{where}.{place} ({name})")
    # As fine as they have been found to be simple, and no finer.
    outer, *holes = (c.polygon(HAIR) for c in region.contours)
    for i, hole in enumerate(holes):
        at = f"{where}.holes[{i}] ({name})"
        out = hole.difference(outer)
        if out.area > HAIR * hole.length:
            x, y = out.representative_point().coords[0]
            raise InputError(
                f"the hole reaches out of the part at {x:g}, {y:g}",
                where=at,
                fix="Keep every hole within the outer contour, or draw the notch into that",
            )
        if hole.area > outer.area - HAIR * outer.length:
            raise InputError("the hole leaves nothing of the part", where=at)
    tree = STRtree(holes)
    for i, j in tree.query(holes, predicate="intersects").T if holes else ():
        both = holes[i].intersection(holes[j]) if i < j else None
        if both is not None and both.area > HAIR * min(holes[i].length, holes[j].length):
            x, y = both.representative_point().coords[0]
            raise InputError(
                f"the hole runs into holes[{i}] at {x:g}, {y:g}",
                where=f"{where}.holes[{j}] ({name})",
                fix="Draw the two as one hole; what lies in a hole is a part of its own",
            )
