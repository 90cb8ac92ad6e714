"""Minkowski sums of the convex pieces of two shapes, and what of their edges bounds all of them.

Sums are four arrays: half planes (nx, ny, d) with nx x + ny y < d inside, mm; the corners that
their edges begin at; where each sum's rows begin in both; and each sum's bounds.
"""

from __future__ import annotations

import numpy as np
from numba import njit

__all__ = ["SHORT", "largest_alone", "outer_lengths", "sums_of"]

SHORT = 1e-9
"""mm: a shorter length of boundary is left out."""
_HAIR = 1e-7
"""mm: an edge nearer to another sum's edge than this lies on it."""


@njit(cache=True)
def _convex_sum(a, b, out):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Write the Minkowski sum of two convex polygons, counter-clockwise; return its length.

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
    i, j, k = 0, 0, 0
    while i < n or j < m:
        p, q = (i0 + i) % n, (j0 + j) % m
        out[k, 0] = a[p, 0] + b[q, 0]
        out[k, 1] = a[p, 1] + b[q, 1]
        k += 1
        p1, q1 = (p + 1) % n, (q + 1) % m
        ux, uy = a[p1, 0] - a[p, 0], a[p1, 1] - a[p, 1]
        vx, vy = b[q1, 0] - b[q, 0], b[q1, 1] - b[q, 1]
        turn = ux * vy - uy * vx
        if i < n and (j >= m or turn >= -1e-12 * (abs(ux) + abs(uy)) * (abs(vx) + abs(vy))):
            i += 1
            if j < m and turn <= 1e-12 * (abs(ux) + abs(uy)) * (abs(vx) + abs(vy)):
                j += 1
        else:
            j += 1
    return k


@njit(cache=True)
def _grown(rows, need):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return the rows with room for at least ``need`` of them."""
    if need <= len(rows):
        return rows
    more = np.zeros((max(need, 2 * len(rows)), rows.shape[1]))
    more[: len(rows)] = rows
    return more


@njit(cache=True)
def _grown_ints(rows, need):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    if need <= len(rows):
        return rows
    more = np.zeros(max(need, 2 * len(rows)), dtype=np.int64)
    more[: len(rows)] = rows
    return more


@njit(cache=True)
def _planes_of(ring, n, planes, corners, at):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Write the half planes of a convex ring and where each begins; return how many there are."""
    k = at
    for i in range(n):
        x0, y0 = ring[i, 0], ring[i, 1]
        x1, y1 = ring[(i + 1) % n, 0], ring[(i + 1) % n, 1]
        length = np.hypot(x1 - x0, y1 - y0)
        if length < 1e-9:
            continue
        nx, ny = (y1 - y0) / length, (x0 - x1) / length
        planes[k, 0], planes[k, 1], planes[k, 2] = nx, ny, nx * x0 + ny * y0
        corners[k, 0], corners[k, 1] = x0, y0
        k += 1
    return k - at


