"""Recipes followed: sizes by hand, the solid they make read back, and any recipe at all."""

import contextlib
import math

import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.blank.judge import judged
from kaigata.core.errors import InputError
from kaigata.core.formats.solid import folded_solid as sewn_solid
from kaigata.core.intake import read_parts
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.metal.allowance import bend_deduction
from kaigata.core.metal.charts import constant_chart
from kaigata.core.metal.limits import Limits
from kaigata.core.part.recipe import (
    Recipe,
    built_recipe,
    folded_recipe,
    sentences,
    starter,
    starters,
)
from kaigata.core.plane.tolerance import LENGTH
from tests.solids import folded_solid, mirrored, volume, write_step

K = 0.44
DEDUCTION = bend_deduction(math.pi / 2, inside_radius=2, thickness=2, k=K)
PANEL = {"do": "panel", "name": "base", "rectangle": [100, 60]}
WALLS = {"do": "flange", "name": "wall", "on": [f"base.{n}" for n in (1, 2, 3, 4)], "length": 30}
LIPS = {"do": "flange", "name": "lip", "on": [f"wall-{n}.3" for n in (1, 2, 3, 4)], "length": 15}


def recipe(*steps, **more):
    return Recipe.model_validate(
        {"kind": "fold-recipe", "part": "made", "thickness": 2, "steps": [PANEL, *steps], **more}
    )


def made(*steps, **more):
    return folded_recipe(recipe(*steps, **more))


def flange(on=("base.2",), length=30, **more):
    return {"do": "flange", "name": "side", "on": [*on], "length": length, **more}


def blank(part):
    return unfold(part, takes=chart_takes(part, constant_chart(K, part.thickness)))


def folded_size(part):
    """Return how far the panels of a part reach along x, y and z, on either side of the sheet."""
    t = part.thickness
    points = [
        p.frame.place(x, y, z)
        for p in part.panels
        for e in p.edges
        for s in e.run
        for x, y in [s.start]
        for z in (0.0, -t)
    ]
    return tuple(max(c) - min(c) for c in zip(*points, strict=True))


def sides(part):
    x0, y0, x1, y1 = blank(part).region.outer.bounds
    return sorted([x1 - x0, y1 - y0])


@pytest.mark.parametrize(
    ("measured", "bend", "angle", "wide"),
    [
        # Each is the sum on paper: setback r + t = 4 outside, r = 2 inside, allowance 4.523893.
        ("outside", "inside", 90, 100 + 30 - DEDUCTION),
        ("inside", "inside", 90, 100 + 30 + 2 - DEDUCTION),
        ("tangent", "inside", 90, 100 - 4 + 4.523893 + 30),
        ("outside", "outside", 90, 100 - 2 + 4.523893 + 30 - 4),
        ("outside", "beside", 90, 100 + 4.523893 + 30 - 4),
        ("outside", "inside", 60, 100 + 30 - 8 * math.tan(math.pi / 6) + 3.015929),
        # Over a right angle lengths go to the outermost of the bend.
        ("outside", "inside", 135, 100 - 4 + 6.785840 + 30 - 4),
    ],
)
def test_flange_adds_up(measured, bend, angle, wide):
    part = made(flange(measured=measured, bend=bend, angle=angle))
    assert sides(part)[1] == pytest.approx(wide, abs=1e-5)
    assert [round(math.degrees(b.angle), 9) for b in part.bends] == [angle]


def test_offset_moves_the_bend_out():
    near, far = (sides(made(flange(offset=o)))[1] for o in (0, 3))
    assert far - near == pytest.approx(3, abs=LENGTH)


@pytest.mark.parametrize(("direction", "up"), [("up", True), ("down", False)])
def test_flange_stands_flush_with_its_edge(direction, up):
    part = made(flange(direction=direction))
    assert folded_size(part)[0] == pytest.approx(100)
    assert folded_size(part)[2] == pytest.approx(30)
    assert part.bends[0].is_up is up
    assert volume(folded_solid(part)) == pytest.approx(part.volume)


