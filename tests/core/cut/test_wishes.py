"""What may be asked of paths: corners, joints, common cuts, marks, scrap, order, hands."""

import itertools
import math
from dataclasses import replace

import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, box

from kaigata.core.cut import ByHand, Marking, find_post
from kaigata.core.cut.corners import cornered
from kaigata.core.cut.detour import Freed
from kaigata.core.cut.lead import entered
from kaigata.core.cut.marking import marks_of
from kaigata.core.cut.passes import line_of
from kaigata.core.cut.scrap import cut_off
from kaigata.core.cut.sequence import Stop, heat_spread, nearest_next
from kaigata.core.cut.strokes import lettering, width_of
from kaigata.core.errors import InputError
from kaigata.core.nest import Placement
from kaigata.core.nest.figures import motion_of
from kaigata.core.plane import Contour, Segment
from kaigata.core.plane.offset import offset_contour
from tests.core.cut.given import BENT, PLATE, Laid, rules

TWO = [("plate", 20, 20), ("plate", 20, 120)]


def plates(placements=TWO, **shape):
    return Laid({"plate": {**PLATE, **shape}}, placements)


@pytest.mark.parametrize(("style", "arcs"), [("round", 8), ("sharp", 0), ("loop", 8)])
@pytest.mark.parametrize("process", ["laser", "plasma"])
def test_outside_corners_are_cut_as_the_chart_says(style, arcs, process, tmp_path):
    known = plates()
    path = known.path(replace(rules(process), corner=style, lead_in=6.0))

    line = known.check(path, tmp_path)

    assert line.startswith("ok"), line
    curved = [s for p in path.passes for s in p.path.segments if not s.is_line]
    assert len(curved) == arcs
    if style == "loop":
        assert all(s.sweep == pytest.approx(-1.5 * math.pi) for s in curved)


def test_a_loop_without_room_is_a_sharp_corner():
    # Between their corners there is room for a sharp corner, not for a loop of 6 mm.
    known = plates([("plate", 20, 20), ("plate", 123, 83)])
    path = known.path(replace(rules("laser"), corner="loop", lead_in=6.0))

    loops = sum(s.bulge < 0 for p in path.passes for s in p.path.segments)
    assert 0 < loops < 8
    assert all(s.is_line or s.bulge < 0 for p in path.passes for s in p.path.segments)


def test_a_loop_cuts_no_edge_a_second_time(tmp_path):
    """Run on beyond a notch's corner, a loop would follow the edge on the notch's other side."""
    outer = [[0, 0], [40, 0], [40, 5], [42, 5], [42, 0], [100, 0], [100, 60], [0, 60]]
    known = plates(outer=outer)
    path = known.path(replace(rules("laser"), corner="loop", lead_in=6.0))

    line = known.check(path, tmp_path, "--overlap", 1)

    assert line.startswith("ok"), line
    loops = [s for p in path.passes for s in p.path.segments if s.bulge < 0]
    assert len(loops) == 8


@pytest.mark.parametrize(("side", "count", "loops"), [(60, 2, 4), (60, 8, 0), (20, 2, 0)])
def test_loops_give_way_where_joints_leave_little_else_to_cut(side, count, loops, tmp_path):
    known = plates([("plate", 20, 20)], outer=[[0, 0], [side, 0], [side, side], [0, side]])
    row = replace(rules("laser"), corner="loop", lead_in=6.0, joint_width=0.5, joint_count=count)

    path = known.path(row)

    (only,) = path.passes
    line = known.check(path, tmp_path, "--joint", 0.5)
    assert line.startswith("ok"), line
    assert sum(s.bulge < -1 for s in only.path.segments) == loops
    assert len(only.gaps) == count
    for gap in only.gaps:
        x, y = gap.at[0] - 20, gap.at[1] - 20
        assert min(abs(x), abs(x - side), abs(y), abs(y - side)) < 1e-6
        assert all(0.25 < v < side - 0.25 or min(abs(v), abs(v - side)) < 1e-6 for v in (x, y))


