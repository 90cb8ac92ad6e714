"""Parts with what lies in their holes moved as one: sealed while they are moved, then opened again.

What lies in the holes of a part pins it down, because parts move one at a time. Sealed, the part
stands for all of it as a shape without holes: there is less to move, and it moves freely.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import MutableMapping
from dataclasses import dataclass
from typing import TypeAlias

import numpy as np
from shapely.geometry import Point, Polygon

from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.holes import seats_of
from kaigata.core.nest.inlays import Inlay
from kaigata.core.nest.moves import refilled
from kaigata.core.nest.nofit import Ints

__all__ = ["Known", "Sealed", "opened", "sealed"]


Known: TypeAlias = MutableMapping[Load, tuple[Load, tuple[Inlay, ...]]]
"""Loads, each sealed, with what lies in its sealed parts."""


@dataclass(frozen=True, eq=False)
class Sealed:
    """A layout whose parts with guests are sealed.

    ``was[i]`` is what load i was, and ``inside[i]`` what lies in its sealed parts, row by row.
    """

    layout: Layout
    was: tuple[Load, ...]
    inside: tuple[tuple[Inlay, ...], ...]


def sealed(bench: Bench, layout: Layout, known: Known) -> Sealed:
    """Seal all parts in whose holes others lie, but those that must stay.

    ``known`` are loads that have been sealed before, and is added to: from round to round most
    sheets stay as they are.
    """
    for load in layout.loads:
        if load not in known:
            known[load] = _sealed(bench, load)
    both = [known[load] for load in layout.loads]
    return Sealed(
        Layout(tuple(load for load, _ in both), layout.left_out),
        layout.loads,
        tuple(inside for _, inside in both),
    )


def _sealed(bench: Bench, load: Load) -> tuple[Load, tuple[Inlay, ...]]:
    table, kinds = bench.table, bench.kinds(load)
    points = load.at + np.array(
        [bench.shapes.inner_point(k, w) for k, w in zip(kinds, load.way, strict=True)]
    ).reshape(-1, 2)
    way, gone, inside = load.way.copy(), np.zeros(len(load), dtype=bool), []
    for i in np.argsort(-bench.area[kinds], kind="stable"):
        kind = int(kinds[i])
        j = int(load.way[i]) - table.first[kind]
        if gone[i] or kind not in bench.closed or load.way[i] >= table.last[kind]:
            continue
        rows = _in_holes(bench, load, int(i), points)
        if len(rows) and not load.fixed[[i, *rows]].any():
            way[i] = table.first[bench.closed[kind]] + j
            gone[rows] = True
            guests = tuple(kinds[rows].tolist())
            area = float(bench.area[kinds[rows]].sum())
            inside.append((int(i), Inlay(kind, 0, guests, seats_of(bench, load, i, rows), area)))
    kept = Load(load.sheet, way[~gone], load.at[~gone], load.fixed[~gone])
    return kept, tuple(inlay for _, inlay in sorted(inside, key=lambda pair: pair[0]))


def _in_holes(bench: Bench, load: Load, row: int, points: np.ndarray) -> Ints:
    """Return the rows that lie in a hole of one row."""
    found = [np.zeros(0, dtype=np.int64)]
    for ring in bench.shapes.rings(int(bench.kinds(load)[row]), int(load.way[row]))[1:]:
        hole = ring + load.at[row]
        near = np.all((points > hole.min(axis=0)) & (points < hole.max(axis=0)), axis=1)
        polygon = Polygon(hole)
        found.append(
            np.array(
                [j for j in np.flatnonzero(near) if polygon.contains(Point(*points[j]))],
                dtype=np.int64,
            )
        )
    return np.concatenate(found)


def opened(bench: Bench, before: Sealed, layout: Layout) -> Layout:
    """Return a layout that came of a sealed one with everything back in its holes.

    Sealed parts of one shape are alike, so any of them may get back what another had. Guests that
    may not turn as their host now lies are laid anew, like sealed parts that lie nowhere any more.
    """
    # Two sheets may look alike when sealed, so each of those before is found again once only.
    known = defaultdict[tuple[str, bytes, bytes], list[int]](list)
    for i, x in enumerate(before.layout.loads):
        known[_name(x)].append(i)
    same = [known[_name(x)].pop(0) if known[_name(x)] else None for x in layout.loads]
    waiting = defaultdict[int, list[Inlay]](list)
    for i, inside in enumerate(before.inside):
        if i not in same:
            for inlay in inside:
                waiting[bench.closed[inlay.host]].append(inlay)
    lost = Counter[int]()
    loads = [
        _opened(bench, load, waiting, lost) if i is None else before.was[i]
        for load, i in zip(layout.loads, same, strict=True)
    ]
    left = Counter(layout.left_out)
    for twin in bench.closed.values():
        for _ in range(left.pop(twin, 0)):
            inlay = waiting[twin].pop()
            lost.update((inlay.host, *inlay.guests))
    full = Layout(tuple(loads), left + lost)
    return refilled(bench, full) if lost else full


def _name(load: Load) -> tuple[str, bytes, bytes]:
    return load.sheet, load.way.tobytes(), load.at.tobytes()


def _opened(bench: Bench, load: Load, waiting: dict[int, list[Inlay]], lost: Counter[int]) -> Load:
    table, kinds = bench.table, bench.kinds(load)
    host_of = {twin: k for k, twin in bench.closed.items()}
    way, more, at = load.way.copy(), [], []
    for i in range(len(load)):
        kind = int(kinds[i])
        if kind not in host_of:
            continue
        inlay = waiting[kind].pop()
        j = int(load.way[i]) - table.first[kind]
        way[i] = table.first[inlay.host] + j
        for guest, (w, x, y) in zip(inlay.guests, inlay.seats[:, j], strict=True):
            if w < 0:
                lost[guest] += 1
            else:
                more.append(int(w))
                at.append(load.at[i] + (x, y))
    return Load(
        load.sheet,
        np.concatenate([way, np.array(more, dtype=np.int64)]),
        np.vstack([load.at, np.array(at).reshape(-1, 2)]),
        np.concatenate([load.fixed, np.zeros(len(more), dtype=bool)]),
    )
