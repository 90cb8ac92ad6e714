"""Loose lines and arcs joined into closed contours."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass
from itertools import combinations

import shapely
from shapely import STRtree
from shapely.geometry import Polygon, box

from kaigata.core.errors import InputError
from kaigata.core.plane import Contour, Point, Segment
from kaigata.core.plane.meet import meetings
from kaigata.core.plane.segment import bulge_of_sweep

__all__ = ["GAP", "Joined", "join"]

GAP = 0.05
"""Ends of a drawing's lines this close, mm, belong together."""

_TOUCH = 1e-4
"""Ends this close are one point without a word."""

_ALIKE = 0.005
"""Lines drawn over each other are this close, mm."""


@dataclass(frozen=True, slots=True)
class Joined:
    """Closed contours, single strokes that belong to none, and the widest gap that was closed."""

    contours: tuple[Contour, ...]
    loose: tuple[Segment, ...]
    widest_gap: float
    doubled: int


def join(segments: Sequence[Segment], *, scale: float = 1.0) -> Joined:
    """Return the contours that segments make, in any order and direction.

    Doubled and overlapping ones count once; ends up to ``GAP`` apart are joined.

    Parameters
    ----------
    segments : sequence of Segment
        Loose lines and arcs, mm.
    scale : float
        Millimetres a unit of the drawing, so that places are told as the drawing has them.

    Raises
    ------
    InputError
        A contour is open, or lines branch; the text gives gap and place.
    """
    single = _without_doubles([s for s in segments if s.length > _TOUCH])
    graph = _Graph(single, scale)
    graph.close_gaps()
    contours, loose = graph.walk()
    return Joined(tuple(contours), tuple(loose), graph.widest_gap, len(segments) - len(single))


# Doubles.


def _without_doubles(segments: Sequence[Segment]) -> list[Segment]:
    """Return the segments with those that lie on each other made one."""
    lines = [s for s in segments if s.is_line]
    arcs = [s for s in segments if not s.is_line]
    return [*_merged_lines(lines), *_merged_arcs(arcs)]


def _overlapping(
    segments: Sequence[Segment], are_one: Callable[[Segment, Segment], bool]
) -> list[list[Segment]]:
    """Return groups of segments that run over each other."""
    boxes = [_box(s) for s in segments]
    group = list(range(len(segments)))

    def root(i: int) -> int:
        while group[i] != i:
            group[i] = group[group[i]]
            i = group[i]
        return i

    if segments:
        for i, j in STRtree(boxes).query(boxes).T.tolist():
            if i < j and are_one(segments[i], segments[j]):
                group[root(j)] = root(i)
    found: dict[int, list[Segment]] = defaultdict(list)
    for i, s in enumerate(segments):
        found[root(i)].append(s)
    return list(found.values())


def _box(s: Segment) -> Polygon:
    x0, y0, x1, y1 = s.bounds()
    return box(x0 - _ALIKE, y0 - _ALIKE, x1 + _ALIKE, y1 + _ALIKE)


def _merged_lines(lines: Sequence[Segment]) -> list[Segment]:
    out = []
    for group in _overlapping(lines, _lines_are_one):
        first = max(group, key=lambda s: s.chord)
        shares = [first.share_of(p) for s in group for p in (s.start, s.end)]
        low, high = min(shares), max(shares)
        out.append(first if len(group) == 1 else Segment(first.at(low), first.at(high)))
    return out


def _lines_are_one(a: Segment, b: Segment) -> bool:
    """Whether two lines overlap; ones that only follow each other end to end do not."""
    a, b = (a, b) if a.chord >= b.chord else (b, a)
    (ux, uy), (ox, oy) = a.heading(0), a.start
    for p in (b.start, b.end):
        if abs((p[0] - ox) * uy - (p[1] - oy) * ux) > _ALIKE:
            return False
    low, high = sorted((a.share_of(b.start) * a.chord, a.share_of(b.end) * a.chord))
    return min(high, a.chord) - max(low, 0.0) > _ALIKE


