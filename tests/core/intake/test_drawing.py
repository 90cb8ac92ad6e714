"""Flats drawn in every bad way, against the regions they were drawn from."""

import json
import math
from itertools import pairwise

import ezdxf
import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString

from kaigata.cli.main import run
from kaigata.core.blank import chart_takes, unfold
from kaigata.core.errors import InputError
from kaigata.core.findings import Level
from kaigata.core.formats.blank_files import blank_document, write_blank
from kaigata.core.intake.drawing import BendGiven, DrawnBend, DrawnFlat, folded_drawn, read_drawing
from kaigata.core.intake.drawing.joining import join
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.intake.step import read_step
from kaigata.core.metal.charts import constant_chart
from kaigata.core.plane import Contour, Region, Segment
from tests.checks import DATA, PARTS, checked
from tests.strategies import rounded_rectangles

DRAWINGS = sorted((DATA / "dxf").glob("*.dxf"))


@pytest.mark.parametrize("path", DRAWINGS, ids=lambda p: p.stem)
def test_drawings_agree_with_their_truths(path, tmp_path, capsys):
    truth = path.with_suffix(".truth.json")
    options = json.loads(truth.read_text())["options"]

    code = run(["blank", str(path), "--out", str(tmp_path / "o"), *options])

    errors = tmp_path / "stderr"
    errors.write_text(capsys.readouterr().err)
    verdict = checked("intake_check.py", truth, tmp_path / "o", "--exit", code, "--stderr", errors)
    assert verdict.startswith("ok"), verdict


@given(rounded_rectangles(), st.randoms(use_true_random=False))
def test_loose_doubled_and_turned_round_strokes_make_the_contour_again(shape, rng):
    contour = shape[-1]
    strokes = []
    for s in contour.segments:
        cut = rng.uniform(0.3, 0.7)
        pieces = [s.part(0, cut), s.part(cut, 1)] if rng.random() < 0.5 else [s]
        if rng.random() < 0.3:
            # Drawn again, a little of it or all.
            pieces.append(s.part(rng.uniform(0, 0.4), rng.uniform(0.6, 1)))
        strokes += [p.reversed() if rng.random() < 0.5 else p for p in pieces]
    rng.shuffle(strokes)

    (again,) = join(strokes).contours

    assert abs(again.area) == pytest.approx(contour.area, rel=1e-6)
    assert again.length == pytest.approx(contour.length, rel=1e-6)


@given(rounded_rectangles(), st.randoms(use_true_random=False))
def test_ends_apart_or_past_each_other_are_joined(shape, rng):
    contour = shape[-1]

    def off(p):
        return (p[0] + rng.uniform(-0.01, 0.01), p[1] + rng.uniform(-0.01, 0.01))

    strokes = [Segment(off(s.start), off(s.end), s.bulge) for s in contour.segments]
    (again,) = join(strokes).contours

    assert abs(again.area) == pytest.approx(contour.area, abs=0.03 * contour.length)


@given(st.integers(2, 40), st.randoms(use_true_random=False))
def test_ends_of_lines_as_short_as_the_gaps_are_joined_without_crossing(pieces, rng):
    def off(p):
        return (p[0] + rng.uniform(-0.004, 0.004), p[1] + rng.uniform(-0.004, 0.004))

    # One side of a square is drawn in pieces that hardly turn; one of them is very short.
    along = sorted(rng.uniform(0.05, 39.95) for _ in range(pieces))
    corners = [(0.0, 0.0), *((x, 0.0) for x in (*along, along[-1] + 0.02)), (40.0, 0.0),
               (40.0, 40.0), (0.0, 40.0)]  # fmt: skip
    corners = [c for i, c in enumerate(corners) if math.dist(c, corners[i - 1]) > 0.019]
    strokes = [Segment(off(a), off(b)) for a, b in pairwise([*corners, corners[0]])]

    (again,) = join(strokes).contours

    assert again.polygon().is_valid
    assert abs(again.area) == pytest.approx(1600, abs=2)


def drawn(path, version, draw, *, units=4):
    document = ezdxf.new(version, setup=True)
    if version != "R12":
        document.header["$INSUNITS"] = units
    draw(document)
    document.saveas(path)
    return path


def plate(space, *, at=(0.0, 0.0), layer="0"):
    x, y = at
    space.add_lwpolyline(
        [(x, y), (x + 100, y), (x + 100, y + 60), (x, y + 60)],
        close=True, dxfattribs={"layer": layer},
    )  # fmt: skip
    space.add_circle((x + 50, y + 30), 10, dxfattribs={"layer": layer})


