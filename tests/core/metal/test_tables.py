"""Tables in and out: every number comes back, every wrong cell is told by its line."""

import csv
import io
import math
from dataclasses import fields, replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.errors import InputError
from kaigata.core.metal.chart_files import bend_charts_csv, bend_charts_of
from kaigata.core.metal.charts import BendChart, ChartPoint, Method
from kaigata.core.metal.stores import (
    CutChartRow,
    cut_chart_csv,
    cut_chart_of,
    cut_row,
    read_cut_chart,
    standard_cut_chart,
    standard_materials,
)
from kaigata.core.metal.tables import csv_text, rows_of, text_of_file
from kaigata.core.metal.threads import TAP_DRILLS, thread_of_drill

HEADING = "thickness,method,angle,radius,ratio,value,origin\n"
exact = st.floats(0.01, 1000).map(lambda v: float(f"{v:.6g}"))


def rows(text, *columns):
    return list(rows_of(text, "table.csv", columns))


@given(st.lists(st.tuples(st.text(), exact), min_size=1))
def test_what_is_written_is_read(pairs):
    # A CSV has no way to tell a cell's line break from another kind of it.
    pairs = [("".join(c for c in word if c not in "\r\n\0"), value) for word, value in pairs]

    again = rows(csv_text(("word", "value"), pairs), "word", "value")

    assert [(r["word"], r.number("value")) for r in again] == pairs


@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
def test_lines_end_in_any_way(end):
    found = rows(end.join(("k,word", "1,one", "2,two", "")), "k")

    assert [(r.number("k"), r["word"], r.where) for r in found] == [
        (1.0, "one", "table.csv line 2"), (2.0, "two", "table.csv line 3"),
    ]  # fmt: skip


def test_a_mark_of_the_byte_order_is_no_part_of_the_heading():
    assert rows("\ufeffk\n0.4\n", "k")[0].number("k") == 0.4


@pytest.mark.parametrize("between", [",", ";", "\t"])
@given(pairs=st.lists(st.tuples(st.text("ab ;,\t\"'"), exact), min_size=1))
def test_a_spreadsheet_s_way_of_writing_a_table_is_read(between, pairs):
    """Other signs between the cells, a comma in numbers, capitals and blanks in the heading."""
    stream = io.StringIO()
    table = csv.writer(stream, delimiter=between)
    table.writerow((" Word", "VALUE "))
    for word, value in pairs:
        text = f"{value:.10g}"
        table.writerow((word, text if between == "," else text.replace(".", ",")))
        table.writerow(("", " "))

    again = rows(stream.getvalue(), "word", "value")

    assert [(r["word"], r.number("value")) for r in again] == pairs
    assert [r.where for r in again] == [f"table.csv line {2 * i + 2}" for i in range(len(pairs))]


def test_between_commas_a_number_holds_none():
    (row,) = rows('k,word\n"1,5",a\n', "k")

    with pytest.raises(InputError, match="line 2: k is '1,5', no number"):
        row.number("k")


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("", "table.csv line 1: the column 'k' is missing; The columns are k"),
        ("z\n1\n", "table.csv line 1: the column 'k' is missing"),
        ("k,z,k\n1,2,3\n", "table.csv line 1: the column 'k' stands twice"),
        (f"k\n1\n{'1' * 200_000}\n", "table.csv line 3: it is no table: field larger"),
        ("k\n1\n1,2\n", "table.csv line 3: there are more cells than columns"),
        ("k\nhalf\n", "table.csv line 2: k is 'half', no number"),
        ("k\ninf\n", "table.csv line 2: k is 'inf', no finite number"),
        ("k\n\n\n0\n", "table.csv line 4: k is 0, it must be above 0"),
    ],
)
def test_a_wrong_cell_is_told_by_its_line(text, fault):
    with pytest.raises(InputError) as refused:
        [row.positive("k") for row in rows(text, "k")]

    assert str(refused.value).startswith(fault)


def test_an_empty_cell_takes_what_is_usual_and_a_strange_word_the_known_ones():
    (row,) = rows("size,way\n,sideways\n", "size", "way")

    assert row.number("size", 7.5) == 7.5
    assert row.one_of("none", ("up", "down"), "up") == "up"
    with pytest.raises(InputError, match="way is 'sideways'; It is one of up, down"):
        row.one_of("way", ("up", "down"), "up")


