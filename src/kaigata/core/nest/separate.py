"""Taking overlaps out of a sheet: parts move one at a time to where they overlap least.

Guided local search: every pair of parts has a weight, a part moves to the place and way with the
least sum of weight times penetration depth over its neighbours, and pairs that still overlap after
a round grow heavier, so that what is stuck becomes worth moving (Voudouris and Tsang, Guided local
search, 1999; for placing shapes Egeblad, Nielsen and Odgaard, 2007).
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numba import njit

from kaigata.core.nest.cells import ACROSS, BORDER, OUTSIDE
from kaigata.core.nest.nofit import SKEW_COS, SKEW_SIN, Floats, Ints

__all__ = [
    "TOUCH",
    "Lying",
    "depth_between",
    "measure_depths",
    "random_state",
    "separate",
    "squeeze_in",
]

TOUCH = 0.006
"""mm: parts that penetrate less than this count as apart; the tolerance of spacing is 0.01."""


class Lying(NamedTuple):
    """Parts on one sheet: ``way[i]`` at ``at[i]`` (x, y, mm), immovable where ``fixed[i]``.

    ``hull[i]`` bounds the grown shape where it lies. ``depth[i, j]`` is how deep two parts
    penetrate, mm, and ``weight[i, j]`` what that counts.
    """

    way: Ints
    at: Floats
    fixed: npt.NDArray[np.bool_]
    hull: Floats
    depth: Floats
    weight: Floats


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


@njit(cache=True, fastmath=True, error_model="numpy")
def _depth_in(edges, first, last, px, py):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return how far inside the boundary a point lies, 0 outside; winding number and distance."""
    winding = 0
    nearest = 1e30
    for e in range(first, last):
        rx, ry = px - edges[e, 0], py - edges[e, 1]
        dx, dy = edges[e, 2], edges[e, 3]
        left = dx * ry - dy * rx
        winding += ((ry >= 0) & (ry < dy) & (left > 0)) * 1 - (
            (ry < 0) & (ry >= dy) & (left < 0)
        ) * 1
        t = min(1.0, max(0.0, (rx * dx + ry * dy) * edges[e, 4]))
        ex, ey = rx - t * dx, ry - t * dy
        nearest = min(nearest, ex * ex + ey * ey)
    return np.sqrt(nearest) if winding != 0 else 0.0


