"""Centres of arcs in a program's decimals."""

from __future__ import annotations

import math
from dataclasses import dataclass

from kaigata.core.formats.kept_off import TANGENT
from kaigata.core.plane import Point, Segment

__all__ = ["Joints", "RoundedArc", "rounded_arc"]

_MOST_LEAN = 60
"""Half decimals by which an arc may be flatter or rounder than drawn."""

_RADII = 5.0
"""Decimals by which the radii at an arc's two ends may differ for the sake of its joints."""

_EVEN = 0.1
"""Decimals by which they had better not differ where a machine offsets the arc: it takes one of
them for the whole, and finds a shallow inside corner at the other end farther on than it is."""

_MOST_FAR = 5
"""Decimals by which a centre may lie farther along for that."""


@dataclass(frozen=True, slots=True)
class Joints:
    """Headings that an arc runs on from and into without a corner; None where there is one."""

    before: Point | None = None
    after: Point | None = None


@dataclass(frozen=True, slots=True)
class RoundedArc:
    """An arc as a program gives it: the centre as seen from its start, and the heading it ends in.

    ``parted`` is how much its radii at the two ends differ; ``turned`` the sine of its worst turn
    to the right where it should run on smoothly.
    """

    centre: Point
    heading: Point
    parted: float
    turned: float


def rounded_arc(
    at: Point, to: Point, arc: Segment, decimals: int, joints: Joints | None = None
) -> RoundedArc:
    """Return an arc between two rounded points with its centre rounded.

    The nearest centre is taken whose radii at the rounded ends differ by no more than the last
    decimal; where the nearest of all is just between, its neighbours do better.

    A machine that keeps the kerf off on the right takes the slightest turn to the right, which
    rounding gives small arcs, for an inside corner, and may find no crossing there. With
    ``joints`` the arc is therefore made a trifle flatter where it turns left, rounder where it
    turns right, until it joins its neighbours without such a turn: at most thirty decimals,
    measured at its middle.

    Parameters
    ----------
    at, to : point
        Its ends as they are written, in the program's unit.
    arc : Segment
        The arc as it should be, in the program's unit.
    decimals : int
        Of the program.
    joints : Joints, optional
        What it joins smoothly.
    """
    last = 10.0**-decimals
    side = math.copysign(1.0, arc.bulge)
    best = _nearest(at, to, arc.centre, side, decimals, joints)
    for k in range(1, _MOST_LEAN + 1) if joints else ():
        if best.turned <= 0:
            break
        bulge = arc.bulge - k * last / math.dist(at, to)
        if bulge * arc.bulge <= 0:
            break
        centre = Segment(at, to, bulge).centre
        leant = _nearest(at, to, centre, side, decimals, joints)
        if leant.turned < best.turned and leant.parted <= _RADII * last:
            best = leant
    if joints and best.parted > _EVEN * last:
        evener = [_arc(at, to, c, side, joints) for c in _between(at, to, best.centre, decimals)]
        best = min(best, *evener, key=lambda a: (a.turned, a.parted))
    return best


def _between(at: Point, to: Point, centre: Point, decimals: int) -> list[Point]:
    """Return centres near one that lie as far from both ends as rounding lets them.

    They lie along the line through the chord's middle and upright on it, a decimal apart in the
    coordinate that changes faster on it, the other one rounded.
    """
    last = 10.0**-decimals
    dx, dy = to[0] - at[0], to[1] - at[1]
    half = (dx * dx + dy * dy) / 2
    out = []
    for k in range(-_MOST_FAR, _MOST_FAR + 1):
        if abs(dx) >= abs(dy):
            y = centre[1] + k * last
            x = (half - y * dy) / dx
        else:
            x = centre[0] + k * last
            y = (half - x * dx) / dy
        out.append((round(x, decimals), round(y, decimals)))
    return out


def _nearest(
    at: Point, to: Point, centre: Point, side: float, decimals: int, joints: Joints | None
) -> RoundedArc:
    last = 10.0**-decimals
    exact = (centre[0] - at[0], centre[1] - at[1])
    steps = (0.0, -last, last)
    near = ((exact[0] + dx, exact[1] + dy) for dx in steps for dy in steps)
    centres = [(round(x, decimals), round(y, decimals)) for x, y in near]
    arcs = [_arc(at, to, c, side, joints) for c in centres]
    return min(arcs, key=lambda a: (a.turned, max(a.parted, last), math.dist(a.centre, exact)))


def _arc(at: Point, to: Point, centre: Point, side: float, joints: Joints | None) -> RoundedArc:
    from_end = (centre[0] - to[0] + at[0], centre[1] - to[1] + at[1])
    first, last = _along(centre, side), _along(from_end, side)
    turned = 0.0
    if joints is not None:
        turns = [
            _sine(joints.before, first) if joints.before else 0.0,
            _sine(last, joints.after) if joints.after else 0.0,
        ]
        turned = max(0.0, -min(turns) - TANGENT / 2)
    return RoundedArc(centre, last, abs(math.hypot(*centre) - math.hypot(*from_end)), turned)


def _along(to_centre: Point, side: float) -> Point:
    """Return the heading of an arc whose centre lies at an offset; ``side`` is 1 if it is left."""
    size = math.hypot(*to_centre) or 1.0
    return (side * to_centre[1] / size, -side * to_centre[0] / size)


def _sine(u: Point, v: Point) -> float:
    return u[0] * v[1] - u[1] * v[0]
