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

from kaigata.core.nest.sums import SHORT, largest_alone, outer_lengths, sums_of

__all__ = ["SKEW_COS", "SKEW_SIN", "Forms", "NoFits", "make_no_fit", "no_fits_for"]

Floats = npt.NDArray[np.float64]
Ints = npt.NDArray[np.int64]

SKEW_COS, SKEW_SIN = math.cos(0.6180339887), math.sin(0.6180339887)
"""Boundaries are kept turned by this angle. Parts and their places line up with each other's edges
along x and y; along a ray at no such angle no point meets two ends of edges at once, so counting
what the ray crosses tells inside from outside.
"""
_SPLIT = 2
"""Lengths that an edge of a sum is split into, in the mean of a polygon, which there is room for:
far fewer are part of a boundary."""
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
            cuts, held, x0, y0, dx, dy, length = outer_lengths(sums, kept, at, e, cuts)
            start = 0.0
            for i in range(held + 1):
                upto = cuts[i, 0] if i < held else length
                if upto - start > SHORT:
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
    sums, made = sums_of(
        forms, _pieces_of(frame, lying, holds[a, b]), _pieces_of(frame, moving, holds[b, a]),
        (c, s, flip), room,
    )  # fmt: skip
    kept = largest_alone(sums, made)
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
