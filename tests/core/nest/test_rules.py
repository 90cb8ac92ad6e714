"""The rules of placing, what is locked, fillers and costs."""

import math
from dataclasses import replace

import pytest

from kaigata.core.nest import NestOrder, NestPart, Placement, StockSheet, search
from kaigata.core.nest.rules import BrokenRule, RuleBook, broken_rules
from kaigata.core.plane import Contour, Region

SHEET = StockSheet(id="sheet", width=600, height=400, count=2)
PLATE = NestPart(
    id="plate", quantity=4, region=Region(Contour.rectangle(200, 100)), turns=(0.0, math.pi / 2)
)
ORDER = NestOrder(sheets=(SHEET,), parts=(PLATE,), spacing=5.0, margin=10.0)


def at(x, y, copy=1, turn=0.0, mirrored=False):
    return Placement(part="plate", copy=copy, x=x, y=y, turn=turn, mirrored=mirrored)


@pytest.mark.parametrize(
    ("placements", "kinds"),
    [
        ([at(10, 10), at(215, 10)], []),
        ([at(10, 10), at(214.995, 10)], []),
        ([at(10, 10), at(214.9, 10)], ["spacing"]),
        ([at(10, 10), at(150, 50)], ["overlap"]),
        ([at(9.9, 10)], ["margin"]),
        ([at(500, 10)], ["margin"]),
        ([at(300, 200, turn=0.3)], ["turn"]),
        ([at(300, 200, mirrored=True)], ["mirror"]),
    ],
)
def test_each_rule_is_told_when_it_is_broken(placements, kinds):
    assert [r.kind for r in broken_rules(ORDER, SHEET, placements)] == kinds


def test_a_remnants_edge_keeps_its_margin():
    corner = Contour.from_rows([[0, 0], [600, 0], [600, 200], [300, 200], [300, 400], [0, 400]])
    remnant = replace(SHEET, outline=corner)
    order = replace(ORDER, sheets=(remnant,))

    assert broken_rules(order, remnant, [at(380, 80)]) == []
    near = broken_rules(order, remnant, [at(380, 95)])
    assert [r.kind for r in near] == ["margin"]
    assert "5.00 mm from the edge" in near[0].text
    assert "reaches off" in broken_rules(order, remnant, [at(380, 150)])[0].text


def test_what_is_locked_stays_and_the_rest_is_filled_in():
    order = replace(ORDER, parts=(replace(PLATE, quantity=6),))
    begun = search(replace(order, parts=(replace(PLATE, quantity=1),)), steps=1)
    moved = replace(begun.sheets[0], placements=(at(333, 222),))

    nest = search(order, steps=12, start=replace(begun, sheets=(moved,)), locked={("plate", 1)})

    lying = [p for s in nest.sheets for p in s.placements]
    assert len(lying) == 6
    assert (333, 222) in [(p.x, p.y) for p in lying]
    assert not any(broken_rules(order, SHEET, s.placements) for s in nest.sheets)


def test_going_on_is_never_worse_than_the_start():
    first = search(ORDER, steps=1)

    assert search(ORDER, steps=8, start=first).counted_area <= first.counted_area + 1e-6


def test_fillers_never_cost_metal():
    filler = NestPart(
        id="washer", quantity=500, region=Region(Contour.rectangle(30, 30)), filler=True
    )
    plain = search(ORDER, steps=4)

    filled = search(replace(ORDER, parts=(PLATE, filler)), steps=4)

    assert filled.counted_area <= plain.counted_area + 1e-6
    assert sum(p.part == "washer" for s in filled.sheets for p in s.placements) > 0
    assert [u.part for u in filled.unplaced] == ["washer"]
    assert filled.unplaced[0].why.startswith("a filler")


def test_the_cheapest_sheets_are_taken_not_the_smallest():
    dear = StockSheet(id="dear", width=500, height=300, count=9, cost=500.0)
    cheap = StockSheet(id="cheap", width=600, height=400, count=9, cost=50.0)

    nest = search(replace(ORDER, sheets=(dear, cheap)), steps=12)

    assert {s.sheet for s in nest.sheets} == {"cheap"}


def test_a_first_nest_that_breaks_a_rule_is_never_handed_on(monkeypatch):
    def one_too_many(book, sheet, placements):
        return [BrokenRule("overlap", (0, 3), "")] if len(placements) == 4 else []

    monkeypatch.setattr(RuleBook, "broken", one_too_many)

    assert search(ORDER, steps=1).left_out == 1


def test_only_what_moved_is_looked_at():
    lying = [at(10, 10), at(20, 20, copy=2), at(300, 10, copy=3), at(300, 200, copy=4)]
    book = RuleBook(ORDER)

    assert [r.rows for r in book.broken(SHEET, lying)] == [(0, 1)]
    assert [r.rows for r in book.broken(SHEET, lying, moved=[1])] == [(0, 1)]
    assert [r.rows for r in book.broken(SHEET, lying, moved=[0, 1])] == [(0, 1)]
    assert book.broken(SHEET, lying, moved=[2, 3]) == []
    assert book.broken(SHEET, lying, moved=[]) == []
    near = [*lying[2:], at(300, 310, copy=5)]
    assert [r.kind for r in book.broken(SHEET, near, moved=[2])] == ["margin"]
