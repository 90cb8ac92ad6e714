"""What an order says of itself, its quantities as sets and tables, and the stock as a table."""

import json

import pytest
from django.db import connection
from django.test.utils import CaptureQueriesContext

from kaigata.shop.models import Material, NestRun, OrderLine, Part, StockSheet
from kaigata.shop.services import nesting
from kaigata.shop.services.blanks import BlankChange, unfold_part
from tests.checks import PARTS
from tests.shop.test_runs import JSON, RULES


@pytest.fixture
def lines(order, put):
    put("tool-tray")
    put("pump-bracket")
    return {line.part.name: line for line in order.lines.select_related("part")}


def quantities(order):
    return dict(order.lines.values_list("part__name", "quantity"))


def test_an_order_is_changed_and_its_due_date_taken_away(client, order):
    address = f"/api/orders/{order.pk}"

    first = client.patch(address, {"due": "2027-01-15", "note": "Call before sending"}, **JSON)
    then = client.patch(address, {"due": None, "title": "Stands for the yard"}, **JSON)

    assert (first.json()["due"], first.json()["note"]) == ("2027-01-15", "Call before sending")
    assert (then.json()["due"], then.json()["note"]) == (None, "Call before sending")
    assert then.json()["title"] == "Stands for the yard"


@pytest.mark.parametrize("body", [{"due": "soon"}, {"title": ""}, {"colour": "red"}])
def test_a_change_of_an_order_that_cannot_be_is_refused(client, order, body):
    answer = client.patch(f"/api/orders/{order.pk}", body, **JSON)

    assert answer.status_code == 400
    order.refresh_from_db()
    assert order.title == "Test stands"


def test_many_parts_and_orders_take_as_many_questions_as_one(client, order, put):
    put("pump-bracket")

    def asked():
        counts = {}
        for of in ("", *(f"/{order.pk}{s}" for s in ("", "/rack", "/gauges", "/lines", "/checks"))):
            with CaptureQueriesContext(connection) as questions:
                assert client.get(f"/api/orders{of}").status_code == 200
            counts[of] = len(questions)
        return counts

    of_one = asked()
    for _ in range(2):
        put("pump-bracket")
        put("sign-plate")
    client.post("/api/orders", {"number": "T-2", "title": "Other"}, **JSON)
    client.post("/api/orders", {"number": "T-3", "title": "Another"}, **JSON)

    assert asked() == of_one


def test_an_order_keeps_its_number_to_itself(client, order):
    client.post("/api/orders", {"number": "T-2", "title": "Other"}, **JSON)

    answer = client.patch(f"/api/orders/{order.pk}", {"number": "T-2"}, **JSON)

    assert answer.status_code == 422
    assert "there is an order T-2 already" in answer.json()["detail"]


def test_sets_of_an_assembly_want_each_part_as_often_as_a_set_holds(client, order, put):
    put("stand")
    truth = json.loads((PARTS / "stand.truth.json").read_text())["parts"]
    one = {p["name"]: p["quantity"] for p in truth}
    assert quantities(order) == one
    line = order.lines.first()

    answer = client.put(f"/api/lines/{line.pk}/sets", {"sets": 7}, **JSON)

    assert quantities(order) == {name: 7 * n for name, n in one.items()}
    assert {x["name"]: x["per_set"] for x in answer.json()["lines"]} == one
    documents = Part.objects.values_list("name", "blank__document__quantity")
    assert dict(documents) == quantities(order)


def test_too_many_sets_change_nothing(client, order, put):
    put("stand")
    before = quantities(order)

    answer = client.put(f"/api/lines/{order.lines.first().pk}/sets", {"sets": 60_000}, **JSON)

    assert answer.status_code == 422
    assert quantities(order) == before


def test_a_table_of_lines_comes_out_and_goes_in_changed(client, order, lines):
    address = f"/api/orders/{order.pk}/lines"
    text = client.get(address).content.decode()
    heading = "part,quantity,material,priority,filler,mirror,thickness,file"
    assert text.splitlines()[0] == heading
    changed = text.replace("tool-tray,1,galvanised,0,no,no", "tool-tray,12,stainless,3,,yes")

    answer = client.put(address, {"text": changed, "name": "order.csv"}, **JSON)

    assert answer.status_code == 200
    assert quantities(order) == {"tool-tray": 12, "pump-bracket": 1}
    lines["tool-tray"].refresh_from_db()
    tray = lines["tool-tray"]
    assert tray.material.name == "stainless"
    assert (tray.priority, tray.is_filler, tray.may_mirror) == (3, False, True)
    assert Part.objects.get(name="tool-tray").blank.document["material"] == "stainless"


