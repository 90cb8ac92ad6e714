"""Solids of every kind a shop receives, against flats summed by hand."""

import math

import pytest
from OCP.BRep import BRep_Builder
from OCP.BRepPrimAPI import BRepPrimAPI_MakeSphere
from OCP.TopAbs import TopAbs_FACE
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS_Compound
from shapely.geometry import Polygon

from kaigata.core.blank import FaceUp, chart_takes, unfold
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import blank_document, write_blank
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.intake.step import read_step, read_step_parts
from kaigata.core.metal.charts import constant_chart
from kaigata.core.packet.unfolding import UnfoldChoice, unfold_file
from tests.checks import PARTS, checked
from tests.solids import (
    as_splines,
    box,
    cone,
    flat_length,
    joined,
    less,
    only_solid,
    profile,
    round_bar,
    turned,
    with_split_faces,
    write_step,
)

K = 0.44


def unfolded(shape, k=K, **pose):
    part = folded_part(Solid(only_solid(shape)), "thing")
    return unfold(part, takes=chart_takes(part, constant_chart(k, part.thickness)), **pose)


def texts(shape):
    """What the marks say with either face up, as modelled first."""
    return [sorted(m.text for m in unfolded(shape, face_up=face).marks) for face in FaceUp]


def size(blank):
    return tuple(sorted((blank.width, blank.height)))


U = [40, (90, 2), 60, (90, 2), 40]
Z = [50, (90, 3), 30, (-90, 3), 50]


@pytest.mark.parametrize(
    ("steps", "thickness"),
    [
        (U, 2.0),
        (Z, 1.5),
        ([40, (90, 0), 60], 2.0),
        ([40, (90, 0), 30, (-90, 0), 30], 1.5),
        ([40, (-90, 0), 60, (-60, 0), 30], 3.0),
        ([40, (90, 0.1), 60], 2.0),
        ([60, (90, 200), 60], 2.0),
        ([40, (135, 2), 60], 2.0),
        ([60, (180, 0.05), 12], 1.0),
        ([60, (180, 1.0), 12], 1.0),
        ([60, (240, 2.0), 6], 1.0),
        ([60, (270, 6.0), 9], 1.0),
        ([80, (30, 2), 0.5, (-30, 2), 80], 2.0),
        ([80, (90, 2), (45, 5), 80], 2.0),
        ([100], 3.0),
    ],
)
@pytest.mark.parametrize("form", [lambda s: s, as_splines], ids=["plain", "splines"])
def test_profiles_unfold_to_the_sum_of_their_steps(steps, thickness, form):
    blank = unfolded(form(profile(steps, thickness=thickness, wide=75)))

    length = flat_length(steps, thickness=thickness, k=K)
    assert size(blank) == pytest.approx(tuple(sorted((75.0, length))), abs=2e-3)
    assert blank.region.area == pytest.approx(75 * length, rel=1e-5)
    turns = sorted((abs(s[0]), s[1]) for s in steps if isinstance(s, tuple))
    found = sorted((round(math.degrees(b.angle), 2), b.inside_radius) for b in blank.bends)
    assert [v for t in found for v in t] == pytest.approx([v for t in turns for v in t], abs=2e-3)
    ups = sum(s[0] > 0 for s in steps if isinstance(s, tuple))
    assert sum(b.is_up for b in blank.bends) in (ups, len(turns) - ups)


@pytest.mark.parametrize("angle", [60, 91, 105, 130, -105, -130])
@pytest.mark.parametrize("radius", [0, 2])
def test_a_flange_narrower_than_its_base_without_a_relief(angle, radius):
    flange = profile([4.0, (angle, radius), 28.5], thickness=1.5, wide=60)
    whole = joined(box(0, 0, 0, 80, 100, 1.5), turned(flange, (0, 0, 1), 0, by=(76, 20, 0)))

    blank = unfolded(whole, k=0.44)

    assert (len(blank.panels), len(blank.bends)) == (2, 1)
    bent = math.radians(abs(angle)) * (radius + 0.44 * 1.5)
    assert blank.region.area == pytest.approx(80 * 100 + 60 * (bent + 28.5), rel=1e-6)


