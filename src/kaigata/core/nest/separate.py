"""Taking overlaps out of a sheet: parts move one at a time to where they overlap least.

Guided local search: every pair of parts has a weight, a part moves to the place and way with the
least sum of weight times penetration depth over its neighbours, and pairs that still overlap after
a round grow heavier, so that what is stuck becomes worth moving (Voudouris and Tsang, Guided local
search, 1999; for placing shapes Egeblad, Nielsen and Odgaard, 2007).
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from numba import njit

from kaigata.core.nest.nofit import SKEW_COS, SKEW_SIN, TO_COME, Floats, make_no_fit
from kaigata.core.nest.overlap import (
    TOUCH,
    Lying,
    cost_at,
    lay,
    make_near,
    measure_depths,
    pushes_on,
)
from kaigata.core.nest.table import Table

__all__ = ["random_state", "separate", "squeeze_in"]


def random_state(seed: int) -> npt.NDArray[np.uint64]:
    """Return the state of the compiled loops' random numbers."""
    return np.array([np.random.SeedSequence(seed).generate_state(1, np.uint64)[0] | 1],
                    dtype=np.uint64)  # fmt: skip


@njit(cache=True, error_model="numpy")
def draw(state):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return a random number from 0 to below 1 (xorshift64*: Vigna, 2016)."""
    x = state[0]
    x ^= x >> np.uint64(12)
    x ^= x << np.uint64(25)
    x ^= x >> np.uint64(27)
    state[0] = x
    return float((x * np.uint64(2685821657736338717)) >> np.uint64(11)) * (1.0 / 9007199254740992.0)


@njit(cache=True, error_model="numpy")
def _keep(best, cost, w, x, y):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Keep a candidate among the best, sorted by cost; one very near a better one is not kept."""
    n = len(best)
    for k in range(n):
        if abs(best[k, 2] - x) < 0.5 and abs(best[k, 3] - y) < 0.5 and best[k, 1] == w:
            if best[k, 0] <= cost:
                return
            best[k, 0], best[k, 2], best[k, 3] = cost, x, y
            q = k
            while q > 0 and best[q - 1, 0] > best[q, 0]:
                for c in range(4):
                    best[q, c], best[q - 1, c] = best[q - 1, c], best[q, c]
                q -= 1
            return
    k = n - 1
    while k > 0 and best[k - 1, 0] > cost:
        for c in range(4):
            best[k, c] = best[k - 1, c]
        k -= 1
    best[k, 0], best[k, 1], best[k, 2], best[k, 3] = cost, w, x, y


@njit(cache=True, error_model="numpy")
def _clamped(value, low, high):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    return min(max(value, low), high)


@njit(cache=True, error_model="numpy")
def _room_at(rooms, x):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return which of the rooms, one right of the other, is nearest to an x."""
    for r in range(len(rooms) - 1):
        if 2.0 * x < rooms[r, 2] + rooms[r + 1, 0]:
            return r
    return len(rooms) - 1


@njit(cache=True, error_model="numpy")
def _anywhere(rooms, share):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return the x at a share of the way through all rooms."""
    total = 0.0
    for r in range(len(rooms)):
        total += rooms[r, 2] - rooms[r, 0]
    ahead = share * total
    for r in range(len(rooms) - 1):
        wide = rooms[r, 2] - rooms[r, 0]
        if ahead < wide:
            return rooms[r, 0] + ahead
        ahead -= wide
    return rooms[len(rooms) - 1, 0] + ahead


