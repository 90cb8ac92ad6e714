"""Filling sheets one part after the other, each where it reaches least far right.

An upright line through the no-fit polygons of what lies there already leaves gaps; the lowest gap
is a place. The line walks right in steps until there is a gap and is then halved back towards the
last x without one. A sheet only fills up, so what did not fit left of some x will not fit there
later: each way's walk goes on where its last one ended, which makes the cost nearly linear in
copies.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numba import njit

from kaigata.core.nest.nofit import (
    MOST_TRIES,
    SKEW_COS,
    SKEW_SIN,
    TO_COME,
    Floats,
    Ints,
    make_no_fit,
)
from kaigata.core.nest.strips import Walls, free_from, wall_up

__all__ = ["Filling", "fill", "wall_up_all"]

_FAR = 1e30
_STEP = 2.5
_EXACT = 0.01
_HAIR = 1e-9
_BESIDE = 3.7e-5
_TOUCHING = 1e-4
"""mm: less deep inside a sum is on its edge."""


class Filling(NamedTuple):
    """Sheets being filled.

    Item i lies on ``sheet[i]`` (-1: nowhere yet) in ``way[i]`` at ``at[i]``, mm. The items of sheet
    s are ``head[s]``, then ``next[i]`` each, to -1. ``room[s]`` is where parts may reach, sheets of
    one ``stock[s]`` are alike, and walks of way w on sheet s go on at ``reached[s, w]``. ``walls``
    tell where nothing need be tried. Item i is to go along with item ``host[i]`` (-1: with none),
    laid before it: where the host lies in the j-th of its ways, it lies as row ``seat[i] + j`` of
    ``seats`` says: way (-1: it may not lie so), and x, y from the host's place. A guest in a hole
    goes where its host goes; for item i and its ``mate[i]`` (-1: none), of the same shape and laid
    beside it, a place is looked for at which both may lie, and their walks go on at ``met[s, w]``.
    ``by_sums`` says that no boundaries are made for it: of sums alone a line takes three times as
    long.
    """

    sheet: Ints
    way: Ints
    at: Floats
    head: Ints
    next: Ints
    room: Floats
    stock: Ints
    reached: Floats
    walls: Walls
    host: Ints
    seat: Ints
    seats: Floats
    mate: Ints
    met: Floats
    by_sums: bool


@njit(cache=True, error_model="numpy")
def _crossings(edges, first, last, px, py, ux, uy, out):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Write, sorted, how far along a line it crosses a boundary; return how often, -1 if oddly."""
    ax, ay = SKEW_COS * px - SKEW_SIN * py, SKEW_SIN * px + SKEW_COS * py
    bx, by = SKEW_COS * ux - SKEW_SIN * uy, SKEW_SIN * ux + SKEW_COS * uy
    n = 0
    for e in range(first, last):
        rx, ry = edges[e, 0] - ax, edges[e, 1] - ay
        side = bx * ry - by * rx
        other = side + bx * edges[e, 3] - by * edges[e, 2]
        if (side < 0) != (other < 0):
            f = side / (side - other)
            t = bx * (rx + f * edges[e, 2]) + by * (ry + f * edges[e, 3])
            if n == len(out):
                return -1
            i = n
            while i > 0 and out[i - 1] > t:
                out[i] = out[i - 1]
                i -= 1
            out[i] = t
            n += 1
    return n if n % 2 == 0 else -1


@njit(cache=True, error_model="numpy")
def _span_in(planes, first, last, px, py, ux, uy):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return from where to where a line lies inside one sum; the end first when it does not."""
    t0, t1 = -_FAR, _FAR
    for p in range(first, last):
        nx, ny = planes[p, 0], planes[p, 1]
        away = nx * px + ny * py - planes[p, 2]
        slope = nx * ux + ny * uy
        if abs(slope) < 1e-12:
            if away >= -_HAIR:
                return 0.0, -_FAR
        elif slope > 0:
            t1 = min(t1, -away / slope)
        else:
            t0 = max(t0, -away / slope)
    return t0, t1


@njit(cache=True, error_model="numpy")
def _is_free(table, filling, s, w, x, y):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Whether way w at (x, y) lies inside no sum, asked of the sums themselves, which are made."""
    rank, back, pair, hull = table.rank, table.back, table.fits.pair, table.hull
    polygon = table.fits.polygon
    plane_first, planes = table.fits.plane_first, table.fits.planes
    j = filling.head[s]
    while j >= 0:
        v = filling.way[j]
        ax, ay = filling.at[j, 0], filling.at[j, 1]
        j = filling.next[j]
        if (
            ax + hull[v, 0] >= x + hull[w, 2]
            or ax + hull[v, 2] <= x + hull[w, 0]
            or ay + hull[v, 1] >= y + hull[w, 3]
            or ay + hull[v, 3] <= y + hull[w, 1]
        ):
            continue
        if rank[v] <= rank[w]:
            f, k, dx, dy = v, pair[v, w], x - ax, y - ay
        else:
            f, k, dx, dy = w, pair[w, v], ax - x, ay - y
        px = back[f, 0] * dx + back[f, 1] * dy
        py = back[f, 2] * dx + back[f, 3] * dy
        if px <= polygon[k, 0] or px >= polygon[k, 2] or py <= polygon[k, 1] or py >= polygon[k, 3]:
            continue
        for r in range(int(polygon[k, 7]), int(polygon[k + 1, 7])):
            inside = True
            for p in range(plane_first[r], plane_first[r + 1]):
                if planes[p, 0] * px + planes[p, 1] * py > planes[p, 2] - _TOUCHING:
                    inside = False
                    break
            if inside:
                return False
    return True


