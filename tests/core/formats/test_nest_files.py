"""Orders and nests as documents: read in their own units, written back whole, faults by place."""

import csv
import io
import json
import math
from html.parser import HTMLParser

import ezdxf
import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.checked import check_document, load_document
from kaigata.core.errors import InputError
from kaigata.core.formats.documents import (
    BlankDocument,
    CutDocument,
    NestDocument,
    OrderDocument,
)
from kaigata.core.formats.nest_files import (
    nest_document,
    nest_of_document,
    order_from_document,
    sheet_dxf,
    stock_sheet,
)
from kaigata.core.formats.nest_writer import write_nest
from kaigata.core.formats.report import nest_csv, nest_report
from kaigata.core.nest import Placement
from kaigata.core.nest.figures import Unplaced, measured
from tests.checks import checked

ORDER = {
    "name": "Stands", "spacing": 5, "margin": 10,
    "sheets": [
        {"id": "large", "width": 1000, "height": 500, "count": 2, "thickness": 1.5, "cost": 30},
        {"id": "rest", "width": 400, "height": 300, "count": 1, "thickness": 1.5,
         "outline": [[0, 0], [0, 300], [200, 300], [400, 100], [400, 0]]},
    ],
    "parts": [
        {"id": "plate", "quantity": 3, "thickness": 1.5, "turns": [0, -90, 450], "mirror": True,
         "outer": [[0, 0], [100, 0], [100, 60], [0, 60]], "holes": [[[20, 30, -1], [40, 30, -1]]],
         "bends": [{"lines": [[[60, 0], [60, 60]]], "angle": 90, "direction": "up"}],
         "bend_line_marks": {"style": "ticks", "length": 8, "etched": True}},
        {"id": "<disc> & co", "quantity": 1, "thickness": 1.5,
         "outer": [[0, 0, 1], [50, 0, 1]]},
    ],
}  # fmt: skip


def document(**change):
    return OrderDocument.model_validate({**ORDER, **change})


def with_part(**change):
    return document(parts=[{**ORDER["parts"][0], **change}, ORDER["parts"][1]])


def laid(order, *, unplaced=()):
    """A nest of an order by hand: two plates and the disc on one sheet, a plate on the other."""
    first = (
        Placement(part="plate", copy=1, x=10.0, y=10.0, turn=0.0),
        Placement(part="plate", copy=2, x=300.0, y=200.0, turn=math.pi / 2, mirrored=True),
        Placement(part="<disc> & co", copy=1, x=400.0, y=100.0, turn=0.0),
    )
    second = (Placement(part="plate", copy=3, x=20.0, y=130.0, turn=math.pi * 1.5),)
    # The large one is last, as it counts up to its used length.
    return measured(order, [("rest", second), ("large", first)], list(unplaced))


def test_an_order_is_read_in_millimetres_and_radians():
    order = order_from_document(document(), None)

    large, rest = order.sheets
    plate, disc = order.parts
    assert (large.area, large.cost, large.outline) == (500_000, 30, None)
    assert rest.outline.area == pytest.approx(100_000)
    assert plate.turns == pytest.approx((0, math.pi * 1.5, math.pi / 2))
    assert (plate.may_mirror, disc.turns) == (True, None)
    assert plate.region.area == pytest.approx(6000 - 100 * math.pi)
    assert (plate.etched, plate.tick) == ("ticks", 8)
    assert plate.bends[0].angle == pytest.approx(math.pi / 2)


def scaled(value, factor):
    """An order's document with all its lengths times a factor."""
    if isinstance(value, list) and value and all(isinstance(v, int | float) for v in value):
        return [v * factor if i < 2 else v for i, v in enumerate(value)]
    if isinstance(value, list):
        return [scaled(v, factor) for v in value]
    if isinstance(value, dict):
        lengths = ("width", "height", "spacing", "margin")
        keep = ("turns", "bend_line_marks")
        return {
            k: v * factor if k in lengths else v if k in keep else scaled(v, factor)
            for k, v in value.items()
        }
    return value


