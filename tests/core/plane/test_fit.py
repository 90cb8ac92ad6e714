import math

import pytest

from kaigata.core.plane.fit import fit_segments
from kaigata.core.plane.meet import distance_to
from kaigata.core.plane.tolerance import FIT


def test_points_of_a_line_and_an_arc_become_one_line_and_one_arc():
    line = [(x / 10, 0.0) for x in range(101)]
    arc = [(10 + 5 * math.sin(a / 50), 5 - 5 * math.cos(a / 50)) for a in range(1, 79)]

    pieces = fit_segments([*line, *arc])

    assert len(pieces) <= 4
    off = [min(distance_to(p, q) for p in pieces) for q in [*line, *arc]]
    assert max(off) <= FIT
    assert sum(p.length for p in pieces) == pytest.approx(10 + 5 * 78 / 50, abs=1e-3)


def test_an_ellipse_is_followed_within_the_tolerance():
    points = [(40 * math.cos(t / 300), 15 * math.sin(t / 300)) for t in range(943)]

    pieces = fit_segments(points)

    assert len(pieces) < 60
    # The middle of each arc must lie near some ellipse point.
    off = [min(math.dist(p.at(0.5), q) for q in points) for p in pieces]
    assert max(off) < 0.1