def test_tray_with_lips_and_mitred_corners():
    part = made(WALLS, LIPS, {"do": "corners", "of": "base", "how": "mitred", "gap": 0.4})
    assert folded_size(part) == pytest.approx((100, 60, 30))
    # Out over the lips and in again: 60 + 2 (30 + 15) less four deductions.
    assert sides(part) == pytest.approx([60 + 90 - 4 * DEDUCTION, 100 + 90 - 4 * DEDUCTION])
    assert judged(blank(part), Limits(), part=part) == ()
    solid = folded_solid(part)
    assert volume(solid) == pytest.approx(part.volume)
    assert are_alike(blank(folded_part(Solid(solid), "solid")), blank(part))


def gap_between(one, two):
    """Return how near the corners of one panel come to the edges of another, both faces of each."""
    from OCP.BRepExtrema import BRepExtrema_DistShapeShape

    from tests.solids import _plate

    return BRepExtrema_DistShapeShape(_plate(one, 2), _plate(two, 2)).Value()


@pytest.mark.parametrize(
    ("how", "angle", "room"),
    [
        ("mitred", 90, 1e-6),
        ("mitred", 60, 1e-6),
        ("overlapped", 90, 1e-6),
        # The one outside ends at a slant, square to its sheet, before the gap is reached.
        ("overlapped", 60, 0.2),
    ],
)
def test_walls_keep_the_gap(how, angle, room):
    part = made(
        {**WALLS, "on": ["base.2", "base.3"], "angle": angle},
        {"do": "corners", "of": "base", "how": how, "gap": 0.5},
    )
    _, one, two = part.panels
    assert 0.5 - 1e-6 < gap_between(one, two) < 0.5 + room


def test_open_walls_end_with_their_bends():
    part = made({**WALLS, "on": ["base.2", "base.3"]})
    lengths = sorted(max(y for e in b.edges for s in e.run for y in s.start) for b in part.bends)
    # Of 60 and 100 the other wall's setback of 4.
    assert lengths[0] != lengths[1]
    assert sorted(b.length for b in blank(part).bends) == pytest.approx([56, 96])


def test_a_panel_that_touches_itself_beside_a_relief_is_judged():
    outline = [[0, 0], [100, 0], [80, 60], [0, 60]]
    side = flange(on=["base.1"], angle=45, direction="down", bend="beside", ends=[0, 2],
                  relief={"width": 1.5})  # fmt: skip
    part = made(
        steps=[{"do": "panel", "name": "base", "outline": outline}, side],
        hand="other", thickness=1.5, inside_radius=0,
    )  # fmt: skip
    assert "hole-near-bend" not in {f.code for f in judged(blank(part), Limits(), part=part)}


@pytest.mark.parametrize("kind", ["rectangular", "round"])
def test_relief_beside_a_bend_within_an_edge(kind):
    relief = {"kind": kind, "width": 3, "depth": 4}
    part = made(flange(ends=[10, 12], relief=relief))
    (bend,) = blank(part).bends
    assert bend.length == pytest.approx(38)
    # On each side 3 wide, 4 deep behind the bend line, which lies 4 inside the edge.
    each = 3 * 8 if kind == "rectangular" else 3 * 6.5 + math.pi * 1.5**2 / 2
    base = max(part.panels, key=lambda p: p.area)
    assert base.area == pytest.approx(100 * 60 - 38 * 4 - 2 * each)
    assert "relief-missing" not in {f.code for f in judged(blank(part), Limits(), part=part)}


