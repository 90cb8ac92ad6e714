"""The numbers beside the view of an assembly: where they stand and what they point at."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from kaigata.core.markup.folded_view import Body, Seen
from kaigata.core.markup.ordinates import spread
from kaigata.core.markup.page import Anchor, Box, Face, Fill, Page, Pen, Words
from kaigata.core.plane import Contour, Point

__all__ = ["ASIDE", "GAP", "NUMBER", "Balloon", "balloons_of", "draw_balloon"]

_RADIUS = 3.8
"""Radius of the circle round a number, mm of paper."""
GAP = 10.0
"""From number to number, mm of paper."""
ASIDE = 14.0
"""What the numbers take of the room on either side of the view, mm of paper."""
_DOT = 0.7
"""Radius of the dot at which a number's line ends, mm of paper."""
_LONG = 0.4
"""Share of a component's longest edge that one is long to which its number may point."""
NUMBER = 3.4
"""Size of type of the numbers, mm."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Balloon:
    """A component's number, where it stands, and the place of the component that it points at."""

    number: int
    at: Point
    target: Point
    is_seen: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class _Ends:
    """Where a component's number may point, when it stands left of the view and right of it."""

    number: int
    left: Point
    right: Point
    is_seen: bool


def balloons_of(
    seen: Seen,
    bodies: Sequence[Sequence[Body]],
    on_paper: Callable[[Point], Point],
    room: Box,
) -> list[Balloon]:
    """Return a number for each component that is drawn, beside its view.

    Parameters
    ----------
    seen : Seen
        The view, of all bodies in order.
    bodies : sequence of sequences of Body
        Those of each component, from number 1 on.
    on_paper : callable
        From a place of the view to one of the paper.
    room : Box
        The view's room on the paper, with the numbers.
    """
    ends = [
        _Ends(number=n, left=on_paper(low), right=on_paper(high), is_seen=is_seen)
        for n, (low, high, is_seen) in _targets(seen, bodies).items()
    ]
    return _beside(ends, room)


def _targets(seen: Seen, bodies: Sequence[Sequence[Body]]) -> dict[int, tuple[Point, Point, bool]]:
    """Return the outermost places of each component that is drawn, and whether it is seen there.

    They are the middles of edges that are seen and long enough to be told from others.
    """
    owner = [n for n, mine in enumerate(bodies, start=1) for _ in mine]
    lines = defaultdict[int, list[tuple[Point, Point]]](list)
    for line, body in zip(seen.edges, seen.owners, strict=True):
        lines[owner[body]].append(line)
    out: dict[int, tuple[Point, Point, bool]] = {}
    for number, mine in enumerate(bodies, start=1):
        if lines[number]:
            longest = max(math.dist(a, b) for a, b in lines[number])
            middles = [
                ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
                for a, b in lines[number]
                if math.dist(a, b) >= _LONG * longest
            ]
            out[number] = (min(middles), max(middles), True)
        elif mine:
            middle = _middle(mine[0], seen)
            out[number] = (middle, middle, False)
    return out


def _middle(body: Body, seen: Seen) -> Point:
    """Return where the middle of a body that is hidden lies in the view."""
    right, up = np.array(seen.direction.right), np.array(seen.direction.up)
    at = body.triangles.reshape(-1, 3).mean(axis=0)
    return (float(at @ right) - seen.low[0], float(at @ up) - seen.low[1])


def _beside(ends: Sequence[_Ends], room: Box) -> list[Balloon]:
    """Return the numbers in two columns beside the view, each at the side it is nearer to.

    What a column has no room for goes to the other, those first that are hardly farther from it.
    In a column they stand in the order of what they point at, so that no line crosses another's.
    """

    def to_right(e: _Ends) -> float:
        return (room.right - e.right[0]) - (e.left[0] - room.left)

    by_side = sorted(ends, key=to_right)
    most = max(int(room.height // GAP), (len(by_side) + 1) // 2)
    on_right = sum(to_right(e) < 0 for e in by_side)
    on_right = min(max(on_right, len(by_side) - most), most)
    columns = (
        (room.right - _RADIUS - 2, [(e, e.right) for e in by_side[:on_right]]),
        (room.left + _RADIUS + 2, [(e, e.left) for e in by_side[on_right:]]),
    )
    out = []
    for x, column in columns:
        rising = sorted(column, key=lambda c: c[1][1])
        for (e, target), y in zip(rising, _heights(rising, room), strict=True):
            out.append(Balloon(number=e.number, at=(x, y), target=target, is_seen=e.is_seen))
    return sorted(out, key=lambda b: b.number)


def _heights(rising: Sequence[tuple[_Ends, Point]], room: Box) -> list[float]:
    """Return how high the numbers of a column stand: as near to what they point at as they can."""
    if not rising:
        return []
    gap = min(GAP, room.height / len(rising))
    low, high = room.bottom + _RADIUS, room.top - _RADIUS
    stands = spread([target[1] for _, target in rising], gap)
    down = max(0.0, stands[-1] - high)
    return [max(s - down, low + n * gap) for n, s in enumerate(stands)]


def draw_balloon(page: Page, balloon: Balloon) -> None:
    """Draw a number in its circle, and its line to what it points at."""
    (x, y), (tx, ty) = balloon.at, balloon.target
    long = math.dist(balloon.at, balloon.target)
    rim = (x + (tx - x) / long * _RADIUS, y + (ty - y) / long * _RADIUS)
    page.line(rim, balloon.target, Pen.DIMENSION if balloon.is_seen else Pen.MARK)
    page.run(Contour.circle(balloon.at, _RADIUS).segments, Pen.DIMENSION)
    dot = [
        (tx + _DOT * math.cos(k * math.pi / 4), ty + _DOT * math.sin(k * math.pi / 4))
        for k in range(8)
    ]
    page.fills.append(Fill(points=tuple(dot)))
    page.words.append(
        Words(text=str(balloon.number), at=balloon.at, size=NUMBER, face=Face.STRONG_FIGURES,
              anchor=Anchor.MIDDLE)
    )  # fmt: skip
