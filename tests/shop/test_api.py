"""The HTTP interface against a real database."""

import io
import json
import re

import pytest
from django.core.management import call_command
from django.db import connection
from django.test import Client
from django.urls import get_resolver

from kaigata.shop.models import OrderLine, Part, SourceFile
from kaigata.shop.services import reading
from tests.checks import PARTS, TESTS, checked

JSON = {"content_type": "application/json"}
PROBLEM = "application/problem+json"


def addresses():
    for pattern in get_resolver().url_patterns:
        route = str(pattern.pattern)
        if route.startswith("api/") and "session" not in route:
            yield "/" + re.sub("<(str|slug):[a-z]+>", "dxf", re.sub("<int:[a-z]+>", "1", route))


@pytest.mark.parametrize("address", sorted(set(addresses())))
@pytest.mark.django_db
def test_every_address_needs_a_sign_in(address):
    answer = Client().get(address)

    assert answer.status_code in (401, 405)
    assert answer["Content-Type"] == PROBLEM


def test_a_request_without_the_token_is_refused(client, order):
    del client.defaults["HTTP_X_CSRFTOKEN"]

    answer = client.post(f"/api/orders/{order.pk}/stamps", {"station": 1}, **JSON)

    assert answer.status_code == 403
    assert "CSRF" in answer.json()["detail"]


@pytest.mark.django_db
def test_a_wrong_password_is_told_and_nothing_more(shop):
    client = Client()

    answer = client.post("/api/session", {"user": "kestrel", "password": "x"}, **JSON)

    assert answer.status_code == 401
    assert answer.json()["detail"] == "The name or the password is wrong"


def test_an_uploaded_file_becomes_a_part_once_a_worker_has_read_it(client, order):
    file = io.BytesIO((PARTS / "tool-tray.step").read_bytes())
    file.name = "tool-tray.step"

    answer = client.post(f"/api/orders/{order.pk}/files", {"file": file})

    assert answer.status_code == 201
    assert answer.json()["state"] == "reading"
    with connection.cursor() as cursor:
        # It waits: nobody has taken it up, ended it or called it off.
        cursor.execute(
            "SELECT task_name, status NOT IN ('doing', 'succeeded', 'failed', 'cancelled', "
            "'aborting', 'aborted') FROM procrastinate_jobs"
        )
        assert cursor.fetchall() == [("read part", True)]
    reading.read_part(answer.json()["part"], "tool-tray.step")
    line = client.get(f"/api/orders/{order.pk}/rack").json()["lines"][0]
    truth = json.loads((PARTS / "tool-tray.truth.json").read_text())["parts"][0]["flats"]["0.44"]
    assert (line["state"], line["thickness"]) == ("ready", 1.5)
    assert line["width"] == pytest.approx(truth["bbox"]["width"], abs=1e-6)


def test_an_assembly_becomes_its_parts_with_quantities(put, order):
    put("stand")

    found = sorted((x.part.name, x.quantity) for x in order.lines.all())
    assert found == [("base-foot", 4), ("hanger-arm", 2), ("tool-tray", 1)]


def test_a_bad_file_becomes_a_refused_part_with_what_where_and_fix(order, client):
    line = reading.put_on_rack(order, "photo.step", b"\xff\xd8\xff\xe0 not a solid")
    reading.read_part(line.part.pk, "photo.step")

    shown = client.get(f"/api/orders/{order.pk}/rack").json()["lines"][0]

    assert shown["state"] == "refused"
    assert "does not begin as a STEP file" in shown["what"]
    assert shown["where"] == "photo.step"
    assert shown["fix"]


def test_a_file_over_the_limit_is_refused_and_not_kept(client, order, settings):
    settings.FILE_LIMIT = 1000
    file = io.BytesIO(bytes(2000))
    file.name = "large.step"

    answer = client.post(f"/api/orders/{order.pk}/files", {"file": file})

    assert answer.status_code == 413
    assert answer.json()["fix"] == "Export the part alone"
    assert not SourceFile.objects.exists()


def test_the_same_file_is_kept_once(order):
    for name in ("a.step", "b.step"):
        reading.put_on_rack(order, name, b"the same")

    assert SourceFile.objects.count() == 1


def test_the_same_file_dropped_twice_gives_two_names(put, order):
    put("hose-clip")
    put("hose-clip")

    assert sorted(x.part.name for x in order.lines.all()) == ["hose-clip", "hose-clip 2"]


def test_the_blank_follows_k_anchor_side_and_turn(client, put, change):
    part = put("hanger-arm")
    before = client.get(f"/api/parts/{part.pk}/blank").json()

    after = change(part, own_k=0.33, is_turned_over=True, turn=90)

    assert {b["k"] for b in after["bends"]} == {0.33}
    assert {b["origin"] for b in after["bends"]} == {"this part: one K, typed"}
    assert sorted(b["direction"] for b in after["bends"]) != sorted(
        b["direction"] for b in before["bends"]
    )
    assert after["height"] < before["width"]
    assert after["state"] != before["state"]
    assert change(part, own_k=None, is_turned_over=False, turn=0) == before


