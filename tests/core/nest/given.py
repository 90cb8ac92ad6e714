"""Orders, benches and fillings for the tests of nesting."""

import math
from collections import Counter

from kaigata.core.checked import load_document
from kaigata.core.formats.documents import OrderDocument
from kaigata.core.formats.nest_files import order_from_document
from kaigata.core.nest.bench import Bench, Layout
from kaigata.core.nest.plans import build, first_plan
from kaigata.core.nest.rules import broken_rules
from tests.checks import NEST

NOTHING = Layout((), Counter())
QUARTERS = tuple(math.radians(t) for t in (0, 90, 180, 270))


def order_of(name):
    path = NEST / f"{name}.json"
    return order_from_document(load_document(path, OrderDocument), path.parent)


def bench_of(order):
    """The bench of an order's first gauge."""
    gauge = order.gauges[0]
    return Bench(
        order,
        [p for p in order.parts if p.gauge == gauge],
        [s for s in order.sheets if s.gauge == gauge],
    )


def filled(bench, plan=None):
    return build(bench, plan or first_plan(bench), NOTHING, lambda: False)


def copies(bench, layout):
    """How many copies of each shape a layout has, those left out included."""
    return Counter(int(k) for x in layout.loads for k in bench.kinds(x)) + layout.left_out


def broken(order, bench, layout):
    """The rules that a layout breaks."""
    return [
        rule
        for x in layout.loads
        for rule in broken_rules(order, bench.sheets[x.sheet], bench.placements(x))
    ]
