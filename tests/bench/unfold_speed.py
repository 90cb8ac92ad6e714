"""How long unfolding takes once the kernel has read the solid: printed, never asserted.

PYTHONPATH=src:. python tests/bench/unfold_speed.py
"""

import math
import statistics
import sys
import time

from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeWire,
)
from OCP.BRepPrimAPI import BRepPrimAPI_MakePrism
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Pnt, gp_Vec
from tests.checks import PARTS

from kaigata.core.blank import unfold
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.intake.step import read_step

ROUNDS = 7


def corrugated(bends, thickness=1.5, inside=2.0, web=40.0, wide=200.0):
    """A sheet bent up and down in turn by 60 degrees, ``bends`` times."""
    x = y = heading = 0.0
    left, right = [], []

    def side(offset):
        return gp_Pnt(x - offset * math.sin(heading), y + offset * math.cos(heading), 0)

    def run(ends_left, ends_right):
        left.append(ends_left)
        right.append(ends_right)

    for i in range(bends + 1):
        a, b = side(0), side(-thickness)
        x, y = x + web * math.cos(heading), y + web * math.sin(heading)
        run((a, side(0)), (b, side(-thickness)))
        if i == bends:
            break
        turn = math.radians(60) * (1 if i % 2 == 0 else -1)
        radius = inside if turn > 0 else -(inside + thickness)
        cx, cy = x - radius * math.sin(heading), y + radius * math.cos(heading)
        points = []
        for share in (0.0, 0.5, 1.0):
            h = heading + turn * share
            for offset in (0.0, -thickness):
                r = radius - offset
                points.append(gp_Pnt(cx + r * math.sin(h), cy - r * math.cos(h), 0))
        heading += turn
        x, y = cx + radius * math.sin(heading), cy - radius * math.cos(heading)
        run(tuple(points[0::2]), tuple(points[1::2]))
    wire = BRepBuilderAPI_MakeWire()
    for piece in left:
        wire.Add(edge(piece))
    wire.Add(edge((left[-1][-1], right[-1][-1])))
    for piece in reversed(right):
        wire.Add(edge(piece[::-1]))
    wire.Add(edge((right[0][0], left[0][0])))
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, wide)).Shape()


def edge(points):
    if len(points) == 2:
        return BRepBuilderAPI_MakeEdge(*points).Edge()
    return BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(*points).Value()).Edge()


def timed(name, shape):
    took = []
    for _ in range(ROUNDS):
        began = time.perf_counter()
        blank = unfold(folded_part(Solid(shape), name), k=0.44)
        took.append((time.perf_counter() - began) * 1000)
    line = f"{name:16} {len(blank.bends):3} bends  median {statistics.median(took):6.1f} ms"
    sys.stdout.write(line + f"  least {min(took):6.1f} ms\n")


if __name__ == "__main__":
    for bends in (12, 40):
        timed(f"corrugated-{bends}", corrugated(bends))
    for path in sorted(PARTS.glob("*.step")):
        for product in read_step(path):
            timed(product.name, product.shape)