def _merged_arcs(arcs: Sequence[Segment]) -> list[Segment]:
    out: list[Segment] = []
    forward = [s if s.bulge > 0 else s.reversed() for s in arcs]
    for group in _overlapping(forward, _arcs_are_one):
        first = max(group, key=lambda s: s.length)
        if len(group) == 1:
            out.append(first)
            continue
        low, high = 0.0, first.sweep
        # Twice round is enough to take in what only touches the first through others.
        for s in (*group, *group):
            for a in (_begin(first, s), _begin(first, s) - 2 * math.pi):
                if (min(a + s.sweep, high) - max(a, low)) * first.radius > _ALIKE:
                    low, high = min(a, low), max(a + s.sweep, high)
                    break
        out.extend(_arc_pieces(first, low, min(high - low, 2 * math.pi)))
    return out


def _begin(first: Segment, s: Segment) -> float:
    """Return the angle from the start of one arc to the start of another about its centre."""
    (cx, cy) = first.centre
    here = math.atan2(first.start[1] - cy, first.start[0] - cx)
    return (math.atan2(s.start[1] - cy, s.start[0] - cx) - here) % (2 * math.pi)


def _arcs_are_one(a: Segment, b: Segment) -> bool:
    if math.dist(a.centre, b.centre) > _ALIKE or abs(a.radius - b.radius) > _ALIKE:
        return False
    begin = _begin(a, b)
    over = max(min(t + b.sweep, a.sweep) - max(t, 0.0) for t in (begin, begin - 2 * math.pi))
    return over * a.radius > _ALIKE


def _arc_pieces(first: Segment, low: float, sweep: float) -> list[Segment]:
    if abs(sweep - first.sweep) < 1e-9:
        return [first]
    (cx, cy), r = first.centre, first.radius
    begin = math.atan2(first.start[1] - cy, first.start[0] - cx) + low
    n = 1 if sweep < 1.5 * math.pi else 2
    turns = [begin + sweep * i / n for i in range(n + 1)]
    points = [(cx + r * math.cos(t), cy + r * math.sin(t)) for t in turns]
    bulge = bulge_of_sweep(sweep / n)
    return [Segment(points[i], points[i + 1], bulge) for i in range(n)]


# Chains.


def _pairs_within(points: Sequence[Point], distance: float) -> list[tuple[int, int]]:
    """Return the pairs of points that are at most ``distance`` apart, each once."""
    spots = shapely.points(points)
    found = STRtree(spots).query(spots, predicate="dwithin", distance=distance)
    return [(int(i), int(j)) for i, j in found.T if i < j]


