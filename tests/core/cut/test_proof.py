"""A program that would spoil metal is not proved: whatever is changed in it is found."""

import math
import re
from dataclasses import replace

import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st

from kaigata.core.cut import Marking, find_post
from kaigata.core.cut.proof import prove
from kaigata.core.cut.toolpath import placed_on
from kaigata.core.errors import InputError
from kaigata.core.formats.gcode_reader import read_program
from tests.core.cut.given import BENT, PLATE, Laid, rules

PLAIN = find_post("plain")
BRACKET = {
    "outer": [[0, 0], [100, 0], [100, 50, 0.41421356], [90, 60], [70, 60], [70, 40], [0, 40]],
    "holes": [[[20, 20, -1], [30, 20, -1]], [[50, 10], [50, 20, -1], [60, 20], [60, 10, -1]]],
}
PLACES = [("bracket", 20, 20), ("bracket", 20, 120), ("plate", 200, 20)]


@pytest.fixture(scope="module")
def known():
    """An order with its path and the lines of its sound program."""
    laid = Laid({"bracket": BRACKET, "plate": {**PLATE, "bends": BENT}}, PLACES)
    path = laid.path(rules("laser"), marking=Marking(bends="whole"))
    return laid, path, laid.program(path).text.splitlines()


def fault_of(laid, path, lines):
    """What is wrong with a program by reading it back; empty where it is sound."""
    try:
        done = read_program("\n".join(lines), PLAIN)
    except InputError as error:
        return error.what
    return prove(path, done, *placed_on(laid.order, laid.sheet)).fault


def stretches(lines):
    """The rows of each stretch with the beam on, that of the command left out."""
    on = [i for i, line in enumerate(lines) if line == "M3"]
    return [range(i + 1, lines.index("M5", i)) for i in on]


def inner_rows(lines):
    """Rows that cut and neither begin nor end a stretch.

    Where a contour is entered may be moved along its edge without harm.
    """
    return [i for rows in stretches(lines) for i in rows[1:-1]]


def test_the_sound_program_is_proved(known):
    assert fault_of(*known) == ""


def farthest_off(lines, sound):
    """How far the head runs beside where it ran in the sound program, mm."""
    ways = [
        [shapely.LineString([p for s in cut.segments for p in (s.start, *s.flattened(0.001))])
         for cut in read_program("\n".join(program), PLAIN)]
        for program in (lines, sound)
    ]  # fmt: skip
    return max(shapely.hausdorff_distance(a, b, 0.01) for a, b in zip(*ways, strict=True))


@settings(max_examples=150)
@given(data=st.data())
def test_a_number_that_is_changed_is_found(known, data):
    laid, path, lines = known
    row = data.draw(st.sampled_from(inner_rows(lines)))
    words = list(re.finditer(r"([XYIJ])(-?[\d.]+)", lines[row]))
    word = data.draw(st.sampled_from(words))
    by = data.draw(st.floats(0.05, 20)) * data.draw(st.sampled_from([-1, 1]))
    value = f"{word[1]}{float(word[2]) + by:.4f}"
    line = lines[row][: word.start()] + value + lines[row][word.end() :]
    changed = [*lines[:row], line, *lines[row + 1 :]]

    # Where an edge runs on straight out of an arc the point between may lie elsewhere on it.
    assert fault_of(laid, path, changed) or farthest_off(changed, lines) < 0.01


@given(data=st.data())
def test_a_line_that_is_lost_is_found(known, data):
    laid, path, lines = known
    rows = [*inner_rows(lines), *(i for i, line in enumerate(lines) if line in ("M3", "M5"))]
    row = data.draw(st.sampled_from(rows))

    assert fault_of(laid, path, [*lines[:row], *lines[row + 1 :]])


@pytest.fixture(scope="module")
def held():
    """The same for parts with micro-joints, two of them with a common cut."""
    row = replace(rules("laser"), joint_width=0.5, joint_count=3.0)
    laid = Laid({"plate": PLATE}, [("plate", 20, 20), ("plate", 20, 80 + row.kerf)])
    path = laid.path(row, common_cut=True)
    return laid, path, laid.program(path).text.splitlines()


