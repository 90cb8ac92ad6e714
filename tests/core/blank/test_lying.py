"""How a blank lies: straight and in its corner, whatever lay how before; and who is like whom."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.blank import BlankMark, FaceUp
from kaigata.core.blank.alike import are_alike, turns_between
from kaigata.core.blank.drawn import drawn_blank, missing_bend_data
from kaigata.core.blank.pose import flat_pose
from kaigata.core.findings import Level
from kaigata.core.formats.blank_files import blank_document, blank_of_document
from kaigata.core.metal.allowance import bend_allowance
from kaigata.core.plane import Contour, Motion, Region
from tests.strategies import motions, rounded_rectangles, stars

HOOK = Contour.through([(0, 0), (200, 0), (200, 40), (60, 40), (60, 90), (0, 90)])


def hook(
    *, hole=(20, 20), up=(True, False), thickness=2.0, motion=None, face_up=FaceUp.AS_MODELLED
):
    """A blank of no symmetry with a hole and two bends, lying as a motion lays it."""
    motion = motion or Motion()
    region = Region.oriented(HOOK, (Contour.circle(hole, 6),)).moved(motion)
    if motion.mirrored:
        # Seen from the other side a bend goes the other way.
        up = tuple(not u for u in up)
    lines = [((120.0, 0.0), (120.0, 40.0)), ((0.0, 60.0), (60.0, 60.0))]
    bends = [([(motion.point(a), motion.point(b))], u) for (a, b), u in zip(lines, up, strict=True)]
    return drawn_blank("hook", region, bends, thickness=thickness, k=0.44, face_up=face_up)


@given(st.one_of(stars(), rounded_rectangles().map(lambda r: r[-1])), motions())
def test_a_laid_shape_stands_in_its_corner_on_its_longest_edge(contour, motion):
    region = Region.oriented(contour).moved(motion)
    pose = flat_pose(region, face_up=FaceUp.AS_MODELLED)

    laid = region.moved(pose)

    x0, y0, *_ = laid.outer.bounds
    assert (x0, y0) == pytest.approx((0, 0), abs=1e-6)
    lines = [s for s in laid.outer.segments if s.is_line]
    longest = max(s.chord for s in lines)
    level = [s for s in lines if abs(s.end[1] - s.start[1]) < 1e-6]
    assert any(s.chord > longest - 1e-5 for s in level)
    assert not pose.mirrored
    assert laid.area == pytest.approx(region.area, rel=1e-9)


@given(stars())
def test_a_laid_shape_needs_no_further_turn(contour):
    region = Region.oriented(contour)
    laid = region.moved(flat_pose(region, face_up=FaceUp.AS_MODELLED))

    again = laid.moved(flat_pose(laid, face_up=FaceUp.AS_MODELLED))

    for one, other in zip(again.outer.vertices, laid.outer.vertices, strict=True):
        assert one == pytest.approx(other, abs=1e-6)


@given(stars(), st.integers(0, 3))
def test_a_turn_by_hand_is_added_to_that(contour, quarters):
    region = Region.oriented(contour)
    straight = region.moved(flat_pose(region, face_up=FaceUp.AS_MODELLED)).outer.bounds[2:]

    turned = flat_pose(region, face_up=FaceUp.AS_MODELLED, turn=quarters * math.pi / 2)

    size = region.moved(turned).outer.bounds[2:]
    assert size == pytest.approx(straight if quarters % 2 == 0 else straight[::-1], abs=1e-6)


def test_a_disc_has_no_edge_to_lie_on_and_stays_as_it_is():
    region = Region(Contour.circle((70, -30), 25))

    pose = flat_pose(region, face_up=FaceUp.AS_MODELLED)

    assert (pose.x, pose.y) == pytest.approx((-45, 55))


@given(motions())
def test_the_same_part_is_alike_however_it_was_drawn(motion):
    assert are_alike(hook(), hook(motion=motion))


@pytest.mark.parametrize(
    "other",
    [
        {"hole": (24, 20)},
        {"hole": (20, 24)},
        {"up": (True, True)},
        {"up": (False, True)},
        {"thickness": 1.5},
    ],
    ids=str,
)
def test_what_differs_in_one_thing_is_another_part(other):
    assert not are_alike(hook(), hook(**other))


def test_the_other_hand_is_another_part_unless_its_bends_go_the_other_way_too():
    mirrored = Motion(mirrored=True)
    other_hand = hook(motion=mirrored, up=(False, True))
    turned_over = hook(motion=mirrored)

    assert not are_alike(hook(), other_hand)
    assert are_alike(hook(), turned_over)


@given(st.permutations([(20.0, 20.0), (40.0, 70.0), (150.0, 20.0)]))
def test_holes_may_come_in_any_order(places):
    def with_holes(at):
        region = Region.oriented(HOOK, tuple(Contour.circle(p, 4) for p in at))
        return drawn_blank("hook", region, [], thickness=2.0, k=0.44)

    assert are_alike(with_holes([(20.0, 20.0), (40.0, 70.0), (150.0, 20.0)]), with_holes(places))


def plate(outer, *holes, bend=None):
    """A drawn flat of some contours, with one bend up along a line if one is given."""
    region = Region.oriented(outer, holes)
    bends = [] if bend is None else [([bend], True)]
    return drawn_blank("plate", region, bends, thickness=2.0, k=0.44)


SHEET = Contour.rectangle(200, 90)
SQUARE = Contour.rectangle(100, 100)
SLOT = Contour(((10.0, 36.0, 0.0), (50.0, 36.0, 1.0), (50.0, 44.0, 0.0), (10.0, 44.0, 1.0)))


def about(contour, at, degrees):
    turn = Motion.turned(math.radians(degrees))
    x, y = turn.point(at)
    return contour.moved(turn).moved(Motion(x=at[0] - x, y=at[1] - y))


@pytest.mark.parametrize("degrees", [90, 30, -30, 150])
def test_a_slot_that_lies_another_way_makes_another_part(degrees):
    level = plate(SHEET, SLOT, Contour.circle((150, 20), 5))
    turned = plate(SHEET, about(SLOT, (30, 40), degrees), Contour.circle((150, 20), 5))

    assert are_alike(level, plate(SHEET, about(SLOT, (30, 40), 180), Contour.circle((150, 20), 5)))
    assert not are_alike(level, turned)


def test_a_slot_at_one_slant_is_not_the_other_slant():
    one, other = (
        plate(SHEET, about(SLOT, (30, 40), degrees), Contour.circle((150, 20), 5))
        for degrees in (30, -30)
    )

    assert not are_alike(one, other)


def test_an_edge_that_bulges_in_where_another_bulges_out_makes_another_part():
    def wavy(first, second):
        return plate(
            Contour(((0, 0, first), (80, 0, second), (160, 0, 0), (160, 90, 0), (0, 60, 0)))
        )

    assert are_alike(wavy(0.2, -0.2), wavy(0.2, -0.2))
    assert not are_alike(wavy(0.2, -0.2), wavy(-0.2, 0.2))


def test_a_bend_across_is_not_one_along_though_the_middle_is_the_same():
    holes = (Contour.circle((20, 20), 4), Contour.circle((30, 60), 6))
    along = plate(SQUARE, *holes, bend=((0.0, 50.0), (100.0, 50.0)))
    across = plate(SQUARE, *holes, bend=((50.0, 0.0), (50.0, 100.0)))

    assert not are_alike(along, across)


def test_where_an_arc_was_divided_makes_no_other_part():
    halves = Contour(
        ((0, 0, 0), (100, 0, math.tan(math.pi / 8)), (130, 30, math.tan(math.pi / 8)),
         (100, 60, 0), (0, 40, 0))
    )  # fmt: skip

    assert are_alike(plate(halves), plate(halves.simplified()))


def test_the_turns_by_which_a_part_comes_to_lie_on_itself_are_all_found():
    assert sorted(turns_between(plate(SQUARE), plate(SQUARE))) == [0, 0, 1, 1, 2, 2, 3, 3]
    assert sorted(turns_between(plate(SHEET), plate(SHEET))) == [0, 0, 2, 2]
    assert list(turns_between(hook(), hook())) == [0]
    assert list(turns_between(hook(), hook().moved(Motion.turned(math.pi / 2)))) == [3]
    assert list(turns_between(plate(SHEET), plate(SQUARE))) == []


@given(motions(may_mirror=False))
def test_a_drawn_flat_keeps_its_size_and_its_bends_wherever_it_was_drawn(motion):
    blank, plain = hook(motion=motion), hook()

    assert sorted((blank.width, blank.height)) == pytest.approx([90, 200], abs=1e-6)
    assert [b.direction for b in blank.bends] == [b.direction for b in plain.bends]
    assert [b.length for b in blank.bends] == pytest.approx([b.length for b in plain.bends])
    assert [b.from_edge for b in blank.bends] == pytest.approx([b.from_edge for b in plain.bends])


def test_bends_are_numbered_standing_ones_first_and_gauged_from_the_nearer_edge():
    standing, level = hook().bends

    assert (standing.number, level.number) == (1, 2)
    assert not standing.is_level
    assert level.is_level
    assert (standing.from_edge, level.from_edge) == pytest.approx((80, 30))
    assert sorted(b.sequence for b in (standing, level)) == [1, 2]


def test_turned_over_a_bend_goes_the_other_way_and_lies_as_far_from_its_edge():
    shown, other = hook(), hook(face_up=FaceUp.OTHER)

    assert [b.is_up for b in other.bends] == [not b.is_up for b in shown.bends]
    assert [b.from_edge for b in other.bends] == pytest.approx([b.from_edge for b in shown.bends])
    assert are_alike(shown, other)


def test_what_a_drawing_does_not_say_is_taken_as_usual_and_said():
    blank = hook(up=(None, False))

    bend = blank.bends[0]
    assert (bend.direction, math.degrees(bend.angle), bend.inside_radius) == ("up", 90, 2.0)
    assert bend.allowance == pytest.approx(
        bend_allowance(math.pi / 2, inside_radius=2.0, thickness=2.0, k=0.44)
    )
    (finding,) = blank.findings
    assert (finding.level, finding.code) == (Level.WARNING, "bend-data-missing")
    assert "its 2 bends are made: they are taken as 90 degrees, 1 of them up" in finding.text


def test_a_flat_without_bends_lacks_nothing():
    assert missing_bend_data(0, 0) == []


@given(motions())
def test_a_blank_that_moves_takes_all_of_itself_along(motion):
    blank = hook(up=(True, None))

    moved = blank.moved(motion)

    assert moved.region.area == pytest.approx(blank.region.area)
    for one, other in zip(moved.bends, blank.bends, strict=True):
        assert one.is_up == (other.is_up != motion.mirrored)
        for line, was in zip((one.line, *one.lines), (other.line, *other.lines), strict=True):
            for p, q in zip(line, was, strict=True):
                assert p == pytest.approx(motion.point(q))


def sunk(*, is_near, note="countersink 10 x 90 deg", kind="countersink", motion=None):
    """The hook with its hole sunk from a side, then laid by a motion."""
    mark = BlankMark(kind=kind, at=(20.0, 20.0), diameter=10.0, note=note, is_near=is_near)
    return replace(hook(), marks=(mark,)).moved(motion or Motion())


@given(motions())
def test_a_sunk_hole_is_the_same_part_only_from_the_same_side(motion):
    pose = flat_pose(sunk(is_near=True, motion=motion).region, face_up=FaceUp.AS_MODELLED)
    near, far = (sunk(is_near=n, motion=motion).moved(pose) for n in (True, False))

    assert are_alike(sunk(is_near=True), near)
    assert not are_alike(sunk(is_near=True), far)
    assert not are_alike(hook(), near)


@pytest.mark.parametrize("kind", ["countersink", "formed"])
@pytest.mark.parametrize("is_near", [True, False])
def test_a_mark_turned_over_twice_is_the_mark_it_was(kind, is_near):
    over = Motion(mirrored=True)
    one = sunk(is_near=is_near, kind=kind, note="as drawn").marks[0]

    assert one.moved(over).text != one.text
    assert one.moved(over).moved(over) == one


@pytest.mark.parametrize("kind", ["countersink", "counterbore", "formed", "tapped-hole"])
@pytest.mark.parametrize("is_near", [True, False, None])
def test_a_mark_comes_back_from_its_document(kind, is_near):
    blank = sunk(is_near=is_near, kind=kind)

    assert blank_of_document(blank_document(blank)).marks == blank.marks
