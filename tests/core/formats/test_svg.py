"""Pictures are true: what a path draws is read back and measured."""

import math
import re
from html import unescape

import pytest
from hypothesis import given

from kaigata.core.formats.svg import contour_path, region_path, run_path, sheet_svg
from kaigata.core.nest import NestOrder, NestPart, Placement, StockSheet
from kaigata.core.nest.figures import measured
from kaigata.core.plane import Contour, Region, Segment
from tests.strategies import rounded_rectangles, segments, stars


def drawn(path):
    """The contours of path data, lines and arcs, as the SVG standard reads them (9.3.8)."""
    contours, rows, at = [], [], (0.0, 0.0)
    for word, rest in re.findall(r"([MLAZ])([^MLAZ]*)", path):
        n = [float(v) for v in rest.split()]
        if word == "M":
            rows, at = [], (n[0], n[1])
        elif word == "L":
            rows.append((*at, 0.0))
            at = (n[0], n[1])
        elif word == "A":
            radius, large, to = n[0], n[3] == 1, (n[5], n[6])
            half = min(1.0, math.dist(at, to) / 2 / radius)
            sweep = 2 * math.asin(half)
            sweep = 2 * math.pi - sweep if large else sweep
            rows.append((*at, math.tan(sweep / 4) * (1 if n[4] == 1 else -1)))
            at = to
        else:
            if math.dist(at, rows[0][:2]) > 1e-3:
                rows.append((*at, 0.0))
            contours.append(Contour.from_rows(rows))
    return contours


@given(rounded_rectangles())
def test_lines_and_arcs_are_drawn_as_they_are(given_):
    *_, contour = given_

    (read,) = drawn(contour_path(contour))

    assert read.area == pytest.approx(contour.area, rel=1e-4)
    assert read.length == pytest.approx(contour.length, rel=1e-3)


@given(stars())
def test_a_hole_is_drawn_in_the_same_path(star):
    hole = Contour.circle((0, 0), 5)

    outer, inner = drawn(region_path(Region(star, (hole.reversed(),))))

    assert outer.area == pytest.approx(star.area, rel=1e-4)
    assert abs(inner.area) == pytest.approx(25 * math.pi, rel=1e-3)
    assert inner.area < 0


@given(segments())
def test_a_run_begins_and_ends_where_it_does(segment):
    numbers = [float(v) for v in re.findall(r"-?\d+(?:\.\d+)?", run_path([segment]))]

    assert numbers[:2] == pytest.approx(segment.start, abs=1e-4)
    assert numbers[-2:] == pytest.approx(segment.end, abs=1e-4)
    assert ("A" in run_path([segment])) == (not segment.is_line)


def test_an_arc_of_more_than_half_a_turn_goes_the_long_way():
    assert run_path([Segment((0, 0), (10, 0), 2.0)]).split()[3:6] == ["0", "1", "1"]
    assert run_path([Segment((0, 0), (10, 0), -0.5)]).split()[3:6] == ["0", "0", "0"]


def test_a_sheets_picture_shows_each_part_by_name_where_it_lies():
    plate = Region(Contour.rectangle(200, 100))
    ring = Region(Contour.circle((50, 50), 50), (Contour.circle((50, 50), 40).reversed(),))
    order = NestOrder(
        sheets=(StockSheet(id="sheet", width=800, height=400),),
        parts=(
            NestPart(id="ring", quantity=1, region=ring, turns=(0.0,)),
            NestPart(id="<plate> & co", quantity=2, region=plate, turns=(0.0, math.pi / 2)),
        ),
        spacing=5.0, margin=10.0,
    )  # fmt: skip
    lying = [
        Placement(part="ring", copy=0, x=10, y=10, turn=0.0),
        Placement(part="<plate> & co", copy=0, x=300, y=10, turn=0.0),
        Placement(part="<plate> & co", copy=0, x=700, y=10, turn=math.pi / 2),
    ]
    (sheet,) = measured(order, [("sheet", lying)]).sheets

    picture = sheet_svg(order, sheet)

    assert 'viewBox="-5 -5 810 410"' in picture
    shown = re.findall(r'<path d="([^"]*)"[^>]*><title>([^<]*)</title>', picture)
    # The large ones come first, so that they hide nothing.
    assert [unescape(n) for _, n in shown] == ["<plate> & co 1", "<plate> & co 2", "ring 1"]
    assert drawn(shown[1][0])[0].bounds == pytest.approx((600, 10, 700, 210), abs=1e-3)
    assert re.findall(r'<path d="([^"]*)"[^>]*dasharray', picture) == ["M710 0V400"]
