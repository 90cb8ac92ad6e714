"""A raster over each no-fit polygon that tells which of its edges a point need be measured to.

Most points asked about lie in a cell that is wholly outside, or wholly inside and near a few edges
only; for these neither the winding number nor most distances are worked out. What comes out is the
same, to the last bit that matters. Like the polygons, cells are made when they are first asked for.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numba import njit

from kaigata.core.nest.nofit import NO_CELLS, SKEW_COS, SKEW_SIN, Ints, NoFits

__all__ = [
    "ACROSS",
    "BORDER",
    "BORDER_INSIDE",
    "INSIDE",
    "OUTSIDE",
    "Cells",
    "cells_for",
    "make_cells",
]

ACROSS = 16
"""Cells along each side of a polygon's box."""
OUTSIDE, INSIDE, BORDER, BORDER_INSIDE = 0, 1, 2, 3
"""What a cell is; of those the boundary runs through, whether their middle is outside or inside."""
_MOST = 20_000
"""Polygons that have cells at most, those asked for first: each takes some 10 kB."""
_NEAR = 8
"""Edges near a cell, in the mean, that there is room for."""


class Cells(NamedTuple):
    """Cells of no-fit polygons.

    Cell (i, j), along x and y of a polygon's box, is number c = first cell + j ACROSS + i. It is
    ``state[c]``, and the edges near it are ``near[first[c]]`` to ``near[first[c + 1]]``.
    """

    state: npt.NDArray[np.uint8]
    first: Ints
    near: npt.NDArray[np.int32]

    def emptied(self) -> Cells:
        """Return the cells of no polygon, and no room for any."""
        return Cells(self.state[:0], self.first[:0], self.near[:0])


def cells_for(fits: NoFits) -> Cells:
    """Return room for the cells of no-fit polygons."""
    cells = min(_MOST, len(fits.polygon)) * ACROSS * ACROSS
    first = np.empty(cells + 1, dtype=np.int64)
    first[0] = 0
    return Cells(
        state=np.empty(cells, dtype=np.uint8),
        first=first,
        near=np.empty(_NEAR * cells, dtype=np.int32),
    )


@njit(cache=True, fastmath=True, error_model="numpy")
def make_cells(fits, cells, k):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Make the cells of polygon k; it has none where there is no room for them."""
    polygon, edges = fits.polygon, fits.edges
    x0, y0, x1, y1 = polygon[k, 0], polygon[k, 1], polygon[k, 2], polygon[k, 3]
    begin, end = int(polygon[k, 4]), int(polygon[k, 5])
    state, first, near = cells.state, cells.first, cells.near
    base, used = fits.used[4], fits.used[5]
    polygon[k, 6] = NO_CELLS
    if base + ACROSS * ACROSS > len(state):
        return
    half = 0.5 * np.hypot((x1 - x0) / ACROSS, (y1 - y0) / ACROSS) + 1e-6
    away = np.empty(end - begin)
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
            state[c] = OUTSIDE
            if nearest < half:
                state[c] = BORDER if winding == 0 else BORDER_INSIDE
            elif winding != 0:
                state[c] = INSIDE
            if state[c] != OUTSIDE:
                far = (nearest + 2 * half) ** 2
                for e in range(begin, end):
                    if away[e - begin] <= far:
                        if used == len(near):
                            return
                        near[used] = e
                        used += 1
            first[c + 1] = used
    fits.used[4], fits.used[5] = base + ACROSS * ACROSS, used
    polygon[k, 6] = base
