"""Moves that better a whole layout, which lies on one sheet or on several."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import replace
from itertools import islice

import numpy as np

from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.improve import HASTY, Bout, Hand, Pace, pull, tighten
from kaigata.core.nest.leftovers import taken_off
from kaigata.core.nest.plans import MANY, first_plan, plans, unused_sheets
from kaigata.core.nest.portions import Brought, Portion
from kaigata.core.nest.score import better_of, last_of

__all__ = [
    "any_left_out",
    "brought_in",
    "moved_rows",
    "refilled",
    "tightened",
    "united",
    "without_small",
]


def without_small(bench: Bench, loads: Sequence[Load], stay: float) -> list[Load]:
    """Return loads without their smallest parts, of which a share of the area stays."""
    if stay >= 1.0:
        return list(loads)
    kinds = np.concatenate([bench.kinds(x) for x in loads])
    by_size = np.argsort(-bench.area[kinds], kind="stable")
    upto = np.searchsorted(np.cumsum(bench.area[kinds][by_size]), stay * bench.area[kinds].sum())
    least = bench.area[kinds[by_size[min(upto, len(kinds) - 1)]]]
    return [
        x.without(np.flatnonzero((bench.area[bench.kinds(x)] < least) & ~x.fixed)) for x in loads
    ]


def refilled(bench: Bench, layout: Layout) -> Layout:
    """Return a layout with all copies laid that lie on no sheet, as far as there is room."""
    wanted = layout.left_out
    if not wanted:
        return layout
    sequence = first_plan(bench).sequence
    rooms = bench.rooms(layout.loads, last_of(bench, layout))
    within = bench.fill(layout.loads, wanted, sequence=sequence, rooms=rooms)
    if not within.left_out:
        return within
    fresh = unused_sheets(bench, within.loads)
    return bench.fill(within.loads, within.left_out, sequence=sequence, fresh=fresh)


def tightened(
    bench: Bench, layout: Layout, beside: int, hand: Hand, bout: Bout, pace: Pace = HASTY
) -> Layout:
    """Return a layout with a shorter last sheet, and with what it lacked where there is room now.

    Its parts may change over with those of as many other sheets as ``beside`` says.
    """
    last = last_of(bench, layout)
    others = [i for i in range(len(layout.loads)) if i != last]
    rows = [last, *hand.draw.permutation(others)[:beside]]
    loads = list(layout.loads)
    shorter = tighten(bench, [loads[i] for i in rows], 0, hand, bout, pace)
    for i, load in zip(rows, shorter, strict=True):
        loads[i] = load
    return refilled(bench, replace(layout, loads=tuple(x for x in loads if len(x))))


def brought_in(
    bench: Bench, layout: Layout, portion: Portion, stay: float, hand: Hand, bout: Bout
) -> Brought:
    """Squeeze a portion's copies into its stretches; all else of the layout stays as it is.

    Meanwhile a share of the area ``stay`` lies there. What metal is needed is decided by the large
    parts; the small ones find room in gaps and holes again, and without them in the way the large
    ones move more freely and more cheaply.
    """
    loads = [
        replace(layout.loads[s.load], fixed=~s.inside(bench, layout)) for s in portion.stretches
    ]
    rooms = [s.room(bench, layout) for s in portion.stretches]
    bare = without_small(bench, loads, stay)
    aside = _copies(bench, loads) - _copies(bench, bare)
    fuller, left = pull(
        bench, bare, rooms, portion.pool, hand, bout, large_first=not any_left_out(bench, layout)
    )
    wanted = aside + Counter(left)
    full = bench.fill(fuller, wanted, sequence=first_plan(bench).sequence, rooms=rooms)
    loose = tuple(x.without(np.flatnonzero(x.fixed)) for x in full.loads)
    return Brought(loose, tuple(full.left_out.elements()))


def united(bench: Bench, layout: Layout, done: Sequence[tuple[Portion, Brought]]) -> Layout:
    """Return a layout with what was brought into some of its portions.

    What is left of the last sheet is laid anew if that is better.
    """
    loads = list(layout.loads)
    moved = [np.zeros(len(x), dtype=bool) for x in loads]
    for portion, _ in done:
        for stretch in portion.stretches:
            moved[stretch.load] |= stretch.inside(bench, layout)
    loads = [x.without(np.flatnonzero(rows)) for x, rows in zip(loads, moved, strict=True)]
    for portion, brought in done:
        for stretch, load in zip(portion.stretches, brought.loads, strict=True):
            loads[stretch.load] = loads[stretch.load].joined(load)
    pool = Counter(k for portion, _ in done for k in portion.pool)
    left = Counter(k for _, brought in done for k in brought.left)
    gone, came = pool - left, left - pool
    if any_left_out(bench, layout):
        full = tuple(x for x in loads if len(x))
        return Layout(full, layout.left_out - gone + came)
    last = last_of(bench, layout)
    others = tuple(x for i, x in enumerate(loads) if i != last and len(x))
    rest = taken_off(bench, loads[last], gone)
    return _laid_anew(bench, Layout(others, layout.left_out), rest, came)


def any_left_out(bench: Bench, layout: Layout) -> bool:
    """Whether a layout lacks copies that would fit a sheet."""
    return any(bench.fits_at_all(k) for k in layout.left_out)


def moved_rows(before: Layout, after: Layout) -> Iterator[tuple[Load, list[int]]]:
    """Yield each changed load of a layout and which of its rows did not lie so on its sheet."""
    lay = [(x.sheet, set(_rows(x))) for x in before.loads]
    for load in after.loads:
        rows = _rows(load)
        known = max((its for sheet, its in lay if sheet == load.sheet),
                    key=lambda its: sum(r in its for r in rows), default=set())  # fmt: skip
        moved = [i for i, r in enumerate(rows) if r not in known]
        if moved:
            yield load, moved


def _rows(load: Load) -> list[tuple[int, float, float]]:
    places = zip(load.way.tolist(), load.at.tolist(), strict=True)
    return [(way, x, y) for way, (x, y) in places]


def _copies(bench: Bench, loads: Sequence[Load]) -> Counter[int]:
    return Counter(int(k) for x in loads for k in bench.kinds(x))


def _laid_anew(bench: Bench, others: Layout, rest: Load, came: Counter[int]) -> Layout:
    """Return the better of the last sheet's copies as they lie and laid from nothing.

    ``came`` are copies that came off other sheets; they go wherever there is room.
    """
    loads = (*others.loads, rest) if len(rest) else others.loads
    fresh = unused_sheets(bench, loads)
    first = bench.fill(loads, came, sequence=first_plan(bench).sequence, fresh=fresh)
    best = replace(first, left_out=first.left_out + others.left_out)
    if rest.fixed.any():
        return best
    kept = first.loads[: len(others.loads)]
    wanted = _copies(bench, first.loads[len(kept) :])
    if not wanted:
        return best
    used = Counter(x.sheet for x in kept)
    tried = set()
    for plan in islice(plans(bench), None if wanted.total() < MANY else 3):
        sheet = next((s for s in dict.fromkeys(plan.fresh)
                      if plan.fresh.count(s) > used[s] and (s, plan.sequence, plan.lean)
                      not in tried), None)  # fmt: skip
        if sheet is None:
            continue
        tried.add((sheet, plan.sequence, plan.lean))
        laid = bench.fill((), wanted, sequence=plan.sequence, fresh=(sheet,), lean=plan.lean)
        if not laid.left_out:
            again = Layout((*kept, *laid.loads), best.left_out)
            best = better_of(bench, best, again)
    return best
