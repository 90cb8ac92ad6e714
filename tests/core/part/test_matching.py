"""Which panels and bends of a part are still there in a later revision of it."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as npst

from kaigata.core.intake import read_parts
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.part import Bend
from kaigata.core.part.matching import matched, paired
from tests.checks import PARTS
from tests.solids import box, less, mirrored, only_solid, profile, turned

NAMES = ["tool-tray", "hanger-arm", "sign-plate"]

STEPS = [40, (90, 2), 60, (-90, 2), 25, (45, 3), 30]


def part_of(shape):
    return folded_part(Solid(only_solid(shape)), "part")


def folded(steps, wide=75):
    return part_of(profile(steps, thickness=2, wide=wide))


def beside(part):
    """For each bend the panels it joins."""
    count = len(part.panels)
    return [
        {j for e in bend.edges for j, _ in part.meetings[e.number] if j < count}
        for bend in part.bends
    ]


def size_of(piece):
    at = (piece.angle, piece.inside_radius) if isinstance(piece, Bend) else ()
    return (piece.area, *at)


def assert_same_all_over(one, two, same):
    """Every piece is matched with one of its size, and what met meets."""
    assert sorted(same.panels) == list(range(len(one.panels)))
    assert sorted(same.bends) == list(range(len(one.bends)))
    for i, match in same.panels.items():
        assert size_of(two.panels[match.place]) == pytest.approx(size_of(one.panels[i]), rel=1e-6)
    met = beside(two)
    for i, panels in enumerate(beside(one)):
        j = same.bends[i]
        assert size_of(two.bends[j]) == pytest.approx(size_of(one.bends[i]), rel=1e-6)
        assert {same.panels[p].place for p in panels} == met[j]


def off_after_motion(one, two, same):
    """How far a panel's own edges lie from those of its match once its motion has moved them."""
    out = 0.0
    for i, match in same.panels.items():
        there = np.array([s.at(0.5) for e in two.panels[match.place].edges for s in e.run])
        for e in one.panels[i].edges:
            for s in e.run:
                at = np.array(match.motion.point(s.at(0.5)))
                out = max(out, np.linalg.norm(there - at, axis=1).min())
    return out


@pytest.mark.parametrize("name", NAMES)
def test_a_part_matches_itself_piece_by_piece(name):
    part = read_parts(PARTS / f"{name}.step").parts[0].part

    same = matched(part, part)

    assert same.bends == {i: i for i in range(len(part.bends))}
    assert {i: m.place for i, m in same.panels.items()} == {i: i for i in range(len(part.panels))}
    assert off_after_motion(part, part, same) < 1e-9


@pytest.mark.parametrize(
    ("axis", "degrees", "by"),
    [
        ((0, 0, 1), 0, (300, -20, 5)),
        ((0, 0, 1), 90, (0, 0, 0)),
        ((1, 0, 0), 180, (0, 0, 900)),
        ((1, 2, 3), 77, (10, 20, 30)),
    ],
)
def test_a_part_modelled_elsewhere_matches_piece_by_piece(axis, degrees, by):
    shape = less(profile(STEPS, thickness=2, wide=75), box(5, 10, -5, 12, 20, 20))
    one, two = (part_of(s) for s in (shape, turned(shape, axis, degrees, by)))

    same = matched(one, two)

    assert_same_all_over(one, two, same)
    assert off_after_motion(one, two, same) < 1e-6


def test_the_other_hand_is_not_taken_for_the_part():
    shape = less(profile([60, (90, 2), 60], thickness=2, wide=75), box(5, 10, -5, 12, 20, 20))
    one, two = part_of(shape), part_of(mirrored(shape))

    same = matched(one, two)

    assert off_after_motion(one, two, same) > 1


@pytest.mark.parametrize("at", [0, 2, 4, 6])
@pytest.mark.parametrize("by", [-8, 8])
@pytest.mark.parametrize("wide", [75, 90])
def test_what_is_widened_or_grows_keeps_its_pieces(at, by, wide):
    """A longer or shorter length, a wider part: each bend is still the bend it was."""
    steps = [s + by if i == at else s for i, s in enumerate(STEPS)]
    one, two = folded(STEPS), folded(steps, wide)

    same = matched(one, two)

    assert (len(same.bends), len(same.panels)) == (3, 4)
    for i, j in same.bends.items():
        a, b = one.bends[i], two.bends[j]
        assert (a.inside_radius, a.is_up) == (pytest.approx(b.inside_radius), b.is_up)
        assert a.angle == pytest.approx(b.angle)


def test_bends_that_come_and_go_have_no_match():
    short = [40, (90, 2), 60]
    one, two = folded(short), folded([*short, (-90, 2), 25])

    for a, b in ((one, two), (two, one)):
        same = matched(a, b)
        assert len(same.bends) == 1
        ((i, j),) = same.bends.items()
        assert a.bends[i].frame.origin == pytest.approx(b.bends[j].frame.origin, abs=1e-6)
        assert len(same.panels) == 2


def test_a_bend_the_other_way_is_another_bend():
    one, two = (folded([60, (90, 2), 40, (a, 2), 25]) for a in (90, -90))

    same = matched(one, two)

    ((i, j),) = same.bends.items()
    assert one.bends[i].frame.origin == pytest.approx(two.bends[j].frame.origin)
    assert len(same.panels) == 2


def test_a_panel_seen_from_its_other_side_is_matched_by_a_mirrored_motion():
    """The larger panel says which side is up: a flange that outgrows the base turns that over."""
    one = folded([60, (135, 2), 40])
    two = folded([60, (135, 2), 70])

    same = matched(one, two)

    seen = {match.motion.mirrored for match in same.panels.values()}
    assert len(same.panels) == 2
    normals = [np.array(one.panels[i].frame.z) @ np.array(two.panels[m.place].frame.z)
               for i, m in same.panels.items()]  # fmt: skip
    assert seen == {bool(n < 0) for n in normals}
    assert len(seen) == 1


@given(
    npst.arrays(float, st.tuples(st.integers(0, 5), st.integers(0, 5)), elements=st.floats(0, 100)),
    st.floats(1, 100),
)
def test_as_many_pairs_as_can_be_and_none_beyond_the_limit(apart, limit):
    pairs = paired(apart, limit)

    assert len(set(pairs.values())) == len(pairs)
    assert all(apart[i, j] <= limit for i, j in pairs.items())
    # Nobody is left over on both sides who could have been a pair.
    rows = set(range(apart.shape[0])) - set(pairs)
    columns = set(range(apart.shape[1])) - set(pairs.values())
    assert all(apart[i, j] > limit for i in rows for j in columns)
