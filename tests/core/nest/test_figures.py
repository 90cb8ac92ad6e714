"""What a nest measures: numbers, lengths, what is charged and what is left worth keeping."""

import math
from dataclasses import replace

import pytest

from kaigata.core.nest import NestOrder, NestPart, Placement, StockSheet
from kaigata.core.nest.figures import (
    Unplaced,
    area_up_to,
    measured,
    measured_as_numbered,
    metal_rates,
    remnants_of,
)
from kaigata.core.plane import Contour, Region

LARGE = StockSheet(id="large", width=2000, height=1000, count=2)
SMALL = StockSheet(id="small", width=1000, height=500, count=2)
WINDOW = Contour.from_rows([(50, 50), (50, 100), (150, 100), (150, 50)])
PLATE = NestPart(
    id="plate", quantity=9, region=Region(Contour.rectangle(200, 150), (WINDOW,)), turns=(0.0,)
)
ORDER = NestOrder(sheets=(LARGE, SMALL), parts=(PLATE,), spacing=5.0, margin=10.0)
NET = 200 * 150 - 100 * 50


def at(*places):
    return [Placement(part="plate", copy=0, x=x, y=y, turn=0.0) for x, y in places]


def test_the_last_sheet_is_the_one_that_saves_most_and_is_charged_to_its_used_length():
    """Counted to 220 mm the large sheet saves more metal than the small one would."""
    nest = measured(ORDER, [("large", at((10, 10))), ("small", at((10, 10), (300, 10)))])

    assert [(s.sheet, s.number) for s in nest.sheets] == [("small", 1), ("large", 2)]
    assert [s.used_length for s in nest.sheets] == pytest.approx([510, 220])
    assert nest.counted_area == pytest.approx(1000 * 500 + 220 * 1000)
    assert nest.charge == pytest.approx(nest.counted_area)
    assert nest.utilisation == pytest.approx(3 * NET / nest.counted_area)
    assert nest.sheets[0].utilisation == pytest.approx(2 * NET / 500_000)


def test_copies_are_numbered_through_and_sheets_without_any_are_left_out():
    nest = measured(
        ORDER, [("large", at((10, 10), (300, 10))), ("large", []), ("small", at((10, 10)))]
    )

    assert len(nest.sheets) == 2
    assert [p.copy for s in nest.sheets for p in s.placements] == [1, 2, 3]


def test_each_gauge_has_a_last_sheet_of_its_own():
    thick = replace(LARGE, id="thick", thickness=3.0)
    other = replace(PLATE, id="other", thickness=3.0)
    order = replace(ORDER, sheets=(LARGE, thick), parts=(PLATE, other))
    lying = Placement(part="other", copy=0, x=10, y=10, turn=0.0)

    nest = measured(order, [("large", at((10, 10))), ("thick", [lying])])

    assert nest.counted_area == pytest.approx(2 * 220 * 1000)


def test_costs_count_only_where_every_sheet_has_one():
    priced = (replace(LARGE, cost=100.0), replace(SMALL, cost=50.0))

    assert metal_rates(priced) == {"large": 100 / 2e6, "small": 50 / 5e5}
    assert metal_rates((priced[0], SMALL)) == {"large": 1.0, "small": 1.0}
    nest = measured(replace(ORDER, sheets=priced), [("large", at((10, 10)))])
    assert nest.charge == pytest.approx(100 * 220 / 2000)


def test_a_remnant_is_charged_for_what_its_outline_holds():
    outline = Contour.from_rows([(0, 0), (600, 0), (600, 200), (300, 200), (300, 400), (0, 400)])
    remnant = StockSheet(id="remnant", width=600, height=400, count=1, outline=outline)

    assert area_up_to(remnant, 600) == pytest.approx(300 * 400 + 300 * 200)
    assert area_up_to(remnant, 400) == pytest.approx(300 * 400 + 100 * 200)
    assert area_up_to(LARGE, 400) == 400 * 1000


def test_what_is_left_is_kept_when_it_is_long_enough():
    def left(x):
        return remnants_of(ORDER, measured(ORDER, [("large", at((x, 10)))]))

    (kept,) = left(10)
    assert (kept.sheet, kept.width, kept.height) == ("large", 1780.0, 1000)
    assert len(left(1490)) == 1
    assert not left(1491)


def test_changed_by_hand_a_sheet_keeps_its_number_and_is_last_by_it():
    nest = measured(ORDER, [("large", at((10, 10))), ("small", at((10, 10), (300, 10)))])
    swapped = [replace(s, number=3 - s.number) for s in nest.sheets]

    again = measured_as_numbered(ORDER, swapped, [Unplaced(part="plate", quantity=2, why="-")])

    assert [(s.sheet, s.number) for s in again.sheets] == [("small", 2), ("large", 1)]
    assert again.counted_area == pytest.approx(2000 * 1000 + 510 * 500)
    assert again.left_out == 2


def test_a_turned_and_mirrored_part_reaches_as_far_as_it_does():
    lying = Placement(part="plate", copy=0, x=500, y=10, turn=math.pi / 2, mirrored=True)

    (sheet,) = measured(ORDER, [("large", [lying])]).sheets

    # Mirrored it lies left of its 0,0, a quarter turn lays that below it: left stays 150.
    assert sheet.used_length == pytest.approx(500 + 10)


def test_no_sheet_no_metal():
    nest = measured(ORDER, [], [Unplaced(part="plate", quantity=9, why="-")])

    assert (nest.utilisation, nest.counted_area, nest.left_out) == (0.0, 0.0, 9)
