"""Sheets of a drawing as DXF: every stroke, fill and word on its layer, at its size."""

import io
import math
from collections import Counter

import ezdxf
import pytest

from kaigata.core.formats.page_dxf import layer_of, page_dxf
from kaigata.core.markup import Title, draw_blank
from kaigata.core.markup.page import LAID, Anchor, Fill, Page, Pen, Words
from kaigata.core.plane import Contour
from tests.core.markup.given import demo


@pytest.fixture(scope="module")
def page():
    blank, _ = demo("tool-tray")
    return draw_blank(blank, Title(part="Tool tray")).pages[0]


def read(page):
    document = ezdxf.read(io.StringIO(page_dxf(page)))
    assert not document.audit().errors
    return document


def length_of(polyline):
    """Of lines and arcs, by their bulges."""
    rows = [(x, y, b) for x, y, _, _, b in polyline.get_points()]
    ends = rows[1:] + (rows[:1] if polyline.closed else [])
    total = 0.0
    for (x0, y0, b), (x1, y1, _) in zip(rows, ends, strict=False):
        chord, sweep = math.dist((x0, y0), (x1, y1)), 4 * math.atan(abs(b))
        total += chord if not sweep else chord * sweep / (2 * math.sin(sweep / 2))
    return total


def test_every_stroke_lies_on_the_layer_of_its_pen(page):
    space = read(page).modelspace()
    for pen in Pen:
        runs = [s.run for s in page.strokes if s.pen == pen]
        drawn = space.query(f"LWPOLYLINE[layer=='{layer_of(pen)}']")
        whole = [run for run in runs if len(run) > 1 or not run[0].is_line]
        assert len(drawn) == len(whole), pen
        assert sum(map(length_of, drawn)) == pytest.approx(sum(s.length for r in whole for s in r))
        lines = space.query(f"LINE[layer=='{layer_of(pen)}']")
        straight = sum(r[0].chord for r in runs if len(r) == 1 and r[0].is_line)
        # Lines that words stand on are interrupted.
        assert sum(e.dxf.start.distance(e.dxf.end) for e in lines) <= straight + 1e-6
        assert bool(straight) == bool(len(lines))


def test_a_line_ends_before_the_words_that_stand_on_it():
    page = Page(100.0, 80.0)
    page.line((0, 40), (100, 40), Pen.DIMENSION)
    page.line((0, 10), (100, 10), Pen.DIMENSION)
    page.words.append(Words(text="80", at=(50, 40), size=4.0, anchor=Anchor.MIDDLE, is_clear=True))
    lines = [(e.dxf.start, e.dxf.end) for e in read(page).modelspace().query("LINE")]
    assert len(lines) == 3
    (left, right, whole) = sorted(lines, key=lambda ends: (-ends[0].y, ends[0].x))
    assert whole[1].distance(whole[0]) == pytest.approx(100)
    # Two figures, 0.6 of their size wide each, and half a millimetre of paper on both sides.
    assert (left[1].x, right[0].x) == pytest.approx((50 - 2.9, 50 + 2.9), abs=0.6)


def test_every_word_is_written_and_every_arrow_filled(page):
    space = read(page).modelspace()
    assert Counter(e.dxf.text for e in space.query("TEXT")) == Counter(
        w.text for w in page.words if w.text
    )
    assert len(space.query("HATCH")) == sum(not f.is_open and not f.is_clear for f in page.fills)


def test_a_sheet_is_in_millimetres_of_paper(page):
    document = read(page)
    assert document.header["$INSUNITS"] == 4
    frame = document.modelspace().query("LWPOLYLINE[layer=='FRAME']")
    points = [(x, y) for e in frame for x, y, *_ in e.get_points()]
    assert points
    assert 0 <= min(x for x, _ in points) < max(x for x, _ in points) <= page.width
    widths = {layer_of(pen): round(100 * width) for pen, (width, _) in LAID.items()}
    assert {n: document.layers.get(n).dxf.lineweight for n in widths} == widths


def test_arcs_stay_arcs_and_words_their_place_and_turn():
    page = Page(100.0, 80.0)
    page.run(Contour.circle((40, 30), 10).segments, Pen.CUT)
    page.words.append(
        Words(text="R10", at=(40, 30), size=3.0, anchor=Anchor.MIDDLE, turn=math.pi / 2)
    )
    page.fills.append(Fill(points=((0, 0), (3, 0), (0, 3)), is_open=True, is_clear=True))
    space = read(page).modelspace()
    (circle,) = space.query("LWPOLYLINE[layer=='CUT']")
    assert circle.closed
    assert length_of(circle) == pytest.approx(2 * math.pi * 10)
    (text,) = space.query("TEXT")
    assert (text.dxf.rotation, text.dxf.height) == pytest.approx((90, 2.1))
    assert text.get_placement()[1] == (40, 30, 0)
    assert len(space.query("LWPOLYLINE[layer=='FILL']")) == 1


def test_the_same_sheet_is_the_same_file(page):
    assert page_dxf(page) == page_dxf(page)
