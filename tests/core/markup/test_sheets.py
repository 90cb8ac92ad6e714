"""Drawings of blanks: right by their own recount, legible, and none given out that is wrong."""

import math
import re
from dataclasses import replace

import pytest
from reportlab.pdfbase import pdfmetrics

from kaigata.core.errors import InputError, KaigataError
from kaigata.core.formats import drawing_files
from kaigata.core.formats.blank_files import blank_document
from kaigata.core.formats.drawing_files import checked_drawing, title_of
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.markup import (
    INCH,
    INCH_FRACTIONS,
    MILLIMETRE,
    FoldedPicture,
    Title,
    differences,
    draw_blank,
    folded_size,
    seen_from,
)
from kaigata.core.markup.page import Anchor, Box, Face, Pen
from tests.core.markup.given import DEMO, demo, plate, truth

FONT = {"words": "Barlow-Regular", "strong": "Barlow-SemiBold",
        "figures": "IBMPlexMono-Regular", "strong figures": "IBMPlexMono-SemiBold"}  # fmt: skip


def drawn(name, **options):
    blank, pieces = demo(name)
    picture = None
    if blank.bends:
        picture = FoldedPicture(
            seen=seen_from(pieces, blank.thickness), size=folded_size(pieces, blank.thickness)
        )
    return blank, draw_blank(blank, Title(part=name), folded=picture, **options)


def box_of(words):
    """Return the bounds of a text as it is set."""
    long = pdfmetrics.stringWidth(words.text, FONT[words.face], words.size)
    x = {Anchor.START: 0.0, Anchor.MIDDLE: -long / 2, Anchor.END: -long}[words.anchor]
    half = words.size * 0.35
    c, s = math.cos(words.turn), math.sin(words.turn)
    corners = [(words.at[0] + c * u - s * v, words.at[1] + s * u + c * v)
               for u in (x, x + long) for v in (-half, half)]  # fmt: skip
    return Box(left=min(p[0] for p in corners), bottom=min(p[1] for p in corners),
               right=max(p[0] for p in corners), top=max(p[1] for p in corners))  # fmt: skip


def texts(drawing):
    return [w.text for page in drawing.pages for w in page.words]


@pytest.mark.parametrize(
    "unit", [MILLIMETRE, INCH, INCH_FRACTIONS[64]], ids=lambda u: f"{u.name}{u.fraction or ''}"
)
@pytest.mark.parametrize("name", DEMO)
def test_real_parts_are_drawn_as_they_are_and_no_word_lies_on_another(name, unit):
    blank, drawing = drawn(name, unit=unit)
    pages_pdf(drawing.pages, title=name)

    assert differences(drawing, blank, unit) == []
    for page in drawing.pages:
        boxes = [(w.text, box_of(w)) for w in page.words if w.text]
        inside = Box(left=20, bottom=10, right=page.width - 10, top=page.height - 10)
        assert [t for t, b in boxes if not inside.holds(b)] == []
        meeting = [(t, u) for i, (t, a) in enumerate(boxes) for u, b in boxes[:i] if a.meets(b)]
        assert meeting == []


@pytest.mark.parametrize("name", ["tool-tray", "hanger-arm", "roof-cap"])
def test_the_sizes_and_bends_of_the_truth_stand_on_the_drawing(name):
    _, drawing = drawn(name)
    flat = truth(name)
    written = texts(drawing)

    sizes = {f"{v:.2f}" for v in flat["longest_edge_along_x"][0]}
    assert sizes <= set(written)
    for bend in flat["bends"]:
        assert f"{bend['allowance']:.2f}" in written
        assert f"{bend['length']:.2f}" in written


