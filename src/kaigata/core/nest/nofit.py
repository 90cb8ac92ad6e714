"""No-fit polygons: where the reference point of one shape may not lie for another's sake.

Convex pieces of the two shapes are added piece by piece (Minkowski sums, one of them turned over),
so that holes, pockets and C shapes need no special case. The sums are kept as they are: a point is
inside when it lies in any of them. Of their edges, the lengths that lie inside no other sum make up
the boundary; how deep a point is inside is its distance from that. No polygon is ever joined from
them, which is what a union spends its time on.

One polygon serves a pair of shapes at one turn of the second against the first. It is made when it
is first asked for, as of many shapes most never come near each other; and its boundary, which takes
six times as long as the sums, when that is.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numba import njit

__all__ = ["SKEW_COS", "SKEW_SIN", "Forms", "NoFits", "make_no_fit", "no_fits_for"]

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

SKEW_COS, SKEW_SIN = math.cos(0.6180339887), math.sin(0.6180339887)
"""Boundaries are kept turned by this angle. Parts and their places line up with each other's edges
along x and y; along a ray at no such angle no point meets two ends of edges at once, so counting
what the ray crosses tells inside from outside.
"""
_HAIR = 1e-7
"""mm: an edge nearer to another sum's edge than this lies on it."""
_SPLIT = 2
"""Lengths that an edge of a sum is split into, in the mean of a polygon, which there is room for:
far fewer are part of a boundary."""
_SHORT = 1e-9
"""mm: a shorter length of boundary is left out."""
_FULL_TURN, _SQUARE = 360_000_000, 90_000_000
"""Millionths of a degree."""
FEW_EDGES = 24
"""Edges up to which measuring to all of them is as quick as asking a raster first."""
TO_COME = -2
"""Instead of a polygon's end of edges, or first cell: they are made when asked for."""
NO_CELLS = -1
"""Instead of its first cell: it has none."""
_PLANES = 16_000_000
"""Half planes there is room for at most, as some 60,000 polygons have. What is not written to takes
no memory."""
MOST_TRIES = 3
"""Times that what belongs to one place is made, because some of it was forgotten over the rest."""


class Forms(NamedTuple):
    """What no-fit polygons are made from.

    Convex pieces of all shapes lie end to end in ``points``; piece p begins at ``piece[p]`` and
    ends at ``piece[p + 1]``. ``frame[w]`` is (first piece, end of them, first piece with the holes
    filled, end of those, mirrored, turn in millionths of a degree, twin) of the shape in way w; its
    twin is the same way of the shape with its holes closed, -1 where there is none.
    ``holds[a, b]`` tells whether shape b may lie in a hole of shape a.
    """

    points: Floats
    piece: Ints
    frame: Ints
    holds: npt.NDArray[np.bool_]


class NoFits(NamedTuple):
    """No-fit polygons in flat arrays with room for more, each in the frame of its first shape.

    ``pair[w, v]`` is the polygon of way v against a lying way w, -1 until it is made. Row k of
    ``polygon`` is (x0, y0, x1, y1, first edge, end of the edges, first cell, first sum): all that
    is asked of it first, in one line of the processor's cache. Its sums end where those of the next
    row begin; its boundary may be yet to come. Sum r has the half planes ``plane_first[r]`` to
    ``plane_first[r + 1]``, rows (nx, ny, d) with nx x + ny y < d inside. The boundary is rows of
    ``edges``: x, y, dx, dy, 1 / length², the inside to the left, all turned by the skew. ``used``
    counts polygons, sums, half planes and edges, then cells and edges near them. Where there is no
    room for one more, all are forgotten; what is asked for again comes out the same.
    """

    pair: npt.NDArray[np.int32]
    polygon: Floats
    plane_first: Ints
    planes: Floats
    edges: Floats
    used: Ints

    def trimmed(self) -> NoFits:
        """Return the polygons without the room for more, and without their cells."""
        polygons, sums, planes, edges, _, _ = (int(n) for n in self.used)
        polygon = self.polygon[: polygons + 1].copy()
        polygon[polygon[:, 6] != NO_CELLS, 6] = TO_COME
        used = self.used.copy()
        used[4:] = 0
        return NoFits(
            self.pair, polygon, self.plane_first[: sums + 1], self.planes[:planes],
            self.edges[:edges], used,
        )  # fmt: skip