@pytest.mark.parametrize("version", ["R12", "R2000", "R2004", "R2007", "R2010", "R2013", "R2018"])
@pytest.mark.parametrize("binary", [False, True])
def test_every_release_text_and_binary(tmp_path, version, binary):
    document = ezdxf.new(version)
    space = document.modelspace()
    for a, b in [
        ((0, 0), (100, 0)),
        ((100, 60), (100, 0)),
        ((100, 60), (0, 60)),
        ((0, 0), (0, 60)),
    ]:
        space.add_line(a, b)
    space.add_circle((50, 30), 10)
    document.header["$INSUNITS"] = 4
    path = tmp_path / "plate.dxf"
    document.saveas(path, fmt="bin" if binary else "asc")

    (flat,) = read_drawing(path, unit=1.0).flats

    assert flat.region.area == pytest.approx(6000 - 100 * math.pi, rel=1e-9)


@pytest.mark.parametrize(
    ("scale", "turn", "mirror"),
    [((1, 1), 0, 1), ((2, 2), 30, 1), ((1, 1), 70, -1), ((2, 0.5), 20, 1)],
)
def test_blocks_scaled_turned_and_mirrored(tmp_path, scale, turn, mirror):
    def draw(document):
        block = document.blocks.new("PLATE")
        block.add_lwpolyline(
            [(0, 0, 0), (100, 0, 0), (100, 60, 0.3), (0, 60, 0)], format="xyb", close=True
        )
        block.add_circle((50, 30), 10)
        block.add_arc((20, 30), 5, 0, 180)
        block.add_line((15, 30), (25, 30))
        document.modelspace().add_blockref(
            "PLATE",
            (7, 8),
            dxfattribs={"xscale": scale[0] * mirror, "yscale": scale[1], "rotation": turn},
        )

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", draw)).flats

    bulge = Segment((100, 60), (0, 60), 0.3)
    cap = bulge.radius**2 * (bulge.sweep - math.sin(bulge.sweep)) / 2
    want = 6000 + cap - 100 * math.pi - 12.5 * math.pi
    assert len(flat.region.holes) == 2
    assert flat.region.area == pytest.approx(want * scale[0] * scale[1], rel=2e-5)


def test_seen_from_below_arcs_keep_their_shape(tmp_path):
    def draw(document):
        space = document.modelspace()
        space.add_lwpolyline([(0, 0), (-100, 0), (-100, 60), (0, 60)], close=True)
        below = {"extrusion": (0, 0, -1)}
        space.add_arc((50, 30), 10, 30, 200, dxfattribs=below)
        space.add_arc((50, 30), 10, 200, 30, dxfattribs=below)

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", draw)).flats

    assert flat.region.area == pytest.approx(6000 - 100 * math.pi, rel=1e-9)


@pytest.mark.parametrize(
    ("layer", "direction"),
    [
        ("BEND_UP", True), ("Biegelinien", None), ("Pliage_bas", False), ("PIEGHE", None),
        ("LineaPliegue", None), ("曲げ線", None), ("Zagięcia gora", True), ("fold down", False),
    ],
)  # fmt: skip
def test_bend_layers_of_several_languages(tmp_path, layer, direction):
    def draw(document):
        document.layers.add(layer)
        plate(document.modelspace())
        document.modelspace().add_line((20, 0.5), (20, 59.5), dxfattribs={"layer": layer})

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", draw)).flats

    (bend,) = flat.bends
    assert bend.is_up is direction
    assert math.dist(*bend.lines[0]) == pytest.approx(60, abs=1e-6)


def test_frames_words_and_centre_lines_are_left_out(tmp_path):
    def draw(document):
        space = document.modelspace()
        plate(space, at=(100, 100))
        space.add_lwpolyline([(0, 0), (420, 0), (420, 297), (0, 297)], close=True)
        space.add_text("Halvik Street Furniture").set_placement((300, 20))
        space.add_line((130, 130), (170, 130), dxfattribs={"linetype": "CENTER"})
        space.add_line((105, 100), (105, 160), dxfattribs={"linetype": "DASHED"})

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", draw)).flats

    assert flat.region.area == pytest.approx(6000 - 100 * math.pi)
    assert len(flat.bends) == 1
    left_out = next(f for f in flat.findings if f.code == "frame-left-out")
    assert left_out.level is Level.NOTE
    assert "rectangle of 420.00 x 297.00" in left_out.text