@pytest.mark.parametrize(
    ("joints", "each"), [({"joint_count": 4.0}, 4), ({"joint_spacing": 100.0}, 3)]
)
def test_micro_joints_hold_a_part_by_number_or_spacing(joints, each, tmp_path):
    known = plates(bends=BENT)
    row = replace(rules("laser"), joint_width=0.5, **joints)
    path = known.path(row)

    assert known.check(path, tmp_path, "--joint", 0.5).startswith("ok")
    assert known.check(path, tmp_path).startswith("off")
    listed = known.cut_json(tmp_path)["joints"]
    assert len(listed) == 2 * each
    assert {j["width"] for j in listed} == {0.5}
    assert path.pierces == 2 * (each + 1)
    for joint in listed:
        x, y = joint["at"][0] - 20, (joint["at"][1] - 20) % 100
        assert min(abs(x), abs(x - 100), abs(y), abs(y - 60)) < 1e-6
        assert abs(x - 40) > 3 or 1 < y < 59


def test_joints_keep_off_arcs_unless_asked(tmp_path):
    disc = {"outer": [[0, 30, 1], [60, 30, 1]], "holes": []}
    known = Laid({"disc": disc}, [("disc", 20, 20)])
    row = replace(rules("laser"), joint_width=0.5, joint_count=3.0)

    assert all(not p.gaps for p in known.path(row).passes)
    asked = known.path(replace(row, joint_arcs="yes"))
    assert known.check(asked, tmp_path, "--joint", 0.52).startswith("ok")
    assert sum(len(p.gaps) for p in asked.passes) == 3


def test_a_joint_not_wider_than_the_kerf_is_refused():
    with pytest.raises(InputError, match="holds nothing"):
        plates().path(replace(rules("plasma"), joint_width=0.5, joint_count=2.0))


def test_a_joint_the_program_forgets_is_found_by_the_proof():
    known = plates()
    row = replace(rules("laser"), joint_width=0.5, joint_count=2.0)
    path = known.path(row)
    first = path.passes[0]
    forgotten = replace(path, passes=(replace(first, gaps=first.gaps[:1]), *path.passes[1:]))

    with pytest.raises(InputError, match="left uncut"):
        known.program(forgotten)


@pytest.mark.parametrize("columns", [1, 3])
def test_edges_a_kerf_apart_are_cut_once(columns, tmp_path):
    kerf = rules("laser").kerf
    grid = [("plate", 20 + i * (100 + kerf), 20 + j * (60 + kerf))
            for i in range(columns) for j in range(3)]  # fmt: skip
    known = plates(grid)

    once = known.path(rules("laser"), common_cut=True)
    twice = known.path(rules("laser"))

    line = known.check(once, tmp_path)
    assert line.startswith("ok"), line
    edges = 2 * columns * 100 + (columns - 1) * 3 * 60
    assert twice.cut_length - once.cut_length == pytest.approx(edges, rel=0.03)
    shared = known.cut_json(tmp_path)["shared"]
    assert sum(s["width"] for s in shared) == pytest.approx(edges, rel=0.02)


def test_a_part_its_neighbours_cut_out_need_not_be_in_an_order_made_by_hand(tmp_path):
    kerf = rules("laser").kerf
    grid = [("plate", 20 + i * (100 + kerf), 20 + j * (60 + kerf))
            for i in range(3) for j in range(3)]  # fmt: skip
    known = plates(grid)
    middle = ("plate", 4 + 1, "outer")
    around = [("plate", i + 1, "outer") for i in range(9) if i != 4]

    path = known.path(rules("laser"), common_cut=True, by_hand={1: ByHand(order=tuple(around))})

    assert [(p.part, p.copy, p.name) for p in path.passes] == [*around, middle]
    assert path.passes[-1].stretches == []
    assert known.check(path, tmp_path).startswith("ok")
    with pytest.raises(InputError, match="other contours"):
        known.path(rules("laser"), by_hand={1: ByHand(order=tuple(around))})


FRAME = {"outer": PLATE["outer"], "holes": [[[40, 20], [40, 40], [60, 40], [60, 20]]]}


def frames(gap):
    return Laid({"frame": FRAME}, [("frame", 20 + i * (100 + gap), 20 + j * (60 + gap))
                                   for i in range(3) for j in range(3)])  # fmt: skip


