"""Making loads denser: tightening one sheet, and pulling parts into others."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from kaigata.core.nest.bench import Bench, Load
from kaigata.core.nest.nofit import Floats
from kaigata.core.nest.overlap import Lying, lying_of, measure_depths
from kaigata.core.nest.separate import random_state, separate, squeeze_in

__all__ = ["HASTY", "PATIENT", "Bout", "Hand", "Pace", "is_shortest", "pull", "tighten"]

_EFFORT = 28
_ROUNDS = 4000
_LIFTING = 0.5
"""How often what sticks out of a shortened sheet is lifted off and laid where it overlaps least."""
_HAIR = 1e-6
"""mm that a part may stick out."""
_LONGER = 0.02
"""mm beyond the shortest length possible that are not worth a try."""
_NEAR = 40
"""Parts that may move to let one more in."""
_TRADING = 0.6
"""How often a part that did not go in as it is is offered in trade for smaller ones."""
_LOOKS, _SPOTS = 16, 8
"""Parts and sheets, and spots for a trade, looked at before the most hopeful is tried: a look costs
a hundredth of a try that fails."""
_HARD = 10.0
"""What all overlaps, over the root of a part's area, count against what the part is worth."""
_HOPELESS = 0.7
"""That share from which on a squeeze hardly ever succeeds."""
_LARGER = 1.5
"""How much more, at most, an overlap with a larger part counts in it; with a smaller one, which
steps aside more easily, it counts less."""


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