def test_a_plate_of_a_papers_proportions_with_words_on_it_is_questioned(tmp_path):
    """Nothing tells its outline from a drawing's frame, so what was left out is said loudly."""

    def draw(document):
        space = document.modelspace()
        space.add_lwpolyline([(0, 0), (141, 0), (141, 100), (0, 100)], close=True)
        space.add_circle((30, 50), 8)
        space.add_circle((110, 50), 8)
        space.add_text("24-031").set_placement((60, 20))

    flats = read_drawing(drawn(tmp_path / "b.dxf", "R2010", draw)).flats

    for flat in flats:
        (doubt,) = [f for f in flat.findings if f.code == "frame-left-out"]
        assert doubt.level is Level.WARNING
        assert "141.00 x 100.00" in doubt.text


def test_an_opening_interrupts_a_bend_but_a_gap_between_flanges_does_not_join_two(tmp_path):
    def draw(document):
        space = document.modelspace()
        outline = [(0, 0), (40, 0), (40, 20), (60, 20), (60, 0), (100, 0), (100, 60), (0, 60)]
        space.add_lwpolyline(outline, close=True)
        space.add_circle((50, 45), 5)
        for a, b in [((0, 10), (40, 10)), ((60, 10), (100, 10)), ((0, 45), (100, 45))]:
            space.add_line(a, b, dxfattribs={"linetype": "DASHED"})

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", draw)).flats

    assert sorted(len(b.lines) for b in flat.bends) == [1, 1, 2]


@pytest.mark.parametrize("begin", [-7.0, 0.0, 0.02, 3.0, 5.0, 8.0])
@pytest.mark.parametrize("end", [52.0, 57.5, 60.0, 71.0])
def test_a_bend_line_drawn_too_short_or_too_long_reaches_the_edges(tmp_path, begin, end):
    """Also where an opening on the line is nearer to its end than the edge is."""

    def draw(document):
        space = document.modelspace()
        space.add_lwpolyline([(0, 0), (100, 0), (100, 60), (0, 60)], close=True)
        space.add_circle((50, 13), 3)
        space.add_circle((50, 48), 3)
        space.add_line((50, begin), (50, end), dxfattribs={"layer": "BEND_UP"})

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", draw)).flats

    (bend,) = flat.bends
    heights = [y for line in bend.lines for _, y in line]
    assert heights == pytest.approx([0, 10, 16, 45, 51, 60], abs=1e-6)


@pytest.mark.parametrize("beside", [-0.03, -0.005, 0.0, 0.005, 0.03])
def test_a_bend_line_a_hair_beside_the_edge_ends_with_its_flange(tmp_path, beside):
    def draw(document):
        space = document.modelspace()
        outline = [(0, 0), (100, 0), (100, 12), (125, 12), (125, 45), (100, 45), (100, 60), (0, 60)]
        space.add_lwpolyline(outline, close=True)
        space.add_line((100 + beside, 12), (100 + beside, 45), dxfattribs={"layer": "BEND_UP"})

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", draw)).flats

    (bend,) = flat.bends
    assert [y for line in bend.lines for _, y in line] == pytest.approx([12, 45], abs=1e-6)


def test_a_drawing_without_unit_says_so_and_one_of_an_odd_size_is_questioned(tmp_path):
    unsaid = drawn(tmp_path / "a.dxf", "R2010", lambda d: plate(d.modelspace()), units=0)
    assert read_drawing(unsaid).unit is None

    odd = drawn(tmp_path / "b.dxf", "R2010", lambda d: plate(d.modelspace()), units=6)
    (finding,) = [f for f in read_drawing(odd).flats[0].findings if f.code == "unit-doubtful"]
    assert "100000.00 x 60000.00 mm" in finding.text
    assert "100.00 x 60.00 mm" in finding.text


def crossing(space):
    plate(space)
    space.add_lwpolyline([(80, 20), (140, 20), (140, 40), (80, 40)], close=True)


def branching(space):
    for a, b in [((0, 0), (9, 0)), ((9, 0), (9, 9)), ((9, 9), (0, 0)), ((9, 9), (20, 9))]:
        space.add_line(a, b)


def in_itself(space):
    block = space.doc.blocks.new("loop")
    block.add_blockref("loop", (1, 1))
    space.add_blockref("loop", (0, 0))


