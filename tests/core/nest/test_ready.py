"""What installation compiles is all that any order needs: nobody waits for a compiler."""

import os
import subprocess
import sys

from tests.checks import TESTS

PROGRAM = """
import math, sys
from numba.core.dispatcher import Dispatcher
import kaigata.core.nest.ready
from kaigata.core.nest import NestOrder, NestPart, StockSheet, search
from kaigata.core.plane import Contour, Region

def compiled():
    modules = [m for n, m in sys.modules.items() if n.startswith("kaigata.core.nest")]
    loops = {v for m in modules for v in vars(m).values() if isinstance(v, Dispatcher)}
    return {(loop.py_func.__qualname__, str(s)) for loop in loops for s in loop.signatures}

QUARTERS = tuple(i * math.pi / 2 for i in range(4))
DISC = Region(Contour.circle((0, 0), 30))
RING = Region(Contour.circle((0, 0), 60), (Contour.circle((0, 0), 40).reversed(),))
WEDGE = Region(Contour.from_rows([[0, 0], [200, 0], [0, 120]]))
SHEET = StockSheet(id="sheet", width=1000, height=500, count=2)
REMNANT = StockSheet(id="remnant", width=300, height=300, count=1,
                     outline=Contour.from_rows([[0, 0], [300, 0], [250, 250], [0, 300]]))
before = compiled()
for sheets, parts in [
    ([SHEET], [(1, DISC, (0.0,))]),
    ([SHEET], [(9, WEDGE, (0.0,))]),
    ([SHEET], [(9, WEDGE, None)]),
    ([SHEET], [(4, RING, (0.0,)), (6, DISC, (0.0,))]),
    ([SHEET], [(90, WEDGE, QUARTERS), (60, DISC, (0.0,))]),
    ([REMNANT], [(1, WEDGE, (0.0,))]),
    ([REMNANT, SHEET], [(1, Region(Contour.rectangle(1400, 20)), (0.0,))]),
]:
    order = NestOrder(
        sheets=tuple(sheets), spacing=4.0, margin=10.0,
        parts=tuple(NestPart(id=str(i), quantity=q, region=r, turns=t)
                    for i, (q, r, t) in enumerate(parts)),
    )
    search(order, steps=12)
print(sorted(compiled() - before))
"""


def test_orders_of_every_kind_use_only_what_is_compiled():
    environment = {**os.environ, "PYTHONPATH": str(TESTS.parent / "src")}
    done = subprocess.run(
        [sys.executable, "-c", PROGRAM], env=environment, capture_output=True, text=True, check=True
    )
    assert done.stdout.splitlines()[-1] == "[]"
