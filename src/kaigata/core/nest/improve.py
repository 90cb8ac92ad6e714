"""Making loads denser: tightening one sheet, and pulling parts into others."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from kaigata.core.nest.bench import Bench, Load
from kaigata.core.nest.nofit import Floats
from kaigata.core.nest.overlap import Lying, measure_depths
from kaigata.core.nest.separate import random_state, separate, squeeze_in

__all__ = ["Bout", "Hand", "is_shortest", "pull", "tighten"]

_EFFORT = 28
_ROUNDS = 4000
_HASTE, _PATIENCE = 60, 400
"""Rounds without less overlap after which it is given up: at first, and at most."""
_LONGER = 0.02
"""mm beyond the shortest length possible that are not worth a try."""
_NEAR = 40
"""Parts that may move to let one more in."""
_TRADING = 0.6
"""How often a part that did not go in as it is is offered in trade for smaller ones."""


@dataclass
class Bout:
    """How long to go on: to a time, or for a count of attempts."""

    until: float | None
    attempts: int | None
    should_stop: Callable[[], bool] = lambda: False
    made: int = 0

    def goes_on(self) -> bool:
        """Whether there is time for another attempt; counts it."""
        if self.is_over() or (self.attempts is not None and self.made >= self.attempts):
            return False
        self.made += 1
        return True

    def is_over(self) -> bool:
        """Whether the time has come or a stop is wanted."""
        return self.should_stop() or (self.until is not None and time.monotonic() >= self.until)


@dataclass
class Hand:
    """One searcher's random numbers and what it has learnt about how far to reach."""

    seed: int
    shares: dict[str, float] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Seed both kinds of random numbers."""
        self.draw = np.random.default_rng(self.seed)
        self.state = random_state(self.seed)


def _lying(bench: Bench, load: Load) -> Lying:
    """Return a load as the compiled loops take it, a remnant's outside as its last row."""
    way, at, fixed = load.way.copy(), load.at.copy(), load.fixed.copy()
    block = bench.obstacle(load.sheet)
    if block is not None:
        way, at = np.append(way, block), np.vstack([at, np.zeros((1, 2))])
        fixed = np.append(fixed, np.True_)
    n = len(way)
    return Lying(way, at, fixed, np.zeros((n, 4)), np.zeros((n, n)), np.ones((n, n)))