@given(data=st.data(), longer=st.sampled_from([-1, 1]))
def test_a_stretch_that_ends_elsewhere_is_found(held, data, longer):
    laid, path, lines = held
    assert fault_of(*held) == ""
    rows = data.draw(st.sampled_from(stretches(lines)))
    row = rows[-1]
    (x, y), (u, v) = (place_after(lines, row - k) for k in (0, 1))
    by = longer * data.draw(st.floats(0.05, 3)) / math.hypot(x - u, y - v)
    line = f"G1 X{x + by * (x - u):.4f} Y{y + by * (y - v):.4f}"
    changed = [*lines[:row], line, *lines[row + 1 :]]

    assert fault_of(laid, path, changed)


def place_after(lines, row):
    """Where the head stands after a row."""
    found = {}
    for line in lines[: row + 1]:
        found |= {w[0]: float(w[1:]) for w in re.findall(r"[XY]-?[\d.]+", line)}
    return found["X"], found["Y"]


@given(data=st.data())
def test_two_lines_that_change_places_are_found(known, data):
    laid, path, lines = known
    rows = data.draw(st.sampled_from([r for r in stretches(lines) if len(r) > 3]))
    at = data.draw(st.integers(rows[1], rows[-1] - 2))
    swapped = [*lines[:at], lines[at + 1], lines[at], *lines[at + 2 :]]

    assert fault_of(laid, path, swapped)


@pytest.mark.parametrize("turn", [("G2", "G3"), ("G3", "G2")])
def test_an_arc_that_turns_the_other_way_is_found(known, turn):
    laid, path, lines = known
    rows = [i for i in inner_rows(lines) if lines[i].startswith(turn[0])]
    assert rows

    for row in rows:
        other = lines[row].replace(*turn, 1)
        assert fault_of(laid, path, [*lines[:row], other, *lines[row + 1 :]])


@pytest.mark.parametrize(
    ("dx", "dy"), [(0.05, 0), (0, -0.05), (30, 0), (-25, 0)], ids=["x", "y", "far", "off the sheet"]
)
def test_a_work_zero_that_is_set_elsewhere_is_found(known, dx, dy):
    laid, path, lines = known
    moved = [
        re.sub(
            r"X(-?[\d.]+) Y(-?[\d.]+)",
            lambda m: f"X{float(m[1]) + dx:.4f} Y{float(m[2]) + dy:.4f}",
            line,
        )
        for line in lines
    ]

    assert fault_of(laid, path, moved)


def test_the_wrong_unit_is_found(known):
    laid, path, lines = known

    assert fault_of(laid, path, [line.replace("G21", "G20") for line in lines])


def test_a_mark_that_is_cut_is_found(known):
    laid, path, lines = known
    without = [line for line in lines if line != "(mark)"]

    assert "is cut" in fault_of(laid, path, without)


@pytest.mark.parametrize("process", ["plasma", "waterjet"])
def test_a_path_for_another_kerf_is_found(known, process):
    laid, path, _ = known
    other = laid.path(rules(process), marking=Marking(bends="whole"))

    fault = fault_of(laid, path, laid.program(other).text.splitlines())

    assert "off its size" in fault


def test_a_cut_in_the_middle_of_a_part_is_found(known):
    """It comes near no contour: the circle of a hole is cut where the plate has none."""
    laid, path, lines = known
    rows = next(r for r in stretches(lines) if any("G2 " in lines[i] for i in r))
    begin = rows[0] - 2
    moved = list(lines)
    for i in range(begin, rows[-1] + 1):
        moved[i] = re.sub(r"X([\d.]+)", lambda m: f"X{float(m[1]) + 230:.4f}", lines[i])
    assert moved[begin].startswith("G0")

    assert "into a part" in fault_of(laid, path, moved)
