"""Sizes chosen for a drawing over HTTP: kept, followed as the blank lies, told when lost."""

import pytest

from kaigata.shop.services.digests import changes
from kaigata.shop.services.order_inputs import OrderInputs, cut_settings
from tests.shop.test_drawings import mark_up, sheets
from tests.shop.test_recipes import begin, change_to, shown

__all__ = ["begin"]


def places(drawing, kind):
    return [p["place"] for p in drawing["places"] if p["kind"] == kind]


def chosen(way, start, end, **more):
    return {"way": way, "start": start, "end": end, **more}


@pytest.fixture
def tray(put):
    return put("tool-tray")


def test_a_size_between_two_holes_is_on_the_sheet_with_its_tolerance(client, tray):
    drawn = sheets(client, tray)
    first, second = places(drawn, "hole")[:2]

    now = mark_up(client, tray, sizes=[chosen("straight", first, second, upper=0.2, lower=-0.1)])

    (size,) = now["markup"]["sizes"]
    assert (size["start"], size["upper"]) == (pytest.approx(first, abs=1e-6), 0.2)
    apart = sum((a - b) ** 2 for a, b in zip(first, second, strict=True)) ** 0.5
    svg = now["pages"][0]["svg"]
    assert all(f">{text}</text>" in svg for text in (f"{apart:.2f}", "+0.2", "−0.1"))
    assert now["seen"] != drawn["seen"]
    assert mark_up(client, tray, sizes=[])["seen"] == drawn["seen"]


def test_sizes_without_room_on_the_paper_asked_for_change_nothing(client, tray):
    drawn = sheets(client, tray)
    first, *others = sorted(p["place"] for p in drawn["places"])
    many = [chosen("level", first, o) for o in others if o[0] > first[0] + 1][:24]

    answer = client.patch(f"/api/parts/{tray.pk}/sheets?paper=A4",
                          {"seen": drawn["seen"], "sizes": many},
                          content_type="application/json")  # fmt: skip

    assert answer.status_code == 422
    assert "leave it no room" in answer.json()["detail"]
    assert sheets(client, tray) == drawn
    mark_up(client, tray, sizes=many)


@pytest.mark.parametrize(
    "laid", [{"turn": 90}, {"is_turned_over": True}, {"turn": 180, "is_turned_over": True},
             {"anchor": 2}, {"own_k": 0.3}]
)  # fmt: skip
def test_a_size_stays_between_its_places_however_the_blank_lies(client, tray, change, laid):
    drawn = sheets(client, tray)
    holes = places(drawn, "hole")
    level = next((a, b) for a in holes for b in holes if abs(a[0] - b[0]) > 50 and a[1] != b[1])
    before = mark_up(client, tray, sizes=[chosen("level", *level), chosen("upright", *level)])

    change(tray, **laid)

    after = sheets(client, tray)
    assert after["lost_sizes"] == []
    for was, now in zip(before["markup"]["sizes"], after["markup"]["sizes"], strict=True):
        assert _value(now) == pytest.approx(_value(was), abs=1e-6)
        assert now["way"] == ({"level": "upright", "upright": "level"}[was["way"]]
                              if laid.get("turn") == 90 else was["way"])  # fmt: skip


def _value(size):
    axis = {"level": 0, "upright": 1}[size["way"]]
    return abs(size["start"][axis] - size["end"][axis])


@pytest.mark.parametrize(
    ("there", "back"),
    [({"turn": 90}, {"turn": 0}), ({"is_turned_over": True}, {"is_turned_over": False}),
     ({"own_k": 0.3}, {"own_k": None}), ({"anchor": 3}, {"anchor": 1})],
)  # fmt: skip
def test_a_blank_laid_back_makes_nothing_stale(client, order, tray, change, there, back):
    holes = places(sheets(client, tray), "hole")
    bend = places(sheets(client, tray), "bend")[0]
    mark_up(client, tray, sizes=[chosen("straight", holes[0], holes[-1]),
                                 chosen("straight", bend, holes[1])])  # fmt: skip
    before = OrderInputs.of(order).packet(cut_settings(order))

    change(tray, **there)
    assert changes(before, OrderInputs.of(order).packet(cut_settings(order)))
    change(tray, **back)

    assert changes(before, OrderInputs.of(order).packet(cut_settings(order))) == []


