"""Sizes chosen for a drawing: measured on the part, beside the flat, followed, told when lost."""

import math
from dataclasses import replace
from itertools import pairwise

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from kaigata.core.blank.corners import CornerRule, with_corners
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import blank_document
from kaigata.core.formats.drawing_files import DrawingChoice
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.markup import (
    INCH,
    INCH_FRACTIONS,
    MILLIMETRE,
    ChosenSize,
    Feature,
    Markup,
    Title,
    differences,
    draw_blank,
    features,
    followed,
    lost_sizes,
    measured,
    moved_size,
)
from kaigata.core.markup.page import Box
from kaigata.core.packet.checks import check_drawings
from kaigata.core.plane import Contour, Motion, Region
from tests.core.markup.given import DEMO, demo, plate
from tests.core.markup.test_sheets import box_of

PLATE = plate(200, 100, bends=[(50, True)], holes=[(80, 40, 5), (120, 60, 8)])


def chosen(way, start, end=None, **tolerance):
    return ChosenSize(way=way, start=start, end=end or start, **tolerance)


def drawn(sizes, blank=PLATE, unit=MILLIMETRE, **options):
    return draw_blank(blank, Title(part="Plate"), unit=unit, markup=Markup(sizes=tuple(sizes)),
                      **options)  # fmt: skip


def figures(drawing):
    return {s.index: s.figure for s in drawing.flat.sizes}


def texts(drawing):
    return [w.text for w in drawing.pages[0].words]


@pytest.mark.parametrize(
    ("size", "figure"),
    [
        (chosen("level", (80, 40), (120, 60)), "40.00"),
        (chosen("upright", (80, 40), (120, 60)), "20.00"),
        (chosen("straight", (80, 40), (120, 60)), "44.72"),
        (chosen("level", (50, 50), (80, 40)), "30.00"),
        (chosen("upright", (120, 60), (200, 100)), "40.00"),
        (chosen("round", (120, 60)), "ø16.00"),
        (chosen("level", (0, 33), (80, 40)), "80.00"),
        (chosen("upright", (70, 0), (200, 81)), "81.00"),
    ],
    ids=str,
)
def test_a_size_is_what_lies_between_its_ends(size, figure):
    drawing = drawn([size])

    assert figures(drawing) == {0: figure}
    assert figure in texts(drawing)
    assert differences(drawing, PLATE, MILLIMETRE) == []


def test_a_size_follows_the_unit_of_the_drawing():
    drawing = drawn([chosen("level", (80, 40), (120, 60), upper=0.254, lower=0)], unit=INCH)

    assert figures(drawing) == {0: "1.575"}
    assert {"+0.01", "0"} <= set(texts(drawing))
    assert differences(drawing, PLATE, INCH) == []


def test_of_an_arc_its_radius_is_told():
    corner = Contour(((0, 0, 0), (60, 0, 0), (60, 30, math.tan(math.pi / 8)), (50, 40, 0),
                      (0, 40, 0)))  # fmt: skip
    blank = replace(PLATE, region=Region(corner), bends=())
    drawing = drawn([chosen("round", (50, 30))], blank)

    assert figures(drawing) == {0: "R10.00"}
    assert differences(drawing, blank, MILLIMETRE) == []
    rim, middle = drawing.flat.sizes[0].tips
    assert math.atan2(rim[1] - middle[1], rim[0] - middle[0]) == pytest.approx(math.pi / 4)


@pytest.mark.parametrize(
    ("upper", "lower", "said"),
    [(0.1, -0.1, ["±0.1"]), (0.1, -0.2, ["+0.1", "−0.2"]), (0.05, 0, ["+0.05", "0"]),
     (-0.1, -0.3, ["−0.1", "−0.3"]), (0.005, -0.005, ["±0.005"]),
     (0.0004, -0.0004, ["±0.0004"]), (0.1, -0.00002, ["+0.1", "−0.00002"]), (0, 0, [])],
)  # fmt: skip
def test_a_tolerance_stands_after_its_size(upper, lower, said):
    size = chosen("level", (80, 40), (120, 60), upper=upper, lower=lower)
    drawing = drawn([size])

    words = drawing.pages[0].words
    at = next(i for i, w in enumerate(words) if w.text == "40.00" and w.size == 3.0)
    assert [w.text for w in words[at + 1 : at + 1 + len(said)]] == said
    assert all(w.at[0] > words[at].at[0] for w in words[at + 1 : at + 1 + len(said)])
    assert differences(drawing, PLATE, MILLIMETRE) == []


