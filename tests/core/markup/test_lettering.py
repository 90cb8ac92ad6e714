"""Drawings lettered as a shop wants them: notes by their fields, moved by hand, tables, remarks."""

import math
import re
from html import escape

import pytest
from pydantic import ValidationError

from kaigata.core.errors import InputError
from kaigata.core.formats.page_svg import page_svg
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.markup import (
    INCH,
    MILLIMETRE,
    BendFact,
    Lettering,
    Markup,
    MovedNote,
    NoteField,
    OwnField,
    Title,
    differences,
    draw_blank,
    left_open,
    require_room,
)
from kaigata.core.markup.page import Face, Pen
from tests.core.markup.given import demo, plate, stood
from tests.core.markup.test_sheets import box_of, texts

TWO = [(60, True), (140, False)]


@pytest.fixture(autouse=True)
def type_to_measure_with():
    pages_pdf([], title="")


def drawn(blank, lettering=None, markup=None, **options):
    drawing = draw_blank(
        blank, Title(part="Plate"), lettering=lettering or Lettering(), markup=markup or Markup(),
        **options,
    )  # fmt: skip
    assert differences(drawing, blank, options.get("unit", MILLIMETRE)) == []
    return drawing


def notes(drawing):
    """Return the lines that stand beside bends on the flat."""
    page = drawing.pages[0]
    return [w for w in page.words if w.face == Face.FIGURES and w.is_clear and w.text]


@pytest.mark.parametrize(
    ("fields", "said"),
    [
        ([("angle", "", ""), ("radius", " R", "")], ["90° R2"]),
        ([("direction", "", " "), ("included", "inside ", "")], ["up inside 90°"]),
        ([("k", "K ", ""), ("allowance", " BA ", " mm")], ["K .44 BA 4.5239 mm"]),
        ([("deduction", "BD ", ""), ("from-edge", " at ", "")], ["BD 3.4761 at 60"]),
        ([("sequence", "#", ""), ("length", " over ", "")], ["#1 over 100"]),
        ([], []),
    ],
)
def test_a_note_says_the_facts_it_is_told_to(fields, said):
    note = tuple(NoteField(says=f, before=b, after=a) for f, b, a in fields)
    drawing = drawn(plate(bends=[(60, True)]), Lettering(note=note, length_decimals=4))
    # K has three decimals but for zeros at the end.
    assert [w.text.replace(".440", ".44") for w in notes(drawing)] == said


def test_lengths_and_angles_have_their_own_decimals():
    blank, _ = demo("tool-tray")
    note = (NoteField(says=BendFact.ANGLE), NoteField(says=BendFact.FROM_EDGE, before=" at "))
    fine = drawn(blank, Lettering(note=note, angle_decimals=4, length_decimals=4))
    bare = drawn(blank, Lettering(note=note, angle_decimals=0, length_decimals=0))
    assert len(notes(fine)) == len(notes(bare)) == len(blank.bends)
    for long, short in zip(notes(fine), notes(bare), strict=True):
        angle, edge = re.fullmatch(r"([0-9.]+)° at ([0-9.]+)", long.text).groups()
        assert short.text == f"{float(angle):.0f}° at {float(edge):.0f}"


@pytest.mark.parametrize("is_level", [True, False])
def test_lines_of_a_note_stand_under_each_other_along_the_bend_or_level(is_level):
    note = (
        NoteField(says=BendFact.ANGLE),
        NoteField(says=BendFact.RADIUS, before="R", new_line=True),
    )
    drawing = drawn(plate(bends=TWO), Lettering(note=note, is_level=is_level, size=3.5))
    lines = notes(drawing)
    assert [w.text for w in lines] == ["90°", "R2"] * 2
    assert {round(math.degrees(w.turn)) for w in lines} == {0 if is_level else 90}
    assert {w.size for w in lines} == {3.5}
    first, second = lines[:2]
    apart = math.dist(first.at, second.at)
    assert apart == pytest.approx(1.25 * 3.5)
    assert not box_of(first).meets(box_of(second))
    # The second line stands below the first, as the note is read.
    lower = (first.at[1] > second.at[1]) if is_level else (first.at[0] < second.at[0])
    assert lower


def test_what_all_bends_have_alike_is_said_once():
    alike = drawn(plate(bends=TWO), Lettering(says_once=True))
    assert notes(alike) == []
    assert "All bends: 90° R2." in texts(alike)
    # A bend alone has its note.
    assert [w.text for w in notes(drawn(plate(bends=TWO[:1]), Lettering(says_once=True)))] == [
        "90° R2"
    ]
    mixed = (NoteField(says=BendFact.RADIUS, before="R"), NoteField(says=BendFact.FROM_EDGE))
    told = drawn(plate(bends=[(60, True), (130, False)]), Lettering(note=mixed, says_once=True))
    assert [w.text for w in notes(told)] == ["60", "70"]
    assert "All bends: R2." in texts(told)


