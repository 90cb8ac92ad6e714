"""Compiled inner loops of placing.

The machine code is cached beside this file, so that only an installation ever waits for it:
``python -m kaigata.core.nest.warm`` builds it.
"""

from __future__ import annotations

import numpy as np
import numpy.typing as npt
from numba import njit

__all__ = ["convex_sum", "convex_sums", "first_place", "warm_up"]

_FAR = 1e30


@njit(cache=True)
def convex_sum(a, b):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Return the Minkowski sum of two convex polygons, (n, 2) counter-clockwise, mm.

    Edges merged by angle (de Berg et al., Computational Geometry, 3rd ed., section 13.3).
    """
    n, m = len(a), len(b)
    i0, j0 = 0, 0
    for i in range(1, n):
        if a[i, 1] < a[i0, 1] or (a[i, 1] == a[i0, 1] and a[i, 0] < a[i0, 0]):
            i0 = i
    for j in range(1, m):
        if b[j, 1] < b[j0, 1] or (b[j, 1] == b[j0, 1] and b[j, 0] < b[j0, 0]):
            j0 = j
    out = np.zeros((n + m, 2))
    i, j, k = 0, 0, 0
    while i < n or j < m:
        p, q = (i0 + i) % n, (j0 + j) % m
        out[k, 0] = a[p, 0] + b[q, 0]
        out[k, 1] = a[p, 1] + b[q, 1]
        k += 1
        ux = a[(p + 1) % n, 0] - a[p, 0]
        uy = a[(p + 1) % n, 1] - a[p, 1]
        vx = b[(q + 1) % m, 0] - b[q, 0]
        vy = b[(q + 1) % m, 1] - b[q, 1]
        turn = ux * vy - uy * vx
        if i < n and (j >= m or turn >= 0):
            i += 1
            if j < m and turn == 0:
                j += 1
        else:
            j += 1
    return out[:k]


@njit(cache=True)
def convex_sums(a, a_first, b, b_first):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Return every sum of a piece of ``a`` and a piece of ``b`` as closed rings.

    The pieces lie end to end in one array, ``first`` says where each begins (and where the last
    ends). Returned are the rings' points end to end and where each ring begins.
    """
    n, m = len(a_first) - 1, len(b_first) - 1
    points = np.zeros(((len(a) + n) * m + (len(b) + m) * n, 2))
    first = np.zeros(n * m + 1, dtype=np.int64)
    used, ring = 0, 0
    for i in range(n):
        for j in range(m):
            total = convex_sum(a[a_first[i] : a_first[i + 1]], b[b_first[j] : b_first[j + 1]])
            k = len(total)
            points[used : used + k] = total
            points[used + k] = total[0]
            used += k + 1
            ring += 1
            first[ring] = used
    return points[:used], first


@njit(cache=True)
def _lowest_gap(x, low, high, edges, first, count, at, boxes):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202, C901
    """Return the lowest y of [low, high] at x that lies inside no no-fit polygon, or _FAR."""
    room = 0
    for k in range(len(first)):
        if boxes[k, 0] < x < boxes[k, 2]:
            room += count[k]
    if room == 0:
        return low
    begins = np.zeros(room)
    ends = np.zeros(room)
    crossing = np.zeros(room)
    n = 0
    for k in range(len(first)):
        if not (boxes[k, 0] < x < boxes[k, 2]) or boxes[k, 1] >= high or boxes[k, 3] <= low:
            continue
        lx = x - at[k, 0]
        c = 0
        for e in range(first[k], first[k] + count[k]):
            x0, x1 = edges[e, 0], edges[e, 2]
            if (x0 <= lx) != (x1 <= lx):
                y0 = edges[e, 1]
                y = y0 + (edges[e, 3] - y0) * (lx - x0) / (x1 - x0) + at[k, 1]
                i = c
                while i > 0 and crossing[i - 1] > y:
                    crossing[i] = crossing[i - 1]
                    i -= 1
                crossing[i] = y
                c += 1
        for i in range(0, c - 1, 2):
            begins[n] = crossing[i]
            ends[n] = crossing[i + 1]
            n += 1
    order = np.argsort(begins[:n])
    y = low
    for i in range(n):
        k = order[i]
        if begins[k] >= high:
            break
        # An interval that begins where the last one ended leaves a gap of nothing: two parts
        # that touch there would be touched by the third, which is allowed.
        if begins[k] >= y:
            return y
        y = max(y, ends[k])
    return y if y <= high else _FAR


@njit(cache=True)
def first_place(x_from, x_to, low, high, step, exact, edges, first, count, at, boxes):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Return the leftmost place found, (x, y), or (_FAR, _FAR).

    Walks right in steps until some y is free, then halves back towards the last blocked x until
    the step is ``exact``.
    """
    x = x_from
    last = x_from
    while True:
        y = _lowest_gap(x, low, high, edges, first, count, at, boxes)
        if y < _FAR:
            break
        if x >= x_to:
            return _FAR, _FAR
        last = x
        x = min(x + step, x_to)
    while x - last > exact:
        middle = (x + last) / 2
        ym = _lowest_gap(middle, low, high, edges, first, count, at, boxes)
        if ym < _FAR:
            x, y = middle, ym
        else:
            last = middle
    return x, y


def warm_up() -> None:
    """Compile every kernel, or load it from the cache."""
    square: npt.NDArray[np.float64] = np.array([[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]])
    both = np.array([0, 4], dtype=np.int64)
    convex_sums(square, both, square, both)
    edges = np.hstack([square, np.roll(square, -1, axis=0)])
    one = np.array([0], dtype=np.int64)
    count = np.array([4], dtype=np.int64)
    first_place(
        0.0,
        2.0,
        0.0,
        0.5,
        0.5,
        0.01,
        edges,
        one,
        count,
        np.zeros((1, 2)),
        np.array([[0, 0, 1, 1.0]]),
    )