@pytest.mark.parametrize(
    ("draw", "text"),
    [
        (in_itself, "entity #.*: a block cannot be drawn: maximum recursion"),
        (lambda s: s.add_blockref("gone", (0, 0)), "a block cannot be drawn: .*gone"),
        (lambda s: s.add_spline(), "a spline cannot be drawn"),
        (crossing, "touch or cross at x 100"),
        (branching, "3 lines meet at x 9.000, y 9.000"),
        (lambda s: s.add_arc((5, 5), 4, 10, 350), "open by 1.39 mm at x 8.939, y 5.000"),
        (lambda s: s.add_text("only words"), "nothing is drawn"),
    ],
)
def test_unusable_drawings_name_the_place(tmp_path, draw, text):
    path = drawn(tmp_path / "b.dxf", "R2010", lambda d: draw(d.modelspace()))

    with pytest.raises(InputError, match=text):
        read_drawing(path)


def test_meshes_are_no_outlines(tmp_path):
    def with_meshes(document):
        space = document.modelspace()
        plate(space)
        space.add_polymesh((3, 3))
        space.add_polyface().append_face([(0, 0, 0), (9, 0, 0), (9, 9, 0)])

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", with_meshes)).flats

    assert flat.region.area == pytest.approx(100 * 60 - math.pi * 10**2)
    (unread,) = [f for f in flat.findings if f.code == "not-read"]
    assert unread.level is Level.WARNING
    assert "2 mesh. Draw what belongs to the part" in unread.text


def test_what_could_be_a_hole_but_is_no_line_is_said(tmp_path):
    def with_solids(document):
        space = document.modelspace()
        plate(space)
        space.add_solid([(10, 10), (20, 10), (10, 20), (20, 20)])
        space.add_solid([(0, 0), (1, 0), (0, 1), (1, 1)], dxfattribs={"layer": "Rahmen"})
        space.add_mline([(30, 30), (60, 30)])

    (flat,) = read_drawing(drawn(tmp_path / "b.dxf", "R2010", with_solids)).flats

    (unread,) = [f.text for f in flat.findings if f.code == "not-read"]
    assert "no line or arc: 1 mline, 1 solid." in unread


def test_a_drawing_of_nothing_but_solids_is_refused_by_their_kind(tmp_path):
    def only_solids(document):
        document.modelspace().add_solid([(10, 10), (20, 10), (10, 20), (20, 20)])

    with pytest.raises(InputError, match="could be an outline, only 1 solid"):
        read_drawing(drawn(tmp_path / "b.dxf", "R2010", only_solids))


@pytest.mark.parametrize("head", [b"AC1027 not a dxf", b"0\nSECTION\n2\nNOWHERE", b"\x00" * 400])
def test_what_is_no_dxf_is_refused(tmp_path, head):
    path = tmp_path / "b.dxf"
    path.write_bytes(head)

    with pytest.raises(InputError, match=r"DWG|cannot be read|nothing is drawn"):
        read_drawing(path)


@pytest.mark.parametrize(
    "name", ["tool-tray", "roof-cap", "hanger-arm", "cable-guard", "door-panel"]
)
def test_a_flat_with_bend_data_folds_to_the_part_it_came_from(name):
    (product,) = read_step(PARTS / f"{name}.step")
    part = folded_part(Solid(product.shape), name)
    chart = constant_chart(0.44, part.thickness)
    blank = unfold(part, takes=chart_takes(part, chart))
    flat = DrawnFlat(name, blank.region, tuple(DrawnBend(b.lines, b.is_up) for b in blank.bends))
    given = [
        BendGiven(angle=b.angle, is_up=b.is_up, take=chart.take(b.angle, b.inside_radius))
        for b in blank.bends
    ]

    again = folded_drawn(flat, given, thickness=part.thickness)

    assert (len(again.panels), len(again.bends)) == (len(part.panels), len(part.bends))
    assert again.volume == pytest.approx(part.volume, rel=1e-6)
    unfolded = unfold(again, takes=chart_takes(again, chart))
    assert unfolded.region.area == pytest.approx(blank.region.area, rel=1e-6)
    assert span(again) == pytest.approx(span(part), abs=2e-3)