def test_angle_of_nothing_goes_on_in_the_plane():
    tab = flange(name="tab", on=["base.2"], length=20, angle=0, ends=[20, 20])
    on_tab = {"do": "hole", "panel": "tab", "at": [10, 5], "diameter": 4}
    part = made({**tab, "name": "tab"}, on_tab, flange(on=["tab.3"], length=25))
    assert len(part.panels) == 2
    assert sides(part)[1] == pytest.approx(100 + 20 + 25 - DEDUCTION)
    # The hole lies 5 beyond the edge, in the middle of the tab.
    base = max(part.panels, key=lambda p: p.area)
    hole = [s for e in base.edges for s in e.run if not s.is_line]
    assert hole[0].centre == pytest.approx((105, 30))


@pytest.mark.parametrize(("gap", "length"), [(0, 100 - 2 + math.pi * K * 2 + 10), (1, None)])
def test_hem(gap, length):
    part = made({"do": "hem", "name": "hem", "on": ["base.2"], "length": 12, "gap": gap})
    out = gap / 2 + 2
    summed = 100 - out + math.pi * (gap / 2 + K * 2) + 12 - out
    assert sides(part)[1] == pytest.approx(length or summed)
    assert part.bends[0].inside_radius == gap / 2
    assert folded_size(part)[2] == pytest.approx(4 + gap)


def test_cutouts_lie_where_they_are_said():
    part = made(
        flange(on=["base.1"]),
        {"do": "hole", "panel": "base", "at": [20, 30], "diameter": 6,
         "repeat": {"columns": 3, "rows": 2, "pitch": [20, 12]}},
        {"do": "hole", "panel": "side", "at": [20, 15], "thread": "M6"},
        {"do": "slot", "panel": "base", "at": [77, 40], "length": 30, "width": 5, "turn": 90},
        {"do": "opening", "panel": "base", "at": [85, 20], "rectangle": [10, 8], "corner": 2},
        {"do": "opening", "panel": "base", "at": [70, 20],
         "outline": [[-2, -2], [2, -2], [0, 3]]},
    )  # fmt: skip
    flat = blank(part)
    assert len(flat.region.holes) == 6 + 4
    (mark,) = flat.marks
    assert (mark.kind, mark.note, mark.diameter) == ("tapped-hole", "M6", 5.0)
    # 15 from the outside of the flange, which is its length's end of measuring.
    side = min(part.panels, key=lambda p: p.area)
    assert side.frame.place(*part.features[0].at, 0.0)[2] == pytest.approx(15 - 2)
    # From the left end as seen with the bend below, from the side that lies up.
    assert side.frame.place(*part.features[0].at, 0.0)[0] == pytest.approx(100 - 20)
    slot = math.pi * 2.5**2 + 25 * 5
    assert sum(abs(h.area) for h in flat.region.holes) == pytest.approx(
        6 * math.pi * 9 + math.pi * 2.5**2 + slot + 80 - (4 - math.pi) * 4 + 10
    )


def test_countersinks_are_marked_from_their_side():
    hole = {"do": "hole", "panel": "base", "at": [20, 30], "diameter": 6, "countersink": 12}
    (near,), (far,) = (blank(made({**hole, "side": s})).marks for s in ("near", "far"))
    assert (near.kind, near.diameter, near.note) == ("countersink", 12, "countersink 12 x 90 deg")
    assert (near.is_near, far.is_near) == (True, False)


def test_the_other_hand_is_its_solid_in_a_mirror():
    steps = (
        flange(on=["base.2"], ends=[0, 20]),
        {"do": "hole", "panel": "side", "at": [12, 15], "thread": "M6"},
        flange(name="low", on=["base.3"], direction="down", angle=60),
    )
    one, other = made(*steps), made(*steps, hand="other")
    assert not are_alike(blank(one), blank(other))
    solid = folded_solid(other)
    assert volume(solid) == pytest.approx(one.volume)
    assert are_alike(blank(folded_part(Solid(mirrored(folded_solid(one))), "it")), blank(other))
    # Bends go the ways they went, and a mirror's mirror is the part.
    assert [b.is_up for b in other.bends] == [b.is_up for b in one.bends]
    assert other.mirrored() == one


