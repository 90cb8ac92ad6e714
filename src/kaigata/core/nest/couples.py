"""Shapes of which two copies lie well together, as angles and triangles do turned about."""

from __future__ import annotations

import numpy as np

from kaigata.core.nest.bench import Bench, Load
from kaigata.core.nest.holes import seats_of
from kaigata.core.nest.inlays import Couple
from kaigata.core.nest.nofit import SKEW_COS, SKEW_SIN, Floats, make_no_fit

__all__ = ["couples_of"]

_DENSER = 1.2
"""How much denser two must fill their bounds than one does, to be worth keeping together."""
_PARTS = 4
"""Places looked at on each edge along which the second may touch the first."""


def couples_of(bench: Bench) -> tuple[Couple, ...]:
    """Return for each shape with at least two copies how two fill their bounds best, if well."""
    wanted = bench.wanted()
    found = (_couple(bench, k) for k in bench.open_shapes if wanted[k] > 1)
    return tuple(couple for couple in found if couple is not None)


def _couple(bench: Bench, kind: int) -> Couple | None:
    table = bench.table
    first = int(table.first[kind])
    hull = table.hull
    size = hull[first, 2:] - hull[first, :2]
    least, way, at = 2.0 * float(size.prod()) / _DENSER, -1, np.zeros(2)
    for other in range(first, int(table.last[kind])):
        touching = _touching(bench, first, other)
        low = np.minimum(hull[first, :2], touching + hull[other, :2])
        high = np.maximum(hull[first, 2:], touching + hull[other, 2:])
        bounds = (high - low).prod(axis=1)
        best = int(bounds.argmin())
        if bounds[best] < least:
            least, way, at = float(bounds[best]), other, touching[best]
    if way < 0:
        return None
    together = Load(
        "", np.array([first, way]), np.vstack([np.zeros(2), at]), np.zeros(2, dtype=bool)
    )
    return Couple(kind, seats_of(bench, together, 0, [1])[0])


def _touching(bench: Bench, lying: int, moving: int) -> Floats:
    """Return places at which one way of a shape touches another that lies at 0,0, (n, 2) mm."""
    table = bench.table
    polygon = table.fits.polygon[make_no_fit(table, lying, moving, True)]
    edges = table.fits.edges[int(polygon[4]) : int(polygon[5])]
    share = np.arange(_PARTS) / _PARTS
    x, y = (edges[:, i, None] + share * edges[:, i + 2, None] for i in (0, 1))
    points = np.stack([SKEW_COS * x + SKEW_SIN * y, SKEW_COS * y - SKEW_SIN * x], axis=-1)
    a, b, c, d = table.back[lying]
    # What undoes a turn is undone by its transpose.
    turned: Floats = points.reshape(-1, 2) @ np.array([[a, b], [c, d]])
    return turned
