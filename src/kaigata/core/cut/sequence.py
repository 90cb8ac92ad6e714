"""The order of cutting: holes before outlines, what lies in a hole before the hole."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kaigata.core.plane import Point

__all__ = ["Stop", "heat_spread", "nearest_next"]

Floats = npt.NDArray[np.float64]

_COOLING = 0.8
"""Share of the heat that is left when one more contour has been cut."""

_HEAT = 2.0
"""How much a place just cut counts against it, in reaches of way."""


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
    return _greedy(stops, start, lambda way, begins, last: way)


def heat_spread(stops: Sequence[Stop], *, start: Point, reach: float = 250.0) -> list[int]:
    """Return an order that begins each stop far from what was cut lately, and goes short ways.

    Each step weighs the way against the heat that recent cuts have left where the next begins:
    a cut heats its surroundings by ``exp(-distance / reach)`` and cools by a fifth with each cut
    that follows.

    Parameters
    ----------
    stops : sequence of Stop
        What is to be cut; ``after`` closes no ring. Each is begun at its first entry.
    start : Point
        Where the head stands, mm.
    reach : float
        mm over which heat falls to about a third.

    Returns
    -------
    list of int
        Every stop once. Cost ``O(n²)``.
    """
    heat = np.zeros(len(stops))

    def weigh(way: Floats, begins: Floats, last: int | None) -> Floats:
        if last is not None:
            near = np.hypot(*(begins - begins[last]).T)
            heat[:] = heat * _COOLING + np.exp(-near / reach)
        return way + _HEAT * reach * heat

    return _greedy(stops, start, weigh)


def _greedy(
    stops: Sequence[Stop],
    start: Point,
    weigh: Callable[[Floats, Floats, int | None], Floats],
) -> list[int]:
    """Return an order that goes each time to the stop that weighs least.

    ``weigh`` is told the way to each stop, where each begins, and which was cut last.
    """
    n = len(stops)
    begins = np.array([s.entries[0][0] for s in stops]).reshape(n, 2)
    waiting = np.array([len(s.after) for s in stops], dtype=int)
    frees: list[list[int]] = [[] for _ in stops]
    for i, stop in enumerate(stops):
        for j in stop.after:
            frees[j].append(i)
    done = np.zeros(n, dtype=bool)
    here, order = np.asarray(start, float), list[int]()
    for _ in range(n):
        way = np.hypot(begins[:, 0] - here[0], begins[:, 1] - here[1])
        way = weigh(way, begins, order[-1] if order else None)
        way[done | (waiting > 0)] = np.inf
        at = int(np.argmin(way))
        order.append(at)
        done[at] = True
        here = np.asarray(stops[at].entries[0][1], float)
        for i in frees[at]:
            waiting[i] -= 1
    return order