@pytest.mark.parametrize(("kind", "off"), [("round", (4 - math.pi) * 9), ("chamfer", 4 * 4.5)])
def test_free_corners_are_rounded(kind, off):
    part = made({"do": "round", "panel": "base", "radius": 3, "kind": kind})
    assert part.panels[0].area == pytest.approx(6000 - off)
    one = made({"do": "round", "panel": "base", "corners": [2], "radius": 3, "kind": kind})
    assert one.panels[0].area == pytest.approx(6000 - off / 4)
    # Those at a bend stay as they are when none is named.
    folded = made(flange(), {"do": "round", "panel": "base", "radius": 3, "kind": kind})
    assert blank(folded).region.area == pytest.approx(blank(made(flange())).region.area - off / 2)


def test_outline_with_arcs_and_slanted_edges():
    outline = [[0, 0], [80, 0], [80, 40, 0.5], [40, 60], [0, 40]]
    first = {"do": "panel", "name": "base", "outline": outline}
    part = made(flange(on=["base.5"], angle=45), steps=[first, flange(on=["base.5"], angle=45)])
    assert volume(folded_solid(part)) == pytest.approx(part.volume)
    with pytest.raises(InputError, match=r"edge 3 of base is an arc"):
        made(steps=[first, flange(on=["base.3"])])
    with pytest.raises(InputError, match=r"reaches the arc beside edge 3"):
        made(steps=[first, flange(on=["base.4"])])


def test_solid_read_from_a_file_unfolds_alike(tmp_path):
    part = made(WALLS, {"do": "corners", "of": "base", "how": "overlapped", "gap": 0.3})
    write_step(folded_solid(part), tmp_path / "made.step")
    (read,) = read_parts(tmp_path / "made.step").parts
    assert are_alike(blank(read.part), blank(part))


def test_recipe_is_a_file_like_any_other(tmp_path):
    path = tmp_path / "made.json"
    path.write_text(recipe(flange()).model_dump_json())
    (read,) = read_parts(path).parts
    assert (read.quantity, read.part) == (1, made(flange()))


def test_other_dimensions_make_another_part():
    steps = ({"do": "flange", "name": "side", "on": ["base.2"], "length": "height"},)
    first = sides(made(*steps, dimensions={"height": 30}))
    later = sides(made(*steps, dimensions={"height": "45"}, thickness=1))
    thin = bend_deduction(math.pi / 2, inside_radius=1, thickness=1, k=K)
    assert later[1] - first[1] == pytest.approx(15 - thin + DEDUCTION)


def test_panels_and_free_edges_keep_their_names():
    built = built_recipe(
        recipe(
            {**WALLS, "on": ["base.1", "base.3"]},
            flange(name="tab", on=["base.2"], length=20, angle=0, ends=[20, 20]),
        )
    )
    names = {n.name: n for n in built.names}
    assert {n: [e.number for e in p.edges] for n, p in names.items()} == {
        "base": [2, 4], "wall-1": [2, 3, 4], "wall-2": [2, 3, 4], "tab": [2, 3, 4],
    }  # fmt: skip
    # What goes on in the plane of a panel lies in it.
    assert names["tab"].panel == names["base"].panel == 0
    ends = [e.at for e in names["tab"].edges]
    assert ends[1] == pytest.approx((120, 30))
    # The far edge of a wall stands 30 high.
    wall = built.part.panels[names["wall-1"].panel]
    assert wall.space(names["wall-1"].edges[1].at)[2] == pytest.approx(30 - 2)


@pytest.mark.parametrize("name", starters())
def test_what_to_start_from_is_sound(name):
    part = folded_recipe(starter(name))
    # Bends with slanted ends, as a hopper has, are sewn, not swept.
    assert volume(sewn_solid(part)) == pytest.approx(part.volume)
    assert judged(blank(part), Limits(), part=part) == ()


