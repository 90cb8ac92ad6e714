"""Taking overlaps out: what comes apart, what stays, and what is said when it does not."""

from collections import Counter

import numpy as np
import pytest

from kaigata.core.nest import NestOrder, NestPart, StockSheet
from kaigata.core.nest.bench import Layout
from kaigata.core.nest.improve import HASTY, PATIENT, Bout, Hand, is_shortest, tighten
from kaigata.core.nest.overlap import TOUCH, lying_of, measure_depths, pushes_on
from kaigata.core.nest.separate import draw, random_state, separate, squeeze_in
from kaigata.core.plane import Contour, Region
from tests.core.nest.given import bench_of, broken, copies, filled, order_of

EFFORT = 28


def plates(quantity, width=200, height=100, size=(1000, 500), turns=(0.0,)):
    part = NestPart(
        id="plate", quantity=quantity, region=Region(Contour.rectangle(width, height)), turns=turns
    )
    sheet = StockSheet(id="sheet", width=size[0], height=size[1], count=1)
    return NestOrder(sheets=(sheet,), parts=(part,), spacing=4.0, margin=10.0)


def lying_at(bench, way, at, fixed=()):
    stays = np.zeros(len(way), dtype=bool)
    stays[list(fixed)] = True
    lying = lying_of(bench.table, np.array(way, dtype=np.int64), np.array(at, dtype=float), stays)
    measure_depths(bench.table, lying)
    return lying


def separated(bench, lying, rooms, rounds=400, patience=60, seed=1):
    memory = np.array([np.inf, 0.0])
    return separate(bench.table, rooms, lying, rounds, patience, EFFORT, random_state(seed), memory)


def shuffled(name, spread, fixed=()):
    """A filled sheet on which every copy was moved a little at random, and its room."""
    bench = bench_of(order_of(name))
    load = filled(bench).loads[0]
    moved = np.random.default_rng(2).normal(0, spread, load.at.shape)
    moved[list(fixed)] = 0
    return bench, lying_at(bench, load.way, load.at + moved, fixed), bench.room(load.sheet)[None]


def test_random_numbers_are_even_and_come_again_with_their_seed():
    state, again, other = random_state(5), random_state(5), random_state(6)
    numbers = np.array([draw(state) for _ in range(20_000)])

    assert numbers[:50].tolist() == [draw(again) for _ in range(50)]
    assert numbers[:50].tolist() != [draw(other) for _ in range(50)]
    assert numbers.min() >= 0
    assert numbers.max() < 1
    assert np.histogram(numbers, 10, (0, 1))[0] == pytest.approx(2000, rel=0.1)


@pytest.mark.parametrize("name", ["mix-60", "mix-60-any", "mix-20"])
def test_what_was_moved_a_little_comes_apart_in_its_room(name):
    bench, lying, rooms = shuffled(name, 3.0)
    assert (lying.depth > TOUCH).any()
    before = lying.at.copy()

    left = separated(bench, lying, rooms)

    assert left == 0
    measure_depths(bench.table, lying)
    assert lying.depth.max() <= TOUCH
    reach = bench.table.reach[lying.way]
    # What overlapped nothing was left where it was, even if that is in the margin.
    moved = (lying.at != before).any(axis=1)
    assert moved.any()
    assert ((lying.at + reach[:, :2])[moved] >= rooms[0, :2] - 1e-6).all()
    assert ((lying.at + reach[:, 2:])[moved] <= rooms[0, 2:] + 1e-6).all()


def test_what_is_fixed_does_not_move():
    fixed = (0, 3, 7)
    bench, lying, rooms = shuffled("mix-60", 3.0, fixed)
    before, ways = lying.at.copy(), lying.way.copy()

    separated(bench, lying, rooms)

    assert lying.at[list(fixed)].tolist() == before[list(fixed)].tolist()
    assert lying.way[list(fixed)].tolist() == ways[list(fixed)].tolist()
    assert (lying.at != before).any()


def test_what_finds_no_room_is_given_up_and_what_is_left_is_told():
    bench = bench_of(plates(3, size=(430, 130)))
    lying = lying_at(bench, [0, 0, 0], [(10, 10), (110, 10), (210, 10)])

    left = separated(bench, lying, bench.room("sheet")[None], rounds=4000, patience=30)

    assert left > 1
    measure_depths(bench.table, lying)
    assert lying.depth[np.triu_indices(3)].sum() == pytest.approx(left, rel=0.5)


def test_the_same_seed_gives_the_same_places():
    places = []
    for seed in (4, 4, 5):
        bench, lying, rooms = shuffled("mix-60", 6.0)
        separated(bench, lying, rooms, rounds=5, seed=seed)
        places.append(lying.at.tolist())

    assert places[0] == places[1]
    assert places[0] != places[2]


def test_a_part_changes_over_to_another_room_where_its_own_is_full():
    bench = bench_of(plates(3, size=(230, 130)))
    rooms = np.array([[10, 10, 220, 120], [1010, 10, 1220, 120]], dtype=float)
    lying = lying_at(bench, [0, 0], [(12, 12), (15, 15)])

    assert separated(bench, lying, rooms) == 0

    assert sorted((lying.at[:, 0] > 600).tolist()) == [False, True]


