"""Nests changed by hand, gone on with, chosen among and released, over HTTP."""

import json
import math
from concurrent.futures import ThreadPoolExecutor

import pytest
from django.db import connection, connections

from kaigata.core.errors import InputError
from kaigata.core.formats.documents import OrderDocument
from kaigata.shop.models import Material, Nest, NestRun, Order, StockSheet
from kaigata.shop.services import nesting, stock
from kaigata.shop.services.order_inputs import OrderInputs
from tests.checks import checked
from tests.shop.test_runs import JSON, RULES

PARTS = {"gusset": [[0, 0], [180, 0], [180, 40], [40, 160], [0, 160]],
         "strap": [[0, 0], [260, 0], [260, 50], [0, 50]]}  # fmt: skip


def run_of(order, spacing=6.0, *, mirror=False):
    """A finished search of an order, its nest found by the engine itself."""
    sheet = StockSheet.objects.get(name="hand-1200x600")
    document = OrderDocument.model_validate({
        "name": "by hand", "spacing": spacing, "margin": 10.0,
        "sheets": [{"id": sheet.name, "width": 1200, "height": 600, "count": sheet.count,
                    "thickness": 1.5, "material": "galvanised", "cost": sheet.cost}],
        "parts": [{"id": name, "quantity": 6, "outer": outer, "turns": [0, 90, 180, 270],
                   "mirror": mirror, "thickness": 1.5, "material": "galvanised"}
                  for name, outer in PARTS.items()],
    })  # fmt: skip
    order.nest_rules = {**RULES, "seconds": 0.3}
    order.save()
    run = NestRun.objects.create(
        order=order, inputs=OrderInputs.of(order).nest, settings={"order": document.model_dump()}
    )
    nesting.nest_parts(run.pk)
    run.refresh_from_db()
    return run


@pytest.fixture
def nested(order):
    StockSheet.objects.create(
        name="hand-1200x600", material=Material.objects.get(name="galvanised"),
        thickness=1.5, width=1200, height=600, count=3, cost=60.0,
    )  # fmt: skip
    run_of(order)
    return order


@pytest.fixture
def shown(client, nested):
    return client.get(f"/api/orders/{nested.pk}/nest").json()


def put(client, shown, sheets, locked=(), *, seen=None):
    seen = seen or Nest.objects.get(pk=shown["nest"]).digest
    body = {"seen": seen, "sheets": sheets, "locked": list(locked)}
    return client.put(f"/api/nests/{shown['nest']}/sheets", body, **JSON)


def moved(shown, by=(0.0, 0.0)):
    """The sheets with the first placement of the first sheet moved."""
    sheets = json.loads(json.dumps(shown["sheets"]))
    sheets[0]["placements"][0]["x"] += by[0]
    sheets[0]["placements"][0]["y"] += by[1]
    return sheets


def judged(nest, tmp_path):
    document = Nest.objects.get(pk=nest).document
    (tmp_path / "order.json").write_text(json.dumps(document["order"]))
    (tmp_path / "nest.json").write_text(json.dumps(document))
    return checked("nest_check.py", tmp_path / "order.json", tmp_path / "nest.json")


@pytest.mark.parametrize(("may", "faults"), [(True, []), (False, ["mirror"])])
def test_a_part_is_mirrored_by_hand_where_it_may_be(client, nested, tmp_path, may, faults):
    run_of(nested, mirror=may)
    shown = client.get(f"/api/orders/{nested.pk}/nest").json()
    sheets = json.loads(json.dumps(shown["sheets"]))
    strap = next(p for s in sheets for p in s["placements"] if p["part"] == "strap")

    # A strap is its own mirror image about its middle, so it goes on covering the same metal.
    turn = math.radians(strap["turn"])
    strap["mirrored"] = not strap["mirrored"]
    way = 260.0 if strap["mirrored"] else -260.0
    strap["x"] += way * math.cos(turn)
    strap["y"] += way * math.sin(turn)
    answer = put(client, shown, sheets)

    assert [p["may_mirror"] for p in shown["parts"]] == [may, may]
    assert [f["kind"] for f in answer.json()["faults"]] == faults
    assert judged(shown["nest"], tmp_path).startswith("ok" if may else "off")


