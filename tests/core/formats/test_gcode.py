"""What is written in any dialect is read back as the same cuts; what is wrong is told by line."""

import math
from itertools import pairwise

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from kaigata.core.cut import Marking, Post, find_post
from kaigata.core.cut.posts import corner_of
from kaigata.core.errors import InputError
from kaigata.core.formats.gcode import gcode
from kaigata.core.formats.gcode_reader import looped, read_program
from kaigata.core.plane import Contour, Segment
from tests.core.cut.given import BENT, PLATE, Laid, rules
from tests.strategies import rounded_rectangles, stars

PLAIN = find_post("plain")
SHEET = (500, 300)


@pytest.fixture(scope="module")
def path():
    """A path with arcs, holes and marks."""
    ring = {
        "outer": [[0, 40, 1], [80, 40, 1]],
        "holes": [[[25, 40, -1], [55, 40, -1]]],
    }
    laid = Laid({"ring": ring, "plate": {**PLATE, "bends": BENT}},
                [("ring", 20, 20), ("plate", 150, 20), ("ring", 300, 120)], SHEET)  # fmt: skip
    return laid.path(rules("laser"), marking=Marking(bends="whole"))


def own_post(**words):
    """A post, or none where the words make no sense together."""
    try:
        return Post(**words)
    except ValidationError:
        return None


posts = st.builds(
    own_post,
    name=st.just("own"),
    title=st.just("Own"),
    units=st.sampled_from(["mm", "in"]),
    decimals=st.integers(3, 7),
    arcs=st.sampled_from(["centre", "radius"]),
    line_step=st.sampled_from([0, 1, 10]),
    beam_on=st.sampled_from(["M3", "M62 P1", "G65 P7.1"]),
    beam_off=st.sampled_from(["M5", "M63 P1"]),
    mark_on=st.just("M13"),
    mark_off=st.just("M15"),
    dwell=st.sampled_from(["none", "seconds", "milliseconds"]),
    zero=st.sampled_from(["lower-left", "lower-right", "upper-left", "upper-right"]),
    remarks=st.sampled_from(["parentheses", "semicolon", "none"]),
    program_name=st.sampled_from(["", "O{number}"]),
    percent=st.booleans(),
).filter(bool)


@settings(max_examples=200)
@given(post=posts)
def test_any_dialect_says_the_same_cuts(path, post):
    zero = corner_of(*SHEET, post.zero)

    done = read_program(gcode(path, post, zero=zero, title="Order (7)"), post, zero=zero)

    # A unit in the last place, in mm, at each end of each move.
    near = 2 * 10.0**-post.decimals / post.scale
    assert [s.is_mark for s in done] == [r.kind == "mark" for r in path.runs]
    for stretch, run in zip(done, path.runs, strict=True):
        assert math.dist(stretch.segments[0].start, run.segments[0].start) < near
        assert math.dist(stretch.segments[-1].end, run.segments[-1].end) < near
        length = math.fsum(s.length for s in run.segments)
        assert math.fsum(s.length for s in stretch.segments) == pytest.approx(length, abs=0.02)


@given(st.floats(20, 80), st.floats(20, 40), st.floats(3, 15), st.floats(10, 380), posts)
def test_round_holes_stay_round_wherever_they_lie(x, y, radius, place, post):
    hole = [[x - radius, y, -1], [x + radius, y, -1]]
    laid = Laid({"plate": {**PLATE, "holes": [hole]}}, [("plate", place, place / 3)], SHEET)

    done = read_program(gcode(laid.path(rules("laser")), post), post)

    # The radii of an arc's two ends agree, or reading would refuse them.
    assert len(done) == 2


@pytest.mark.parametrize(
    ("units", "arcs", "least"), [("mm", "centre", 3), ("in", "centre", 5), ("in", "radius", 4)]
)
def test_a_post_has_decimals_enough_for_round_arcs(units, arcs, least):
    words = {"name": "own", "title": "Own", "units": units, "arcs": arcs}

    assert Post(**words, decimals=least).decimals == least
    with pytest.raises(ValidationError, match="decimals"):
        Post(**words, decimals=least - 1)