def test_a_part_is_squeezed_in_where_there_is_room_for_it():
    bench = bench_of(plates(4, size=(430, 240)))
    room = bench.room("sheet")[None]
    lying = lying_at(bench, [0] * 4, [(10, 10), (214, 10), (10, 114), (10, 10)])

    fits = squeeze_in(bench.table, room, lying, 3, 12 * EFFORT, random_state(1))

    assert fits
    assert lying.depth.max() <= TOUCH
    assert lying.at[3, 0] == pytest.approx(217, abs=4)


def test_a_part_larger_than_its_room_is_not_squeezed_in():
    bench = bench_of(plates(1))
    lying = lying_at(bench, [0], [(10, 10)])

    assert not squeeze_in(
        bench.table, np.array([[10.0, 10.0, 180.0, 490.0]]), lying, 0, EFFORT, random_state(1)
    )


@pytest.mark.parametrize("is_mirrored", [False, True])
def test_what_fits_nowhere_overlaps_a_small_part_rather_than_a_large_one(is_mirrored):
    """A plate of 200 between one of 400 and one of 40, in a gap 8 mm too short for it."""
    sizes = [(400, 400), (40, 400), (200, 400)]
    parts = tuple(
        NestPart(id=f"plate {w}", quantity=1, region=Region(Contour.rectangle(w, h)), turns=(0.0,))
        for w, h in sizes
    )
    sheet = StockSheet(id="sheet", width=660, height=420, count=1)
    bench = bench_of(NestOrder(sheets=(sheet,), parts=parts, spacing=4.0, margin=10.0))
    left = [10, 610, 300]
    if is_mirrored:
        left = [660 - x - w for x, (w, _) in zip(left, sizes, strict=True)]
    lying = lying_at(bench, [0, 1, 2], [(x, 10) for x in left], fixed=(0, 1))

    squeeze_in(bench.table, bench.room("sheet")[None], lying, 2, 12 * EFFORT, random_state(1))

    assert lying.depth[2, 0] <= TOUCH
    assert lying.depth[2, 1] == pytest.approx(8, abs=0.1)


def test_a_push_takes_a_part_out_by_the_shortest_way():
    bench = bench_of(plates(2))
    lying = lying_at(bench, [0, 0], [(100, 100), (120, 190)])
    out = np.zeros((4, 3))

    count = pushes_on(bench.table, lying, 1, 0, 120.0, 190.0, out)

    # They overlap by 14 mm in height, spacing included, and by far more along.
    assert count == 1
    assert out[0, :2] == pytest.approx((0, 14), abs=0.05)


def test_tightening_a_row_of_plates_ends_at_the_shortest_there_is():
    """Eight plates of 200 by 100, shelf by shelf of 460 mm, need two columns."""
    order = plates(8, size=(2000, 440))
    bench = bench_of(order)
    (load,) = filled(bench).loads
    way, at = load.way, np.array([(10.0 + 240 * i, 10.0) for i in range(8)])
    spread_out = type(load)(load.sheet, way, at, np.zeros(8, dtype=bool))

    (tight,) = tighten(bench, [spread_out], 0, Hand(3), Bout(None, 120))

    assert bench.used_length(tight) == pytest.approx(10 + 2 * 200 + 4 + 10, abs=2)
    assert len(tight) == 8
    assert not is_shortest(bench, spread_out)


def test_a_sheet_as_short_as_its_widest_part_is_the_shortest():
    order = plates(2, size=(2000, 440))
    bench = bench_of(order)
    layout = filled(bench)

    assert is_shortest(bench, layout.loads[0])
    assert copies(bench, layout) == bench.wanted()
    assert not broken(order, bench, layout)
    same = tighten(bench, layout.loads, 0, Hand(1), Bout(None, 5))
    assert same[0] is layout.loads[0]


def test_one_sheet_alone_is_given_longer_tries_than_several():
    assert HASTY.rounds(parts=60, failures=0) == 60
    assert PATIENT.rounds(parts=60, failures=0) == 600


def test_a_try_that_follows_failures_may_take_longer_up_to_a_limit():
    rounds = [PATIENT.rounds(parts=60, failures=n) for n in range(40)]

    assert rounds == sorted(rounds)
    assert rounds[1] == 2 * rounds[0]
    assert rounds[-1] == PATIENT.longest


def test_with_more_parts_a_patient_try_has_fewer_rounds_but_never_less_than_a_hasty_one():
    rounds = [PATIENT.rounds(parts=n, failures=0) for n in (1, 60, 200, 600, 5000)]

    assert rounds == sorted(rounds, reverse=True)
    assert rounds[2] * 200 == PATIENT.many
    assert rounds[-1] == HASTY.patience


@pytest.mark.parametrize("pace", [HASTY, PATIENT])
def test_at_either_pace_a_shortened_sheet_keeps_every_copy_and_breaks_no_rule(pace):
    order = plates(9, size=(2000, 440))
    bench = bench_of(order)
    layout = filled(bench)
    (load,) = layout.loads
    loose = type(load)(load.sheet, load.way, load.at * (1.15, 1.0), load.fixed)

    (tight,) = tighten(bench, [loose], 0, Hand(5, pace.first), Bout(None, 30), pace)

    assert bench.used_length(tight) < bench.used_length(loose)
    made = Layout((tight,), Counter())
    assert copies(bench, made) == bench.wanted()
    assert not broken(order, bench, made)
