import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.errors import InputError
from kaigata.core.plane import Contour
from kaigata.core.plane.contour import require_simple
from tests.strategies import motions, rounded_rectangles, stars


@given(rounded_rectangles())
def test_area_and_length_of_a_rounded_rectangle(shape):
    width, height, radius, contour = shape

    # By hand: four corners lack a square each but have a quarter disc.
    assert contour.area == pytest.approx(width * height - (4 - math.pi) * radius**2, rel=1e-9)
    assert contour.length == pytest.approx(
        2 * (width + height) - (8 - 2 * math.pi) * radius, rel=1e-9
    )


@given(rounded_rectangles(), motions())
def test_motion_keeps_area_and_way_round(shape, motion):
    contour = shape[3]

    assert contour.moved(motion).area == pytest.approx(contour.area, rel=1e-7)


@given(stars())
def test_reversing_flips_the_sign_of_the_area(star):
    assert star.reversed().area == pytest.approx(-star.area, rel=1e-12)


@given(stars(), st.integers(0, 11), st.floats(0.1, 50))
def test_spikes_are_taken_off_wherever_the_contour_begins(star, at, length):
    """An edge runs on beyond its end and comes back; the contour may begin anywhere on that."""
    at %= len(star.vertices)
    edge = star.segments[at]
    tip = edge.at(1 + length / edge.length)
    rows = [*star.vertices[: at + 1], (*tip, 0.0), *star.vertices[at + 1 :]]

    for k in range(len(rows)):
        plain = Contour.from_rows([*rows[k:], *rows[:k]]).without_spikes()

        assert len(plain.vertices) == len(star.vertices)
        assert plain.area == pytest.approx(star.area, rel=1e-9)


def test_simplifying_joins_what_is_one_line_or_one_circle():
    halves = math.tan(math.pi / 8)
    contour = Contour(
        (
            (0, 0, 0),
            (5, 0, 0),
            (10, 0, halves),
            (15, 5, halves),
            (10, 10, 0),
            (0, 10, 0),
            (0, 10, 0),
        )
    )

    simple = contour.simplified()

    assert len(simple.vertices) == 4
    assert simple.area == pytest.approx(contour.area, rel=1e-12)


@pytest.mark.parametrize(
    ("points", "text"),
    [
        ([(0, 0), (10, 10), (10, 0), (0, 10)], "crosses itself at"),
        ([(0, 0), (10, 0), (10, 0), (0, 10)], "same point 10, 0"),
        ([(0, 0), (10, 0)], "2 vertices holds nothing"),
    ],
)
def test_unusable_contours_are_refused_with_the_place(points, text):
    with pytest.raises(InputError, match=text):
        require_simple(Contour.through(points), where="$.parts[0].outer")
