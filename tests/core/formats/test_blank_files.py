"""A blank's files: the document gives the blank back, the drawing and the table show it."""

import csv
import io
import json
import math
from dataclasses import replace

import ezdxf
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.blank import FaceUp
from kaigata.core.blank.blank import BlankMark
from kaigata.core.blank.drawn import drawn_blank
from kaigata.core.checked import load_document
from kaigata.core.findings import Finding, Level
from kaigata.core.formats.blank_files import (
    bend_table_csv,
    blank_document,
    blank_dxf,
    blank_of_document,
    finding_document,
    region_of_document,
    write_blank,
)
from kaigata.core.formats.documents import BendLineMarks, BlankDocument
from kaigata.core.plane import Contour, Region
from tests.checks import checked
from tests.strategies import rounded_rectangles, stars


def bent(height=100.0, *, places=((50, True), (120, False)), thickness=2.0):
    region = Region.oriented(Contour.rectangle(200, height), (Contour.circle((30, 30), 5),))
    lines = [([((x, 0.0), (x, height))], is_up) for x, is_up in places]
    return drawn_blank("Arm 1/2", region, lines, thickness=thickness, k=0.44)


def interrupted():
    """A blank whose one bend runs across an opening."""
    hole = Contour.through([(40, 40), (40, 60), (60, 60), (60, 40)])
    region = Region.oriented(Contour.rectangle(200, 100), (hole,))
    lines = [([((50, 0), (50, 40)), ((50, 60), (50, 100))], True)]
    return drawn_blank("guard", region, lines, thickness=2.0, k=0.4)


def drawing(text):
    return ezdxf.read(io.StringIO(text)).modelspace()


def on(space, layer):
    return [e for e in space if e.dxf.layer == layer]


@given(st.one_of(rounded_rectangles().map(lambda r: r[-1]), stars()))
def test_a_region_comes_back_out_of_its_document(contour):
    blank = drawn_blank("any", Region.oriented(contour), [], k=0.44)

    text = blank_document(blank).model_dump_json()
    again = region_of_document(BlankDocument.model_validate(json.loads(text)))

    assert again.area == pytest.approx(blank.region.area, abs=1e-6)
    for one, other in zip(again.outer.vertices, blank.region.outer.vertices, strict=True):
        assert one == pytest.approx(other, abs=1e-8)


@pytest.mark.parametrize("blank", [bent(), interrupted()], ids=["whole", "interrupted"])
def test_bends_come_back_out_of_the_document(blank):
    again = blank_of_document(blank_document(blank))

    assert (again.name, again.thickness) == (blank.name, blank.thickness)
    for one, other in zip(again.bends, blank.bends, strict=True):
        assert (one.number, one.is_up, one.panels) == (other.number, other.is_up, other.panels)
        assert one.lines == other.lines
        assert (one.angle, one.allowance) == pytest.approx((other.angle, other.allowance))


def test_a_document_says_what_the_trade_asks_of_a_bend():
    document = blank_document(bent(), quantity=4, material="galvanised")

    bend = document.bends[0]
    allowance = math.pi / 2 * (2 + 0.44 * 2)
    assert (document.quantity, document.material) == (4, "galvanised")
    assert (document.width, document.height) == (200, 100)
    assert document.area == pytest.approx(200 * 100 - 25 * math.pi)
    assert document.cut_length == pytest.approx(600 + 10 * math.pi)
    assert bend.allowance == pytest.approx(allowance)
    assert bend.deduction == pytest.approx(2 * 4 - allowance)
    assert (bend.setback, bend.included_angle, bend.length) == pytest.approx((4, 90, 100))
    assert bend.zone == pytest.approx((50 - allowance / 2, 50 + allowance / 2))


def test_the_drawing_shows_outline_holes_and_bends_on_their_layers():
    space = drawing(blank_dxf(blank_document(bent())))

    (outer,), (hole,) = on(space, "CUT_OUTER"), on(space, "CUT_INNER")
    assert outer.closed
    assert sorted(p[:2] for p in outer.get_points("xy")) == [(0, 0), (0, 100), (200, 0), (200, 100)]
    assert [abs(p[2]) for p in hole.get_points("xyb")] == [1, 1]
    up, down = on(space, "BEND_UP"), on(space, "BEND_DOWN")
    assert [{e.dxf.start.x, e.dxf.end.x} for e in (*up, *down)] == [{50}, {120}]
    notes = [e.dxf.text for e in on(space, "NOTE")]
    assert notes == ["1 up 90%%d R2", "2 down 90%%d R2"]
    assert space.doc.header["$INSUNITS"] == 4


def test_a_bend_across_an_opening_is_drawn_on_the_material_only():
    lines = on(drawing(blank_dxf(blank_document(interrupted()))), "BEND_UP")

    spans = sorted(sorted((e.dxf.start.y, e.dxf.end.y)) for e in lines)
    assert spans == [[0, 40], [60, 100]]


