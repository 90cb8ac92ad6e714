"""No-fit polygons: where the reference point of one shape may not lie for another's sake.

Convex pieces of the two shapes are added piece by piece (Minkowski sums, one of them turned over),
so that holes, pockets and C shapes need no special case. The sums are kept as they are: a point is
inside when it lies in any of them. Of their edges, the lengths that lie inside no other sum make up
the boundary; how deep a point is inside is its distance from that. No polygon is ever joined from
them, which is what a union spends its time on.

One polygon serves a pair of shapes at one turn of the second against the first.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numba import njit

__all__ = ["SKEW_COS", "SKEW_SIN", "NoFits", "Pairs", "joined", "make_no_fits"]

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

SKEW_COS, SKEW_SIN = math.cos(0.6180339887), math.sin(0.6180339887)
"""Boundaries are kept turned by this angle. Parts and their places line up with each other's edges
along x and y; along a ray at no such angle no point meets two ends of edges at once, so counting
what the ray crosses tells inside from outside.
"""
_HAIR = 1e-7
"""mm: an edge nearer to another sum's edge than this lies on it."""
_SHORT = 1e-9
"""mm: a shorter length of boundary is left out."""


class Pairs(NamedTuple):
    """Pairs of shapes to make no-fit polygons of.

    Convex pieces of all shapes lie end to end in ``points``; piece p begins at ``piece[p]`` and
    ends at ``piece[p + 1]``; shape s has the pieces ``shape[s]`` to ``shape[s + 1]``. The second
    shape of pair k is mirrored where ``mirrored[k]``, then turned by ``cos[k], sin[k]``.
    """

    points: Floats
    piece: Ints
    shape: Ints
    lying: Ints
    moving: Ints
    mirrored: npt.NDArray[np.bool_]
    cos: Floats
    sin: Floats


class NoFits(NamedTuple):
    """No-fit polygons in flat arrays, each in the frame of its first shape.

    Polygon k has the sums ``sum_first[k]`` to ``sum_first[k + 1]``; sum r has the half planes
    ``plane_first[r]`` to ``plane_first[r + 1]``, rows (nx, ny, d) with nx x + ny y < d inside.
    Its boundary is the rows ``edge_first[k]``
    to ``edge_first[k + 1]`` of ``edges``: x, y, dx, dy, 1 / length², the inside to the left, all
    turned by the skew.
    ``box[k]`` bounds it.
    """

    sum_first: Ints
    plane_first: Ints
    planes: Floats
    edge_first: Ints
    edges: Floats
    box: Floats


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
def _sums_of(pairs, k, sums, scratch):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Write the sums of the pieces of pair k; return them and how many there are."""
    planes, corners, first, box = sums
    turned, ring = scratch
    a0, a1 = pairs.shape[pairs.lying[k]], pairs.shape[pairs.lying[k] + 1]
    b0, b1 = pairs.shape[pairs.moving[k]], pairs.shape[pairs.moving[k] + 1]
    c, s, flip = pairs.cos[k], pairs.sin[k], pairs.mirrored[k]
    count, used = 0, 0
    for b in range(b0, b1):
        m = pairs.piece[b + 1] - pairs.piece[b]
        for i in range(m):
            # A mirrored ring is walked backwards, to stay counter-clockwise.
            row = pairs.piece[b] + (m - 1 - i if flip else i)
            x, y = pairs.points[row, 0], pairs.points[row, 1]
            x = -x if flip else x
            turned[i, 0], turned[i, 1] = -(c * x - s * y), -(s * x + c * y)
        for a in range(a0, a1):
            n = _convex_sum(pairs.points[pairs.piece[a] : pairs.piece[a + 1]], turned[:m], ring)
            planes, corners = _grown(planes, used + n), _grown(corners, used + n)
            first, box = _grown_ints(first, count + 2), _grown(box, count + 1)
            used += _planes_of(ring, n, planes, corners, used)
            box[count, 0], box[count, 1] = ring[:n, 0].min(), ring[:n, 1].min()
            box[count, 2], box[count, 3] = ring[:n, 0].max(), ring[:n, 1].max()
            count += 1
            first[count] = used
    return (planes, corners, first, box), count


@njit(cache=True)
def _largest_alone(sums, count):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
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
def _outer_lengths(sums, kept, at, edge, cuts):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Find where an edge of sum ``kept[at]`` lies inside others; return the rows of ``cuts``."""
    planes, corners, first, box = sums
    r = kept[at]
    after = edge + 1 if edge + 1 < first[r + 1] else first[r]
    x0, y0 = corners[edge, 0], corners[edge, 1]
    x1, y1 = corners[after, 0], corners[after, 1]
    length = np.hypot(x1 - x0, y1 - y0)
    held = 0
    if length < _SHORT:
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


