"""PDFs of pages: true to size, the same bytes each time, every letter set."""

import base64
import re
import zlib

import pytest
from hypothesis import given

from kaigata.core.formats.blank_files import blank_document
from kaigata.core.formats.drawing_files import checked_drawing, template_pdf, title_of
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.markup.page import Box, Page, Pen, Words
from kaigata.core.plane import Contour, Segment
from tests.core.markup.given import plate
from tests.strategies import segments

POINT = 72 / 25.4


def operators(pdf):
    """Return the drawing operators of the first page."""
    stream = re.search(rb"/FlateDecode.*?stream\r?\n(.*?)endstream", pdf, re.S).group(1).strip()
    return zlib.decompress(base64.a85decode(b"<~" + stream, adobe=True)).decode("latin-1")


def points(text):
    """Return every point a path goes through, as (x, y) in the page's own mm."""
    found = re.findall(r"((?:-?[\d.]+ )+)([mlc])\b", text)
    return [tuple(map(float, numbers.split()[-2:])) for numbers, _ in found]


def page_with(*runs, window=None):
    page = Page(297, 210, window=window)
    for run in runs:
        page.run(run, Pen.CUT)
    return page


def test_a_page_is_as_large_as_its_paper_and_a_unit_is_a_millimetre():
    pdf = pages_pdf([page_with(Contour.rectangle(100, 50).segments)], title="x")

    (size,) = re.findall(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", pdf)
    assert [float(v) for v in size] == pytest.approx([297 * POINT, 210 * POINT], abs=1e-3)
    text = operators(pdf)
    scale = re.search(r"(2\.83\d*) 0 0 (2\.83\d*) 0 0 cm", text)
    assert [float(v) for v in scale.groups()] == pytest.approx([POINT, POINT], abs=1e-5)
    assert {(0.0, 0.0), (100.0, 0.0), (100.0, 50.0), (0.0, 50.0)} <= set(points(text))


@given(segments())
def test_an_arc_is_drawn_through_points_that_lie_on_it(segment):
    text = operators(pages_pdf([page_with([segment])], title="x"))

    for x, y in points(text):
        share = segment.share_of((x, y))
        at = segment.at(min(1.0, max(0.0, share)))
        assert at == pytest.approx((x, y), abs=0.02 + 1e-5 * segment.length)


def test_a_cubic_keeps_near_its_arc():
    radius = 100.0
    text = operators(
        pages_pdf([page_with([Segment((radius, 0), (0, radius), 2**0.5 - 1)])], title="x")
    )

    ((x1, y1, x2, y2, x3, y3),) = [
        tuple(map(float, m)) for m in re.findall(r"([-\d.]+) " * 6 + r"c\s", text)
    ]
    for i in range(1, 20):
        t = i / 20
        u = 1 - t
        x = u**3 * radius + 3 * u * u * t * x1 + 3 * u * t * t * x2 + t**3 * x3
        y = 3 * u * u * t * y1 + 3 * u * t * t * y2 + t**3 * y3
        assert (x * x + y * y) ** 0.5 == pytest.approx(radius, rel=3e-4)


def test_the_same_drawing_is_the_same_file():
    document = blank_document(plate(bends=[(50, True)]))

    one, two = (checked_drawing(document, title_of(document)).pages for _ in range(2))
    assert pages_pdf(one, title="Plate") == pages_pdf(two, title="Plate")


def test_letters_of_every_script_are_set():
    page = Page(100, 50, words=[Words(text="継手 Łącznik 12", at=(10, 10))])

    pdf = pages_pdf([page], title="継手")

    assert b"HeiseiKakuGo-W5" in pdf
    assert b"Barlow" in pdf


def test_strokes_show_only_within_a_pages_window():
    window = Box(left=10, bottom=20, right=90, top=80)

    text = operators(pages_pdf([page_with([Segment((0, 0), (9, 9))], window=window)], title="x"))

    assert re.search(r"10 20 80 60 re W", text)


def test_a_template_has_a_page_for_each_sheet_of_paper():
    document = blank_document(plate(400, 150))

    assert template_pdf(document).count(b"/Type /Page\n") == 2
