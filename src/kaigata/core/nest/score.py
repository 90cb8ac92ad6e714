"""What a layout is charged for, and which of two is the better."""

from __future__ import annotations

import math
from collections.abc import Sequence

from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.figures import area_up_to, metal_rates

__all__ = ["better_of", "charge_of", "last_of", "score"]


def charge_of(bench: Bench, loads: Sequence[Load]) -> float:
    """Return what the metal of loads costs, the last sheet up to its used length only."""
    rate = metal_rates(list(bench.sheets.values()))
    whole = [bench.sheets[x.sheet].area * rate[x.sheet] for x in loads]
    return math.fsum(whole) - max((_saved_by(bench, x, rate) for x in loads), default=0.0)


def _saved_by(bench: Bench, load: Load, rate: dict[str, float]) -> float:
    """Return what counting a sheet only up to its used length saves."""
    sheet = bench.sheets[load.sheet]
    return (sheet.area - area_up_to(sheet, bench.used_length(load))) * rate[load.sheet]


def score(bench: Bench, layout: Layout) -> tuple[float, ...]:
    """Return what makes a layout better when less.

    Copies left out by priority, then metal, then what lies on the last sheet: the less there is,
    the sooner it shortens.
    """
    priorities = sorted(set(bench.priority[bench.first :].tolist()), reverse=True)
    left = [
        float(sum(n for k, n in layout.left_out.items() if bench.priority[k] == p))
        for p in priorities
    ]
    last = last_of(bench, layout)
    # Squares, because it is the large parts that are hard to bring elsewhere.
    on_last = (bench.area[bench.kinds(layout.loads[last])] ** 2).sum() if layout.loads else 0.0
    return (*left, round(charge_of(bench, layout.loads), 3), round(float(on_last), 3))


def last_of(bench: Bench, layout: Layout) -> int:
    """Return which load is the last sheet: the one whose used length saves most, else the least."""
    rate = metal_rates(list(bench.sheets.values()))
    saved = [
        (_saved_by(bench, x, rate), -float(bench.net[bench.kinds(x)].sum())) for x in layout.loads
    ]
    return max(range(len(saved)), key=lambda i: saved[i], default=0)


def better_of(bench: Bench, one: Layout, other: Layout) -> Layout:
    """Return the better of two layouts, the first when they are as good."""
    return other if score(bench, other) < score(bench, one) else one
