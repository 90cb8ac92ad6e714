"""What is pressed in and out: kept in Stores, by those who may change shop data."""

import pytest

from kaigata.shop.models import Pressing

JSON = {"content_type": "application/json"}
NUT = {"name": "press nut M8", "kind": "in", "hole": 10.5, "clear": 11.0}


def listed(client):
    return {p["name"]: p for p in client.get("/api/stores").json()["pressings"]}


def test_one_is_added_changed_and_taken_out(client):
    before = listed(client)
    assert {p["kind"] for p in before.values()} == {"in", "out"}
    assert client.post("/api/stores/pressings", NUT, **JSON).status_code == 201
    kept = listed(client)["press nut M8"]
    assert {k: kept[k] for k in NUT} == NUT

    address = f"/api/stores/pressings/{kept['id']}"
    changed = client.put(address, {**NUT, "clear": 12.5}, **JSON)
    assert changed.status_code == 200
    assert listed(client)["press nut M8"]["clear"] == 12.5
    assert client.delete(address).status_code == 200
    assert listed(client) == before


def test_what_is_pressed_out_needs_no_hole(client):
    louvre = {"name": "louvre 60", "kind": "out", "clear": 35.0}
    assert client.post("/api/stores/pressings", louvre, **JSON).status_code == 201
    assert listed(client)["louvre 60"]["hole"] is None


@pytest.mark.parametrize(
    ("wrong", "status", "said"),
    [
        ({"name": "press nut M4"}, 422, "there is 'press nut M4' already"),
        ({"hole": None}, 422, "pressed into no hole"),
        ({"clear": 5.0}, 422, "its hole has a radius of 5.25"),
        ({"clear": 0}, 400, "clear"),
        ({"kind": "beside"}, 400, "kind"),
        ({"name": "  "}, 400, "name"),
    ],
)
def test_what_cannot_be_is_refused(client, wrong, status, said):
    count = Pressing.objects.count()
    answer = client.post("/api/stores/pressings", {**NUT, **wrong}, **JSON)
    assert answer.status_code == status
    assert said in answer.content.decode()
    assert Pressing.objects.count() == count
