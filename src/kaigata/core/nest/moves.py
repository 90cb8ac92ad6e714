"""Moves that better a whole layout, which lies on one sheet or on several."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace
from itertools import islice

import numpy as np

from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.improve import Bout, Hand, pull, tighten
from kaigata.core.nest.leftovers import taken_off
from kaigata.core.nest.plans import MANY, first_plan, plans, unused_sheets
from kaigata.core.nest.score import better_of, last_of

__all__ = ["pulled", "refilled", "tightened", "without_small"]

_PULLING = 0.7
"""Share of a bout for pulling; in the rest the last sheet is tightened."""


def without_small(bench: Bench, layout: Layout, stay: float) -> Layout:
    """Return a layout without its smallest parts, of which a share of the area stays.

    What metal is needed is decided by the large parts. The small ones find room in gaps and holes
    again, and without them in the way the large ones move more freely and more cheaply.
    """
    if stay >= 1.0:
        return layout
    kinds = np.concatenate([bench.kinds(x) for x in layout.loads])
    by_size = np.argsort(-bench.area[kinds], kind="stable")
    upto = np.searchsorted(np.cumsum(bench.area[kinds][by_size]), stay * bench.area[kinds].sum())
    least = bench.area[kinds[by_size[min(upto, len(kinds) - 1)]]]
    loads = [
        x.without(np.flatnonzero((bench.area[bench.kinds(x)] < least) & ~x.fixed))
        for x in layout.loads
    ]
    return replace(layout, loads=tuple(x for x in loads if len(x)))


def refilled(bench: Bench, layout: Layout) -> Layout:
    """Return a layout with all copies laid that lie on no sheet, as far as there is room."""
    lying = Counter(int(k) for x in layout.loads for k in bench.kinds(x))
    wanted = bench.wanted() - lying
    if not wanted:
        return layout
    last = last_of(bench, layout)
    lengths = [
        bench.used_length(x) if i == last else bench.sheets[x.sheet].width
        for i, x in enumerate(layout.loads)
    ]
    sequence = first_plan(bench).sequence
    within = bench.fill(layout.loads, wanted, sequence=sequence, lengths=lengths)
    if not within.left_out:
        return within
    fresh = unused_sheets(bench, within.loads)
    return bench.fill(within.loads, within.left_out, sequence=sequence, fresh=fresh)


def tightened(bench: Bench, layout: Layout, hand: Hand, bout: Bout) -> Layout:
    """Return a layout with a shorter last sheet; its parts may change over with another sheet's."""
    last = last_of(bench, layout)
    others = [i for i in range(len(layout.loads)) if i != last]
    rows = [last, *hand.draw.permutation(others)[:1]]
    loads = list(layout.loads)
    for i, load in zip(rows, tighten(bench, [loads[i] for i in rows], 0, hand, bout), strict=True):
        loads[i] = load
    return replace(layout, loads=tuple(x for x in loads if len(x)))


def pulled(bench: Bench, layout: Layout, hand: Hand, bout: Bout) -> Layout:
    """Return a layout with copies that lie nowhere, or the last sheet's, squeezed in elsewhere.

    What is left of the last sheet is laid anew if that is better, and tightened.
    """
    out = [k for k in layout.left_out.elements() if bench.fits_at_all(k)]
    last = last_of(bench, layout)
    loads = list(layout.loads)
    if out:
        into, pool = list(range(len(loads))), out
    else:
        into = [i for i in range(len(loads)) if i != last]
        pool = bench.kinds(loads[last])[~loads[last].fixed].tolist()
    first = bout if out else bout.part(_PULLING)
    fuller, left = pull(bench, [loads[i] for i in into], pool, hand, first, large_first=not out)
    if first is not bout:
        bout.made += first.made
    for i, load in zip(into, fuller, strict=True):
        loads[i] = load
    gone, came = Counter(pool) - Counter(left), Counter(left) - Counter(pool)
    if out:
        return Layout(tuple(loads), layout.left_out - gone + came)
    if gone:
        rest = taken_off(bench, loads[last], gone)
        others = tuple(x for i, x in enumerate(loads) if i != last)
        layout = _laid_anew(bench, Layout(others, layout.left_out), rest, came)
    last = last_of(bench, layout)
    loads = list(layout.loads)
    loads[last] = tighten(bench, [loads[last]], 0, hand, bout)[0]
    return replace(layout, loads=tuple(loads))


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
    wanted = Counter(int(k) for x in first.loads[len(kept) :] for k in bench.kinds(x))
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
