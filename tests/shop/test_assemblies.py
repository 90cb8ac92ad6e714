"""Drawings of assemblies: a worker makes them, what changes makes them stale, one is kept."""

import re

import pytest
from django.test import Client

from kaigata.core.errors import LimitError
from kaigata.shop.models import AssemblyRun
from kaigata.shop.services import assemblies, giving_up, reading
from kaigata.shop.services.blanks import state_of
from kaigata.shop.services.people import add_person
from tests.checks import PARTS
from tests.solids import beside, box, round_bar, write_step

JSON = {"content_type": "application/json"}


def address(line, asked=""):
    return f"/api/lines/{line.pk}/assembly{asked}"


def drawn(client, line, asked=""):
    """Have an assembly drawn, as a worker would; return what the page is told then."""
    answer = client.post(address(line, asked))
    assert answer.status_code == 202
    assemblies.draw_order_assembly(answer.json()["run"]["id"])
    return client.get(address(line, asked)).json()


def words_of(client, shown, sheet=1):
    svg = client.get(f"/api/assemblies/{shown['drawing']}/{sheet}/svg").content.decode()
    return re.findall(r">([^<>]+)</text>", svg)


@pytest.fixture
def stand(put, order):
    put("stand")
    return order


def test_the_parts_of_an_assembly_are_drawn_together_with_their_list(client, stand):
    lines = client.get(f"/api/orders/{stand.pk}/rack").json()["lines"]
    assert {line["name"]: line["places"] for line in lines} == {
        "base-foot": 4, "hanger-arm": 2, "tool-tray": 1
    }  # fmt: skip
    first, second, _ = stand.lines.all()
    assert client.get(address(first)).json() == {"run": None, "drawing": None, "sheets": []}

    shown = drawn(client, first, "?paper=A3")
    pdf = client.get(f"/api/assemblies/{shown['drawing']}/pdf")
    dxf = client.get(f"/api/assemblies/{shown['drawing']}/1/dxf")

    assert shown["run"] == {
        "id": shown["drawing"], "state": "done", "progress": 1.0, "what": "", "where": "",
        "fix": "", "stale": [],
    }  # fmt: skip
    assert shown["sheets"] == [[420.0, 297.0]]
    assert (pdf.status_code, pdf["Content-Type"]) == (200, "application/pdf")
    assert pdf.content.startswith(b"%PDF")
    assert 'filename="stand assembly.pdf"' in pdf["Content-Disposition"]
    assert 'filename="stand-assembly-sheet-1.dxf"' in dxf["Content-Disposition"]
    words = words_of(client, shown)
    assert {"stand", "base-foot", "hanger-arm", "tool-tray", "T-1 Test stands"} <= set(words)
    assert [words[words.index(n) + 1] for n in ("base-foot", "hanger-arm", "tool-tray")] == [
        "4", "2", "1"
    ]  # fmt: skip
    assert client.get(f"/api/assemblies/{shown['drawing']}/2/svg").status_code == 404
    assert client.get(f"/api/assemblies/{shown['drawing']}/1/pdf").status_code == 404
    # Any part of it asks for the same drawing; other paper is another.
    assert client.get(address(second, "?paper=A3")).json() == shown
    assert client.get(address(second, "?paper=A4")).json()["drawing"] is None


def test_what_is_drawn_already_is_not_drawn_again_until_something_changes(client, stand):
    line = stand.lines.first()
    shown = drawn(client, line)
    assert client.post(address(line)).json() == shown

    client.patch(f"/api/lines/{line.pk}", {"name": "foot"}, **JSON)
    stale = client.get(address(line)).json()
    assert stale["run"]["stale"] == ["foot added", "base-foot taken out"]
    assert stale["drawing"] == shown["drawing"]

    waiting = client.post(address(line)).json()
    assert (waiting["run"]["state"], waiting["drawing"]) == ("queued", shown["drawing"])
    assert client.post(address(line)).json()["run"]["id"] == waiting["run"]["id"]
    anew = drawn(client, line)
    assert anew["drawing"] == waiting["run"]["id"]
    assert anew["run"]["stale"] == []
    assert "foot" in words_of(client, anew)
    # The one of before is gone, and its address says so.
    assert AssemblyRun.objects.count() == 1
    assert client.get(f"/api/assemblies/{shown['drawing']}/pdf").status_code == 404