def test_ordinates_tell_where_bends_and_holes_lie():
    blank = plate(200, 100, bends=[(50, True)], holes=[(30, 40, 5), (120, 60, 5)])

    written = draw_blank(blank, Title(part="Plate")).pages[0].words

    across = {w.text for w in written if w.turn and w.anchor == Anchor.END}
    upwards = {w.text for w in written if not w.turn and w.anchor == Anchor.END and w.at[0] < 110}
    assert across == {"0", "30.00", "50.00", "120.00"}
    assert {"0", "40.00", "60.00"} <= upwards
    strong = [w.text for w in written if w.turn and w.face == Face.STRONG_FIGURES]
    assert "50.00" in strong


def test_inches_are_written_as_fractions_but_not_what_must_be_exact():
    blank = plate(8 * 25.4, 4 * 25.4, bends=[(1.5 * 25.4, True)], holes=[(30.0, 40.0, 5)])
    drawing = draw_blank(blank, Title(part="Plate"), unit=INCH_FRACTIONS[16])
    written = texts(drawing)

    assert {"8", "4", "1 1/2", "8 × 4"} <= set(written)
    # 30 mm is 1.1811 inches, 40 mm 1.5748, the hole 10 mm across.
    assert {"1 3/16", "1 9/16", "ø 3/8"} <= set(written)
    (row,) = drawing.tables[0].rows
    assert row[2:5] == ("0.079", ".440", "0.178")
    assert "0.079" in written
    assert differences(drawing, blank, INCH_FRACTIONS[16]) == []
    assert differences(drawing, blank, MILLIMETRE) != []


@pytest.mark.parametrize("unit", [MILLIMETRE, INCH, *INCH_FRACTIONS.values()])
@pytest.mark.parametrize("value", [0.0, 0.4, 0.8, 12.7, 25.4, 33.3333, 1999.99])
def test_what_is_written_is_read_to_half_a_step(unit, value):
    assert abs(unit.read(unit.length(value)) - value) <= unit.step / 2 + 1e-9


def test_a_crooked_angle_has_room_beside_the_sign_of_its_direction():
    blank = plate(bends=[(50, True), (120, False)])
    crooked = tuple(replace(b, angle=math.radians(127.6171)) for b in blank.bends)

    page = draw_blank(replace(blank, bends=crooked), Title(part="Plate")).pages[0]

    assert sum("127.62°" in w.text for w in page.words) == 4
    boxes = [box_of(w) for w in page.words if w.text]
    # The triangles of directions; hexagons have a number in them.
    signs = [_bounds(f.points) for f in page.fills if len(f.points) == 3]
    assert not [s for s in signs if any(map(s.meets, boxes))]


def _bounds(points):
    x, y = zip(*points, strict=True)
    return Box(left=min(x), bottom=min(y), right=max(x), top=max(y))


def test_holes_that_are_alike_have_one_row_with_their_count():
    blank = plate(holes=[(30, 40, 3), (60, 40, 3), (90, 40, 5)])

    (table,) = draw_blank(blank, Title(part="Plate")).tables

    assert [row[:3] for row in table.rows] == [("A", "ø 6.00", "2"), ("B", "ø 10.00", "1")]


def test_what_the_first_sheet_has_no_room_for_goes_on_on_further_ones():
    blank = plate(3000, 100, bends=[(20.0 * i, i % 3 > 0) for i in range(1, 149)])

    drawing = draw_blank(blank, Title(part="Comb"), paper="A4")

    assert len(drawing.pages) > 1
    assert differences(drawing, blank, MILLIMETRE) == []
    assert any(t.endswith("continued") for t in texts(drawing))
    assert f"{len(drawing.pages)}/{len(drawing.pages)}" in texts(drawing)


def test_of_very_many_holes_the_places_are_left_to_the_dxf_and_that_is_said():
    blank = plate(400, 300, holes=[(7 + 13 * i, 9 + 13 * j + i / 7, 2)
                                   for i in range(30) for j in range(20)])  # fmt: skip

    drawing = draw_blank(blank, Title(part="Sieve"))

    assert not drawing.flat.has_all_ordinates
    assert any("as in the DXF" in t for t in texts(drawing))
    assert differences(drawing, blank, MILLIMETRE) == []