@pytest.mark.parametrize(
    ("steps", "said"),
    [
        ([flange(on=["lid.1"])], r"step 2 \(flange\): there is no panel 'lid' yet; .* base"),
        ([flange(on=["base.5"])], r"base has no edge 5 for a flange, it has 4"),
        ([flange(), flange(on=["side.1"])], r"side has no edge 1 .* its own bend"),
        ([flange(), flange(on=["base.1"])], r"there is a panel 'side' already"),
        ([flange(length=3)], r"the flange is 3 mm long, of which its bend takes 4 mm"),
        ([flange(ends=[30, 40])], r"edge 2 of base is 60 mm long, of which 70 mm are left free"),
        ([flange(angle=190)], r"the angle is 190"),
        ([flange(angle=0, offset=2)], r"no bend to lie further out"),
        ([{**WALLS, "on": ["base.2", "base.3"]}, flange(on=["wall-1.4"])],
         r"edge 4 of wall-1 ends with its bend, 4 mm inside of where it was said"),
        ([{"do": "round", "panel": "base", "radius": 60, "kind": "chamfer"}],
         r"corner 2 of base has 0 mm of edge left"),
        ([flange(length="1e9")], r"a length comes to 1e\+09 mm"),
        ([flange(length="x + 1")], r"step 2 \(flange\): the formula 'x \+ 1' names 'x'"),
        ([flange(), {**flange(), "name": "more"}], r"overlaps another flange on edge 2 .* 60 mm"),
        ([flange(ends=[10, 0], relief={"width": 0})], r"4 mm inside the edge .* tear"),
        ([flange(ends=[1, 0])], r"edge 2 of base has no room for it: 1 mm are wanting"),
        ([{"do": "hole", "panel": "base", "at": [99, 30], "diameter": 8}],
         r"step 2 \(hole\): the hole reaches out of the part at .* of base"),
        ([{"do": "hole", "panel": "base", "at": [20, 30], "diameter": 8},
          {"do": "slot", "panel": "base", "at": [24, 30], "length": 9, "width": 4}],
         r"step 3 \(slot\): the hole runs into step 2 \(hole\) at"),
        ([{"do": "hole", "panel": "base", "at": [20, 30]}], r"no one size"),
        ([{"do": "hole", "panel": "base", "at": [20, 30], "thread": "M7"}], r"'M7' is not known"),
        ([{"do": "hole", "panel": "base", "at": [20, 30], "diameter": 9, "countersink": 8}],
         r"countersink is 8 mm wide, its hole 9 mm"),
        ([{"do": "slot", "panel": "base", "at": [20, 30], "length": 3, "width": 4}],
         r"3 mm long and 4 mm wide"),
        ([{"do": "opening", "panel": "base", "at": [20, 30], "rectangle": [4, 4], "corner": 2}],
         r"corners of 2 mm have no room in 4 x 4 mm"),
        ([{"do": "corners", "of": "base", "how": "open"}], r"no two flanges of base meet"),
        ([{"do": "round", "panel": "base", "corners": [5], "radius": 1}], r"no corner 5"),
        ([{"do": "round", "panel": "base", "radius": 40}],
         r"step 2 \(round\): corner 2 of base has 20 mm of edge left, .* takes 40 mm"),
        ([flange(), {"do": "round", "panel": "base", "corners": [1], "radius": 4}],
         r"corner 1 of base lies at a bend"),
        ([PANEL], r"there is a first panel already"),
    ],
)  # fmt: skip
def test_what_cannot_be_made_says_why(steps, said):
    with pytest.raises(InputError, match=said):
        made(*steps)


