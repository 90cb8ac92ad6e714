"""Where contours are entered, what leads keep clear of, and where joints may hold a part."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, box

from kaigata.core.cut.lead import (
    LeadRules,
    Scrap,
    entered,
    good_starts,
    lead_ins,
    nearest_start,
)
from kaigata.core.plane import Contour, Motion
from kaigata.core.plane.offset import offset_contour
from tests.core.cut.given import PLATE, Laid, rules
from tests.strategies import rounded_rectangles, stars

KERF = 0.4
HALF = KERF / 2
SHEET = box(0, 0, 600, 400)


def plate_at(x, y, width=100, height=60):
    return Contour.rectangle(width, height).moved(Motion(x=x, y=y))


def leads_of(contour, *others, rules=None, most=4, sheet=SHEET):
    """The leads to a part's outline beside others, and the scrap they lie in."""
    (path,) = offset_contour(contour, HALF)
    scrap = Scrap(sheet, [c.polygon() for c in (contour, *others)], KERF)
    found = lead_ins(
        path, own=0, rules=rules or LeadRules(length=6.0), kerf=KERF, scrap=scrap, most=most,
        starts=good_starts(path, HALF, []),
    )  # fmt: skip
    return path, found


@given(stars(), st.floats(0, 1), st.integers(0, 20))
def test_a_path_entered_elsewhere_is_the_same_path(star, share, index):
    index %= len(star.segments)

    path = entered(star, index, share)

    assert path.area == pytest.approx(star.area, rel=1e-9, abs=1e-6)
    assert path.length == pytest.approx(star.length, rel=1e-9)
    assert path.vertices[0][:2] == pytest.approx(star.segments[index].at(share), abs=1e-2)


@given(rounded_rectangles(), st.floats(0, 0.999))
def test_the_nearest_place_on_a_path_is_found_again(drawn, along):
    *_, contour = drawn
    index = int(along * len(contour.segments))
    point = contour.segments[index].at(0.37)

    found, share = nearest_start(contour, point)

    assert contour.segments[found].at(share) == pytest.approx(point, abs=1e-6)


def test_long_straight_edges_are_entered_first_and_corners_of_the_kerf_never():
    (path,) = offset_contour(plate_at(0, 0), HALF)

    starts = good_starts(path, HALF, [])

    assert {path.segments[i].is_line for i, _ in starts} == {True}
    lengths = [path.segments[i].length for i, t in starts if t == 0.5]
    assert lengths == sorted(lengths, reverse=True)
    assert [t for _, t in starts] == [0.5] * 4 + [0.25] * 4 + [0.75] * 4


def test_places_near_the_end_of_a_bend_line_come_last():
    (path,) = offset_contour(plate_at(0, 0), HALF)
    bend = LineString([(50, 0), (50, 60)])

    starts = good_starts(path, HALF, [bend])

    near = [bend.distance(LineString([path.segments[i].at(t)] * 2)) < 6 for i, t in starts]
    assert near == sorted(near)
    assert any(near)
    assert not all(near)


@pytest.mark.parametrize("kind", ["line", "arc"])
def test_leads_come_from_scrap_and_end_on_the_path(kind):
    plate = plate_at(100, 100)
    path, found = leads_of(plate, rules=LeadRules(kind=kind, length=6.0))

    assert len(found) == 4
    for lead in found:
        assert lead.lead.length == pytest.approx(6.0)
        assert lead.lead.end == pytest.approx(lead.entry)
        assert not lead.is_short
        assert plate.polygon().distance(LineString([lead.pierce] * 2)) > HALF
        assert path.polygon().exterior.distance(LineString([lead.entry] * 2)) < 1e-3
        assert lead.path.length == pytest.approx(path.length)


def test_a_quarter_circle_runs_smoothly_into_the_path():
    _, found = leads_of(plate_at(100, 100), rules=LeadRules(kind="arc", length=6.0))

    for lead in found:
        ahead, on = lead.lead.heading(1.0), lead.path.segments[0].heading(0.0)
        assert ahead == pytest.approx(on, abs=1e-9)


def test_a_lead_is_shortened_between_parts_and_left_out_where_nothing_fits():
    """A cut keeps half a kerf from its own part and out of the kerf of every other."""
    plate = plate_at(200, 100)

    def boxed_in(gap):
        left, right = plate_at(200 - 100 - gap, 100), plate_at(300 + gap, 100)
        low, high = plate_at(200, 100 - 60 - gap), plate_at(200, 160 + gap)
        return leads_of(plate, left, right, low, high)[1]

    assert not boxed_in(12.0)[0].is_short
    assert boxed_in(4.0)[0].is_short
    assert boxed_in(4.0)[0].lead is not None
    assert boxed_in(0.9)[0].lead is None


def test_a_lead_stays_on_the_sheet_with_its_kerf():
    plate = plate_at(3, 3)
    sheet = box(0, 0, 106, 66)

    _, found = leads_of(plate, sheet=sheet)

    for lead in found:
        line = LineString([lead.lead.start, lead.lead.end])
        assert sheet.buffer(0.05).covers(line.buffer(HALF))


def test_without_leads_the_path_itself_is_pierced():
    _, found = leads_of(plate_at(100, 100), rules=LeadRules(kind="none", length=6.0))

    assert len(found) == 4
    assert all(lead.lead is None and lead.pierce == lead.entry for lead in found)


def test_places_to_enter_lie_apart():
    _, found = leads_of(plate_at(100, 100), most=12)

    entries = [lead.entry for lead in found]
    apart = [math.dist(a, b) for i, a in enumerate(entries) for b in entries[:i]]
    assert len(entries) > 6
    assert min(apart) >= 12


def test_the_way_out_goes_on_forwards_and_not_after_an_over_cut():
    rules = LeadRules(length=6.0, lead_out=3.0)
    _, found = leads_of(plate_at(100, 100), rules=rules)
    for lead in found:
        dx, dy = lead.path.segments[0].heading(0.0)
        out = lead.out
        assert out.start == pytest.approx(lead.entry)
        assert out.length == pytest.approx(3.0)
        assert (out.end[0] - out.start[0]) * dx + (out.end[1] - out.start[1]) * dy > 0

    over = LeadRules(length=6.0, lead_out=3.0, over_cut=1.0)
    assert all(lead.out is None for lead in leads_of(plate_at(100, 100), rules=over)[1])


@pytest.mark.parametrize("width", [1.2, 2.3, 2.5])
def test_the_pierce_in_a_slot_keeps_off_the_edge_across(width):
    slot = [[20, 20], [20, 20 + width], [60, 20 + width], [60, 20]]
    known = Laid({"plate": {**PLATE, "holes": [slot]}}, [("plate", 20, 20)])
    row = rules("laser")

    hole = next(p for p in known.path(row).passes if p.name == "hole 1")

    edge = hole.nominal.polygon().exterior
    assert hole.lead is not None
    assert edge.distance(Point(hole.pierce)) > 1.5 * row.kerf - 0.01
