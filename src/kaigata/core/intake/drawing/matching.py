"""Which bend lines of a drawn flat are still there in a later revision of its drawing."""

from __future__ import annotations

import math

import numpy as np
import numpy.typing as npt

from kaigata.core.intake.drawing.flats import DrawnFlat
from kaigata.core.part.matching import ALONG, SHARE, STILL, paired

__all__ = ["matched_lines"]


def matched_lines(before: DrawnFlat, after: DrawnFlat) -> dict[int, int]:
    """Return for bend lines of a flat which of a later flat's they became, by their places.

    They run in about the same direction and lie nearest to each other in all; a flat that is drawn
    elsewhere on its page is first moved to where most of its lines come to lie on later ones.
    """
    if not before.bends or not after.bends:
        return {}
    (one, along), (two, later) = _middles(before), _middles(after)
    is_parallel = np.abs(along @ later.T) > ALONG

    def pairs(shift: npt.NDArray[np.float64], limit: float) -> dict[int, int]:
        apart = np.linalg.norm(one[:, None] + shift - two[None], axis=2)
        return paired(np.where(is_parallel, apart, np.inf), limit)

    # Where as many come to lie so, the first wins: not to be moved at all.
    shifts = [np.zeros(2), *(two[None] - one[:, None])[is_parallel]]
    best = max(shifts, key=lambda shift: len(pairs(shift, STILL)))
    x0, y0, x1, y1 = before.region.outer.bounds
    return pairs(best, SHARE * math.hypot(x1 - x0, y1 - y0))


def _middles(flat: DrawnFlat) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.float64]]:
    """Return the middles of a flat's bend lines, mm, and the directions they run in."""
    ends = np.array([(b.lines[0][0], b.lines[-1][1]) for b in flat.bends])
    run = ends[:, 1] - ends[:, 0]
    return ends.mean(axis=1), run / np.linalg.norm(run, axis=1)[:, None]
