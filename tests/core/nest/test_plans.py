"""Plans to fill a gauge by, how they are changed, and fillings that end early."""

import numpy as np

from kaigata.core.nest.plans import build, changed, first_plan
from kaigata.core.nest.score import charge_of
from tests.core.nest.given import NOTHING, bench_of, filled, order_of


def test_a_changed_plan_has_the_same_shapes_and_sheets():
    bench = bench_of(order_of("kits-nofit"))
    plan = first_plan(bench)
    draw = np.random.default_rng(2)
    seen = set()
    for _ in range(60):
        other = changed(bench, plan, (), (), draw)
        assert sorted(other.sequence) == sorted(plan.sequence)
        assert sorted(other.fresh) == sorted(plan.fresh)
        seen.add(other.sequence)

    assert len(seen) > 30


def test_a_filling_goes_on_while_it_is_charged_no_more_and_ends_when_it_is():
    bench = bench_of(order_of("mix-200"))
    plan, whole = first_plan(bench), filled(bench)
    charge = charge_of(bench, whole.loads)

    same = build(bench, plan, NOTHING, lambda: False, at_most=charge + 0.01)
    cut = build(bench, plan, NOTHING, lambda: False, at_most=0.6 * charge)

    assert charge_of(bench, same.loads) == charge
    assert not same.left_out
    lying = sum(len(x) for x in cut.loads)
    assert 0 < lying < sum(len(x) for x in whole.loads)
    assert lying + cut.left_out.total() == bench.wanted().total()
