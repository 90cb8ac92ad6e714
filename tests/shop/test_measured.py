"""Measurements from the floor: proposed, previewed, and taken into a chart with their origin."""

import pytest

from kaigata.core.metal.allowance import bend_deduction
from kaigata.shop.models import CutRow, Gauge, Material

JSON = {"content_type": "application/json"}


@pytest.fixture
def gauge(shop):
    return Gauge.objects.get(material__name="galvanised", thickness=1.5)


def coupon(k, *, thickness=1.5, radius=1.5):
    lost = bend_deduction(1.5707963267948966, inside_radius=radius, thickness=thickness, k=k)
    return {"flat": 100 - lost, "first": 50, "second": 50, "angle": 90, "radius": radius}


def sizes(*measured, kerf=0.2):
    return {"kerf": kerf, "sizes": [{"nominal": 100, "measured": m} for m in measured]}


def test_coupons_propose_k_and_show_what_it_would_change(client, put, gauge, order):
    part = put("tool-tray")
    part.line.material = Material.objects.get(name="galvanised")
    part.line.save()
    client.patch(f"/api/lines/{part.line.pk}", {"material": "galvanised"}, **JSON)
    before = client.get(f"/api/parts/{part.pk}/blank").json()

    answer = client.post(
        f"/api/stores/gauges/{gauge.pk}/measured", {"bends": [coupon(0.40), coupon(0.40)]}, **JSON
    )

    assert answer.status_code == 200
    body = answer.json()
    assert body["k"]["value"] == pytest.approx(0.40, abs=1e-9)
    (row,) = body["changed"]
    assert (row["name"], row["order"]) == ("tool-tray", order.number)
    assert row["before"] == pytest.approx([before["width"], before["height"]], abs=1e-3)
    # Two bends lie across each way; each takes pi / 2 * (0.40 - 0.44) * 1.5 less.
    less = 2 * 1.5707963 * 0.04 * 1.5
    assert row["after"] == pytest.approx([v - less for v in row["before"]], abs=1e-3)
    # Nothing is changed by asking.
    assert client.get(f"/api/parts/{part.pk}/blank").json()["state"] == before["state"]


def test_a_chart_of_another_kind_gets_its_k_without_a_preview(client, put, gauge):
    gauge.method, gauge.points = "din-6935", []
    gauge.save()

    body = client.post(
        f"/api/stores/gauges/{gauge.pk}/measured", {"bends": [coupon(0.38)]}, **JSON
    ).json()

    assert body["k"]["value"] == pytest.approx(0.38)
    assert body["changed"] == []


@pytest.mark.parametrize(
    ("method", "row"),
    [
        ("k", {"value": 0.4}),
        ("k-by-ratio", {"value": 0.4, "ratio": 1.0}),
        # pi / 2 * (1.5 + 0.4 * 1.5), and twice 3.0 less that.
        ("allowance", {"value": 3.2987, "angle": 90.0, "radius": 1.5}),
        ("deduction", {"value": 2.7013, "angle": 90.0, "radius": 1.5}),
    ],
)
def test_measured_bends_come_as_rows_of_the_chart_they_are_for(client, gauge, method, row):
    gauge.method = method
    gauge.points = [{"value": 0.44, "ratio": 1, "angle": 90, "radius": 1.5, "origin": "typed"}]
    gauge.save()
    body = {"bends": [coupon(0.39), coupon(0.41)]}

    answer = client.post(f"/api/stores/gauges/{gauge.pk}/measured", body, **JSON).json()

    (point,) = answer["points"]
    assert point["origin"] == "measured"
    assert {n: point[n] for n in row} == pytest.approx(row, abs=1e-4)


def test_sizes_propose_a_kerf_which_is_taken_with_its_origin(client, shop):
    row = CutRow.objects.filter(process="laser").first()
    kerf = row.kerf
    body = sizes(99.95, 99.93, 99.94, kerf=kerf)

    found = client.post(f"/api/stores/cut-rows/{row.pk}/measured", body, **JSON).json()
    assert found["value"] == pytest.approx(kerf + 0.06)
    assert found["spread"] == pytest.approx(0.01)
    row.refresh_from_db()
    assert row.kerf == kerf
    # Who only asks has done nothing.
    assert client.get("/api/trail").json()["deeds"] == []

    # Taken twice, from two windows say, it is the same: the parts were cut but once.
    for _ in range(2):
        stores = client.put(f"/api/stores/cut-rows/{row.pk}/kerf", body, **JSON).json()

    (kept,) = [r for r in stores["cut_rows"] if r["id"] == row.pk]
    assert kept["kerf"] == pytest.approx(kerf + 0.06)
    assert kept["kerf_origin"].startswith("measured 20")
    assert kept["kerf_origin"].endswith(": 3 sizes, ± 0.010 mm")


@pytest.mark.parametrize(
    ("body", "status", "text"),
    [
        ({"kerf": 0.2, "sizes": []}, 400, "sizes"),
        ({"sizes": [{"nominal": 100, "measured": 99}]}, 400, "kerf"),
        (sizes(150), 422, "it must be above 0"),
        ({"kerf": 0.2, "sizes": [{"nominal": 100, "measured": -1}]}, 400, "measured"),
    ],
)
def test_measurements_that_cannot_be_change_nothing(client, shop, body, status, text):
    row = CutRow.objects.first()

    answer = client.put(f"/api/stores/cut-rows/{row.pk}/kerf", body, **JSON)

    assert answer.status_code == status
    assert text in answer.json()["detail"]
    assert CutRow.objects.get(pk=row.pk).kerf == row.kerf