def test_an_order_in_inches_is_the_same_order():
    inches = OrderDocument.model_validate({**scaled(ORDER, 1 / 25.4), "units": "in"})

    one, other = order_from_document(inches, None), order_from_document(document(), None)

    assert (one.spacing, one.margin) == pytest.approx((other.spacing, other.margin))
    for a, b in zip(one.sheets, other.sheets, strict=True):
        assert (a.width, a.height, a.area) == pytest.approx((b.width, b.height, b.area))
    for a, b in zip(one.parts, other.parts, strict=True):
        assert a.region.area == pytest.approx(b.region.area)
        assert a.region.outer.bounds == pytest.approx(b.region.outer.bounds)
        assert [x.lines for x in a.bends] == [
            tuple(tuple(pytest.approx(p) for p in line) for line in x.lines) for x in b.bends
        ]


@pytest.mark.parametrize("units", ["mm", "in"])
def test_a_nest_is_written_and_read_back_as_it_lies(units):
    wanted = OrderDocument.model_validate(
        {**scaled(ORDER, 1 if units == "mm" else 1 / 25.4), "units": units}
    )
    order = order_from_document(wanted, None)
    nest = laid(order, unplaced=[Unplaced(part="plate", quantity=2, why="the sheets are used up")])

    text = nest_document(nest, wanted, order).model_dump_json(by_alias=True)
    read = NestDocument.model_validate_json(text)
    again = nest_of_document(read, order_from_document(read.order, None), units=units)

    assert again.unplaced == nest.unplaced
    assert again.utilisation == pytest.approx(nest.utilisation)
    assert (again.charge, again.counted_area) == pytest.approx((nest.charge, nest.counted_area))
    for one, other in zip(again.sheets, nest.sheets, strict=True):
        assert (one.sheet, one.number) == (other.sheet, other.number)
        assert one.used_length == pytest.approx(other.used_length, abs=1e-6)
        for p, q in zip(one.placements, other.placements, strict=True):
            assert (p.part, p.copy, p.mirrored) == (q.part, q.copy, q.mirrored)
            assert (p.x, p.y, p.turn) == pytest.approx((q.x, q.y, q.turn), abs=1e-7)


def test_a_nest_carries_its_order_whole():
    wanted = document()
    order = order_from_document(wanted, None)

    own = nest_document(laid(order), wanted, order).order

    again = order_from_document(own, None)
    assert [p.id for p in again.parts] == [p.id for p in order.parts]
    assert again.parts[0].bends == order.parts[0].bends
    assert (again.parts[0].etched, again.parts[0].tick) == ("ticks", 8)
    assert again.parts[0].region.area == pytest.approx(order.parts[0].region.area)
    assert all(p.file is None and p.blank is None for p in own.parts)


def test_a_blank_gives_contours_gauge_and_bends_unless_the_order_says_otherwise(tmp_path):
    blank = BlankDocument.model_validate(
        {
            "part": "b", "thickness": 2.0, "material": "steel", "width": 80, "height": 40,
            "area": 3200, "cut_length": 240, "outer": [[0, 0], [80, 0], [80, 40], [0, 40]],
            "bend_line_marks": {"style": "whole", "etched": True},
        }
    )  # fmt: skip
    (tmp_path / "b.blank.json").write_text(blank.model_dump_json())
    own = {"id": "b", "quantity": 1, "blank": "b.blank.json"}

    def part(units="mm", **more):
        order = document(units=units, parts=[{**own, **more}])
        return order_from_document(order, tmp_path).parts[0]

    assert part().gauge == ("steel", 2.0)
    assert part(material=None, thickness=3.0).gauge == (None, 3.0)
    assert part().etched == "whole"
    # A blank is in millimetres, whatever the order that names it is in.
    assert part(units="in").region.area == pytest.approx(3200)


@pytest.mark.parametrize(
    ("change", "text"),
    [
        ({"outer": None}, "$.parts[0] (plate): the part has no contour"),
        ({"turns": []}, "$.parts[0] (plate).turns: no turn is allowed"),
        ({"blank": "b.blank.json"}, "$.parts[0] (plate): the part has contours and a blank"),
        (
            {"outer": None, "blank": "gone.json"},
            "$.parts[0] (plate).blank: gone.json: there is no such file",
        ),
    ],
)
def test_a_part_without_one_shape_is_refused_by_its_place(change, text, tmp_path):
    with pytest.raises(InputError) as refused:
        order_from_document(with_part(**change), tmp_path)

    assert str(refused.value).startswith(text)


