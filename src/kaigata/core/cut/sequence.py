"""The order of cutting: holes before outlines, what lies in a hole before the hole."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from kaigata.core.plane import Point

__all__ = ["Stop", "nearest_next"]


@dataclass(frozen=True, slots=True)
class Stop:
    """A contour to cut: where it may be begun and then ends, and which others come before it."""

    entries: tuple[tuple[Point, Point], ...]
    after: frozenset[int]


def nearest_next(stops: Sequence[Stop], *, start: Point) -> list[int]:
    """Return an order of stops that holds their precedence, going to the nearest one each time.

    Each is begun at its first entry.

    Parameters
    ----------
    stops : sequence of Stop
        What is to be cut; ``after`` holds places in this sequence and closes no ring.
    start : Point
        Where the head stands, mm.

    Returns
    -------
    list of int
        Every stop once. Cost ``O(n²)``.
    """
    n = len(stops)
    begins = np.array([s.entries[0][0] for s in stops]).reshape(n, 2)
    waiting = np.array([len(s.after) for s in stops], dtype=int)
    frees: list[list[int]] = [[] for _ in stops]
    for i, stop in enumerate(stops):
        for j in stop.after:
            frees[j].append(i)
    done = np.zeros(n, dtype=bool)
    here, order = np.asarray(start, float), []
    for _ in range(n):
        way = np.hypot(begins[:, 0] - here[0], begins[:, 1] - here[1])
        way[done | (waiting > 0)] = np.inf
        at = int(np.argmin(way))
        order.append(at)
        done[at] = True
        here = np.asarray(stops[at].entries[0][1], float)
        for i in frees[at]:
            waiting[i] -= 1
    return order