@pytest.mark.parametrize(
    ("rows", "line", "text"),
    [
        ("tool-tray,3\nfender,2", 3, "there is no part 'fender'"),
        ("tool-tray,3\npump-bracket,2.5", 3, "quantity is '2.5'"),
        ("tool-tray,0", 2, "quantity is '0'"),
        ("tool-tray,many", 2, "quantity is 'many'"),
        ("tool-tray,3\nTool-Tray,4", 3, "stands in order.csv line 2 already"),
        ("tool-tray,3,oak", 2, "there is no material 'oak'"),
        ("tool-tray,3,,10", 2, "priority is '10'"),
        ("tool-tray,3,,0.5", 2, "priority is '0.5'"),
        ("tool-tray,3,,1,perhaps", 2, "filler is 'perhaps'"),
        ("pump-bracket,3,,,,\ntool-tray,3,,1,no,X", 3, "mirror is 'X'"),
    ],
)
def test_a_wrong_line_is_told_and_nothing_is_changed(client, order, lines, rows, line, text):
    heading = "part,quantity,material,priority,filler,mirror"
    body = {"text": f"{heading}\n{rows}\n", "name": "order.csv"}

    answer = client.put(f"/api/orders/{order.pk}/lines", body, **JSON)

    assert answer.status_code == 422
    assert text in answer.json()["detail"]
    assert f"order.csv line {line}" in json.dumps(answer.json())
    assert set(quantities(order).values()) == {1}


def test_each_gauge_tells_how_far_it_has_come(client, order, lines):
    address = f"/api/orders/{order.pk}/gauges"
    assert {g["state"] for g in client.get(address).json()["gauges"]} == {"open"}
    order.nest_rules = {**RULES, "seconds": 0.3}
    order.save()
    run = nesting.start_nesting(order)
    assert {g["state"] for g in client.get(address).json()["gauges"]} == {"searching"}

    nesting.nest_parts(run.pk)

    states = client.get(address).json()["gauges"]
    assert {g["state"] for g in states} == {"nested"}
    assert sum(g["placed"] for g in states) == sum(g["pieces"] for g in states) == 2
    assert all(0 < g["utilisation"] < 1 for g in states)
    OrderLine.objects.filter(part__name="tool-tray").update(quantity=2)
    assert "stale" in {g["state"] for g in client.get(address).json()["gauges"]}


def test_how_a_part_may_be_nested_reaches_the_nest_and_makes_it_stale(client, order, lines):
    order.nest_rules = {**RULES, "seconds": 0.3}
    order.save()
    nesting.nest_parts(nesting.start_nesting(order).pk)
    at, shown = f"/api/lines/{lines['tool-tray'].pk}", f"/api/orders/{order.pk}/nest"
    rules = {"priority": 2, "is_filler": True, "may_mirror": True}

    changed = client.patch(at, rules, **JSON).json()

    assert {n: changed[n] for n in rules} == rules
    known = {p.id: p for p in nesting.order_document(order).parts}
    tray, bracket = known["tool-tray"], known["pump-bracket"]
    assert (tray.priority, tray.filler, tray.mirror) == (2, True, True)
    assert (bracket.priority, bracket.filler, bracket.mirror) == (0, False, False)
    stale = client.get(shown).json()["run"]["stale"]
    assert stale == ["nest rules of tool-tray added"]
    client.patch(at, {"priority": 0, "is_filler": False, "may_mirror": False}, **JSON)
    assert client.get(shown).json()["run"]["stale"] == []


@pytest.mark.parametrize(
    "body", [{"priority": 10}, {"priority": -1}, {"priority": 1.5}, {"may_mirror": "perhaps"}]
)
def test_a_rule_no_nest_knows_is_refused(client, lines, body):
    line = lines["tool-tray"]

    answer = client.patch(f"/api/lines/{line.pk}", body, **JSON)

    assert answer.status_code == 400
    line.refresh_from_db()
    assert (line.priority, line.may_mirror) == (0, False)


def test_copies_of_a_filler_are_not_missed(client, order, lines):
    line = lines["pump-bracket"]
    client.patch(f"/api/lines/{line.pk}", {"quantity": 2000, "is_filler": True}, **JSON)
    order.nest_rules = {**RULES, "seconds": 0.3}
    order.save()

    nesting.nest_parts(nesting.start_nesting(order).pk)

    shown = client.get(f"/api/orders/{order.pk}/nest").json()
    left = {u["part"]: u for u in shown["unplaced"]}
    assert left["pump-bracket"]["quantity"] > 1000
    assert left["pump-bracket"]["why"].startswith("a filler")
    assert shown["alternatives"][0]["left_out"] == shown["history"][-1]["left_out"] == 0
    gauges = client.get(f"/api/orders/{order.pk}/gauges").json()["gauges"]
    assert "short" not in {g["state"] for g in gauges}


def test_grain_follows_the_sheet(order, lines):
    unfold_part(Part.objects.get(name="tool-tray"), BlankChange(grain="along"))
    gauge = lines["tool-tray"].part.thickness, lines["tool-tray"].material
    sheets = StockSheet.objects.filter(thickness=gauge[0], material=gauge[1])
    turns = {}
    for grain in (0, 90):
        sheets.update(grain=grain)
        document = nesting.order_document(order)
        turns[grain] = next(p.turns for p in document.parts if p.id == "tool-tray")

    assert turns == {0: [0, 180], 90: [90, 270]}