@pytest.mark.parametrize("angle", [89.9, 89.99, 90.01, -90.01])
@pytest.mark.parametrize("degrees", [0, 40])
def test_panels_that_are_not_quite_parallel_are_not_taken_for_the_same_plane(angle, degrees):
    """Two bends that nearly make up for each other, as files with rounded angles have them."""
    back = -math.copysign(90, angle)
    lip = profile([4.0, (angle, 2), 28.5, (back, 2), 14], thickness=1.5, wide=67)
    whole = joined(box(0, 0, 0, 82, 100, 1.5), turned(lip, (0, 0, 1), 0, by=(78, 16, 0)))

    blank = unfolded(turned(whole, (1, 2, 3), degrees), k=0.44)

    assert sorted(round(math.degrees(b.angle), 4) for b in blank.bends) == sorted([90, abs(angle)])
    bent = math.radians(90 + abs(angle)) * (2 + 0.44 * 1.5)
    assert blank.region.area == pytest.approx(82 * 100 + 67 * (bent + 28.5 + 14), rel=1e-6)


@pytest.mark.parametrize("form", [lambda s: s, as_splines], ids=["plain", "splines"])
def test_split_faces_and_split_bends_are_one(form):
    whole = profile(U, thickness=2.0, wide=75)
    across = box(-50, 30, -50, 300, 20, 300)
    along = turned(box(-9, -9, -50, 9, 300, 100), (0, 1, 0), -30, (42, 0, 4))
    split = with_split_faces(form(whole), across, along)

    blank = unfolded(split)

    assert len(blank.bends) == 2
    assert len(blank.panels) == 3
    assert size(blank) == pytest.approx(size(unfolded(whole)), abs=1e-6)


def test_a_rolled_tube_with_a_seam_lies_flat():
    steps = [(350, 20.0)]
    blank = unfolded(profile(steps, thickness=1.0, wide=120))

    assert size(blank) == pytest.approx((120, flat_length(steps, thickness=1.0, k=K)), abs=1e-3)


def test_a_square_tube_with_a_seam_lies_flat():
    steps = [19, (90, 2), 40, (90, 2), 40, (90, 2), 40, (90, 2), 19]
    blank = unfolded(profile(steps, thickness=1.5, wide=200))

    assert len(blank.bends) == 4
    assert size(blank)[0] == pytest.approx(flat_length(steps, thickness=1.5, k=K), abs=1e-3)


def test_a_hole_cut_square_and_a_slot_across_a_bend():
    shape = profile([40, (90, 2), 60], thickness=2.0, wide=80)
    shape = less(shape, round_bar((20, 20, -5), (0, 0, 1), 4.0, 20), box(30, 35, -5, 20, 10, 30))
    blank = unfolded(shape)

    circle = next(h for h in blank.region.holes if len(h.vertices) == 2)
    assert abs(circle.area) == pytest.approx(math.pi * 16, rel=1e-6)
    assert [len(b.lines) for b in blank.bends] == [2]


@pytest.mark.parametrize("angle", [90, -90])
def test_a_sharp_bend_whose_outer_arc_is_cut_in_two(angle):
    shape = profile([40, (angle, 0), 60], thickness=2.0, wide=80)
    window = unfolded(less(shape, box(30, 35, -20, 20, 10, 40)))
    slot = unfolded(less(shape, box(30, 35, -90, 20, 10, 180)))

    bent = math.radians(90) * K * 2
    # Of the bent side the tool takes 18 or 20 mm beyond the bend, as it stands up or down.
    beyond = 20 - (2 if angle > 0 else 0)
    assert window.region.area == pytest.approx(80 * (100 + bent) - 10 * (10 + bent + beyond))
    assert [len(b.lines) for b in window.bends] == [2]
    assert slot.region.area == pytest.approx(80 * (100 + bent) - 10 * (70 + bent))
    assert (len(slot.panels), len(slot.bends)) == (3, 2)


def test_a_countersink_is_cut_at_its_narrow_end_and_marked():
    plate = box(0, 0, 0, 100, 60, 3)
    hole = round_bar((30, 30, -1), (0, 0, 1), 2.75, 10)
    sink = cone((30, 30, 0.375), (0, 0, 1), 2.75, 5.375 + 0.0, 2.625)
    for shape in (less(plate, hole, sink), turned(less(plate, hole, sink), (1, 0, 0), 180)):
        blank = unfolded(shape)

        (circle,) = blank.region.holes
        assert abs(circle.area) == pytest.approx(math.pi * 2.75**2, rel=1e-6)
        (mark,) = blank.marks
        assert mark.kind == "countersink"
        assert mark.diameter == pytest.approx(10.75, abs=1e-6)


def drilled(*more):
    return less(box(0, 0, 0, 100, 60, 6), round_bar((30, 30, -1), (0, 0, 1), 2.6, 10), *more)


def test_a_countersink_says_which_side_it_is_sunk_from_as_the_blank_lies():
    shape = drilled(cone((30, 30, 3.5), (0, 0, 1), 2.6, 5.1, 2.5))

    modelled, over = texts(shape)

    assert {*modelled, *over} == {
        "countersink 10.2 x 90 deg",
        "countersink 10.2 x 90 deg, other side",
    }
    assert texts(turned(shape, (1, 0, 0), 180)) in ([modelled, over], [over, modelled])