@njit(cache=True)
def _inside_span(x0, y0, dx, dy, length, planes, first, last, earlier):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return from where to where along a line, mm, it lies inside a sum; (1, 0) for nowhere.

    A line on an edge of the sum lies outside it, but of two sums that share an edge the
    ``earlier`` keeps it and the later loses it.
    """
    low, high = 0.0, length
    for p in range(first, last):
        nx, ny = planes[p, 0], planes[p, 1]
        away = nx * x0 + ny * y0 - planes[p, 2]
        slope = nx * dx + ny * dy
        if abs(slope) < 1e-12 or abs(slope) * length < _HAIR:
            if away > -_HAIR:
                same_side = abs(away) <= _HAIR and nx * dy - ny * dx > 0
                if not (earlier and same_side):
                    return 1.0, 0.0
        elif slope > 0:
            high = min(high, -away / slope)
        else:
            low = max(low, -away / slope)
        if low >= high:
            return 1.0, 0.0
    return low, high


@njit(cache=True)
def sums_of(forms, lying, moving, turned_by, sums):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Write the sums of the pieces of two shapes; return them and how many there are."""
    planes, corners, first, box = sums
    points, piece = forms.points, forms.piece
    a0, a1 = lying
    b0, b1 = moving
    c, s, flip = turned_by
    widest, wide = 0, 0
    for a in range(a0, a1):
        wide = max(wide, piece[a + 1] - piece[a])
    for b in range(b0, b1):
        widest = max(widest, piece[b + 1] - piece[b])
    turned, ring = np.empty((widest, 2)), np.empty((widest + wide, 2))
    count, used = 0, 0
    for b in range(b0, b1):
        m = piece[b + 1] - piece[b]
        for i in range(m):
            # A mirrored ring is walked backwards, to stay counter-clockwise.
            row = piece[b] + (m - 1 - i if flip else i)
            x, y = points[row, 0], points[row, 1]
            x = -x if flip else x
            turned[i, 0], turned[i, 1] = -(c * x - s * y), -(s * x + c * y)
        for a in range(a0, a1):
            n = _convex_sum(points[piece[a] : piece[a + 1]], turned[:m], ring)
            planes, corners = _grown(planes, used + n), _grown(corners, used + n)
            first, box = _grown_ints(first, count + 2), _grown(box, count + 1)
            used += _planes_of(ring, n, planes, corners, used)
            box[count, 0], box[count, 1] = ring[:n, 0].min(), ring[:n, 1].min()
            box[count, 2], box[count, 3] = ring[:n, 0].max(), ring[:n, 1].max()
            count += 1
            first[count] = used
    return (planes, corners, first, box), count


@njit(cache=True)
def largest_alone(sums, count):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Return the sums by the area of their boxes, largest first, those inside another left out."""
    planes, corners, first, box = sums
    order = np.argsort(-(box[:count, 2] - box[:count, 0]) * (box[:count, 3] - box[:count, 1]))
    kept = np.zeros(count, dtype=np.int64)
    n = 0
    for r in order:
        inside = False
        for i in range(n):
            q = kept[i]
            if (
                box[r, 0] < box[q, 0] - _HAIR
                or box[r, 1] < box[q, 1] - _HAIR
                or box[r, 2] > box[q, 2] + _HAIR
                or box[r, 3] > box[q, 3] + _HAIR
            ):
                continue
            inside = True
            for p in range(first[q], first[q + 1]):
                nx, ny, limit = planes[p, 0], planes[p, 1], planes[p, 2] + _HAIR
                for e in range(first[r], first[r + 1]):
                    if nx * corners[e, 0] + ny * corners[e, 1] > limit:
                        inside = False
                        break
                if not inside:
                    break
            if inside:
                break
        if not inside:
            kept[n] = r
            n += 1
    return kept[:n]


@njit(cache=True)
def outer_lengths(sums, kept, at, edge, cuts):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Find where an edge of sum ``kept[at]`` lies inside others; return the rows of ``cuts``."""
    planes, corners, first, box = sums
    r = kept[at]
    after = edge + 1 if edge + 1 < first[r + 1] else first[r]
    x0, y0 = corners[edge, 0], corners[edge, 1]
    x1, y1 = corners[after, 0], corners[after, 1]
    length = np.hypot(x1 - x0, y1 - y0)
    held = 0
    if length < SHORT:
        return cuts, -1, x0, y0, 0.0, 0.0, length
    dx, dy = (x1 - x0) / length, (y1 - y0) / length
    low_x, high_x = min(x0, x1), max(x0, x1)
    low_y, high_y = min(y0, y1), max(y0, y1)
    for i in range(len(kept)):
        q = kept[i]
        if (
            i == at
            or box[q, 0] > high_x + _HAIR
            or box[q, 2] < low_x - _HAIR
            or box[q, 1] > high_y + _HAIR
            or box[q, 3] < low_y - _HAIR
        ):
            continue
        low, high = _inside_span(x0, y0, dx, dy, length, planes, first[q], first[q + 1], i < at)
        if low < high:
            cuts = _grown(cuts, held + 1)
            j = held
            while j > 0 and cuts[j - 1, 0] > low:
                cuts[j, 0], cuts[j, 1] = cuts[j - 1, 0], cuts[j - 1, 1]
                j -= 1
            cuts[j, 0], cuts[j, 1] = low, high
            held += 1
            if low <= 0.0 and high >= length:
                return cuts, -1, x0, y0, dx, dy, length
    return cuts, held, x0, y0, dx, dy, length
