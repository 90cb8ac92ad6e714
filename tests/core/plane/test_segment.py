import math
from itertools import pairwise

import pytest
from hypothesis import given

from kaigata.core.plane import Segment
from tests.strategies import motions, segments


@given(segments())
def test_length_and_area_survive_splitting(segment):
    halves = [segment.part(0, 0.37), segment.part(0.37, 1)]

    assert sum(h.length for h in halves) == pytest.approx(segment.length, rel=1e-9)
    assert sum(h.area for h in halves) == pytest.approx(segment.area, rel=1e-9, abs=1e-5)


@given(segments())
def test_share_of_a_point_on_it_is_its_share(segment):
    assert segment.share_of(segment.at(0.3)) == pytest.approx(0.3, abs=1e-7)


@given(segments())
def test_bounds_hold_every_point_and_touch_one(segment):
    x0, y0, x1, y1 = segment.bounds()
    points = [segment.at(i / 200) for i in range(201)]

    assert min(p[0] for p in points) >= x0 - 1e-9
    assert max(p[1] for p in points) <= y1 + 1e-9
    # 200 steps leave a sagitta of r * (a / 400)^2 / 2 at the most.
    slack = 0.0 if segment.is_line else segment.radius * (segment.sweep / 200) ** 2
    assert min(p[1] for p in points) == pytest.approx(y0, abs=slack + 1e-9)
    assert max(p[0] for p in points) == pytest.approx(x1, abs=slack + 1e-9)


@given(segments())
def test_chords_stay_within_what_is_asked(segment):
    points = [segment.start, *segment.flattened(0.01)]
    middles = [((a[0] + b[0]) / 2, (a[1] + b[1]) / 2) for a, b in pairwise(points)]
    off = [
        0.0 if segment.is_line else segment.radius - math.dist(m, segment.centre) for m in middles
    ]

    assert max(off) <= 0.01 + 1e-9


@given(segments(), motions())
def test_motion_keeps_length(segment, motion):
    sign = -1 if motion.mirrored else 1
    moved = Segment(motion.point(segment.start), motion.point(segment.end), sign * segment.bulge)

    assert moved.length == pytest.approx(segment.length, rel=1e-9)
    x, y = motion.point(segment.at(0.4))
    assert moved.at(0.4) == pytest.approx((x, y), abs=1e-6)
