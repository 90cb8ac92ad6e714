"""How deep parts lie in each other on a sheet, and which way they push each other apart."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numba import njit

from kaigata.core.nest.cells import ACROSS, BORDER, BORDER_INSIDE, OUTSIDE, make_cells
from kaigata.core.nest.nofit import (
    MOST_TRIES,
    SKEW_COS,
    SKEW_SIN,
    TO_COME,
    Floats,
    Ints,
    make_no_fit,
)
from kaigata.core.nest.table import Table

__all__ = [
    "TOUCH",
    "Lying",
    "cost_at",
    "depth_between",
    "lay",
    "lying_of",
    "make_near",
    "measure_depths",
    "pushes_on",
]

TOUCH = 0.006
"""mm: parts that penetrate less than this count as apart; the tolerance of spacing is 0.01."""


class Lying(NamedTuple):
    """Parts on one sheet: ``way[i]`` at ``at[i]`` (x, y, mm), immovable where ``fixed[i]``.

    ``hull[i]`` bounds the grown shape where it lies; ``size[i]`` is the root of the area that it
    bounded at first, mm. ``depth[i, j]`` is how deep two parts penetrate, mm, and ``weight[i, j]``
    what that counts, at least ``size[i] * size[j]``: the same depth is more metal between two large
    parts, which find room elsewhere less often than a small one would.
    """

    way: Ints
    at: Floats
    fixed: npt.NDArray[np.bool_]
    hull: Floats
    size: Floats
    depth: Floats
    weight: Floats


def lying_of(table: Table, way: Ints, at: Floats, fixed: npt.NDArray[np.bool_]) -> Lying:
    """Return parts as they lie, their depths not yet measured."""
    hull = table.hull[way]
    size = np.sqrt((hull[:, 2] - hull[:, 0]) * (hull[:, 3] - hull[:, 1]))
    depth = np.zeros((len(way), len(way)))
    return Lying(way, at, fixed, hull + np.hstack([at, at]), size, depth, np.outer(size, size))


@njit(cache=True, error_model="numpy")
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
    if table.rank[v] <= table.rank[w]:
        a, b, dx, dy = v, w, wx - vx, wy - vy
    else:
        a, b, dx, dy = w, v, vx - wx, vy - wy
    k = np.int64(table.fits.pair[a, b])
    if k < 0 or table.fits.polygon[k, 5] == TO_COME:
        k = make_no_fit(table, a, b, True)
    px = table.back[a, 0] * dx + table.back[a, 1] * dy
    py = table.back[a, 2] * dx + table.back[a, 3] * dy
    polygon = table.fits.polygon
    if px <= polygon[k, 0] or px >= polygon[k, 2] or py <= polygon[k, 1] or py >= polygon[k, 3]:
        return 0.0
    return _depth_in(
        table.fits.edges,
        int(polygon[k, 4]),
        int(polygon[k, 5]),
        SKEW_COS * px - SKEW_SIN * py,
        SKEW_SIN * px + SKEW_COS * py,
    )


@njit(cache=True, error_model="numpy")
def make_near(table, lying, i, w, x, y):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Make what is asked for to tell how part i in way w at (x, y) overlaps the others."""
    rank, fits = table.rank, table.fits
    hull, way = lying.hull, lying.way
    x0, y0 = x + table.hull[w, 0], y + table.hull[w, 1]
    x1, y1 = x + table.hull[w, 2], y + table.hull[w, 3]
    for _ in range(MOST_TRIES):
        had = True
        for j in range(len(way)):
            if j == i or not (
                hull[j, 0] < x1 and hull[j, 2] > x0 and hull[j, 1] < y1 and hull[j, 3] > y0
            ):
                continue
            v = way[j]
            a, b = (v, w) if rank[v] <= rank[w] else (w, v)
            k = np.int64(fits.pair[a, b])
            if k < 0 or fits.polygon[k, 5] == TO_COME:
                k = make_no_fit(table, a, b, True)
                had = False
            if fits.polygon[k, 6] == TO_COME:
                make_cells(fits, table.cells, k)
        if had:
            return
    raise MemoryError


