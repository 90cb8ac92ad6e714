"""Sizes that somebody chose for a drawing: from where to where, which way, and how exact.

Their ends are places of the flat that can be told: corners, middles of holes and arcs, bend lines.
A size is measured between what lies there now, never taken from what was written before; where
nothing lies there any more it is lost, and that is told.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Annotated, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from kaigata.core.blank import Blank
from kaigata.core.markup.measure import Unit
from kaigata.core.plane import Motion, Point
from kaigata.core.plane.tolerance import CHORD, LENGTH

__all__ = [
    "ChosenSize",
    "ChosenSizes",
    "Feature",
    "PlaceKind",
    "Way",
    "features",
    "followed",
    "measured",
    "moved_size",
]

_FOLLOWS = 50.0
"""How far a place may have moved in a revision to be followed, mm."""

_Place = Annotated[float, Field(ge=-100_000, le=100_000, allow_inf_nan=False)]
_Deviation = Annotated[float, Field(ge=-100, le=100, allow_inf_nan=False)]


PlaceKind = Literal["corner", "edge", "hole", "arc", "bend", "bend end", "mark"]


class Way(StrEnum):
    """Which way a size is taken: across, upwards, straight from end to end, or of something round.

    Of a whole circle that is its diameter, of an arc its radius.
    """

    LEVEL = "level"
    UPRIGHT = "upright"
    STRAIGHT = "straight"
    ROUND = "round"


class ChosenSize(BaseModel):
    """A size of the flat, from ``start`` to ``end`` in the flat's frame, mm.

    Attributes
    ----------
    way : Way
        Which way it is taken.
    start, end : (float, float)
        Places of the flat; of something round both are its middle.
    upper, lower : float, optional
        By how much the part may be larger and smaller, mm; the lower one usually negative.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    way: Way
    start: tuple[_Place, _Place]
    end: tuple[_Place, _Place]
    upper: _Deviation | None = None
    lower: _Deviation | None = None

    @model_validator(mode="after")
    def _settled(self) -> Self:
        if (self.upper is None) != (self.lower is None):
            raise ValueError("a tolerance has both an upper and a lower deviation")
        if self.upper is not None and self.lower is not None and self.lower > self.upper:
            raise ValueError("the lower deviation is above the upper one")
        return self

    def tolerance(self, unit: Unit) -> tuple[str, ...]:
        """Return its deviations as they are written: one where both are alike, or none.

        Examples
        --------
        >>> from kaigata.core.markup.measure import MILLIMETRE
        >>> even = ChosenSize(way="level", start=(0, 0), end=(9, 0), upper=0.1, lower=-0.1)
        >>> even.tolerance(MILLIMETRE)
        ('±0.1',)
        """
        if self.upper is None or self.lower is None:
            return ()
        if abs(self.upper + self.lower) <= LENGTH:
            return (f"±{_deviation(self.upper, unit)}",) if self.upper else ()
        return tuple(
            (f"{'+' if v > 0 else '−'}" if abs(v) > LENGTH else "") + _deviation(v, unit)
            for v in (self.upper, self.lower)
        )


def _deviation(value: float, unit: Unit) -> str:
    """Return how far something may be off: one decimal more than lengths, more if that says 0."""
    places = unit.decimals + 1
    while abs(value) > LENGTH and float(unit.exact(value, places)) == 0:
        places += 1
    return unit.short(abs(value), places)


ChosenSizes = Annotated[tuple[ChosenSize, ...], Field(max_length=60)]


@dataclass(frozen=True, slots=True, kw_only=True)
class Feature:
    """A place of a flat that a size may be taken from.

    ``radius`` is that of what is round about it, mm, else 0; of an arc ``rim`` is the middle of its
    run, of a whole circle there is none. Of a straight edge or a bend line it is the middle, and
    any place ``along`` it will do.
    """

    at: Point
    kind: PlaceKind
    radius: float = 0.0
    rim: Point | None = None
    along: tuple[Point, Point] | None = None

    def away(self, p: Point) -> float:
        """Return how far a point is from it, mm."""
        if self.along is None:
            return math.dist(self.at, p)
        (x, y), (bx, by) = self.along
        dx, dy = bx - x, by - y
        share = ((p[0] - x) * dx + (p[1] - y) * dy) / (dx * dx + dy * dy)
        share = min(1.0, max(0.0, share))
        return math.dist((x + share * dx, y + share * dy), p)

    @property
    def is_whole(self) -> bool:
        """Whether a whole circle is round about it."""
        return self.radius > 0 and self.rim is None