@pytest.mark.parametrize("leader", [True, False])
@pytest.mark.parametrize("turned", [True, False])
def test_a_note_is_moved_with_or_without_a_leader(leader, turned):
    blank = stood(plate(bends=TWO)) if turned else plate(bends=TWO)
    number = blank.bends[0].number
    moved = {number: MovedNote(by=(25.0, 18.0), leader=leader)}
    drawing = drawn(blank, markup=Markup(moved=moved))
    (a, b) = blank.bends[0].line
    middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
    want = drawing.flat.on_paper((middle[0] + 25, middle[1] + 18))
    assert drawing.flat.notes[number].at == pytest.approx(want)
    assert drawing.flat.notes[number].by == pytest.approx((25, 18))
    leaders = [
        s.run[0] for s in drawing.pages[0].strokes
        if s.pen == Pen.DIMENSION and s.run[0].end == drawing.flat.notes[number].at
    ]  # fmt: skip
    assert len(leaders) == leader
    for line in leaders:
        # It ends on the bend's own line, square to it.
        foot = line.start
        level = abs(a[1] - b[1]) < 1e-6
        assert (foot[1 if level else 0]) == pytest.approx(drawing.flat.on_paper(a)[level])


def test_other_notes_keep_off_one_that_was_moved():
    blank = plate(bends=TWO)
    free = drawn(blank, paper="A2")
    one, two = blank.bends[0].number, blank.bends[1].number
    there, scale = free.flat.notes[two].at, free.flat.scale
    here = free.flat.notes[one]
    by = tuple(b + (t - a) / scale for a, b, t in zip(here.at, here.by, there, strict=True))
    drawing = drawn(blank, markup=Markup(moved={one: MovedNote(by=by)}), paper="A2")
    assert drawing.flat.notes[one].at == pytest.approx(there)
    first, second = (box_of(w) for w in notes(drawing))
    assert not first.meets(second)


def test_the_bend_table_has_the_columns_and_order_asked_for():
    columns = (BendFact.SEQUENCE, BendFact.DIRECTION, BendFact.INCLUDED, BendFact.DEDUCTION)
    blank, _ = demo("tool-tray")
    drawing = drawn(blank, Lettering(columns=columns, order="sequence"))
    table = drawing.tables[0]
    assert [h.words for h in table.headings] == ["no", "seq", "way", "included", "deduction"]
    assert [int(r[1]) for r in table.rows] == sorted(b.sequence for b in blank.bends)
    by_number = {b.number: b for b in blank.bends}
    for row in table.rows:
        bend = by_number[int(row[0])]
        assert row[2] == ("up" if bend.is_up else "down")
        assert float(row[3].rstrip("°")) == pytest.approx(180 - math.degrees(bend.angle), abs=0.01)
        assert float(row[4]) == pytest.approx(bend.deduction, abs=0.006)


def test_columns_without_room_are_refused():
    with pytest.raises(InputError, match=r"columns of the bend table take \d+ mm, of which .* 88"):
        require_room(Lettering(columns=tuple(BendFact)))


@pytest.mark.parametrize(("ordinates", "count"), [("all", 4 + 2), ("bends", 3), ("none", 0)])
def test_ordinates_are_of_all_of_bends_or_none(ordinates, count):
    blank = plate(bends=TWO, holes=[(30, 40, 5)])
    drawing = drawn(blank, Lettering(ordinates=ordinates))
    written = [
        w for w in drawing.pages[0].words
        if w.size == 2.5 and not w.is_clear and w.anchor == "end" and w.at[0] < 190
    ]  # fmt: skip
    assert len(written) == count
    assert drawing.flat.has_all_ordinates is (ordinates == "all")
    said = "Holes whose place is not given here: as in the DXF."
    assert (said in texts(drawing)) is (ordinates != "all")


def test_remarks_number_and_tolerance_stand_on_the_drawing():
    long = "Deburr all edges, protect the seen side with film, and pack " + "well " * 20
    drawing = drawn(
        plate(bends=TWO), Lettering(tolerance="ISO 2768-m"),
        Markup(number="K-1042", remarks=("Grain along the width.", long)),
    )  # fmt: skip
    said = texts(drawing)
    assert "Grain along the width." in said
    # They are set from the lowest line upwards.
    assert " ".join(reversed([t for t in said if t and t in long])) == long.strip()
    assert {"K-1042", "ISO 2768-m"} <= {*said}
    boxes = [box_of(w) for w in drawing.pages[0].words if w.text]
    assert not [1 for i, a in enumerate(boxes) for b in boxes[:i] if a.meets(b)]


