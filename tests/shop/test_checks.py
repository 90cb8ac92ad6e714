"""What stops a packet, and a person's word that lets it pass."""

import json

import pytest

from kaigata.core.errors import InputError
from kaigata.core.formats import drawing_files
from kaigata.core.packet import checks as core_checks
from kaigata.shop.models import Nest
from kaigata.shop.services import checks as checks_service
from kaigata.shop.services import cutting, nesting, packing
from tests.shop.test_drawings import mark_up, sheets

JSON = {"content_type": "application/json"}
RULES = {"spacing": 6, "margin": 12, "turns": [0, 90], "seconds": 0.2, "sheets": None}


@pytest.fixture
def cut(client, put, order):
    """An order that is nested and cut."""
    put("pump-bracket", 3)
    nest = client.post(f"/api/orders/{order.pk}/nest", RULES, **JSON).json()
    nesting.nest_parts(nest["run"]["id"])
    run = client.post(f"/api/orders/{order.pk}/cut", {"process": "laser"}, **JSON).json()
    cutting.cut_order(run["run"]["id"])
    return order


@pytest.fixture
def failing(cut):
    """The order with a copy that lies nowhere, as its nest says."""
    nest = Nest.objects.get(run__order=cut)
    nest.document["unplaced"] = [{"part": "pump-bracket", "quantity": 1, "why": "sheets used up"}]
    nest.save()
    return cut


def checks(client, order):
    return {c["name"]: c for c in client.get(f"/api/orders/{order.pk}/checks").json()["checks"]}


def let_pass(client, order, reason, said):
    address = f"/api/orders/{order.pk}/checks/placed"
    return client.put(address, {"reason": reason, "said": said}, **JSON)


def test_an_order_made_right_passes_and_its_packet_keeps_the_checks(client, cut):
    shown = client.get(f"/api/orders/{cut.pk}/checks").json()
    assert shown["may_go"]
    assert {c["state"] for c in shown["checks"]} == {"passed"}

    packet = client.post(f"/api/orders/{cut.pk}/packet").json()
    packing.pack_order(packet["run"]["id"])

    kept = cut.packets.get().manifest["checks"]
    assert [c["name"] for c in kept] == [c["name"] for c in shown["checks"]]
    assert all(c["state"] == "passed" for c in kept)


def test_before_it_is_nested_there_is_nothing_to_check_of_that(client, put, order):
    put("pump-bracket", 3)

    found = checks(client, order)

    assert found["parts"]["state"] == "passed"
    assert found["placed"]["state"] == found["programs"]["state"] == "open"


def test_a_failing_check_stops_the_packet(client, failing):
    answer = client.post(f"/api/orders/{failing.pk}/packet")

    assert answer.status_code == 422
    body = answer.json()
    assert "1 × pump-bracket left out: sheets used up" in body["detail"]
    assert body["where"] == "Every copy is placed"
    assert not client.get(f"/api/orders/{failing.pk}/checks").json()["may_go"]


def test_let_pass_with_a_reason_it_goes_out_and_both_stand_in_the_manifest(client, failing):
    said = checks(client, failing)["placed"]["said"]

    answer = let_pass(client, failing, "  The customer takes two.  ", said)

    assert answer.status_code == 200
    assert answer.json()["may_go"]
    packet = client.post(f"/api/orders/{failing.pk}/packet").json()
    packing.pack_order(packet["run"]["id"])
    (row,) = [c for c in failing.packets.get().manifest["checks"] if c["state"] == "failed"]
    assert (row["name"], row["reason"], row["by"]) == ("placed", "The customer takes two.", "A.K.")
    assert row["at"]
    assert json.dumps(row)


def test_a_word_holds_only_for_what_was_found_when_it_was_given(client, failing):
    let_pass(client, failing, "One is enough.", checks(client, failing)["placed"]["said"])
    nest = Nest.objects.get(run__order=failing)
    nest.document["unplaced"][0]["quantity"] = 2
    nest.save()

    assert checks(client, failing)["placed"]["reason"] == ""
    assert client.post(f"/api/orders/{failing.pk}/packet").status_code == 422


def test_a_word_is_taken_back(client, failing):
    let_pass(client, failing, "One is enough.", checks(client, failing)["placed"]["said"])

    answer = client.delete(f"/api/orders/{failing.pk}/checks/placed")

    assert not answer.json()["may_go"]
    assert not failing.overrides.exists()


@pytest.mark.parametrize(
    ("name", "reason", "said", "text"),
    [
        ("placed", "  ", None, "not let pass without a reason"),
        ("placed", "Because.", "something else", "another result by now"),
        ("rules", "Because.", None, "another result by now"),
        ("colour", "Because.", "", "no check 'colour'"),
    ],
)
def test_no_word_is_kept_that_is_none(client, failing, name, reason, said, text):
    found = checks(client, failing)
    body = {"reason": reason, "said": found[name]["said"] if said is None else said}

    answer = client.put(f"/api/orders/{failing.pk}/checks/{name}", body, **JSON)

    assert answer.status_code == 422
    assert text in answer.json()["detail"]
    assert not failing.overrides.exists()