def test_a_hole_sunk_from_both_sides_is_marked_from_both():
    above = cone((30, 30, 3.5), (0, 0, 1), 2.6, 5.1, 2.5)
    deep = 1.4 * math.sqrt(3)
    below = cone((30, 30, deep), (0, 0, -1), 2.6, 4.0, deep)
    modelled, over = texts(drilled(above, below))

    assert {len(modelled), len(over)} == {2}
    near = [t for t in modelled if "other side" not in t]
    assert [f"{t}, other side" for t in near] == [t for t in over if "other side" in t]
    assert {t.split(",")[0] for t in modelled} == {
        "countersink 10.2 x 90 deg", "countersink 8 x 60 deg",
    }  # fmt: skip


def test_a_counterbore_says_which_side_it_is_sunk_from_as_the_blank_lies():
    modelled, over = texts(drilled(round_bar((30, 30, 3), (0, 0, 1), 5.0, 5)))

    assert {*modelled, *over} == {
        "counterbore 10 for hole 5.2", "counterbore 10 for hole 5.2, other side",
    }  # fmt: skip


def test_a_tapped_size_hole_is_marked_with_its_thread():
    shape = less(box(0, 0, 0, 100, 60, 3), round_bar((30, 30, -1), (0, 0, 1), 2.5, 10))
    (mark,) = unfolded(shape).marks

    assert (mark.kind, mark.note) == ("tapped-hole", "M6")


def test_a_bevelled_edge_is_cut_at_its_widest_and_said():
    plate = box(0, 0, 0, 100, 60, 4)
    knife = turned(box(0, -1, 0, 30, 70, 30), (0, 1, 0), -45, (100, 0, 0))
    blank = unfolded(less(plate, knife))

    assert size(blank) == pytest.approx((60, 100), abs=1e-3)
    assert "edge-not-square" in {f.code for f in blank.findings}


@pytest.mark.parametrize("up", [True, False])
def test_a_dimple_is_a_footprint(up):
    plate = box(0, 0, 0, 100, 60, 2)
    at = (40, 30, 2) if up else (40, 30, 0)
    along = (0, 0, 1) if up else (0, 0, -1)
    back = (40, 30, 0) if up else (40, 30, 2)
    shape = joined(plate, round_bar(at, along, 6.0, 1.5))
    shape = less(shape, round_bar(back, along, 5.0, 1.5))
    blank = unfolded(shape)

    assert blank.region.holes == ()
    assert [m.kind for m in blank.marks] == ["formed"]
    assert sorted(t for side in texts(shape) for t in side) == [
        "form 1.50 mm down",
        "form 1.50 mm up",
    ]
    assert "pressed-form" in {f.code for f in blank.findings}


def test_a_part_lying_askew_unfolds_the_same():
    shape = turned(profile(Z, thickness=1.5, wide=75), (1, 2, 3), 37, (100, -20, 7))

    assert size(unfolded(shape)) == pytest.approx(
        tuple(sorted((75, flat_length(Z, thickness=1.5, k=K)))), abs=1e-6
    )


@pytest.mark.parametrize(
    "steps", [[80, (30, 2), (-30, 2), 80], [40, (90, 2), (90, 5), 30], [(120, 30)]]
)
def test_bends_that_follow_each_other_or_stand_alone(steps):
    blank = unfolded(profile(steps, thickness=2.0, wide=50))

    length = flat_length(steps, thickness=2.0, k=K)
    assert size(blank) == pytest.approx(tuple(sorted((50.0, length))), abs=1e-6)
    assert not [f for f in blank.findings if f.level == "error"]


def test_a_round_part_does_not_lie_on_itself():
    washer = less(round_bar((0, 0, 0), (0, 0, 1), 20, 6), round_bar((0, 0, -1), (0, 0, 1), 8, 16))
    blank = unfolded(washer)

    assert blank.findings == ()
    assert blank.region.area == pytest.approx(math.pi * (400 - 64))


def overlapping_flanges():
    """Flanges on both edges of an inner corner: laid flat they lie on each other."""
    flange = profile([38, (90, 2), 30], thickness=2, wide=56)
    one = turned(flange, (0, 0, 1), 0, (0, 44, 0))
    two = turned(flange, (0, 0, 1), 90, (100, 0, 0))
    return joined(box(0, 0, 0, 38, 100, 2), box(0, 0, 0, 100, 38, 2), one, two)


