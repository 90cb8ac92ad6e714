"""Blanks and folded parts for the tests of drawings."""

import json
import math
from functools import cache

import numpy as np

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.drawn import drawn_blank
from kaigata.core.blank.mesh import fold_mesh
from kaigata.core.intake import read_parts
from kaigata.core.metal.charts import constant_chart
from kaigata.core.plane import Contour, Motion, Region
from tests.checks import PARTS

DEMO = ("base-foot", "cable-guard", "door-panel", "hanger-arm", "hose-clip", "post-channel",
        "pump-bracket", "roof-cap", "sign-plate", "tool-tray")  # fmt: skip
K = 0.44


@cache
def demo(name):
    """Return the blank and the mesh of a part of the demo order."""
    (read,) = read_parts(PARTS / f"{name}.step").parts
    takes = chart_takes(read.part, constant_chart(K, read.part.thickness))
    return unfold(read.part, takes=takes), fold_mesh(read.part, takes=takes)


def truth(name):
    """Return the truth of a part's flat."""
    (part,) = json.loads((PARTS / f"{name}.truth.json").read_text())["parts"]
    return part["flats"][str(K)]


def plate(width=200.0, height=100.0, *, bends=(), holes=()):
    """A rectangle with standing bend lines, each its x and whether it goes up, and round holes."""
    region = Region.oriented(
        Contour.rectangle(width, height), tuple(Contour.circle((x, y), r) for x, y, r in holes)
    )
    lines = [([((x, 0.0), (x, height))], up) for x, up in bends]
    return drawn_blank("Plate", region, lines, thickness=2.0, k=K)


def stood(blank):
    """Return a blank turned by a quarter: the drawn ones all lie with a longest edge along x."""
    return blank.moved(Motion.turned(math.pi / 2, x=blank.height))


def length(lines):
    """Return the sum of lengths of lines."""
    return math.fsum(math.dist(a, b) for a, b in lines)


def windows_union_covers(windows, width, height, step=7.0):
    """Whether boxes cover every point of a grid over a rectangle."""
    x, y = np.meshgrid(np.arange(0, width, step), np.arange(0, height, step))
    covered = np.zeros(x.shape, dtype=bool)
    for x0, y0, x1, y1 in windows:
        covered |= (x >= x0) & (x <= x1) & (y >= y0) & (y <= y1)
    return bool(covered.all())
