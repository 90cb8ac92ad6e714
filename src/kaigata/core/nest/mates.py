"""Joining shapes whose edges only fit each other, before anything is placed.

Where one edge of a shape is as long as just one edge of another, the two are laid along each other
and count as one shape from then on; its outline has new edges, longer ones, which may have mates of
their own. Parts that were once divided from one piece, along whatever lines, so come together again
cut by cut, the last one first. What has no mate, or several, stays as it is.
"""

from __future__ import annotations

import math
from collections.abc import Collection, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np
import shapely
from shapely.affinity import rotate, translate
from shapely.geometry import Polygon
from shapely.geometry.polygon import orient

from kaigata.core.nest.nofit import Floats
from kaigata.core.plane import Motion, Point

__all__ = ["Joined", "Member", "joined"]

_LEAST = 5.0
"""mm: shorter edges have no mates; those that stand for arcs are among them."""
_EQUAL = 2e-3
"""mm between lengths, and between corners, that are the same."""
_TURN = 2e-4
"""Radians between directions that are the same."""
_OVERLAP = 5e-3
"""mm: what two shapes may overlap along the edges they share."""
_COMMON = 8
"""Edges of one length from which on none of them is thought to fit only one other."""


@dataclass(frozen=True, slots=True)
class Member:
    """A part of a joined shape: it is turned, radians, then moved, mm."""

    part: str
    turn: float
    x: float
    y: float

    def moved(self, turn: float, x: float, y: float) -> Member:
        """Return where it lies once the shape it belongs to has been turned and moved."""
        px, py = Motion.turned(turn, x=x, y=y).point((self.x, self.y))
        return Member(self.part, self.turn + turn, px, py)


@dataclass(frozen=True, slots=True, eq=False)
class Joined:
    """A shape made of parts that belong together.

    Attributes
    ----------
    members : tuple of Member
        The parts it is made of.
    polygon : Polygon
        The outline of their grown shapes together.
    turns : tuple of float or None
        How it may be turned, radians; None for any.
    quantity : int
        How many there are.
    """

    members: tuple[Member, ...]
    polygon: Polygon
    turns: tuple[float, ...] | None
    quantity: int


@dataclass(frozen=True, slots=True)
class _Match:
    """Shape ``b``, turned and moved, beside shape ``a`` along so many whole edges of both."""

    a: int
    b: int
    turn: float
    x: float
    y: float
    edges: int
    length: float


def joined(shapes: Sequence[Joined], sides: Collection[float] = ()) -> list[Joined]:
    """Return shapes with those joined that have edges which fit only each other.

    Parameters
    ----------
    shapes : sequence of Joined
        The shapes, each of one part.
    sides : collection of float
        Lengths of the sheets' sides, mm: an edge as long fits the sheet's edge as well.

    Returns
    -------
    list of Joined
        As many copies of every part as before, in fewer shapes where there were mates.
    """
    book = _Matches(sides)
    for shape in shapes:
        book.take_in(shape)
    if not book.is_promising:
        return list(shapes)
    book.match_all()
    while (match := book.surest()) is not None:
        book.join(match)
    return book.shapes