def test_who_saw_the_blank_before_it_was_changed_writes_nothing_over(client, put, change):
    part = put("hanger-arm")
    seen = client.get(f"/api/parts/{part.pk}/blank").json()
    turned = change(part, seen=seen["state"], is_turned_over=True)

    # The bends have other numbers now: the second window means another bend 1.
    refused = change(part, seen=seen["state"], status=409, bend=1, bend_radius=4.0)

    assert refused["title"] == "It has changed meanwhile"
    assert "in another window" in refused["detail"]
    assert client.get(f"/api/parts/{part.pk}/blank").json() == turned
    assert change(part, seen=turned["state"], bend=1, bend_radius=4.0)["bend_rules"]


def test_another_material_or_number_of_copies_is_no_other_state(client, put):
    part = put("tool-tray")
    address = f"/api/parts/{part.pk}/blank"
    before = client.get(address).json()["state"]

    client.patch(f"/api/lines/{part.line.pk}", {"quantity": 9, "name": "Tray"}, **JSON)

    assert client.get(address).json()["state"] == before


def test_the_downloaded_files_agree_with_the_truth(client, put, change, tmp_path):
    part = put("tool-tray")
    change(part, own_k=0.44)
    files = {}
    for kind in ("dxf", "json", "csv"):
        files[kind] = client.get(f"/api/parts/{part.pk}/files/{kind}")
        (tmp_path / f"tray.{kind}").write_bytes(files[kind].content)

    assert 'filename="tool-tray.bends.csv"' in files["csv"]["Content-Disposition"]
    truth = PARTS / "tool-tray.truth.json"
    assert checked("blank_check.py", truth, tmp_path / "tray.json").startswith("ok")
    line = checked("dxf_check.py", tmp_path / "tray.dxf", "--blank", tmp_path / "tray.json")
    assert line.startswith("ok")


@pytest.mark.parametrize(
    ("body", "status", "said"),
    [
        ({"own_k": 3}, 400, "own_k"),
        ({"anchor": 99}, 422, "no panel 99"),
        ({"sequence": [1, 1, 2]}, 422, "is not each of the 3 bends once"),
        ({"colour": "red"}, 400, "colour"),
    ],
)
def test_bad_changes_are_problems_and_change_nothing(client, put, body, status, said):
    part = put("hanger-arm")
    before = client.get(f"/api/parts/{part.pk}/blank").json()

    body = {**body, "seen": before["state"]}
    answer = client.patch(f"/api/parts/{part.pk}/blank", body, **JSON)

    assert answer.status_code == status
    assert answer["Content-Type"] == PROBLEM
    assert said in json.dumps(answer.json())
    assert client.get(f"/api/parts/{part.pk}/blank").json() == before


def test_a_line_can_be_renamed_counted_and_taken_out(client, put, order):
    part = put("sign-plate")
    address = f"/api/lines/{part.line.pk}"

    changed = client.patch(address, {"name": "Sign", "quantity": 7}, **JSON).json()

    assert (changed["name"], changed["quantity"]) == ("Sign", 7)
    assert (
        client.patch(address, {"quantity": 0}, **JSON).json()["errors"][0]["pointer"]
        == "#/quantity"
    )
    assert client.delete(address).status_code == 204
    assert not OrderLine.objects.exists()
    assert not Part.objects.exists()


def test_two_parts_of_an_order_cannot_have_one_name(client, put):
    put("sign-plate")
    other = put("hose-clip")

    answer = client.patch(f"/api/lines/{other.line.pk}", {"name": "sign-plate"}, **JSON)

    assert answer.status_code == 422
    assert "has a part 'sign-plate' already" in answer.json()["detail"]


def test_find_knows_orders_parts_and_sheets(client, put):
    put("tool-tray")

    kinds = {q: [f["kind"] for f in client.get("/api/find", {"q": q}).json()["found"]]
             for q in ("T-1", "tray", "R-17")}  # fmt: skip

    assert kinds == {"T-1": ["order"], "tray": ["part"], "R-17": ["sheet"]}


def test_the_checked_in_schema_is_the_servers(tmp_path):
    written = tmp_path / "schema.json"
    call_command("spectacular", format="openapi-json", file=str(written), validate=True,
                 fail_on_warn=True)  # fmt: skip

    kept = TESTS.parent / "web" / "src" / "api" / "schema.json"
    assert json.loads(written.read_text()) == json.loads(kept.read_text())


def test_every_operation_declares_the_problem_body():
    schema = json.loads((TESTS.parent / "web" / "src" / "api" / "schema.json").read_text())

    for operations in schema["paths"].values():
        for operation in operations.values():
            body = operation["responses"]["default"]["content"]
            assert body == {PROBLEM: {"schema": {"$ref": "#/components/schemas/Problem"}}}
