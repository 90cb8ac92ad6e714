"""What measurements tell: the kerf and the K they were made with, noise and all."""

import math
from random import Random

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.errors import InputError
from kaigata.core.metal.allowance import bend_deduction
from kaigata.core.metal.measured import (
    MeasuredBend,
    MeasuredSize,
    k_from_bends,
    kerf_from_sizes,
)

kerfs = st.floats(0.05, 3.0)


@given(kerfs, kerfs, st.lists(st.tuples(st.floats(5, 900), st.booleans()), min_size=1, max_size=9))
def test_sizes_cut_with_a_wrong_kerf_tell_the_true_one(true, was_set, drawn):
    # Half of the kerf is lost on each side; the path was moved by half of what was set.
    sizes = [
        MeasuredSize(
            nominal=n, is_hole=hole, measured=n + (true - was_set if hole else was_set - true)
        )
        for n, hole in drawn
    ]

    found = kerf_from_sizes(sizes, kerf=was_set)

    assert found.value == pytest.approx(true, abs=1e-9)
    assert found.spread == pytest.approx(0, abs=1e-9)
    assert found.odd == ()


@given(
    st.floats(0.2, 0.6), st.sampled_from([0.8, 1.5, 3.0, 6.0]), st.floats(0.3, 3),
    st.lists(st.floats(15, 175), min_size=1, max_size=6),
)  # fmt: skip
def test_coupons_tell_the_k_they_were_bent_with(k, thickness, ratio, angles):
    radius = ratio * thickness
    bends = []
    for degrees in angles:
        angle = math.radians(degrees)
        lost = bend_deduction(angle, inside_radius=radius, thickness=thickness, k=k)
        bends.append(MeasuredBend(flat=110 - lost, first=50, second=60, angle=angle,
                                  inside_radius=radius))  # fmt: skip

    assert k_from_bends(bends, thickness=thickness).value == pytest.approx(k, abs=1e-8)


def test_the_spread_is_that_of_the_measuring_and_a_slip_is_shown():
    random = Random(4)
    sizes = [
        MeasuredSize(nominal=100, measured=99.9 + random.gauss(0, 0.01), is_hole=False)
        for _ in range(40)
    ]
    slip = MeasuredSize(nominal=100, measured=98.9, is_hole=False)

    plain = kerf_from_sizes(sizes, kerf=0.2)
    slipped = kerf_from_sizes([*sizes, slip], kerf=0.2)

    assert plain.value == pytest.approx(0.3, abs=0.005)
    assert plain.spread == pytest.approx(0.01, rel=0.3)
    assert slipped.odd[-1] == 40
    assert slipped.each[40] == pytest.approx(1.3)


@pytest.mark.parametrize(
    ("call", "text"),
    [
        (lambda: kerf_from_sizes([], kerf=0.2), "no size was measured"),
        (lambda: kerf_from_sizes([MeasuredSize(nominal=20, measured=19, is_hole=True)], kerf=0.2),
         "a kerf of -0.800 mm, it must be above 0"),
        (lambda: k_from_bends([], thickness=1.5), "no bend was measured"),
        (lambda: k_from_bends([MeasuredBend(flat=120, first=50, second=50, angle=math.pi / 2,
                                            inside_radius=1.5)], thickness=1.5),
         "a K of .*, it lies from 0 to 1"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_the_value(call, text):
    with pytest.raises(InputError, match=text):
        call()
