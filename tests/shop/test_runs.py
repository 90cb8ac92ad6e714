"""Nests, programs and packets: the way of an order, and what makes it stale."""

import io
import json
import zipfile

import pytest

from kaigata.core.nest import Progress
from kaigata.shop.models import CutRun, NestRun, Packet
from kaigata.shop.services import cutting, giving_up, nesting, packing, route_card
from kaigata.shop.tasks import nest_task
from tests.checks import checked

JSON = {"content_type": "application/json"}
RULES = {"spacing": 6, "margin": 12, "turns": [0, 90, 180, 270], "seconds": 0.2, "sheets": None}


@pytest.fixture
def nested(client, put, order):
    put("tool-tray", 3)
    put("hose-clip", 5)
    answer = client.post(f"/api/orders/{order.pk}/nest", RULES, **JSON)
    assert answer.status_code == 202
    nesting.nest_parts(answer.json()["run"]["id"])
    return order


@pytest.fixture
def packed(client, nested):
    return pack(client, nested)


def pack(client, order):
    """Cut an order's nest and pack it, as workers would."""
    cut = client.post(f"/api/orders/{order.pk}/cut", {"process": "laser"}, **JSON).json()
    cutting.cut_order(cut["run"]["id"])
    packet = client.post(f"/api/orders/{order.pk}/packet").json()
    packing.pack_order(packet["run"]["id"])
    return order


def test_a_nest_streams_its_answers_and_keeps_the_best(client, nested):
    shown = client.get(f"/api/orders/{nested.pk}/nest").json()

    assert shown["run"]["state"] == "done"
    assert shown["run"]["stale"] == []
    assert shown["history"][-1]["utilisation"] == pytest.approx(shown["utilisation"], abs=1e-4)
    assert sum(len(s["placements"]) for s in shown["sheets"]) == 8
    assert shown["mass"] > 0


def test_the_packet_holds_what_the_checkers_accept(client, packed, tmp_path):
    shown = client.get(f"/api/orders/{packed.pk}/packet").json()
    content = client.get(f"/api/packets/{shown['packet']}/zip").content
    assert shown["size"] == len(content)
    with zipfile.ZipFile(io.BytesIO(content)) as zipped:
        zipped.extractall(tmp_path)

    nest, order = tmp_path / "nest" / "nest.json", tmp_path / "nest" / "order.json"
    cut = json.loads((tmp_path / "cut" / "cut.json").read_text())
    kerfs = {s["number"]: s["kerf"] for s in cut["sheets"]}
    sheets = json.loads(nest.read_text())["sheets"]
    widths = ",".join(f"{s['sheet']}={kerfs[s['number']]}" for s in sheets)
    assert checked("nest_check.py", order, nest).startswith("ok")
    line = checked("gcode_check.py", nest, order, tmp_path / "cut", "--kerf", widths)
    assert line.startswith("ok")
    for drawing in [*tmp_path.rglob("*.dxf")]:
        assert checked("dxf_check.py", drawing).startswith("ok")
    assert {f["name"] for f in shown["files"]} | {"manifest.json"} == {
        p.relative_to(tmp_path).as_posix() for p in tmp_path.rglob("*") if p.is_file()
    }


def test_the_packet_of_an_assembly_has_its_drawing(client, put, order):
    put("stand")
    run = client.post(f"/api/orders/{order.pk}/nest", RULES, **JSON).json()["run"]
    nesting.nest_parts(run["id"])
    pack(client, order)

    shown = client.get(f"/api/orders/{order.pk}/packet").json()

    made_from = {f["name"]: f["made_from"] for f in shown["files"]}
    assert made_from["blanks/stand-assembly.pdf"] == "stand.step"
    content = client.get(f"/api/packets/{shown['packet']}/zip").content
    with zipfile.ZipFile(io.BytesIO(content)) as zipped:
        assert zipped.read("blanks/stand-assembly.pdf").startswith(b"%PDF")


def test_a_change_upstream_makes_everything_downstream_stale(client, change, packed):
    for station in range(1, 7):
        done = client.post(f"/api/orders/{packed.pk}/stamps", {"station": station}, **JSON)
        assert done.status_code == 200, done.json()
    assert {s["state"] for s in done.json()["stations"]} == {"stamped"}
    part = packed.lines.get(part__name="tool-tray").part

    change(part, own_k=0.3)

    card = client.get(f"/api/orders/{packed.pk}").json()
    states = {s["name"]: s["state"] for s in card["stations"]}
    assert states == {"Part": "stamped", "Blank": "stale", "Bends": "stale", "Nest": "stale",
                      "Cut": "stale", "Packet": "stale"}  # fmt: skip
    assert card["stations"][3]["note"] == "tool-tray changed"
    for what in ("nest", "cut", "packet"):
        run = client.get(f"/api/orders/{packed.pk}/{what}").json()["run"]
        assert run["stale"] == ["tool-tray changed"]
    refused = client.post(f"/api/orders/{packed.pk}/cut", {"process": "laser"}, **JSON)
    assert refused.json()["detail"] == "the nest is stale: tool-tray changed"
    change(part, own_k=None)
    card = client.get(f"/api/orders/{packed.pk}").json()
    assert {s["state"] for s in card["stations"]} == {"stamped"}


