"""The holes of a blank by kind: what a hole table has a row for."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from kaigata.core.blank import FLAT_ONLY, Blank
from kaigata.core.plane import Contour, Point
from kaigata.core.plane.tolerance import CHORD

__all__ = ["HoleGroup", "hole_groups"]


@dataclass(frozen=True, slots=True, kw_only=True)
class HoleGroup:
    """Holes that are alike.

    Attributes
    ----------
    letter : str
        What they are called on the drawing.
    places : tuple of Point
        Their middles in the flat, mm.
    width, height : float
        Of one, as it lies, mm.
    diameter : float, optional
        Where they are round.
    note : str
        What is made of them later: a thread, a countersink.
    """

    letter: str
    places: tuple[Point, ...]
    width: float
    height: float
    diameter: float | None
    note: str


def hole_groups(blank: Blank) -> tuple[HoleGroup, ...]:
    """Return a blank's holes grouped by size, shape and note: round ones by size, then others."""
    found: dict[tuple[bool, float, float, float, str], list[Contour]] = {}
    for hole in blank.region.holes:
        x0, y0, x1, y1 = hole.bounds
        is_other = hole.diameter is None
        key = (is_other, _near(x1 - x0), _near(y1 - y0), _near(-hole.area), _note_at(blank, hole))
        found.setdefault(key, []).append(hole)
    letters = _letters()
    out = []
    for key in sorted(found):
        _, width, height, _, note = key
        alike = found[key]
        places = tuple(sorted((_middle(h) for h in alike), key=lambda p: (p[0], p[1])))
        out.append(
            HoleGroup(letter=next(letters), places=places, width=width, height=height,
                      diameter=alike[0].diameter, note=note)
        )  # fmt: skip
    return tuple(out)


def _near(value: float) -> float:
    """Return a size as it is compared: holes that differ by less are drawn alike."""
    return round(value / CHORD) * CHORD


def _middle(contour: Contour) -> Point:
    x0, y0, x1, y1 = contour.bounds
    return ((x0 + x1) / 2, (y0 + y1) / 2)


def _note_at(blank: Blank, hole: Contour) -> str:
    """Return what the marks in a hole's middle say, and whether it is in the flat alone."""
    x0, y0, x1, y1 = hole.bounds
    near = min(x1 - x0, y1 - y0) / 4
    said = [m.text for m in blank.marks if m.end is None and math.dist(m.at, _middle(hole)) < near]
    if any(math.dist(at, _middle(hole)) < near for at in blank.flat_only):
        said.append(FLAT_ONLY)
    return ", ".join(said)


def _letters() -> Iterator[str]:
    """Yield A to Z, then AA, AB and so on, without I and O, which look like figures."""
    alphabet = "ABCDEFGHJKLMNPQRSTUVWXYZ"
    before = [""]
    while True:
        before = [b + c for b in before for c in alphabet]
        yield from before
