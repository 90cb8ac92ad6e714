import pytest

from kaigata.core.errors import InputError
from kaigata.core.metal.stores import (
    cut_row,
    find_material,
    read_bend_charts,
    standard_cut_chart,
    standard_materials,
)


def test_chart_row_of_a_gauge_is_found():
    row = cut_row(standard_cut_chart(), process="laser", material="steel", thickness=3.0)

    assert (row.process, row.thickness) == ("laser", 3.0)


def test_gauge_without_a_row_is_refused_with_what_there_is():
    with pytest.raises(InputError, match=r"no row for 7\.3 mm steel"):
        cut_row(standard_cut_chart(), process="laser", material="steel", thickness=7.3)


def test_unknown_material_is_refused_with_the_known_ones():
    with pytest.raises(InputError, match="The shop data has galvanised, steel"):
        find_material(standard_materials(), "unobtainium")


@pytest.mark.parametrize(
    ("text", "fault"),
    [
        ("thickness\n1\n", "line 1: the column 'k' is missing"),
        ("thickness,k\n1,0.4\n2,abc\n", "line 3: k is 'abc', no number"),
        ("thickness,k\n1,1.4\n", "line 2: K is 1.4"),
        ("thickness,k\n-1,0.4\n", "line 2: thickness is -1"),
    ],
)
def test_bad_charts_name_the_line(tmp_path, text, fault):
    chart = tmp_path / "chart.csv"
    chart.write_text(text)

    with pytest.raises(InputError, match=fault):
        read_bend_charts(chart)
