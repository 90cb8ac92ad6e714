"""Paths of an order over HTTP: by hand, by every process, by posts of the shop's own."""

import importlib
import json

import pytest
from django.apps import apps

from kaigata.core.cut import find_post, standard_posts
from kaigata.shop.models import CutRun, Machine, Post, Program
from kaigata.shop.services import cutting, nesting
from kaigata.shop.services.machines import known_posts
from tests.shop.test_runs import JSON, RULES

PLAIN = {"name": "own-plain", "title": "Our own", "beam_on": "M7", "beam_off": "M8"}


@pytest.fixture
def nested(client, put, order):
    put("tool-tray", 2)
    put("sign-plate", 1)
    answer = client.post(f"/api/orders/{order.pk}/nest", RULES, **JSON)
    nesting.nest_parts(answer.json()["run"]["id"])
    return order


@pytest.fixture
def cut(client, nested):
    """Cut an order by some wishes, as a worker would, and return what the page is shown."""

    def plan(**wishes):
        client.post(f"/api/orders/{nested.pk}/cut", wishes, **JSON)
        work()
        return client.get(f"/api/orders/{nested.pk}/cut").json()

    return plan


def work():
    for run in CutRun.objects.filter(state=CutRun.State.QUEUED).order_by("pk"):
        cutting.cut_order(run.pk)


def keys(shown, sheet=0):
    runs = shown["programs"][sheet]["passes"]
    return [[r["part"], r["copy"], r["name"]] for r in runs if r["kind"] == "cut"]


def by_hand(client, known, /, **body):
    return client.put(f"/api/orders/{known.pk}/cut/by-hand", body, **JSON)


def test_an_order_of_contours_made_by_hand_is_kept_and_taken_back(client, nested, cut):
    found = keys(cut())
    wanted = sorted(found, key=lambda k: (k[2] == "outer", found.index(k)))
    assert wanted != found

    assert by_hand(client, nested, sheet=1, order=wanted).status_code == 202
    work()
    shown = client.get(f"/api/orders/{nested.pk}/cut").json()
    assert keys(shown) == wanted
    assert shown["run"]["stale"] == []
    assert shown["by_hand"] == [{"sheet": 1, "order": wanted, "pierces": []}]

    by_hand(client, nested, sheet=1)
    work()
    assert keys(client.get(f"/api/orders/{nested.pk}/cut").json()) == found


def test_a_pierce_is_moved_to_where_a_hand_puts_it(client, nested, cut):
    shown = cut()
    outer = next(r for r in shown["programs"][0]["passes"] if r["name"] == "outer")
    x, y = outer["pierce"]
    key = [outer["part"], outer["copy"], outer["name"]]

    by_hand(client, nested, sheet=1, pierces=[[*key, x + 300, y + 40]])
    work()

    after = client.get(f"/api/orders/{nested.pk}/cut").json()
    moved = next(r for r in after["programs"][0]["passes"]
                 if [r["part"], r["copy"], r["name"]] == key)  # fmt: skip
    assert moved["pierce"] != outer["pierce"]
    assert after["sheets"][0]["proof"]["ok"]


def test_a_locked_pierce_stays_where_it_is(client, nested, cut):
    shown = cut()
    outer = next(r for r in shown["programs"][0]["passes"] if r["name"] == "outer")
    key = [outer["part"], outer["copy"], outer["name"]]

    by_hand(client, nested, sheet=1, pierces=[[*key, *outer["entry"]]])
    work()

    after = client.get(f"/api/orders/{nested.pk}/cut").json()["programs"][0]["passes"]
    kept = next(r for r in after if [r["part"], r["copy"], r["name"]] == key)
    assert kept["pierce"] == pytest.approx(outer["pierce"], abs=1e-6)
    assert kept["entry"] == pytest.approx(outer["entry"], abs=1e-6)


def test_an_order_that_breaks_precedence_fails_openly_and_keeps_the_old_paths(client, nested, cut):
    found = keys(cut())
    wrong = sorted(found, key=lambda k: k[2] != "outer")

    by_hand(client, nested, sheet=1, order=wrong)
    work()

    shown = client.get(f"/api/orders/{nested.pk}/cut").json()
    assert shown["run"]["state"] == "failed"
    assert "must be cut before" in shown["run"]["what"]
    assert keys(shown) == found


def test_a_sheet_that_is_not_there_is_refused(client, nested, cut):
    cut()
    answer = by_hand(client, nested, sheet=9)

    assert answer.status_code == 422
    assert "no sheet 9" in answer.json()["detail"]


def test_a_sheet_is_not_planned_again_when_nothing_it_rests_on_changed(client, nested, cut):
    first = cut()
    made = Program.objects.get(run=first["run"]["id"], number=1)
    again = cut()
    finer = cut(kerf=0.3)

    copied = Program.objects.get(run=again["run"]["id"], number=1)
    assert copied.pk != made.pk
    assert (copied.made_from, copied.text) == (made.made_from, made.text)
    other = Program.objects.get(run=finer["run"]["id"], number=1)
    assert other.made_from != made.made_from