def test_a_part_moved_off_the_sheet_is_marked_and_moved_back_is_sound(client, shown, tmp_path):
    answer = put(client, shown, moved(shown, (-500.0, 0.0)))

    assert answer.status_code == 200
    assert "margin" in {f["kind"] for f in answer.json()["faults"]}
    assert not judged(shown["nest"], tmp_path).startswith("ok")
    back = put(client, shown, shown["sheets"]).json()
    assert back["faults"] == []
    assert judged(shown["nest"], tmp_path).startswith("ok")


def test_who_saw_the_nest_before_it_was_changed_writes_nothing_over(client, shown):
    seen = shown["digest"]
    one = put(client, shown, moved(shown, (0.0, 20.0)), seen=seen)
    assert one.status_code == 200

    two = put(client, shown, moved(shown, (20.0, 0.0)), seen=seen)

    assert two.status_code == 409
    assert two.json()["title"] == "It has changed meanwhile"
    assert "in another window" in two.json()["detail"]
    now = client.get(f"/api/orders/{Order.objects.get().pk}/nest").json()
    assert now["digest"] == one.json()["digest"] != seen
    assert put(client, shown, moved(shown, (20.0, 0.0)), seen=now["digest"]).status_code == 200


def test_a_part_laid_on_another_is_marked_with_both(client, shown):
    sheets = json.loads(json.dumps(shown["sheets"]))
    full = next(s for s in sheets if len(s["placements"]) > 1)
    one, other = full["placements"][:2]
    one.update(x=other["x"], y=other["y"], turn=other["turn"])

    faults = put(client, shown, sheets).json()["faults"]

    both = {tuple(c) for f in faults if f["kind"] == "overlap" for c in f["placements"]}
    assert {(one["part"], one["copy"]), (other["part"], other["copy"])} <= both


def test_what_is_taken_off_lies_in_the_tray_and_is_filled_in_again(client, nested, shown, tmp_path):
    sheets = json.loads(json.dumps(shown["sheets"]))
    gone = sheets[0]["placements"].pop()
    stays = sheets[0]["placements"][0]
    answer = put(client, shown, sheets, [[stays["part"], stays["copy"]]]).json()
    assert [(u["part"], u["why"]) for u in answer["unplaced"] if u["part"] == gone["part"]] == [
        (gone["part"], "taken off by hand")
    ]

    run = client.post(f"/api/orders/{nested.pk}/nest/go-on", {"seconds": 0.3}, **JSON).json()[
        "run"
    ]["id"]
    nesting.nest_parts(run)

    after = client.get(f"/api/orders/{nested.pk}/nest").json()
    assert sum(len(s["placements"]) for s in after["sheets"]) == sum(
        len(s["placements"]) for s in shown["sheets"]
    )
    assert len(after["locked"]) == 1
    at = {(p["part"], p["copy"]): p for s in after["sheets"] for p in s["placements"]}
    kept = at[tuple(after["locked"][0])]
    assert (kept["part"], round(kept["x"], 6), round(kept["y"], 6)) == (
        stays["part"], round(stays["x"], 6), round(stays["y"], 6),
    )  # fmt: skip
    assert judged(after["nest"], tmp_path).startswith("ok")


def test_a_nest_that_breaks_rules_is_neither_gone_on_with_nor_cut_nor_released(
    client, nested, shown
):
    put(client, shown, moved(shown, (-500.0, 0.0)))

    for path in (f"orders/{nested.pk}/nest/go-on", f"orders/{nested.pk}/cut",
                 f"nests/{shown['nest']}/release"):  # fmt: skip
        answer = client.post(f"/api/{path}", {} if path.endswith("cut") else None, **JSON)
        assert "breaks rules" in answer.json()["detail"]