@njit(cache=True, error_model="numpy")
def _lowest_gap(table, filling, s, w, mate, x, low, high, spans, crossed):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return the lowest y of [low, high] at x where way w overlaps nothing, or _FAR; and spans.

    The boundary is asked first, which is quick where there is one; but a line can slip through
    where edges meet and a hair of it is missing, so the place is shown to the sums, and if they say
    no the line is asked of them from the start.
    """
    v, dx, dy = mate
    none, tries, by_sums = np.int64(0), 0, filling.by_sums
    while True:
        n, spans = _spans_on_line(table, filling, s, w, x, low, high, none, spans, crossed, by_sums)
        if n < 0:
            _make_on_line(table, filling, s, w, x)
            continue
        if v >= 0:
            n, spans = _spans_on_line(
                table, filling, s, v, x + dx, low + dy, high + dy, n, spans, crossed, by_sums
            )
            if n < 0:
                # What was made for the first may be forgotten over that.
                tries += 1
                if tries > MOST_TRIES:
                    raise MemoryError
                _make_on_line(table, filling, s, v, x + dx)
                continue
        y = _first_free(spans, n, low, high)
        if (
            by_sums
            or y == _FAR
            or (
                _is_free(table, filling, s, w, x, y)
                and (v < 0 or _is_free(table, filling, s, v, x + dx, y + dy))
            )
        ):
            return y, spans
        by_sums = True


@njit(cache=True, error_model="numpy")
def _first_free(spans, n, low, high):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return the least y of [low, high] in none of n spans, which count from low; _FAR for none."""
    y, length = 0.0, high - low
    raised = True
    while raised and y <= length:
        raised = False
        for i in range(n):
            # Where one ends and the next begins a part would touch both, which is allowed.
            if spans[i, 0] < y < spans[i, 1]:
                y = spans[i, 1]
                raised = True
    return low + y if y <= length else _FAR