@st.composite
def recipes(draw):
    """Any panel with flanges on any of its edges, lips on some, corners cut anyhow."""
    edges = draw(st.lists(st.sampled_from([1, 2, 3, 4]), min_size=1, unique=True))
    first = {
        "do": "panel", "name": "base",
        "rectangle": [draw(st.integers(60, 200)), draw(st.integers(60, 200))],
    }  # fmt: skip
    steps = [first]
    way = draw(st.sampled_from(["up", "down"]))
    for n in edges:
        ends = draw(st.sampled_from([[0, 0], [0, 0], [12, 0], [9, 14]]))
        angle = draw(st.sampled_from([0, 30, 60, 90, 90, 120]))
        ends = ends if angle else [9, 14]
        is_centred = ends[0] > 0 < ends[1] and draw(st.booleans())
        steps.append({
            "do": "flange", "name": f"f{n}", "on": [f"base.{n}"], "angle": angle,
            **({"centred": 31} if is_centred else {"ends": ends}),
            # Not round, or panels touch by chance, which no solid can tell from joined.
            "length": draw(st.integers(14, 50)) + n / 7,
            "direction": way,
            "measured": draw(st.sampled_from(["outside", "inside", "tangent"])),
            "bend": draw(st.sampled_from(["inside", "outside", "beside"])),
            "relief": {"kind": draw(st.sampled_from(["rectangular", "round"]))},
        })  # fmt: skip
    lips = [
        {"do": "flange", "name": f"l{n}", "on": [f"f{n}.3"], "length": 12,
         "direction": draw(st.sampled_from(["up", "down"]))}
        for n in edges if draw(st.booleans())
    ]  # fmt: skip
    ends = {int(s["name"][1:]): s.get("ends", [9, 9]) for s in steps[1:]}
    if any(ends[n][1] == 0 == ends.get(n % 4 + 1, [9])[0] for n in ends):
        # Without a relief two bends touch in a point.
        steps.append({
            "do": "corners", "of": "base", "gap": 0.3,
            "how": draw(st.sampled_from(["open", "mitred", "overlapped"])),
            "relief": draw(st.sampled_from(["round", "square"])),
        })  # fmt: skip
    thickness = draw(st.sampled_from([1, 1.5, 2]))
    return {
        "kind": "fold-recipe", "part": "any", "thickness": thickness,
        "inside_radius": draw(st.sampled_from([1, 2.5])), "steps": [*steps, *lips],
    }  # fmt: skip


@settings(max_examples=40, deadline=None)
@given(recipes())
def test_any_recipe_is_its_solid_unfolded(said):
    part = None
    # What has no room says so.
    with contextlib.suppress(InputError):
        part = folded_recipe(Recipe.model_validate(said))
    assume(part is not None)
    solid = folded_solid(part)
    # Panels that run into each other make less than their sum: no sheet to be read.
    assume(volume(solid) == pytest.approx(part.volume, rel=1e-7))
    assume(not any(f.code == "flat-overlap" for f in blank(part).findings))
    assert are_alike(blank(folded_part(Solid(solid), "solid")), blank(part))


def test_a_centred_flange_is_one_that_leaves_both_ends_free():
    on = ("base.1", "base.2")
    centred = made(flange(on, centred=40))
    by_hand = made(flange(on[:1], ends=[30, 30]), {**flange(on[1:], ends=[10, 10]), "name": "b"})
    assert are_alike(blank(centred), blank(by_hand))
    assert sentences(recipe(flange(on, centred=40)))[1].endswith(
        "the bend inside the edge, 40 mm wide in the middle of the edge."
    )
    assert are_alike(blank(made(flange(centred=60))), blank(made(flange())))


@pytest.mark.parametrize(
    ("more", "said"),
    [
        ({"centred": 61}, "edge 2 of base is 60 mm long, 61 mm are wanted"),
        ({"centred": 0}, "the width is 0 mm"),
        ({"centred": 30, "ends": [5, 0]}, "it is centred and leaves ends free"),
    ],
)
def test_a_centred_flange_that_has_no_room_says_so(more, said):
    with pytest.raises(InputError, match=said):
        made(flange(**more))
