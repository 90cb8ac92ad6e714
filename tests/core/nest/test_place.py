"""Filling sheets: where copies come to lie, and what is left over."""

from collections import Counter

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kaigata.core.errors import Stopped
from kaigata.core.nest import NestOrder, NestPart, StockSheet
from kaigata.core.nest import bench as bench_module
from kaigata.core.nest.bench import Load
from kaigata.core.nest.leftovers import reason_left_out, taken_off, with_fillers
from kaigata.core.nest.overlap import depth_between
from kaigata.core.nest.plans import first_plan
from kaigata.core.plane import Contour, Region
from tests.core.nest.given import QUARTERS, bench_of, broken, copies, filled, order_of


def order_with(*parts, sheets=None, spacing=5.0):
    sheets = sheets or (StockSheet(id="sheet", width=1000, height=500, count=2),)
    return NestOrder(sheets=sheets, parts=parts, spacing=spacing, margin=10.0)


def plate(name, quantity, width, height, **more):
    more.setdefault("turns", QUARTERS)
    return NestPart(
        id=name, quantity=quantity, region=Region(Contour.rectangle(width, height)), **more
    )


def rests_on_something(bench, load, row, by):
    """Whether a copy would leave its room or overlap another if moved left so far."""
    table, room = bench.table, bench.room(load.sheet)
    way, (x, y) = load.way[row], load.at[row] - (by, 0)
    if x + table.reach[way, 0] < room[0]:
        return True
    return any(
        depth_between(table, load.way[j], *load.at[j], way, x, y) > 0
        for j in range(len(load))
        if j != row
    )


@pytest.mark.parametrize("name", ["mix-60", "mix-60-any", "jigsaw-gap-16", "mix-200"])
def test_no_copy_could_lie_further_left_as_it_lies(name):
    order = order_of(name)
    bench = bench_of(order)

    layout = filled(bench)

    assert copies(bench, layout) == bench.wanted()
    assert not broken(order, bench, layout)
    for load in layout.loads:
        assert all(rests_on_something(bench, load, i, 0.05) for i in range(len(load)))


@pytest.mark.parametrize("name", ["mix-60", "mix-200"])
def test_sums_alone_give_the_places_that_boundaries_do(name, monkeypatch):
    """Orders of very many different parts are filled without making boundaries."""
    wanted = filled(bench_of(order_of(name)))
    monkeypatch.setattr(bench_module, "_FEW_KINDS", 0)
    bench = bench_of(order_of(name))

    found = filled(bench)

    assert bench.table.fits.used[0] > 0
    assert bench.table.fits.used[3] == 0
    for one, other in zip(found.loads, wanted.loads, strict=True):
        assert np.array_equal(one.way, other.way)
        assert one.at == pytest.approx(other.at, abs=0.02)


def test_the_first_sheet_that_takes_a_copy_gets_it():
    bench = bench_of(order_with(plate("large", 3, 600, 400), plate("small", 4, 300, 100)))

    layout = filled(bench)

    large, small = bench.first, bench.first + 1
    on = [Counter(bench.kinds(x).tolist()) for x in layout.loads]
    assert on == [Counter({large: 1, small: 4}), Counter({large: 1})]
    assert layout.left_out == Counter({large: 1})


def test_walls_of_what_lies_there_already_are_kept():
    order = order_with(plate("plate", 6, 200, 100, turns=(0.0,)))
    bench = bench_of(order)
    way = int(bench.table.first[bench.first])
    lying = Load("sheet", np.array([way]), np.array([[300.0, 200.0]]), np.array([True]))

    layout = bench.fill(
        [lying], bench.wanted() - Counter([bench.first]), sequence=first_plan(bench).sequence
    )

    (load,) = layout.loads
    assert load.at[0].tolist() == [300, 200]
    assert load.fixed.tolist() == [True] + 5 * [False]
    assert len(load) == 6
    assert not broken(order, bench, layout)


def test_room_may_be_given_up_to_a_length():
    bench = bench_of(order_with(plate("plate", 40, 100, 100)))
    empty = filled(bench).loads[0].without(range(len(filled(bench).loads[0])))

    layout = bench.fill(
        [empty], bench.wanted(), sequence=first_plan(bench).sequence,
        rooms=[np.array([10.0, 10.0, 330.0, 490.0])],
    )  # fmt: skip

    assert len(layout.loads[0]) == 12
    assert layout.left_out.total() == 28
    assert bench.used_length(layout.loads[0]) <= 340


