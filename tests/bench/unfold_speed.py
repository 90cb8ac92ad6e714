"""How long unfolding takes once the kernel has read the solid: printed, never asserted.

PYTHONPATH=src:. python tests/bench/unfold_speed.py
"""

import statistics
import sys
import time

from tests.checks import PARTS
from tests.solids import profile

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.intake.step import read_step
from kaigata.core.metal.charts import constant_chart

ROUNDS = 7


def corrugated(bends):
    """A sheet bent up and down in turn by 60 degrees, ``bends`` times."""
    steps = [40.0]
    for i in range(bends):
        steps += [(60 if i % 2 == 0 else -60, 2.0), 40.0]
    return profile(steps, thickness=1.5, wide=200)


def timed(name, shape):
    took = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        part = folded_part(Solid(shape), name)
        blank = unfold(part, takes=chart_takes(part, constant_chart(0.44, part.thickness)))
        took.append((time.perf_counter() - began) * 1000)
    line = f"{name:16} {len(blank.bends):3} bends  median {statistics.median(took):6.1f} ms"
    sys.stdout.write(line + f"  least {min(took):6.1f} ms\n")


if __name__ == "__main__":
    for bends in (12, 40):
        timed(f"corrugated-{bends}", corrugated(bends))
    for path in sorted(PARTS.glob("*.step")):
        for product in read_step(path):
            timed(product.name, product.shape)
