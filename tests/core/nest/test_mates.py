"""Joining shapes: what was divided comes together, what has no mate stays alone."""

import math
import random
from collections import Counter
from dataclasses import replace

import pytest
from shapely.affinity import rotate, translate
from shapely.geometry import LineString, Polygon, box
from shapely.geometry.polygon import orient
from shapely.ops import split

from kaigata.core.nest import NestOrder, NestPart, StockSheet, search
from kaigata.core.nest.joining import joined_order
from kaigata.core.nest.mates import Joined, Member, joined
from kaigata.core.nest.order import require_usable
from kaigata.core.nest.rules import broken_rules
from kaigata.core.plane import Contour, Region

SQUARE = tuple(i * math.pi / 2 for i in range(4))


def divided(seed: int, pieces: int) -> list[Polygon]:
    """Return a plate of 900 x 600 divided by crooked lines, its pieces turned and mixed."""
    draw = random.Random(seed)
    parts = [box(0, 0, 900, 600)]
    while len(parts) < pieces:
        parts.sort(key=lambda p: p.area)
        x0, y0, x1, y1 = parts[-1].bounds
        at, lean = draw.uniform(0.35, 0.65), draw.uniform(-0.1, 0.1)
        ends = [(-1.0, at - lean), (0.5, at + lean / 2), (2.0, at + lean)]
        upright = x1 - x0 > y1 - y0
        line = LineString(
            (x0 + (q if upright else t) * (x1 - x0), y0 + (t if upright else q) * (y1 - y0))
            for t, q in ends
        )
        parts[-1:] = list(split(parts[-1], line).geoms)
    turned = [rotate(p, 90 * draw.randrange(4), origin=(0, 0)) for p in parts]
    draw.shuffle(turned)
    return [orient(translate(p, -p.bounds[0], -p.bounds[1])) for p in turned]


def alone(polygons, turns=SQUARE, quantity=1):
    return [
        Joined((Member(f"p{i}", 0.0, 0.0, 0.0),), p, turns, quantity)
        for i, p in enumerate(polygons)
    ]


def order_of(polygons, *, spacing=0.0, margin=0.0, width=1400.0):
    shapes = [p.buffer(-spacing / 2, join_style="mitre", mitre_limit=9) for p in polygons]
    return NestOrder(
        sheets=(
            StockSheet(id="sheet", width=width, height=600 + 2 * margin - spacing, count=1),
        ),
        parts=tuple(
            NestPart(
                id=f"p{i}", quantity=1, turns=SQUARE,
                region=Region(Contour.from_rows(orient(p).exterior.coords[:-1])),
            )
            for i, p in enumerate(shapes)
        ),
        spacing=spacing,
        margin=margin,
    )  # fmt: skip


@pytest.mark.parametrize("seed", [1, 2, 3])
def test_a_divided_plate_comes_together(seed):
    (whole,) = joined(alone(divided(seed, 12)))

    assert Counter(m.part for m in whole.members) == Counter(f"p{i}" for i in range(12))
    assert whole.polygon.area == pytest.approx(900 * 600, rel=1e-6)
    x0, y0, x1, y1 = whole.polygon.bounds
    assert sorted([x1 - x0, y1 - y0]) == pytest.approx([600, 900], abs=5e-3)


def test_shapes_that_may_not_turn_so_are_not_joined():
    pieces = divided(1, 12)

    assert len(joined(alone(pieces, turns=(0.0,)))) > 1


def test_joining_keeps_every_copy():
    pieces = divided(4, 6)

    found = joined(alone(pieces, quantity=3))

    copies = Counter()
    for shape in found:
        copies.update({m.part: shape.quantity for m in shape.members})
    assert copies == Counter({f"p{i}": 3 for i in range(6)})


def test_edges_as_long_as_the_sheet_find_no_mate():
    left = orient(Polygon([(0, 0), (300, 0), (300, 600), (40, 590)]))
    right = orient(Polygon([(0, 0), (500, 20), (490, 615), (0, 600)]))

    assert len(joined(alone([left, right]))) == 1
    assert len(joined(alone([left, right]), sides=(600.0,))) == 2


def test_parts_without_mates_make_no_joined_order():
    assert joined_order(order_of([box(0, 0, 100 + 7 * i, 50 + 3 * i) for i in range(8)])) is None


@pytest.mark.parametrize(("spacing", "margin"), [(0.0, 0.0), (4.0, 10.0)])
def test_a_divided_plate_is_nested_as_it_was(spacing, margin):
    order = order_of(divided(2, 14), spacing=spacing, margin=margin)
    require_usable(order)

    nest = search(order, steps=4)

    (sheet,) = nest.sheets
    assert sheet.used_length == pytest.approx(900 + 2 * margin - spacing, abs=0.02)
    assert not broken_rules(order, order.sheets[0], sheet.placements)
    assert nest.left_out == 0


def test_parts_at_any_angle_are_not_joined():
    order = order_of(divided(2, 6))
    free = replace(order, parts=tuple(replace(p, turns=None) for p in order.parts))

    assert joined_order(order) is not None
    assert joined_order(free) is None
    assert search(free, steps=3).left_out == 0
