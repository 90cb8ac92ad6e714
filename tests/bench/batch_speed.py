"""How many parts a second a warm worker reads and unfolds: printed, never asserted.

PYTHONPATH=src:. python tests/bench/batch_speed.py
"""

import itertools
import sys
import time
from concurrent.futures import ThreadPoolExecutor

from tests.checks import PARTS

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.intake import read_parts
from kaigata.core.metal.charts import constant_chart

PARTS_IN_ALL = 100
AT_ONCE = 2


def one(path):
    for read in read_parts(path).parts:
        unfold(read.part, takes=chart_takes(read.part, constant_chart(0.44, read.part.thickness)))


if __name__ == "__main__":
    names = [p for p in sorted(PARTS.glob("*.step")) if p.stem != "stand"]
    one(names[0])
    batch = list(itertools.islice(itertools.cycle(names), PARTS_IN_ALL))
    began = time.perf_counter()
    with ThreadPoolExecutor(AT_ONCE) as pool:
        list(pool.map(one, batch))
    took = time.perf_counter() - began
    sys.stdout.write(f"{PARTS_IN_ALL} parts, {AT_ONCE} at once: {took:.1f} s, ")
    sys.stdout.write(f"{PARTS_IN_ALL / took:.1f} parts a second\n")
