"""The pieces of a plate's true outline, and its corners rounded or chamfered."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from kaigata.core.errors import InputError
from kaigata.core.part.recipe.plates import Flange, Plate
from kaigata.core.plane import Segment
from kaigata.core.plane.segment import bulge_of_sweep
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["AtBend", "Side", "Span", "rounded"]


@dataclass(frozen=True, slots=True)
class Span:
    """Where a flange's bend lies on its panel's edge, mm from the edge's beginning."""

    start: float
    end: float


@dataclass(frozen=True, slots=True)
class AtBend:
    """The flange whose bend lies along a piece of an outline, and where on the edge it does.

    ``beyond`` is where the bend ends, on the first edge of the flange, which runs the other way.
    """

    flange: Flange
    span: Span
    beyond: Span


@dataclass(frozen=True, slots=True)
class Side:
    """A piece of an outline, in the plate's coordinates.

    ``bend`` is the bend that begins there, on a flange the one it hangs on itself; ``edge`` the
    edge of the outline as said that it is of, by its place; None of a relief or a rounding.
    """

    run: Segment
    bend: AtBend | None = None
    edge: int | None = None


def rounded(plate: Plate, sides: Sequence[Side]) -> list[Side]:
    """Return an outline with the plate's corners rounded or chamfered as said.

    Raises
    ------
    InputError
        A corner that was chosen lies at a bend or an arc, or has no room.
    """
    out = list(sides)
    for corner, rounding in sorted(plate.rounds.items()):
        i = max((i for i, s in enumerate(out) if s.edge == corner), default=0)
        before, after = out[i], out[(i + 1) % len(out)]
        if before.edge != corner or _is_taken(before) or _is_taken(after):
            if not rounding.is_chosen:
                continue
            raise InputError(
                f"corner {plate.number(corner)} of {plate.name} lies at a bend or an arc",
                where=rounding.where,
                fix="Name the free corners that are to be rounded",
            )
        a, b = before.run, after.run
        is_round = rounding.is_round
        turn = _turn(a, b)
        take = rounding.size * math.tan(abs(turn) / 2) if is_round else rounding.size
        room = min(a.chord, b.chord)
        if take > room + LENGTH:
            raise InputError(
                f"corner {plate.number(corner)} of {plate.name} has {room:.6g} mm of edge left, "
                f"its rounding takes {take:.6g} mm",
                where=rounding.where,
                fix="Give a smaller radius",
            )
        one, two = a.part(0, 1 - take / a.chord), b.part(take / b.chord, 1)
        out[(i + 1) % len(out)] = replace(after, run=two)
        edge = Segment(one.end, two.start, bulge_of_sweep(turn) if is_round else 0.0)
        out[i : i + 1] = [replace(before, run=one), Side(edge)]
    return [s for s in out if not s.run.is_nothing()]


def _turn(a: Segment, b: Segment) -> float:
    """Return how far the outline turns from one straight piece to the next, radians."""
    if a.is_nothing() or b.is_nothing():
        return math.pi
    (ux, uy), (vx, vy) = a.heading(1.0), b.heading(0.0)
    return math.atan2(ux * vy - uy * vx, ux * vx + uy * vy)


def _is_taken(side: Side) -> bool:
    return side.bend is not None or not side.run.is_line