@pytest.mark.parametrize("joints", [{}, {"joint_width": 0.5, "joint_count": 2.0}])
def test_holes_are_cut_before_the_neighbours_free_their_part(joints, tmp_path):
    row = replace(rules("laser"), **joints)
    known = frames(row.kerf)

    line = known.check(known.path(row, common_cut=True), tmp_path, "--joint", 0.5)

    assert line.startswith("ok"), line


@pytest.mark.parametrize(("kerfs", "is_refused"), [(1.0, True), (1.9, True), (2.2, False)])
def test_a_hole_cut_after_the_neighbours_may_lie_in_a_loose_part(kerfs, is_refused):
    row = rules("laser")
    holes = [("frame", i + 1, "hole 1") for i in range(9)]
    outlines = [("frame", i + 1, "outer") for i in range(9)]
    late = [*holes[:4], *holes[5:], *outlines[:4], *outlines[5:], holes[4], outlines[4]]
    known = frames(kerfs * row.kerf)

    def cut():
        return known.path(row, by_hand={1: ByHand(order=tuple(late))})

    if is_refused:
        with pytest.raises(InputError, match=r"frame 5 hole 1 must be cut before frame \d outer"):
            cut()
    else:
        assert [(p.part, p.copy, p.name) for p in cut().passes] == late


def test_a_joint_in_a_common_cut_holds_the_parts_on_both_sides(tmp_path):
    kerf = rules("laser").kerf
    row = replace(rules("laser"), joint_width=6.0, joint_count=4.0)
    known = plates([("plate", 20, 20), ("plate", 20, 80 + kerf)])

    path = known.path(row, common_cut=True)

    joints = [g.at for p in path.passes for g in p.gaps if g.kind == "joint"]
    assert any(80 - 1e-6 < y < 80 + kerf + 1e-6 for _, y in joints)
    line = known.check(path, tmp_path, "--joint", 6)
    assert line.startswith("ok"), line
    assert "few-joints" not in {f.code for f in path.findings}


@pytest.mark.parametrize("kerfs", [1.0, 1.4, 2.3])
@pytest.mark.parametrize("common_cut", [False, True])
def test_every_joint_reaches_metal_that_stays(kerfs, common_cut):
    """Beyond a joint no neighbour's cut runs: what is left of the sheet hangs together there."""
    row = replace(rules("laser"), joint_width=2.0, joint_count=8.0)
    right = 120 + kerfs * row.kerf
    lie = [("plate", 20, 20), ("plate", right, 37)]
    known = plates(lie)

    path = known.path(row, common_cut=common_cut)

    runs = [LineString([r[0].start, *(p for s in r for p in s.flattened(1e-3))])
            for one in path.passes for r in one.stretches]  # fmt: skip
    left = box(0, 0, 500, 300).difference(shapely.union_all(runs).buffer(row.kerf / 2))
    assert len(shapely.get_parts(left)) == 1
    for one in path.passes:
        for gap in one.gaps:
            if gap.kind != "joint":
                continue
            here = Point(gap.at).buffer(2.5 * row.kerf)
            there = [p for p in shapely.get_parts(left.intersection(here)) if p.area > 1e-3]
            joined = max(there, key=lambda p: p.area)
            assert not joined.difference(one.nominal.polygon().buffer(row.kerf + 1e-3)).is_empty
    assert "few-joints" not in {f.code for f in path.findings}


@pytest.mark.parametrize("kerfs", [1.0, 1.6])
def test_parts_whose_joints_the_neighbours_would_cut_are_said(kerfs):
    row = replace(rules("laser"), joint_width=0.5, joint_count=2.0)

    found = frames(kerfs * row.kerf).path(row).findings

    (few,) = [f for f in found if f.code == "few-joints"]
    assert few.text.startswith("frame copy 5, outer, holds by 0 of 2 micro-joints")
    assert few.level == "warning"


def test_a_part_with_room_for_fewer_joints_than_asked_for_is_said():
    disc = {"outer": [[0, 30, 1], [60, 30, 1]], "holes": []}
    strip = {"outer": [[0, 0], [60, 0], [60, 12], [0, 12]], "holes": []}
    shapes = {"disc": disc, "plate": PLATE, "strip": strip}
    known = Laid(
        shapes, [("disc", 20, 20), ("disc", 20, 90), ("plate", 120, 20), ("strip", 250, 20)]
    )

    found = known.path(replace(rules("laser"), joint_width=8.0, joint_count=6.0)).findings

    few = {f.text.split(" copy")[0]: f for f in found if f.code == "few-joints"}
    assert few.keys() == {"disc", "strip"}
    assert "holds by 0 of 6 micro-joints, and 1 other copy by too few" in few["disc"].text
    assert (few["disc"].level, few["strip"].level) == ("warning", "note")


