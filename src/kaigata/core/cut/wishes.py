"""What may be asked of a tool path beside the cut chart."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from kaigata.core.cut.marking import Marking
from kaigata.core.plane import Point

__all__ = ["ByHand", "ContourKey", "Wishes"]

ContourKey = tuple[str, int, str]
"""A contour on a sheet: its part, which copy, and its name there."""


@dataclass(frozen=True, slots=True, kw_only=True)
class ByHand:
    """What hands have settled on a sheet: the whole order, if any, and places to enter, mm."""

    order: tuple[ContourKey, ...] = ()
    pierces: Mapping[ContourKey, Point] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class Wishes:
    """How a path is made.

    Attributes
    ----------
    zero
        The corner of the sheet where the head sets out: the program's work zero.
    by_machine
        The machine keeps the kerf off the part (G41/G42).
    order
        ``short``, or ``heat``: the next start lies far from recent cuts.
    round_freed
        Rapid moves go round what is cut free where there is a way.
    common_cut
        Edges of two parts a kerf apart are cut once.
    marking
        What is marked before.
    skeleton
        Largest side of the pieces the skeleton is cut into, mm; 0: left whole.
    cut_off
        Whether the unused rest of the sheet is cut off.
    by_hand
        What hands have settled, by number of the sheet.
    """

    zero: str = "lower-left"
    by_machine: bool = False
    order: str = "short"
    round_freed: bool = False
    common_cut: bool = False
    marking: Marking = field(default_factory=Marking)
    skeleton: float = 0.0
    cut_off: bool = False
    by_hand: Mapping[int, ByHand] = field(default_factory=dict)
