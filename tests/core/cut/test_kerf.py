"""Paths half a kerf off a part, and what a kerf cannot reach."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.cut.kerf import kerf_loops
from kaigata.core.errors import InputError
from kaigata.core.plane import Contour, Motion, Region
from tests.strategies import rounded_rectangles


def hole(width, height, x, y):
    return Contour.rectangle(width, height).moved(Motion(x=x, y=y)).reversed()


@given(rounded_rectangles(), st.floats(0.1, 1.9))
def test_what_is_left_when_the_kerf_is_gone_is_the_part(drawn, kerf):
    """The outer path reaches half a kerf beyond the part, a hole's as far into the hole."""
    width, height, radius, contour = drawn
    disc = min(width, height) / 3
    round_hole = Contour.circle((width / 2, height / 2), max(disc, kerf)).reversed()
    if 2 * max(disc, kerf) > 0.9 * min(width, height):
        return

    loops, findings = kerf_loops(Region(contour, (round_hole,)), kerf, part="plate")

    assert not findings
    inner, outer = loops
    assert (inner.name, outer.name) == ("hole 1", "outer")
    assert outer.path.length == pytest.approx(contour.length + math.pi * kerf, rel=1e-6)
    assert -inner.path.area == pytest.approx(math.pi * (max(disc, kerf) - kerf / 2) ** 2, rel=1e-6)
    grown = 2 * (width + height + 4 * (math.pi / 4 - 1) * radius)
    assert outer.path.area == pytest.approx(
        contour.area + grown * kerf / 2 + math.pi * kerf**2 / 4, rel=1e-6
    )


def test_a_hole_narrower_than_the_kerf_is_said_with_its_place():
    region = Region(Contour.rectangle(100, 80), (hole(20, 0.3, 40, 50), hole(10, 10, 10, 10)))

    loops, (finding,) = kerf_loops(region, 0.4, part="plate")

    assert [x.name for x in loops] == ["hole 2", "outer"]
    assert finding.code == "hole-under-kerf"
    assert "plate hole 1 (20.00 x 0.30 mm)" in finding.text
    assert finding.at == pytest.approx((50, 50.15))


def test_a_neck_in_a_hole_parts_it_in_two_and_is_said():
    rows = [(0, 0), (20, 0), (20, 9.9), (30, 9.9), (30, 0), (50, 0), (50, 20), (30, 20),
            (30, 10.1), (20, 10.1), (20, 20), (0, 20)]  # fmt: skip
    dumbbell = Contour.from_rows(rows).moved(Motion(x=10, y=10)).reversed()

    loops, (finding,) = kerf_loops(
        Region(Contour.rectangle(80, 50), (dumbbell,)), 0.4, part="plate"
    )

    assert [x.name for x in loops] == ["hole 1", "hole 1.2", "outer"]
    assert {x.hole for x in loops} == {1, None}
    assert "hole 1 has a neck narrower than the kerf of 0.4 mm" in finding.text


@pytest.mark.parametrize(("slot", "is_said"), [(0.3, True), (0.5, False)])
def test_a_notch_the_kerf_cannot_enter_is_said(slot, is_said):
    rows = [(0, 0), (100, 0), (100, 60), (50 + slot, 60), (50 + slot, 20), (50, 20), (50, 60),
            (0, 60)]  # fmt: skip

    _, findings = kerf_loops(Region(Contour.from_rows(rows)), 0.4, part="plate")

    assert [f.code for f in findings] == (["narrower-than-kerf"] if is_said else [])
    if is_said:
        assert findings[0].at[0] == pytest.approx(50.15, abs=0.1)


def test_an_outline_that_folds_back_over_itself_by_a_hair_has_no_cut_and_that_is_said():
    # The arc leaves the last corner on the wrong side of the edge that it came by.
    outer = Contour.from_rows([[0, 0, -0.672], [50, 5], [100, 0], [30, 100]])

    with pytest.raises(InputError, match="no way round its outline closes for the cut"):
        kerf_loops(Region(outer, ()), 0.2, part="cusp")