def test_a_common_cut_just_ahead_is_entered_at_its_end(tmp_path):
    quarter = math.tan(math.pi / 8)
    outer = [[1, 0], [25, 0, quarter], [30, 5], [30, 39, quarter], [29, 40], [1, 40, quarter],
             [0, 39], [0, 1, quarter]]  # fmt: skip
    row = replace(rules("laser"), lead_in=10.0, lead_kind="line")
    known = Laid({"d": {"outer": outer, "holes": []}},
                 [("d", 10, 10), ("d", 10, 50 + row.kerf)], (70, 400))  # fmt: skip

    path = known.path(row, common_cut=True)

    assert [len(p.gaps) for p in path.passes] == [0, 1]
    assert path.passes[1].lead is None
    line = known.check(path, tmp_path)
    assert line.startswith("ok"), line


def test_parts_nearer_than_the_kerf_have_no_common_cut():
    known = plates([("plate", 20, 20), ("plate", 120.1, 20)])
    path = known.path(rules("laser"), common_cut=True)

    assert "spacing-under-kerf" in {f.code for f in path.findings}


def test_bend_lines_directions_and_numbers_are_marked_before_cutting(tmp_path):
    known = plates(bends=BENT)
    path = known.path(rules("laser"), marking=Marking(bends="ticks", directions=True, numbers=True))

    line = known.check(path, tmp_path)

    assert line.startswith("ok"), line
    kinds = [r.kind for r in path.runs]
    assert kinds == sorted(kinds, key=["mark", "cut"].index)
    ticks = [m for m in path.marks if m.name.endswith("bend")]
    assert len(ticks) == 4
    assert all(math.dist(m.segments[0].start, m.segments[-1].end) == 10 for m in ticks)
    names = {m.name.split(" ", 2)[2] for m in path.marks}
    assert names == {"bend", "direction", "number"}
    inside = [known.order.parts[0].region.polygon()]
    for mark in path.marks:
        x, y = mark.segments[0].start
        assert inside[0].covers(shapely.Point(x - 20, (y - 20) % 100))
    assert path.mark_length > 0
    assert "(mark)" in known.program(path).text


@pytest.mark.parametrize(("direction", "other"), [("up", "down"), ("down", "up")])
def test_on_a_mirrored_copy_a_bend_is_marked_as_it_goes_from_the_face_that_shows(direction, other):
    wanted = Marking(bends="none", directions=True)

    def words(way, **placement):
        (part,) = plates(bends=[{**BENT[0], "direction": way}]).order.parts
        lies = Placement(part="plate", copy=1, x=200.0, y=20.0, turn=0.0, **placement)
        return [len(m.segments) for m in marks_of(part, [lies], wanted)[0]]

    assert words(direction, mirrored=True) == words(other)
    assert words(direction) != words(other)


@given(
    st.sampled_from([16, 24, 40, 100]), st.lists(st.integers(1, 9), max_size=4, unique=True),
    st.sampled_from([0, 90, 180, 30]), st.booleans(),
)  # fmt: skip
def test_lettering_lies_on_its_part_and_on_no_other(height, tenths, turn, mirrored):
    """Numbers and directions have their place to themselves; what has none is said."""
    wide = 150.0
    bends = [{"lines": [[[t * wide / 10, 0], [t * wide / 10, height]]], "angle": 90,
              "direction": "up"} for t in sorted(tenths)]  # fmt: skip
    outer = [[0, 0], [wide, 0], [wide, height], [0, height]]
    (part,) = plates(outer=outer, bends=bends).order.parts
    placement = Placement(part="plate", copy=1, x=300.0, y=300.0, turn=math.radians(turn),
                          mirrored=mirrored)  # fmt: skip

    wanted = Marking(bends="none", directions=True, numbers=True)
    strokes, found = marks_of(part, [placement], wanted)

    drawn = {"direction": [], "number": []}
    for mark in strokes:
        drawn[mark.name.rsplit(" ", 1)[1]].append(line_of(mark.segments))
    material = part.region.moved(motion_of(placement)).polygon()
    lines = [LineString([motion_of(placement).point(p) for p in line])
             for b in part.bends for line in b.lines]  # fmt: skip
    number = shapely.MultiLineString(drawn["number"]).convex_hull
    assert all(material.covers(g) for rows in drawn.values() for g in rows)
    assert not any(g.crosses(line) for rows in drawn.values() for g in rows for line in lines)
    assert not any(number.intersects(g) for g in drawn["direction"])
    told = {f.text.split(" at ")[0].split("for the ")[1] for f in found}
    assert ("number" in told) != bool(drawn["number"])
    assert drawn["direction"] or not bends or "direction of a bend" in told