@pytest.mark.parametrize(
    ("data", "text"),
    [
        ({"sheets": [], "parts": []}, "order.json: $.sheets must not be empty"),
        ({"spacing": -1}, "$.spacing is -1"),
        ({"spacing": "wide"}, '$.spacing is "wide"'),
        ({"cut": {"process": "scissors"}}, '$.cut.process is "scissors"'),
    ],
)
def test_a_wrong_document_is_told_by_its_places(data, text):
    with pytest.raises(InputError) as refused:
        check_document({**ORDER, **data}, OrderDocument, where="order.json")

    assert text in str(refused.value)


def test_of_very_many_faults_five_are_told_and_the_rest_counted():
    rows = [{"id": f"p{i}", "quantity": 0, "outer": [[0, 0], [1, 0], [0, 1]]} for i in range(9)]

    with pytest.raises(InputError, match=r"parts\[4\]\.quantity is 0.* and 4 more$"):
        check_document({**ORDER, "parts": rows}, OrderDocument, where="order.json")


@pytest.mark.parametrize(
    ("content", "text"),
    [
        (b"{", "it is no JSON: Expecting"),
        (b"\xff\xfe{", "it is no JSON: no text in UTF-8"),
        (b"[" * 100_000, "it is no JSON: no text in UTF-8"),
        (b"[]", "$"),
    ],
)
def test_a_file_that_is_no_order_is_refused(content, text, tmp_path):
    path = tmp_path / "order.json"
    path.write_bytes(content)

    with pytest.raises(InputError) as refused:
        load_document(path, OrderDocument)

    assert refused.value.where == "order.json"
    assert text in str(refused.value)


@pytest.mark.parametrize(
    ("change", "text"),
    [
        ({"sheet": "huge"}, "$.sheets[0]: no sheet 'huge' in the order"),
        ({"placements": [{"part": "gone", "copy": 1, "x": 0, "y": 0}]}, "no part 'gone'"),
    ],
)
def test_a_nest_of_another_order_is_refused(change, text):
    order = order_from_document(document(), None)
    sheet = {"sheet": "large", "number": 1, "placements": [], "used_length": 0, "utilisation": 0}
    nest = NestDocument.model_validate({"sheets": [{**sheet, **change}], "utilisation": 0})

    with pytest.raises(InputError) as refused:
        nest_of_document(nest, order, units="mm")

    assert text in str(refused.value)


@given(st.booleans(), st.floats(0.01, 40))
def test_a_remnant_drawn_either_way_round_is_the_same(is_turned_round, scale):
    rows = ORDER["sheets"][1]["outline"]
    sheet = (
        document().sheets[1].model_copy(update={"outline": rows[::-1] if is_turned_round else rows})
    )

    remnant = stock_sheet(sheet, scale)

    assert remnant.outline.area == pytest.approx(100_000 * scale**2)


class Texts(HTMLParser):
    """The cells of a page's tables, row by row, and its headings."""

    def __init__(self, page):
        super().__init__()
        self.rows, self.headings, self._tag = [], [], ""
        self.feed(page)

    def handle_starttag(self, tag, attrs):
        self._tag = tag
        if tag == "tr":
            self.rows.append([])
        elif tag == "td":
            self.rows[-1].append("")
        elif tag in ("h1", "h2"):
            self.headings.append("")

    def handle_endtag(self, tag):
        self._tag = ""

    def handle_data(self, data):
        if self._tag == "td":
            self.rows[-1][-1] += data
        elif self._tag in ("h1", "h2"):
            self.headings[-1] += data


