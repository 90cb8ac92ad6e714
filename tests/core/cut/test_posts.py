"""Posts: every dialect read back, checked by the independent reader of G-code."""

import json
import math
from dataclasses import replace

import pytest
from pydantic import ValidationError

from kaigata.core.cut import Marking, Post, find_post, standard_posts
from kaigata.core.cut.posts import corner_of, post_schema
from kaigata.core.errors import InputError
from kaigata.core.formats.gcode_reader import read_program
from kaigata.core.formats.trial import trial_program
from tests.checks import TESTS
from tests.core.cut.given import PLATE, Laid, rules, small_order

HOLED = {
    "outer": [[0, 0], [100, 0], [100, 60], [70, 60], [70, 40], [0, 40]],
    "holes": [[[20, 20, -1], [30, 20, -1]], [[50, 10], [50, 20, -1], [60, 20], [60, 10, -1]]],
}


def laid():
    return Laid({"bracket": HOLED, "plate": PLATE},
                [("bracket", 20, 20), ("bracket", 20, 120), ("plate", 200, 20)])  # fmt: skip


@pytest.mark.parametrize("post", standard_posts(), ids=lambda p: p.name)
def test_every_standard_post_leaves_the_parts_true(post, tmp_path):
    known = laid()
    path = known.path(rules("laser"), by_machine=post.compensation == "machine", zero=post.zero)
    x, y = corner_of(500, 300, post.zero)

    line = known.check(path, tmp_path, "--comp", post.compensation, "--zero", f"{x},{y}",
                       "--allow", "G4,S,D,%", post=post)  # fmt: skip

    assert line.startswith("ok"), line
    assert known.cut_json(tmp_path)["zero"] == [x, y]


def test_a_posts_words_stand_in_its_program():
    known = laid()
    post = Post(
        name="own", title="Own", line_step=5, beam_on="M7 S800", beam_off="M8",
        dwell="milliseconds", program_name="O{number}", percent=True, remarks="semicolon",
        header=("; {order} {material} {thickness}",), footer=("G0 X0 Y0",), zero="upper-right",
    )  # fmt: skip

    lines = known.program(known.path(rules("laser")), post).text.splitlines()

    assert lines[:2] == ["%", "O1"]
    assert "N5 G21 G90 G17 G40" in lines
    assert any(line.endswith("M7 S800") for line in lines)
    assert any(line.endswith("G4 P400") for line in lines)
    assert not any("(" in line for line in lines)
    assert [line.split(" ", 1)[-1] for line in lines[-3:]] == ["G0 X0 Y0", "M30", "%"]
    moves = [line for line in lines if "X" in line and not line.startswith((";", "N5 "))]
    assert all("X-" in m or "X0" in m for m in moves)


def test_arcs_by_radius_are_read_back_as_the_same_arcs():
    known = laid()
    path = known.path(rules("laser"))
    program = known.program(path, Post(name="r", title="R", arcs="radius"))

    assert " R" in program.text
    assert " I" not in program.text
    assert program.proof.largest_deviation < 0.002


def test_a_machine_that_keeps_the_kerf_gets_the_parts_own_contour():
    known = laid()
    path = known.path(rules("plasma"), by_machine=True)
    text = known.program(path, find_post("machine-kerf")).text

    assert text.count("G42 G1") == len(path.passes)
    assert text.count("G40") == len(path.passes) + 1
    # The lower left corner of the first bracket itself, no kerf beside it.
    assert "X20 Y20" in text


