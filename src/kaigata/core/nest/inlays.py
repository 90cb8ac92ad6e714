"""What lies in the holes of parts: found once, it goes along with every copy of the part."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np

from kaigata.core.nest.nofit import Floats, Ints

__all__ = ["Inlay", "Items", "items_of"]


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


class Items(NamedTuple):
    """Copies in the sequence in which they are laid.

    Copy i is of shape ``kind[i]`` and goes along with copy ``host[i]`` (-1: with none), in whose
    j-th way it lies as row ``seat[i] + j`` of ``seats`` says.
    """

    kind: Ints
    host: Ints
    seat: Ints
    seats: Floats


def items_of(sequence: Sequence[int], wanted: Counter[int], inlays: Iterable[Inlay]) -> Items:
    """Return the wanted copies by a sequence of shapes, guests right after their hosts.

    Inlays for which there are not enough copies are left out.
    """
    free, slots = Counter(wanted), defaultdict[int, defaultdict[int, list[Inlay]]](
        lambda: defaultdict(list)
    )  # fmt: skip
    first: dict[int, int] = {}
    blocks = [np.zeros((1, 3))]
    for inlay in inlays:
        slot, need = slots[inlay.host][inlay.hole], Counter(inlay.guests)
        if len(slot) < wanted[inlay.host] and all(free[k] >= n for k, n in need.items()):
            slot.append(inlay)
            free -= need
            if id(inlay) not in first:
                first[id(inlay)] = sum(len(b) for b in blocks)
                blocks.append(inlay.seats.reshape(-1, 3))
    rows: list[tuple[int, int, int]] = []

    def add(kind: int, host: int, seat: int) -> None:
        at = len(rows)
        rows.append((kind, host, seat))
        for waiting in slots[kind].values() if kind in slots else ():
            if waiting:
                inlay = waiting.pop()
                for g, guest in enumerate(inlay.guests):
                    add(guest, at, first[id(inlay)] + g * inlay.seats.shape[1])

    for kind in sequence:
        for _ in range(free[kind]):
            add(kind, -1, 0)
    kinds, hosts, seats = np.array(rows, dtype=np.int64).reshape(-1, 3).T.copy()
    return Items(kinds, hosts, seats, np.vstack(blocks))