def test_a_drawing_that_is_let_pass_though_it_is_wrong_is_not_packed(client, cut, monkeypatch):
    for module in (core_checks, drawing_files):
        monkeypatch.setattr(module, "differences", lambda *a: ["2 contours are drawn"])
    said = checks(client, cut)["drawings"]["said"]
    address = f"/api/orders/{cut.pk}/checks/drawings"
    client.put(address, {"reason": "The floor has one.", "said": said}, **JSON)

    packet = client.post(f"/api/orders/{cut.pk}/packet").json()
    packing.pack_order(packet["run"]["id"])

    names = [f["name"] for f in cut.packets.get().manifest["files"]]
    assert "blanks/pump-bracket.dxf" in names
    assert "blanks/pump-bracket.pdf" not in names


def test_the_drawing_that_is_checked_is_the_one_that_goes_out(client, cut, monkeypatch):
    part = cut.lines.get().part
    part.blank.markup = {"number": "K-12"}
    part.blank.save()
    client.patch("/api/stores/lettering", {"tolerance": "ISO 2768-m"}, **JSON)
    seen = []
    monkeypatch.setattr(core_checks, "differences", lambda drawing, *_: seen.append(drawing) or [])

    checks(client, cut)

    written = {w.text for page in seen[0].pages for w in page.words}
    assert {"K-12", "ISO 2768-m"} <= written


def test_a_drawing_is_checked_again_only_when_it_has_changed(client, cut, monkeypatch):
    drawn = []
    counting = checks_service.recounted
    monkeypatch.setattr(checks_service, "recounted", lambda *a: drawn.append(a) or counting(*a))

    checks(client, cut)
    checks(client, cut)
    assert len(drawn) == 1

    mark_up(client, cut.lines.get().part, remarks=["Deburr"])
    assert checks(client, cut)["drawings"]["state"] == "passed"
    client.patch("/api/stores/lettering", {"tolerance": "ISO 2768-m"}, **JSON)
    checks(client, cut)
    assert len(drawn) == 3


def test_a_part_that_is_refused_is_told(client, cut):
    part = cut.lines.get().part
    part.state, part.what = part.State.REFUSED, "it is no sheet"
    part.save()

    assert checks(client, cut)["parts"]["said"] == "pump-bracket was refused: it is no sheet"
    with pytest.raises(InputError, match="a check fails"):
        packing.require_checked(cut)


def test_a_shop_that_wants_drawings_numbered_packs_none_without(client, order, put):
    part = put("hose-clip")
    client.patch("/api/stores/lettering", {"required": ["number", "mass"], "maker": "Fernbrook"},
                 content_type="application/json")  # fmt: skip

    def said():
        found = client.get(f"/api/orders/{order.pk}/checks").json()["checks"]
        return next(c["said"] for c in found if c["name"] == "drawings")

    assert said() == "hose-clip: the title block says no drawing number"
    mark_up(client, part, number="K-12")
    assert said().startswith("sizes and counts of 1 drawing taken again")
    part.line.material = None
    part.line.save()
    assert said() == "hose-clip: the title block says no mass"
    assert ">Fernbrook</text>" in sheets(client, part)["pages"][0]["svg"]


def test_the_shops_own_fields_are_said_by_each_part_and_looked_at(client, order, put):
    part = put("hose-clip")
    own = [{"label": "Finish", "must_say": True}, {"label": "Customer", "text": "Fernbrook yard"}]
    answer = client.patch("/api/stores/lettering", {"fields": own}, content_type="application/json")
    assert answer.status_code == 200

    def said():
        found = client.get(f"/api/orders/{order.pk}/checks").json()["checks"]
        return next(c["said"] for c in found if c["name"] == "drawings")

    assert said() == "hose-clip: the title block says no Finish"
    shown = sheets(client, part)
    assert [(f["label"], f["text"]) for f in shown["own_fields"]] == [
        ("Finish", ""), ("Customer", "Fernbrook yard")
    ]  # fmt: skip
    mark_up(client, part, fields={"Finish": "as cut"})
    assert said().startswith("sizes and counts of 1 drawing taken again")
    svg = sheets(client, part)["pages"][0]["svg"]
    assert ">as cut</text>" in svg
    assert ">Fernbrook yard</text>" in svg
    # What is said by a part goes with another number, and is taken back as a whole.
    mark_up(client, part, number="K-12")
    assert sheets(client, part)["markup"]["fields"] == {"Finish": "as cut"}
    mark_up(client, part, fields={})
    assert said() == "hose-clip: the title block says no Finish"
    twice = {"fields": [{"label": "Lot"}, {"label": "Lot"}]}
    refused = client.patch("/api/stores/lettering", twice, content_type="application/json")
    assert refused.status_code == 400
    assert "two fields have the same name" in refused.json()["detail"]