@njit(cache=True, inline="always", error_model="numpy")
def depth_between(table, v, vx, vy, w, wx, wy):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Return how deep way v at (vx, vy) penetrates way w at (wx, wy), mm; 0 when apart."""
    if table.kind[v] <= table.kind[w]:
        a, b, dx, dy = v, w, wx - vx, wy - vy
    else:
        a, b, dx, dy = w, v, vx - wx, vy - wy
    k = table.pair[a, b]
    px = table.back[a, 0] * dx + table.back[a, 1] * dy
    py = table.back[a, 2] * dx + table.back[a, 3] * dy
    box = table.fits.box
    if px <= box[k, 0] or px >= box[k, 2] or py <= box[k, 1] or py >= box[k, 3]:
        return 0.0
    first = table.fits.edge_first
    return _depth_in(
        table.fits.edges,
        first[k],
        first[k + 1],
        SKEW_COS * px - SKEW_SIN * py,
        SKEW_SIN * px + SKEW_COS * py,
    )


@njit(cache=True, fastmath=True, error_model="numpy")
def _cost(table, lying, i, w, x, y, limit):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return the weighted overlap of part i in way w at (x, y), or ``limit`` once it is reached.

    This is where the time goes. Arrays are taken out of their tuples once, before the loop, and the
    penetration depth stands here written out: a call, or an array taken out inside the loop, costs
    more than the work.
    """
    kind, back, pair = table.kind, table.back, table.pair
    polygon, edges = table.cells.polygon, table.fits.edges
    state, cell_first, near = table.cells.state, table.cells.first, table.cells.near
    hull, way, at, weight = lying.hull, lying.way, lying.at, lying.weight
    x0, y0 = x + table.hull[w, 0], y + table.hull[w, 1]
    x1, y1 = x + table.hull[w, 2], y + table.hull[w, 3]
    own = kind[w]
    total = 0.0
    for j in range(len(way)):
        if hull[j, 0] < x1 and hull[j, 2] > x0 and hull[j, 1] < y1 and hull[j, 3] > y0 and j != i:
            v = way[j]
            dx, dy = x - at[j, 0], y - at[j, 1]
            if kind[v] <= own:
                f, k = v, pair[v, w]
            else:
                f, k = w, pair[w, v]
                dx, dy = -dx, -dy
            ux = back[f, 0] * dx + back[f, 1] * dy
            uy = back[f, 2] * dx + back[f, 3] * dy
            bx, by = polygon[k, 0], polygon[k, 1]
            wide, high = polygon[k, 2] - bx, polygon[k, 3] - by
            ux -= bx
            uy -= by
            if not (ux > 0.0 and ux < wide and uy > 0.0 and uy < high):
                continue
            e0, e1, c = int(polygon[k, 4]), int(polygon[k, 5]), int(polygon[k, 6])
            border = True
            if c >= 0:
                ci = min(int(ux * (ACROSS / wide)), ACROSS - 1)
                c += min(int(uy * (ACROSS / high)), ACROSS - 1) * ACROSS + ci
                if state[c] == OUTSIDE:
                    continue
                border = state[c] == BORDER
            ux += bx
            uy += by
            px, py = SKEW_COS * ux - SKEW_SIN * uy, SKEW_SIN * ux + SKEW_COS * uy
            winding = 1
            nearest = 1e30
            if border:
                winding = 0
                for e in range(e0, e1):
                    rx, ry = px - edges[e, 0], py - edges[e, 1]
                    ex, ey = edges[e, 2], edges[e, 3]
                    left = ex * ry - ey * rx
                    up = (ry >= 0) & (ry < ey) & (left > 0)
                    down = (ry < 0) & (ry >= ey) & (left < 0)
                    winding += int(up) - int(down)
                    t = min(1.0, max(0.0, (rx * ex + ry * ey) * edges[e, 4]))
                    gx, gy = rx - t * ex, ry - t * ey
                    nearest = min(nearest, gx * gx + gy * gy)
            else:
                for q in range(cell_first[c], cell_first[c + 1]):
                    e = near[q]
                    rx, ry = px - edges[e, 0], py - edges[e, 1]
                    ex, ey = edges[e, 2], edges[e, 3]
                    t = min(1.0, max(0.0, (rx * ex + ry * ey) * edges[e, 4]))
                    gx, gy = rx - t * ex, ry - t * ey
                    nearest = min(nearest, gx * gx + gy * gy)
            if winding != 0:
                total += weight[i, j] * np.sqrt(nearest)
                if total >= limit:
                    return limit
    return total