@dataclass(frozen=True, slots=True)
class Pace:
    """How boldly a sheet is shortened, and how long one try may take.

    Attributes
    ----------
    first, most, least : float
        Shares of its length: of the first try, and at most and at least of later ones.
    less : float
        How much less is tried after a failure.
    patience, longest : int
        Rounds without less overlap after which a try is given up: the first, whose patience grows
        with each failure, and any.
    many : int, optional
        Parts times rounds of a first try at most, since a round of more parts takes longer.
    """

    first: float
    most: float
    less: float
    patience: int
    longest: int
    least: float = 0.0004
    many: int | None = None

    def rounds(self, parts: int, failures: int) -> int:
        """Return how long a try with so many parts may go on after so many failures."""
        patience = self.patience
        if self.many is not None:
            patience = min(patience, max(HASTY.patience, self.many // max(1, parts)))
        return min(self.longest, patience * (1 + failures))


HASTY = Pace(first=0.02, most=0.05, less=0.75, patience=60, longest=400)
"""Beside other moves, each of which may gain."""
PATIENT = Pace(first=0.04, most=0.02, less=0.5, patience=600, longest=8000, many=36_000)
"""Where nothing else is left to do: a far aim kept for long ends shorter than many near ones."""


@dataclass
class Hand:
    """One searcher's random numbers, and by how much of its length it shortens a sheet."""

    seed: int
    share: float = 0.03

    def __post_init__(self) -> None:
        """Seed both kinds of random numbers."""
        self.draw = np.random.default_rng(self.seed)
        self.state = random_state(self.seed)


class _Spread:
    """Loads one right of the other, so that their parts may change over between sheets."""

    def __init__(self, bench: Bench, loads: Sequence[Load]) -> None:
        self._bench, self._loads = bench, tuple(loads)
        blocks = [bench.obstacle(x.sheet) for x in loads]
        ends = [bench.sheets[x.sheet].width for x in loads]
        ends += [float(bench.table.hull[b, 2]) for b in blocks if b is not None]
        self._off = np.array([[2 * max(ends) * s, 0.0] for s in range(len(loads))])
        way = np.concatenate([x.way for x in loads])
        at = np.vstack([x.at + off for x, off in zip(loads, self._off, strict=True)])
        fixed = np.concatenate([x.fixed for x in loads])
        self._count = len(way)
        # What lies outside of remnants comes last.
        for block, off in zip(blocks, self._off, strict=True):
            if block is not None:
                way, at = np.append(way, block), np.vstack([at, off])
                fixed = np.append(fixed, np.True_)
        self.lying = lying_of(bench.table, way, at, fixed)

    def rooms(self, last: int, length: float) -> Floats:
        """Return where parts may reach, on one sheet only up to a length, mm."""
        return np.array(
            [
                self._bench.room(x.sheet, length if s == last else None) + np.tile(off, 2)
                for s, (x, off) in enumerate(zip(self._loads, self._off, strict=True))
            ]
        )

    def push_in(self, rooms: Floats, hand: Hand) -> bool:
        """Move every copy into the room it is in, or to where it overlaps least.

        The first is for half of the tries, the second for the others, and for copies that are too
        large for the room they are in.

        Returns
        -------
        bool
            Whether all copies have a room; overlaps are measured then.
        """
        lying = self.lying
        reach = self._bench.table.reach[lying.way]
        size = self._bench.area[self._bench.table.kind[lying.way]]
        mine = rooms[self._home()]
        low, high = mine[:, :2] - reach[:, :2], mine[:, 2:] - reach[:, 2:]
        large = np.any(high < low - 1e-9, axis=1) & ~lying.fixed
        if len(rooms) == 1 and large.any():
            return False
        pushed = np.minimum(np.maximum(lying.at, low), high)
        lifted = large
        if hand.draw.random() < _LIFTING:
            lifted = large | ((np.abs(pushed - lying.at).max(axis=1) > _HAIR) & ~lying.fixed)
        lying.at[:] = np.where(lying.fixed[:, None], lying.at, pushed)
        measure_depths(self._bench.table, lying)
        return all(
            squeeze_in(self._bench.table, rooms, lying, i, 6 * _EFFORT, hand.state)
            for i in np.flatnonzero(lifted)[np.argsort(-size[lifted], kind="stable")]
        )

    def swap(self, hand: Hand) -> None:
        """Let two of the larger parts change places."""
        lying, table = self.lying, self._bench.table
        loose = np.flatnonzero(~lying.fixed)
        if len(loose) < 2:
            return
        size = self._bench.area[table.kind[lying.way[loose]]]
        by_size = loose[np.argsort(-size, kind="stable")]
        i, j = hand.draw.choice(by_size[: max(2, len(by_size) // 2)], 2, replace=False)
        hull = table.hull[lying.way]
        middle = (hull[:, :2] + hull[:, 2:]) / 2
        to_j, to_i = lying.at[j] + middle[j] - middle[i], lying.at[i] + middle[i] - middle[j]
        lying.at[i], lying.at[j] = to_j, to_i

    def _home(self) -> np.ndarray:
        """Return on which of the loads each row lies."""
        reach = self._bench.table.reach[self.lying.way]
        middle = self.lying.at[:, 0] + (reach[:, 0] + reach[:, 2]) / 2
        return np.searchsorted(self._off[1:, 0], middle, side="right")

    def loads(self) -> list[Load]:
        """Return what lies on each sheet now."""
        home, lying = self._home()[: self._count], self.lying
        rows = [np.flatnonzero(home == s) for s in range(len(self._loads))]
        return [
            Load(x.sheet, lying.way[r], lying.at[r] - off, lying.fixed[r])
            for x, off, r in zip(self._loads, self._off, rows, strict=True)
        ]


def _apart(
    bench: Bench, rooms: Floats, lying: Lying, patience: int, hand: Hand, bout: Bout
) -> bool:
    """Take the overlaps out; whether it could be done, within the bout's time."""
    memory = np.array([np.inf, 0.0])
    portion = max(3, 3_000 // len(lying.way))
    for _ in range(0, _ROUNDS, portion):
        left = separate(bench.table, rooms, lying, portion, patience, _EFFORT, hand.state, memory)
        if left == 0.0:
            return True
        if memory[1] > patience or bout.is_over():
            return False
    return False


def tighten(
    bench: Bench, loads: Sequence[Load], last: int, hand: Hand, bout: Bout, pace: Pace = HASTY
) -> list[Load]:
    """Return loads of which one reaches less far right; parts may change over between them.

    The sheet is shortened, what sticks out is pushed back in, and the overlaps are taken out. On
    success it is shortened again; else the next try begins from the failed layout with two parts
    swapped, or from the best again, and takes longer.
    """
    best = start = list(loads)
    length = bench.used_length(best[last])
    floor = _shortest(bench, best, last)
    share, failures = hand.share, 0
    parts = sum(len(x) for x in loads)
    while length - floor > _LONGER and bout.goes_on():
        spread = _Spread(bench, start)
        if failures > 1 and failures % 5:
            spread.swap(hand)
        rooms = spread.rooms(last, max(floor, length * (1 - share)))
        if not spread.push_in(rooms, hand):
            share *= 0.5
            if share < 1e-5:
                break
            continue
        if _apart(bench, rooms, spread.lying, pace.rounds(parts, failures), hand, bout):
            best = start = spread.loads()
            if not len(best[last]):
                break
            length = bench.used_length(best[last])
            share, failures = min(pace.most, share * 1.1), 0
        else:
            share = max(pace.least, share * pace.less)
            failures += 1
            # It nearly came apart, so it may at a little more length.
            start = best if failures % 5 == 0 else spread.loads()
    hand.share = share
    return best


def is_shortest(bench: Bench, load: Load) -> bool:
    """Whether no layout of a load can be shorter."""
    return bench.used_length(load) - _shortest(bench, [load], 0) <= _LONGER


def _shortest(bench: Bench, loads: Sequence[Load], last: int) -> float:
    """Return a length no layout can be shorter than: the area's, and the widest part's."""
    load, table = loads[last], bench.table
    fixed = table.reach[load.way[load.fixed], 2] + load.at[load.fixed, 0]
    loose = set(bench.kinds(load)[~load.fixed].tolist()) if len(loads) == 1 else set()
    widths = [
        min(table.reach[w, 2] - table.reach[w, 0] for w in range(table.first[k], table.last[k]))
        for k in loose
    ]
    sheet = bench.sheets[load.sheet]
    net = sum(float(bench.net[bench.kinds(x)].sum()) for x in loads)
    elsewhere = sum(bench.sheets[x.sheet].area for i, x in enumerate(loads) if i != last)
    return max(
        (net - elsewhere) / sheet.height,
        max(widths, default=0.0) + 2 * bench.margin,
        float(fixed.max(initial=0.0)) + bench.margin,
    )


def pull(
    bench: Bench,
    loads: Sequence[Load],
    rooms: Sequence[Floats],
    pool: Sequence[int],
    hand: Hand,
    bout: Bout,
    *,
    large_first: bool = True,
) -> tuple[list[Load], list[int]]:
    """Squeeze parts of a pool into loads.

    Parameters
    ----------
    bench : Bench
        Where the shapes are.
    loads : sequence of Load
        The sheets to squeeze into.
    rooms : sequence of (4,) array
        Where parts may reach on each, mm.
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
    space = [_space(bench, load, room) for load, room in zip(loads, rooms, strict=True)]
    tired: dict[tuple[int, int], int] = {}
    while pool and loads and bout.goes_on():
        picks = _likely(bench, space, pool, tired, hand, large_first=large_first)
        if not picks:
            break
        looks = [_laid_in(bench, loads[s], rooms[s], k, hand) for s, k in picks]
        hopes = [
            _value(bench, k, large_first=large_first) - look.tight * _HARD - tired.get((s, k), 0)
            for (s, k), look in zip(picks, looks, strict=True)
        ]
        at = int(np.argmax(hopes))
        (s, k), look = picks[at], looks[at]
        worn = tired.get((s, k), 0)
        out: list[int] = []
        if large_first and worn and hand.draw.random() < _TRADING:
            grown, out = _traded(bench, loads[s], rooms[s], k, hand, bout)
        else:
            grown = _freed(bench, look, hand, bout, 60 + 40 * worn)
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
    offers = []
    for _ in range(_SPOTS):
        spot = room[:2] + hand.draw.random(2) * (room[2:] - room[:2])
        near = small[np.argsort(np.hypot(*(middle[small] - spot).T), kind="stable")]
        wanted = size * hand.draw.uniform(0.5, 1.3)
        off = near[: int(np.searchsorted(np.cumsum(bench.area[kinds[near]]), wanted)) + 1]
        offers.append((_laid_in(bench, load.without(off), room, kind, hand), off))
    look, off = min(offers, key=lambda offer: offer[0].tight)
    grown = _freed(bench, look, hand, bout, 80)
    if grown is None:
        return None, []
    out: list[int] = []
    lost = worth = 0.0
    for k in sorted((int(kinds[i]) for i in off), key=lambda k: -bench.area[k]):
        back = _freed(bench, _laid_in(bench, grown, room, k, hand), hand, bout, 30)
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
    """Return how much of a room's metal is not part, mm²."""
    sheet = bench.sheets[load.sheet]
    whole = sheet.area * (room[2] - room[0] + 2 * bench.margin) / sheet.width
    hull = bench.table.hull[load.way]
    middle = load.at[:, 0] + (hull[:, 0] + hull[:, 2]) / 2
    within = (middle > room[0]) & (middle < room[2])
    return float(whole - bench.net[bench.kinds(load)[within]].sum())


def _value(bench: Bench, kind: int, *, large_first: bool) -> float:
    """Return what it is worth to bring a part in: more for large ones, or for small ones."""
    return float(np.log(bench.area[kind])) * (0.6 if large_first else -1.0)


def _likely(
    bench: Bench,
    space: Sequence[float],
    pool: Sequence[int],
    tired: dict[tuple[int, int], int],
    hand: Hand,
    *,
    large_first: bool,
) -> list[tuple[int, int]]:
    """Return sheets and shapes to look at next: valuable parts first, what failed least first."""
    kinds = sorted(set(pool))
    pairs = [(s, k) for s in range(len(space)) for k in kinds if bench.net[k] < 0.97 * space[s]]
    value = np.array([_value(bench, k, large_first=large_first) for _, k in pairs])
    worn = np.array([tired.get(pair, 0) for pair in pairs], dtype=float)
    room = np.array([space[s] for s, _ in pairs])
    hope = value + np.log(room) - 1.5 * worn + hand.draw.gumbel(0.0, 1.0, len(pairs))
    return [pairs[i] for i in np.argsort(-hope, kind="stable")[:_LOOKS]]


@dataclass(frozen=True)
class _Look:
    """A part laid in a load, its last row, where it overlaps least: how tight it is there."""

    spread: _Spread
    row: int
    tight: float


def _laid_in(bench: Bench, load: Load, room: Floats, kind: int, hand: Hand) -> _Look:
    """Return a load with one more copy of a shape where it overlaps the others least."""
    more = Load(
        load.sheet,
        np.append(load.way, bench.table.first[kind]),
        np.vstack([load.at, room[None, :2]]),
        np.append(load.fixed, np.False_),
    )
    spread = _Spread(bench, [more])
    fits = squeeze_in(bench.table, room[None], spread.lying, len(load), 6 * _EFFORT, hand.state)
    if not fits:
        return _Look(spread, len(load), np.inf)
    size, depth = spread.lying.size, spread.lying.depth[len(load)]
    hard = float((depth * np.minimum(_LARGER, size / size[len(load)])).sum())
    return _Look(spread, len(load), hard / float(np.sqrt(bench.area[kind])))


def _freed(bench: Bench, look: _Look, hand: Hand, bout: Bout, patience: int) -> Load | None:
    """Return a load with the overlaps about its last part taken out, or None when they stay."""
    if look.tight > _HOPELESS:
        return None
    lying = look.spread.lying
    rows, view, near = _around(bench, lying, look.row)
    if not _apart(bench, near[None], view, patience, hand, bout):
        return None
    lying.way[rows], lying.at[rows] = view.way, view.at
    return look.spread.loads()[0]


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
    view = lying_of(bench.table, lying.way[rows], lying.at[rows], fixed[rows])
    view.depth[:] = lying.depth[np.ix_(rows, rows)]
    return rows, view, np.concatenate([reach[:, :2].min(axis=0), reach[:, 2:].max(axis=0)])