def test_leaning_chooses_the_lower_way_where_both_reach_as_far():
    """Upright a plate reaches less far; the more its top counts, the sooner it is laid flat."""
    order = order_with(plate("plate", 1, 200, 150))
    bench = bench_of(order)
    tops = []
    for lean in (0.0, 5.0):
        laid = bench.fill((), bench.wanted(), sequence=[bench.first], fresh=["sheet"], lean=lean)
        (load,) = laid.loads
        tops.append(load.at[0, 1] + bench.table.reach[load.way[0], 3])

    assert tops == pytest.approx([210, 160])


def test_a_stop_is_heard_and_a_filling_not_worth_it_ends():
    bench = bench_of(order_with(plate("plate", 60, 90, 60)))
    sequence = first_plan(bench).sequence
    with pytest.raises(Stopped):
        bench.fill((), bench.wanted(), sequence=sequence, fresh=["sheet"],
                   should_stop=lambda: True)  # fmt: skip

    ended = bench.fill((), bench.wanted(), sequence=sequence, fresh=["sheet"],
                       worth=lambda layout: False)  # fmt: skip

    assert 0 < sum(len(x) for x in ended.loads) < 60
    assert copies(bench, ended) == bench.wanted()


@settings(max_examples=20, deadline=None)
@given(
    st.lists(
        st.tuples(st.floats(20, 300), st.floats(20, 300), st.integers(1, 6)), min_size=1, max_size=5
    ),
    st.floats(0, 12),
    st.sampled_from([0.0, 0.05, 1.0]),
)
def test_every_copy_is_laid_or_left_out_and_rules_are_kept(sizes, spacing, lean):
    parts = [plate(f"plate {i}", n, w, h) for i, (w, h, n) in enumerate(sizes)]
    order = order_with(*parts, spacing=spacing)
    bench = bench_of(order)

    layout = bench.fill(
        (), bench.wanted(), sequence=first_plan(bench).sequence, fresh=["sheet", "sheet"], lean=lean
    )

    assert copies(bench, layout) == bench.wanted()
    assert not broken(order, bench, layout)


def test_what_reaches_furthest_comes_off_first_and_what_must_stay_stays():
    bench = bench_of(order_with(plate("plate", 8, 200, 100, turns=(0.0,))))
    load = filled(bench).loads[0]
    furthest = np.argsort(-load.at[:, 0], kind="stable")
    fixed = np.zeros(len(load), dtype=bool)
    fixed[furthest[0]] = True
    load = Load(load.sheet, load.way, load.at, fixed)

    rest = taken_off(bench, load, Counter({bench.first: 2}))

    gone = {tuple(a) for a in load.at.tolist()} - {tuple(a) for a in rest.at.tolist()}
    assert gone == {tuple(load.at[i].tolist()) for i in furthest[1:3]}
    assert rest.fixed.sum() == 1


def test_fillers_go_no_further_than_the_last_sheet_is_used():
    filler = plate("filler", 50, 60, 60, filler=True)
    order = order_with(plate("plate", 3, 250, 300), filler)
    bench = bench_of(order)
    layout = filled(bench)
    before = bench.used_length(layout.loads[-1])

    full = with_fillers(bench, layout)

    assert len(full.loads) == len(layout.loads)
    assert bench.used_length(full.loads[-1]) == before
    lying = sum(len(x) for x in full.loads) - 3
    assert 0 < lying < 50
    assert full.left_out == Counter({bench.first + 1: 50 - lying})
    assert not broken(order, bench, full)
    assert "filler" in reason_left_out(bench, bench.first + 1, "steel 2.0", fits=True)


@pytest.mark.parametrize(
    ("sheets", "fits", "text"),
    [
        ((StockSheet(id="a", width=500, height=500, count=1),), True,
         "the 1 sheet of steel 2.0 is used up"),
        ((StockSheet(id="a", width=500, height=500, count=2),), True,
         "the 2 sheets of steel 2.0 are used up"),
        ((StockSheet(id="a", width=500, height=500, count=2),), False,
         "larger than every sheet of steel 2.0"),
    ],
)  # fmt: skip
def test_why_a_copy_is_left_out_is_said(sheets, fits, text):
    bench = bench_of(order_with(plate("plate", 3, 250, 300), sheets=sheets))

    assert reason_left_out(bench, bench.first, "steel 2.0", fits=fits) == text