@njit(cache=True, error_model="numpy")
def _best_place(table, rooms, lying, i, effort, best, pushes, state):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Find where part i overlaps least; ``best[0]`` becomes (cost, way, x, y)."""
    way, at = lying.way, lying.at
    rank, hull, reach, back = table.rank, table.hull, table.reach, table.back
    pair, polygon, edges = table.fits.pair, table.fits.polygon, table.fits.edges
    n = len(way)
    own = table.kind[way[i]]
    first, last = table.first[own], table.last[own]
    best[:, 0] = 1e30
    best[:, 1] = -1.0
    here = way[i]
    # Where it lies, in every way it may.
    samples = (last - first) + effort
    size = max(hull[here, 2] - hull[here, 0], hull[here, 3] - hull[here, 1])
    if last - first > 8:
        samples = 8 + effort
    for s in range(-1, samples):
        if s == -1:
            w, x, y = here, at[i, 0], at[i, 1]
        else:
            w = first + int(draw(state) * (last - first))
            pick = draw(state)
            if s < samples - effort:
                if last - first <= 8:
                    w = first + s
                # About its middle, so that a turned part stays where it was.
                x = at[i, 0] + (hull[here, 0] + hull[here, 2]
                                - hull[w, 0] - hull[w, 2]) / 2  # fmt: skip
                y = at[i, 1] + (hull[here, 1] + hull[here, 3]
                                - hull[w, 1] - hull[w, 3]) / 2  # fmt: skip
            elif pick < 0.1:
                x = _anywhere(rooms, draw(state)) - reach[w, 0]
                room = rooms[_room_at(rooms, x + reach[w, 0])]
                y = room[1] - reach[w, 1] + draw(state) * (room[3] - room[1])
            elif pick < 0.6:
                if draw(state) < 0.5:
                    w = here
                x = at[i, 0] + (draw(state) + draw(state) - 1.0) * size * 0.6
                y = at[i, 1] + (draw(state) + draw(state) - 1.0) * size * 0.6
            else:
                # A corner of the no-fit polygon with some other part: it touches that part there.
                j = int(draw(state) * n)
                if j == i:
                    j = (j + 1) % n
                v = way[j]
                lies = rank[v] <= rank[w]
                f, m = (v, w) if lies else (w, v)
                fit = np.int64(pair[f, m])
                if fit < 0 or polygon[fit, 5] == TO_COME:
                    fit = make_no_fit(table, f, m, True)
                e0, e1 = int(polygon[fit, 4]), int(polygon[fit, 5])
                if e1 == e0:
                    continue
                e = e0 + int(draw(state) * (e1 - e0))
                sx, sy = edges[e, 0], edges[e, 1]
                ex, ey = SKEW_COS * sx + SKEW_SIN * sy, SKEW_COS * sy - SKEW_SIN * sx
                gx = back[f, 0] * ex + back[f, 2] * ey
                gy = back[f, 1] * ex + back[f, 3] * ey
                x = at[j, 0] + (gx if lies else -gx)
                y = at[j, 1] + (gy if lies else -gy)
                room = rooms[_room_at(rooms, x + (reach[w, 0] + reach[w, 2]) / 2)]
                pick = draw(state)
                if pick < 0.1:
                    x = room[0] - reach[w, 0]
                elif pick < 0.2:
                    x = room[2] - reach[w, 2]
                elif pick < 0.3:
                    y = room[1] - reach[w, 1]
                elif pick < 0.4:
                    y = room[3] - reach[w, 3]
        room = rooms[_room_at(rooms, x + (reach[w, 0] + reach[w, 2]) / 2)]
        x0, x1 = room[0] - reach[w, 0], room[2] - reach[w, 2]
        y0, y1 = room[1] - reach[w, 1], room[3] - reach[w, 3]
        if x1 < x0 - 1e-9 or y1 < y0 - 1e-9:
            continue
        x, y = _clamped(x, x0, x1), _clamped(y, y0, y1)
        limit = best[len(best) - 1, 0]
        cost = cost_at(table, lying, i, w, x, y, limit)
        if cost < 0.0:
            make_near(table, lying, i, w, x, y)
            cost = cost_at(table, lying, i, w, x, y, limit)
        if cost < limit:
            _keep(best, cost, w, x, y)
    for k in range(len(best)):
        if best[k, 1] < 0 or best[0, 0] == 0.0:
            break
        _walk_down(table, rooms, lying, i, best[k], pushes)
    for k in range(1, len(best)):
        if best[k, 0] < best[0, 0]:
            best[0] = best[k]


@njit(cache=True, error_model="numpy")
def _walk_down(table, rooms, lying, i, place, pushes):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Move a candidate to a lesser overlap.

    The least overlap lies where the part just leaves one neighbour or two at once, so these places
    are tried: out of each overlapped part by the shortest way, and where two such ways out meet.
    """
    w = int(place[1])
    room = rooms[_room_at(rooms, place[2] + (table.reach[w, 0] + table.reach[w, 2]) / 2)]
    x0, x1 = room[0] - table.reach[w, 0], room[2] - table.reach[w, 2]
    y0, y1 = room[1] - table.reach[w, 1], room[3] - table.reach[w, 3]
    cost, x, y = place[0], place[2], place[3]
    for _ in range(6):
        if cost == 0.0:
            break
        m = pushes_on(table, lying, i, w, x, y, pushes)
        if m < 0:
            make_near(table, lying, i, w, x, y)
            m = pushes_on(table, lying, i, w, x, y, pushes)
        bx, by, least = x, y, cost
        for a in range(m):
            ax, ay = pushes[a, 0], pushes[a, 1]
            for b in range(a + 1):
                if a == b:
                    mx, my = ax, ay
                else:
                    cx, cy = pushes[b, 0], pushes[b, 1]
                    turn = ax * cy - ay * cx
                    aa, cc = ax * ax + ay * ay, cx * cx + cy * cy
                    if turn * turn <= 1e-4 * aa * cc or turn == 0.0:
                        continue
                    mx, my = (aa * cy - cc * ay) / turn, (cc * ax - aa * cx) / turn
                nx, ny = _clamped(x + mx, x0, x1), _clamped(y + my, y0, y1)
                c = cost_at(table, lying, i, w, nx, ny, least)
                if c < 0.0:
                    make_near(table, lying, i, w, nx, ny)
                    c = cost_at(table, lying, i, w, nx, ny, least)
                if c < least:
                    least, bx, by = c, nx, ny
        if least >= cost:
            break
        cost, x, y = least, bx, by
    place[0], place[2], place[3] = cost, x, y