def test_any_turn_holds_for_parts_whose_grain_does_not_matter(order, lines):
    unfold_part(Part.objects.get(name="tool-tray"), BlankChange(grain="along"))
    order.nest_rules = {**RULES, "any_turn": True}

    turns = {p.id: p.turns for p in nesting.order_document(order).parts}

    assert turns == {"tool-tray": [0, 180], "pump-bracket": "any"}


def test_sheets_with_grain_both_ways_are_refused_for_a_part_that_minds(client, order, lines):
    unfold_part(Part.objects.get(name="tool-tray"), BlankChange(grain="across"))
    line = lines["tool-tray"]
    sheet = StockSheet.objects.filter(material=line.material).first()
    StockSheet.objects.create(
        name="crosswise", material=line.material, thickness=line.part.thickness, width=2000,
        height=1000, count=1, grain=90 - sheet.grain,
    )  # fmt: skip

    answer = client.post(f"/api/orders/{order.pk}/nest", RULES, **JSON)

    assert answer.status_code == 422
    assert "grain of tool-tray matters" in answer.json()["detail"]
    assert not NestRun.objects.exists()


def test_the_stock_comes_as_a_table_and_goes_in_changed(client, shop):
    address = "/api/stores/tables/stock"
    before = client.get(address).content.decode()
    metal = Material.objects.first().name
    rows = before + f"corner,{metal},1.5,400,300,1,12.5,90,0 0; 400 0; 400 100; 0 300\n"

    answer = client.put(address, {"text": rows, "name": "stock.csv"}, **JSON)

    assert answer.status_code == 200
    made = next(s for s in answer.json()["sheets"] if s["name"] == "corner")
    assert (made["cost"], made["grain"], made["is_remnant"]) == (12.5, 90, True)
    assert StockSheet.objects.count() == before.count("\n")
    assert client.get(address).content.decode().count("0 0; 400 0; 400 100; 0 300") == 1


@pytest.mark.parametrize(
    ("row", "text"),
    [
        ("a,galvanised,1.5,2500,1250,two,,,", "count is 'two'"),
        ("a,galvanised,1.5,2500,1250,1.5,,,", "count is '1.5'"),
        ("a,oak,1.5,2500,1250,1,,,", "there is no material oak"),
        ("a,galvanised,1.5,0,1250,1,,,", "width is 0"),
        ("a,galvanised,1.5,400,300,1,,,0 0; 400 0; 500 300", "the outline reaches"),
        ("a,galvanised,1.5,400,300,1,,,0 0; 400 300; 400 0; 0 300", "crosses itself"),
        ("a,galvanised,1.5,400,300,1,,,0 0; 400 0; 400 nan", "outline is no contour"),
        ("a,galvanised,1.5,400,300,1,,45,", "grain is '45'"),
        ("a,galvanised,1.5,400,300,1,-3,,", "cost is -3"),
        (" first ,galvanised,1.5,400,300,1,,,", "'first' stands in stock.csv line 2 already"),
        (",galvanised,1.5,400,300,1,,,", "the name is empty"),
    ],
)
def test_a_wrong_line_of_stock_is_told_and_changes_nothing(client, shop, row, text):
    before = list(StockSheet.objects.values_list("name", "count"))
    good = "first,galvanised,1.5,2500,1250,4,,,"
    heading = "name,material,thickness,width,height,count,cost,grain,outline"
    body = {"text": f"{heading}\n{good}\n{row}\n", "name": "stock.csv"}

    answer = client.put("/api/stores/tables/stock", body, **JSON)

    assert answer.status_code == 422
    assert text in answer.json()["detail"]
    assert "stock.csv line 3" in json.dumps(answer.json())
    assert list(StockSheet.objects.values_list("name", "count")) == before


@pytest.mark.parametrize(
    ("outline", "status"),
    [
        ([[0, 0], [400, 0]], 400),
        ([[0], [400], [300]], 400),
        ([[0, 0], [400, 0], [400, 300, 0, 0]], 400),
        ([[0, 0], [400, 0], [0, 301]], 422),
        ([[0, 0], [400, 300], [400, 0], [0, 300]], 422),
    ],
    ids=["two corners", "no points", "too many numbers", "beyond the sheet", "crossing itself"],
)
def test_a_remnant_whose_outline_is_none_is_refused(client, shop, outline, status):
    body = {"name": "corner", "material": "galvanised", "thickness": 1.5, "width": 400,
            "height": 300, "outline": outline}  # fmt: skip

    answer = client.post("/api/stores/sheets", body, **JSON)

    assert answer.status_code == status
    assert "outline" in json.dumps(answer.json())
    assert not StockSheet.objects.filter(name="corner").exists()
