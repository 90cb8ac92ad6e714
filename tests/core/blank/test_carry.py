"""What was pointed at on a blank is found again on the panel it was pointed at on."""

import math
from dataclasses import replace

import numpy as np
import pytest
from shapely import Point

from kaigata.core.blank import FaceUp, chart_takes, unfold
from kaigata.core.blank.carry import carried_points, carried_sequence, motion_between
from kaigata.core.intake import read_parts
from kaigata.core.metal.charts import constant_chart
from kaigata.core.part.matching import Matches
from tests.checks import PARTS

NAMES = ["tool-tray", "hanger-arm", "roof-cap", "door-panel"]
POSES = [
    {"turn": math.pi / 2},
    {"turn": math.pi},
    {"turn": 0.3},
    {"face_up": FaceUp.OTHER},
    {"face_up": FaceUp.OTHER, "turn": -math.pi / 2},
    {"anchor": 2},
    {"anchor": 2, "face_up": FaceUp.OTHER, "turn": 1.0},
]


@pytest.fixture(scope="module", params=NAMES)
def part(request):
    return read_parts(PARTS / f"{request.param}.step").parts[0].part


def flat(part, k=0.44, **pose):
    return unfold(part, takes=chart_takes(part, constant_chart(k, part.thickness)), **pose)


@pytest.fixture
def same(part):
    return Matches.all_of(part)


def corners(blank):
    return [s.start for s in blank.region.outer.segments]


@pytest.mark.parametrize("pose", POSES, ids=str)
def test_however_a_blank_is_laid_each_corner_is_carried_to_a_corner(part, same, pose):
    before, after = flat(part), flat(part, **pose)

    carried = np.array(carried_points(corners(before), before, after, same))

    apart = np.linalg.norm(carried[:, None] - np.array(corners(after)), axis=2)
    assert apart.min(axis=1).max() < 1e-6
    assert sorted(apart.argmin(axis=1)) == list(range(len(carried))), "two became one"


@pytest.mark.parametrize("pose", POSES, ids=str)
def test_a_corner_is_carried_to_itself_and_to_no_other_that_looks_alike(part, same, pose):
    """By a panel's own area: there and back again, it is the point it was."""
    before, after = flat(part), flat(part, **pose)
    points = corners(before)

    back = carried_points(carried_points(points, before, after, same), after, before, same)

    assert back == [pytest.approx(p, abs=1e-6) for p in points]
    for panel in before.panels:
        there = next(p for p in after.panels if p.number == panel.number)
        (carried,) = carried_points([panel.at], before, after, same)
        assert there.region.polygon(0.01).distance(Point(carried)) < 1e-6


def test_with_another_factor_a_corner_stays_on_its_panel(part, same):
    before, after = flat(part, k=0.3), flat(part, k=0.5, turn=math.pi / 2)

    for panel in before.panels:
        there = next(p for p in after.panels if p.number == panel.number)
        points = [s.start for s in panel.region.outer.segments]
        for carried in carried_points(points, before, after, same):
            assert there.region.polygon(0.001).boundary.distance(Point(carried)) < 1e-3


def test_where_there_is_no_panel_points_stay(part, same):
    before = flat(part)
    gone = Matches({}, {})

    bare = replace(before, panels=())
    assert carried_points([(1.0, 2.0)], bare, before, same) == [(1.0, 2.0)]
    assert carried_points([(1.0, 2.0)], before, before, gone) == [(1.0, 2.0)]
    assert motion_between(before, before, gone) is None


@pytest.mark.parametrize("pose", POSES, ids=str)
def test_the_part_is_bent_in_the_same_order_however_its_blank_is_laid(part, same, pose):
    before, after = flat(part), flat(part, **pose)
    places = {b.number: b.place for b in before.bends}
    wanted = sorted(places, key=lambda n: (n % 2, -n))

    carried = carried_sequence(wanted, places, after, same)

    now = {b.number: b.place for b in after.bends}
    assert [now[n] for n in carried] == [places[n] for n in wanted]


def test_bends_that_have_come_are_bent_last(part, same):
    blank = flat(part)
    numbers = [b.number for b in blank.bends]
    places = {b.number: b.place for b in blank.bends}
    gone = {i: j for i, j in same.bends.items() if i != places[numbers[-1]]}

    backwards = carried_sequence(numbers[::-1], places, blank, Matches(same.panels, gone))

    assert backwards == [*numbers[-2::-1], numbers[-1]]
    assert carried_sequence([], {}, blank, same) == numbers
    assert carried_sequence([99, *numbers[1:]], places, blank, same) == [*numbers[1:], numbers[0]]


@pytest.mark.parametrize("pose", POSES, ids=str)
def test_the_motion_between_two_blanks_lays_one_on_the_other(part, same, pose):
    before, after = flat(part), flat(part, **pose)

    motion = motion_between(before, after, same)

    assert motion.mirrored == ("face_up" in pose)
    moved, there = before.region.moved(motion).polygon(), after.region.polygon()
    assert moved.symmetric_difference(there).area < 1e-3 * there.length
    for bend, now in zip(before.moved(motion).bends, before.bends, strict=True):
        assert bend.is_up == (now.is_up != motion.mirrored)