@njit(cache=True, nogil=True)
def make_no_fits(pairs):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Return the no-fit polygons of pairs of shapes.

    Parameters
    ----------
    pairs : Pairs
        The pairs.

    Returns
    -------
    NoFits
        One polygon a pair, in their order.
    """
    count = len(pairs.lying)
    sum_first = np.zeros(count + 1, dtype=np.int64)
    edge_first = np.zeros(count + 1, dtype=np.int64)
    bounds = np.zeros((count, 4))
    plane_first = np.zeros(1024, dtype=np.int64)
    all_planes = np.zeros((8192, 3))
    edges = np.zeros((8192, 5))
    total, used, lines = 0, 0, 0
    widest = 0
    for p in range(len(pairs.piece) - 1):
        widest = max(widest, pairs.piece[p + 1] - pairs.piece[p])
    scratch = (np.zeros((widest, 2)), np.zeros((2 * widest, 2)))
    sums = (
        np.zeros((1024, 3)), np.zeros((1024, 2)), np.zeros(128, dtype=np.int64), np.zeros((128, 4))
    )  # fmt: skip
    cuts = np.zeros((64, 2))
    for k in range(count):
        sums, made = _sums_of(pairs, k, sums, scratch)
        planes, _, first, box = sums
        kept = _largest_alone(sums, made)
        bounds[k, 0], bounds[k, 1] = box[:made, 0].min(), box[:made, 1].min()
        bounds[k, 2], bounds[k, 3] = box[:made, 2].max(), box[:made, 3].max()
        for at in range(len(kept)):
            r = kept[at]
            n = first[r + 1] - first[r]
            all_planes = _grown(all_planes, used + n)
            plane_first = _grown_ints(plane_first, total + 2)
            all_planes[used : used + n] = planes[first[r] : first[r + 1]]
            used += n
            total += 1
            plane_first[total] = used
            for e in range(first[r], first[r + 1]):
                cuts, held, x0, y0, dx, dy, length = _outer_lengths(sums, kept, at, e, cuts)
                start = 0.0
                for i in range(held + 1):
                    upto = cuts[i, 0] if i < held else length
                    if upto - start > _SHORT:
                        edges = _grown(edges, lines + 1)
                        x, y = x0 + start * dx, y0 + start * dy
                        edges[lines, 0] = SKEW_COS * x - SKEW_SIN * y
                        edges[lines, 1] = SKEW_SIN * x + SKEW_COS * y
                        edges[lines, 2] = (upto - start) * (SKEW_COS * dx - SKEW_SIN * dy)
                        edges[lines, 3] = (upto - start) * (SKEW_SIN * dx + SKEW_COS * dy)
                        edges[lines, 4] = 1.0 / ((upto - start) * (upto - start))
                        lines += 1
                    if i < held:
                        start = max(start, cuts[i, 1])
        sum_first[k + 1], edge_first[k + 1] = total, lines
    return NoFits(
        sum_first,
        plane_first[: total + 1].copy(),
        all_planes[:used].copy(),
        edge_first,
        edges[:lines].copy(),
        bounds,
    )


def joined(one: NoFits, other: NoFits) -> NoFits:
    """Return the no-fit polygons of two lists as one list."""
    return NoFits(
        np.concatenate([one.sum_first, other.sum_first[1:] + one.sum_first[-1]]),
        np.concatenate([one.plane_first, other.plane_first[1:] + one.plane_first[-1]]),
        np.vstack([one.planes, other.planes]),
        np.concatenate([one.edge_first, other.edge_first[1:] + one.edge_first[-1]]),
        np.vstack([one.edges, other.edges]),
        np.vstack([one.box, other.box]),
    )