@pytest.mark.parametrize("written", [(), ("±0.2",), ("+0.1", "−0.2"), ("−0.1", "+0.1"), ("±0",)])
@pytest.mark.parametrize("ends", [((80, 40), (120, 60)), ((0, 0), (200, 100))])
def test_a_tolerance_that_is_not_as_chosen_is_found_out(written, ends):
    drawing = drawn([chosen("level", *ends, upper=0.1, lower=-0.1)])
    flat = drawing.flat
    wrong = replace(
        flat,
        sizes=tuple(replace(s, tolerance=written) for s in flat.sizes),
        overall=tuple((index, written) for index, _ in flat.overall),
    )
    told = differences(replace(drawing, flat=wrong), PLATE, MILLIMETRE)
    figures = " ".join(written) or "nowhere"
    assert f"the tolerance of chosen size 1 is written {figures} mm, it is +0.1 -0.1 mm" in told


def test_a_tolerance_that_was_not_written_is_found_out():
    drawing = drawn([chosen("level", (80, 40), (120, 60), upper=0.1, lower=-0.1)])
    page = drawing.pages[0]
    page.words[:] = [w for w in page.words if w.text != "±0.1"]
    assert differences(drawing, PLATE, MILLIMETRE) == [
        "the tolerance of chosen size 1 is not on the sheet"
    ]


def test_two_tolerances_of_the_whole_width_are_no_drawing():
    sizes = [
        chosen("level", (0, 0), (200, y), upper=v, lower=-v) for y, v in ((0, 0.1), (100, 0.3))
    ]
    (told,) = differences(drawn(sizes), PLATE, MILLIMETRE)
    assert told == "the tolerance of chosen size 1 is written ±0.3 mm, it is +0.1 -0.1 mm"


def test_the_tolerance_of_the_whole_width_stands_at_the_overall_size():
    drawing = drawn([chosen("level", (0, 0), (200, 100), upper=0.3, lower=-0.3)])

    assert drawing.flat.sizes == ()
    assert texts(drawing).count("200.00") == 1
    assert "±0.3" in texts(drawing)
    assert differences(drawing, PLATE, MILLIMETRE) == []


@pytest.mark.parametrize(
    "wrong", [{"upper": 0.1}, {"upper": -0.2, "lower": 0.1}, {"upper": 1e9, "lower": 0},
              {"way": "round about"}, {"start": (math.nan, 0)}]
)  # fmt: skip
def test_a_size_that_says_no_size_is_refused(wrong):
    with pytest.raises(ValidationError):
        ChosenSize.model_validate({"way": "level", "start": (0, 0), "end": (5, 0), **wrong})


