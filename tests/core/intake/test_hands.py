"""Real parts moved in space: the same blank however they lie, the other hand in a mirror."""

from dataclasses import replace

import pytest

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.intake.step import read_step
from kaigata.core.metal.charts import constant_chart
from kaigata.core.plane import Motion
from tests.checks import PARTS
from tests.solids import mirrored, only_solid, turned

NAMES = sorted(p.stem for p in PARTS.glob("*.step"))


def unfolded(shape):
    part = folded_part(Solid(only_solid(shape)), "thing")
    return unfold(part, takes=chart_takes(part, constant_chart(0.44, part.thickness)))


def solids_of(name):
    return [product.shape for product in read_step(PARTS / f"{name}.step")]


@pytest.mark.parametrize("name", NAMES)
@pytest.mark.parametrize(("axis", "degrees"), [((1, 2, 3), 37), ((-3, 0.2, 1), 211)])
def test_a_part_has_one_blank_however_it_lies(name, axis, degrees):
    for shape in solids_of(name):
        blank = unfolded(shape)
        askew = turned(shape, axis, degrees, (90.0, -400.0, 7.0))

        again = unfolded(askew)

        assert are_alike(blank, again)
        assert [f.code for f in again.findings] == [f.code for f in blank.findings]


@pytest.mark.parametrize("name", NAMES)
def test_a_mirror_image_is_the_other_hand(name):
    for shape in solids_of(name):
        blank = unfolded(shape)
        # A flat seen in a mirror, its bends going the ways they went: turned over they would not.
        over = blank.moved(Motion(mirrored=True))
        other = replace(over, bends=tuple(replace(b, is_up=not b.is_up) for b in over.bends))

        assert are_alike(unfolded(mirrored(shape)), other)


def test_left_and_right_hand_are_told_apart():
    (door,) = solids_of("door-panel")

    assert not are_alike(unfolded(door), unfolded(mirrored(door)))
