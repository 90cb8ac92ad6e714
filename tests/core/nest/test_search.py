import json
from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from kaigata.core.checked import load_document
from kaigata.core.errors import InputError, Stopped
from kaigata.core.formats.documents import OrderDocument
from kaigata.core.formats.nest_files import nest_document, order_from_document
from kaigata.core.nest import NestOrder, NestPart, StockSheet, search
from kaigata.core.nest.crew import Crew
from kaigata.core.plane import Contour, Region
from tests.checks import NEST, checked
from tests.core.nest.given import order_of


def nested(name, tmp_path, **options):
    path = NEST / f"{name}.json"
    document = load_document(path, OrderDocument)
    order = order_from_document(document, path.parent)
    nest = search(order, **options)
    out = tmp_path / "nest.json"
    out.write_text(nest_document(nest, document, order).model_dump_json(by_alias=True))
    return nest, checked("nest_check.py", path, out)


@pytest.mark.parametrize("name", ["mix-20", "mix-60", "jigsaw-gap-16", "mix-200"])
def test_nest_keeps_every_rule(name, tmp_path):
    _, line = nested(name, tmp_path, steps=1)

    assert line.startswith("ok")
    assert line.endswith("unplaced=0")


def test_once_the_time_is_over_nothing_is_made_ready_for_a_search(monkeypatch):
    monkeypatch.setattr(Crew, "give", lambda crew, benches: pytest.fail("made ready"))
    assert search(order_of("mix-60"), seconds=0.05).sheets


def tray(wide, high, flap=20, relief=4):
    """The flat of a tray: four flaps, and a relief in each corner between two of them."""
    f, g = flap, flap + relief
    corner = [(0, f), (f - 1, f), (f - 1, g), (g, g), (g, f - 1), (f, f - 1), (f, 0)]
    across = [(wide - x, y) for x, y in reversed(corner)]
    return [*corner, *across, *((wide - x, high - y) for x, y in corner),
            *((x, high - y) for x, y in reversed(corner))]  # fmt: skip


def test_many_different_parts_with_reliefs_are_nested(tmp_path):
    parts = [{"id": f"tray-{i}", "quantity": 1, "thickness": 2, "turns": [0, 90],
              "outer": tray(150 + i, 110 + 0.7 * i)} for i in range(40)]  # fmt: skip
    sheet = {"id": "s", "width": 1500, "height": 1000, "thickness": 2}
    path, out = tmp_path / "order.json", tmp_path / "nest.json"
    path.write_text(json.dumps({"spacing": 6, "margin": 10, "parts": parts, "sheets": [sheet]}))
    document = load_document(path, OrderDocument)
    order = order_from_document(document, tmp_path)

    nest = search(order, steps=2)

    out.write_text(nest_document(nest, document, order).model_dump_json(by_alias=True))
    line = checked("nest_check.py", path, out)
    assert line.startswith("ok")
    assert line.endswith("unplaced=0")


def test_remnants_gauges_and_parts_that_fit_nowhere(tmp_path):
    nest, line = nested("kits-nofit", tmp_path, steps=2)

    assert line.startswith("ok")
    assert {u.why.split(" of ")[0] for u in nest.unplaced} <= {
        "larger than every sheet",
        "no sheet",
    }
    assert nest.left_out == 8


def test_same_seed_and_steps_give_the_same_nest(tmp_path):
    one, _ = nested("mix-20", tmp_path, steps=4, seed=3)
    two, _ = nested("mix-20", tmp_path, steps=4, seed=3)

    assert one == two


def test_two_workers_find_a_sound_nest(tmp_path):
    seen = []
    nest, line = nested("mix-20", tmp_path, steps=6, workers=2, on_better=seen.append)

    assert line.startswith("ok")
    assert seen[-1].nest == nest
    assert [p.nest.utilisation for p in seen] == sorted(p.nest.utilisation for p in seen)


def part(width, height, quantity=1, name="plate", **more):
    return NestPart(
        id=name, quantity=quantity, region=Region(Contour.rectangle(width, height)), **more
    )


def order(parts, count=1, spacing=5.0, margin=10.0):
    sheet = StockSheet(id="sheet", width=1000, height=500, count=count)
    return NestOrder(sheets=(sheet,), parts=tuple(parts), spacing=spacing, margin=margin)


def test_a_higher_priority_is_never_left_out_for_a_lower_one():
    parts = [part(980, 480, name="large"), part(300, 300, name="urgent", priority=1)]

    nest = search(order(parts), steps=3)

    assert [u.part for u in nest.unplaced] == ["large"]
    assert "used up" in nest.unplaced[0].why


def test_a_part_lies_in_the_hole_of_another():
    frame = Region(
        Contour.rectangle(480, 480), (Contour.rectangle(400, 400).moved(_shift(40)).reversed(),)
    )
    ring = NestPart(id="frame", quantity=2, region=frame)
    nest = search(order([ring, part(380, 380, 2)]), steps=1)

    assert nest.left_out == 0


def _shift(by):
    from kaigata.core.plane import Motion

    return Motion(x=by, y=by)


def test_a_stop_before_the_first_nest_is_said():
    with pytest.raises(Stopped, match="before its first nest"):
        search(order([part(10, 10, 500)]), should_stop=lambda: True)


@pytest.mark.parametrize(
    ("change", "text"),
    [
        ({"spacing": 600.0}, r"\$.spacing: the spacing of 600 mm leaves no room"),
        ({"margin": 250.0}, r"margin on both sides of 500 mm leaves no room"),
        ({"parts": (part(10, 10), part(20, 20))}, "the part 'plate' stands twice"),
    ],
)
def test_unusable_orders_are_refused(change, text):
    with pytest.raises(InputError, match=text):
        search(replace(order([part(10, 10)]), **change))


def test_a_search_of_no_time_is_refused():
    with pytest.raises(InputError, match="a search of 0 s"):
        search(order([part(10, 10)]), seconds=0)


@settings(max_examples=15)
@given(
    st.lists(
        st.tuples(st.integers(20, 300), st.integers(20, 300), st.integers(1, 6)),
        min_size=1,
        max_size=5,
    ),
    st.sampled_from([0.0, 3.0, 12.0]),
)
def test_no_two_placements_overlap(tmp_path_factory, sizes, spacing):
    document = {
        "spacing": spacing, "margin": 5.0,
        "sheets": [{"id": "s", "width": 1200, "height": 700, "count": 3}],
        "parts": [
            {"id": f"p{i}", "quantity": q, "outer": [[0, 0], [w, 0], [w, h / 3], [w / 3, h]],
             "turns": [0, 90, 180, 270]}
            for i, (w, h, q) in enumerate(sizes)
        ],
    }  # fmt: skip
    folder = tmp_path_factory.mktemp("order")
    (folder / "order.json").write_text(json.dumps(document))
    checked_order = OrderDocument.model_validate(document)
    known = order_from_document(checked_order, Path())
    found = nest_document(search(known, steps=1), checked_order, known)
    (folder / "nest.json").write_text(found.model_dump_json(by_alias=True))

    assert checked("nest_check.py", folder / "order.json", folder / "nest.json").startswith("ok")


def test_a_stop_while_other_plans_are_tried_keeps_the_nest_there_is():
    looks = iter([False])

    nest = search(order_of("mix-20"), seconds=5, should_stop=lambda: next(looks, True))

    assert nest.left_out == 0
