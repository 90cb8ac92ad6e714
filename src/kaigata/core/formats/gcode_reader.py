"""Reading a program back, to prove what it does. Shares nothing with the writer."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np

from kaigata.core.cut import Post
from kaigata.core.errors import InputError
from kaigata.core.formats.kept_off import kept_off
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.meet import distance_to
from kaigata.core.plane.segment import bulge_of_sweep

__all__ = ["Stretch", "looped", "read_program"]

_WORD = re.compile(r"([A-Z])([+-]?\d*\.?\d+)")
_MARK = re.compile(r"\s*(\(mark\)|; mark)\s*$")
_REMARK = re.compile(r"\([^()]*\)|;.*")
_RADII = 0.002
"""How far the two radii of an arc may be apart before a controller refuses it, mm."""

_CLOSED = 0.002
"""mm: a loop is closed that ends this near to where it began."""

_WAY_IN = 4
"""Segments a way in has at most."""

_WAY_OUT = 12
"""And a way out."""

_ROUND_TURN = math.pi
"""Arcs are taken in pieces of at most this, so that a bulge describes each well."""

Words = list[tuple[str, float]]


@dataclass(frozen=True, slots=True)
class Stretch:
    """What is done from switching the beam on to switching it off, mm on the sheet."""

    is_mark: bool
    segments: tuple[Segment, ...]

    @property
    def loop(self) -> Sequence[Segment]:
        """The longest part of it that ends where it began; empty where none does."""
        return looped(self.segments)[1]


@dataclass
class _Head:
    """Where the machine is and what holds; ``said`` is the point the program named last.

    ``chain`` are the moves while the kerf is kept off, the first ``off`` of them without the beam,
    and ``lines`` the lines they stand in.
    """

    post: Post
    zero: Point
    radius: float
    at: Point
    said: Point
    scale: float = 1.0
    motion: int = 0
    beam: bool = False
    says_mark: bool = False
    keeps: bool = False
    chain: list[Segment] = field(default_factory=list)
    lines: list[str] = field(default_factory=list)
    off: int = 0
    begun: list[tuple[bool, list[Segment]]] = field(default_factory=list)


def read_program(
    program: str, post: Post, *, zero: Point = (0.0, 0.0), radius: float = 0.0
) -> list[Stretch]:
    """Return what a program does: each stretch with the beam on, as the tool's centre runs.

    Parameters
    ----------
    program : str
        Its text.
    post : Post
        The machine that is to read it: what turns its beam on and off.
    zero : point
        Where on the sheet the program has its zero, mm.
    radius : float
        By how much the machine keeps the tool off the contour under G42, mm.

    Raises
    ------
    InputError
        A line cannot be read, an arc's radii differ, the beam is on at a rapid or at the end, or
        the machine could not keep the tool off a contour.
    """
    head = _Head(post=post, zero=zero, radius=radius, at=zero, said=zero)
    for number, raw in enumerate(program.splitlines(), start=1):
        head.says_mark = head.says_mark or bool(_MARK.match(raw))
        code = _REMARK.sub("", raw).strip()
        if code == "%":
            continue
        words = [(letter, float(value)) for letter, value in _WORD.findall(code)]
        if "".join(a + b for a, b in _WORD.findall(code)) != code.replace(" ", ""):
            raise InputError(f"cannot read {code!r}", where=f"line {number}")
        if words:
            _obey(head, words, f"line {number}")
    if head.beam:
        raise InputError("the beam is on at the end", where="program")
    return [Stretch(is_mark, tuple(segments)) for is_mark, segments in head.begun]


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
        apart = np.hypot(*(points[i + 1 :] - points[i]).T)
        # What has hardly begun is near to its beginning too.
        same = np.flatnonzero((apart < _CLOSED) & (lengths[i + 1 :] - lengths[i] > 2 * _CLOSED))
        if len(same):
            j = i + 1 + int(same[-1])
            best = max(best, (float(lengths[j] - lengths[i]), i, j))
    _, i, j = best
    if i == j == len(cut):
        return _passing(cut)
    return cut[:i], cut[i:j], cut[j:]


def _passing(
    cut: Sequence[Segment],
) -> tuple[Sequence[Segment], Sequence[Segment], Sequence[Segment]]:
    """Return the loop of a cut that runs on over its beginning in the middle of a move."""
    for i in range(min(len(cut), _WAY_IN)):
        for j in range(len(cut) - 1, max(i + 1, len(cut) - _WAY_OUT), -1):
            if distance_to(cut[j], cut[i].start) < _CLOSED:
                t = min(1.0, max(0.0, cut[j].share_of(cut[i].start)))
                closing = [cut[j].part(0.0, t)] if t > 0 else []
                leaving = [cut[j].part(t, 1.0)] if t < 1 else []
                return cut[:i], [*cut[i:j], *closing], [*leaving, *cut[j + 1 :]]
    return cut, [], []


def _obey(head: _Head, words: Words, where: str) -> None:
    values = {letter: value for letter, value in words if letter not in "GMN"}
    _keep(head, words, where)
    _switch(head, words)
    for letter, value in words:
        if letter == "G" and value in (20, 21):
            head.scale = 25.4 if value == 20 else 1.0
        elif letter == "G" and value in (0, 1, 2, 3):
            head.motion = int(value)
    if "X" in values or "Y" in values:
        _go(head, values, where)


def _switch(head: _Head, words: Words) -> None:
    """Turn the beam on or off as the post's commands say."""
    post = head.post
    if _says(words, post.mark_off) or _says(words, post.beam_off):
        _leave_edge(head)
        head.beam = False
    elif _says(words, post.mark_on) or _says(words, post.beam_on):
        # Of two commands that both stand in the line the longer one is meant.
        is_longer = len(post.mark_on) > len(post.beam_on) or not _says(words, post.beam_on)
        is_mark = _says(words, post.mark_on) and (head.says_mark or is_longer)
        head.beam, head.says_mark = True, False
        head.begun.append((is_mark, []))