@pytest.mark.parametrize(
    "values",
    [{"size": 1}, {"columns": []}, {"note": [{"says": "mood"}]}, {"angle_decimals": 9},
     {"note": [{"says": "k", "before": "far too many words"}]}, {"colour": "red"}],
)  # fmt: skip
def test_lettering_that_makes_no_sense_is_refused(values):
    with pytest.raises(ValidationError):
        Lettering.model_validate(values)


def test_a_page_is_the_same_on_the_screen():
    blank, _ = demo("tool-tray")
    drawing = drawn(blank, unit=INCH)
    page = drawing.pages[0]
    svg = page_svg(page)
    assert f'viewBox="0 0 {page.width:g} {page.height:g}"' in svg
    assert svg.count("<text") == sum(1 for w in page.words if w.text)
    # A closed run ends where it begins: one move for each stroke.
    assert "".join(re.findall(r' d="([^"]*)"', svg)).count("M") == len(page.strokes)
    assert all(f">{escape(w.text)}</text>" in svg for w in page.words if w.text)


def test_the_maker_has_a_cell_in_the_title_block_where_one_is_named():
    drawn = {
        name: draw_blank(plate(), Title(part="Plate"), lettering=Lettering(maker=name))
        for name in ("", "Fernbrook Sheet Works")
    }
    words = {name: [w.text for w in d.pages[0].words] for name, d in drawn.items()}
    assert "Maker" not in words[""]
    at = words["Fernbrook Sheet Works"].index("Maker")
    assert words["Fernbrook Sheet Works"][at + 1] == "Fernbrook Sheet Works"
    for name, drawing in drawn.items():
        assert differences(drawing, plate(), MILLIMETRE) == [], name


@pytest.mark.parametrize(
    ("title", "lettering", "markup", "said"),
    [
        ({}, {}, {}, []),
        ({}, {"required": ["material", "number"]}, {},
         ["the title block says no material", "the title block says no drawing number"]),
        ({"material": "steel"}, {"required": ["material", "number"]}, {"number": "K-1"}, []),
        ({"drawn": ""}, {"required": ["drawn", "tolerance"], "tolerance": "m"}, {},
         ["the title block says no name of who has drawn it: stamp station 2"]),
        ({"mass": "1 kg"}, {"required": ["mass"]}, {}, []),
    ],
)  # fmt: skip
def test_what_a_title_block_must_say_and_does_not_is_told(title, lettering, markup, said):
    told = left_open(
        Title(part="Plate", **title),
        Lettering.model_validate(lettering),
        Markup.model_validate(markup),
    )
    assert told == said


OWN = Lettering(
    fields=(
        OwnField(label="Customer", text="Fernbrook yard"),
        OwnField(label="Finish", must_say=True),
    )
)


def test_the_shops_own_fields_stand_in_the_title_block_of_every_sheet():
    blank = plate()
    markup = Markup(fields={"Finish": "powder RAL 7016", "Gone from Stores": "kept"})
    drawing = draw_blank(blank, Title(part="plate"), lettering=OWN, markup=markup, paper="A4")

    for page in drawing.pages:
        words = [w.text for w in page.words]
        assert words[words.index("Customer") + 1] == "Fernbrook yard"
        assert words[words.index("Finish") + 1] == "powder RAL 7016"
        assert "kept" not in words
        block = [w for w in page.words if w.at[0] > page.width - 104 and w.at[1] < 62]
        assert all(
            not box_of(a).meets(box_of(b)) for i, a in enumerate(block) for b in block[:i]
            if a.text and b.text
        )  # fmt: skip
    assert "Customer" not in texts(draw_blank(blank, Title(part="plate"), paper="A4"))


def test_an_own_field_that_must_say_something_is_told_while_it_says_nothing():
    assert left_open(Title(part="p"), OWN, Markup()) == ["the title block says no Finish"]
    assert left_open(Title(part="p"), OWN, Markup(fields={"Finish": "as cut"})) == []


@pytest.mark.parametrize(
    ("fields", "told"),
    [
        ([{"label": "Lot"}, {"label": "Lot "}], "two fields have the same name"),
        ([{"label": " "}], "at least 1 character"),
        ([{"label": f"F{n}"} for n in range(4)], "at most 3 items"),
        ([{"label": "Lot", "text": "x" * 61}], "at most 60 characters"),
    ],
)
def test_own_fields_without_sense_or_room_are_refused(fields, told):
    with pytest.raises(ValidationError, match=told):
        Lettering(fields=fields)
