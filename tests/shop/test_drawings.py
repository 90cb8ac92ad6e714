"""Drawings of blanks over HTTP: what the shop knows stands on them, in the units asked for."""

import re

import pytest

from kaigata.shop.models import Material, Stamp
from kaigata.shop.services.drawings import choice_of


def paper_of(answer):
    (size,) = re.findall(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", answer.content)
    return [round(float(v) / 72 * 25.4, 1) for v in size]


@pytest.mark.parametrize("kind", ["drawing", "template"])
@pytest.mark.parametrize(
    ("asked", "paper"),
    [("", {297.0, 210.0}), ("?units=in", {279.4, 215.9}), ("?paper=A2", {594.0, 420.0}),
     ("?units=in-32", {279.4, 215.9}), ("?paper=tabloid&units=mm", {431.8, 279.4})],
)  # fmt: skip
def test_a_part_is_drawn_on_the_paper_and_in_the_units_asked_for(client, put, kind, asked, paper):
    part = put("pump-bracket")

    answer = client.get(f"/api/parts/{part.pk}/{kind}{asked}")

    assert (answer.status_code, answer["Content-Type"]) == (200, "application/pdf")
    # It is shown, not kept at once: printing it is what most want.
    assert answer["Content-Disposition"].startswith('inline; filename="pump-bracket')
    assert set(paper_of(answer)) == paper


@pytest.mark.parametrize("asked", ["paper=B5", "units=ft"])
def test_what_is_no_paper_or_unit_is_refused(client, put, asked):
    part = put("pump-bracket")

    answer = client.get(f"/api/parts/{part.pk}/drawing?{asked}")

    assert answer.status_code == 400
    assert answer["Content-Type"] == "application/problem+json"


def test_a_part_too_large_for_a_printer_says_so(client, put):
    part = put("roof-cap")
    document = part.blank.document
    document["outer"] = [[40 * x, 40 * y, *bulge] for x, y, *bulge in document["outer"]]
    part.blank.save()

    answer = client.get(f"/api/parts/{part.pk}/template")

    assert answer.status_code == 413
    assert answer.json()["fix"] == "Take larger paper"


def test_the_title_block_says_what_the_shop_knows(client, put, order, django_user_model):
    part = put("tool-tray", quantity=7)
    line = part.line
    line.material = Material.objects.get(name="galvanised")
    line.save()
    by = django_user_model.objects.get(username="kestrel")
    stamp = Stamp.objects.create(order=order, station=2, by=by, inputs={})

    title = choice_of(part.blank).title

    assert (title.part, title.order, title.quantity) == ("tool-tray", "T-1 Test stands", 7)
    assert (title.material, title.source) == (line.material.title, "tool-tray.step")
    assert title.drawn == f"A.K. {stamp.at:%Y-%m-%d}"
    # Area from the truth, thickness 1.5 mm, 7.85 kg/dm3.
    assert float(title.mass.removesuffix(" kg")) == pytest.approx(1.17, abs=0.005)
    pounds = choice_of(part.blank, units="in").title.mass
    assert float(pounds.removesuffix(" lb")) == pytest.approx(2.58, abs=0.01)


def test_without_a_stamp_or_a_material_these_are_left_open(put):
    part = put("pump-bracket")
    part.line.material = None
    part.line.save()

    title = choice_of(part.blank).title

    assert (title.drawn, title.material, title.mass) == ("", "", "")


def sheets(client, part, **asked):
    return client.get(f"/api/parts/{part.pk}/sheets", asked).json()


def mark_up(client, part, status=200, **body):
    body["seen"] = body.get("seen") or sheets(client, part)["seen"]
    answer = client.patch(f"/api/parts/{part.pk}/sheets", body, content_type="application/json")
    assert answer.status_code == status, answer.json()
    return answer.json()


def letter(client, **values):
    return client.patch("/api/stores/lettering", values, content_type="application/json")


def test_the_shops_lettering_is_on_every_drawing(client, put):
    part = put("tool-tray")
    before = sheets(client, part)
    assert "R1.5" in before["pages"][0]["svg"]
    note = [{"says": "direction"}, {"says": "angle", "before": " by "}]

    assert letter(client, note=note, columns=["included", "length"]).status_code == 200
    # What is not said stays.
    answer = letter(client, tolerance="ISO 2768-m")

    assert answer.status_code == 200
    assert answer.json()["lettering"]["tolerance"] == "ISO 2768-m"
    svg = sheets(client, part)["pages"][0]["svg"]
    assert ">up by 90°</text>" in svg
    assert ">ISO 2768-m</text>" in svg
    assert ">included</text>" in svg
    assert ">allowance</text>" not in svg


def test_the_folded_part_has_a_sheet_of_its_own_where_the_shop_wants_it(client, put):
    part = put("tool-tray")
    assert len(sheets(client, part)["pages"]) == 1

    assert letter(client, folded="views").status_code == 200

    first, second = sheets(client, part)["pages"]
    assert (first["width"], first["height"]) == (second["width"], second["height"])
    for said in ("Folded, 1:2.5, first angle", "from the left", "326.00", "186.00", "45.00"):
        assert f">{said}</text>" in second["svg"]
    pdf = client.get(f"/api/parts/{part.pk}/drawing?paper=letter")
    assert len(re.findall(rb"/Type /Page\b", pdf.content)) == 2
    dxf = client.get(f"/api/parts/{part.pk}/sheets/2/dxf").content.decode()
    assert "HIDDEN" in dxf
    assert letter(client, folded="from behind").status_code == 400


def test_a_field_of_the_shops_own_keeps_what_parts_say_under_another_name(client, put):
    part = put("pump-bracket")
    letter(client, fields=[{"label": "Finish"}, {"label": "Lot", "text": "none"}])
    mark_up(client, part, fields={"Finish": "RAL 7016", "Lot": "7"})

    letter(client, fields=[{"label": "Surface"}, {"label": "Lot", "text": "none"}])
    assert sheets(client, part)["markup"]["fields"] == {"Surface": "RAL 7016", "Lot": "7"}

    # One that is taken out is gone from the drawing, and what the part says waits for it.
    letter(client, fields=[{"label": "Lot", "text": "none"}])
    assert sheets(client, part)["markup"]["fields"] == {"Surface": "RAL 7016", "Lot": "7"}

    letter(client, fields=[{"label": "Charge", "text": "none"}])
    assert sheets(client, part)["markup"]["fields"] == {"Surface": "RAL 7016", "Charge": "7"}


def test_a_shop_that_wants_lines_alone_gets_no_tones(client, put):
    part = put("tool-tray")
    assert "<image " in sheets(client, part)["pages"][0]["svg"]

    letter(client, is_shaded=False)

    assert "<image " not in sheets(client, part)["pages"][0]["svg"]


@pytest.mark.parametrize(
    ("change", "status", "said"),
    [
        ({"size": 0.1}, 400, "size"),
        ({"columns": ["direction", "angle", "included", "radius", "k", "allowance", "deduction",
                      "from-edge", "length", "sequence"]}, 422, "have no room|there are 88"),
        ({"note": [{"says": "mood"}]}, 400, "note"),
    ],
)  # fmt: skip
def test_lettering_without_sense_or_room_is_refused(client, change, status, said):
    lettering = client.get("/api/stores").json()["lettering"]
    answer = letter(client, **change)
    assert answer.status_code == status
    assert re.search(said, answer.content.decode())
    assert client.get("/api/stores").json()["lettering"] == lettering


def test_a_note_moved_by_hand_stays_with_its_bend_however_the_blank_lies(client, put, change):
    part = put("tool-tray")
    shown = sheets(client, part, paper="A2")
    bend = shown["notes"][0]["bend"]
    now = mark_up(client, part, moved={bend: {"by": [30, 12], "leader": True}})
    assert [n["bend"] for n in now["notes"] if n["is_moved"]] == [bend]
    rows = client.get(f"/api/parts/{part.pk}/blank").json()["bends"]
    place = next(b["place"] for b in rows if b["id"] == bend)

    turned = change(part, is_turned_over=True, turn=90)

    after = sheets(client, part)
    (moved,) = [n["bend"] for n in after["notes"] if n["is_moved"]]
    assert next(b["place"] for b in turned["bends"] if b["id"] == moved) == place
    assert not any(n["is_moved"] for n in mark_up(client, part, moved={moved: None})["notes"])


def test_remarks_and_the_number_are_kept_and_the_second_window_is_told(client, put, change):
    part = put("tool-tray")
    seen = sheets(client, part)["seen"]
    now = mark_up(client, part, number="K-7", remarks=["Deburr", "Film on the seen side"])
    assert now["markup"]["remarks"] == ["Deburr", "Film on the seen side"]
    assert ">Film on the seen side</text>" in now["pages"][0]["svg"]
    # A remark alone leaves the number.
    assert mark_up(client, part, remarks=[])["markup"] == {
        "number": "K-7", "remarks": [], "moved": {}, "sizes": [], "fields": {}
    }  # fmt: skip
    change(part, turn=90)
    late = mark_up(client, part, 409, seen=seen, moved={1: {"by": [5, 5]}})
    assert "changed meanwhile" in late["detail"]
    assert mark_up(client, part, 400, remarks=[""])


@pytest.mark.parametrize(
    "wrong",
    [
        {"remarks": [f"Remark {n}" for n in range(13)]},
        {"remarks": ["   "]},
        {"remarks": ["x" * 201]},
        {"number": "1" * 41},
        {"moved": {1: {"by": [1e9, 0]}}},
    ],
)
def test_what_no_drawing_could_say_is_refused_and_the_drawing_stays(client, put, wrong):
    part = put("pump-bracket")
    mark_up(client, part, remarks=["Deburr"])
    before = sheets(client, part)
    mark_up(client, part, 400, **wrong)
    assert sheets(client, part) == before


def test_inches_are_written_to_the_part_asked_for(client, put):
    part = put("tool-tray")
    words = {
        units: set(
            re.findall(r">([^<>]+)</text>", sheets(client, part, units=units)["pages"][0]["svg"])
        )
        for units in ("in", "in-16", "in-64")
    }
    # 410.79 x 270.79 mm.
    assert "16.173" in words["in"]
    assert {"16 3/16", "10 11/16"} <= words["in-16"]
    assert {"16 11/64", "10 21/32"} <= words["in-64"]


def test_other_words_on_a_drawing_make_its_packet_stale(client, order, put):
    from kaigata.shop.services.digests import changes
    from kaigata.shop.services.order_inputs import OrderInputs, cut_settings

    part = put("tool-tray")

    def rests_on():
        return OrderInputs.of(order).packet(cut_settings(order))

    before = rests_on()
    mark_up(client, part, remarks=["Deburr"])
    assert changes(before, rests_on()) == ["drawing of tool-tray added"]
    letter(client, size=3)
    assert "lettering of drawings added" in changes(before, rests_on())


@pytest.mark.parametrize(("kind", "begins"), [("svg", b"<svg "), ("dxf", b"  0\nSECTION")])
def test_each_sheet_comes_as_a_file_of_its_own(client, put, kind, begins):
    part = put("pump-bracket")
    shown = client.get(f"/api/parts/{part.pk}/sheets?paper=A3").json()["pages"]
    answer = client.get(f"/api/parts/{part.pk}/sheets/1/{kind}?paper=A3")
    assert answer.status_code == 200
    assert answer.content.lstrip().startswith(begins.lstrip())
    assert f'filename="pump-bracket-sheet-1.{kind}"' in answer["Content-Disposition"]
    if kind == "svg":
        assert answer.content.decode() == shown[0]["svg"]


@pytest.mark.parametrize("which", ["9/svg", "1/png", "0/dxf"])
def test_a_sheet_or_kind_there_is_not_is_told(client, put, which):
    part = put("pump-bracket")
    answer = client.get(f"/api/parts/{part.pk}/sheets/{which}")
    assert answer.status_code == 404
    assert "The drawing has 1 sheet, as svg or dxf" in answer.json()["detail"]