@pytest.mark.parametrize(
    ("content", "text"), [(None, "no such file"), (b"\xff\xfe\x00", "no text in UTF-8")]
)
def test_a_file_that_is_no_table_is_refused_by_its_name(content, text, tmp_path):
    path = tmp_path / "chart.csv"
    if content is not None:
        path.write_bytes(content)

    with pytest.raises(InputError, match=f"^chart.csv: .*{text}"):
        text_of_file(path)


@given(
    st.sampled_from([Method.ALLOWANCE, Method.DEDUCTION]),
    st.floats(0.5, 6).map(lambda t: round(t, 2)),
    st.lists(
        st.tuples(st.integers(5, 175), st.integers(1, 40), st.floats(0.3, 0.5)),
        min_size=1, max_size=8, unique_by=lambda row: row[:2],
    ),
)  # fmt: skip
def test_a_measured_table_comes_back_to_the_last_digit(method, thickness, bends):
    points = []
    for degrees, tenths, k in bends:
        angle, radius = math.radians(degrees), tenths / 10
        value = angle * (radius + k * thickness)
        if method is Method.DEDUCTION:
            reach = radius + thickness
            value = 2 * reach * (1 if degrees >= 90 else math.tan(angle / 2)) - value
        points.append(ChartPoint(value=value, angle=angle, radius=radius, origin="measured"))
    chart = BendChart(thickness=thickness, method=method, points=tuple(points))

    (again,) = bend_charts_of(bend_charts_csv([chart]), "chart.csv")

    assert (again.thickness, again.method) == (thickness, method)
    for one, other in zip(again.points, chart.points, strict=True):
        assert (one.value, one.angle) == pytest.approx((other.value, other.angle), rel=1e-9)
        assert (one.radius, one.origin) == (other.radius, other.origin)


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("thickness,k\n1.5,0.42\n2,0.44\n1.5,0.4\n", "line 4: 1.5 mm stands twice"),
        (HEADING + "2,k,,,,0.4,\n2,k,,,,0.4,\n", "line 3: 2 mm stands twice"),
        (HEADING + "2,din-6935,,,,,\n2,din-6935,,,,,\n", "line 3: 2 mm stands twice"),
        (
            HEADING + "2,k-by-ratio,,,1,0.4,\n2,k-by-ratio,,,2,0.4,\n2,k-by-ratio,,,1,0.3,\n",
            "line 4: 2 mm with ratio 1 stands twice",
        ),
        (
            HEADING + "2,deduction,90,2,,3.48,\n2.0004,deduction,90,2,,3.5,\n",
            "line 3: 2 mm with 90 degrees and radius 2 stands twice",
        ),
    ],
)
def test_a_row_that_would_not_be_used_is_refused(text, fault):
    with pytest.raises(InputError) as refused:
        bend_charts_of(text, "chart.csv")

    assert str(refused.value).startswith(f"chart.csv {fault}")


@pytest.mark.parametrize(
    ("row", "factor"),
    [
        # A decimal point forgotten, inside and outside confused, the angle between the flanges.
        ("2,deduction,90,2,,34.8,", "-9.53"),
        ("2,allowance,90,2,,45.24,", "13.40"),
        ("2,allowance,90,8,,4.52,", "-2.56"),
        ("2,allowance,150,2,,2.262,", "-0.57"),
    ],
)
def test_a_value_that_no_sheet_could_have_is_refused(row, factor):
    with pytest.raises(InputError, match=rf"line 2: the .* stands for K {factor}, outside") as no:
        bend_charts_of(HEADING + row, "chart.csv")

    assert "angle (turned from flat)" in no.value.fix


def test_a_value_rounded_at_the_end_of_its_range_is_taken_as_that_end():
    # With K 0 the allowance of 90 degrees round 1 mm is 1.5708 mm.
    (chart,) = bend_charts_of(HEADING + "2,allowance,90,1,,1.57,\n", "chart.csv")

    assert chart.take(math.pi / 2, 1.0).k == 0.0


def test_the_charts_the_product_comes_with_hold_every_gauge_once():
    for material in standard_materials():
        gauges = [g.thickness for g in material.gauges]
        assert len(set(gauges)) == len(gauges)
        for gauge in material.gauges:
            assert gauge.chart.thickness == gauge.thickness
            for radius in gauge.radii:
                take = gauge.chart.take(math.pi / 2, radius)
                assert 0.2 <= take.k <= 0.55
                assert take.spread > math.pi / 2 * radius


