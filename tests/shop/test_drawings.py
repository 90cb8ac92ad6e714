"""Drawings of blanks over HTTP: what the shop knows stands on them, in the units asked for."""

import re

import pytest

from kaigata.shop.models import Material, Stamp
from kaigata.shop.services.drawings import title_block_of


def paper_of(answer):
    (size,) = re.findall(rb"/MediaBox \[ 0 0 ([\d.]+) ([\d.]+) \]", answer.content)
    return [round(float(v) / 72 * 25.4, 1) for v in size]


@pytest.mark.parametrize("kind", ["drawing", "template"])
@pytest.mark.parametrize(
    ("asked", "paper"),
    [("", {297.0, 210.0}), ("?units=in", {279.4, 215.9}), ("?paper=A2", {594.0, 420.0}),
     ("?paper=tabloid&units=mm", {431.8, 279.4})],
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

    title = title_block_of(part.blank)

    assert (title.part, title.order, title.quantity) == ("tool-tray", "T-1 Test stands", 7)
    assert (title.material, title.source) == (line.material.title, "tool-tray.step")
    assert title.drawn == f"A.K. {stamp.at:%Y-%m-%d}"
    # Area from the truth, thickness 1.5 mm, 7.85 kg/dm3.
    assert float(title.mass.removesuffix(" kg")) == pytest.approx(1.17, abs=0.005)
    pounds = title_block_of(part.blank, "in").mass
    assert float(pounds.removesuffix(" lb")) == pytest.approx(2.58, abs=0.01)


def test_without_a_stamp_or_a_material_these_are_left_open(put):
    part = put("pump-bracket")
    part.line.material = None
    part.line.save()

    title = title_block_of(part.blank)

    assert (title.drawn, title.material, title.mass) == ("", "", "")
