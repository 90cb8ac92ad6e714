"""Figures of ordinates: none on another, none further away than it must be."""

from itertools import pairwise

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import minimize

from kaigata.core.markup.measure import INCH, MILLIMETRE, scale_name, standard_scale
from kaigata.core.markup.ordinates import merged, spread

places = st.lists(st.floats(0, 200), min_size=1, max_size=12).map(sorted)


@given(places, st.floats(0.5, 5))
def test_figures_keep_their_gap_and_their_order(wanted, gap):
    stands = spread(wanted, gap)

    assert len(stands) == len(wanted)
    assert all(b - a >= gap - 1e-9 for a, b in pairwise(stands))


@given(places, st.floats(0.5, 5))
def test_what_has_room_stays_where_it_wants_to_be(wanted, gap):
    apart = [w + 2 * gap * i for i, w in enumerate(wanted)]

    assert spread(apart, gap) == pytest.approx(apart)


@pytest.mark.parametrize("wanted", [[0, 1, 2, 30], [5, 5, 5, 5], [0, 10, 11, 12, 13, 40]])
def test_they_move_no_more_than_a_general_method_moves_them(wanted):
    gap = 3.2
    bounds = [{"type": "ineq", "fun": lambda p, i=i: p[i + 1] - p[i] - gap}
              for i in range(len(wanted) - 1)]  # fmt: skip
    start = [gap * i for i in range(len(wanted))]
    found = minimize(lambda p: sum((p - wanted) ** 2), start, constraints=bounds, method="SLSQP")

    assert spread([float(w) for w in wanted], gap) == pytest.approx(list(found.x), abs=1e-3)


def test_the_same_place_is_written_once():
    assert merged([20, 10, 20.004, 10], 0.005) == [10, 20]


@given(st.floats(1, 5000), st.floats(1, 5000))
def test_a_flat_at_its_scale_has_room_and_at_the_next_larger_has_not(wide, high):
    room = (180.0, 120.0)
    scale = standard_scale(wide, high, room=room)

    assert wide * scale <= room[0] * (1 + 1e-9)
    assert high * scale <= room[1] * (1 + 1e-9)
    known = (10, 5, 2, 1, 0.5, 0.4, 1 / 3, 0.25, 0.2, 0.1, 0.05, 0.02, 0.01)
    larger = [s for s in known if s > scale]
    assert all(wide * s > room[0] or high * s > room[1] for s in larger)


@pytest.mark.parametrize(
    ("value", "mm", "short_mm", "inches"),
    [(0.0, "0.00", "0", "0.000"), (-1e-9, "0.00", "0", "0.000"), (25.4, "25.40", "25.4", "1.000"),
     (410.787, "410.79", "410.79", "16.173")],
)  # fmt: skip
def test_lengths_are_written_with_the_decimals_of_their_unit(value, mm, short_mm, inches):
    assert MILLIMETRE.length(value) == mm
    assert MILLIMETRE.short(value) == short_mm
    assert INCH.length(value) == inches


@pytest.mark.parametrize(
    ("scale", "name"), [(0.2, "1:5"), (10, "10:1"), (1 / 3, "1:3"), (0.4, "1:2.5")]
)
def test_scales_are_written_as_the_trade_writes_them(scale, name):
    assert scale_name(scale) == name
