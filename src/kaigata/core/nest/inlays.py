"""What goes along with a part: what lies in its holes, or another copy of it beside it."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from kaigata.core.nest.nofit import Floats, Ints

__all__ = ["Couple", "Inlay", "Items", "items_of"]


@dataclass(frozen=True, eq=False)
class Inlay:
    """Parts that lie together in a hole of another, their host.

    Attributes
    ----------
    host, hole : int
        Shape of the host, and which of its holes.
    guests : tuple of int
        Shapes of the parts in it.
    seats : (guests, ways of the host, 3) array
        Where each guest lies as the host lies in each of its ways: way, x and y from the host's
        place, mm; way -1 where the guest may not turn along.
    area : float
        Of the guests, spacing included, mm².
    """

    host: int
    hole: int
    guests: tuple[int, ...]
    seats: Floats
    area: float


@dataclass(frozen=True, eq=False)
class Couple:
    """Two copies of one shape that lie well side by side.

    Attributes
    ----------
    shape : int
        Their shape.
    seats : (ways of the shape, 3) array
        Where the second lies as the first lies in each of its ways: as an inlay's seats.
    """

    shape: int
    seats: Floats


class Items(NamedTuple):
    """Copies in the sequence in which they are laid.

    Copy i is of shape ``kind[i]`` and goes along with copy ``host[i]`` (-1: with none), in whose
    j-th way it lies as row ``seat[i] + j`` of ``seats`` says. Where it goes along beside it, not in
    a hole, it is its ``mate``; -1 where there is none.
    """

    kind: Ints
    host: Ints
    seat: Ints
    seats: Floats
    mate: Ints


def items_of(
    sequence: Sequence[int],
    wanted: Counter[int],
    inlays: Iterable[Inlay],
    couples: Iterable[Couple] = (),
) -> Items:
    """Return the wanted copies by a sequence of shapes, guests right after their hosts.

    Inlays for which there are not enough copies are left out. Of a shape that has a couple every
    second copy goes along with the one before it.
    """
    items = _Growing(wanted)
    for inlay in inlays:
        items.take(inlay)
    seat_beside = {couple.shape: items.seats_at(couple.seats) for couple in couples}
    for kind in sequence:
        beside, alone = seat_beside.get(kind), -1
        for _ in range(items.free[kind]):
            if beside is None or alone < 0:
                alone = items.add(kind, -1, 0)
            else:
                items.mate[alone] = items.add(kind, alone, beside)
                alone = -1
    return items.done()


class _Growing:
    """Items to which copies are added one by one.

    ``free`` are the copies that go into no hole, and ``mate[i]`` is what goes along beside item i.
    """

    def __init__(self, wanted: Counter[int]) -> None:
        self.free, self.mate = Counter(wanted), dict[int, int]()
        self._wanted = wanted
        self._rows: list[tuple[int, int, int]] = []
        self._waiting = defaultdict[int, defaultdict[int, list[tuple[Inlay, int]]]](
            lambda: defaultdict(list)
        )
        self._blocks, self._first = [np.zeros((1, 3))], dict[int, int]()

    def take(self, inlay: Inlay) -> None:
        """Keep an inlay for the next host without one in that hole, if there are the copies."""
        waiting, need = self._waiting[inlay.host][inlay.hole], Counter(inlay.guests)
        if len(waiting) < self._wanted[inlay.host] and need <= self.free:
            self.free -= need
            if id(inlay) not in self._first:
                self._first[id(inlay)] = self.seats_at(inlay.seats.reshape(-1, 3))
            waiting.append((inlay, self._first[id(inlay)]))

    def seats_at(self, seats: Floats) -> int:
        """Append seats; return the row of the first."""
        self._blocks.append(seats)
        return sum(len(b) for b in self._blocks[:-1])

    def add(self, kind: int, host: int, seat: int) -> int:
        """Append a copy and what goes along in its holes; return its row."""
        at = len(self._rows)
        self._rows.append((kind, host, seat))
        for waiting in self._waiting[kind].values() if kind in self._waiting else ():
            if waiting:
                inlay, first = waiting.pop()
                for g, guest in enumerate(inlay.guests):
                    self.add(guest, at, first + g * inlay.seats.shape[1])
        return at

    def done(self) -> Items:
        """Return the items in flat arrays."""
        kind, host, seat = np.array(self._rows, dtype=np.int64).reshape(-1, 3).T.copy()
        mate = np.full(len(kind), -1, dtype=np.int64)
        mate[list(self.mate)] = list(self.mate.values())
        return Items(kind, host, seat, np.vstack(self._blocks), mate)
