"""Drawings: the same drawing is the same file, whoever writes it and whenever."""

import os
import subprocess
import sys

from tests.checks import TESTS

PROGRAM = """
from kaigata.core.formats.dxf import DxfPlan
from kaigata.core.plane import Contour, Region
plan = DxfPlan()
plan.region(Region(Contour.rectangle(80, 50), (Contour.circle((20, 20), 5).reversed(),)))
plan.line((40, 0), (40, 50), "BEND_UP")
plan.note("1 up 90", (42, 5), size=3)
print(plan.text())
"""


def written(seed):
    path = str(TESTS.parent / "src")
    environment = {**os.environ, "PYTHONPATH": path, "PYTHONHASHSEED": str(seed)}
    done = subprocess.run(
        [sys.executable, "-c", PROGRAM], env=environment, capture_output=True, text=True, check=True
    )
    return done.stdout


def test_the_same_drawing_is_the_same_file():
    first, second = written(1), written(2)

    assert "LWPOLYLINE" in first
    assert "BEND_UP" in first
    assert first == second