@njit(cache=True, error_model="numpy")
def _make_on_line(table, filling, s, w, x):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Make the no-fit polygons of way w at x with what lies above and below it on sheet s."""
    rank, hull, fits = table.rank, table.hull, table.fits
    x0, x1 = x + hull[w, 0], x + hull[w, 2]
    for _ in range(MOST_TRIES):
        had = True
        j = filling.head[s]
        while j >= 0:
            v, ax = filling.way[j], filling.at[j, 0]
            if ax + hull[v, 0] < x1 and ax + hull[v, 2] > x0:
                lying, moving = (v, w) if rank[v] <= rank[w] else (w, v)
                k = fits.pair[lying, moving]
                if k < 0 or (fits.polygon[k, 5] == TO_COME and not filling.by_sums):
                    make_no_fit(table, lying, moving, not filling.by_sums)
                    had = False
            j = filling.next[j]
        if had:
            return
    raise MemoryError


@njit(cache=True, error_model="numpy")
def _spans_on_line(table, filling, s, w, x, low, high, n, spans, crossed, by_sums):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Add to n spans where on [low, high] way w at x overlaps something; return how many, and all.

    They count from low. Instead of how many it returns -1 where a no-fit polygon is not made yet.
    """
    rank, back, pair, hull = table.rank, table.back, table.fits.pair, table.hull
    polygon = table.fits.polygon
    plane_first, planes, edges = table.fits.plane_first, table.fits.planes, table.fits.edges
    way, at, after = filling.way, filling.at, filling.next
    own = rank[w]
    x0, x1 = x + hull[w, 0], x + hull[w, 2]
    # Parts line up with each other; a hair beside that, no line runs along an edge.
    beside = x + _BESIDE
    length = high - low
    j = filling.head[s]
    while j >= 0:
        v = way[j]
        ax, ay = at[j, 0], at[j, 1]
        if ax + hull[v, 0] < x1 and ax + hull[v, 2] > x0:
            if rank[v] <= own:
                f, k, sign = v, pair[v, w], 1.0
            else:
                f, k, sign = w, pair[w, v], -1.0
            if k < 0 or (polygon[k, 5] == TO_COME and not by_sums):
                return -1, spans
            dx, dy = sign * (beside - ax), sign * (low - ay)
            px = back[f, 0] * dx + back[f, 1] * dy
            py = back[f, 2] * dx + back[f, 3] * dy
            ux, uy = sign * back[f, 1], sign * back[f, 3]
            qx, qy = px + ux * length, py + uy * length
            if not (
                max(px, qx) <= polygon[k, 0]
                or min(px, qx) >= polygon[k, 2]
                or max(py, qy) <= polygon[k, 1]
                or min(py, qy) >= polygon[k, 3]
            ):
                c = -1
                if not by_sums:
                    first, last = int(polygon[k, 4]), int(polygon[k, 5])
                    c = _crossings(edges, first, last, px, py, ux, uy, crossed)
                begin, end = int(polygon[k, 7]), int(polygon[k + 1, 7])
                sums = end - begin
                if n + max(c // 2, sums) > len(spans):
                    more = np.zeros((2 * n + sums + 64, 2))
                    more[:n] = spans[:n]
                    spans = more
                for i in range(c // 2):
                    spans[n, 0], spans[n, 1] = crossed[2 * i], crossed[2 * i + 1]
                    n += 1
                if c < 0:
                    for r in range(begin, end):
                        t0, t1 = _span_in(
                            planes, plane_first[r], plane_first[r + 1], px, py, ux, uy
                        )
                        if t1 > t0:
                            spans[n, 0], spans[n, 1] = t0, t1
                            n += 1
        j = after[j]
    return n, spans


@njit(cache=True, error_model="numpy")
def _free_of_walls(table, walls, s, w, mate, x, stop, gaps):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return from which x on, up to ``stop``, no strip says that way w and its mate cannot lie."""
    v, dx, _ = mate
    edge = table.hull[w, 0]
    x = max(x, free_from(table.solids, walls, s, w, x + edge, stop + edge, gaps) - edge)
    while v >= 0 and x < stop:
        its = dx + table.hull[v, 0]
        free = free_from(table.solids, walls, s, v, x + its, stop + its, gaps) - its
        # Adding an offset and taking it off again may come out a hair larger than nothing.
        if free <= x + _HAIR:
            break
        x = max(free, free_from(table.solids, walls, s, w, free + edge, stop + edge, gaps) - edge)
    return x


@njit(cache=True, error_model="numpy")
def _walk(table, filling, s, w, mate, limit, spans, crossed, gaps):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return the leftmost place of way w on sheet s up to x = limit, (_FAR, 0) for none; and spans.

    With a ``mate``, way, x, y, that way (-1: none) is free there as well at x, y from it.
    ``spans``, ``crossed`` and ``gaps`` are room to work in.
    """
    room, reach = filling.room, table.reach
    v, dx, dy = mate
    reached = filling.reached
    left, right = room[s, 0] - reach[w, 0], room[s, 2] - reach[w, 2]
    low, high = room[s, 1] - reach[w, 1], room[s, 3] - reach[w, 3]
    if v >= 0:
        reached = filling.met
        left = max(left, room[s, 0] - reach[v, 0] - dx)
        right = min(right, room[s, 2] - reach[v, 2] - dx)
        low = max(low, room[s, 1] - reach[v, 1] - dy)
        high = min(high, room[s, 3] - reach[v, 3] - dy)
    x = max(left, reached[s, w])
    if right < x - _HAIR or high < low - _HAIR or x > limit:
        return _FAR, 0.0, spans
    stop = min(right, limit)
    last = x
    while True:
        free = _free_of_walls(table, filling.walls, s, w, mate, x, stop, gaps)
        if free > x:
            last = x = free
        y, spans = _lowest_gap(table, filling, s, w, mate, x, low, high, spans, crossed)
        if y < _FAR:
            break
        if x >= stop:
            reached[s, w] = _FAR if stop == right else x
            return _FAR, 0.0, spans
        last = x
        x = min(x + _STEP, stop)
    while x - last > _EXACT:
        middle = (x + last) / 2
        gap, spans = _lowest_gap(table, filling, s, w, mate, middle, low, high, spans, crossed)
        if gap < _FAR:
            x, y = middle, gap
        else:
            last = middle
    reached[s, w] = x
    return x, y, spans


@njit(cache=True, error_model="numpy")
def _put(table, filling, i, s, w, x, y):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    filling.sheet[i], filling.way[i] = s, w
    filling.at[i, 0], filling.at[i, 1] = x, y
    filling.next[i] = filling.head[s]
    filling.head[s] = i
    wall_up(table.solids, filling.walls, s, w, x + table.hull[w, 0], y)


@njit(cache=True, error_model="numpy")
def _seat_of(table, filling, i, v):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return in which way item i lies beside its host in way v, and where from its place."""
    seat = filling.seats[filling.seat[i] + v - table.first[table.kind[v]]]
    return int(seat[0]), seat[1], seat[2]


@njit(cache=True, error_model="numpy")
def _seated(table, filling, i):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Lay an item in the hole of its host it goes along in, if it can; whether it could."""
    h = filling.host[i]
    # Where two found no room together, beside the first there is none for its mate.
    if h < 0 or filling.sheet[h] < 0 or filling.mate[h] == i:
        return False
    s = filling.sheet[h]
    w, dx, dy = _seat_of(table, filling, i, filling.way[h])
    x, y = filling.at[h, 0] + dx, filling.at[h, 1] + dy
    if w < 0:
        return False
    _make_on_line(table, filling, s, w, x)
    if not _is_free(table, filling, s, w, x, y):
        return False
    _put(table, filling, i, s, w, x, y)
    return True


@njit(cache=True, error_model="numpy")
def _laid(table, filling, i, kind, m, lean, spans, crossed, gaps):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Lay item i, with its mate m unless that is -1, on the first sheet that takes it.

    Returns whether one did, and spans.
    """
    reach, room = table.reach, filling.room
    failed = -1
    for s in range(len(filling.head)):
        empty = filling.head[s] < 0
        if empty and filling.stock[s] == failed:
            continue
        best, chosen, bx, by = _FAR, -1, 0.0, 0.0
        for w in range(table.first[kind], table.last[kind]):
            mate = (np.int64(-1), 0.0, 0.0)
            right, top, lowest = reach[w, 2], reach[w, 3], reach[w, 1]
            if m >= 0:
                mate = _seat_of(table, filling, m, w)
                v, dx, dy = mate
                if v < 0:
                    continue
                right, top = max(right, dx + reach[v, 2]), max(top, dy + reach[v, 3])
                lowest = min(lowest, dy + reach[v, 1])
            # Beyond this the way found last is better, wherever it ends.
            limit = best + 1e-3 - right - lean * (room[s, 1] - lowest + top)
            x, y, spans = _walk(table, filling, s, w, mate, limit, spans, crossed, gaps)
            if x < _FAR:
                score = x + right + lean * (y + top)
                if score < best - 1e-3 or (score < best + 1e-3 and y < by):
                    best, chosen, bx, by = score, w, x, y
        if chosen >= 0:
            _put(table, filling, i, s, chosen, bx, by)
            if m >= 0:
                v, dx, dy = _seat_of(table, filling, m, chosen)
                _put(table, filling, m, s, v, bx + dx, by + dy)
            return True, spans
        if empty:
            failed = filling.stock[s]
    return False, spans


@njit(cache=True, nogil=True, error_model="numpy")
def wall_up_all(table, filling):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Tell the strips of all sheets what lies there."""
    for s in range(len(filling.head)):
        j = filling.head[s]
        while j >= 0:
            w, x, y = filling.way[j], filling.at[j, 0], filling.at[j, 1]
            wall_up(table.solids, filling.walls, s, w, x + table.hull[w, 0], y)
            j = filling.next[j]


@njit(cache=True, nogil=True, error_model="numpy")
def fill(table, filling, kinds, begin, end, lean):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Lay the items from ``begin`` to before ``end``, each on the first sheet that takes it.

    Parameters
    ----------
    table : Table
        The shapes.
    filling : Filling
        The sheets, filled in place; an item that fits nowhere keeps sheet -1.
    kinds : array of int
        Shape of each item.
    begin, end : int
        Which items.
    lean : float
        A way is taken for the least right end plus ``lean`` times the top.

    Raises
    ------
    MemoryError
        There is no room even for the no-fit polygons of one place.
    """
    spans = np.zeros((256, 2))
    crossed, gaps = np.empty(64), np.empty((2, 48, 2))
    # A plain -1 is a type of its own, for which all that is called would be compiled once more.
    alone = np.int64(-1)
    for i in range(begin, end):
        if filling.sheet[i] >= 0 or _seated(table, filling, i):
            continue
        m, laid = filling.mate[i], False
        if m >= 0:
            laid, spans = _laid(table, filling, i, kinds[i], m, lean, spans, crossed, gaps)
        if not laid:
            laid, spans = _laid(table, filling, i, kinds[i], alone, lean, spans, crossed, gaps)