@pytest.mark.parametrize(("paper", "size"), [("A3", (420, 297)), ("letter", (279.4, 215.9))])
def test_it_is_drawn_on_the_paper_asked_for(paper, size):
    drawing = draw_blank(plate(), Title(part="Plate"), paper=paper)

    assert (drawing.pages[0].width, drawing.pages[0].height) == size


def test_what_is_large_goes_on_larger_paper():
    small, large = (draw_blank(plate(w, w / 2), Title(part="x")) for w in (300, 2400))

    assert small.pages[0].width < large.pages[0].width


def test_a_paper_that_is_none_is_refused():
    with pytest.raises(InputError, match=r"no paper 'B5'; Take one of A4"):
        draw_blank(plate(), Title(part="Plate"), paper="B5")


def _without(page, pen):
    strokes = [s for s in page.strokes if s.pen == pen]
    page.strokes.remove(strokes[-1])


def _rewritten(page, old, new):
    i = next(i for i, w in enumerate(page.words) if w.text == old and w.size in {3.5, 2.5})
    page.words[i] = replace(page.words[i], text=new)


def _shifted(page, by):
    """Move the arrow heads, as if they were drawn to another place than the flat."""
    page.fills[:] = [replace(f, points=tuple((x + by, y) for x, y in f.points)) for f in page.fills]


@pytest.mark.parametrize(
    ("spoil", "text"),
    [
        (lambda p: _without(p, Pen.CUT), "2 contours are drawn, the part has 3"),
        (lambda p: _without(p, Pen.BEND_UP), "0 bend lines up of 0.000 mm are drawn"),
        (lambda p: _rewritten(p, "200.00", "200.10"), "the width is written 200.10 mm"),
        (lambda p: _rewritten(p, "4.52", "4.25"), "row 1 of bends is on no sheet"),
        (lambda p: _shifted(p, 20.0), "arrows of the width do not stand at the ends of the flat"),
        (lambda p: p.words.remove(next(w for w in p.words if w.text == "2" and w.size < 2.5)),
         r"bends \[1\] are numbered on the flat, the part has 2"),
    ],
)  # fmt: skip
def test_what_is_drawn_otherwise_than_the_part_is_told(spoil, text):
    blank = plate(bends=[(50, True), (120, False)], holes=[(30, 40, 5), (80, 40, 4)])
    drawing = draw_blank(blank, Title(part="Plate"))
    assert differences(drawing, blank, MILLIMETRE) == []

    spoil(drawing.pages[0])

    assert any(re.search(text, d) for d in differences(drawing, blank, MILLIMETRE))


@pytest.mark.parametrize(
    ("other", "text"),
    [
        (plate(201, bends=[(50, True)], holes=[(30, 40, 5)]), "contours drawn are"),
        (plate(bends=[(50, False)], holes=[(30, 40, 5)]), "bend lines up"),
        (plate(bends=[(50, True)], holes=[(30, 40, 5), (90, 40, 5)]), "hole table counts 1"),
        (plate(bends=[(50, True), (90, True)], holes=[(30, 40, 5)]), "bend table has 1 rows"),
    ],
)
def test_a_drawing_of_another_part_is_found_out(other, text):
    drawing = draw_blank(plate(bends=[(50, True)], holes=[(30, 40, 5)]), Title(part="Plate"))

    assert any(text in d for d in differences(drawing, other, MILLIMETRE))


def test_a_drawing_that_is_wrong_is_not_given_out(monkeypatch):
    document = blank_document(plate(bends=[(50, True)]))
    other = draw_blank(plate(bends=[(60, True), (90, True)]), Title(part="Plate"))
    monkeypatch.setattr(drawing_files, "draw_blank", lambda *a, **k: other)

    with pytest.raises(KaigataError, match="its drawing is not as the part is: 2 bend lines up"):
        checked_drawing(document, title_of(document))