@pytest.mark.parametrize(
    ("marks", "spans"),
    [
        ({"style": "whole"}, [[0, 100]]),
        ({"style": "none"}, []),
        ({"style": "ticks", "length": 12}, [[0, 12], [88, 100]]),
        # Ticks that would meet are the whole line.
        ({"style": "ticks", "length": 50}, [[0, 100]]),
    ],
)
@pytest.mark.parametrize("etched", [False, True])
def test_bend_lines_are_put_on_the_blank_as_wished(marks, spans, etched):
    wish = BendLineMarks(**marks, etched=etched)
    document = blank_document(bent(places=((50, True),)), line_marks=wish)

    space = drawing(blank_dxf(document))

    lines = on(space, "MARK" if etched else "BEND_UP")
    assert sorted(sorted((e.dxf.start.y, e.dxf.end.y)) for e in lines) == spans
    assert on(space, "BEND_UP" if etched else "MARK") == []


def test_a_thread_is_a_cross_in_its_hole_and_a_sink_a_ring_round_it():
    blank = bent(places=())
    marks = (
        BlankMark(kind="tapped-hole", at=(30.0, 30.0), diameter=5.0, note="M6"),
        BlankMark(kind="countersink", at=(80.0, 30.0), diameter=12.0, note="12 x 90%%d"),
    )

    space = drawing(blank_dxf(blank_document(replace(blank, marks=marks))))

    drawn = on(space, "MARK")
    assert [e.dxftype() for e in drawn] == ["LINE", "LINE", "LWPOLYLINE"]
    assert all(math.dist((30, 30), e.dxf.start.vec2) < 2.5 for e in drawn[:2])
    assert max(p[0] for p in drawn[2].get_points("xy")) == pytest.approx(86)
    assert [e.dxf.text for e in on(space, "NOTE")] == ["M6", "12 x 90%%d"]


def test_the_bend_table_is_in_the_order_of_bending():
    document = blank_document(bent())
    first, second = document.bends
    document = document.model_copy(
        update={
            "bends": [
                first.model_copy(update={"sequence": 2}),
                second.model_copy(update={"sequence": 1}),
            ]
        }
    )

    rows = list(csv.DictReader(io.StringIO(bend_table_csv(document))))

    assert [r["id"] for r in rows] == [str(second.id), str(first.id)]
    assert [r["sequence"] for r in rows] == ["1", "2"]
    for row, bend in zip(rows, (second, first), strict=True):
        assert row["direction"] == bend.direction
        for name in ("angle", "inside_radius", "k", "allowance", "deduction", "length"):
            assert float(row[name]) == pytest.approx(getattr(bend, name), abs=1e-4)


def test_a_drawn_blank_of_unknown_thickness_says_no_thickness():
    document = blank_document(bent(thickness=0.0))

    assert document.thickness is None
    assert {(b.allowance, b.deduction) for b in document.bends} == {(0.0, 0.0)}


def test_a_finding_keeps_its_place_and_outline():
    finding = Finding(
        level=Level.WARNING, code="slot-narrow", text="Widen it.", at=(1.0, 2.0), panels=(1, 2),
        outline=((0.0, 0.0), (1.0, 0.0), (1.0, 1.0)),
    )  # fmt: skip

    said = finding_document(finding).model_dump()

    assert said == {
        "level": "warning", "code": "slot-narrow", "text": "Widen it.", "at": (1.0, 2.0),
        "panels": [1, 2], "outline": [(0.0, 0.0), (1.0, 0.0), (1.0, 1.0)],
    }  # fmt: skip


def test_three_files_are_written_under_a_safe_name(tmp_path):
    document = blank_document(bent())

    names = write_blank(document, tmp_path)

    assert sorted(names) == ["Arm-1-2.bends.csv", "Arm-1-2.blank.json", "Arm-1-2.dxf"]
    assert sorted(p.name for p in tmp_path.iterdir()) == sorted(names)
    assert load_document(tmp_path / "Arm-1-2.blank.json", BlankDocument) == document
    assert checked("dxf_check.py", tmp_path / "Arm-1-2.dxf").startswith("ok")


def test_turned_over_every_bend_goes_the_other_way_and_the_hole_lies_mirrored():
    region = Region.oriented(Contour.rectangle(200, 100), (Contour.circle((30, 20), 5),))
    lines = [([((50, 0), (50, 100))], True)]
    over = drawn_blank("x", region, lines, thickness=2.0, k=0.4, face_up=FaceUp.OTHER)

    (bend,), (hole,) = over.bends, over.region.holes

    assert bend.direction == "down"
    x0, y0, x1, y1 = hole.bounds
    assert {round((x0 + x1) / 2, 6), round(200 - (x0 + x1) / 2, 6)} == {30, 170}
    # Mirrored, not turned: the hole stays as far from the bend as it was.
    assert abs((x0 + x1) / 2 - bend.line[0][0]) == pytest.approx(20)
    assert min((y0 + y1) / 2, 100 - (y0 + y1) / 2) == pytest.approx(20)