def test_lettering_without_room_is_said_once_for_all_copies():
    small = {"outer": [[0, 0], [9, 0], [9, 9], [0, 9]], "bends": [
        {"lines": [[[4, 0], [4, 9]]], "angle": 90, "direction": "up"}]}  # fmt: skip
    known = Laid({"chip": small}, [("chip", 20 + 20 * i, 20) for i in range(3)])

    path = known.path(rules("laser"), marking=Marking(directions=True, numbers=True))

    told = [f.text for f in path.findings if f.code == "mark-left-out"]
    assert len(told) == 2
    assert told[0].startswith("chip: there is no room for the direction of a bend at 24.0, 24.5, ")
    assert told[1].startswith("chip: there is no room for the number at ")
    assert all(", nor in 2 other places, so it is not marked." in t for t in told)
    assert path.marks == ()


def test_bend_lines_are_etched_as_the_blank_says():
    blank = {"bends": BENT, "bend_line_marks": {"style": "whole", "etched": True}}

    path = plates(**blank).path(rules("laser"))

    assert [m.segments[0].length for m in path.marks] == [60, 60]
    assert plates(bends=BENT).path(rules("laser")).marks == ()
    assert plates(**blank).path(rules("laser"), marking=Marking(bends="none")).marks == ()


def test_small_holes_are_only_marked_where_the_chart_says_so():
    known = plates(holes=[[[20, 20, -1], [24, 20, -1]], [[60, 20, -1], [80, 20, -1]]])
    path = known.path(replace(rules("laser"), smallest_hole=6.0, small_holes="mark"))

    assert sorted({p.name for p in path.passes}) == ["hole 2", "outer"]
    assert {m.name for m in path.marks} == {"plate 1 hole 1", "plate 2 hole 1"}
    notes = [f for f in path.findings if f.code == "hole-marked"]
    assert len(notes) == 2
    assert "4.00 mm" in notes[0].text
    known.program(path)


@pytest.mark.parametrize("letter", "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-./+_")
def test_every_letter_is_its_own_and_within_its_box(letter):
    lines = lettering(letter, 6)

    assert lines
    assert all(0 <= x <= 4 and 0 <= y <= 6 for line in lines for x, y in line)
    others = [lettering(o, 6) for o in "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-./+_" if o != letter]
    assert lines not in others
    assert width_of(letter * 3, 6) == 16


def test_the_skeleton_is_cut_up_and_the_rest_cut_off_clear_of_every_part(tmp_path):
    known = plates()
    path = known.path(rules("laser"), skeleton=100.0, cut_off=True)

    line = known.check(path, tmp_path, "--allow", "stray")

    assert line.startswith("ok"), line
    kinds = [r.kind for r in path.runs]
    assert kinds == sorted(kinds, key=["cut", "scrap"].index)
    names = {s.name for s in path.scrap}
    assert names == {"skeleton", "cut-off"}
    off = next(s for s in path.scrap if s.name == "cut-off")
    assert off.segments[0].start[0] >= known.sheet.used_length
    assert len(known.cut_json(tmp_path)["skeleton"]) == len(path.scrap)


@pytest.mark.parametrize(("at", "x"), [(130.0, 129.9), (120.4, 120.3), (120.3, 120.4)])
def test_the_rest_is_cut_off_at_its_full_length_where_the_margin_has_room(at, x):
    (stroke,) = cut_off(box(0, 0, 500, 300), [box(20, 20, 120, 80)], 0.2, at)

    ((start, end),) = [(s.start, s.end) for s in stroke.segments]
    assert (start[0], end[0]) == pytest.approx((x, x))