@pytest.mark.parametrize(
    ("change", "stale"),
    [
        (lambda client, order: client.patch(
            f"/api/orders/{order.pk}", {"title": "Other stands"}, **JSON), ["order changed"]),
        (lambda client, order: client.patch(
            "/api/stores/lettering", {"maker": "Harbour Cycle Works"}, **JSON),
         ["lettering of drawings changed"]),
        (lambda client, order: client.patch(
            f"/api/parts/{order.lines.last().part_id}/blank",
            {"own_k": 0.31, "seen": state_of(order.lines.last().part.blank)}, **JSON),
         ["tool-tray changed"]),
        (lambda client, order: client.delete(f"/api/lines/{order.lines.last().pk}"),
         ["tool-tray taken out"]),
        (lambda client, order: client.patch(
            f"/api/lines/{order.lines.last().pk}", {"quantity": 7}, **JSON), []),
    ],
)  # fmt: skip
def test_what_changes_makes_the_drawing_stale(client, stand, change, stale):
    line = stand.lines.first()
    drawn(client, line)

    answer = change(client, stand)

    assert answer.status_code < 300, answer.content
    assert client.get(address(line)).json()["run"]["stale"] == stale


def test_a_part_that_was_revised_alone_is_listed_and_said_not_to_be_drawn(client, stand):
    line = stand.lines.get(part__name="hanger-arm")
    content = (PARTS / "hose-clip.step").read_bytes()
    reading.put_revision(line.part, "hose-clip.step", content)
    kept = reading.kept("hose-clip.step", content)
    reading.read_revision(line.part.pk, kept.sha256, "hose-clip.step")
    line.part.refresh_from_db()
    assert line.part.revision == 2

    words = words_of(client, drawn(client, line))

    assert words[words.index("hanger-arm") + 1] == "2"
    assert "Not drawn: 2." in words
    assert "stand" in words


def test_a_file_with_one_part_is_no_assembly(client, put):
    part = put("tool-tray")

    answer = client.post(address(part.line))

    assert answer.status_code == 422
    assert "it is no assembly" in answer.json()["detail"]
    assert client.post("/api/lines/99999/assembly").status_code == 404
    assert client.get("/api/assemblies/99999/pdf").status_code == 404
    assert client.post(address(part.line, "?paper=A9")).status_code == 400
    assert not AssemblyRun.objects.exists()


def test_a_solid_of_an_assembly_that_is_no_sheet_is_on_its_list(client, order, tmp_path):
    path = tmp_path / "clamp.step"
    plate, bar = box(0, 0, 0, 80, 60, 2), round_bar((40, 30, 2), (0, 0, 1), 10, 30)
    write_step(beside(plate, bar), path)
    line = reading.put_on_rack(order, path.name, path.read_bytes())
    reading.read_part(line.part.pk, path.name)
    states = {x.part.state for x in order.lines.all()}
    assert states == {"ready", "refused"}

    shown = drawn(client, line)

    words = words_of(client, shown)
    assert "no folded sheet" in words
    assert "80.00 × 60.00 × 32.00" in words
    # The bar stands on the plate, so a second sheet has it taken off.
    assert len(shown["sheets"]) == 2
    assert "Exploded, not to scale" in words_of(client, shown, 2)


def test_what_cannot_be_drawn_is_told_and_can_be_tried_again(client, stand, monkeypatch):
    line = stand.lines.first()

    def too_much(line, **settings):
        raise LimitError("there is too much of it", where="stand", fix="Draw a part of it")

    with monkeypatch.context() as patched:
        patched.setattr(assemblies, "_drawing", too_much)
        failed = drawn(client, line)
    assert failed["drawing"] is None
    assert {n: failed["run"][n] for n in ("state", "what", "where", "fix")} == {
        "state": "failed", "what": "there is too much of it", "where": "stand",
        "fix": "Draw a part of it",
    }  # fmt: skip

    assert drawn(client, line)["run"]["state"] == "done"


def test_a_drawing_whose_worker_is_lost_or_whose_parts_are_gone_does_not_stay_at_work(
    client, stand
):
    line = stand.lines.first()
    run = client.post(address(line)).json()["run"]
    giving_up.give_up("draw assembly", {"run_id": run["id"]}, "its worker ended 3 times")
    assert client.get(address(line)).json()["run"]["what"] == "its worker ended 3 times"

    run = client.post(address(line)).json()["run"]
    stand.lines.all().delete()
    assemblies.draw_order_assembly(run["id"])
    assert AssemblyRun.objects.get(pk=run["id"]).what == "its parts were taken out of the order"


def test_who_may_only_look_may_have_it_drawn_and_that_leaves_no_trail(client, stand):
    add_person(user="wren", name="B. Wren", password="spoke-and-rim-9")
    onlooker = Client()
    assert onlooker.login(username="wren", password="spoke-and-rim-9")
    line = stand.lines.first()

    assert drawn(onlooker, line)["run"]["state"] == "done"

    assert onlooker.patch(f"/api/lines/{line.pk}", {"quantity": 9}, **JSON).status_code == 403
    assert client.get("/api/trail").json()["deeds"] == []