def test_a_size_over_a_bend_is_measured_again_with_another_factor(client, tray, change):
    drawn = sheets(client, tray)
    width = max(p[0] for p in places(drawn, "corner"))
    corners = sorted(places(drawn, "corner"))
    bend = places(drawn, "bend")[0]
    near = min(corners, key=lambda c: abs(c[0] - width))
    mark_up(client, tray, sizes=[chosen("level", bend, near)])
    before = _value(sheets(client, tray)["markup"]["sizes"][0])

    change(tray, own_k=0.2)

    after = sheets(client, tray)
    assert after["lost_sizes"] == []
    now = _value(after["markup"]["sizes"][0])
    assert now < before - 0.2
    assert f">{now:.2f}</text>" in after["pages"][0]["svg"]


def test_a_size_whose_corner_is_rounded_away_is_lost_and_stops_the_packet(
    client, order, begin, change
):
    part = begin("angle")
    drawn = sheets(client, part)
    corners = sorted(places(drawn, "corner"))
    mark_up(client, part, sizes=[chosen("straight", corners[0], corners[-1])])

    change(part, corners=[{"kind": "round", "side": "outside", "size": 4}])

    after = sheets(client, part)
    assert after["lost_sizes"] == [0]
    assert len(after["places"]) > len(drawn["places"])
    checks = client.get(f"/api/orders/{order.pk}/checks").json()["checks"]
    said = next(c for c in checks if c["name"] == "drawings")
    assert said["state"] == "failed"
    assert "chosen size 1 meets the part no more" in said["said"]
    # What is lost may stay while another is chosen, and be taken out.
    arc = places(after, "arc")[0]
    lost = after["markup"]["sizes"][0]
    assert mark_up(client, part, sizes=[lost, chosen("round", arc, arc)])["lost_sizes"] == [0]
    assert mark_up(client, part, sizes=[])["lost_sizes"] == []


def test_a_size_follows_what_a_changed_dimension_moves(client, begin):
    part = begin("angle")
    now = sheets(client, part)
    ends = sorted(places(now, "corner"))
    low, high = ends[0], ends[-1]
    bend = places(now, "bend")[0]
    across = [(w, end) for end in (low, high) for w in ("level", "upright")]
    apart = [(w, e) for w, e in across if e[w == "upright"] != bend[w == "upright"]]
    mark_up(client, part, sizes=[chosen(w, bend, end) for w, end in apart])
    before = [_value(s) for s in sheets(client, part)["markup"]["sizes"]]
    recipe = shown(client, part)
    recipe["recipe"]["dimensions"]["other_leg"] += 7

    assert change_to(client, part, recipe["recipe"], recipe["seen"]).status_code == 200

    after = sheets(client, part)
    assert after["lost_sizes"] == []
    grown = [_value(s) - v for s, v in zip(after["markup"]["sizes"], before, strict=True)]
    assert sorted(round(g, 6) for g in grown if abs(g) > 1e-6) == [7.0]


@pytest.mark.parametrize(
    ("sizes", "status", "said"),
    [
        ([chosen("level", [1, 2], [3, 4])], 422, "not between two places"),
        ([chosen("level", [0, 0], [5, 0], upper=0.1)], 400, "both an upper and a lower"),
        ([chosen("level", [0, 0], [5, 0], upper=0.1, lower=0.2)], 400, "above the upper one"),
        ([chosen("askew", [0, 0], [5, 0])], 400, "way"),
        ([chosen("level", [0, 0], [1e9, 0])], 400, "end"),
        ([chosen("level", [0, 0], [5, 0])] * 61, 400, "60"),
    ],
)
def test_what_is_no_size_is_refused_and_nothing_is_kept(client, tray, sizes, status, said):
    before = sheets(client, tray)

    answer = mark_up(client, tray, status, sizes=sizes)

    assert said in str(answer)
    assert sheets(client, tray) == before


def test_a_size_whose_ends_lie_in_line_says_so(client, tray):
    holes = places(sheets(client, tray), "hole")
    over = next((a, b) for a in holes for b in holes if a[0] == b[0] and a[1] != b[1])

    assert (
        "its ends lie in line"
        in mark_up(client, tray, 422, sizes=[chosen("level", *over)])["detail"]
    )


def test_two_windows_that_choose_sizes_do_not_take_each_others(client, tray):
    drawn = sheets(client, tray)
    holes = places(drawn, "hole")
    mark_up(client, tray, sizes=[chosen("straight", holes[0], holes[1])])

    late = mark_up(client, tray, 409, seen=drawn["seen"],
                   sizes=[chosen("straight", holes[1], holes[2])])  # fmt: skip

    assert "changed meanwhile" in late["detail"]
    assert len(sheets(client, tray)["markup"]["sizes"]) == 1