def test_processes_stand_side_by_side_and_one_is_chosen(client, nested, cut):
    cut()
    answer = client.post(f"/api/orders/{nested.pk}/cut/compare")
    assert answer.status_code == 202
    work()

    shown = client.get(f"/api/orders/{nested.pk}/cut").json()
    figures = {p["process"]: p for p in shown["processes"]}
    assert set(figures) == {"laser", "plasma", "waterjet"}
    assert [p for p in figures if figures[p]["is_shown"]] == ["laser"]
    assert figures["waterjet"]["seconds"] > figures["laser"]["seconds"] > 0

    choice = {**shown["choice"], "process": "plasma"}
    chosen = client.patch(f"/api/orders/{nested.pk}/cut", choice, **JSON).json()
    assert chosen["run"]["state"] == "done"
    assert chosen["sheets"][0]["kerf"] == figures["plasma"]["kerfs"][0]


def test_marks_and_scrap_cuts_are_drawn_apart_from_contours(client, nested, cut):
    shown = cut(marking={"numbers": True, "directions": True, "bends": "ticks"}, skeleton=300)

    kinds = {r["kind"] for p in shown["programs"] for r in p["passes"]}
    assert kinds == {"mark", "cut", "scrap"}
    assert shown["sheets"][0]["mark_length"] > 0
    assert shown["sheets"][0]["skeleton"]


def test_a_sheet_without_a_program_is_neither_stamped_nor_packed(client, nested, cut):
    # No hole or slot of the tray is as wide as this kerf, and G42 fits into none of its corners.
    shown = cut(post="machine-kerf", kerf=6)

    codes = {f["code"] for f in shown["findings"]}
    assert "program-withheld" in codes
    assert [p["number"] for p in shown["programs"]] == [2]
    stamped = client.post(f"/api/orders/{nested.pk}/stamps", {"station": 5}, **JSON)
    packed = client.post(f"/api/orders/{nested.pk}/packet")
    assert stamped.status_code == 422
    assert packed.status_code == 422
    assert "not given out" in packed.json()["detail"]


def test_a_post_of_the_shops_own_is_kept_tried_out_and_used(client, nested, cut):
    answer = client.put("/api/stores/posts", {"post": PLAIN}, **JSON)
    assert answer.status_code == 200
    posts = {p["post"]["name"]: p["origin"] for p in answer.json()["posts"]}
    assert posts["own-plain"] == "own"
    assert posts["plain"] == "standard"

    shown = cut(post="own-plain")
    files = f"/api/programs/{shown['programs'][0]['id']}/files"
    text = client.get(f"{files}/nc").content.decode()
    assert client.get(f"{files}/txt").status_code == 404
    assert "\nM7\n" in text
    assert "\nM3\n" not in text

    changed = {**PLAIN, "zero": "upper-right"}
    client.put("/api/stores/posts", {"post": changed}, **JSON)
    assert client.get(f"/api/orders/{nested.pk}/cut").json()["run"]["stale"] == ["post changed"]


@pytest.mark.parametrize(
    ("change", "text"),
    [
        ({"units": "ell"}, "units"),
        ({"beam_on": "burn"}, "beam_on"),
        ({"header": ["{colour}"]}, "is not known"),
        ({"header": ["G0 X1 ?"]}, "cannot read"),
        ({"beam_off": "M3"}, "trial program"),
        ({"header": ["M7"]}, "trial program"),
    ],
)
def test_a_post_that_would_not_work_is_refused(client, change, text):
    answer = client.put("/api/stores/posts", {"post": {**PLAIN, **change}}, **JSON)

    assert answer.status_code == 422
    assert text in json.dumps(answer.json())
    assert not Post.objects.exists()


def test_a_changed_standard_post_comes_back_as_it_came(client, shop):
    plain = next(p for p in standard_posts() if p.name == "plain").model_dump(mode="json")
    client.put("/api/stores/posts", {"post": {**plain, "line_step": 5}}, **JSON)
    shown = client.get("/api/stores").json()["posts"]
    assert next(p for p in shown if p["post"]["name"] == "plain")["origin"] == "changed"

    after = client.delete("/api/stores/posts/plain").json()["posts"]
    assert next(p for p in after if p["post"]["name"] == "plain")["origin"] == "standard"
    assert client.delete("/api/stores/posts/plain").status_code == 422


def test_machines_are_added_changed_and_taken_out(client):
    asked = {"name": "Laser 9", "process": "laser", "post": "plain", "width": 4000, "height": 2000}
    assert client.post("/api/stores/machines", asked, **JSON).status_code == 201
    machine = Machine.objects.get(name="Laser 9")
    address = f"/api/stores/machines/{machine.pk}"

    wrong = client.put(address, {**asked, "post": "royal"}, **JSON)
    twice = client.put(address, {**asked, "name": "Laser 1"}, **JSON)
    assert (wrong.status_code, twice.status_code) == (422, 422)
    client.put(address, {**asked, "post": "numbered"}, **JSON)
    assert Machine.objects.get(pk=machine.pk).post == "numbered"
    assert client.delete(address).status_code == 200
    assert not Machine.objects.filter(name="Laser 9").exists()


def test_a_post_a_machine_uses_stays(client):
    client.put("/api/stores/posts", {"post": PLAIN}, **JSON)
    Machine.objects.filter(name="Laser 1").update(post="own-plain")

    answer = client.delete("/api/stores/posts/own-plain")

    assert answer.status_code == 422
    assert "Laser 1 uses" in answer.json()["detail"]


def test_a_post_kept_before_it_took_five_decimals_in_inches_still_works(shop):
    kept = find_post("plain-inch").model_dump(mode="json")
    Post.objects.create(name="old", document={**kept, "name": "old", "decimals": 4})
    module = importlib.import_module("kaigata.shop.migrations.0006_decimals_of_posts")

    module.write_enough(apps, None)

    assert next(p for p in known_posts() if p.name == "old").decimals == 5
