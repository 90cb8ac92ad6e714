"""What was pointed at on a blank is found again on the panel it was pointed at on."""

import math
from dataclasses import replace

import numpy as np
import pytest
from shapely import Point

from kaigata.core.blank import FaceUp, chart_takes, unfold
from kaigata.core.blank.carry import carried_points, carried_sequence, is_laid_across
from kaigata.core.intake import read_parts
from kaigata.core.metal.charts import constant_chart
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


def corners(blank):
    return [s.start for s in blank.region.outer.segments]


@pytest.mark.parametrize("pose", POSES, ids=str)
def test_however_a_blank_is_laid_each_corner_is_carried_to_a_corner(part, pose):
    before, after = flat(part), flat(part, **pose)

    carried = np.array(carried_points(corners(before), before, after))

    apart = np.linalg.norm(carried[:, None] - np.array(corners(after)), axis=2)
    assert apart.min(axis=1).max() < 1e-6
    assert sorted(apart.argmin(axis=1)) == list(range(len(carried))), "two became one"


@pytest.mark.parametrize("pose", POSES, ids=str)
def test_a_corner_is_carried_to_itself_and_to_no_other_that_looks_alike(part, pose):
    """By a panel's own area: there and back again, it is the point it was."""
    before, after = flat(part), flat(part, **pose)
    points = corners(before)

    back = carried_points(carried_points(points, before, after), after, before)

    assert back == [pytest.approx(p, abs=1e-6) for p in points]
    for panel in before.panels:
        there = next(p for p in after.panels if p.number == panel.number)
        (carried,) = carried_points([panel.at], before, after)
        assert there.region.polygon(0.01).distance(Point(carried)) < 1e-6


def test_with_another_factor_a_corner_stays_on_its_panel(part):
    before, after = flat(part, k=0.3), flat(part, k=0.5, turn=math.pi / 2)

    for panel in before.panels:
        there = next(p for p in after.panels if p.number == panel.number)
        points = [s.start for s in panel.region.outer.segments]
        for carried in carried_points(points, before, after):
            assert there.region.polygon(0.001).boundary.distance(Point(carried)) < 1e-3


def test_where_there_is_no_panel_points_stay(part):
    before = flat(part)

    assert carried_points([(1.0, 2.0)], replace(before, panels=()), before) == [(1.0, 2.0)]


@pytest.mark.parametrize("pose", POSES, ids=str)
def test_the_part_is_bent_in_the_same_order_however_its_blank_is_laid(part, pose):
    before, after = flat(part), flat(part, **pose)
    places = {b.number: b.place for b in before.bends}
    wanted = sorted(places, key=lambda n: (n % 2, -n))

    carried = carried_sequence(wanted, places, after)

    now = {b.number: b.place for b in after.bends}
    assert [now[n] for n in carried] == [places[n] for n in wanted]


def test_bends_that_are_not_the_same_are_bent_in_the_order_of_their_table(part):
    blank = flat(part)
    numbers = [b.number for b in blank.bends]

    assert carried_sequence([*numbers[1:], 99], {n: n - 1 for n in numbers}, blank) == numbers
    assert carried_sequence([], {}, blank) == numbers


@pytest.mark.parametrize(
    ("pose", "across"),
    [
        ({}, False),
        ({"turn": math.pi / 2}, True),
        ({"turn": math.pi}, False),
        ({"turn": math.pi / 2, "face_up": FaceUp.OTHER}, True),
        ({"face_up": FaceUp.OTHER}, False),
        ({"turn": 0.3}, False),
        ({"turn": 1.3}, True),
    ],
    ids=str,
)
def test_what_lay_along_lies_across_after_a_quarter_turn(part, pose, across):
    before = flat(part)

    assert is_laid_across(before, flat(part, **pose)) == across
    assert not is_laid_across(before, replace(before, panels=()))