cut_rows = st.builds(
    CutChartRow,
    process=st.sampled_from(["laser", "plasma", "waterjet"]),
    material=st.sampled_from(["*", "steel"]),
    **dict.fromkeys(
        ("thickness", "kerf", "feed", "pierce_seconds", "lead_in", "rapid", "acceleration"), exact
    ),
    lead_kind=st.sampled_from(["line", "arc", "none"]),
    lead_angle=st.floats(1, 90).map(lambda v: round(v, 3)),
    lead_out=exact,
    corner=st.sampled_from(["round", "sharp", "loop"]),
    joint_arcs=st.sampled_from(["no", "yes"]),
)


def told_apart(row):
    return (row.process, row.material, round(row.thickness, 3))


@given(st.lists(cut_rows, min_size=1, max_size=4, unique_by=told_apart))
def test_a_cut_chart_comes_back_as_it_was(chart):
    assert cut_chart_of(cut_chart_csv(chart), "cut.csv") == tuple(chart)


def test_columns_that_may_be_left_out_take_what_is_usual(tmp_path):
    path = tmp_path / "cut.csv"
    path.write_text(
        "process,material,thickness,kerf,feed,pierce_seconds,lead_in,rapid\n"
        "laser,,2,0.2,3000,0,2,60000\n"
    )

    (row,) = read_cut_chart(path)

    usual = {f.name: f.default for f in fields(CutChartRow) if f.name == "lead_kind"}
    assert (row.material, row.lead_kind, row.has_joints) == ("*", usual["lead_kind"], False)


@pytest.mark.parametrize(
    ("change", "fault"),
    [
        ({"kerf": "0"}, "kerf is 0, it must be above 0"),
        ({"lead_out": "-1"}, "lead_out is -1, it must be 0 or more"),
        ({"lead_angle": "120"}, "lead_angle is 120; Give more than 0 and at most 90 degrees"),
        ({"process": "scissors"}, "process is 'scissors'; It is one of laser, plasma, waterjet"),
        ({"corner": "chewed"}, "corner is 'chewed'"),
    ],
)
def test_a_wrong_cut_chart_is_told_by_its_line(change, fault):
    heading, line = cut_chart_csv(standard_cut_chart()[:1]).splitlines()
    cells = {**dict(zip(heading.split(","), line.split(","), strict=True)), **change}

    with pytest.raises(InputError) as refused:
        cut_chart_of(f"{heading}\n{','.join(cells.values())}\n", "cut.csv")

    assert str(refused.value).startswith(f"cut.csv line 2: {fault}")


def test_a_row_of_a_cut_chart_that_would_not_be_used_is_refused_by_its_line():
    heading, line = cut_chart_csv(standard_cut_chart()[:1]).splitlines()

    # An empty line counts as a line of the file.
    with pytest.raises(InputError, match=r"^cut.csv line 4: .* stands in cut.csv line 2 already"):
        cut_chart_of(f"{heading}\n{line}\n\n{line}\n", "cut.csv")
    with pytest.raises(InputError, match=r"line 4: there is no material 'steel'; Write \* for"):
        cut_chart_of(f"{heading}\n{line}\n\n{line.replace('*', 'steel')}\n", "cut.csv", ["brass"])


def test_a_materials_own_row_goes_before_the_one_for_all():
    plain = standard_cut_chart()[0]
    every = replace(plain, material="*", thickness=2.0, kerf=0.2)
    own = replace(every, material="steel", kerf=0.3)

    def kerf(material, thickness):
        chart = (every, own)
        row = cut_row(chart, process=plain.process, material=material, thickness=thickness)
        return row.kerf

    assert [kerf(m, 2.0004) for m in ("steel", "brass", None)] == [0.3, 0.2, 0.2]
    assert kerf("steel", None) == 0.3
    with pytest.raises(InputError, match=r"no row for 3 mm steel.*It has 2 \*, 2 steel"):
        kerf("steel", 3)


@pytest.mark.parametrize("name", TAP_DRILLS)
def test_a_drill_tells_its_thread_and_its_neighbours_tell_none(name):
    drill = TAP_DRILLS[name]

    assert thread_of_drill(drill) == thread_of_drill(drill + 0.004) == name
    assert thread_of_drill(drill + 0.04) is None