@pytest.mark.parametrize(
    ("change", "text"),
    [
        (lambda s: s[0].update(sheet="nothing"), "no sheet 'nothing' in the order"),
        (lambda s: s[0]["placements"][0].update(copy=99_999), "the order has no"),
        (lambda s: s[0]["placements"].append(s[0]["placements"][0]), "lies twice"),
    ],
)
def test_sheets_that_are_not_of_the_order_are_refused(client, shown, change, text):
    sheets = json.loads(json.dumps(shown["sheets"]))
    change(sheets)

    answer = put(client, shown, sheets)

    assert answer.status_code == 422
    assert text in answer.json()["detail"]


def test_alternatives_stand_side_by_side_and_one_is_chosen(client, nested, shown):
    run_of(nested, spacing=20.0)
    both = client.get(f"/api/orders/{nested.pk}/nest").json()["alternatives"]
    assert [(a["spacing"], a["is_chosen"]) for a in both] == [
        (20.0, True), (shown["spacing"], False),
    ]  # fmt: skip

    answer = client.patch(f"/api/orders/{nested.pk}/nest", {"run": both[1]["run"]}, **JSON)

    assert answer.json()["nest"] == shown["nest"]
    assert client.get(f"/api/orders/{nested.pk}/nest").json()["spacing"] == shown["spacing"]


def counts():
    return dict(StockSheet.objects.values_list("name", "count"))


def test_a_release_takes_sheets_and_gives_remnants_and_a_withdrawal_undoes_it(client, shown):
    before = counts()

    answer = client.post(f"/api/nests/{shown['nest']}/release")

    assert answer.json()["is_released"]
    after = counts()
    for sheet in {s["sheet"] for s in shown["sheets"]}:
        used = sum(s["sheet"] == sheet for s in shown["sheets"])
        assert after[sheet] == before[sheet] - used
    remnants = set(after) - set(before)
    assert all(StockSheet.objects.get(name=n).outline for n in remnants)
    refused = put(client, shown, shown["sheets"])
    assert refused.json()["detail"] == "the nest is released"
    client.delete(f"/api/nests/{shown['nest']}/release")
    assert counts() == before


def test_a_used_remnant_keeps_its_nest_from_being_withdrawn(client, shown):
    client.post(f"/api/nests/{shown['nest']}/release")
    remnants = StockSheet.objects.filter(name__contains="-", name__endswith="remnant")
    assert remnants.exists()
    remnants.update(count=0)
    before = counts()

    answer = client.delete(f"/api/nests/{shown['nest']}/release")

    assert "has been used since" in answer.json()["detail"]
    assert counts() == before


def test_sheets_that_were_taken_out_of_stores_are_not_lost_by_a_withdrawal(client, shown):
    client.post(f"/api/nests/{shown['nest']}/release")
    name = shown["sheets"][0]["sheet"]
    gone = StockSheet.objects.get(name=name)
    StockSheet.objects.filter(pk=gone.pk).delete()
    before = counts()

    answer = client.delete(f"/api/nests/{shown['nest']}/release")

    assert f"no sheet {name} in Stores any more" in answer.json()["detail"]
    assert counts() == before
    gone.count = 0
    gone.save(force_insert=True)
    assert client.delete(f"/api/nests/{shown['nest']}/release").status_code == 200
    assert counts()[name] == sum(s["sheet"] == name for s in shown["sheets"])


@pytest.mark.django_db(transaction=True)
def test_two_at_once_never_take_the_same_last_sheet(client, nested):
    first = nested.nestruns.first()
    for sheet in {s["sheet"] for s in first.nest.document["sheets"]}:
        need = sum(s["sheet"] == sheet for s in first.nest.document["sheets"])
        StockSheet.objects.filter(name=sheet).update(count=need)
    again = NestRun.objects.create(
        order=nested, state=NestRun.State.DONE, inputs=first.inputs, settings=first.settings
    )
    second = Nest.objects.create(
        run=again, document=first.nest.document, counted_area=1.0, digest="other"
    )

    def release(nest):
        try:
            stock.release(nest)
        except InputError as error:
            return error.what
        finally:
            connections.close_all()
        return "released"

    with ThreadPoolExecutor(2) as pool:
        outcomes = sorted(pool.map(release, [first.nest, second]))

    assert outcomes[0] == "released"
    assert outcomes[1].startswith("the nest needs")
    assert min(counts().values()) == 0
    connection.close()


