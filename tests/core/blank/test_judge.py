"""Findings: each is found where it is made, and not where it is not."""

import math

import pytest

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.blank.judge import judged
from kaigata.core.formats.blank_files import blank_document
from kaigata.core.intake.drawing import BendGiven, DrawnBend, DrawnFlat, folded_drawn
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.metal.charts import constant_chart
from kaigata.core.metal.limits import Limits
from kaigata.core.packet.revision import compare_blanks
from kaigata.core.plane import Contour, Region
from tests.solids import box, joined, less, only_solid, profile, round_bar, turned

SOUND = [60, (90, 2), 80]


def read(shape):
    return folded_part(Solid(only_solid(shape)), "thing")


def blank_of(part):
    return unfold(part, takes=chart_takes(part, constant_chart(0.44, part.thickness)))


def codes(shape, limits=Limits()):  # noqa: B008 - it is frozen
    part = read(shape)
    return {f.code for f in judged(blank_of(part), limits, part=part)}


def bracket(*tools, steps=SOUND):
    return less(profile(steps, thickness=2, wide=100), *tools)


def test_a_sound_part_has_no_findings():
    assert codes(bracket(round_bar((30, 50, -5), (0, 0, 1), 2.75, 20))) == set()


@pytest.mark.parametrize(
    ("shape", "limits", "code"),
    [
        (bracket(steps=[60, (90, 2), 7]), Limits(), "flange-short"),
        (bracket(round_bar((55, 50, -5), (0, 0, 1), 2.75, 20)), Limits(), "hole-near-bend"),
        (bracket(round_bar((30, 4, -5), (0, 0, 1), 2.75, 20)), Limits(), "hole-near-edge"),
        (
            bracket(*(round_bar((20 + 7 * i, 50, -5), (0, 0, 1), 2.75, 20) for i in (0, 1))),
            Limits(),
            "hole-near-hole",
        ),
        (bracket(box(20, -1, -5, 0.2, 30, 20)), Limits(), "gap-under-kerf"),
        (bracket(box(20, -1, -5, 0.7, 30, 20)), Limits(), "slot-narrow"),
        (bracket(), Limits(blank_width=90, blank_height=90), "blank-over-machine"),
        (bracket(), Limits(sheets=((120, 120),)), "blank-over-stock"),
        (bracket(), Limits(radii=(1.0, 3.0)), "radius-not-in-chart"),
        (bracket(), Limits(brake_length=90), "bend-over-brake"),
        (bracket(), Limits(brake_force=5), "force-over-brake"),
        (bracket(), Limits(corner_radius=1), "corner-sharp"),
        (bracket(box(50, 40, -5, 30, 10, 20)), Limits(), "hole-across-bend"),
        (bracket(box(60, -1, -5, 50, 31, 200)), Limits(), "relief-touching"),
    ],
    ids=lambda v: v if isinstance(v, str) else "",
)
def test_each_fault_is_found(shape, limits, code):
    assert code in codes(shape, limits)
    assert code not in codes(bracket())


@pytest.mark.parametrize(
    ("reach", "found"),
    # A base that ends where the bend begins, within its zone, and beside the whole of it.
    [(60, "relief-touching"), (62, "relief-missing"), (64, "relief-missing")],
)
def test_a_base_beside_the_end_of_a_bend_tears_and_its_flat_is_whole(reach, found):
    part = read(joined(profile(SOUND, thickness=2, wide=60), box(0, 60, 0, reach, 20, 2)))
    blank = blank_of(part)

    findings = judged(blank, Limits(), part=part)

    assert [f.code for f in findings] == [found]
    # At the bend's end, beside the base.
    (x, y) = findings[0].at
    assert min(math.dist((x, y), p) for p in blank.bends[0].line) < 1e-6
    strip = 60 * (60 + blank.bends[0].allowance + 80)
    assert blank.region.area == pytest.approx(strip + 20 * reach)


def test_findings_come_worst_first_with_places_in_the_blank():
    part = read(bracket(round_bar((55, 50, -5), (0, 0, 1), 2.75, 20)))
    blank = blank_of(part)
    found = judged(blank, Limits(blank_width=90, blank_height=90, radii=(1.0,)), part=part)

    assert [f.level.value for f in found] == ["error", "warning", "note"]
    hole = blank.region.holes[0].bounds
    assert hole[0] < found[1].at[0] < hole[2]


def test_flanges_that_run_into_each_other_are_found_with_their_panels():
    # Two flanges bent over inwards, longer together than what they stand on.
    flat = DrawnFlat(
        "cross", Region(Contour.rectangle(200, 50)),
        (DrawnBend((((70, 0), (70, 50)),)), DrawnBend((((130, 0), (130, 50)),))),
    )  # fmt: skip
    chart = constant_chart(0.44, 2.0)
    for turn, hits in ((90, False), (150, True)):
        angle = math.radians(turn)
        given = [BendGiven(angle=angle, is_up=True, take=chart.take(angle, 2.0))] * 2
        part = folded_drawn(flat, given, thickness=2.0)

        found = [
            f for f in judged(blank_of(part), Limits(), part=part) if f.code == "folded-collision"
        ]

        assert bool(found) is hits
        assert all(set(f.panels) == {1, 2} for f in found)


def test_the_same_part_lying_otherwise_is_alike_and_the_other_hand_is_not():
    hand = bracket(round_bar((30, 20, -5), (0, 0, 1), 2.75, 20))
    other_hand = bracket(round_bar((30, 80, -5), (0, 0, 1), 2.75, 20))
    turned_over = turned(hand, (1, 2, 0.3), 140)

    assert are_alike(blank_of(read(hand)), blank_of(read(turned_over)))
    assert not are_alike(blank_of(read(hand)), blank_of(read(other_hand)))


def document(shape):
    return blank_document(blank_of(read(shape)))


def test_a_revision_is_told_in_words():
    before = document(bracket(round_bar((30, 20, -5), (0, 0, 1), 2.75, 20)))
    wider = document(bracket(round_bar((30, 20, -5), (0, 0, 1), 3.5, 20)))
    moved = document(bracket(round_bar((30, 26, -5), (0, 0, 1), 2.75, 20)))
    sharper = document(bracket(steps=[60, (80, 2), 80]))

    assert compare_blanks(before, before) == []
    (change,) = compare_blanks(before, wider)
    assert "as wide as 5.50, now 7.00 mm" in change.text
    assert ["Hole moved" in c.text for c in compare_blanks(before, moved)] == [True]
    assert any("90 became 80 degrees" in c.text for c in compare_blanks(before, sharper))
