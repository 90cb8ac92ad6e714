"""Paths and programs against the independent reader of G-code."""

import math
import re
from dataclasses import replace

import pytest

from kaigata.core.checked import load_document
from kaigata.core.cut import find_post, tool_path
from kaigata.core.cut.proof import prove
from kaigata.core.cut.sequence import Stop, nearest_next
from kaigata.core.cut.toolpath import placed_on
from kaigata.core.errors import InputError
from kaigata.core.formats.cut_files import cut_document, proved_program, write_cut
from kaigata.core.formats.documents import OrderDocument
from kaigata.core.formats.gcode_reader import read_program
from kaigata.core.formats.nest_files import nest_document, order_from_document
from kaigata.core.nest import search
from tests.checks import NEST, checked
from tests.core.cut.given import PLATE, Laid, rules, small_order


@pytest.mark.parametrize(
    ("name", "process", "post"),
    [
        ("mix-20", "laser", "plain"),
        ("mix-60", "plasma", "plain"),
        ("jigsaw-gap-16", "waterjet", "plain"),
        ("jigsaw-gap-16", "plasma", "plain-inch"),
    ],
)
def test_programs_leave_the_parts_true_to_size(name, process, post, tmp_path):
    path = NEST / f"{name}.json"
    document = load_document(path, OrderDocument)
    order = order_from_document(document, path.parent)
    nest = search(order, steps=1)
    row = rules(process)

    programs = [
        proved_program(tool_path(order, s, row), order, s, find_post(post)) for s in nest.sheets
    ]
    write_cut(programs, cut_document(process, programs), tmp_path)
    text = nest_document(nest, document, order).model_dump_json(by_alias=True)
    (tmp_path / "nest.json").write_text(text)

    line = checked("gcode_check.py", tmp_path / "nest.json", path, tmp_path, "--kerf", row.kerf)
    assert line.startswith("ok"), line
    for drawing in tmp_path.glob("*.path.dxf"):
        assert checked("dxf_check.py", drawing).startswith("ok")


def test_holes_go_before_their_outline_and_a_slit_under_the_kerf_is_said():
    order = small_order()
    path = tool_path(order, search(order, steps=1).sheets[0], rules("laser"))

    for copy in (1, 2):
        names = [p.name for p in path.passes if p.copy == copy]
        assert names == ["hole 1", "outer"]
    assert [f.code for f in path.findings] == ["hole-under-kerf"]
    assert "20.00 x 0.15 mm" in path.findings[0].text


def test_a_hole_lead_begins_inside_the_hole_and_an_outer_one_outside():
    order = small_order()
    sheet = search(order, steps=1).sheets[0]
    path = tool_path(order, sheet, rules("laser"))
    hole, outer = path.passes[0], next(p for p in path.passes if p.name == "outer")

    assert hole.nominal.polygon().covers(_point(hole.pierce))
    assert not outer.nominal.polygon().intersects(_point(outer.pierce))


def _point(p):
    from shapely.geometry import Point

    return Point(p)


def test_a_spoiled_program_is_not_proved():
    order = small_order()
    sheet = search(order, steps=1).sheets[0]
    path = tool_path(order, sheet, rules("laser"))
    program = proved_program(path, order, sheet, find_post("plain")).text
    lines = program.splitlines()
    at = max(i for i, text in enumerate(lines) if text.startswith("G1"))
    spoiled = "\n".join([*lines[:at], "G1 X50 Y50", *lines[at + 1 :]])

    proof = prove(path, read_program(spoiled, find_post("plain")), *placed_on(order, sheet))

    assert not proof.ok
    assert re.search(r"off its size|not closed", proof.fault)


@pytest.mark.parametrize(
    ("spoiled", "fault"),
    [
        ("lead", "off its size"),
        ("sheet", "leaves the sheet"),
        ("kerf over the edge", "leaves the sheet"),
        ("count", "stretches"),
    ],
)
def test_the_proof_looks_at_all_a_program_does(spoiled, fault):
    order = small_order()
    sheet = search(order, steps=1).sheets[0]
    path = tool_path(order, sheet, rules("laser"))
    post = find_post("plain")
    lines = proved_program(path, order, sheet, post).text.splitlines()
    first = next(i for i, text in enumerate(lines) if text == "M3")
    if spoiled == "lead":
        # From far across the part to where the contour is entered.
        lines[first - 1] = "G0 X100 Y60"
    elif spoiled == "count":
        del lines[first : lines.index("M5") + 1]
    else:
        x = 510 if spoiled == "sheet" else 499.95
        lines[-1:] = [f"G0 X{x} Y100", "M3", f"G1 X{x} Y110", "M5", "M30"]
    done = read_program("\n".join(lines), post)
    if spoiled != "lead":
        done = done[-len(path.runs) :]

    proof = prove(path, done, *placed_on(order, sheet))

    assert not proof.ok
    assert fault in proof.fault


def test_parts_closer_than_the_kerf_are_an_error():
    order = small_order(spacing=0.1)
    path = tool_path(order, search(order, steps=1).sheets[0], rules("plasma"))

    assert "spacing-under-kerf" in {f.code for f in path.findings}