def grid_of_stops(n=6, step=50.0):
    points = [(i * step, j * step) for i in range(n) for j in range(n)]
    return [Stop(((p, p),), frozenset()) for p in points]


def test_heat_is_spread_by_going_farther():
    stops = grid_of_stops()

    def ways(order):
        points = [stops[i].entries[0][0] for i in order]
        return [math.dist(a, b) for a, b in itertools.pairwise(points)]

    near, spread = nearest_next(stops, start=(0, 0)), heat_spread(stops, start=(0, 0))

    assert sorted(spread) == sorted(near)
    assert sum(ways(spread)) / len(stops) > 1.5 * sum(ways(near)) / len(stops)


def test_heat_spread_holds_what_must_come_first():
    stops = [Stop((((i * 9.0, 0.0), (i * 9.0, 0.0)),), frozenset({i + 1} if i < 9 else ()))
             for i in range(10)]  # fmt: skip

    assert heat_spread(stops, start=(0, 0)) == list(range(9, -1, -1))


def test_the_head_goes_round_what_is_free():
    sheet = shapely.box(0, 0, 400, 300)
    freed = Freed(sheet, [shapely.box(100, 50, 200, 250), shapely.box(220, 0, 300, 200)])

    assert freed.way((50, 100), (350, 100)) == [(50, 100), (350, 100)]
    freed.add(0)
    one = freed.way((50, 100), (350, 100))
    freed.add(1)
    both = freed.way((50, 100), (350, 100))

    for way, boxes in ((one, [0]), (both, [0, 1])):
        line = shapely.LineString(way)
        for k in boxes:
            shape = [shapely.box(100, 50, 200, 250), shapely.box(220, 0, 300, 200)][k]
            assert line.intersection(shape).length == pytest.approx(0, abs=1e-3)
        assert sheet.covers(line)
    assert len(both) > len(one) > 2


def test_rapid_moves_go_round_freed_parts_when_asked(tmp_path):
    kerf = rules("laser").kerf
    grid = [("plate", 20 + i * 110, 20 + j * 70) for i in range(3) for j in range(3)]
    known = plates(grid)

    straight = known.path(rules("laser"))
    around = known.path(rules("laser"), round_freed=True)

    assert known.check(around, tmp_path).startswith("ok")
    assert _crossed(around, kerf) == 0
    assert around.rapid_length >= straight.rapid_length


def _crossed(path, kerf):
    gone, crossed = [], 0
    for run in path.runs:
        for s in run.way:
            line = shapely.LineString([s.start, s.end])
            crossed += any(g.intersection(line).length > kerf for g in gone)
        gone.append(path.passes[run.of].nominal.polygon())
    return crossed


def test_an_order_and_a_pierce_made_by_hand_are_kept(tmp_path):
    known = plates(holes=[[[20, 20, -1], [40, 20, -1]]])
    found = known.path(rules("laser"))
    keys = [(p.part, p.copy, p.name) for p in found.passes]
    wanted = (keys[2], keys[3], keys[0], keys[1])
    at = {("plate", 1, "outer"): (75.0, 80.5)}

    path = known.path(rules("laser"), by_hand={1: ByHand(order=wanted, pierces=at)})

    assert tuple((p.part, p.copy, p.name) for p in path.passes) == wanted
    moved = next(p for p in path.passes if (p.part, p.copy, p.name) == ("plate", 1, "outer"))
    x, y = moved.path.segments[0].start
    assert (x, y) == pytest.approx((75.0, 80 + rules("laser").kerf / 2))
    assert moved.lead is not None
    assert known.check(path, tmp_path).startswith("ok")


def test_an_order_by_hand_that_breaks_what_must_come_first_is_refused():
    known = plates(holes=[[[20, 20, -1], [40, 20, -1]]])
    keys = [(p.part, p.copy, p.name) for p in known.path(rules("laser")).passes]
    wrong = (keys[1], keys[0], *keys[2:])

    with pytest.raises(InputError, match=r"hole 1 must be cut before plate . outer"):
        known.path(rules("laser"), by_hand={1: ByHand(order=wrong)})
    with pytest.raises(InputError, match="of other contours"):
        known.path(rules("laser"), by_hand={1: ByHand(order=tuple(keys[:2]))})