@pytest.mark.parametrize(("name", "unit"), [("o5-tray-inch", 25.4), ("o2-upright-framed", None)])
def test_bend_lines_that_meet_in_a_corner_fold_with_a_mitre(name, unit):
    (flat,) = read_drawing(DATA / "dxf" / f"{name}.dxf", unit=unit).flats
    chart = constant_chart(0.44, 1.5)
    take = chart.take(math.pi / 2, 1.5)
    given = [BendGiven(angle=math.pi / 2, is_up=True, take=take) for _ in flat.bends]

    part = folded_drawn(flat, given, thickness=1.5)

    assert (len(part.panels), len(part.bends)) == (5, 4)
    for anchor in range(1, 6):
        blank = unfold(part, takes=chart_takes(part, chart), anchor=anchor)
        assert blank.region.area == pytest.approx(flat.region.area, rel=1e-9)
        assert blank.region.length == pytest.approx(flat.region.length, rel=1e-9)


def test_bend_lines_that_cross_are_refused_with_the_place():
    lines = [((50.0, 0.0), (50.0, 60.0)), ((0.0, 30.0), (100.0, 30.0))]
    bends = tuple(DrawnBend((line,)) for line in lines)
    flat = DrawnFlat("plate", Region(Contour.rectangle(100, 60)), bends)
    take = constant_chart(0.44, 1.5).take(math.pi / 2, 1.5)

    with pytest.raises(InputError, match=r"lines 1 and 2 cross at x 50.00, y 30.00"):
        folded_drawn(flat, [BendGiven(angle=math.pi / 2, is_up=True, take=take)] * 2, thickness=1.5)


TAKE = constant_chart(0.44, 2.0).take(math.pi / 2, 2.0)


def folded_along(*lines, outer=None):
    """A plate of 200 x 100 folded up along some lines."""
    region = Region.oriented(outer or Contour.rectangle(200, 100))
    flat = DrawnFlat("plate", region, tuple(DrawnBend((line,)) for line in lines))
    given = [BendGiven(angle=math.pi / 2, is_up=True, take=TAKE)] * len(lines)
    return folded_drawn(flat, given, thickness=2.0)


@pytest.mark.parametrize("apart", [0.0, 0.001, 0.5, 0.999, 1.0])
@pytest.mark.parametrize("tilt", [0.0, 0.2, -0.2])
def test_bends_nearer_than_they_take_are_refused_and_none_is_lost(apart, tilt):
    far = 80 + apart * TAKE.spread
    if tilt > 0 and apart == 1.0:
        far -= 2 * tilt

    with pytest.raises(InputError, match=r"bends 1 and 2 run into each other at x"):
        folded_along(((80.0, 0.0), (80.0, 100.0)), ((far, 0.0), (far + tilt, 100.0)))


@pytest.mark.parametrize("gap", [0.01, 1.0, 40.0])
def test_bends_with_something_flat_between_them_are_folded_both(gap):
    far = 80 + TAKE.spread + gap

    part = folded_along(((80.0, 0.0), (80.0, 100.0)), ((far, 0.0), (far, 100.0)))

    assert (len(part.panels), len(part.bends)) == (3, 2)
    assert sum(p.area for p in part.panels) == pytest.approx((200 - 2 * TAKE.spread) * 100)


def test_bends_of_flanges_that_a_slit_divides_may_lie_side_by_side():
    slit = [(0, 0), (200, 0), (200, 49), (60, 49), (60, 51), (200, 51), (200, 100), (0, 100)]

    part = folded_along(
        ((80.0, 0.0), (80.0, 49.0)), ((82.0, 51.0), (82.0, 100.0)), outer=Contour.through(slit)
    )

    assert (len(part.panels), len(part.bends)) == (3, 2)


def tray(wide, high, flanges, relief):
    """A base with flanges (left, right, below, above; 0: none), each shorter by a relief twice."""
    left, right, below, above = flanges
    r = relief
    steps = [
        [(r, 0), (r, -below), (wide - r, -below), (wide - r, 0)] if below else [],
        [(wide, r), (wide + right, r), (wide + right, high - r), (wide, high - r)] if right else [],
        [(wide - r, high), (wide - r, high + above), (r, high + above), (r, high)] if above else [],
        [(0, high - r), (-left, high - r), (-left, r), (0, r)] if left else [],
    ]
    corners = [(0, 0), (wide, 0), (wide, high), (0, high)]
    points = [p for corner, step in zip(corners, steps, strict=True) for p in (corner, *step)]
    kept = [p for i, p in enumerate(points) if math.dist(p, points[i - 1]) > 1e-9]
    lines = [(s[0], s[-1]) for s in steps if s]
    return Contour.through(kept).simplified(), lines