@njit(cache=True, error_model="numpy")
def _lay(table, lying, i, w, x, y):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Lay part i in way w at (x, y) and measure its depths anew."""
    hull, depth, way, at, fixed = lying.hull, lying.depth, lying.way, lying.at, lying.fixed
    way[i], at[i, 0], at[i, 1] = w, x, y
    x0, y0 = x + table.hull[w, 0], y + table.hull[w, 1]
    x1, y1 = x + table.hull[w, 2], y + table.hull[w, 3]
    hull[i, 0], hull[i, 1], hull[i, 2], hull[i, 3] = x0, y0, x1, y1
    for j in range(len(way)):
        d = 0.0
        near = hull[j, 0] < x1 and hull[j, 2] > x0 and hull[j, 1] < y1 and hull[j, 3] > y0
        # Two that may not move are left to those who laid them.
        if near and j != i and not (fixed[i] and fixed[j]):
            d = depth_between(table, way[j], at[j, 0], at[j, 1], w, x, y)
        depth[i, j] = d
        depth[j, i] = d


@njit(cache=True, error_model="numpy")
def measure_depths(table, lying):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Measure how deep all parts penetrate each other; return the sum, mm."""
    for i in range(len(lying.way)):
        _lay(table, lying, i, lying.way[i], lying.at[i, 0], lying.at[i, 1])
    return lying.depth.sum() / 2


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
def _best_place(table, room, lying, i, effort, best, pushes, state):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Find where part i overlaps least; ``best[0]`` becomes (cost, way, x, y)."""
    way, at = lying.way, lying.at
    kind, hull, reach, back, pair = table.kind, table.hull, table.reach, table.back, table.pair
    edges, edge_first = table.fits.edges, table.fits.edge_first
    n = len(way)
    own = kind[way[i]]
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
                x = room[0] + draw(state) * (room[2] - room[0])
                y = room[1] + draw(state) * (room[3] - room[1])
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
                lies = kind[v] <= kind[w]
                k = pair[v, w] if lies else pair[w, v]
                e0, e1 = edge_first[k], edge_first[k + 1]
                if e1 == e0:
                    continue
                e = e0 + int(draw(state) * (e1 - e0))
                sx, sy = edges[e, 0], edges[e, 1]
                ex, ey = SKEW_COS * sx + SKEW_SIN * sy, SKEW_COS * sy - SKEW_SIN * sx
                f = v if lies else w
                gx = back[f, 0] * ex + back[f, 2] * ey
                gy = back[f, 1] * ex + back[f, 3] * ey
                x = at[j, 0] + (gx if lies else -gx)
                y = at[j, 1] + (gy if lies else -gy)
                pick = draw(state)
                if pick < 0.1:
                    x = room[0] - reach[w, 0]
                elif pick < 0.2:
                    x = room[2] - reach[w, 2]
                elif pick < 0.3:
                    y = room[1] - reach[w, 1]
                elif pick < 0.4:
                    y = room[3] - reach[w, 3]
        x0, x1 = room[0] - reach[w, 0], room[2] - reach[w, 2]
        y0, y1 = room[1] - reach[w, 1], room[3] - reach[w, 3]
        if x1 < x0 - 1e-9 or y1 < y0 - 1e-9:
            continue
        x, y = _clamped(x, x0, x1), _clamped(y, y0, y1)
        limit = best[len(best) - 1, 0]
        cost = _cost(table, lying, i, w, x, y, limit)
        if cost < limit:
            _keep(best, cost, w, x, y)
    for k in range(len(best)):
        if best[k, 1] < 0 or best[0, 0] == 0.0:
            break
        _walk_down(table, room, lying, i, best[k], pushes)
    for k in range(1, len(best)):
        if best[k, 0] < best[0, 0]:
            best[0] = best[k]


@njit(cache=True, fastmath=True, error_model="numpy")
def _pushes(table, lying, i, w, x, y, out):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Write the moves, mm, that take part i out of what it overlaps most; return how many."""
    x0, y0 = x + table.hull[w, 0], y + table.hull[w, 1]
    x1, y1 = x + table.hull[w, 2], y + table.hull[w, 3]
    kind, back, pair = table.kind, table.back, table.pair
    polygon, edges = table.cells.polygon, table.fits.edges
    hull, way, at, weight = lying.hull, lying.way, lying.at, lying.weight
    m = 0
    for j in range(len(way)):
        if j == i or not (
            hull[j, 0] < x1 and hull[j, 2] > x0 and hull[j, 1] < y1 and hull[j, 3] > y0
        ):
            continue
        v = way[j]
        lies = kind[v] <= kind[w]
        a, b = (v, w) if lies else (w, v)
        sign = 1.0 if lies else -1.0
        dx, dy = sign * (x - at[j, 0]), sign * (y - at[j, 1])
        k = pair[a, b]
        ux = back[a, 0] * dx + back[a, 1] * dy
        uy = back[a, 2] * dx + back[a, 3] * dy
        if ux <= polygon[k, 0] or ux >= polygon[k, 2] or uy <= polygon[k, 1] or uy >= polygon[k, 3]:
            continue
        px, py = SKEW_COS * ux - SKEW_SIN * uy, SKEW_SIN * ux + SKEW_COS * uy
        winding, nearest, fx, fy = 0, 1e30, 0.0, 0.0
        for e in range(int(polygon[k, 4]), int(polygon[k, 5])):
            rx, ry = px - edges[e, 0], py - edges[e, 1]
            ex, ey = edges[e, 2], edges[e, 3]
            left = ex * ry - ey * rx
            up = (ry >= 0) & (ry < ey) & (left > 0)
            down = (ry < 0) & (ry >= ey) & (left < 0)
            winding += int(up) - int(down)
            t = min(1.0, max(0.0, (rx * ex + ry * ey) * edges[e, 4]))
            gx, gy = t * ex - rx, t * ey - ry
            d = gx * gx + gy * gy
            if d < nearest:
                nearest, fx, fy = d, gx, gy
        if winding == 0:
            continue
        heavy = weight[i, j] * weight[i, j] * nearest
        if m == len(out):
            if heavy <= out[m - 1, 2]:
                continue
            m -= 1
        q = m
        while q > 0 and out[q - 1, 2] < heavy:
            out[q, 0], out[q, 1], out[q, 2] = out[q - 1, 0], out[q - 1, 1], out[q - 1, 2]
            q -= 1
        gx, gy = SKEW_COS * fx + SKEW_SIN * fy, SKEW_COS * fy - SKEW_SIN * fx
        out[q, 0] = sign * (back[a, 0] * gx + back[a, 2] * gy)
        out[q, 1] = sign * (back[a, 1] * gx + back[a, 3] * gy)
        out[q, 2] = heavy
        m += 1
    return m