def test_a_lead_keeps_off_the_ends_of_bend_lines():
    bent = [{"lines": [[[50, 0], [50, 60]], [[0, 30], [100, 30]]], "angle": 90, "direction": "up"}]
    path = plates(bends=bent).path(rules("laser"))

    for wanted in path.passes:
        x, y = wanted.path.segments[0].start
        assert abs(x - 20 - 50) > 5
        assert abs((y - 20) % 100 - 30) > 5


def test_figures_are_those_of_the_runs():
    known = plates()
    path = known.path(replace(rules("laser"), joint_width=0.5, joint_count=2.0))
    way = [s for r in path.runs for s in r.way]

    assert path.rapid_length == pytest.approx(sum(s.length for s in way))
    assert all(isinstance(s, Segment) for s in way)
    assert path.seconds == pytest.approx(sum(sum(path.seconds_of(r)) for r in path.runs))
    assert known.program(path, find_post("numbered")).proof.ok


@pytest.mark.parametrize(("gap", "is_lost"), [(0.25, True), (0.5, False)])
def test_a_web_of_skeleton_that_two_kerfs_take_is_told_with_its_place(gap, is_lost):
    known = plates([("plate", 20, 20), ("plate", 20, 80 + gap)])
    found = [f for f in known.path(rules("laser")).findings if f.code == "web-vanishes"]

    assert bool(found) is is_lost
    if is_lost:
        assert found[0].at[1] == pytest.approx(80 + gap / 2)


@pytest.mark.parametrize(("kerfs", "is_twice"), [(1.0, True), (1.5, False)])
def test_edges_just_the_kerf_apart_are_said_to_be_cut_twice(kerfs, is_twice):
    gap = kerfs * rules("laser").kerf
    known = plates([("plate", 20, 20), ("plate", 20, 80 + gap)])
    twice = known.path(rules("laser"))
    once = known.path(rules("laser"), common_cut=True)

    found = [f for f in twice.findings if f.code == "cut-twice"]
    assert bool(found) is is_twice
    assert "cut-twice" not in {f.code for f in once.findings}
    if is_twice:
        assert found[0].text.startswith("100 mm of edges lie just the kerf apart")
        assert found[0].at[1] == pytest.approx(80 + gap / 2)


@pytest.mark.parametrize("at", [0.1, 0.5, 0.9])
def test_a_loop_keeps_off_the_edge_on_which_the_path_is_entered(at):
    # An arm over a plate, 5 mm apart: the loop at the arm's end would reach across.
    arm = [(0, 0), (100, 0), (100, 20), (30, 20), (30, 25), (60, 25), (60, 45), (0, 45)]
    (path,) = offset_contour(Contour.through(arm), 0.1)
    wall = max(range(len(path.segments)), key=lambda i: -math.dist(path.segments[i].end, (30, 20)))

    looped = cornered(entered(path, wall, at), 0.1, "loop", 6.0, lambda *_: True)

    assert sum(s.bulge < 0 for s in looped.segments) == 5


@pytest.mark.parametrize(("etched", "lines"), [(True, 3), (False, 0)])
def test_creases_are_etched_where_bend_lines_are(etched, lines, tmp_path):
    creases = [[[10, 10], [90, 50]], [[10, 50], [90, 10]]]
    marks = {"style": "whole", "etched": etched}
    laid = Laid(
        {"a": {**PLATE, "bends": BENT, "bend_line_marks": marks, "creases": creases}},
        [("a", 90, 20, math.pi / 2)],
        sheet=(200, 200),
    )
    path = laid.path(rules("laser"))

    assert len(path.marks) == lines
    drawn = {tuple(round(v, 6) for p in (m.segments[0].start, m.segments[0].end) for v in p)
             for m in path.marks if m.name == "a 1 crease"}  # fmt: skip
    # Turned by a quarter about its corner at 90, 20.
    turned = {(80.0, 30.0, 40.0, 110.0), (40.0, 30.0, 80.0, 110.0)}
    assert drawn == (turned if etched else set())
    assert laid.check(path, tmp_path / "out").startswith("ok")