@given(post=posts)
def test_no_line_holds_what_a_plain_controller_cannot_read(path, post):
    program = gcode(path, post, title="Höhe (3 mm) – «neu»")

    assert program.isascii()
    assert program.endswith("\n")
    for line in program.splitlines():
        assert line == line.strip() != ""
        assert line.count("(") == line.count(")") <= 1
        assert "e-" not in line.partition("(")[0]


def cuts(*lines, post=PLAIN, **options):
    return read_program("\n".join(["G21 G90", *lines]), post, **options)


def test_words_hold_until_others_are_said():
    (cut,) = cuts("G0 X10 Y10", "M3", "G1 X20", "Y20", "G2 X30 Y10 I0 J-10", "X20 Y0 I-10", "M5")

    ends = [s.end for s in cut.segments]
    assert ends[:2] == [(20, 10), (20, 20)]
    assert ends[-1] == pytest.approx((20, 0))
    assert [s.is_line for s in cut.segments] == [True, True, False, False]


def test_numbers_remarks_and_spaces_say_nothing():
    plain = cuts("M3", "G1 X10 Y5", "M5")

    assert cuts("%", "N10 (G1 X99) M3 (on)", "N20 G1X10Y5 ; G1 X99", "", "N30 M5", "%") == plain


def test_inches_are_millimetres_after_reading():
    (cut,) = cuts("G20", "M3", "G1 X1", "G3 X3 Y0 I1 J0", "M5")

    assert cut.segments[0].end == (25.4, 0)
    assert cut.segments[-1].end == pytest.approx((76.2, 0))
    assert {round(s.radius, 9) for s in cut.segments[1:]} == {25.4}


@pytest.mark.parametrize(("word", "side"), [("G2", 1), ("G3", -1)])
def test_a_whole_turn_comes_back_on_the_side_it_says(word, side):
    (cut,) = cuts("M3", f"{word} X0 Y0 I10 J0", "M5")

    assert math.fsum(s.length for s in cut.segments) == pytest.approx(20 * math.pi)
    assert math.copysign(1, cut.segments[0].at(0.5)[1]) == side


@given(st.floats(0.05, math.pi / 2 - 0.01), st.floats(1, 200), st.booleans())
def test_an_arc_by_its_radius_is_the_short_one(turn, radius, is_left):
    to = (radius * math.sin(turn), radius * (1 - math.cos(turn)) * (1 if is_left else -1))
    word = "G3" if is_left else "G2"

    (cut,) = cuts("M3", f"{word} X{to[0]:.9f} Y{to[1]:.9f} R{radius:.9f}", "M5")

    assert math.fsum(s.length for s in cut.segments) == pytest.approx(radius * turn, rel=1e-4)
    assert cut.segments[0].heading(0.0) == pytest.approx((1, 0), abs=1e-3)


@pytest.mark.parametrize(
    ("lines", "text"),
    [
        (["M3", "G3 X10 Y0 R4", "M5"], "line 3: the ends of an arc of radius 4 are 10 apart"),
        (["M3", "G3 X0 Y0 R4", "M5"], "line 3: the ends of an arc of radius 4 are 0 apart"),
        (["M3", "G1 X1O Y0", "M5"], "line 3: cannot read 'G1 X1O Y0'"),
        (["M3", "g1 X10 Y0", "M5"], "line 3: cannot read 'g1 X10 Y0'"),
        (["M3", "G1 X10", "M30"], "program: the beam is on at the end"),
        (["M3", "G0 X10", "M5"], "line 3: a rapid with the beam on"),
    ],
)
def test_what_cannot_be_is_told_by_its_line(lines, text):
    with pytest.raises(InputError) as refused:
        cuts(*lines)

    assert str(refused.value).startswith(text)