def test_a_flat_that_lies_on_itself_is_said_with_the_area_and_refused(tmp_path):
    blank = unfolded(overlapping_flanges())
    (finding,) = [f for f in blank.findings if f.code == "flat-overlap"]

    side = 38 + math.pi / 2 * (2 + K * 2) + 30 - 44
    assert Polygon(finding.outline).area == pytest.approx(side**2, rel=1e-3)
    write_step(overlapping_flanges(), tmp_path / "corner.step")
    with pytest.raises(InputError, match="The flat lies on itself"):
        unfold_file(tmp_path / "corner.step", UnfoldChoice(k=K))


def faces_of(shape, *, skip=0):
    skin, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(skin)
    walk, n = TopExp_Explorer(shape, TopAbs_FACE), 0
    while walk.More():
        if n >= skip:
            builder.Add(skin, walk.Current())
        n += 1
        walk.Next()
    return skin


def test_loose_surfaces_that_close_are_a_part_and_an_open_shell_is_none(tmp_path):
    angle = profile([40, (90, 2), 60], thickness=2, wide=75)
    write_step(faces_of(angle), tmp_path / "skin.step")
    write_step(faces_of(angle, skip=1), tmp_path / "open.step")

    ((_, part),) = read_step_parts(tmp_path / "skin.step")
    assert (part.name, len(part.bends)) == ("skin", 1)
    ((_, refusal),) = read_step_parts(tmp_path / "open.step")
    assert "open shell: 4 edges" in refusal.error.what
    assert refusal.error.spot is not None
    assert len(refusal.triangles) > 10


@pytest.mark.parametrize(
    ("shape", "text"),
    [
        (joined(box(0, 0, 0, 100, 60, 2), box(60, 0, 0, 60, 60, 3)), "not constant.* 3.00 mm"),
        (joined(box(0, 0, 0, 100, 60, 2), box(0, 0, 0, 2, 60, 50)), "sharp inside and outside"),
        (less(box(0, 0, 0, 100, 60, 40), box(2, 2, 2, 96, 56, 50)), "sharp inside and outside"),
        (less(box(0, 0, 0, 100, 60, 3), box(20, 20, 2.2, 30, 20, 5)), "pocket.* 2.20 mm"),
        (joined(box(0, 0, 0, 100, 60, 3), box(20, 20, 2, 10, 10, 9)), "8.00 mm proud"),
        (less(box(0, 0, 0, 100, 60, 3), box(80, -1, 2.2, 30, 90, 5)), "not constant"),
        (
            less(box(0, 0, 0, 200, 60, 3), turned(box(0, -1, 3, 300, 90, 9), (0, 1, 0), 0.3)),
            "block",
        ),
        (
            less(round_bar((0, 0, 0), (0, 0, 1), 20, 80), round_bar((0, 0, 0), (0, 0, 1), 18, 80)),
            "closed tube",
        ),
        (
            joined(
                profile([20, (90, 3), 34, (90, 3), 20], thickness=2, wide=100),
                turned(
                    profile([20, (90, 3), 34, (90, 3), 20], thickness=2, wide=100),
                    (0, 1, 0),
                    180,
                    (0, 0, 44),
                ),
            ),
            "close a ring",
        ),
        (box(0, 0, 0, 100, 100, 90), "block"),
        (BRepPrimAPI_MakeSphere(20).Shape(), "no thickness"),
        (less(box(0, 0, 0, 90, 90, 3), box(50, 40, 1, 10, 10, 1)), "hollow inside"),
    ],
)
def test_what_is_no_sheet_of_one_thickness_is_refused_with_place_and_size(shape, text):
    with pytest.raises(InputError, match=text):
        unfolded(shape)


def in_pieces(shape):
    """The same solid of splines, its faces and bends divided across and along."""
    across = box(-500, 31.7, -500, 1000, 40.1, 1000)
    along = turned(box(-500, -500, -500, 537.3, 1000, 1000), (0, 1, 0.2), 12)
    return with_split_faces(as_splines(shape), across, along)


@pytest.mark.parametrize("name", ["tool-tray", "roof-cap", "hanger-arm", "cable-guard"])
def test_real_parts_in_splines_and_pieces_agree_with_their_truths(name, tmp_path):
    (product,) = read_step(PARTS / f"{name}.step")
    write_blank(blank_document(unfolded(in_pieces(product.shape))), tmp_path)

    truth = PARTS / f"{name}.truth.json"
    assert checked("blank_check.py", truth, tmp_path, "--k", K) == f"ok {name}"


def test_a_file_in_inches_is_read_in_millimetres(tmp_path):
    write_step(profile(U, thickness=2.0, wide=75), tmp_path / "u.step", unit="INCH")

    ((_, part),) = read_step_parts(tmp_path / "u.step")

    assert part.thickness == pytest.approx(2.0)
