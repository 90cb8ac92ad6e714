"""A raster over each no-fit polygon that tells which of its edges a point need be measured to.

Most points asked about lie in a cell that is wholly outside, or wholly inside and near a few edges
only; for these neither the winding number nor most distances are worked out. What comes out is the
same, to the last bit that matters.
"""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor
from functools import partial
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numba import njit

from kaigata.core.nest.nofit import SKEW_COS, SKEW_SIN, Floats, Ints, NoFits

__all__ = [
    "ACROSS",
    "BORDER",
    "BORDER_INSIDE",
    "INSIDE",
    "OUTSIDE",
    "Cells",
    "make_cells",
    "without_cells",
]

ACROSS = 16
"""Cells along each side of a polygon's box."""
OUTSIDE, INSIDE, BORDER, BORDER_INSIDE = 0, 1, 2, 3
"""What a cell is; of those the boundary runs through, whether their middle is outside or inside."""
_FEW = 24
"""Edges up to which measuring to all of them is as quick."""
_MOST = 20_000
"""Polygons that have cells at most, those of most edges: each takes some 10 kB."""


class Cells(NamedTuple):
    """Cells of all no-fit polygons.

    ``polygon[k]`` is (x0, y0, x1, y1, first edge, last edge, first cell, 0): all that is asked of a
    polygon first, in one line of the processor's cache. Polygons of few edges have no cells, which
    is -1. Cell (i, j), along x and y of the box, is number c = first cell + j ACROSS + i. It is
    ``state[c]``, and the edges near it are ``near[first[c]]`` to ``near[first[c + 1]]``.
    """

    polygon: Floats
    state: npt.NDArray[np.uint8]
    first: Ints
    near: npt.NDArray[np.int32]


def without_cells(fits: NoFits) -> Cells:
    """Return what is asked of each polygon first, all without cells: quick to make."""
    count = len(fits.box)
    polygon = np.zeros((count, 8))
    polygon[:, :4] = fits.box
    polygon[:, 4], polygon[:, 5], polygon[:, 6] = fits.edge_first[:-1], fits.edge_first[1:], -1
    return Cells(polygon, np.zeros(0, np.uint8), np.zeros(1, np.int64), np.zeros(0, np.int32))


def make_cells(fits: NoFits) -> Cells:
    """Return the cells of no-fit polygons of many edges, made in two threads."""
    half = len(fits.box) // 2
    long = np.sort(np.diff(fits.edge_first))
    few = max(_FEW, int(long[-_MOST - 1])) if len(long) > _MOST else _FEW
    with ThreadPoolExecutor(2) as threads:
        one, other = threads.map(
            partial(_cells_of, few=few),
            (
                fits._replace(box=fits.box[rows], edge_first=fits.edge_first[rows.start : end])
                for rows, end in (
                    (slice(0, half), half + 1),
                    (slice(half, len(fits.box)), len(fits.box) + 1),
                )
            ),
        )
    polygon = np.vstack([one.polygon, other.polygon])
    later = polygon[half:, 6]
    later[later >= 0] += len(one.state)
    return Cells(
        polygon,
        np.concatenate([one.state, other.state]),
        np.concatenate([one.first, other.first[1:] + one.first[-1]]),
        np.concatenate([one.near, other.near]),
    )


@njit(cache=True, nogil=True, fastmath=True, error_model="numpy")
def _cells_of(fits, few):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    count = len(fits.box)
    size = ACROSS * ACROSS
    polygon = np.zeros((count, 8))
    edges = fits.edges
    widest, cells = 1, 0
    for k in range(count):
        begin, end = fits.edge_first[k], fits.edge_first[k + 1]
        polygon[k, :4] = fits.box[k]
        polygon[k, 4], polygon[k, 5], polygon[k, 6] = begin, end, -1
        if end - begin > few:
            polygon[k, 6] = cells
            cells += size
        widest = max(widest, end - begin)
    state = np.zeros(cells, dtype=np.uint8)
    first = np.zeros(cells + 1, dtype=np.int64)
    near = np.zeros(1024 + 2 * cells, dtype=np.int32)
    away = np.zeros(widest)
    used = 0
    for k in range(count):
        base = int(polygon[k, 6])
        if base < 0:
            continue
        x0, y0, x1, y1 = polygon[k, 0], polygon[k, 1], polygon[k, 2], polygon[k, 3]
        half = 0.5 * np.hypot((x1 - x0) / ACROSS, (y1 - y0) / ACROSS) + 1e-6
        begin, end = fits.edge_first[k], fits.edge_first[k + 1]
        for j in range(ACROSS):
            for i in range(ACROSS):
                ux = x0 + (i + 0.5) * (x1 - x0) / ACROSS
                uy = y0 + (j + 0.5) * (y1 - y0) / ACROSS
                px, py = SKEW_COS * ux - SKEW_SIN * uy, SKEW_SIN * ux + SKEW_COS * uy
                winding, nearest = 0, 1e30
                for e in range(begin, end):
                    rx, ry = px - edges[e, 0], py - edges[e, 1]
                    dx, dy = edges[e, 2], edges[e, 3]
                    left = dx * ry - dy * rx
                    up = (ry >= 0) & (ry < dy) & (left > 0)
                    down = (ry < 0) & (ry >= dy) & (left < 0)
                    winding += int(up) - int(down)
                    t = min(1.0, max(0.0, (rx * dx + ry * dy) * edges[e, 4]))
                    gx, gy = rx - t * dx, ry - t * dy
                    d = gx * gx + gy * gy
                    away[e - begin] = d
                    nearest = min(nearest, d)
                nearest = np.sqrt(nearest)
                c = base + j * ACROSS + i
                if nearest < half:
                    state[c] = BORDER if winding == 0 else BORDER_INSIDE
                elif winding != 0:
                    state[c] = INSIDE
                if state[c] != OUTSIDE:
                    far = (nearest + 2 * half) ** 2
                    for e in range(begin, end):
                        if away[e - begin] <= far:
                            if used == len(near):
                                more = np.zeros(2 * used, dtype=np.int32)
                                more[:used] = near
                                near = more
                            near[used] = e
                            used += 1
                first[c + 1] = used
    return Cells(polygon, state, first, near[:used].copy())