def test_the_report_tells_parts_stock_and_what_did_not_fit():
    order = order_from_document(document(), None)
    nest = laid(order, unplaced=[Unplaced(part="plate", quantity=2, why="used <up>")])

    page = nest_report(order, nest, title="Stands & <more>")

    seen = Texts(page)
    assert seen.headings[0] == "Stands & <more>"
    assert ["plate", "2", "used <up>"] in seen.rows
    assert ["plate", "3", "3", f"{(6000 - 100 * math.pi) / 1e6:.4f}"] in seen.rows
    assert ["<disc> & co", "1", "1", f"{625 * math.pi / 1e6:.4f}"] in seen.rows
    assert ["large", "1000 × 500", "1", "1"] in seen.rows
    assert ["rest", "400 × 300", "1", "0"] in seen.rows
    assert [h for h in seen.headings if h.startswith("Sheet")] == [
        "Sheet 1 · rest", "Sheet 2 · large",
    ]  # fmt: skip


def test_the_report_works_without_a_network():
    order = order_from_document(document(), None)

    page = nest_report(order, laid(order), title="Stands")

    assert page.startswith("<!doctype html>")
    assert page.count("<svg") == page.count("</svg>") == 2
    assert "<script" not in page
    links = ("href=", "src=", "@import", "url(")
    assert not any(word in page for word in links)
    assert "Did not fit" not in page


def test_the_report_tells_how_long_each_sheet_is_cut():
    order = order_from_document(document(), None)
    figures = {
        "number": 2, "program": "sheet-2.nc", "kerf": 0.2, "zero": [0, 0], "contours": 2,
        "pierces": 2, "cut_length": 383.4, "lead_length": 5, "rapid_length": 100,
        "mark_length": 0, "seconds": 90, "order": [],
        "proof": {"largest_deviation": 0, "contours": 2, "ok": True},
    }  # fmt: skip
    cut = CutDocument.model_validate({"process": "laser", "sheets": [figures]})

    first, second = nest_report(order, laid(order), title="Stands", cut=cut).split("<section>")[1:]

    assert "pierces" not in first
    assert "cut 383 mm, 2 pierces, 1.5 min" in second


def test_every_placement_is_a_row_of_the_table():
    order = order_from_document(document(), None)
    left = Unplaced(part="plate", quantity=2, why="used up, all of it")

    rows = list(csv.DictReader(io.StringIO(nest_csv(order, laid(order, unplaced=[left])))))

    assert [(r["sheet"], r["part"], r["copy"]) for r in rows] == [
        ("1", "plate", "1"), ("2", "plate", "2"), ("2", "plate", "3"), ("2", "<disc> & co", "1"),
        ("", "plate", "2 did not fit"),
    ]  # fmt: skip
    assert (rows[2]["x"], rows[2]["y"], rows[2]["turn"]) == ("300.0", "200.0", "90.0")
    assert [r["mirrored"] for r in rows[:4]] == ["no", "no", "yes", "no"]
    assert rows[4]["mirrored"] == "used up, all of it"


def test_a_nests_files_are_true(tmp_path):
    wanted = document()
    order = order_from_document(wanted, None)
    nest = laid(order)
    (tmp_path / "order.json").write_text(json.dumps(ORDER))

    names = write_nest(nest_document(nest, wanted, order), nest, order, tmp_path, title="Stands")

    assert set(names) == {"nest.json", "report.html"} | {
        f"sheet-{n}.{kind}" for n in (1, 2) for kind in ("dxf", "svg")
    }
    line = checked("nest_check.py", tmp_path / "order.json", tmp_path / "nest.json")
    assert line.startswith("ok"), line
    for n in (1, 2):
        assert checked("dxf_check.py", tmp_path / f"sheet-{n}.dxf").startswith("ok")


def test_a_sheets_drawing_has_the_edge_and_every_part_where_it_lies():
    order = order_from_document(document(), None)
    nest = laid(order)

    text = sheet_dxf(order, nest.sheets[0]).text()

    drawn = {}
    for entity in ezdxf.read(io.StringIO(text)).modelspace():
        drawn.setdefault(entity.dxf.layer, []).append(entity)
    assert len(drawn["SHEET"][0]) == 5
    (outer,) = drawn["CUT_OUTER"]
    xs, ys = zip(*outer.get_points("xy"), strict=True)
    assert (min(xs), max(xs), min(ys), max(ys)) == pytest.approx((20, 80, 30, 130))
    assert len(drawn["CUT_INNER"]) == 1
