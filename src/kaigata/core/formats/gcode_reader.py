"""Reading a program back, to prove what it does. Shares nothing with the writer."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.segment import bulge_of_sweep

__all__ = ["looped", "read_cuts"]

_WORD = re.compile(r"([A-Z])([+-]?\d*\.?\d+)")
_REMARK = re.compile(r"\([^()]*\)")
_RADII = 0.002
"""How far the two radii of an arc may be apart before a controller refuses it, mm."""

_CLOSED = 0.002
"""mm: a loop is closed that ends this near to where it began."""

_WAY_IN = 4
"""Segments a way in has at most."""

_ROUND_TURN = math.pi / 2
"""Arcs are taken in pieces of at most this, so that a bulge describes each well."""


@dataclass
class _Head:
    """Where the machine is and what holds."""

    scale: float = 1.0
    at: Point = (0.0, 0.0)
    motion: int = 0
    beam: bool = False
    cuts: list[list[Segment]] = field(default_factory=list)


def read_cuts(program: str) -> list[list[Segment]]:
    """Return what a program cuts: for each stretch with the beam on its segments, mm.

    Raises
    ------
    InputError
        A line cannot be read, an arc's radii differ, or the beam is on at a rapid or at the end.
    """
    head = _Head()
    for number, raw in enumerate(program.splitlines(), start=1):
        code = _REMARK.sub("", raw).strip()
        words = _WORD.findall(code)
        if "".join(a + b for a, b in words) != code.replace(" ", ""):
            raise InputError(f"cannot read {code!r}", where=f"line {number}")
        _obey(head, [(letter, float(value)) for letter, value in words], f"line {number}")
    if head.beam:
        raise InputError("the beam is on at the end", where="program")
    return head.cuts


def looped(
    cut: Sequence[Segment],
) -> tuple[Sequence[Segment], Sequence[Segment], Sequence[Segment]]:
    """Return a cut as its way in, the loop it closes, and its way out, told by its course alone.

    The loop is the longest stretch that ends where it began; a cut that closes nowhere is all
    way in.
    """
    points = np.array([cut[0].start, *(s.end for s in cut)])
    lengths = np.cumsum([0.0, *(s.length for s in cut)])
    best: tuple[float, int, int] = (0.0, len(cut), len(cut))
    for i in range(min(len(cut), _WAY_IN)):
        same = np.flatnonzero(np.hypot(*(points[i + 1 :] - points[i]).T) < _CLOSED)
        if len(same):
            j = i + 1 + int(same[-1])
            best = max(best, (float(lengths[j] - lengths[i]), i, j))
    _, i, j = best
    return cut[:i], cut[i:j], cut[j:]


def _obey(head: _Head, words: list[tuple[str, float]], where: str) -> None:
    values = {letter: value for letter, value in words if letter not in "GM"}
    for letter, value in words:
        if letter == "M" and value == 3:
            head.beam = True
            head.cuts.append([])
        elif letter == "M" and value == 5:
            head.beam = False
        elif letter == "G" and value in (20, 21):
            head.scale = 25.4 if value == 20 else 1.0
        elif letter == "G" and value in (0, 1, 2, 3):
            head.motion = int(value)
    if "X" in values or "Y" in values:
        _go(head, values, where)


def _go(head: _Head, values: dict[str, float], where: str) -> None:
    k, at = head.scale, head.at
    to = (
        values["X"] * k if "X" in values else at[0],
        values["Y"] * k if "Y" in values else at[1],
    )
    head.at = to
    if not head.beam:
        return
    if head.motion == 0:
        raise InputError("a rapid with the beam on", where=where)
    if head.motion == 1:
        head.cuts[-1].append(Segment(at, to))
        return
    centre = (at[0] + values.get("I", 0.0) * k, at[1] + values.get("J", 0.0) * k)
    head.cuts[-1].extend(_arc(at, to, centre, where, left=head.motion == 3))


def _arc(at: Point, to: Point, centre: Point, where: str, *, left: bool) -> list[Segment]:
    r0, r1 = math.dist(at, centre), math.dist(to, centre)
    if abs(r0 - r1) > _RADII:
        raise InputError(f"the radii of an arc are {r0:.4f} and {r1:.4f}", where=where)
    first = math.atan2(at[1] - centre[1], at[0] - centre[0])
    last = math.atan2(to[1] - centre[1], to[0] - centre[0])
    sweep = (last - first if left else first - last) % (2 * math.pi) or 2 * math.pi
    n = max(1, math.ceil(sweep / _ROUND_TURN))
    step = (sweep if left else -sweep) / n
    points = [at]
    for i in range(1, n):
        r = r0 + (r1 - r0) * i / n
        a = first + step * i
        points.append((centre[0] + r * math.cos(a), centre[1] + r * math.sin(a)))
    points.append(to)
    bulge = bulge_of_sweep(step)
    return [Segment(a, b, bulge) for a, b in pairwise(points)]