@njit(cache=True, error_model="numpy")
def _walk_down(table, room, lying, i, place, pushes):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Move a candidate to a lesser overlap.

    The least overlap lies where the part just leaves one neighbour or two at once, so these places
    are tried: out of each overlapped part by the shortest way, and where two such ways out meet.
    """
    w = int(place[1])
    x0, x1 = room[0] - table.reach[w, 0], room[2] - table.reach[w, 2]
    y0, y1 = room[1] - table.reach[w, 1], room[3] - table.reach[w, 3]
    cost, x, y = place[0], place[2], place[3]
    for _ in range(6):
        if cost == 0.0:
            break
        m = _pushes(table, lying, i, w, x, y, pushes)
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
                c = _cost(table, lying, i, w, nx, ny, least)
                if c < least:
                    least, bx, by = c, nx, ny
        if least >= cost:
            break
        cost, x, y = least, bx, by
    place[0], place[2], place[3] = cost, x, y


@njit(cache=True, nogil=True, error_model="numpy")
def separate(table, room, lying, rounds, patience, effort, state, memory):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Move parts until none overlap.

    Parameters
    ----------
    table : Table
        The shapes.
    room : (4,) array
        Where parts may reach: x0, y0, x1, y1, mm.
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
    n = len(lying.way)
    best = np.zeros((3, 4))
    pushes = np.zeros((4, 3))
    order = np.zeros(n, dtype=np.int64)
    total = 0.0
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
                _best_place(table, room, lying, i, effort, best, pushes, state)
                if best[0, 1] >= 0 and best[0, 0] <= now:
                    _lay(table, lying, i, int(best[0, 1]), best[0, 2], best[0, 3])
        worst = TOUCH
        for i in range(n):
            worst = max(worst, lying.depth[i].max())
        for i in range(n):
            for j in range(i):
                d = lying.depth[i, j]
                if d > TOUCH:
                    w = lying.weight[i, j] * (1.06 + 0.3 * d / worst)
                else:
                    w = max(1.0, lying.weight[i, j] * 0.98)
                lying.weight[i, j] = w
                lying.weight[j, i] = w
    return total


@njit(cache=True, nogil=True, error_model="numpy")
def squeeze_in(table, room, lying, i, effort, state):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Lay part i where it overlaps the others least, and measure all depths.

    Parameters
    ----------
    table, room, lying, effort, state
        As ``separate`` takes them.
    i : int
        The part, wherever it lies now.

    Returns
    -------
    bool
        Whether it fits the room at all.
    """
    best = np.zeros((3, 4))
    pushes = np.zeros((4, 3))
    measure_depths(table, lying)
    _best_place(table, room, lying, i, effort, best, pushes, state)
    if best[0, 1] < 0:
        return False
    _lay(table, lying, i, int(best[0, 1]), best[0, 2], best[0, 3])
    return True