class _Matches:
    """Shapes, their edges, and which edges of others lie along each whole."""

    def __init__(self, sides: Collection[float]) -> None:
        self._sides = np.array([*sides, math.inf])
        self._shapes: dict[int, Joined] = {}
        self._edges: dict[int, Floats] = {}
        self._found: dict[tuple[int, int], list[tuple[int, int, _Match]]] = {}
        self._made = 0

    @property
    def shapes(self) -> list[Joined]:
        return list(self._shapes.values())

    def take_in(self, shape: Joined) -> int:
        """Add a shape; return its number."""
        n, self._made = self._made, self._made + 1
        edges = _edges(shape.polygon)
        at_sides = (np.abs(edges[:, None, 4] - self._sides) < 2 * _EQUAL).any(axis=1)
        self._shapes[n], self._edges[n] = shape, edges[~at_sides]
        return n

    @property
    def is_promising(self) -> bool:
        """Whether half of the shapes have an edge as long as one of just one other shape."""
        owner = np.concatenate([np.full(len(e), n) for n, e in self._edges.items()])
        length = np.concatenate([e[:, 4] for e in self._edges.values()])
        order = np.argsort(length, kind="stable")
        close = np.diff(length[order]) < _EQUAL
        lone = close & ~np.r_[False, close[:-1]] & ~np.r_[close[1:], False]
        first, second = owner[order][:-1][lone], owner[order][1:][lone]
        mated = {int(n) for n in np.r_[first[first != second], second[first != second]]}
        return 2 * len(mated) >= len(self._shapes)

    def match_all(self) -> None:
        """Find what lies along the edges of all shapes."""
        for n in self._shapes:
            self._match(n, [other for other in self._shapes if other <= n])

    def _match(self, n: int, others: Sequence[int]) -> None:
        lengths = np.sort(np.concatenate([e[:, 4] for e in self._edges.values()]))
        for other in others:
            if other == n and self._shapes[n].quantity < 2:
                continue
            if found := self._between(other, n, lengths):
                self._found[other, n] = found

    def _between(self, a: int, b: int, lengths: Floats) -> list[tuple[int, int, _Match]]:
        one, two = self._edges[a], self._edges[b]
        found: list[tuple[int, int, _Match]] = []
        seen: set[tuple[object, ...]] = set()
        first, last = (np.searchsorted(lengths, one[:, 4] + by) for by in (-_EQUAL, _EQUAL))
        is_rare = last - first <= _COMMON
        alike = np.abs(one[:, None, 4] - two[None, :, 4]) < _EQUAL
        for i, j in np.argwhere(alike & is_rare[:, None]):
            turn = self._turn(a, b, math.atan2(-one[i, 3], -one[i, 2])
                              - math.atan2(two[j, 3], two[j, 2]))  # fmt: skip
            if turn is None:
                continue
            middle = Motion.turned(turn).point((two[j, 5], two[j, 6]))
            x, y = one[i, 5] - middle[0], one[i, 6] - middle[1]
            # Of a shape that is the same again when turned, one way is enough.
            ways = self._outcomes(a, b, turn, float(x), float(y))
            if seen.isdisjoint(ways) and (match := self._weighed(a, b, turn, float(x), float(y))):
                found.append((int(i), int(j), match))
            seen.update(ways)
        return found

    def _outcomes(
        self, a: int, b: int, turn: float, x: float, y: float
    ) -> tuple[tuple[object, ...], tuple[object, ...]]:
        """Return what tells how b comes to lie against a, and how a against b."""
        back = Motion.turned(-turn).point((-x, -y))
        there = _laid(self._shapes[b].polygon, turn, x, y)
        here = _laid(self._shapes[a].polygon, -turn, *back)
        return (("b", *_signature(there)), ("a", *_signature(here)))

    def _turn(self, a: int, b: int, wanted: float) -> float | None:
        """Return the turn of b against a that is allowed and as wanted."""
        one, two = self._shapes[a].turns, self._shapes[b].turns
        if one is None or two is None:
            return wanted
        for t in {round(q - p, 9): q - p for p in one for q in two}.values():
            if abs(math.remainder(t - wanted, 2 * math.pi)) < _TURN:
                return t
        return None

    def _weighed(self, a: int, b: int, turn: float, x: float, y: float) -> _Match | None:
        """Return a match with what speaks for it; None when the shapes overlap."""
        lies = _laid(self._shapes[b].polygon, turn, x, y)
        along = self._shapes[a].polygon.boundary.length
        over = self._shapes[a].polygon.intersection(lies).area
        if over > _OVERLAP * min(along, lies.length):
            return None
        ends = {}
        one, two = self._edges[a], _edges(lies)
        for i, j in np.argwhere(np.abs(one[:, None, 4] - two[None, :, 4]) < _EQUAL):
            if (
                math.dist(one[i, 5:7], two[j, 5:7]) < 2 * _EQUAL
                and float(one[i, 2:4] @ two[j, 2:4]) < -1 + _TURN
            ):
                ends[int(i)] = float(one[i, 4])
        if not ends:
            return None
        return _Match(a, b, turn, x, y, len(ends), sum(ends.values()))

    def surest(self) -> _Match | None:
        """Return the match of an edge that has no other as good, for both shapes; the best one."""
        best: dict[tuple[int, int], list[_Match]] = {}
        for found in self._found.values():
            for i, j, match in found:
                for end in ((match.a, i), (match.b, j)):
                    known = best.get(end, [])
                    if not known or match.edges > known[0].edges:
                        best[end] = [match]
                    elif match.edges == known[0].edges:
                        known.append(match)
        sure = [
            match
            for found in self._found.values()
            for i, j, match in found
            if best[match.a, i] == [match] == best[match.b, j]
        ]
        return max(sure, key=lambda m: (m.edges, m.length), default=None)

    def join(self, match: _Match) -> None:
        """Make one shape of the two of a match, as often as there are both."""
        a, b = self._shapes[match.a], self._shapes[match.b]
        same = match.a == match.b
        n = a.quantity // 2 if same else min(a.quantity, b.quantity)
        moved = tuple(m.moved(match.turn, match.x, match.y) for m in b.members)
        whole = _together(a.polygon, _laid(b.polygon, match.turn, match.x, match.y))
        for k, used in ((match.a, 2 * n),) if same else ((match.a, n), (match.b, n)):
            self._use(k, used)
        n = self.take_in(
            Joined((*a.members, *moved), whole, _turns_of(a.turns, b.turns, match.turn), n)
        )
        self._match(n, list(self._shapes))

    def _use(self, k: int, used: int) -> None:
        left = self._shapes[k].quantity - used
        self._shapes[k] = replace(self._shapes[k], quantity=left)
        if left < 2:
            self._found.pop((k, k), None)
        if left == 0:
            del self._shapes[k], self._edges[k]
            self._found = {ab: found for ab, found in self._found.items() if k not in ab}