def _apart(bench: Bench, room: Floats, lying: Lying, patience: int, hand: Hand, bout: Bout) -> bool:
    """Take the overlaps out; whether it could be done, within the bout's time."""
    memory = np.array([np.inf, 0.0])
    portion = max(3, 3_000 // len(lying.way))
    for _ in range(0, _ROUNDS, portion):
        left = separate(bench.table, room, lying, portion, patience, _EFFORT, hand.state, memory)
        if left == 0.0:
            return True
        if memory[1] > patience or bout.is_over():
            return False
    return False


def _load(load: Load, lying: Lying) -> Load:
    n = len(load.way)
    return replace(load, way=lying.way[:n].copy(), at=lying.at[:n].copy())


def _pushed_in(bench: Bench, load: Load, room: Floats) -> Load | None:
    """Return a load with every copy moved into a room; None when one is too large for it."""
    reach = bench.table.reach[load.way]
    low, high = room[:2] - reach[:, :2], room[2:] - reach[:, 2:]
    if np.any((high < low - 1e-9) & ~load.fixed[:, None]):
        return None
    at = np.minimum(np.maximum(load.at, low), high)
    return replace(load, at=np.where(load.fixed[:, None], load.at, at))


def tighten(bench: Bench, load: Load, hand: Hand, bout: Bout) -> Load:
    """Return a load that reaches less far right.

    The sheet is shortened, what sticks out is pushed back in, and the overlaps are taken out. On
    success it is shortened again; else the next try begins from the failed layout with two parts
    swapped, or from the best again.
    """
    best = load
    length = bench.used_length(load)
    floor = _shortest(bench, load)
    share = hand.shares.get(load.sheet, 0.03)
    start, failures = load, 0
    while length - floor > _LONGER and bout.goes_on():
        target = max(floor, length * (1 - share))
        room = bench.room(load.sheet, target)
        trial = _pushed_in(bench, start, room)
        if trial is None:
            share *= 0.5
            if share < 1e-5:
                break
            continue
        lying = _lying(bench, trial)
        measure_depths(bench.table, lying)
        patience = min(_PATIENCE, _HASTE * (1 + failures))
        apart = _apart(bench, room, lying, patience, hand, bout)
        result = _load(load, lying)
        if apart:
            best = start = result
            length = bench.used_length(best)
            share, failures = min(0.05, share * 1.1), 0
        else:
            share = max(0.0004, share * 0.75)
            failures += 1
            # It nearly came apart, so it may at a little more length; else two parts change places.
            if failures == 1:
                start = result
            else:
                start = best if failures % 5 == 0 else _swapped(bench, result, hand)
    hand.shares[load.sheet] = share
    return best


def is_shortest(bench: Bench, load: Load) -> bool:
    """Whether no layout of a load can be shorter."""
    return bench.used_length(load) - _shortest(bench, load) <= _LONGER


def _shortest(bench: Bench, load: Load) -> float:
    """Return a length no layout can be shorter than: the area's, and the widest part's."""
    kinds = bench.kinds(load)
    table = bench.table
    widths = [
        min(table.reach[w, 2] - table.reach[w, 0] for w in range(table.first[k], table.last[k]))
        for k in set(kinds[~load.fixed].tolist())
    ]
    fixed = table.reach[load.way[load.fixed], 2] + load.at[load.fixed, 0]
    sheet = bench.sheets[load.sheet]
    return max(
        float(bench.net[kinds].sum()) / sheet.height,
        max(widths, default=0.0) + 2 * bench.margin,
        float(fixed.max(initial=0.0)) + bench.margin,
    )


def _swapped(bench: Bench, load: Load, hand: Hand) -> Load:
    """Return a load with two of its larger parts in each other's place."""
    loose = np.flatnonzero(~load.fixed)
    if len(loose) < 2:
        return load
    by_size = loose[np.argsort(-bench.area[bench.kinds(load)[loose]], kind="stable")]
    i, j = hand.draw.choice(by_size[: max(2, len(by_size) // 2)], 2, replace=False)
    hull = bench.table.hull[load.way]
    middle = (hull[:, :2] + hull[:, 2:]) / 2
    at = load.at.copy()
    at[i] = load.at[j] + middle[j] - middle[i]
    at[j] = load.at[i] + middle[i] - middle[j]
    return replace(load, at=at)


def pull(
    bench: Bench,
    loads: Sequence[Load],
    pool: Sequence[int],
    hand: Hand,
    bout: Bout,
    *,
    large_first: bool = True,
) -> tuple[list[Load], list[int]]:
    """Squeeze parts of a pool into loads, each within its sheet's length.

    Parameters
    ----------
    bench : Bench
        Where the shapes are.
    loads : sequence of Load
        The sheets to squeeze into.
    pool : sequence of int
        Shapes of the copies to place.
    hand, bout
        Random numbers, and how long to go on.
    large_first : bool
        Whether large parts are worth most, or, when copies would be left out, small ones.

    Returns
    -------
    (loads, pool)
        The loads with what went in, and the copies that did not.
    """
    loads, pool = list(loads), list(pool)
    rooms = [bench.room(load.sheet) for load in loads]
    space = [_space(bench, load, room) for load, room in zip(loads, rooms, strict=True)]
    tired: dict[tuple[int, int], int] = {}
    while pool and loads and bout.goes_on():
        pick = _choose(bench, space, pool, tired, hand, large_first=large_first)
        if pick is None:
            break
        s, k = pick
        worn = tired.get((s, k), 0)
        out: list[int] = []
        if large_first and worn and hand.draw.random() < _TRADING:
            grown, out = _traded(bench, loads[s], rooms[s], k, hand, bout)
        else:
            grown = _squeezed(bench, loads[s], rooms[s], k, hand, bout, 60 + 40 * worn)
        if grown is None:
            tired[s, k] = worn + 1
        else:
            loads[s] = grown
            space[s] = _space(bench, grown, rooms[s])
            pool.remove(k)
            pool.extend(out)
            tired = {key: n for key, n in tired.items() if key[0] != s}
    return loads, pool


def _traded(
    bench: Bench, load: Load, room: Floats, kind: int, hand: Hand, bout: Bout
) -> tuple[Load | None, list[int]]:
    """Return a load that took a copy of a shape for smaller ones, and those that came off for it.

    Smaller parts near some spot come off, the large one goes in, and as many of the others as
    still find room go back. It is no trade when more comes off than goes in.
    """
    kinds, size = bench.kinds(load), float(bench.area[kind])
    small = np.flatnonzero(~load.fixed & (bench.area[kinds] < 0.7 * size))
    if not len(small):
        return None, []
    hull = bench.table.hull[load.way]
    middle = load.at + (hull[:, :2] + hull[:, 2:]) / 2
    spot = room[:2] + hand.draw.random(2) * (room[2:] - room[:2])
    near = small[np.argsort(np.hypot(*(middle[small] - spot).T), kind="stable")]
    wanted = size * hand.draw.uniform(0.5, 1.3)
    upto = int(np.searchsorted(np.cumsum(bench.area[kinds[near]]), wanted)) + 1
    off = near[:upto]
    grown = _squeezed(bench, load.without(off), room, kind, hand, bout, 80)
    if grown is None:
        return None, []
    out: list[int] = []
    lost = worth = 0.0
    for k in sorted((int(kinds[i]) for i in off), key=lambda k: -bench.area[k]):
        back = _squeezed(bench, grown, room, k, hand, bout, 30)
        if back is not None:
            grown = back
            continue
        out.append(k)
        lost += float(bench.area[k])
        worth += float(bench.area[k]) ** 2
        if lost > 1.05 * size or worth > size**2:
            return None, []
    return grown, out


def _space(bench: Bench, load: Load, room: Floats) -> float:
    """Return how much of a sheet's metal is not part, mm²."""
    sheet = bench.sheets[load.sheet]
    whole = (room[2] + bench.margin) * sheet.height if sheet.outline is None else sheet.area
    return float(whole - bench.net[bench.kinds(load)].sum())


def _choose(
    bench: Bench,
    space: Sequence[float],
    pool: Sequence[int],
    tired: dict[tuple[int, int], int],
    hand: Hand,
    *,
    large_first: bool,
) -> tuple[int, int] | None:
    """Return the sheet and shape to try next: large parts first, what failed least first."""
    kinds = sorted(set(pool))
    pairs = [(s, k) for s in range(len(space)) for k in kinds if bench.net[k] < 0.97 * space[s]]
    if not pairs:
        return None
    size = np.array([bench.area[k] for _, k in pairs])
    worn = np.array([tired.get(pair, 0) for pair in pairs], dtype=float)
    room = np.array([space[s] for s, _ in pairs])
    score = (
        np.log(size) * (0.6 if large_first else -1.0)
        + np.log(room)
        - 1.5 * worn
        + hand.draw.gumbel(0.0, 1.0, len(pairs))
    )
    return pairs[int(np.argmax(score))]


def _squeezed(
    bench: Bench, load: Load, room: Floats, kind: int, hand: Hand, bout: Bout, patience: int
) -> Load | None:
    """Return a load with one more copy of a shape, or None when its overlaps would not go."""
    first = bench.table.first[kind]
    more = Load(
        load.sheet,
        np.append(load.way, first),
        np.vstack([load.at, room[None, :2]]),
        np.append(load.fixed, np.False_),
    )
    lying = _lying(bench, more)
    if not squeeze_in(bench.table, room, lying, len(load), 6 * _EFFORT, hand.state):
        return None
    rows, view, near = _around(bench, lying, len(load))
    if not _apart(bench, near, view, patience, hand, bout):
        return None
    lying.way[rows], lying.at[rows] = view.way, view.at
    return _load(more, lying)


def _around(bench: Bench, lying: Lying, row: int) -> tuple[np.ndarray, Lying, Floats]:
    """Return the rows about a row, their view of the sheet, and the room they may move in.

    Only the nearest parts move; what else reaches into their room stays. On a full sheet the cost
    of a try then does not grow with the sheet.
    """
    hull = lying.hull
    middle = (hull[:, :2] + hull[:, 2:]) / 2
    away = np.hypot(*(middle - middle[row]).T)
    away[lying.fixed] = np.inf
    near = np.argsort(away, kind="stable")[:_NEAR]
    near = near[np.isfinite(away[near])]
    reach = np.hstack([lying.at, lying.at])[near] + bench.table.reach[lying.way[near]]
    low, high = hull[near, :2].min(axis=0), hull[near, 2:].max(axis=0)
    touched = np.all((hull[:, :2] < high) & (hull[:, 2:] > low), axis=1)
    fixed = np.ones(len(hull), dtype=bool)
    fixed[near] = False
    rows = np.flatnonzero(touched | ~fixed)
    n = len(rows)
    view = Lying(
        lying.way[rows], lying.at[rows], fixed[rows], hull[rows],
        np.ascontiguousarray(lying.depth[np.ix_(rows, rows)]), np.ones((n, n)),
    )  # fmt: skip
    return rows, view, np.concatenate([reach[:, :2].min(axis=0), reach[:, 2:].max(axis=0)])