@njit(cache=True, nogil=True, error_model="numpy")
def _moved(table, rooms, lying, lifted, rounds, patience, effort, state, memory):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Lay a part where it overlaps least, unless ``lifted`` is -1, then go so many rounds.

    Both in one compiled loop: what it calls is compiled into it, for speed with sums in whatever
    order is quickest, and a second copy elsewhere would come to other last digits. Returns the sum
    of penetrations left, mm, or -1 where the part fits no room.
    """
    n = len(lying.way)
    size = lying.size
    best = np.zeros((3, 4))
    pushes = np.zeros((4, 3))
    order = np.zeros(n, dtype=np.int64)
    total = 0.0
    if lifted >= 0:
        measure_depths(table, lying)
        _best_place(table, rooms, lying, lifted, effort, best, pushes, state)
        if best[0, 1] < 0:
            return -1.0
        lay(table, lying, lifted, int(best[0, 1]), best[0, 2], best[0, 3])
    for _ in range(rounds):
        worst = 0.0
        total = 0.0
        for i in range(n):
            for j in range(i):
                d = lying.depth[i, j]
                if d > TOUCH:
                    total += d
                    worst = max(worst, d)
        if total == 0.0:
            return 0.0
        if total < 0.98 * memory[0]:
            memory[0], memory[1] = total, 0
        else:
            memory[1] += 1
            if memory[1] > patience:
                return total
        count = 0
        for i in range(n):
            if not lying.fixed[i] and lying.depth[i].max() > TOUCH:
                order[count] = i
                count += 1
        for k in range(count - 1, 0, -1):
            j = int(draw(state) * (k + 1))
            order[k], order[j] = order[j], order[k]
        for k in range(count):
            i = order[k]
            now = 0.0
            for j in range(n):
                now += lying.weight[i, j] * lying.depth[i, j]
            if now > 0.0:
                _best_place(table, rooms, lying, i, effort, best, pushes, state)
                if best[0, 1] >= 0 and best[0, 0] <= now:
                    lay(table, lying, i, int(best[0, 1]), best[0, 2], best[0, 3])
        worst = TOUCH
        for i in range(n):
            worst = max(worst, lying.depth[i].max())
        for i in range(n):
            for j in range(i):
                d = lying.depth[i, j]
                if d > TOUCH:
                    w = lying.weight[i, j] * (1.06 + 0.3 * d / worst)
                else:
                    w = max(size[i] * size[j], lying.weight[i, j] * 0.98)
                lying.weight[i, j] = w
                lying.weight[j, i] = w
    return total


def separate(
    table: Table,
    rooms: Floats,
    lying: Lying,
    rounds: int,
    patience: int,
    effort: int,
    state: npt.NDArray[np.uint64],
    memory: Floats,
) -> float:
    """Move parts until none overlap.

    Parameters
    ----------
    table : Table
        The shapes.
    rooms : (k, 4) array
        Where parts may reach: x0, y0, x1, y1, mm. Several rooms lie one right of the other; a part
        lies in one of them and may change over to another.
    lying : Lying
        The parts, moved in place; its depths must be measured.
    rounds : int
        Rounds at most.
    patience : int
        Rounds without a lesser sum of overlaps after which it gives up.
    effort : int
        Places looked at for each move, beside those it begins from.
    state : array
        Random numbers.
    memory : (2,) array
        The least sum so far and the rounds since then; begins as (inf, 0). Kept for the next call,
        so that a long separation can be made in portions.

    Returns
    -------
    float
        The sum of penetrations left, mm; 0 when no two parts overlap.
    """
    return float(_moved(table, rooms, lying, -1, rounds, patience, effort, state, memory))


def squeeze_in(
    table: Table,
    rooms: Floats,
    lying: Lying,
    i: int,
    effort: int,
    state: npt.NDArray[np.uint64],
) -> bool:
    """Lay part i where it overlaps the others least, and measure all depths.

    Parameters
    ----------
    table, rooms, lying, effort, state
        As ``separate`` takes them.
    i : int
        The part, wherever it lies now.

    Returns
    -------
    bool
        Whether it fits a room at all.
    """
    return bool(_moved(table, rooms, lying, i, 0, 0, effort, state, np.zeros(2)) >= 0.0)
