"""Bend charts: formulas, interpolation, the rule outside a table, and CSV round trips."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.errors import InputError
from kaigata.core.metal.allowance import bend_allowance, bend_deduction
from kaigata.core.metal.chart_files import bend_charts_csv, bend_charts_of
from kaigata.core.metal.charts import BendChart, ChartPoint, Method, constant_chart, own_take
from kaigata.core.metal.stores import standard_materials
from kaigata.core.metal.tooling import die_opening, force_per_metre, least_flange

T = 2.0
angles = st.floats(0.05, math.pi)
radii = st.floats(0.0, 50.0)
factors = st.floats(0.0, 1.0)


def table(method, *, k=lambda angle, radius: 0.42):
    """A table whose rows are made with a factor for each angle and radius."""
    make = bend_allowance if method is Method.ALLOWANCE else bend_deduction
    points = tuple(
        ChartPoint(
            value=make(math.radians(a), inside_radius=r, thickness=T, k=k(a, r)),
            angle=math.radians(a),
            radius=r,
            origin="measured",
        )
        for a in (30, 60, 90, 120)
        for r in (1.0, 2.0, 4.0)
    )
    return BendChart(thickness=T, method=method, points=points)


@given(angles, radii, factors)
def test_one_factor_gives_the_allowance_formula(angle, radius, k):
    take = constant_chart(k, T).take(angle, radius)

    assert take.k == k
    assert take.spread == pytest.approx(angle * (radius + k * T))


@pytest.mark.parametrize("method", [Method.ALLOWANCE, Method.DEDUCTION])
@given(angle=angles, radius=radii)
def test_a_table_made_with_one_factor_gives_it_back_everywhere(method, angle, radius):
    assert table(method).take(angle, radius).k == pytest.approx(0.42, abs=1e-9)


@pytest.mark.parametrize("method", [Method.ALLOWANCE, Method.DEDUCTION])
def test_between_rows_it_is_interpolated_and_outside_the_nearest_row_is_kept(method):
    chart = table(method, k=lambda a, r: 0.3 + a / 1000 + r / 100)

    def k(angle, radius):
        return chart.take(math.radians(angle), radius).k

    assert k(90, 2.0) == pytest.approx(0.41)
    assert k(75, 2.0) == pytest.approx(0.395)
    assert k(75, 3.0) == pytest.approx(0.405)
    assert k(170, 9.0) == pytest.approx(k(120, 4.0))
    assert k(10, 0.2) == pytest.approx(k(30, 1.0))
    assert "row of the table" in chart.take(math.pi / 2, 2.0).origin
    assert "interpolated" in chart.take(1.4, 3.0).origin
    assert "over the table" in chart.take(math.pi / 2, 9.0).origin


def test_factors_by_ratio_are_interpolated_over_radius_by_thickness():
    points = tuple(ChartPoint(value=v, ratio=q) for q, v in ((0.5, 0.3), (1.5, 0.4), (5.0, 0.5)))
    chart = BendChart(thickness=T, method=Method.K_BY_RATIO, points=points)

    assert chart.take(1.0, 2.0).k == pytest.approx(0.35)
    assert chart.take(1.0, 100.0).k == 0.5


def test_din_6935_by_its_own_example():
    # By hand: r/s = 2, k = 0.65 + log10(2)/2 = 0.8005; v for 90 degrees = pi/2 (4 + 0.8005) - 12.
    chart = BendChart(thickness=T, method=Method.DIN_6935, points=())
    take = chart.take(math.pi / 2, 4.0)

    assert take.spread - 2 * (4 + T) == pytest.approx(math.pi / 2 * (4 + 0.800515) - 12, abs=1e-6)


@given(angles, st.floats(0.5, 10), st.floats(0.5, 10), factors)
def test_an_own_radius_keeps_the_outside_sizes(angle, modelled, own, k):
    try:
        take = own_take(angle, modelled_radius=modelled, inside_radius=own, k=k, thickness=T)
    except InputError:
        return
    own_deduction = bend_deduction(angle, inside_radius=own, thickness=T, k=k)
    straight = constant_chart(k, T).take(angle, modelled)
    modelled_deduction = bend_deduction(angle, inside_radius=modelled, thickness=T, k=k)

    assert take.spread - straight.spread == pytest.approx(modelled_deduction - own_deduction)


def test_charts_survive_their_csv():
    charts = [c for m in standard_materials() for c in m.charts if m.name == "steel"]
    text = bend_charts_csv(charts)

    again = bend_charts_of(text, "steel.csv")

    assert bend_charts_csv(again) == text
    assert {c.method for c in again} == {Method.K, Method.DEDUCTION, Method.DIN_6935}


@pytest.mark.parametrize(
    ("line", "text"),
    [
        ("2,often,,,,0.4,typed", "line 3: method is 'often'"),
        ("2,allowance,200,2,,5,typed", "line 3: angle is 200"),
        ("2,deduction,90,-2,,5,typed", "line 3: radius is -2"),
        ("2,k,,,,1.4,typed", "line 3: K is 1.4"),
        ("1,deduction,90,2,,5,typed", "line 3: 1 mm is deduction here and k above"),
        ("2,k,,,,0.4,hearsay", "line 3: origin is 'hearsay'"),
        ("2,k,,,,nan,typed", "line 3: value is 'nan'"),
        ("2,k,,,,0.4,typed,9", "line 3: there are more cells"),
    ],
)
def test_a_wrong_line_is_named(line, text):
    heading = "thickness,method,angle,radius,ratio,value,origin\n1,k,,,,0.4,typed\n"

    with pytest.raises(InputError, match=text):
        bend_charts_of(heading + line + "\n", "chart.csv")


def test_a_chart_without_rows_is_refused():
    with pytest.raises(InputError, match="has no rows"):
        BendChart(thickness=1.0, method=Method.ALLOWANCE, points=())


def test_a_chart_with_two_answers_for_one_bend_is_refused():
    point = ChartPoint(value=3.4, angle=math.pi / 2, radius=2.0)
    other = ChartPoint(value=3.5, angle=math.pi / 2, radius=2.0)

    with pytest.raises(InputError, match=r"two rows of the deduction chart of 2 mm"):
        BendChart(thickness=2.0, method=Method.DEDUCTION, points=(point, other))


def test_a_row_of_a_table_without_an_angle_is_refused():
    with pytest.raises(InputError, match="a row of the allowance chart of 2 mm has no angle"):
        BendChart(thickness=2.0, method=Method.ALLOWANCE, points=(ChartPoint(value=3.4),))


@given(st.floats(0.3, 12))
def test_wider_dies_need_longer_flanges_and_less_force(thickness):
    opening = die_opening(thickness)

    assert 6.5 * thickness <= opening <= max(10 * thickness, 6)
    assert least_flange(opening, math.pi / 2) == pytest.approx(opening / math.sqrt(2))
    assert force_per_metre(thickness, opening, 400) > force_per_metre(thickness, opening * 1.3, 400)
