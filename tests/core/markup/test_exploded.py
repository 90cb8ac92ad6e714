"""Exploded views: every part comes off what it lies on, the way it can, and is numbered again."""

from dataclasses import replace
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kaigata.core.intake import read_parts
from kaigata.core.intake.kernel import triangles_of
from kaigata.core.markup import (
    MILLIMETRE,
    Component,
    Title,
    assembly_differences,
    draw_assembly,
    meshed_bodies,
    placed_bodies,
)
from kaigata.core.markup.exploded import exploded
from kaigata.core.markup.page import Pen
from kaigata.core.part import IN_PLACE
from tests.checks import TESTS
from tests.core.markup.test_assembly import stand
from tests.solids import box, less, round_bar

BIN = TESTS.parent / "demo" / "parts" / "parts-bin.step"


def body(solid):
    return meshed_bodies(triangles_of(solid), [IN_PLACE])[0]


def block(x, y, z, *size):
    return body(box(x, y, z, *size))


def table():
    """Return a plate, four posts on it, a lid on those, a block within, a tag at its right."""
    return [
        block(0, 0, 0, 100, 80, 10),
        *(block(x, y, 10, 10, 10, 40) for x in (0, 90) for y in (0, 70)),
        block(0, 0, 50, 100, 80, 5),
        block(30, 20, 10, 30, 30, 20),
        block(100, 20, 2, 4, 30, 30),
    ]


def bounds(body, by):
    points = body.triangles.reshape(-1, 3) + by
    return points.min(axis=0), points.max(axis=0)


def apart(a, b):
    """Return how far two boxes lie apart along the axis on which they do so most."""
    return max((a[0] - b[1]).max(), (b[0] - a[1]).max())


def test_parts_come_off_what_they_lie_on():
    moves = exploded(table())

    assert not moves[0].any()
    assert all(m[0] == m[1] == 0 and m[2] > 10 for m in moves[1:5])
    assert moves[5][2] > moves[1][2] + 10
    assert moves[6][2] > 10
    assert moves[7][0] > 10
    assert moves[7][1] == moves[7][2] == 0
    boxes = [bounds(b, m) for b, m in zip(table(), moves, strict=True)]
    assert all(apart(a, b) > 10 for i, a in enumerate(boxes) for b in boxes[:i])


@settings(max_examples=20)
@given(st.integers(0, 2), st.lists(st.integers(5, 40), min_size=2, max_size=6))
def test_a_pile_comes_apart_in_its_sequence(axis, layers):
    bodies, at = [], 0.0
    for thick in layers:
        size, place = [60.0, 60.0, 60.0], [0.0, 0.0, 0.0]
        size[axis], place[axis] = thick, at
        bodies.append(block(*place, *size))
        at += thick
    moves = exploded(bodies)

    boxes = [bounds(b, m) for b, m in zip(bodies, moves, strict=True)]
    assert all(above[0][axis] - below[1][axis] > 1 for below, above in pairwise(boxes))
    assert not np.delete(moves, axis, axis=1).any()
    assert sum(not m.any() for m in moves) >= 1


def test_a_pin_is_drawn_out_of_its_hole_and_not_through_the_metal():
    plate = body(less(box(0, 0, 0, 60, 60, 8), round_bar((30, 30, -1), (0, 0, 1), 5, 10)))
    pin = body(round_bar((30, 30, -6), (0, 0, 1), 4.9, 20))

    _, move = exploded([plate, pin])

    assert move[0] == move[1] == 0
    assert abs(move[2]) > 14


