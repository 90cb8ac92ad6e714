"""Every error a browser can meet: one shape, words for people, and nothing changed."""

from datetime import UTC, datetime

import pytest
from asgiref.sync import async_to_sync
from django.core.management import call_command
from procrastinate.jobs import Job

from kaigata.shop.models import NestRun, Order
from kaigata.shop.services import nesting, orders
from kaigata.shop.tasks import TRIES, app, take_up_again

JSON = {"content_type": "application/json"}
PROBLEM = "application/problem+json"


def problem(answer, status):
    """The body of an error, after what holds for all of them."""
    body = answer.json()
    assert (answer.status_code, answer["Content-Type"]) == (status, PROBLEM)
    assert (body["status"], body["instance"]) == (status, answer.request["PATH_INFO"])
    assert body["title"]
    assert body["detail"]
    return body


@pytest.mark.parametrize(
    "address",
    [
        "/api/gone", "/api/orders/987654", "/api/parts/987654/blank", "/api/lines/987654",
        "/api/nests/987654/files/nest.json", "/api/stores/sheets/987654",
        "/api/programs/987654/files/nc", "/api/packets/987654/zip",
    ],
)  # fmt: skip
def test_what_is_not_there_is_said_in_words_for_people(client, address):
    ask = client.delete if "/lines/" in address or "/sheets/" in address else client.get

    body = problem(ask(address), 404)

    assert body["detail"] == "This is not there: it was taken out, or the address is wrong"
    assert body["fix"]


def test_a_request_of_another_kind_is_refused(client, order):
    address = f"/api/orders/{order.pk}/stamps"

    assert problem(client.put(address, {}, **JSON), 405)["title"] == "Not possible here"
    assert "media type" in problem(client.post(address, "x", content_type="text/x"), 415)["detail"]


@pytest.mark.parametrize(
    ("body", "pointer"),
    [
        ('{"station": ', None),
        ('{"station": "sixth"}', "#/station"),
        ("{}", "#/station"),
        ("[]", "#/"),
    ],
)
def test_a_body_that_cannot_be_read_is_told_by_its_place(client, order, body, pointer):
    answer = client.post(f"/api/orders/{order.pk}/stamps", body, **JSON)

    errors = problem(answer, 400)["errors"]
    assert [e["pointer"] for e in errors] == ([pointer] if pointer else [])


def test_a_text_no_record_can_hold_is_refused(client, order):
    new = client.post("/api/orders", {"number": "T-9\0", "title": "Stands"}, **JSON)
    changed = client.patch(f"/api/orders/{order.pk}", {"title": "Sta\0nds"}, **JSON)

    for answer in (new, changed):
        assert "cannot be kept" in problem(answer, 400)["detail"]
    assert list(Order.objects.values_list("title", flat=True)) == ["Test stands"]


def test_an_address_that_a_browser_opens_answers_with_a_page(client, put):
    opened = {"HTTP_ACCEPT": "text/html,application/xhtml+xml,*/*;q=0.8"}
    part = put("tool-tray")

    refused = client.get(f"/api/parts/{part.pk}/drawing?paper=A9", **opened)
    gone = client.get("/api/parts/987654/drawing", **opened)
    shown = client.get(f"/api/parts/{part.pk}/drawing?paper=A4", **opened)
    client.logout()
    unknown = client.get(f"/api/parts/{part.pk}/drawing", **opened)

    assert shown["Content-Type"] == "application/pdf"
    for answer, status, said in (
        (refused, 400, "<h1>paper "),
        (gone, 404, "This is not there: it was taken out, or the address is wrong"),
        (unknown, 401, "Sign in"),
    ):
        assert (answer.status_code, answer["Content-Type"]) == (status, "text/html; charset=utf-8")
        assert said in answer.content.decode()
    assert 'href="/sign-in"' in unknown.content.decode()
    assert 'href="/"' in gone.content.decode()
    assert client.get("/api/nowhere/<b>", **opened).status_code == 404