def _turns_of(
    a: tuple[float, ...] | None, b: tuple[float, ...] | None, turn: float
) -> tuple[float, ...] | None:
    """Return the turns that suit a shape and another that is turned against it."""
    if b is None:
        return a
    suited = tuple(t - turn for t in b)
    if a is None:
        return suited
    return tuple(
        t for t in a if any(abs(math.remainder(t - s, 2 * math.pi)) < _TURN for s in suited)
    )


def _laid(polygon: Polygon, turn: float, x: float, y: float) -> Polygon:
    return translate(rotate(polygon, turn, origin=(0, 0), use_radians=True), x, y)


def _together(a: Polygon, b: Polygon) -> Polygon:
    """Return two polygons as one, its corners those of the two to the last digit."""
    whole = shapely.union(a, b, grid_size=_EQUAL / 2)
    whole = max(getattr(whole, "geoms", [whole]), key=lambda g: g.area)
    corners = np.vstack([shapely.get_coordinates(a), shapely.get_coordinates(b)])
    rings = [_exact(r, corners) for r in (whole.exterior, *whole.interiors)]
    return orient(Polygon(rings[0], [r for r in rings[1:] if len(r) > 2]))


def _exact(ring: shapely.LinearRing, corners: Floats) -> list[Point]:
    points = []
    for p in np.array(ring.coords[:-1]):
        away = np.hypot(*(corners - p).T)
        points.append(corners[away.argmin()] if away.min() < 2 * _EQUAL else p)
    kept = [p for q, p, r in _corners(points) if not _is_straight(q, p, r)]
    return [(float(x), float(y)) for x, y in kept]


def _corners(points: Sequence[Floats]) -> Iterator[tuple[Floats, Floats, Floats]]:
    return zip([points[-1], *points[:-1]], points, [*points[1:], points[0]], strict=True)


def _is_straight(q: Floats, p: Floats, r: Floats) -> bool:
    ux, uy = r - q
    length = math.hypot(ux, uy)
    return length < _EQUAL or abs((p - q)[0] * uy - (p - q)[1] * ux) / length < _EQUAL


def _signature(polygon: Polygon) -> tuple[object, ...]:
    """Return what differs between polygons that do: middle, bounds and moments, coarsely."""
    points = shapely.get_coordinates(polygon)[:-1]
    middle = points.mean(axis=0)
    moments = ((points - middle) ** 3).mean(axis=0)
    values = (*polygon.bounds, *middle, *np.cbrt(moments))
    return tuple(round(float(v), 1) for v in values)


def _edges(polygon: Polygon) -> Floats:
    """Return the longer edges: x, y, direction, length, and the middle, one row each."""
    rows = []
    for ring in (polygon.exterior, *polygon.interiors):
        for (x0, y0), (x1, y1) in pairwise(ring.coords):
            length = math.hypot(x1 - x0, y1 - y0)
            if length >= _LEAST:
                rows.append(
                    (x0, y0, (x1 - x0) / length, (y1 - y0) / length, length,
                     (x0 + x1) / 2, (y0 + y1) / 2)
                )  # fmt: skip
    return np.array(rows).reshape(-1, 7)