def test_folded_parts_come_out_of_each_other_as_they_went_in():
    components = [
        Component(name=r.part.name, quantity=r.quantity, bodies=placed_bodies(r.part, r.places))
        for r in read_parts(BIN).parts
    ]
    moves = iter(exploded([b for c in components for b in c.bodies]))
    far = {c.name: [next(moves) for _ in c.bodies] for c in components}

    assert [(c.name, c.quantity) for c in components] == [
        ("Bin", 1), ("Divider", 3), ("Bin lid", 1), ("Handle", 2)
    ]  # fmt: skip
    # Nothing goes sideways through a wall, nor down through the bottom.
    assert all(m[0] == m[1] == 0 and m[2] >= 0 for ways in far.values() for m in ways)
    (bin_,), dividers, (lid,), handles = far.values()
    assert not bin_.any()
    assert all(10 < d[2] < lid[2] for d in dividers)
    assert all(h[2] > lid[2] for h in handles)
    drawing = draw_assembly(components, Title(part="Parts bin"))
    assert assembly_differences(drawing, components, MILLIMETRE) == []
    assert len(drawing.views) == 2


def test_parts_too_small_to_be_met_by_a_ray_come_off_what_they_stand_on():
    rivets = [block(200 * n + 7.3, 300 * n + 7.3, 10, 2, 2, 3) for n in range(8)]
    moves = exploded([block(0, 0, 0, 2000, 2400, 10), *rivets])

    assert not moves[0].any()
    assert all(m[0] == m[1] == 0 and m[2] > 100 for m in moves[1:])


def test_what_lies_apart_stays_where_it_is():
    moves = exploded([block(0, 0, 0, 10, 10, 10), block(50, 0, 0, 10, 10, 10)])
    assert not moves.any()
    assert [v.name for v in draw_assembly(stand(), Title(part="stand")).views] == ["Assembled"]
    assert exploded([]).shape == (0, 3)


def test_what_is_shut_in_comes_out_all_the_same():
    shell = body(less(box(0, 0, 0, 60, 60, 60), box(5, 5, 5, 50, 50, 50)))
    inner = block(20, 20, 5, 20, 20, 20)

    moves = exploded([shell, inner])

    assert apart(*(bounds(b, m) for b, m in zip((shell, inner), moves, strict=True))) > 5


def test_the_exploded_sheet_has_every_number_and_the_ways_parts_go():
    posts = Component(name="post", quantity=4, bodies=tuple(table()[1:5]))
    others = [Component(name=f"part {n}", quantity=1, bodies=(table()[n],)) for n in (0, 5, 6, 7)]
    drawing = draw_assembly([posts, *others], Title(part="table"))

    assert [v.name for v in drawing.views] == ["Assembled", "Exploded"]
    assert assembly_differences(drawing, [posts, *others], MILLIMETRE) == []
    assembled, page = drawing.pages
    assert any(w.text == "Exploded, not to scale" for w in page.words)
    assert {w.text for w in page.words} >= {"1", "2", "3", "4", "5", "2/2"}
    assert sum(s.pen == Pen.PATH for s in page.strokes) >= 4
    assert not any(s.pen == Pen.PATH for s in assembled.strokes)
    inside = [p for s in page.strokes for x in s.run for p in (x.start, x.end)]
    assert all(20 <= x <= page.width - 10 and 10 <= y <= page.height - 10 for x, y in inside)


@pytest.mark.parametrize("spoilt", ["number", "line", "sheet"])
def test_what_is_lost_on_the_exploded_sheet_is_told(spoilt):
    components = [Component(name=f"p{n}", quantity=1, bodies=(b,)) for n, b in enumerate(table())]
    drawing = draw_assembly(components, Title(part="table"))
    page = drawing.pages[1]
    if spoilt == "number":
        page.words[:] = [w for w in page.words if not (w.size == 3.4 and w.text == "2")]
        told = "Exploded: the numbers [1, 3, 4, 5, 6, 7, 8] stand there, the parts drawn are"
    elif spoilt == "line":
        page.strokes[:] = [s for s in page.strokes if s.pen not in (Pen.DIMENSION, Pen.MARK)]
        told = "Exploded: the number 1 points at nothing"
    else:
        drawing = replace(drawing, pages=drawing.pages[:1])
        told = "the view 'Exploded' is on no sheet"

    assert any(d.startswith(told) for d in assembly_differences(drawing, components, MILLIMETRE))