def _says(words: Words, command: str) -> bool:
    """Whether a line holds all the words of a command."""
    return all((a, float(b)) in words for a, b in _WORD.findall(command))


def _keep(head: _Head, words: Words, where: str) -> None:
    """Begin or end keeping the kerf off the contour."""
    if ("G", 41.0) in words:
        raise InputError("G41 keeps the tool left, inside the part", where=where)
    if ("G", 40.0) in words:
        _leave_edge(head)
        head.keeps = False
    elif ("G", 42.0) in words:
        head.keeps = True


def _leave_edge(head: _Head) -> None:
    if head.chain:
        moved = kept_off(head.chain, head.at, head.radius, head.lines)
        if head.beam:
            head.begun[-1][1].extend(s for made in moved[head.off :] for s in made)
        head.at = [s.end for made in moved for s in made][-1]
        head.chain, head.lines, head.off = [], [], 0


def _go(head: _Head, values: dict[str, float], where: str) -> None:
    k = head.scale
    to = (
        values["X"] * k + head.zero[0] if "X" in values else head.said[0],
        values["Y"] * k + head.zero[1] if "Y" in values else head.said[1],
    )
    start = head.said if head.keeps and head.chain else head.at
    head.said = to
    if not head.beam and not head.keeps:
        head.at = to
        return
    if head.motion == 0:
        holds = "the beam on" if head.beam else "G42 in force"
        raise InputError(f"a rapid with {holds}", where=where)
    if head.motion == 1:
        moves = [Segment(start, to)]
    else:
        left = head.motion == 3
        centre = (
            _centre_by_radius(start, to, values["R"] * k, where, left=left)
            if "R" in values
            else (start[0] + values.get("I", 0.0) * k, start[1] + values.get("J", 0.0) * k)
        )
        moves = _arc(start, to, centre, where, left=left, as_begun=head.keeps)
    if head.keeps:
        head.chain.extend(moves)
        head.lines.extend([where] * len(moves))
        head.off += 0 if head.beam else len(moves)
        return
    head.begun[-1][1].extend(moves)
    head.at = to


def _centre_by_radius(at: Point, to: Point, radius: float, where: str, *, left: bool) -> Point:
    """Return the centre of an arc of at most a half turn."""
    half = math.dist(at, to) / 2
    if half > radius + _RADII or half == 0:
        raise InputError(f"the ends of an arc of radius {radius:g} are {2 * half:g} apart",
                         where=where)  # fmt: skip
    up = math.sqrt(max(0.0, radius * radius - half * half)) / (2 * half)
    dx, dy = to[0] - at[0], to[1] - at[1]
    side = up if left else -up
    return ((at[0] + to[0]) / 2 - dy * side, (at[1] + to[1]) / 2 + dx * side)


def _arc(
    at: Point, to: Point, centre: Point, where: str, *, left: bool, as_begun: bool
) -> list[Segment]:
    """Return an arc in pieces.

    With ``as_begun`` it keeps the radius that it begins with, as controllers do to offset it.
    """
    r0, r1 = math.dist(at, centre), math.dist(to, centre)
    if abs(r0 - r1) > _RADII:
        raise InputError(f"the radii of an arc are {r0:.4f} and {r1:.4f}", where=where)
    if as_begun and r1 > 0:
        (x, y), k = centre, r0 / r1
        to, r1 = (x + (to[0] - x) * k, y + (to[1] - y) * k), r0
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
