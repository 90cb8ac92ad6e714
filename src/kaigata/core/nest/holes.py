"""Filling the holes of parts with other parts: what fits well, and which copies get what.

A hole is a small sheet that comes once with every copy of its part, so it pays to look for what
fills it best; and since the parts that go in are not many, which holes they are given to is a
linear programme: as much area as can be in holes, each copy given away once.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence

import numpy as np
from scipy.optimize import linprog
from scipy.sparse import csr_array
from shapely.geometry import Point, Polygon

from kaigata.core.nest.bench import Bench, Load
from kaigata.core.nest.inlays import Inlay
from kaigata.core.nest.nofit import Floats
from kaigata.core.nest.table import Way

__all__ = ["dealt", "found_for", "holes_of", "kept", "seats_of"]

_LEANS = (0.0, 0.1, 0.25, 1.0, 3.0)
_NOISES = (0.0, 0.3, 0.8)
"""Spreads of the noise on the logarithms of areas by which guests are sorted."""
_SHARES = (1.0, 0.6, 0.3)
"""Shares of the shapes that are offered to a hole."""
_MOST = 5
"""Copies of one shape that are offered at most."""
_KEPT = 40
"""Inlays that are kept for a hole: those of most area, each with other guests."""


def holes_of(bench: Bench) -> list[tuple[int, int]]:
    """Return the holes in which a part of the order may lie, as shape and number."""
    shapes = bench.shapes
    return [
        (k, h)
        for k in bench.wanted()
        if shapes.holds[k].any()
        for h in range(len(shapes.grown[k].interiors))
    ]


def found_for(bench: Bench, host: int, hole: int, draw: np.random.Generator) -> Inlay | None:
    """Fill one hole once, in a drawn sequence; None where nothing of what was drawn lies in it."""
    shapes, table = bench.shapes, bench.table
    way = int(table.first[host])
    room = shapes.rings(host, way)[1 + hole]
    low, high = room.min(axis=0), room.max(axis=0)
    share, ordered = draw.choice(_SHARES), bench.wanted()
    fits = [k for k in ordered if shapes.holds[host, k] and draw.random() < share]
    noise = draw.normal(0.0, draw.choice(_NOISES), len(fits))
    area = np.array([shapes.grown[k].area for k in fits])
    sequence = [fits[i] for i in np.argsort(-np.log(area) - noise, kind="stable")]
    wanted = Counter({k: min(ordered[k], int(draw.integers(1, _MOST + 1))) for k in sequence})
    at = -low
    lying = Load("", np.array([way]), at[None, :], np.array([True]))
    laid = bench.fill(
        [lying], wanted, sequence=sequence, lean=float(draw.choice(_LEANS)),
        rooms=[np.concatenate([low + at, high + at])],
    ).loads[0]  # fmt: skip
    rows = _within(bench, laid, Polygon(room + at))
    if not rows:
        return None
    guests = tuple(int(k) for k in bench.kinds(laid)[rows])
    return Inlay(host, hole, guests, seats_of(bench, laid, 0, rows), sum(bench.area[list(guests)]))


def _within(bench: Bench, laid: Load, hole: Polygon) -> list[int]:
    """Return the rows that lie in the hole itself and in no hole of what lies there."""
    inside: list[int] = []
    taken: list[Polygon] = []
    for i in range(1, len(laid)):
        kind, way, at = int(bench.kinds(laid)[i]), int(laid.way[i]), laid.at[i]
        point = Point(*(at + bench.shapes.inner_point(kind, way)))
        if hole.contains(point) and not any(t.contains(point) for t in taken):
            inside.append(i)
            taken += [Polygon(ring + at) for ring in bench.shapes.rings(kind, way)[1:]]
    return inside


def seats_of(bench: Bench, load: Load, host: int, guests: Iterable[int]) -> Floats:
    """Return how rows of a load lie beside another row, as ``Inlay`` keeps it."""
    return np.array([list(_turned_along(bench, load, host, i)) for i in guests])


def _turned_along(
    bench: Bench, load: Load, row: int, guest_row: int
) -> Iterator[tuple[float, float, float]]:
    """Yield how a guest lies beside its host, for each way of the host."""
    shapes, table = bench.shapes, bench.table
    host = table.kind[load.way[row]]
    first, guest = shapes.ways[load.way[row]], shapes.ways[load.way[guest_row]]
    off = load.at[guest_row] - load.at[row]
    # The move and the turn in the host's own frame.
    a, b, c, d = table.back[load.way[row]]
    x, y = a * off[0] + b * off[1], c * off[0] + d * off[1]
    for w in range(table.first[host], table.last[host]):
        its = shapes.ways[w]
        sign = -1.0 if its.mirrored != first.mirrored else 1.0
        way = Way(
            guest.part,
            guest.mirrored != (its.mirrored != first.mirrored),
            (its.turn + sign * (guest.turn - first.turn)) % (2 * np.pi),
        )
        try:
            number, dx, dy = shapes.known(way)
        except KeyError:
            yield -1.0, 0.0, 0.0
            continue
        # What undoes a turn is undone by its transpose.
        a, b, c, d = table.back[w]
        yield float(number), a * x + c * y + dx, b * x + d * y + dy


def kept(inlays: Iterable[Inlay]) -> tuple[Inlay, ...]:
    """Return the best inlays of each hole, no two of one hole with the same guests."""
    best: dict[tuple[int, int], dict[tuple[int, ...], Inlay]] = defaultdict(dict)
    for inlay in inlays:
        best[inlay.host, inlay.hole].setdefault(tuple(sorted(inlay.guests)), inlay)
    return tuple(
        inlay
        for of_hole in best.values()
        for inlay in sorted(of_hole.values(), key=lambda x: -x.area)[:_KEPT]
    )


def dealt(
    bench: Bench,
    stock: Sequence[Inlay],
    given: Sequence[Inlay],
    power: float,
    noise: float,
    draw: np.random.Generator,
) -> tuple[Inlay, ...]:
    """Return the inlays to use, each as often as it is used.

    Parameters
    ----------
    bench : Bench
        Where the shapes are.
    stock : sequence of Inlay
        What may be used.
    given : sequence of Inlay
        What is used already.
    power : float
        A guest is worth its area to this power: above 1 the small ones stay for other gaps.
    noise : float
        Spread of the noise on the logarithm of what each inlay is worth.
    draw : Generator
        For the noise.
    """
    if not stock:
        return tuple(given)
    worth = np.array([(bench.area[list(x.guests)] ** power).sum() for x in stock])
    worth *= np.exp(draw.normal(0.0, noise, len(worth)))
    holes = {hole: i for i, hole in enumerate(dict.fromkeys((x.host, x.hole) for x in stock))}
    needs = [Counter(x.guests) for x in stock]
    entries = [(holes[x.host, x.hole], i, 1) for i, x in enumerate(stock)]
    entries += [(len(holes) + k, i, n) for i, need in enumerate(needs) for k, n in need.items()]
    row, column, count = np.array(entries).T
    wanted = bench.wanted()
    full = Counter((x.host, x.hole) for x in given)
    gone = Counter(k for x in given for k in x.guests)
    most = np.array(
        [wanted[hole[0]] - full[hole] for hole in holes]
        + [wanted[k] - gone[k] for k in range(len(bench.area))]
    )
    table = csr_array((count, (row, column)), shape=(len(most), len(stock)))
    solved = linprog(-worth / worth.max(), A_ub=table, b_ub=most, method="highs").x
    # Unsolved, which only numbers too far apart could bring about, the best go first.
    used = np.zeros(len(stock)) if solved is None else np.floor(solved + 1e-6)
    left = most - table @ used
    columns = table.tocsc()
    for i in np.argsort(-worth, kind="stable"):
        span = slice(columns.indptr[i], columns.indptr[i + 1])
        rows, each = columns.indices[span], columns.data[span]
        more = int(np.min(left[rows] // each))
        used[i] += more
        left[rows] -= more * each
    return (*given, *(x for x, n in zip(stock, used, strict=True) for _ in range(int(n))))