def no_fits_for(forms: Forms, known: NoFits | None = None) -> NoFits:
    """Return room for the no-fit polygons of forms, in it those that are ``known``, trimmed."""
    ways = len(forms.frame)
    pieces = np.maximum(
        forms.frame[:, 1] - forms.frame[:, 0], forms.frame[:, 3] - forms.frame[:, 2]
    )
    corners = np.diff(forms.piece)
    begun = np.concatenate([[0], np.cumsum(corners)])
    its_corners = np.maximum(
        begun[forms.frame[:, 1]] - begun[forms.frame[:, 0]],
        begun[forms.frame[:, 3]] - begun[forms.frame[:, 2]],
    )
    # No two ways have more sums than pairs of pieces, nor those more sides than both pieces.
    planes = int(min(_PLANES, 2 * pieces.sum() * its_corners.sum()))
    sums = int(min(_PLANES // 4, pieces.sum() ** 2))
    polygons = int(min(_PLANES // 16, ways * ways))
    room = NoFits(
        pair=np.full((ways, ways), -1, dtype=np.int32) if known is None else known.pair,
        polygon=np.empty((polygons + 1, 8)),
        plane_first=np.empty(sums + 1, dtype=np.int64),
        planes=np.empty((planes, 3)),
        edges=np.empty((_SPLIT * planes, 5)),
        used=np.zeros(6, dtype=np.int64),
    )
    room.polygon[0, 7] = room.plane_first[0] = 0
    if known is not None:
        for mine, its in zip(room[1:], known[1:], strict=True):
            mine[: len(its)] = its
    return room


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
def _sums_of(forms, lying, moving, turned_by, sums):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
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


@njit(cache=True)
def _forget_all(fits):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    fits.pair[:] = -1
    fits.used[:] = 0


@njit(cache=True)
def _has_room(fits, sums, kept):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Whether a polygon can be written behind those there are, even with all its sides bounding."""
    first, used = sums[2], fits.used
    sides = 0
    for r in kept:
        sides += first[r + 1] - first[r]
    return (
        used[0] + 1 < len(fits.polygon)
        and used[1] + len(kept) < len(fits.plane_first)
        and used[2] + sides <= len(fits.planes)
        and used[3] + _SPLIT * sides <= len(fits.edges)
    )


@njit(cache=True)
def _write_sums(fits, sums, made, kept):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Write a polygon's sums behind those there are; return its number."""
    planes, _, first, box = sums
    used = fits.used
    k, total, level = used[0], used[1], used[2]
    for r in kept:
        n = first[r + 1] - first[r]
        fits.planes[level : level + n] = planes[first[r] : first[r + 1]]
        level += n
        total += 1
        fits.plane_first[total] = level
    polygon = fits.polygon[k]
    polygon[0], polygon[1] = box[:made, 0].min(), box[:made, 1].min()
    polygon[2], polygon[3] = box[:made, 2].max(), box[:made, 3].max()
    polygon[5], polygon[6] = TO_COME, TO_COME
    fits.polygon[k + 1, 7] = total
    used[0], used[1], used[2] = k + 1, total, level
    return k


@njit(cache=True)
def _write_boundary(fits, sums, kept, k):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Write the boundary of polygon k behind those there are."""
    first, edges = sums[2], fits.edges
    begin = lines = fits.used[3]
    cuts = np.empty((64, 2))
    for at in range(len(kept)):
        for e in range(first[kept[at]], first[kept[at] + 1]):
            cuts, held, x0, y0, dx, dy, length = _outer_lengths(sums, kept, at, e, cuts)
            start = 0.0
            for i in range(held + 1):
                upto = cuts[i, 0] if i < held else length
                if upto - start > _SHORT:
                    if lines == len(edges):
                        raise MemoryError
                    x, y = x0 + start * dx, y0 + start * dy
                    edges[lines, 0] = SKEW_COS * x - SKEW_SIN * y
                    edges[lines, 1] = SKEW_SIN * x + SKEW_COS * y
                    edges[lines, 2] = (upto - start) * (SKEW_COS * dx - SKEW_SIN * dy)
                    edges[lines, 3] = (upto - start) * (SKEW_SIN * dx + SKEW_COS * dy)
                    edges[lines, 4] = 1.0 / ((upto - start) * (upto - start))
                    lines += 1
                if i < held:
                    start = max(start, cuts[i, 1])
    polygon = fits.polygon[k]
    polygon[4], polygon[5] = begin, lines
    polygon[6] = TO_COME if lines - begin > FEW_EDGES else NO_CELLS
    fits.used[3] = lines


@njit(cache=True)
def _relative(frame, lying, moving):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return whether the second way is mirrored as the first sees it, and its turn from there."""
    turn = frame[moving, 5] - frame[lying, 5]
    # A mirrored frame turns the other way round.
    if frame[lying, 4]:
        turn = -turn
    return frame[lying, 4] != frame[moving, 4], turn % _FULL_TURN


@njit(cache=True)
def _turned_by(turn):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return cosine and sine of a turn, exact for squares."""
    c, s = math.cos(math.radians(turn / 1e6)), math.sin(math.radians(turn / 1e6))
    if turn % _SQUARE == 0:
        c, s = round(c), round(s)
    return float(c), float(s)


@njit(cache=True)
def _pieces_of(frame, way, holds):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return the pieces of a way's shape, its holes filled for a partner that they cannot hold."""
    if holds:
        return frame[way, 0], frame[way, 1]
    return frame[way, 2], frame[way, 3]


@njit(cache=True)
def _share(table, lying, moving, k):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Let polygon k serve all ways of two shapes that lie so beside each other, closed or not."""
    pair, frame, holds, kind = table.fits.pair, table.forms.frame, table.forms.holds, table.kind
    holding, held = holds[kind[lying], kind[moving]], holds[kind[moving], kind[lying]]
    flip, turn = _relative(frame, lying, moving)
    pair[lying, moving] = k
    a, b = table.rank[lying] // 2, table.rank[moving] // 2
    for w in range(table.first[a], table.last[a]):
        for v in range(table.first[b], table.last[b]):
            its_flip, its_turn = _relative(frame, w, v)
            if its_flip != flip or its_turn != turn:
                continue
            for one in (w, frame[w, 6]):
                for other in (v, frame[v, 6]):
                    if (
                        one >= 0
                        and other >= 0
                        and table.rank[one] <= table.rank[other]
                        and holds[kind[one], kind[other]] == holding
                        and holds[kind[other], kind[one]] == held
                    ):
                        pair[one, other] = k


@njit(cache=True, nogil=True)
def make_no_fit(table, lying, moving, bounded):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Make the no-fit polygon of one way against another, as far as it is not made yet.

    Parameters
    ----------
    table : Table
        The shapes; their no-fit polygons are added to.
    lying, moving : int
        The ways, the first of no higher rank.
    bounded : bool
        Whether its boundary is asked for.

    Returns
    -------
    int
        The number of the polygon.

    Raises
    ------
    MemoryError
        There is no room even for it alone.
    """
    forms, fits = table.forms, table.fits
    frame, holds = forms.frame, forms.holds
    k = np.int64(fits.pair[lying, moving])
    if k >= 0 and not (bounded and fits.polygon[k, 5] == TO_COME):
        return k
    a, b = table.kind[lying], table.kind[moving]
    flip, turn = _relative(frame, lying, moving)
    c, s = _turned_by(turn)
    room = (
        np.empty((256, 3)), np.empty((256, 2)), np.zeros(32, dtype=np.int64), np.empty((32, 4))
    )  # fmt: skip
    sums, made = _sums_of(
        forms, _pieces_of(frame, lying, holds[a, b]), _pieces_of(frame, moving, holds[b, a]),
        (c, s, flip), room,
    )  # fmt: skip
    kept = _largest_alone(sums, made)
    if not _has_room(fits, sums, kept):
        _forget_all(fits)
        k = np.int64(-1)
        if not _has_room(fits, sums, kept):
            raise MemoryError
    if k < 0:
        k = _write_sums(fits, sums, made, kept)
        _share(table, lying, moving, k)
    if bounded:
        _write_boundary(fits, sums, kept, k)
    return k
