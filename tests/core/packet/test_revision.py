"""What a revision changed, told in words with the place: each change by itself, and no other."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.blank.drawn import drawn_blank
from kaigata.core.formats.blank_files import blank_document
from kaigata.core.formats.documents import MarkDocument
from kaigata.core.packet.revision import compare_blanks
from kaigata.core.plane import Contour, Motion, Region

HOLES = ((30, 30, 5), (90, 30, 5), (170, 70, 8))
BENDS = ((50, True), (120, False))


def plate(outer=None, *, holes=HOLES, bends=BENDS, thickness=2.0, size=(200, 100)):
    """The document of a plate with round holes (x, y, radius) and upright bends (x, is up)."""
    region = Region.oriented(
        outer or Contour.rectangle(*size), tuple(Contour.circle((x, y), r) for x, y, r in holes)
    )
    height = region.outer.bounds[3]
    lines = [([((x, 0.0), (x, height))], is_up) for x, is_up in bends]
    return blank_document(drawn_blank("plate", region, lines, thickness=thickness, k=0.44))


def notched(*corners):
    """A plate without 10 mm squares at some of its corners."""
    rows = []
    for (x, y), turn in zip([(0, 0), (200, 0), (200, 100), (0, 100)], range(4), strict=True):
        if (x, y) not in corners:
            rows.append((x, y))
            continue
        dx, dy = (10 if x == 0 else -10), (10 if y == 0 else -10)
        steps = [(x, y + dy), (x + dx, y + dy), (x + dx, y)]
        rows += steps if turn % 2 == 0 else steps[::-1]
    return Contour.through(rows)


def told(old, new):
    return [(c.kind, c.text) for c in compare_blanks(old, new)]


@given(st.permutations(HOLES), st.permutations(BENDS))
def test_the_same_blank_written_in_another_order_has_no_change(holes, bends):
    assert compare_blanks(plate(), plate(holes=holes, bends=bends)) == []


def test_another_thickness_is_a_change_of_the_sheet():
    assert told(plate(bends=()), plate(bends=(), thickness=3.0)) == [
        ("sheet", "Thickness 2 became 3 mm")
    ]


def test_another_size_is_said_once_with_both_sizes():
    (change,) = compare_blanks(plate(bends=()), plate(bends=(), size=(210, 100)))

    assert change.text == "Blank 200.00 x 100.00 became 210.00 x 100.00 mm"
    # Told where it has grown.
    assert 200 < change.at[0] < 210


@pytest.mark.parametrize(
    ("corners", "text"),
    [
        ([(200, 100)], "Outline changed in 1 place, 100.0 mm2 in all"),
        ([(0, 0), (200, 100)], "Outline changed in 2 places, 200.0 mm2 in all"),
    ],
)
def test_an_outline_that_keeps_its_size_is_told_by_what_is_gone(corners, text):
    (change,) = compare_blanks(plate(bends=()), plate(notched(*corners), bends=()))

    assert (change.kind, change.text) == ("outline", text)
    x, y = change.at
    assert any(abs(x - cx) < 10 and abs(y - cy) < 10 for cx, cy in corners)


def test_what_no_gauge_could_show_is_no_change():
    rows = [(0, 0), (200, 0), (200, 100), (100, 100.004), (0, 100)]

    assert compare_blanks(plate(bends=()), plate(Contour.through(rows), bends=())) == []


@pytest.mark.parametrize(
    ("holes", "texts"),
    [
        (HOLES[1:], ["Hole at 30.0, 30.0 taken out"]),
        ([*HOLES, (150, 20, 3)], ["Hole at 150.0, 20.0 added"]),
        ([(40, 30, 5), *HOLES[1:]], ["Hole moved from 30.0, 30.0 to 40.0, 30.0"]),
        ([(30, 30, 6), *HOLES[1:]], ["Hole at 30.0, 30.0: as wide as 10.00, now 12.00 mm"]),
        (
            [*HOLES[:2], (100, 80, 3)],
            ["Hole at 170.0, 70.0 taken out", "Hole at 100.0, 80.0 added"],
        ),
    ],
)
def test_a_hole_is_told_by_what_became_of_it(holes, texts):
    assert told(plate(bends=()), plate(bends=(), holes=holes)) == [("hole", t) for t in texts]


SLOT = Contour(((-20.0, -4.0, 0.0), (20.0, -4.0, 1.0), (20.0, 4.0, 0.0), (-20.0, 4.0, 1.0)))
SIDE = math.sqrt(320 + 16 * math.pi)


def with_hole(hole, *, at=(60.0, 50.0), degrees=0.0):
    laid = hole.moved(Motion.turned(math.radians(degrees))).moved(Motion(x=at[0], y=at[1]))
    region = Region.oriented(Contour.rectangle(200, 100), (laid,))
    return blank_document(drawn_blank("plate", region, [], thickness=2.0, k=0.44))


@pytest.mark.parametrize("degrees", [90, 45, -30, 2])
def test_a_slot_that_was_turned_in_its_place_is_told(degrees):
    said = told(with_hole(SLOT), with_hole(SLOT, degrees=degrees))

    assert said == [("hole", "Hole at 60.0, 50.0: turned, or of another shape of the same area")]
    assert told(with_hole(SLOT), with_hole(SLOT, degrees=180)) == []


def test_a_hole_of_another_shape_and_the_same_area_is_told():
    square = Contour.rectangle(SIDE, SIDE).moved(Motion(x=-SIDE / 2, y=-SIDE / 2))

    ((_, text),) = told(with_hole(SLOT), with_hole(square))

    assert text.endswith("of another shape of the same area")


def test_a_slot_that_moved_is_no_other_slot():
    said = told(with_hole(SLOT), with_hole(SLOT, at=(90.0, 50.0)))

    assert said == [("hole", "Hole moved from 60.0, 50.0 to 90.0, 50.0")]


@pytest.mark.parametrize("radius", [1.5, 20.0, 45.0])
@pytest.mark.parametrize("begins", [10.0, 33.3, 90.0])
def test_where_a_round_hole_begins_is_no_change(radius, begins):
    hole = Contour.circle((0, 0), radius)

    assert told(with_hole(hole), with_hole(hole, degrees=begins)) == []


def test_a_bend_that_runs_the_other_way_is_told_though_its_middle_stays():
    def bent(start, end):
        region = Region.oriented(Contour.rectangle(100, 100))
        return blank_document(
            drawn_blank("plate", region, [([(start, end)], True)], thickness=2.0, k=0.44)
        )

    level, upright = bent((0.0, 50.0), (100.0, 50.0)), bent((50.0, 0.0), (50.0, 100.0))

    assert told(level, upright) == [("bend", "Bend 1: turned about its middle")]
    assert told(level, bent((100.0, 50.0), (0.0, 50.0))) == []


@given(st.integers(2, 12), st.data())
def test_of_many_holes_just_the_one_that_is_gone_is_told(count, data):
    holes = [(10 + 15 * i, 20 + 40 * (i % 2), 4) for i in range(count)]
    gone = data.draw(st.sampled_from(holes))
    left = data.draw(st.permutations([h for h in holes if h != gone]))

    (change,) = compare_blanks(plate(bends=(), holes=holes), plate(bends=(), holes=left))

    assert "taken out" in change.text
    assert change.at == gone[:2]


@pytest.mark.parametrize("gone", [0, 1, 2])
def test_the_bend_that_was_taken_out_is_the_one_named(gone):
    bends = [(40, True), (100, False), (160, True)]
    left = [b for i, b in enumerate(bends) if i != gone]

    (change,) = compare_blanks(plate(bends=bends), plate(bends=left))

    assert change.kind == "bend"
    assert change.text.endswith("taken out")
    assert change.at == (bends[gone][0], 50)


def test_a_bend_that_was_added_is_named_at_its_place():
    (change,) = compare_blanks(plate(), plate(bends=[*BENDS, (160, True)]))

    assert change.text.endswith("added")
    assert change.at == (160, 50)


def test_a_bend_tells_all_that_is_new_of_it_in_one_line():
    old, new = plate(), plate(bends=((53, False), BENDS[1]))

    (change,) = compare_blanks(old, new)

    assert change.text.partition(": ")[2] == "up became down, moved by 3.00 mm"
    assert change.at == (53, 50)


def test_a_thicker_sheet_is_told_beside_the_radii_that_follow_it():
    kinds = [c.kind for c in compare_blanks(plate(), plate(thickness=3.0))]

    assert kinds == ["sheet", "bend", "bend"]


def test_a_shorter_bend_tells_both_lengths():
    old, new = plate(), plate()
    bend = new.bends[0].model_copy(update={"length": 80.0, "inside_radius": 2.5})
    new = new.model_copy(update={"bends": [bend, *new.bends[1:]]})

    (change,) = compare_blanks(old, new)

    assert "radius 2 became 2.5 mm, length 100.00 became 80.00 mm" in change.text


SINK = ("countersink", (30.0, 30.0), 10.0, "countersink 10 x 90 deg")
THREAD = ("tapped-hole", (90.0, 30.0), 5.0, "M6")
FORM = ("formed", (150.0, 50.0), 12.0, "form 2.00 mm up")


def marked(*marks):
    rows = [MarkDocument(kind=k, at=at, diameter=d, note=n) for k, at, d, n in marks]
    return plate(bends=()).model_copy(update={"marks": rows})


@pytest.mark.parametrize(
    ("marks", "said"),
    [
        ((FORM, THREAD, SINK), []),
        ((SINK, FORM), ["At 90.0, 30.0: M6 taken out"]),
        ((SINK, THREAD, FORM, (*THREAD[:1], (10.0, 10.0), 5.0, "M6")), ["At 10.0, 10.0: M6 added"]),
        (
            ((*SINK[:3], f"{SINK[3]}, other side"), THREAD, FORM),
            [f"At 30.0, 30.0: {SINK[3]} became {SINK[3]}, other side"],
        ),
        (
            (SINK, THREAD, ("formed", (150.0, 60.0), *FORM[2:])),
            ["At 150.0, 50.0: form 2.00 mm up moved to 150.0, 60.0"],
        ),
    ],
)
def test_what_is_made_at_another_bench_is_a_change_when_it_differs(marks, said):
    assert told(marked(SINK, THREAD, FORM), marked(*marks)) == [("mark", text) for text in said]