@pytest.mark.parametrize("radius", [0.12, 0.3, 0.7])
def test_rounding_makes_no_corner_of_a_small_fillet(radius, tmp_path):
    """A machine finds no crossing where a rounded arc turns right by a hair before its line."""
    bulge = math.tan(math.pi / 8)
    w, h, r = 40, 24, radius
    outer = [[r, 0, 0], [w - r, 0, bulge], [w, r, 0], [w, h - r, bulge], [w - r, h, 0],
             [22, h, 0], [22, 12 + r, -bulge], [22 - r, 12, 0], [18 + r, 12, -bulge],
             [18, 12 + r, 0], [18, h, 0], [r, h, bulge], [0, h - r, 0], [0, r, bulge]]  # fmt: skip
    turns = [7.3 * k for k in range(1, 9)]
    places = [("f", 80 + 100 * (k % 4), 60 + 120 * (k // 4), t) for k, t in enumerate(turns)]
    known = Laid({"f": {"outer": outer, "holes": []}}, places)
    path = known.path(rules("laser"), by_machine=True)

    line = known.check(path, tmp_path, "--comp", "machine", post="machine-kerf")

    assert line.startswith("ok"), line


def test_what_the_machine_could_not_keep_off_is_refused_with_the_place():
    tight = {"outer": [[0, 0], [40, 0], [40, 20, 0], [20.3, 20], [20.3, 10], [19.7, 10], [19.7, 20],
                       [0, 20]], "holes": []}  # fmt: skip
    known = Laid({"slotted": tight}, [("slotted", 50, 50)])
    path = known.path(rules("plasma"), by_machine=True)

    with pytest.raises(InputError, match="not given out") as caught:
        known.program(path, find_post("machine-kerf"))

    assert "inside corner" in str(caught.value) or "off its size" in str(caught.value)


def test_a_contour_without_room_for_a_lead_is_come_to_with_the_beam_off(tmp_path):
    known = Laid({"plate": PLATE}, [("plate", 10, 10)])
    path = known.path(replace(rules("plasma"), lead_in=0.0), by_machine=True)

    text = known.program(path, find_post("machine-kerf")).text

    assert "M3\nG42" not in text
    line = known.check(path, tmp_path, "--comp", "machine", post="machine-kerf")
    assert line.startswith("ok"), line


@pytest.mark.parametrize("turn", [0.0, 0.6])
@pytest.mark.parametrize("process", ["laser", "plasma"])
@pytest.mark.parametrize("post", ["machine-kerf", "coarse"])
def test_joints_and_common_cuts_are_left_out_by_the_machine(process, turn, post, tmp_path):
    """Plates a kerf apart in rows, and a bracket with arcs, all held by joints."""
    kerf = rules(process).kerf
    width = 4 * kerf
    row = replace(rules(process), joint_width=width, joint_count=3.0, joint_arcs="yes")
    c, s = math.cos(turn), math.sin(turn)
    places = [
        ("plate", 250 + c * x - s * y, 40 + s * x + c * y, turn)
        for x in (0, 100 + kerf)
        for y in (0, 60 + kerf)
    ]
    known = Laid({"plate": PLATE, "bracket": HOLED}, [*places, ("bracket", 20, 20)])
    path = known.path(row, by_machine=True, common_cut=True)
    dialect = find_post("machine-kerf")
    if post == "coarse":
        dialect = dialect.model_copy(update={"decimals": 3})

    kinds = {g.kind for p in path.passes for g in p.gaps}
    program = known.program(path, dialect)

    assert kinds == {"joint", "shared"}
    assert program.text.count("\nM3\n") == path.pierces > len(path.passes)
    line = known.check(path, tmp_path, "--comp", "machine", "--joint", width, post=dialect)
    assert line.startswith("ok"), line


@pytest.mark.parametrize(
    ("program", "text"),
    [
        ("G21\nM3\nG42 G3 X10 Y0 I5 J0\nM5\nG40\n", "must be straight"),
        ("G21\nM3\nG42 G1 X0.1 Y0\nG1 X10 Y0\nM5\nG40\n", "longer than 0.2 mm"),
        ("G21\nM3\nG41 G1 X5 Y0\nM5\nG40\n", "G41"),
        ("G21\nM3\nG42 G1 X5 Y0\nG2 X5.2 Y0.1 I0.1 J0.05\nM5\nG40\n", "inside radius"),
    ],
)
def test_reader_refuses_what_a_machine_could_not_keep_off(program, text):
    with pytest.raises(InputError, match=text):
        read_program(program, find_post("machine-kerf"), radius=0.2)


ARCS = """G21
G0 X10.4329 Y98.4873
M3
G42 G1 X11.1051 Y96.0343
G3 X10.1504 Y93.8579 I2.2776 J-2.2966
G3 X10.7455 Y89.1084 {centre}
M5
G40
"""
"""Two arcs that meet in an inside corner of 2°, the second with a centre of its own."""


def test_an_inside_corner_that_rounding_has_moved_off_its_arcs_is_refused():
    """The first arc ends 0.00005 mm farther out than it began, where 0.00003 are too many."""
    post = find_post("machine-kerf")
    with pytest.raises(InputError, match=r"inside corner at 10\.15, 93\.86") as met:
        read_program(ARCS.format(centre="I12.3861 J-0.8601"), post, radius=0.05)
    assert met.value.where == "line 6"

    # Rounder, the second arc makes a corner that is deep enough.
    (cut,) = read_program(ARCS.format(centre="I4.3861 J-1.8624"), post, radius=0.05)
    assert len(cut.segments) == 3


def test_courses_that_only_touch_are_no_corner():
    """The way in runs half the kerf beside the middle of a slot of two kerfs."""
    program = (
        "G21\nG0 X5 Y0.1\nM3\nG42 G1 X0 Y0.1\nG2 X0.1 Y0.2 I0.1 J0\nG1 X9 Y0.2\n"
        "G2 X9 Y0 I0 J-0.1\nG1 X0.1 Y0\nG2 X0 Y0.1 I0 J0.1\nM5\nG40\n"
    )
    post = find_post("machine-kerf")

    assert read_program(program, post, radius=0.04)
    with pytest.raises(InputError, match=r"inside corner at 0\.00, 0\.10"):
        read_program(program, post, radius=0.05)


def test_a_square_kept_off_by_the_machine_runs_round_its_corners():
    corners = ["X10 Y0", "X10 Y10", "X0 Y10", "X0 Y0", "X6 Y0"]
    lines = ["G21", "G0 X5 Y-3", "M3", "G42 G1 X5 Y0", *(f"G1 {c}" for c in corners), "M5", "G40"]

    (cut,) = read_program("\n".join(lines), find_post("machine-kerf"), radius=0.5)

    xs = [x for s in cut.segments for x in (s.start[0], s.end[0])]
    assert (min(xs), max(xs)) == pytest.approx((-0.5, 10.5))
    assert sum(not s.is_line for s in cut.segments) == 4
    assert cut.segments[0].end == pytest.approx((5.5, -0.5))


@pytest.mark.parametrize(
    ("change", "place"),
    [
        ({"units": "furlong"}, "units"),
        ({"decimals": 1}, "decimals"),
        ({"beam_on": "burn"}, "beam_on"),
        ({"header": ["{weather}"]}, "header"),
        ({"name": "Not a name"}, "name"),
        ({"colour": "red"}, "colour"),
    ],
)
def test_a_post_that_makes_no_sense_is_refused_by_its_place(change, place):
    with pytest.raises(ValidationError, match=place):
        Post.model_validate({"name": "own", "title": "Own", **change})


def test_the_schema_names_every_field_of_a_post():
    schema = json.loads(post_schema())

    assert set(schema["properties"]) == set(Post.model_fields)
    assert schema["additionalProperties"] is False
    kept = (TESTS.parent / "docs" / "post.schema.json").read_text(encoding="utf-8")
    assert json.loads(kept) == schema


@pytest.mark.parametrize("corner", ["lower-left", "lower-right", "upper-left", "upper-right"])
def test_the_head_sets_out_at_the_work_zero(corner):
    known = laid()
    path = known.path(rules("laser"), zero=corner)
    program = known.program(path, Post(name="own", title="Own", zero=corner))

    assert path.rapids[0].start == corner_of(500, 300, corner) == program.zero
    assert program.path.rapid_length == pytest.approx(
        sum(math.dist(s.start, s.end) for s in path.rapids)
    )


@pytest.mark.parametrize(
    "words",
    [{"remarks": "semicolon"}, {"remarks": "parentheses"}, {"remarks": "none", "mark_on": "M7"}],
)
def test_marks_are_told_from_cuts_by_remark_or_by_command(words):
    known = laid()
    path = known.path(rules("laser"), marking=Marking(numbers=True))

    post = Post(name="own", title="Own", **words)
    done = read_program(known.program(path, post).text, post)

    assert [c.is_mark for c in done] == [r.kind == "mark" for r in path.runs]
    assert any(c.is_mark for c in done)


def test_a_post_that_cannot_tell_marks_from_cuts_marks_nothing():
    known = laid()
    mute = Post(name="mute", title="Mute", remarks="none")

    with pytest.raises(InputError, match="would be cut through"):
        known.program(known.path(rules("laser"), marking=Marking(numbers=True)), mute)
    assert known.program(known.path(rules("laser")), mute).proof.ok
    assert trial_program(mute)


def test_a_plain_order_is_still_plain():
    order = small_order()
    assert order.parts[0].bends == ()
    assert find_post(None).compensation == "path"