@pytest.mark.parametrize(("margin", "is_error"), [(1.0, True), (1.19, False), (2.0, False)])
def test_a_part_nearer_to_the_edge_than_the_kerf_is_an_error_with_its_place(margin, is_error):
    known = Laid({"plate": PLATE}, [("plate", margin, 40)])
    errors = [f for f in known.path(rules("plasma")).findings if f.code == "margin-under-kerf"]

    assert bool(errors) == is_error
    if errors:
        assert "1.00 mm from the sheet's edge, the kerf is 1.19" in errors[0].text
        assert errors[0].at[0] == pytest.approx(margin)


@pytest.mark.parametrize("process", ["laser", "plasma", "waterjet"])
@pytest.mark.parametrize("margin", [2.5, 3.0, 4.5])
def test_leads_and_their_kerf_stay_on_a_sheet_hardly_larger_than_its_part(
    margin, process, tmp_path
):
    sheet = (100 + 2 * margin, 60 + 2 * margin)
    known = Laid({"plate": PLATE}, [("plate", margin, margin)], sheet=sheet)

    assert known.check(known.path(rules(process)), tmp_path).startswith("ok")


def test_time_is_the_sum_of_feeds_and_pierces():
    order = small_order()
    row = replace(rules("laser"), feed=6000.0, rapid=60000.0, pierce_seconds=0.5, acceleration=1e12)
    sheet = search(order, steps=1).sheets[0]
    path = tool_path(order, sheet, row)

    by_hand = path.cut_length / 100 + path.rapid_length / 1000 + 0.5 * len(path.passes)
    assert path.seconds == pytest.approx(by_hand, rel=1e-6)
    assert path.cost == pytest.approx(path.seconds / 3600 * 90)
    lazy = tool_path(order, sheet, replace(row, acceleration=5000.0))
    # A stop costs the time in which the head could have gone on: feed over acceleration.
    stops = 2 * len(lazy.rapids)
    assert lazy.seconds > path.seconds + stops * 0.5 * 100 / 5000


@pytest.mark.parametrize(
    ("program", "text"),
    [
        ("G21\nM3\nG0 X1 Y1\nM5\n", "rapid with the beam on"),
        ("G21\nM3\nG1 X1 Y1\n", "beam is on at the end"),
        ("G21\nM3\nG3 X10 Y0 I1 J0\nM5\n", "radii of an arc"),
        ("G21 %%\n", "cannot read"),
    ],
)
def test_reader_refuses_programs_no_machine_should_get(program, text):
    with pytest.raises(InputError, match=text):
        read_program(program, find_post(None))


def test_unknown_post_is_refused_with_the_known_ones():
    with pytest.raises(InputError, match="machine-kerf, numbered, plain-inch, plain"):
        find_post("royal")


@pytest.mark.parametrize("kind", ["line", "arc", "none"])
@pytest.mark.parametrize("ends", [{}, {"lead_out": 2.0}, {"over_cut": 3.0}])
def test_leads_of_every_kind_leave_the_parts_true(kind, ends, tmp_path):
    path = NEST / "jigsaw-gap-16.json"
    document = load_document(path, OrderDocument)
    order = order_from_document(document, path.parent)
    nest = search(order, steps=1)
    row = replace(rules("laser"), lead_kind=kind, **ends)

    programs = [
        proved_program(tool_path(order, s, row), order, s, find_post(None)) for s in nest.sheets
    ]
    write_cut(programs, cut_document("laser", programs), tmp_path)
    text = nest_document(nest, document, order).model_dump_json(by_alias=True)
    (tmp_path / "nest.json").write_text(text)

    line = checked("gcode_check.py", tmp_path / "nest.json", path, tmp_path, "--kerf", row.kerf)
    assert line.startswith("ok"), line
    passes = [p for program in programs for p in program.path.passes]
    assert any(p.lead for p in passes) is (kind != "none")
    assert any(p.out for p in passes) is ("lead_out" in ends and kind != "none")
    assert all(p.over for p in passes) is ("over_cut" in ends)


def test_holes_under_the_charts_smallest_are_cut_slowly():
    order = small_order()
    row = replace(rules("laser"), smallest_hole=20.0)
    sheet = search(order, steps=1).sheets[0]
    path = tool_path(order, sheet, row)

    assert {p.name: p.speed < 1 for p in path.passes} == {"hole 1": True, "outer": False}
    slow = f"F{row.feed * 0.4:g}"
    assert slow in proved_program(path, order, sheet, find_post(None)).text


def test_the_way_between_contours_is_much_shorter_than_going_to_the_nearest(tmp_path):
    document = load_document(NEST / "mix-60.json", OrderDocument)
    order = order_from_document(document, NEST)
    for sheet in search(order, steps=1).sheets:
        path = tool_path(order, sheet, rules("laser"))
        places = {(p.part, p.copy, p.name): i for i, p in enumerate(path.passes)}
        for (part, copy, name), at in places.items():
            assert name == "outer" or at < places[part, copy, "outer"]
        stops = [Stop(((p.pierce, p.end),), frozenset()) for p in path.passes]
        at, nearest = (0.0, 0.0), 0.0
        for i in nearest_next(stops, start=at):
            nearest += math.dist(at, path.passes[i].pierce)
            at = path.passes[i].end
        # Even with its holes bound to come first it is shorter than an order bound by nothing.
        assert path.rapid_length < 1.1 * nearest