@given(
    # Smaller ones have no room for three holes of 6 mm between what the corners take.
    st.tuples(st.floats(90, 300), st.floats(90, 300)),
    st.lists(st.sampled_from([0, 18, 33]), min_size=4, max_size=4).filter(any),
    st.sampled_from([0.0, 1.5, 7.0]),
    st.lists(
        st.tuples(st.floats(0.3, 5), st.floats(25, 140), st.booleans()), min_size=4, max_size=4
    ),
    st.lists(st.tuples(st.floats(0, 1), st.floats(-9, 9)), max_size=3),
)
def test_any_tray_folds_with_all_its_bends_and_unfolds_to_itself(
    size, flanges, relief, given_bends, beside
):
    """Zones of unequal width meet in corners, and holes lie on, beside or within them."""
    outer, lines = tray(*size, flanges, relief)
    # Holes along the first bend line, each well apart from the next.
    (ax, ay), (bx, by) = lines[0]
    long = math.dist(*lines[0])
    ux, uy = (bx - ax) / long, (by - ay) / long
    holes = []
    for i, (along, across) in enumerate(beside):
        at = 22 + (long - 44) * (i + along * 0.3) / 3
        holes.append(Contour.circle((ax + ux * at + uy * across, ay + uy * at - ux * across), 3))
    region = Region.oriented(outer, tuple(holes))
    pieces = [list(_on(region, line)) for line in lines]
    bends = tuple(
        DrawnBend(tuple(p), up) for p, (_, _, up) in zip(pieces, given_bends, strict=False)
    )
    chart = constant_chart(0.44, 2.0)
    made = [
        BendGiven(angle=math.radians(a), is_up=up, take=chart.take(math.radians(a), r))
        for r, a, up in given_bends[: len(lines)]
    ]

    part = folded_drawn(DrawnFlat("tray", region, bends), made, thickness=2.0)

    assert (len(part.panels), len(part.bends)) == (len(lines) + 1, len(lines))
    for anchor in (1, len(part.panels)):
        blank = unfold(part, takes=tuple(g.take for g in made), anchor=anchor)
        assert blank.region.area == pytest.approx(region.area, rel=1e-5)
        assert blank.region.length == pytest.approx(region.length, rel=1e-5)
        assert len(blank.region.holes) == len(holes)
        assert sorted(b.is_up for b in blank.bends) == sorted(b.is_up for b in bends)


def _on(region, line):
    """Yield the pieces of a line on a region."""
    on = LineString(line).intersection(region.polygon(0.001).buffer(1e-6))
    for piece in getattr(on, "geoms", [on]):
        if piece.length > 0.5:
            yield tuple(piece.coords[0]), tuple(piece.coords[-1])


def span(part):
    """The greatest distance between two corners of the folded part."""
    points = [p.space(e.run[0].start) for p in part.panels for e in p.edges]
    return max(math.dist(p, q) for p in points for q in points)


def test_zones_that_do_not_fit_are_refused_with_the_place():
    region = Region(Contour.rectangle(100, 60))
    flat = DrawnFlat("plate", region, (DrawnBend((((2, 0), (2, 60)),)),))
    take = constant_chart(0.44, 3.0).take(math.pi / 2, 4.0)

    with pytest.raises(InputError, match=r"zone of bend 1 .* does not fit beside its line"):
        folded_drawn(flat, [BendGiven(angle=math.pi / 2, is_up=True, take=take)], thickness=3.0)


@pytest.mark.parametrize("name", ["tool-tray", "roof-cap", "cable-guard"])
def test_our_own_drawings_come_back_as_they_went_out(name, tmp_path):
    (product,) = read_step(PARTS / f"{name}.step")
    part = folded_part(Solid(product.shape), name)
    blank = unfold(part, takes=chart_takes(part, constant_chart(0.44, part.thickness)))
    write_blank(blank_document(blank), tmp_path)

    drawing = read_drawing(tmp_path / f"{name}.dxf")

    (flat,) = drawing.flats
    assert drawing.unit == 1.0
    assert flat.region.area == pytest.approx(blank.region.area, rel=1e-9)
    assert flat.region.length == pytest.approx(blank.region.length, rel=1e-9)
    assert sorted((len(b.lines), b.is_up) for b in flat.bends) == sorted(
        (len(b.lines), b.is_up) for b in blank.bends
    )