def features(blank: Blank) -> Iterator[Feature]:
    """Yield the places of a flat that sizes may be taken from, in its frame.

    Corners of all contours and ends of their arcs; straight edges; middles of holes, of arcs and of
    what is made later; each piece of a bend line and its ends.
    """
    for contour in blank.region.contours:
        if contour.diameter is not None:
            arc = contour.segments[0]
            yield Feature(at=arc.centre, kind="hole", radius=arc.radius)
            continue
        if contour is not blank.region.outer:
            x0, y0, x1, y1 = contour.bounds
            yield Feature(at=((x0 + x1) / 2, (y0 + y1) / 2), kind="hole")
        for piece in contour.segments:
            yield Feature(at=piece.start, kind="corner")
            if piece.is_line:
                yield Feature(at=piece.at(0.5), kind="edge", along=(piece.start, piece.end))
            else:
                yield Feature(at=piece.centre, kind="arc", radius=piece.radius, rim=piece.at(0.5))
    for bend in blank.bends:
        for a, b in bend.lines:
            middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
            yield Feature(at=middle, kind="bend", along=(a, b))
            yield Feature(at=a, kind="bend end")
            yield Feature(at=b, kind="bend end")
    for mark in blank.marks:
        yield Feature(at=mark.at, kind="mark")
        if mark.end is not None:
            yield Feature(at=mark.end, kind="mark")


def measured(size: ChosenSize, places: Sequence[Feature]) -> tuple[Feature, Feature, float] | None:
    """Return what a size is taken between and how much it is, mm; None where it has no ends.

    Examples
    --------
    >>> places = [Feature(at=(0.0, 0.0), kind="corner"), Feature(at=(3.0, 4.0), kind="corner")]
    >>> measured(ChosenSize(way="straight", start=(0, 0), end=(3, 4)), places)[2]
    5.0
    """
    is_round = size.way is Way.ROUND
    start = _nearest(size.start, places, is_round=is_round)
    end = start if is_round else _nearest(size.end, places, is_round=False)
    if start is None or end is None:
        return None
    if is_round:
        return start, end, start.radius * (2 if start.is_whole else 1)
    dx, dy = end.at[0] - start.at[0], end.at[1] - start.at[1]
    value = {Way.LEVEL: abs(dx), Way.UPRIGHT: abs(dy)}.get(size.way, math.hypot(dx, dy))
    return (start, end, value) if value > CHORD else None


def _nearest(at: Point, places: Sequence[Feature], *, is_round: bool) -> Feature | None:
    """Return what lies at a place: a point where there is one, else an edge or bend line there."""
    fit = [f for f in places if (f.radius or not is_round) and f.away(at) <= CHORD]
    found = min(fit, key=lambda f: (f.along is not None, f.away(at)), default=None)
    return replace(found, at=at) if found is not None and found.along else found


def moved_size(size: ChosenSize, ends: tuple[Point, Point], motion: Motion) -> ChosenSize:
    """Return a size with its ends elsewhere, its way turned as a motion turns the flat."""
    swap = {Way.LEVEL: Way.UPRIGHT, Way.UPRIGHT: Way.LEVEL}
    is_crossed = abs(motion.sin) > abs(motion.cos)
    way = swap.get(size.way, size.way) if is_crossed else size.way
    return size.model_copy(update={"way": way, "start": ends[0], "end": ends[1]})


def followed(
    at: Point,
    motion: Motion,
    before: Sequence[Feature],
    carried: Sequence[Point],
    after: Sequence[Feature],
) -> Point:
    """Return where a place of a flat lies in another flat of its part.

    It stays with what lies there. That went where its panel took it, or, if that may be followed,
    to that of its kind which is nearest, if of all that was before it is the nearest to that in
    turn.

    Parameters
    ----------
    at : (float, float)
        The place.
    motion : Motion
        How the one flat lies on the other.
    before : sequence of Feature
        Places of that flat.
    carried : sequence of (float, float)
        Where the panel of each of these took it.
    after : sequence of Feature
        Places of the flat as it is now that may be followed.
    """
    met = [i for i, f in enumerate(before) if f.away(at) <= CHORD]
    mine = min(met, key=lambda i: before[i].along is not None, default=None)
    if mine is None:
        return motion.point(at)
    # Along an edge or a bend line it may lie beside the middle.
    known, there = before[mine], carried[mine]
    aside = motion.heading((at[0] - known.at[0], at[1] - known.at[1]))
    alike = [f for f in after if f.kind == known.kind]
    nearest = min(alike, key=lambda f: math.dist(f.at, there), default=None)
    if nearest is not None and math.dist(nearest.at, there) <= _FOLLOWS:
        away = math.dist(nearest.at, there)
        rivals = (c for f, c in zip(before, carried, strict=True) if f.kind == known.kind)
        if all(math.dist(c, nearest.at) >= away - CHORD for c in rivals):
            there = nearest.at
    return (there[0] + aside[0], there[1] + aside[1])
