"""What each searcher may change when several bring parts into the same sheets at once."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.nofit import Floats
from kaigata.core.nest.score import last_of

__all__ = ["Brought", "Portion", "Stretch", "portions_of"]

_HAIR = 1e-6
_LEAST = 40
"""Copies that a searcher must have to itself; with fewer, all work on the same and one is kept."""


@dataclass(frozen=True, slots=True)
class Stretch:
    """A sheet of a layout from one x to another, mm."""

    load: int
    left: float
    right: float

    def room(self, bench: Bench, layout: Layout) -> Floats:
        """Return where parts may reach; what lies beyond its ends keeps its spacing."""
        sheet = layout.loads[self.load].sheet
        room = bench.room(sheet)
        if self.left > 0:
            room[0] = max(room[0], self.left + bench.beyond)
        if self.right < bench.sheets[sheet].width:
            room[2] = min(room[2], self.right - bench.beyond)
        return room

    def inside(self, bench: Bench, layout: Layout) -> npt.NDArray[np.bool_]:
        """Return which rows of the load may move and lie in it wholly."""
        load, room = layout.loads[self.load], self.room(bench, layout)
        reach = load.at[:, :1] + bench.table.reach[load.way][:, [0, 2]]
        within: npt.NDArray[np.bool_] = (reach >= room[0] - _HAIR) & (reach <= room[2] + _HAIR)
        return np.asarray(within.all(axis=1) & ~load.fixed)


@dataclass(frozen=True, slots=True)
class Portion:
    """Stretches to bring copies into, and the copies, as shapes.

    The copies are those without a place or, where all have one, the last sheet's.
    """

    stretches: tuple[Stretch, ...]
    pool: tuple[int, ...]


@dataclass(frozen=True, slots=True)
class Brought:
    """What came of a portion: what lies in each stretch, and copies that found no room."""

    loads: tuple[Load, ...]
    left: tuple[int, ...]


def portions_of(
    bench: Bench, layout: Layout, count: int, draw: np.random.Generator
) -> list[Portion]:
    """Return so many portions of a layout that are worked on side by side.

    Where copies are many enough nothing is in two of them, so that what all bring can be united;
    else all are the same.
    """
    pool = [k for k in layout.left_out.elements() if bench.fits_at_all(k)]
    into = list(range(len(layout.loads)))
    if not pool:
        last = into.pop(last_of(bench, layout))
        load = layout.loads[last]
        pool = bench.kinds(load)[~load.fixed].tolist()
    copies = sum(int((~layout.loads[i].fixed).sum()) for i in into)
    if copies < _LEAST * count or len(pool) < count:
        return [Portion(tuple(_whole(bench, layout, into)), tuple(pool))] * count
    side_by_side = list(_whole(bench, layout, draw.permutation(into).tolist()))
    length = sum(s.right for s in side_by_side)
    begin, mixed = draw.random() * length, draw.permutation(pool).tolist()
    return [
        Portion(
            tuple(_between(side_by_side, begin + i / count * length, length / count)),
            tuple(mixed[i::count]),
        )
        for i in range(count)
    ]


def _whole(bench: Bench, layout: Layout, loads: Iterable[int]) -> Iterator[Stretch]:
    for i in loads:
        yield Stretch(i, 0.0, bench.sheets[layout.loads[i].sheet].width)


def _between(sheets: Sequence[Stretch], begin: float, length: float) -> Iterator[Stretch]:
    """Yield what a length along sheets side by side covers, the first behind the last again."""
    total = sum(s.right for s in sheets)
    for start in (begin % total, begin % total - total):
        at = 0.0
        for sheet in sheets:
            left, right = max(0.0, start - at), min(sheet.right, start + length - at)
            if right > left:
                yield Stretch(sheet.load, left, right)
            at += sheet.right