@pytest.mark.parametrize("station", ["", "?station=sixth", "?station=9", "?station=-1"])
def test_a_stamp_of_no_station_is_not_taken_away(client, order, station):
    answer = client.delete(f"/api/orders/{order.pk}/stamps{station}")

    assert "station" in problem(answer, 422)["detail"]


def test_a_fault_of_our_own_is_said_and_changes_nothing(client, order, monkeypatch):
    """What was written before the fault is taken back with it."""
    client.raise_request_exception = False
    kept = Order.objects.get(pk=order.pk).title

    def fail(*args, **kwargs):
        Order.objects.filter(pk=order.pk).update(title="half done")
        raise RuntimeError("a bolt came loose")

    monkeypatch.setattr(orders, "change_order", fail)

    body = problem(client.patch(f"/api/orders/{order.pk}", {"title": "new"}, **JSON), 500)

    assert "nothing was changed" in body["detail"]
    assert "bolt" not in str(body)
    assert Order.objects.get(pk=order.pk).title == kept


def test_a_file_a_nest_does_not_have_is_refused_with_those_it_has(client, put, order):
    put("hose-clip", 2)
    rules = {"spacing": 6, "margin": 12, "turns": [0, 90], "seconds": 0.2, "sheets": None}
    run = client.post(f"/api/orders/{order.pk}/nest", rules, **JSON).json()["run"]
    nesting.nest_parts(run["id"])
    nest = client.get(f"/api/orders/{order.pk}/nest").json()["nest"]

    body = problem(client.get(f"/api/nests/{nest}/files/sheet-9.dxf"), 422)

    assert "no file sheet-9.dxf" in body["detail"]
    assert "report.html" in body["fix"]
    for name in ("nest.json", "parts.csv", "report.html", "sheet-1.dxf"):
        assert client.get(f"/api/nests/{nest}/files/{name}").status_code == 200


class Queue:
    """The queue's keeper of jobs, with stalled ones, that writes down what it is told."""

    def __init__(self, *attempts):
        self.jobs = [
            Job(
                id=i, queue="long", lock=None, queueing_lock=None, task_name="nest",
                task_kwargs={"run_id": run}, attempts=tried, scheduled_at=datetime.now(UTC),
            )
            for i, (run, tried) in enumerate(attempts)
        ]  # fmt: skip
        self.again, self.ended = [], []

    async def get_stalled_jobs(self, **_):
        return self.jobs

    async def retry_job(self, job):
        self.again.append(job.id)

    async def finish_job(self, job, status, *, delete_job):
        self.ended.append((job.id, status.value, delete_job))


@pytest.mark.django_db(transaction=True)
def test_work_of_a_dead_worker_is_queued_again_and_at_last_given_up(monkeypatch):
    call_command("load_demo", "--stores-only")
    order = Order.objects.create(number="T-1", title="Test stands")
    young, old = (NestRun.objects.create(order=order, state="running") for _ in range(2))
    queue = Queue((young.pk, TRIES - 1), (old.pk, TRIES))
    monkeypatch.setattr(app, "job_manager", queue)
    monkeypatch.setattr("kaigata.shop.tasks.fail_forsaken", lambda: None)

    async_to_sync(take_up_again.func)(0)

    assert queue.again == [0]
    assert queue.ended == [(1, "failed", False)]
    young.refresh_from_db()
    old.refresh_from_db()
    assert (young.state, old.state) == ("running", "failed")
    assert f"ended {TRIES} times" in old.what


def test_blanks_of_an_older_version_are_unfolded_anew(put):
    part, kept = put("hose-clip"), put("sign-plate")
    blank = part.blank
    whole = blank.document
    blank.document = {
        **whole,
        "bends": [{k: v for k, v in b.items() if k != "place"} for b in whole["bends"]],
    }
    blank.save()
    before = kept.blank.document

    call_command("refresh_blanks")

    blank.refresh_from_db()
    kept.blank.refresh_from_db()
    assert blank.document["bends"] == whole["bends"]
    assert kept.blank.document == before
