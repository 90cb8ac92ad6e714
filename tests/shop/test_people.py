"""Who may do what, and the trail of who did it."""

import re

import pytest
from django.contrib.auth import get_user_model
from django.test import Client
from django.urls import get_resolver

from kaigata.shop.models import Deed
from kaigata.shop.services.people import RIGHTS, add_person, rights_of

JSON = {"content_type": "application/json"}
CHANGING = ("post", "put", "patch", "delete")


@pytest.fixture
def as_person(client, db):
    """Sign somebody in who has some rights."""

    def signed_in(*rights, user="wren"):
        add_person(user=user, name="B. Wren", password="spoke-and-rim-9", rights=rights)
        other = Client()
        assert other.login(username=user, password="spoke-and-rim-9")
        return other

    return signed_in


def changes():
    """Yield each change the interface knows, as method, address and the right it should need."""
    for pattern in get_resolver().url_patterns:
        route, view = str(pattern.pattern), getattr(pattern.callback, "view_class", None)
        if not route.startswith("api/") or view is None or "session" in route:
            continue
        if getattr(view, "right", "plan") is None:
            # It only has something made to be looked at.
            continue
        address = "/" + re.sub(r"<\w+:\w+>", "1", route)
        for method in CHANGING:
            if hasattr(view, method):
                yield method, address, _right_for(route)


def _right_for(route):
    if route.startswith("api/stores"):
        return "stores"
    if route.startswith("api/people"):
        return "people"
    released = ("nests/<int:nest>/release", "orders/<int:order>/packet", "checks/<slug:name>")
    return "release" if route.endswith(released) else "plan"


@pytest.mark.parametrize(("method", "address", "right"), sorted(set(changes())))
def test_every_change_needs_its_right_and_no_other(as_person, method, address, right):
    without = as_person(*(r for r in RIGHTS if r != right))
    having = as_person(right, user="finch")

    refused = getattr(without, method)(address, {}, **JSON)
    let = getattr(having, method)(address, {}, **JSON)

    assert refused.status_code == 403
    body = refused.json()
    assert body["detail"] == f"B. Wren may not {RIGHTS[right]}"
    assert body["fix"].startswith("Ask ")
    assert "A. Kestrel" in body["fix"]
    # What it answers is the view's own matter: there is no such order, or the body is no good.
    assert let.status_code != 403


def test_everybody_may_look(as_person, put, order):
    part = put("pump-bracket")
    looking = as_person()

    for address in (
        "/api/orders", f"/api/orders/{order.pk}/rack", f"/api/parts/{part.pk}/blank",
        f"/api/parts/{part.pk}/drawing", "/api/stores", "/api/people", "/api/trail",
        f"/api/orders/{order.pk}/checks",
    ):  # fmt: skip
        assert looking.get(address).status_code == 200
    assert looking.get("/api/session").json()["rights"] == []


def test_somebody_is_let_in_and_their_rights_are_changed(client):
    body = {"user": "wren", "name": "Bo Wren", "password": "spoke-and-rim-9", "rights": ["plan"]}

    added = client.post("/api/people", body, **JSON)

    assert added.status_code == 201
    (wren,) = [p for p in added.json()["people"] if p["user"] == "wren"]
    assert (wren["name"], wren["initials"], wren["rights"]) == ("Bo Wren", "B.W.", ["plan"])
    assert client.get("/api/trail").json()["deeds"][0]["about"] == "wren"
    person = get_user_model().objects.get(username="wren")
    assert person.check_password("spoke-and-rim-9")

    client.patch(f"/api/people/{wren['id']}", {"rights": ["stores", "release"]}, **JSON)
    assert rights_of(person) == ["release", "stores"]
    client.patch(f"/api/people/{wren['id']}", {"is_active": False}, **JSON)
    assert not Client().login(username="wren", password="spoke-and-rim-9")


@pytest.mark.parametrize(
    ("body", "status", "text"),
    [
        ({"user": "KESTREL", "name": "X", "password": "spoke-and-rim-9"}, 422, "signs in as"),
        ({"user": "wren", "name": "X", "password": "1234"}, 422, "too short"),
        ({"user": "wren", "name": "X", "password": "password"}, 422, "too common"),
        ({"user": "a b", "name": "X", "password": "spoke-and-rim-9"}, 400, "user"),
        ({"user": "wren", "name": "X", "password": "spoke-and-rim-9", "rights": ["fly"]}, 400,
         "rights"),
    ],
)  # fmt: skip
def test_nobody_is_let_in_by_half(client, body, status, text):
    answer = client.post("/api/people", body, **JSON)

    assert answer.status_code == status
    assert text in answer.json()["detail"]
    assert get_user_model().objects.count() == 1


def test_somebody_stays_who_may_say_who_may_do_what(client):
    kestrel = get_user_model().objects.get(username="kestrel")

    for change in ({"rights": ["plan"]}, {"is_active": False}):
        answer = client.patch(f"/api/people/{kestrel.pk}", change, **JSON)
        assert answer.status_code == 422
        assert "nobody would be left" in answer.json()["detail"]
    kestrel.refresh_from_db()
    assert kestrel.is_active
    assert "people" in rights_of(kestrel)


def test_what_is_done_leaves_a_trail_and_what_fails_leaves_none(client, put, order):
    part = put("tool-tray")
    client.patch(f"/api/lines/{part.line.pk}", {"quantity": 7}, **JSON)
    client.patch(f"/api/lines/{part.line.pk}", {"quantity": -1}, **JSON)
    client.get(f"/api/parts/{part.pk}/blank")
    client.delete(f"/api/lines/{part.line.pk}")

    deeds = client.get(f"/api/trail?order={order.pk}").json()["deeds"]

    assert [(d["what"], d["about"], d["by"], d["order_number"]) for d in deeds] == [
        ("Take a part out of its order", "tool-tray", "A. Kestrel", "T-1"),
        ("Change quantity, name or material of a line, and how its part may be nested",
         "tool-tray", "A. Kestrel", "T-1"),
    ]  # fmt: skip


def test_the_trail_of_an_order_stays_when_the_order_is_gone(client, put, order):
    put("pump-bracket")
    client.post(f"/api/orders/{order.pk}/stamps", {"station": 1}, **JSON)
    client.patch(f"/api/orders/{order.pk}", {"note": "hurry"}, **JSON)
    number = order.number
    order.delete()

    deeds = client.get("/api/trail").json()["deeds"]

    assert deeds[1]["about"] == "Part"
    assert deeds[0]["order_number"] == number
    assert deeds[0]["order"] is None
    assert Deed.objects.filter(order_number=number).exists()


def test_shop_data_leave_a_trail_of_no_order(client):
    machine = client.get("/api/stores").json()["machines"][0]

    answer = client.delete(f"/api/stores/machines/{machine['id']}")

    assert answer.status_code == 200, answer.json()
    (deed,) = client.get("/api/trail").json()["deeds"]
    assert deed["order"] is None
    assert deed["about"] == machine["name"]