@pytest.mark.parametrize("paper", ["A4", "A3"])
@pytest.mark.parametrize("name", DEMO)
def test_many_sizes_of_real_parts_stand_clear_of_each_other_and_on_the_paper(name, paper):
    blank, _ = demo(name)
    places = list(features(blank))
    some = places[:: max(1, len(places) // 9)]
    ways = ("level", "upright", "straight")
    sizes = [chosen(ways[i % 3], a.at, b.at, upper=0.1, lower=-0.2 * (i % 2))
             for i, (a, b) in enumerate(pairwise(some))]  # fmt: skip
    sizes += [chosen("round", f.at) for f in some if f.radius]
    drawing = drawn(sizes, blank, paper=paper)
    pages_pdf(drawing.pages, title=name)

    assert differences(drawing, blank, MILLIMETRE) == []
    page = drawing.pages[0]
    inside = _paper(page)
    beside = [(w.text, box_of(w)) for w in page.words if _is_beside(w, drawing)]
    assert [t for t, b in beside if not inside.holds(b)] == []
    meeting = [(t, u) for i, (t, a) in enumerate(beside) for u, b in beside[:i] if a.meets(b)]
    assert meeting == []


def _paper(page):
    return Box(left=20, bottom=10, right=page.width - 10, top=page.height - 10)


def _is_beside(word, drawing):
    """Whether a word stands in the rows over the flat or the columns right of it.

    What is measured slantwise is left out: the bounds of slanted words overlap where they do not.
    """
    flat, page = drawing.flat, drawing.pages[0]
    (x, y), (u, v) = flat.at, word.at
    is_square = abs(word.turn / (math.pi / 2) % 1) < 1e-9
    return is_square and v > y + flat.height and x <= u < page.width - 110


def test_sizes_beside_the_flat_never_cross_it():
    across = [((80, 40), (120, 60)), ((0, 0), (50, 50)), ((50, 50), (200, 0))]
    upwards = [((80, 40), (120, 60))]
    drawing = drawn(
        [chosen("level", *p) for p in across] + [chosen("upright", *p) for p in upwards]
    )
    flat = drawing.flat

    assert len(flat.sizes) == 4
    for size in flat.sizes:
        axis = 0 if drawing.chosen[size.index].way == "level" else 1
        far = (flat.at[1] + flat.height, flat.at[0] + flat.width)[axis]
        assert all(tip[1 - axis] > far for tip in size.tips)


def test_room_for_sizes_comes_off_the_scale_not_off_the_sheet():
    blank = plate(390, 380, holes=[(10.0 * i, 5.0 * i, 2) for i in range(1, 30)])
    sizes = [chosen("level", (0, 0), (10.0 * i, 5.0 * i)) for i in range(1, 16)]

    few, many = drawn(sizes[:1], blank, paper="A4"), drawn(sizes, blank, paper="A4")

    assert many.flat.scale < few.flat.scale
    assert len(many.flat.sizes) == 15


def test_a_leader_stays_on_its_side_of_the_sheet():
    blank = plate(390, 100, holes=[(385.0, 50.0, 3)])
    drawing = drawn([chosen("round", (385, 50), upper=0.1, lower=-0.3)], blank, paper="A4")
    (figure,) = [w for w in drawing.pages[0].words if w.text == "ø6.00" and w.size == 3.0]
    # The tables begin beyond the views.
    assert box_of(figure).right < 297 - 10 - 92


def test_sizes_that_leave_the_flat_no_room_take_larger_paper_or_are_refused():
    blank = plate(390, 200, holes=[(5.0 * i, 3.0 * i, 1) for i in range(1, 31)])
    sizes = [chosen("level", (0, 0), (5.0 * i, 3.0 * i)) for i in range(1, 31)]

    large = drawn(sizes, blank)

    assert large.pages[0].width > 420
    assert differences(large, blank, MILLIMETRE) == []
    with pytest.raises(InputError, match="30 chosen sizes beside the flat leave it no room"):
        drawn(sizes, blank, paper="A4")


@pytest.mark.parametrize("spoilt", ["figure", "arrows"])
def test_a_size_drawn_otherwise_than_chosen_is_told(spoilt):
    drawing = drawn([chosen("level", (80, 40), (120, 60))])
    page = drawing.pages[0]
    if spoilt == "figure":
        at = next(i for i, w in enumerate(page.words) if w.text == "40.00" and w.size == 3.0)
        page.words[at] = replace(page.words[at], text="40.10")
    else:
        _move_arrows(page)

    assert "chosen size 1 is not on the sheet" in differences(drawing, PLATE, MILLIMETRE)


def _move_arrows(page):
    page.fills[:] = [replace(f, points=tuple((x + 3, y) for x, y in f.points)) for f in page.fills]


def test_a_drawing_whose_size_is_of_another_part_is_found_out():
    drawing = drawn([chosen("level", (80, 40), (120, 60))])
    other = plate(200, 100, bends=[(50, True)], holes=[(80, 40, 5), (121, 60, 8)])

    assert "chosen size 1 meets the part no more" in differences(drawing, other, MILLIMETRE)


def test_a_size_that_meets_nothing_is_left_out_and_stops_the_release():
    lost = chosen("level", (81, 40), (120, 60))
    drawing = drawn([lost, chosen("round", (50, 50))])

    assert (drawing.flat.sizes, drawing.flat.lost) == ((), (0, 1))
    assert lost_sizes(drawing)[0].startswith("chosen size 1 meets the part no more")
    document = blank_document(PLATE)
    check = check_drawings([document], {document.part: DrawingChoice(markup=Markup(sizes=(lost,)))})
    assert check.state == "failed"
    assert "Plate: chosen size 1 meets the part no more" in check.said


@pytest.mark.parametrize(
    ("degrees", "way"), [(0, "level"), (90, "upright"), (180, "level"), (270, "upright")]
)
def test_a_size_turns_with_the_flat(degrees, way):
    turn = Motion.turned(math.radians(degrees), x=100, y=200)
    blank = PLATE.moved(turn)
    size = chosen("level", (80, 40), (120, 60))
    moved = moved_size(size, (turn.point(size.start), turn.point(size.end)), turn)

    assert moved.way == way
    x0, y0, _, _ = blank.region.outer.bounds
    level = blank.moved(Motion(x=-x0, y=-y0))
    shift = Motion(x=-x0, y=-y0)
    moved = moved_size(moved, (shift.point(moved.start), shift.point(moved.end)), shift)
    assert figures(drawn([moved], level)) == {0: "40.00"}


def test_a_place_beside_the_middle_of_a_bend_line_stays_there_however_its_panels_went():
    line = ((20.0, 0.0), (20.0, 100.0))
    before = [Feature(at=(20.0, 50.0), kind="bend", along=line)]
    turn = Motion.turned(math.pi / 2, x=100.0)
    # The bend's own middle was taken a little off by one of its panels, and lies elsewhere now.
    now = Feature(at=turn.point((19.6, 50.0)), kind="bend")
    found = followed((20.0, 30.0), turn, before, [turn.point((20.3, 50.0))], [now])
    assert found == pytest.approx(turn.point((19.6, 30.0)))
    assert followed((7.0, 7.0), turn, before, [(0.0, 0.0)], [now]) == turn.point((7.0, 7.0))


def test_a_size_to_an_edge_stays_when_its_corners_are_rounded():
    size = chosen("level", (0, 50), (200, 50), upper=0.1, lower=0)
    rounded = with_corners(PLATE, [CornerRule(kind="round", size=9)])

    drawing = drawn([size], rounded)

    assert (drawing.flat.lost, texts(drawing).count("200.00")) == ((), 1)
    assert "+0.1" in texts(drawing)
    assert drawn([chosen("level", (0, 0), (200, 50))], rounded).flat.lost == (0,)


def places(*points, kind="hole"):
    return [Feature(at=p, kind=kind) for p in points]


def test_a_place_that_moved_in_a_revision_is_followed():
    before = places((10, 10), (50, 10))
    after = places((10, 10), (54, 12))
    assert followed((50, 10), Motion(), before, [f.at for f in before], after) == (54, 12)


@pytest.mark.parametrize(
    ("after", "why"),
    [
        (places((10, 10)), "the one nearest now is that of another"),
        (places((10, 10), (50, 90)), "too far"),
        (places((10, 10)) + places((51, 10), kind="corner"), "of another kind"),
    ],
)
def test_a_place_that_is_gone_stays_where_it_was(after, why):
    before = places((10, 10), (50, 10))
    assert followed((50, 10), Motion(), before, [f.at for f in before], after) == (50, 10), why


@st.composite
def sized_plates(draw):
    """Any plate with holes, and sizes between any places of it."""
    wide, high = draw(st.integers(40, 900)), draw(st.integers(30, 600))
    spots = st.tuples(st.floats(0.1, 0.9), st.floats(0.1, 0.9))
    at = draw(st.lists(spots, min_size=2, max_size=7, unique=True))
    holes = [(round(x * wide, 3), round(y * high, 3), 2.0) for x, y in at]
    blank = plate(wide, high, bends=[(wide * 0.45, True)], holes=holes)
    found = list(features(blank))
    ends = st.tuples(st.sampled_from(found), st.sampled_from(found))
    ways = st.sampled_from(["level", "upright", "straight"])
    within = st.sampled_from([{}, {"upper": 0.1, "lower": -0.1}, {"upper": 0.3, "lower": 0.05}])
    some = draw(st.lists(st.tuples(ways, ends, within), max_size=9))
    return blank, [chosen(w, a.at, b.at, **t) for w, (a, b), t in some]


@settings(max_examples=40, deadline=None)
@given(sized_plates(), st.sampled_from([MILLIMETRE, INCH, INCH_FRACTIONS[32]]))
def test_any_sizes_of_any_plate_are_drawn_as_they_are(made, unit):
    blank, sizes = made
    drawing = drawn(sizes, blank, unit=unit)

    assert differences(drawing, blank, unit) == []
    lost, overall = set(drawing.flat.lost), 0
    places = list(features(blank))
    for i, size in enumerate(sizes):
        found = measured(size, places)
        assert (found is None) == (i in lost)
        overall += found is not None and i not in {s.index for s in drawing.flat.sizes}
    assert len(drawing.flat.sizes) + len(lost) + overall == len(sizes)
    rows = {}
    for s in drawing.flat.sizes:
        (x0, y0), (x1, y1) = s.tips
        for axis, low, high, line in ((0, x0, x1, y0), (1, y0, y1, x0)):
            if s.tips[0][1 - axis] == s.tips[1][1 - axis]:
                rows.setdefault((axis, round(line, 6)), []).append((low, high))
    for spans in rows.values():
        ordered = sorted(spans)
        assert all(a[1] <= b[0] for a, b in pairwise(ordered))
