"""What a layout leaves: room for fillers, copies without a place and why."""

from __future__ import annotations

from collections import Counter
from dataclasses import replace

import numpy as np

from kaigata.core.findings import counted
from kaigata.core.nest.bench import Bench, Layout, Load
from kaigata.core.nest.score import last_of

__all__ = ["reason_left_out", "taken_off", "with_fillers"]


def taken_off(bench: Bench, load: Load, gone: Counter[int]) -> Load:
    """Return a load without as many copies of each shape, those furthest right first."""
    reach = load.at[:, 0] + bench.table.reach[load.way, 2]
    kinds, left, rows = bench.kinds(load), Counter(gone), []
    for i in np.argsort(-reach, kind="stable"):
        k = int(kinds[i])
        if left[k] > 0 and not load.fixed[i]:
            left[k] -= 1
            rows.append(int(i))
    return load.without(rows)


def with_fillers(bench: Bench, layout: Layout) -> Layout:
    """Return a layout with fillers in what room is left on the metal it uses."""
    fillers = bench.fillers()
    if not fillers:
        return layout
    lying = Counter(int(k) for x in layout.loads for k in bench.kinds(x))
    wanted = fillers - Counter({k: lying[k] for k in fillers})
    if not layout.loads:
        return replace(layout, left_out=layout.left_out + wanted)
    rooms = bench.rooms(layout.loads, last_of(bench, layout))
    sequence = sorted(fillers, key=lambda k: (-bench.priority[k], -bench.area[k], k))
    full = bench.fill(layout.loads, wanted, sequence=sequence, rooms=rooms)
    return Layout(full.loads, layout.left_out + full.left_out)


def reason_left_out(bench: Bench, kind: int, gauge: str, *, fits: bool) -> str:
    """Return why copies of a part lie on no sheet of their gauge."""
    if not bench.sheets:
        return f"no sheet of {gauge} in the order"
    if bench.parts[kind - bench.first].filler:
        return "a filler: no room left beside the other parts"
    if not fits:
        return f"larger than every sheet of {gauge}"
    if any(s.count is None for s in bench.sheets.values()):
        return f"larger than every sheet of {gauge}"
    have = sum(s.count or 0 for s in bench.sheets.values())
    of = f"of {gauge}"
    return f"the {counted(have, f'sheet {of} is', f'sheets {of} are')} used up"
