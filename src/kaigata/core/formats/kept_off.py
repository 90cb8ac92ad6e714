"""Where the tool's centre runs when the machine keeps the kerf off a contour (G42)."""

from __future__ import annotations

import math
from collections.abc import Sequence

from kaigata.core.errors import InputError
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.meet import crossings
from kaigata.core.plane.segment import bulge_of_sweep
from kaigata.core.plane.tolerance import CODE, LENGTH

__all__ = ["TANGENT", "kept_off"]

TANGENT = 1e-4
"""Sine of a turn that is no corner to a machine."""

_CLEARLY = 1.05
"""How much farther off the other crossing must be for one to be clearly the nearest."""

_DOUBT = 1e-4
"""mm: courses that no longer cross when one is moved aside by so little only touch, and what a
controller finds there hangs on its rounding."""


def kept_off(
    chain: Sequence[Segment], at: Point, r: float, lines: Sequence[str]
) -> list[list[Segment]]:
    """Return a contour as the tool's centre runs it, kept a radius to its right, move by move.

    As controllers do it: the first move is straight and longer than the radius, outside corners
    are rounded, and at inside corners both moves end where their courses would cross.

    Parameters
    ----------
    chain : sequence of Segment
        The moves while G42 holds, mm. An arc has the radius that it begins with, so it may end a
        trifle beside the next move's start.
    at : point
        Where the head stands before them.
    r : float
        Half the kerf, mm.
    lines : sequence of str
        The program's line that each move stands in, for errors.

    Raises
    ------
    InputError
        A controller would stop: the way in is too short, or the kerf does not fit into an inside
        radius or corner.
    """
    first = chain[0]
    if not first.is_line or first.chord <= r:
        raise InputError(
            f"the first move under G42 must be straight and longer than {r:g} mm", where=lines[0]
        )
    moved = [_beside(s, r, line) for s, line in zip(chain, lines, strict=True)]
    out = [[moved[0]]]
    for before, after, wanted, line in zip(chain, chain[1:], moved[1:], lines[1:], strict=False):
        (ux, uy), (vx, vy) = before.heading(1.0), after.heading(0.0)
        sine, cosine = ux * vy - uy * vx, ux * vx + uy * vy
        if abs(sine) < TANGENT and cosine > 0:
            last = out[-1][-1]
            out[-1][-1] = Segment(last.start, wanted.start, last.bulge)
            out.append([wanted])
        elif sine > 0:
            turn = bulge_of_sweep(math.atan2(sine, cosine))
            out.append([Segment(out[-1][-1].end, wanted.start, turn), wanted])
        else:
            out[-1][-1], cut = _cut_short(out[-1][-1], wanted, after.start, line)
            out.append([cut])
    out[0] = [Segment(at, out[0][0].end)]
    return [[s for s in made if not s.is_nothing()] for made in out]


def _beside(segment: Segment, r: float, where: str) -> Segment:
    if segment.bulge < 0 and segment.radius <= r:
        x, y = segment.at(0.5)
        raise InputError(
            f"the kerf does not fit into the inside radius of {segment.radius:.3f} mm at "
            f"{x:.2f}, {y:.2f}",
            where=where,
        )
    ends = []
    for t, (x, y) in ((0.0, segment.start), (1.0, segment.end)):
        dx, dy = segment.heading(t)
        ends.append((x + dy * r, y - dx * r))
    return Segment(ends[0], ends[1], segment.bulge)


def _cut_short(
    before: Segment, after: Segment, corner: Point, where: str
) -> tuple[Segment, Segment]:
    """Return two moves that meet at an inside corner, each up to where their courses cross.

    Controllers take the crossing nearest to the corner, wherever on the two courses it lies.
    """
    found = sorted(crossings(before, after), key=lambda q: math.dist(q, corner))
    near = [q for q in found if math.dist(q, corner) < _CLEARLY * math.dist(found[0], corner)]
    # Of two as near as each other, and apart, no one knows which a controller takes.
    if found and math.dist(near[0], near[-1]) < CODE:
        p = found[0]
        if _reaches(before, p) and _reaches(after.reversed(), p) and _is_crossed(before, after, p):
            return before.part(0.0, before.share_of(p)), after.part(after.share_of(p), 1.0)
    x, y = corner
    raise InputError(
        f"the kerf does not fit into the inside corner at {x:.2f}, {y:.2f}", where=where
    )


def _reaches(course: Segment, p: Point) -> bool:
    """Whether a course comes to a point of its line or circle; a line may run on to it."""
    share, slack = course.share_of(p), LENGTH / course.length
    return -slack < share and (course.is_line or share < 1 + slack)


def _is_crossed(before: Segment, after: Segment, p: Point) -> bool:
    """Whether two courses that cross in a point still do when one is moved by ``_DOUBT``.

    Of two curves that meet at an angle whose sine is s and that part by a curvature k, one may be
    moved by s² / 2k before they only touch.
    """
    (ux, uy), (vx, vy) = before.heading(before.share_of(p)), after.heading(after.share_of(p))
    sine, cosine = ux * vy - uy * vx, ux * vx + uy * vy
    parting = abs(_curvature(before) * math.copysign(1.0, cosine) - _curvature(after))
    return sine * sine > 2 * parting * _DOUBT


def _curvature(segment: Segment) -> float:
    return 0.0 if segment.is_line else math.copysign(1 / segment.radius, segment.bulge)