@njit(cache=True, fastmath=True, error_model="numpy")
def cost_at(table, lying, i, w, x, y, limit):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Return the weighted overlap of part i in way w at (x, y), or ``limit`` once it is reached.

    Where something it asks for has not been made yet it returns -1; ``make_near`` makes it.

    This is where the time goes. Arrays are taken out of their tuples once, before the loop, and the
    penetration depth stands here written out: a call, or an array taken out inside the loop, costs
    more than the work.
    """
    rank, back, pair = table.rank, table.back, table.fits.pair
    polygon, edges = table.fits.polygon, table.fits.edges
    state, cell_first, near = table.cells.state, table.cells.first, table.cells.near
    hull, way, at, weight = lying.hull, lying.way, lying.at, lying.weight
    x0, y0 = x + table.hull[w, 0], y + table.hull[w, 1]
    x1, y1 = x + table.hull[w, 2], y + table.hull[w, 3]
    own = rank[w]
    total = 0.0
    for j in range(len(way)):
        if hull[j, 0] < x1 and hull[j, 2] > x0 and hull[j, 1] < y1 and hull[j, 3] > y0 and j != i:
            v = way[j]
            dx, dy = x - at[j, 0], y - at[j, 1]
            if rank[v] <= own:
                f, m = v, w
            else:
                f, m = w, v
                dx, dy = -dx, -dy
            k = pair[f, m]
            if k < 0:
                return -1.0
            ux = back[f, 0] * dx + back[f, 1] * dy
            uy = back[f, 2] * dx + back[f, 3] * dy
            bx, by = polygon[k, 0], polygon[k, 1]
            wide, high = polygon[k, 2] - bx, polygon[k, 3] - by
            ux -= bx
            uy -= by
            if not (ux > 0.0 and ux < wide and uy > 0.0 and uy < high):
                continue
            e0, e1, c = int(polygon[k, 4]), int(polygon[k, 5]), int(polygon[k, 6])
            if c == TO_COME:
                return -1.0
            ci, cj, kind_of_cell = 0, 0, BORDER
            if c >= 0:
                ci = min(int(ux * (ACROSS / wide)), ACROSS - 1)
                cj = min(int(uy * (ACROSS / high)), ACROSS - 1)
                c += cj * ACROSS + ci
                kind_of_cell = state[c]
                if kind_of_cell == OUTSIDE:
                    continue
            ux += bx
            uy += by
            px, py = SKEW_COS * ux - SKEW_SIN * uy, SKEW_SIN * ux + SKEW_COS * uy
            winding = 1
            nearest = 1e30
            if c < 0:
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
            elif kind_of_cell >= BORDER:
                # Inside or not as the middle of the cell, but for the edges crossed on the way.
                ux, uy = bx + (ci + 0.5) * (wide / ACROSS), by + (cj + 0.5) * (high / ACROSS)
                mx = SKEW_COS * ux - SKEW_SIN * uy - px
                my = SKEW_SIN * ux + SKEW_COS * uy - py
                winding = int(kind_of_cell == BORDER_INSIDE)
                for q in range(cell_first[c], cell_first[c + 1]):
                    e = near[q]
                    rx, ry = px - edges[e, 0], py - edges[e, 1]
                    ex, ey = edges[e, 2], edges[e, 3]
                    here = ex * ry - ey * rx
                    turn = ex * my - ey * mx
                    from_start, from_end = mx * ry - my * rx, mx * ry - my * rx + turn
                    winding ^= int(
                        ((here >= 0) != (here + turn >= 0)) & ((from_start >= 0) != (from_end >= 0))
                    )
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
def lay(table, lying, i, w, x, y):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
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
        lay(table, lying, i, lying.way[i], lying.at[i, 0], lying.at[i, 1])
    return lying.depth.sum() / 2


@njit(cache=True, fastmath=True, error_model="numpy")
def pushes_on(table, lying, i, w, x, y, out):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Write the moves, mm, that take part i out of what it overlaps most; return how many.

    Where something it asks for has not been made yet it returns -1; ``make_near`` makes it.
    """
    x0, y0 = x + table.hull[w, 0], y + table.hull[w, 1]
    x1, y1 = x + table.hull[w, 2], y + table.hull[w, 3]
    rank, back, pair = table.rank, table.back, table.fits.pair
    polygon, edges = table.fits.polygon, table.fits.edges
    hull, way, at, weight = lying.hull, lying.way, lying.at, lying.weight
    m = 0
    for j in range(len(way)):
        if j == i or not (
            hull[j, 0] < x1 and hull[j, 2] > x0 and hull[j, 1] < y1 and hull[j, 3] > y0
        ):
            continue
        v = way[j]
        lies = rank[v] <= rank[w]
        a, b = (v, w) if lies else (w, v)
        sign = 1.0 if lies else -1.0
        dx, dy = sign * (x - at[j, 0]), sign * (y - at[j, 1])
        k = pair[a, b]
        if k < 0:
            return -1
        ux = back[a, 0] * dx + back[a, 1] * dy
        uy = back[a, 2] * dx + back[a, 3] * dy
        if ux <= polygon[k, 0] or ux >= polygon[k, 2] or uy <= polygon[k, 1] or uy >= polygon[k, 3]:
            continue
        if polygon[k, 5] == TO_COME:
            return -1
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