@pytest.mark.parametrize(
    ("change", "stale"),
    [
        (lambda client, line: client.delete(f"/api/lines/{line.pk}"), ["hose-clip taken out"]),
        (lambda client, line: client.patch(f"/api/lines/{line.pk}", {"priority": 0}, **JSON),
         ["nest rules of hose-clip taken out"]),
    ],
)  # fmt: skip
def test_what_is_taken_out_makes_what_was_made_with_it_stale(client, put, order, change, stale):
    put("tool-tray", 3)
    line = put("hose-clip", 5).line
    client.patch(f"/api/lines/{line.pk}", {"priority": 2}, **JSON)
    run = client.post(f"/api/orders/{order.pk}/nest", RULES, **JSON).json()["run"]
    nesting.nest_parts(run["id"])
    pack(client, order)
    for what in ("nest", "cut", "packet"):
        assert client.get(f"/api/orders/{order.pk}/{what}").json()["run"]["stale"] == []

    assert change(client, line).status_code < 300

    for what in ("nest", "cut", "packet"):
        told = client.get(f"/api/orders/{order.pk}/{what}").json()["run"]["stale"]
        assert set(stale) <= set(told), what


def test_a_new_kerf_makes_the_packet_stale(client, packed):
    cut = client.post(f"/api/orders/{packed.pk}/cut", {"process": "laser", "kerf": 0.3}, **JSON)
    cutting.cut_order(cut.json()["run"]["id"])

    run = client.get(f"/api/orders/{packed.pk}/packet").json()["run"]

    assert run["stale"] == ["cut settings changed", "cutting paths changed"]


def test_stations_cannot_be_stamped_before_their_work_is_done(client, order, put):
    empty = client.post(f"/api/orders/{order.pk}/stamps", {"station": 1}, **JSON)
    put("hose-clip")
    unnested = client.post(f"/api/orders/{order.pk}/stamps", {"station": 4}, **JSON)

    assert empty.json()["detail"] == "the order has no part yet"
    assert unnested.json()["detail"] == "there is no finished nest"


def test_a_stop_keeps_what_was_found(client, nested, monkeypatch):
    answer = client.post(f"/api/orders/{nested.pk}/nest", {**RULES, "seconds": 600}, **JSON)
    run_id = answer.json()["run"]["id"]
    kept = nesting._keep

    def keep_and_stop(run, progress: Progress, *rest):
        kept(run, progress, *rest)
        nesting.stop_nesting(nested)

    monkeypatch.setattr(nesting, "_keep", keep_and_stop)
    nesting.nest_parts(run_id)

    run = NestRun.objects.get(pk=run_id)
    assert run.state == "stopped"
    assert run.nest.document["sheets"]


def test_a_fault_of_our_own_marks_the_run_failed(nested, monkeypatch):
    run = nesting.start_nesting(nested)
    monkeypatch.setattr(nesting, "search", lambda *a, **k: 1 / 0)

    with pytest.raises(ZeroDivisionError):
        nest_task(run_id=run.pk)

    run.refresh_from_db()
    assert run.state == "failed"
    assert "ZeroDivisionError" in run.what


@pytest.mark.parametrize(("task", "model"), [("nest", NestRun), ("cut", CutRun), ("pack", Packet)])
def test_work_that_is_given_up_is_failed_with_the_reason(packed, task, model):
    run = model.objects.filter(order=packed).first()
    model.objects.filter(pk=run.pk).update(state="running")

    giving_up.give_up(task, {"run_id": run.pk}, "its worker ended 3 times while it worked on this")

    run.refresh_from_db()
    assert (run.state, run.what) == ("failed", "its worker ended 3 times while it worked on this")


def test_open_work_without_a_job_is_failed_and_work_with_one_is_left(client, put, order):
    put("hose-clip")
    nesting.start_nesting(order)
    forsaken = NestRun.objects.create(order=order, state="running")

    giving_up.fail_forsaken()

    forsaken.refresh_from_db()
    assert (forsaken.state, forsaken.what) == ("failed", "its job is no longer in the queue")
    assert NestRun.objects.filter(state="queued").count() == 1


def test_reading_that_is_given_up_is_a_refused_part(order):
    from kaigata.shop.services import reading

    line = reading.put_on_rack(order, "a.step", b"ISO-10303-21;")
    giving_up.give_up("read part", {"part_id": line.part.pk}, "its worker ended")

    line.part.refresh_from_db()
    assert (line.part.state, line.part.what) == ("refused", "its worker ended")


@pytest.mark.parametrize(
    ("rules", "status", "said"),
    [
        ({"spacing": -1}, 400, "spacing"),
        ({"spacing": 400, "margin": 500}, 422, "leaves no room"),
        ({"turns": []}, 400, "turns"),
        ({"turns": [45]}, 400, "turns"),
        ({"sheets": []}, 422, "no stock sheet"),
    ],
)
def test_bad_rules_are_refused_and_start_nothing(client, put, order, rules, status, said):
    put("hose-clip")

    answer = client.post(f"/api/orders/{order.pk}/nest", {**RULES, **rules}, **JSON)

    assert answer.status_code == status
    assert said in json.dumps(answer.json())
    assert not NestRun.objects.exists()


def test_parts_without_stock_of_their_gauge_are_listed(client, put, order):
    put("hose-clip")
    put("base-foot")
    steel = order.lines.get(part__name="base-foot")
    client.patch(f"/api/lines/{steel.pk}", {"material": "aluminium"}, **JSON)
    run = client.post(f"/api/orders/{order.pk}/nest", RULES, **JSON).json()["run"]
    nesting.nest_parts(run["id"])

    shown = client.get(f"/api/orders/{order.pk}/nest").json()

    assert [(u["part"], u["why"]) for u in shown["unplaced"]] == [
        ("base-foot", "no sheet of 4 aluminium in the order")
    ]


def test_card_words(nested):
    nested.refresh_from_db()
    words = {s.name: (s.state, s.note) for s in route_card.stations_of([nested])[0]}

    assert words["Nest"] == ("in work", "not yet stamped")
    assert words["Cut"] == ("nothing", "")