def test_a_dead_workers_search_goes_on_from_its_last_better_answer(client, nested, monkeypatch):
    before = nested.nestruns.first()
    found = before.nest
    run = NestRun.objects.create(order=nested, inputs=before.inputs, settings=before.settings)
    Nest.objects.create(run=run, document=found.document, counted_area=1.0, digest="x")
    run.history = [{"seconds": 1.5, "utilisation": 0.5, "sheets": 1, "left_out": 0}]
    run.save()
    asked = {}
    real = nesting.search

    def search(order, **options):
        asked.update(options)
        return real(order, **{**options, "steps": 1})

    monkeypatch.setattr(nesting, "search", search)
    nesting.nest_parts(run.pk)

    assert [len(s.placements) for s in asked["start"].sheets] == [
        len(s["placements"]) for s in found.document["sheets"]
    ]
    assert asked["seconds"] == max(1.0, nesting.rules_of(nested)["seconds"] - 1.5)
    run.refresh_from_db()
    assert run.history[0]["seconds"] == 1.5
    assert run.history[-1]["seconds"] >= 1.5


def test_placements_come_as_csv_and_json(client, shown):
    rows = client.get(f"/api/nests/{shown['nest']}/files/parts.csv").content.decode().splitlines()
    document = json.loads(client.get(f"/api/nests/{shown['nest']}/files/nest.json").content)

    assert rows[0] == "sheet,stock sheet,part,copy,x,y,turn,mirrored"
    assert len(rows) - 1 == sum(len(s["placements"]) for s in shown["sheets"]) + len(
        shown["unplaced"]
    )
    assert OrderDocument.model_validate(document["order"]).parts


SHEET = {"name": "rest 7", "material": "galvanised", "thickness": 1.5, "width": 800, "height": 500,
         "count": 1}  # fmt: skip


def test_a_remnant_is_kept_priced_and_taken_out(client, nested):
    corner = [[0, 0], [800, 0], [800, 200], [300, 200], [300, 500], [0, 500]]
    answer = client.post("/api/stores/sheets", {**SHEET, "outline": corner}, **JSON)
    assert answer.status_code == 201
    kept = next(s for s in answer.json()["sheets"] if s["name"] == "rest 7")
    assert kept["is_remnant"]
    assert kept["path"].startswith("M")

    priced = client.patch(f"/api/stores/sheets/{kept['id']}", {"cost": 12.5}, **JSON).json()
    assert next(s for s in priced["sheets"] if s["name"] == "rest 7")["cost"] == 12.5
    assert next(s for s in priced["sheets"] if s["name"] == "rest 7")["count"] == 1

    left = client.delete(f"/api/stores/sheets/{kept['id']}").json()
    assert "rest 7" not in [s["name"] for s in left["sheets"]]


@pytest.mark.parametrize(
    ("change", "text"),
    [
        ({"material": "unobtainium"}, "there is no material unobtainium"),
        ({"name": "hand-1200x600"}, "there is a sheet hand-1200x600 already"),
        ({"outline": [[0, 0], [900, 0], [0, 500]]}, "the outline reaches from 0, 0 to 900, 500"),
        ({"outline": [[0, 0], [800, 500], [800, 0], [0, 400]]}, "crosses itself"),
    ],
)
def test_a_sheet_that_cannot_be_is_refused(client, nested, change, text):
    answer = client.post("/api/stores/sheets", {**SHEET, **change}, **JSON)

    assert answer.status_code == 422
    assert text in answer.json()["detail"]


def test_a_nest_costs_what_its_sheets_cost(shown):
    assert shown["cost"] == 60.0 * len(shown["sheets"])
    assert shown["mass"] == pytest.approx(
        1.2 * 0.6 * 1.5e-3 * 7850 * len(shown["sheets"]), rel=0.02
    )