class _Graph:
    """Segment ends as nodes; an end is ``2 * segment`` (start) or ``2 * segment + 1`` (end)."""

    def __init__(self, segments: Sequence[Segment], scale: float) -> None:
        self.segments, self.scale = list(segments), scale
        self.widest_gap = 0.0
        self.points = [p for s in self.segments for p in (s.start, s.end)]
        self.partner: dict[int, int] = {}
        if self.points:
            self._pair_touching()

    def _pair_touching(self) -> None:
        near: dict[int, list[int]] = defaultdict(list)
        for i, j in _pairs_within(self.points, _TOUCH):
            near[i].append(j)
            near[j].append(i)
        for i, others in near.items():
            if len(others) == 1:
                self.partner[i] = others[0]
            elif i not in self.partner:
                self._pair_among(i, others)

    def _pair_among(self, i: int, near: Iterable[int]) -> None:
        """Pair ends where contours touch in a point: those that run on most smoothly."""
        ends = sorted([i, *near])
        if len(ends) % 2:
            x, y = self.points[i]
            raise InputError(
                f"{len(ends)} lines meet at x {x / self.scale:.3f}, y {y / self.scale:.3f}: an "
                "outline must run round once",
                fix="Take the extra line out, or put bend lines on a layer of their own",
            )
        left = list(ends)
        while left:
            a = left.pop(0)
            b = min(left, key=lambda j: -_turn(self._away(a), self._away(j)))
            left.remove(b)
            self.partner[a], self.partner[b] = b, a

    def _away(self, end: int) -> Point:
        s = self.segments[end // 2]
        if end % 2 == 0:
            return s.heading(0)
        x, y = s.heading(1)
        return (-x, -y)

    def close_gaps(self) -> None:
        """Join loose ends up to ``GAP`` apart, the closest first."""
        loose = [i for i in range(len(self.points)) if i not in self.partner]
        if len(loose) < 2:
            return
        pairs = sorted(
            (math.dist(self.points[loose[a]], self.points[loose[b]]), loose[a], loose[b])
            for a, b in _pairs_within([self.points[i] for i in loose], GAP)
        )
        for gap, a, b in pairs:
            if a in self.partner or b in self.partner or a // 2 == b // 2:
                continue
            self.partner[a], self.partner[b] = b, a
            self.widest_gap = max(self.widest_gap, gap)
            self._meet(a, b)

    def _meet(self, a: int, b: int) -> None:
        """Bring two ends to one point: where their lines cross, else where the arc ends.

        A crossing far off, or one that would turn a short line about, is none.
        """
        p, q = self.points[a], self.points[b]
        one, two = self.segments[a // 2], self.segments[b // 2]
        crossing = _crossing(one, p, two, q) if one.is_line and two.is_line else None
        if crossing is not None and not (self._turns(a, crossing) or self._turns(b, crossing)):
            at = crossing
        elif one.is_line != two.is_line:
            at = q if one.is_line else p
        else:
            at = ((p[0] + q[0]) / 2, (p[1] + q[1]) / 2)
        for end in (a, b):
            self._move(end, at)

    def _turns(self, end: int, to: Point) -> bool:
        """Whether a line would turn about if one of its ends were moved."""
        (x, y), (u, v) = self.points[end ^ 1], self._away(end)
        return (x - to[0]) * u + (y - to[1]) * v <= 0

    def _move(self, end: int, to: Point) -> None:
        s = self.segments[end // 2]
        start, stop = (to, s.end) if end % 2 == 0 else (s.start, to)
        self.segments[end // 2] = Segment(start, stop, s.bulge)
        self.points[end] = to

    def walk(self) -> tuple[list[Contour], list[Segment]]:
        """Return the closed contours and the single loose strokes.

        Raises
        ------
        InputError
            A chain of several strokes, or an arc of more than a half turn, is open.
        """
        used = [False] * len(self.segments)
        contours, loose, open_ends = [], [], []
        for first in range(len(self.segments)):
            if used[first]:
                continue
            chain, is_closed = self._chain(first, used)
            if is_closed:
                contours.append(Contour.of_segments(chain).simplified())
            elif len(chain) == 1 and abs(chain[0].bulge) < 1:
                loose.append(chain[0])
            else:
                open_ends.append((chain[0].start, chain[-1].end))
        if open_ends:
            raise self._open(open_ends)
        return contours, loose

    def _chain(self, first: int, used: list[bool]) -> tuple[list[Segment], bool]:
        # Back to a loose end, or all the way round.
        at = 2 * first
        while at in self.partner:
            other = self.partner[at]
            if other // 2 == first:
                break
            at = other ^ 1
        start = at
        chain: list[Segment] = []
        while True:
            i = at // 2
            used[i] = True
            chain.append(self.segments[i] if at % 2 == 0 else self.segments[i].reversed())
            nearer = self.partner.get(at ^ 1)
            if nearer is None:
                return chain, False
            if nearer == start:
                return chain, True
            at = nearer

    def _open(self, ends: Sequence[tuple[Point, Point]]) -> InputError:
        tips = [p for pair in ends for p in pair]
        gap, p, q = min((math.dist(a, b), a, b) for a, b in combinations(tips, 2))
        k = self.scale
        (px, py), (qx, qy) = (p[0] / k, p[1] / k), (q[0] / k, q[1] / k)
        return InputError(
            f"a contour is open by {gap:.2f} mm at x {(px + qx) / 2:.3f}, y {(py + qy) / 2:.3f} "
            f"(from {px:.3f}, {py:.3f} to {qx:.3f}, {qy:.3f})",
            fix=f"Close it in the drawing; gaps up to {GAP:g} mm are closed by themselves",
        )


def _turn(u: Point, v: Point) -> float:
    """Return 1 for directions that run on straight, -1 for ones that turn back."""
    return -(u[0] * v[0] + u[1] * v[1])


def _crossing(one: Segment, p: Point, two: Segment, q: Point) -> Point | None:
    """Return where two lines cross when that is near the ends to be joined.

    Lines that hardly turn cross anywhere: what is farther off than four times the gap is no corner.
    """
    reach = 4 * GAP
    most = min(2 * GAP, 4 * math.dist(p, q))

    def longer(s: Segment) -> Segment:
        (ux, uy) = s.heading(0)
        (ax, ay), (bx, by) = s.start, s.end
        return Segment((ax - ux * reach, ay - uy * reach), (bx + ux * reach, by + uy * reach))

    found = meetings(longer(one), longer(two))
    near = [m for m in found if max(math.dist(m, p), math.dist(m, q)) < most]
    return near[0] if near else None
