"""What a file is unfolded with: the K typed, a chart's, a material's or the usual one."""

import ezdxf
import pytest

from kaigata.core.errors import InputError
from kaigata.core.metal.stores import STANDARD_K, find_material, standard_materials
from kaigata.core.packet.unfolding import UnfoldChoice, unfold_file
from tests.checks import PARTS

CLIP = PARTS / "hose-clip.step"


def chart(folder, text):
    path = folder / "own.csv"
    path.write_text(text)
    return path


def blank(path=CLIP, **choice):
    (found,) = unfold_file(path, UnfoldChoice(**choice)).blanks
    return found


@pytest.fixture(scope="module")
def thickness():
    return blank().thickness


def test_without_a_word_the_usual_factor_is_taken_and_its_origin_told():
    bends = blank().bends

    assert {b.k for b in bends} == {STANDARD_K}
    assert all("the usual" in b.origin for b in bends)


def test_what_is_nearer_to_the_part_goes_first(tmp_path, thickness):
    own = chart(tmp_path, f"thickness,k\n{thickness},0.37\n")
    material = find_material(standard_materials(), "galvanised")
    by_material = next(c for c in material.charts if abs(c.thickness - thickness) < 1e-3)

    def factors(**choice):
        return {round(b.k, 6) for b in blank(**choice).bends}

    radius = blank().bends[0].inside_radius
    assert factors(material="galvanised") == {round(by_material.take(1.5708, radius).k, 6)}
    assert factors(material="galvanised", bend_chart=own) == {0.37}
    assert factors(material="galvanised", bend_chart=own, k=0.0) == {0.0}


def test_a_thickness_the_chart_does_not_have_is_told_with_those_it_has(tmp_path):
    own = chart(tmp_path, "thickness,k\n9,0.4\n12,0.4\n")

    with pytest.raises(InputError, match=r"mm thick, the bend chart has 9, 12; Add the thickness"):
        blank(bend_chart=own)


def drawn(folder, *, units=4, copies=1, bends=1):
    """A DXF of plates 200 by 100 with bend lines."""
    document = ezdxf.new("R2010")
    document.header["$INSUNITS"] = units
    for i in range(copies):
        y = 150 * i
        space = document.modelspace()
        space.add_lwpolyline([(0, y), (200, y), (200, y + 100), (0, y + 100)], close=True)
        for j in range(bends):
            x = 60 + 80 * j
            layer = {"layer": "BEND_DOWN"}
            space.add_line((x, y), (x, y + 100), dxfattribs=layer)
    path = folder / "plates.dxf"
    document.saveas(path)
    return path


def test_a_drawn_bend_takes_what_a_chart_says_of_a_right_angle(tmp_path):
    own = chart(
        tmp_path,
        "thickness,method,angle,radius,ratio,value,origin\n"
        "2,allowance,45,2,,2.0,measured\n2,allowance,90,2,,4.6,measured\n",
    )

    (bend,) = blank(drawn(tmp_path), bend_chart=own, thickness=2.0).bends

    assert (bend.angle, bend.inside_radius, bend.direction) == (90, 2, "down")
    assert bend.allowance == pytest.approx(4.6)


@pytest.mark.parametrize(("choice", "k"), [({}, STANDARD_K), ({"k": 0.0}, 0.0), ({"k": 0.3}, 0.3)])
def test_a_drawn_bend_in_metal_of_unknown_thickness_keeps_the_factor_typed(choice, k, tmp_path):
    found = blank(drawn(tmp_path), **choice)

    assert found.thickness is None
    assert [b.k for b in found.bends] == [k]


@pytest.mark.parametrize(
    ("bends", "text"), [(1, "how its bend is made: it is"), (2, "how its 2 bends are made: they")]
)
def test_what_the_drawing_does_not_say_is_said_in_whole_words(bends, text, tmp_path):
    found = blank(drawn(tmp_path, bends=bends), thickness=1.5)

    assert [text in f.text for f in found.findings if f.code == "bend-data-missing"] == [True]


def test_a_drawing_without_a_unit_is_refused_with_both_sizes(tmp_path):
    path = drawn(tmp_path, units=0)

    with pytest.raises(InputError) as refused:
        blank(path)

    assert "as millimetres the part is 200.00 x 100.00 mm" in refused.value.what
    assert "as inches 5080.00 x 2540.00 mm" in refused.value.what
    assert blank(path, unit=25.4).width == pytest.approx(5080)


def test_a_flat_drawn_twice_is_offered_as_one_part(tmp_path):
    one, other = unfold_file(drawn(tmp_path, copies=2), UnfoldChoice(thickness=1.5)).blanks

    assert one.part != other.part
    (same,) = (f for f in other.findings if f.code == "same-part")
    assert f"same part as {one.part}" in same.text
    assert "2 pieces" in same.text
    assert not any(f.code == "same-part" for f in one.findings)


def test_a_solid_that_is_no_sheet_does_not_keep_the_others(tmp_path):
    material = find_material(standard_materials(), "galvanised")
    found = unfold_file(PARTS / "stand.step", UnfoldChoice(material=material.name))

    # Parts of a thickness the material has no chart for are refused, each by its own name.
    assert found.blanks
    assert found.refused
    assert all("bend chart has" in error.what for error in found.refused)