def test_moves_with_the_beam_off_cut_nothing():
    assert cuts("G1 X10", "G3 X20 Y0 I5 J0", "G0 X0 Y0", "M30") == []


def test_a_mark_is_what_the_remark_says_where_commands_are_the_same():
    marked, cut = cuts("(mark)", "M3", "G1 X10", "M5", "M3", "G1 X0", "M5")

    assert (marked.is_mark, cut.is_mark) == (True, False)


@given(rounded_rectangles(), st.floats(0.05, 0.9))
def test_the_machine_keeps_a_round_outline_off_by_the_kerf(shape, radius):
    width, _, _, contour = shape
    # Where it is entered, the kerf must fit beside the way in.
    assume(radius < contour.segments[0].length / 2)
    # Entered in the middle of the lower edge, run round and a little over.
    segments = contour.segments
    first = segments[0]
    middle, over = first.at(0.5), min(first.length / 2, 1.0)
    at = ((middle[0] + over, middle[1]),)
    lines = [f"G0 X{middle[0]:.9f} Y-5", "M3", f"G42 G1 X{middle[0]:.9f} Y0"]
    for s in (first.part(0.5, 1.0), *segments[1:], first.part(0.0, 0.5)):
        ends = f"X{s.end[0]:.9f} Y{s.end[1]:.9f}"
        if s.is_line:
            lines.append(f"G1 {ends}")
        else:
            i, j = (c - p for c, p in zip(s.centre, s.start, strict=True))
            lines.append(f"G3 {ends} I{i:.9f} J{j:.9f}")
    lines += [f"G1 X{at[0][0]:.9f} Y0", "M5", "G40"]

    (cut,) = cuts(*lines, post=find_post("machine-kerf"), radius=radius)

    kept = Contour.of_segments(cut.loop)
    # Steiner's formula for what lies within a distance of a convex shape.
    grown = contour.area + contour.length * radius + math.pi * radius**2
    assert kept.area == pytest.approx(grown, rel=1e-6)
    assert kept.bounds[2] - kept.bounds[0] == pytest.approx(width + 2 * radius)


@given(stars(), st.floats(1, 5), st.floats(1, 5))
def test_a_cut_is_parted_into_its_way_in_its_loop_and_its_way_out(star, come, leave):
    start = star.segments[0].start
    way_in = Segment((start[0] + come, start[1] - come), start)
    way_out = Segment(start, (start[0] + leave, start[1] + leave))

    before, loop, after = looped([way_in, *star.segments, way_out])

    assert list(before) == [way_in]
    assert list(loop) == list(star.segments)
    assert list(after) == [way_out]


def test_a_move_of_a_hair_is_no_loop():
    hair = Segment((10, 0), (10, 1e-4))
    corners = [(10, 1e-4), (10, 10), (0, 10), (0, 0), (12, 0)]
    cut = [Segment((0, -3), (2, 0)), Segment((2, 0), (10, 0)), hair,
           *(Segment(a, b) for a, b in pairwise(corners))]  # fmt: skip

    before, loop, _ = looped(cut)

    assert list(before) == cut[:1]
    assert sum(s.length for s in loop) == pytest.approx(40)


def test_a_cut_that_closes_within_a_move_is_parted_there():
    square = Contour.rectangle(40, 30).segments
    along = Segment((0, 0), (25, 0))
    way_in = Segment((10, -5), (10, 0))

    before, loop, after = looped([way_in, Segment((10, 0), (40, 0)), *square[1:], along])

    assert list(before) == [way_in]
    assert math.fsum(s.length for s in loop) == pytest.approx(140)
    assert [(s.start, s.end) for s in after] == [((10, 0), (25, 0))]


def test_a_cut_that_closes_nowhere_is_all_way_in():
    run = [Segment((0, 0), (10, 0)), Segment((10, 0), (20, 5))]

    assert looped(run) == (run, [], [])
