import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.errors import InputError
from kaigata.core.metal import bend_allowance, bend_deduction


@pytest.mark.parametrize(
    ("degrees", "radius", "thickness", "k", "allowance"),
    [
        (90, 2, 2, 0.44, 4.523893421),  # by hand: pi/2 * 2.88
        (180, 0.8, 1.5, 0.44, 4.586725274),  # pi * 1.46
        (30, 1, 1, 0.0, 0.523598776),  # pi/6
    ],
)
def test_allowance_by_hand(degrees, radius, thickness, k, allowance):
    found = bend_allowance(math.radians(degrees), inside_radius=radius, thickness=thickness, k=k)

    assert found == pytest.approx(allowance, rel=1e-9)


@given(st.floats(0.01, 3.1), st.floats(0, 20), st.floats(0.1, 10), st.floats(0, 0.9))
def test_allowance_grows_with_k_and_deduction_shrinks(angle, radius, thickness, k):
    values = {"inside_radius": radius, "thickness": thickness}

    assert bend_allowance(angle, **values, k=k + 0.1) > bend_allowance(angle, **values, k=k)
    assert bend_deduction(angle, **values, k=k + 0.1) < bend_deduction(angle, **values, k=k)


@pytest.mark.parametrize(
    ("angle", "radius", "thickness", "k", "text"),
    [(0, 1, 1, 0.4, "0 degrees"), (1, -1, 1, 0.4, "radius -1"), (1, 1, 1, 1.2, "K is 1.2")],
)
def test_impossible_bends_are_refused(angle, radius, thickness, k, text):
    with pytest.raises(InputError, match=text):
        bend_allowance(angle, inside_radius=radius, thickness=thickness, k=k)
