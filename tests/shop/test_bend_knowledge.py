"""Charts, limits, single bends, drawn flats, revisions and twins over HTTP."""

import hashlib
import io
import json
import math

import ezdxf
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from OCP.BRep import BRep_Builder
from OCP.TopoDS import TopoDS_Compound

from kaigata.core.formats.blank_files import region_of_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.shop.models import Blank, Order, OrderLine, Part
from kaigata.shop.services import reading
from tests.drawings import drawing
from tests.solids import box, joined, less, profile, turned, write_step

JSON = {"content_type": "application/json"}


def gauge_of(client, material, thickness):
    stores = client.get("/api/stores").json()
    (found,) = [m for m in stores["materials"] if m["name"] == material]
    return next(g for g in found["gauges"] if g["thickness"] == thickness)


def blank_of(client, part):
    return client.get(f"/api/parts/{part.pk}/blank").json()


@pytest.fixture
def drop(order):
    """Put bytes onto the rack and read them as a worker would."""

    def drop_and_read(name, content):
        line = reading.put_on_rack(order, name, content)
        reading.read_part(line.part.pk, name)
        return Part.objects.get(pk=line.part.pk)

    return drop_and_read


def test_a_chart_that_moves_on_is_shown_and_taken_only_when_asked(client, put, change):
    part = put("tool-tray")
    gauge = gauge_of(client, part.line.material.name, 1.5)
    before = blank_of(client, part)

    body = {"method": "k", "points": [{"value": 0.33, "origin": "measured"}]}
    assert client.patch(f"/api/stores/gauges/{gauge['id']}", body, **JSON).status_code == 200

    kept = blank_of(client, part)
    assert kept["chart_has_moved"]
    assert kept["width"] == before["width"]
    change(part, is_turned_over=True)
    assert blank_of(client, part)["width"] == before["width"]

    taken = change(part, take_chart=True, is_turned_over=False)
    assert not taken["chart_has_moved"]
    assert taken["width"] < before["width"]
    assert "measured" in taken["bends"][0]["origin"]


def test_one_bend_can_have_its_own_radius_or_factor(client, put, change):
    part = put("pump-bracket")
    before = blank_of(client, part)
    (bend,) = before["bends"]

    own = change(part, bend=1, bend_radius=4.0)

    # The outside sizes stay: the blank changes by the difference of the deductions.
    (changed,) = own["bends"]
    assert changed["inside_radius"] == 4.0
    assert own["width"] - before["width"] == pytest.approx(
        bend["deduction"] - changed["deduction"], abs=1e-6
    )
    assert own["bend_rules"] == {"1": {"radius": 4.0, "k": None}}
    assert changed["origin"] == "typed for this bend"
    sharp = change(part, bend=1, bend_radius=0.0)
    assert sharp["bends"][0]["inside_radius"] == 0.0
    back = change(part, bend=1, clear_bend=True)
    assert back == before


def test_corners_grain_and_bend_line_marks_reach_the_dxf(client, drop, change, tmp_path):
    shape = profile([40, (90, 2), 60], thickness=2, wide=75)
    part = drop("angle.step", step_bytes(shape, tmp_path))
    before = blank_of(client, part)

    now = change(
        part,
        corners=[{"kind": "round", "size": 3.0, "side": "outside"}],
        line_marks={"style": "ticks", "length": 5.0, "etched": False},
        grain="along",
    )

    rounded = sum(f["code"] == "corners-treated" for f in now["findings"])
    assert rounded == 1
    lost = 4 * (1 - math.pi / 4) * 9
    assert before["area"] - now["area"] == pytest.approx(lost, abs=1e-6)
    text = client.get(f"/api/parts/{part.pk}/files/dxf").content.decode()
    document = ezdxf.read(io.StringIO(text))
    ticks = document.modelspace().query("LINE[layer=='BEND_UP']")
    ticks = ticks or document.modelspace().query("LINE[layer=='BEND_DOWN']")
    assert [e.dxf.start.distance(e.dxf.end) for e in ticks] == pytest.approx([5.0, 5.0])


@pytest.mark.parametrize(
    "laid", [{"turn": 180}, {"is_turned_over": True}, {"turn": 90, "is_turned_over": True}]
)
def test_the_part_is_bent_in_the_wanted_order_however_its_blank_is_laid(client, put, change, laid):
    part = put("tool-tray")

    def places():
        rows = Blank.objects.get(part=part).document["bends"]
        return [row["place"] for row in sorted(rows, key=lambda row: row["sequence"])]

    change(part, sequence=[3, 1, 4, 2])
    wanted = places()
    change(part, **laid)
    assert places() == wanted
    change(part, turn=0, is_turned_over=False)

    shown = change(part, own_k=0.4)["bends"]
    assert [b["id"] for b in sorted(shown, key=lambda b: b["sequence"])] == [3, 1, 4, 2]


@pytest.mark.parametrize(
    "laid", [{"turn": 180}, {"is_turned_over": True}, {"own_k": 0.1}, {"turn": 90, "own_k": 0.6}]
)
def test_a_chosen_corner_stays_the_one_that_was_chosen(client, put, change, laid):
    part = put("tool-tray")
    change(part, own_k=0.44)
    before = Blank.objects.get(part=part)
    rows = before.document["outer"]
    at = next(rows[i] for i in range(len(rows)) if len(rows[i - 1]) == len(rows[i]) == 2)
    rule = {"kind": "round", "size": 1.0, "side": "all", "chosen": [at]}
    rounded = change(part, corners=[rule])
    assert next(f for f in rounded["findings"] if f["code"] == "corners-treated")["text"][0] == "1"

    laid_so = change(part, **laid)

    found = next(f for f in laid_so["findings"] if f["code"] == "corners-treated")
    assert found["text"].startswith("1 corner is rounded")
    assert "no such corner" not in found["text"]
    (there,) = laid_so["corners"][0]["chosen"]
    assert there != pytest.approx(at, abs=0.5)
    back = change(part, turn=0, is_turned_over=False, own_k=0.44)
    assert back["corners"][0]["chosen"][0] == pytest.approx(at, abs=1e-6)
    assert Blank.objects.get(part=part).digest != before.digest


def test_a_blank_without_its_tips_still_starts_at_its_corner(client, drop, change):
    """A triangle's outermost points are its tips; corners are chosen by where they were."""
    part = drop("gusset.dxf", drawing(units=4, bends=False, outline=[(0, 0), (120, 0), (60, 90)]))
    client.patch(f"/api/parts/{part.pk}/given", {"thickness": 2.0}, **JSON)
    rule = {"kind": "round", "size": 5.0, "side": "outside", "chosen": []}

    now = change(part, corners=[rule])

    document = BlankDocument.model_validate(Blank.objects.get(part=part).document)
    assert region_of_document(document).outer.bounds[:2] == pytest.approx((0, 0), abs=1e-6)
    half = math.atan2(90, 60) / 2
    # Beyond its round a tip of the base ends so much earlier, and the blank begins there.
    lost = 5 / math.tan(half) - 5
    assert now["width"] == pytest.approx(120 - 2 * lost)
    corners = {tuple(c["at"]): c for c in now["sharp_corners"]}
    assert sorted(corners) == [pytest.approx(p, abs=1e-6) for p in [(0, 0), (60, 90), (120, 0)]]
    assert all(c["shown"] == pytest.approx((x - lost, y)) for (x, y), c in corners.items())

    chosen = [c["at"] for (x, _), c in corners.items() if x < 100]
    some = change(part, corners=[{**rule, "chosen": chosen}])

    text = next(f["text"] for f in some["findings"] if f["code"] == "corners-treated")
    assert text == "2 corners are rounded by 5 mm in the flat, not in the model."
    assert some["width"] == pytest.approx(120 - lost)


def test_a_corner_that_is_not_there_is_told(put, change):
    part = put("tool-tray")
    rule = {"kind": "round", "size": 1.0, "side": "all", "chosen": [[-50.0, -50.0]]}

    found = change(part, corners=[rule])["findings"]

    text = next(f["text"] for f in found if f["code"] == "corners-treated")
    assert text.startswith("0 corners are")
    assert "no such corner there: 1" in text


def test_the_grain_of_a_part_stays_however_its_blank_is_turned(client, put, change):
    part = put("tool-tray")

    assert change(part, grain="along")["grain"] == "along"
    assert change(part, turn=90)["grain"] == "across"
    assert change(part, is_turned_over=True)["grain"] == "across"
    assert change(part, own_k=0.3)["grain"] == "across"
    assert change(part, turn=180)["grain"] == "along"
    assert change(part, turn=90, grain="")["grain"] == ""


def test_tables_go_out_and_come_back_and_a_wrong_line_changes_nothing(client):
    text = client.get("/api/stores/tables/steel").content.decode()
    assert "deduction" in text
    put = client.put("/api/stores/tables/steel", {"text": text, "name": "steel.csv"}, **JSON)
    assert put.status_code == 200
    assert client.get("/api/stores/tables/steel").content.decode() == text

    bad = text + "3,deduction,90,3,,abc,typed\n"
    lines = len(text.splitlines()) + 1
    answer = client.put("/api/stores/tables/steel", {"text": bad, "name": "steel.csv"}, **JSON)
    assert answer.status_code == 422
    assert f"steel.csv line {lines}" in answer.json()["detail"] + json.dumps(answer.json())
    assert client.get("/api/stores/tables/steel").content.decode() == text

    materials = client.get("/api/stores/tables/materials").content.decode()
    more = materials + "card,Solid card,700,0.9,20,folds with no stretch,1.5,,0.1 0.5\n"
    client.put("/api/stores/tables/materials", {"text": more, "name": "m.csv"}, **JSON)
    assert gauge_of(client, "card", 1.5)["radii"] == [0.1, 0.5]


@pytest.mark.parametrize(
    ("row", "text"),
    [
        ("card,Solid card,800,0.9,20,,2,,0.1", "density of card is another than in m.csv line 2"),
        ("card,Card,700,0.9,20,,2,,0.1", "title of card is another"),
        ("card,Solid card,700,0.9,20,,1.5,,0.1", "1.5 mm of card stands in m.csv line 2 already"),
        ("felt,Felt,200,-1,20,,3,,0.1", "price is -1, it must not be below 0"),
        ("felt,Felt,200,1,-20,,3,,0.1", "tensile is -20, it must not be below 0"),
        ("felt,Felt,200,1,20,,3,,nan", "radii is 'nan'"),
        ("felt,Felt,200,1,20,,3,,0.5 -1", "radii is '0.5 -1'"),
        ("fel t,Felt,200,1,20,,3,,1", "name is 'fel t'"),
    ],
)
def test_a_material_that_cannot_be_is_told_by_its_line(client, row, text):
    materials = client.get("/api/stores/tables/materials").content.decode()
    rows = f"{materials.splitlines()[0]}\ncard,Solid card,700,0.9,20,,1.5,,0.1\n{row}\n"

    answer = client.put("/api/stores/tables/materials", {"text": rows, "name": "m.csv"}, **JSON)

    assert answer.status_code == 422
    assert text in answer.json()["detail"]
    assert "m.csv line 3" in answer.json()["where"]
    assert client.get("/api/stores/tables/materials").content.decode() == materials


def test_a_gauge_is_copied_and_one_in_use_does_not_vanish(client, put):
    part = put("tool-tray")
    gauge = gauge_of(client, part.line.material.name, 1.5)
    address = f"/api/stores/gauges/{gauge['id']}"

    assert client.post(address, {"thickness": 1.6}, **JSON).status_code == 201
    assert client.post(address, {"thickness": 1.6}, **JSON).status_code == 422
    refused = client.delete(address)

    assert refused.status_code == 422
    assert "1 part uses 1.5" in refused.json()["detail"]
    copy = gauge_of(client, part.line.material.name, 1.6)
    assert client.delete(f"/api/stores/gauges/{copy['id']}").status_code == 200


def test_limits_change_what_is_found(client, put):
    part = put("tool-tray")
    assert "blank-over-machine" not in {f["code"] for f in blank_of(client, part)["findings"]}

    values = {"blank_width": 300, "blank_height": 200}
    client.patch("/api/stores/limits", {"values": values}, **JSON)

    first = blank_of(client, part)["findings"][0]
    assert (first["level"], first["code"]) == ("error", "blank-over-machine")
    assert client.patch("/api/stores/limits", {"values": {"mood": 1}}, **JSON).status_code == 422


def test_a_drawing_asks_for_its_unit_and_thickness_and_then_folds(client, drop, change):
    part = drop("plate.dxf", drawing(units=0))
    assert part.state == Part.State.ASKING
    rack = client.get(f"/api/orders/{part.line.order_id}/rack").json()["lines"][0]
    assert (rack["drawn"]["width"], rack["drawn"]["unit"]) == (6.0, None)
    assert "its unit nor its thickness" in rack["what"]

    address = f"/api/parts/{part.pk}/given"
    assert client.patch(address, {"unit": 25.4, "thickness": 1.5}, **JSON).status_code == 204
    reading.read_part(part.pk, "plate.dxf")

    blank = blank_of(client, part)
    assert (blank["width"], blank["height"]) == pytest.approx((152.4, 101.6))
    assert [b["angle"] for b in blank["bends"]] == [90.0]
    assert "bend-data-missing" in {f["code"] for f in blank["findings"]}
    row = {"angle": 45.0, "radius": 3.0, "up": False}
    assert client.patch(address, {"bends": [row]}, **JSON).status_code == 204
    blank = blank_of(client, part)
    assert blank["width"] == pytest.approx(152.4)
    (bend,) = blank["bends"]
    assert (bend["angle"], bend["inside_radius"], bend["direction"]) == (45.0, 3.0, "down")
    assert "bend-data-missing" not in {f["code"] for f in blank["findings"]}
    # The flat is the drawing's whatever the factor: only the folded part follows it.
    own = change(part, own_k=0.2)
    assert (own["width"], own["bends"][0]["k"]) == (pytest.approx(152.4), 0.2)
    assert client.get(f"/api/parts/{part.pk}/mesh").json()["pieces"][1]["joint"] is not None
    # And so can the folded part be had for whoever designs beside it.
    solid = client.get(f"/api/parts/{part.pk}/files/step")
    assert solid.content.startswith(b"ISO-10303-21;")


def test_what_is_given_while_a_drawing_is_read_again_waits_for_its_scale(client, drop):
    part = drop("plate.dxf", drawing(units=0))
    address = f"/api/parts/{part.pk}/given"

    # Both before a worker comes to it: the flat must not be folded in unscaled lengths.
    client.patch(address, {"unit": 25.4}, **JSON)
    client.patch(address, {"thickness": 1.5}, **JSON)
    assert Part.objects.get(pk=part.pk).state == Part.State.READING
    reading.read_part(part.pk, "plate.dxf")

    blank = blank_of(client, part)
    assert (blank["width"], blank["thickness"]) == (pytest.approx(152.4), 1.5)


def test_bends_too_near_for_the_thickness_as_radius_are_given_before_it(client, drop):
    part = drop("joggle.dxf", drawing(lines=(30, 33.2, 60), size=(100, 40)))
    address = f"/api/parts/{part.pk}/given"

    def rows():
        return client.get(f"/api/orders/{part.line.order_id}/rack").json()["lines"][0]["drawn"]

    assert [b["radius"] for b in rows()["bends"]] == [None, None, None]
    refused = client.patch(address, {"thickness": 1.5}, **JSON)
    assert refused.status_code == 422
    assert "run into each other" in refused.json()["detail"]
    assert "Give smaller radii" in refused.json()["fix"]
    tight = [{**b, "radius": 0.3} if i < 2 else b for i, b in enumerate(rows()["bends"])]
    assert client.patch(address, {"bends": tight}, **JSON).status_code == 204
    assert client.patch(address, {"thickness": 1.5}, **JSON).status_code == 204

    assert [b["inside_radius"] for b in blank_of(client, part)["bends"]] == [0.3, 0.3, 1.5]
    # What is not given goes on following the thickness.
    assert client.patch(address, {"thickness": 1.0}, **JSON).status_code == 204
    assert [b["inside_radius"] for b in blank_of(client, part)["bends"]] == [0.3, 0.3, 1.0]


def test_bends_that_do_not_fit_a_drawing_change_nothing(client, drop):
    part = drop("plate.dxf", drawing(units=1))
    address = f"/api/parts/{part.pk}/given"
    client.patch(address, {"thickness": 1.5}, **JSON)
    before = blank_of(client, part)

    row = {"angle": 90.0, "radius": 90.0, "up": True}
    answer = client.patch(address, {"bends": [row]}, **JSON)

    assert answer.status_code == 422
    assert "does not fit beside its line" in answer.json()["detail"]
    assert blank_of(client, part) == before


def step_bytes(shape, folder):
    path = folder / "made.step"
    write_step(shape, path)
    return path.read_bytes()


def test_a_refused_solid_can_be_looked_at_where_it_is_wrong(client, drop, tmp_path):
    stepped = joined(box(0, 0, 0, 100, 60, 2), box(60, 0, 0, 60, 60, 3))
    part = drop("stepped.step", step_bytes(stepped, tmp_path))
    assert part.state == Part.State.REFUSED
    assert "3.00 mm here" in part.what

    shell = client.get(f"/api/parts/{part.pk}/shell").json()

    assert len(shell["triangles"]) % 9 == 0
    assert len(shell["triangles"]) > 90
    assert len(shell["spot"]) == 3


@pytest.fixture
def revise(client):
    """Drop a newer file on a part and read it as a worker would."""

    def drop_and_read(part, name, content):
        file = SimpleUploadedFile(name, content)
        assert client.post(f"/api/parts/{part.pk}/revision", {"file": file}).status_code == 204
        reading.read_revision(part.pk, hashlib.sha256(content).hexdigest(), name)
        return blank_of(client, part)

    return drop_and_read


def test_a_part_that_does_not_lie_flat_does_not_keep_the_others_of_its_file(client, drop, tmp_path):
    half = profile([20, (90, 3), 34, (90, 3), 20], thickness=2, wide=100)
    ring = joined(half, turned(half, (0, 1, 0), 180, (0, 0, 44)))
    both, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(both)
    for shape in (
        profile([40, (90, 2), 60], thickness=2, wide=75),
        turned(ring, (0, 0, 1), 0, (500, 0, 0)),
    ):
        builder.Add(both, shape)

    drop("both.step", step_bytes(both, tmp_path))

    sound, refused = sorted(Part.objects.all(), key=lambda p: p.state)
    assert (sound.state, refused.state) == ("ready", "refused")
    assert len(blank_of(client, sound)["bends"]) == 1
    assert "close a ring" in refused.what
    assert "seam" in refused.fix


def test_a_revision_shows_what_changed_and_a_bad_one_changes_nothing(
    client, drop, revise, tmp_path
):
    steps = [40, (90, 2), 60]
    part = drop("angle.step", step_bytes(profile(steps, thickness=2, wide=75), tmp_path))
    before = blank_of(client, part)

    longer = step_bytes(profile([40, (90, 2), 70], thickness=2, wide=75), tmp_path)
    after = revise(part, "angle.step", longer)

    assert after["revision"] == 2
    assert after["width"] == pytest.approx(before["width"] + 10)
    assert any(c["kind"] == "outline" for c in after["changes"])
    assert after["previous_outer"] == before["outer"]

    stepped = joined(box(0, 0, 0, 100, 60, 2), box(60, 0, 0, 60, 60, 3))
    refused = revise(part, "angle.step", step_bytes(stepped, tmp_path))
    assert "not constant" in refused["revision_fault"]
    assert {**refused, "revision_fault": ""} == after


def lies(client, part):
    """How a blank lies and what is settled for it, bends by what they are in the model."""
    blank = blank_of(client, part)
    row = Blank.objects.get(part=part)
    places = {b["id"]: b["place"] for b in row.document["bends"]}
    frames = part_frames(part)
    sequence = sorted(blank["bends"], key=lambda b: b["sequence"])
    return {
        "sequence": [frames[places[b["id"]]] for b in sequence],
        "rules": {frames[places[int(n)]]: rule for n, rule in blank["bend_rules"].items()},
        "face": [(frames[places[b["id"]]], b["direction"]) for b in sequence],
        "wide": blank["width"] > blank["height"],
    }


def part_frames(part):
    """Where each bend of the folded part as it is now has its axis, told by its height and x."""
    bends = Part.objects.get(pk=part.pk).folded["bends"]
    return [tuple(round(v) for v in b["frame"]["origin"][::2]) for b in bends]


def test_a_revision_keeps_what_was_settled(client, drop, revise, change, tmp_path):
    """Anchor, side, turn, order of bending, a bend's own radius: by the pieces, not by numbers."""
    steps = [40, (90, 2), 60, (-90, 2), 25]
    part = drop("zed.step", step_bytes(profile(steps, thickness=2, wide=120), tmp_path))
    change(part, is_turned_over=True, turn=90, anchor=3)
    change(part, sequence=[2, 1], bend=1, bend_radius=3.0)
    before = lies(client, part)

    longer = [*steps[:4], 32, (90, 2), 15]
    after = revise(part, "zed.step", step_bytes(profile(longer, thickness=2, wide=120), tmp_path))

    now = lies(client, part)
    assert now["sequence"][:2] == before["sequence"]
    assert len(now["sequence"]) == 3
    assert now["rules"] == before["rules"]
    assert now["face"][:2] == before["face"]
    kept = Blank.objects.get(part=part)
    panels = Part.objects.get(pk=part.pk).folded["panels"]
    assert round(panels[kept.anchor - 1]["frame"]["z"][2]) != 0
    assert (after["turn"], after["is_turned_over"]) == (90, True)
    assert sum("added" in c["text"] for c in after["changes"]) == 1


@pytest.mark.parametrize(
    "settled",
    [
        {},
        {"turn": 90, "anchor": 2},
        {"is_turned_over": True, "turn": 180},
        {"anchor": 3, "turn": 30},
    ],
)
def test_the_same_part_modelled_elsewhere_has_no_change(
    client, drop, revise, change, settled, tmp_path
):
    shape = less(
        profile([40, (90, 2), 60, (-45, 3), 25], thickness=2, wide=120), box(5, 10, -5, 12, 30, 20)
    )
    part = drop("zed.step", step_bytes(shape, tmp_path))
    change(part, **settled)
    change(part, sequence=[2, 1], bend=2, bend_k=0.4)
    before = blank_of(client, part)

    after = revise(
        part, "zed.step", step_bytes(turned(shape, (1, 2, 3), 130, (50, 60, 70)), tmp_path)
    )

    assert after["changes"] == []
    told = ("id", "direction", "angle", "k", "sequence", "from_edge")
    assert [[b[t] for t in told] for b in after["bends"]] == [
        [pytest.approx(b[t]) if isinstance(b[t], float) else b[t] for t in told]
        for b in before["bends"]
    ]


def test_a_flange_that_outgrows_the_base_turns_nothing_over(client, drop, revise, change, tmp_path):
    """The largest panel says what is up and which way is straight; a revision lies as before."""
    part = drop("lip.step", step_bytes(profile([60, (90, 2), 40], thickness=2, wide=75), tmp_path))
    change(part, grain="along")
    before = blank_of(client, part)

    after = revise(
        part, "lip.step", step_bytes(profile([20, (90, 2), 40], thickness=2, wide=75), tmp_path)
    )

    assert [b["direction"] for b in after["bends"]] == [b["direction"] for b in before["bends"]]
    assert after["height"] == pytest.approx(before["height"])
    assert after["width"] == pytest.approx(before["width"] - 40)
    assert after["grain"] == "along"
    assert [c["kind"] for c in after["changes"] if c["kind"] != "outline"] in ([], ["bend"])


@pytest.mark.parametrize("at", [0, 2, 4])
def test_what_a_longer_length_only_moves_along_is_no_change(
    client, drop, revise, change, tmp_path, at
):
    """Blanks are laid on each other by the panel both have, and stay so however they are laid."""
    steps = [40, (90, 2), 60, (-90, 2), 25]
    wide = [box(52, 20, 10, -20, 8, 8), box(52, 60, 30, -20, 8, 8)]

    def solid(lengths):
        shape = profile(lengths, thickness=2, wide=120)
        # The holes are in the standing panel and move with it.
        return less(shape, *(turned(b, (0, 0, 1), 0, (lengths[0] - 40, 0, 0)) for b in wide))

    part = drop("zed.step", step_bytes(solid(steps), tmp_path))
    before = blank_of(client, part)
    longer = [s + 10 if i == at else s for i, s in enumerate(steps)]

    after = revise(part, "zed.step", step_bytes(solid(longer), tmp_path))

    assert len(before["holes"]) == 2
    told = [c["text"] for c in after["changes"]]
    assert [t.split(" ")[0] for t in told if not t.startswith("Bend")] == ["Blank"]
    assert len(told) == (2 if at == 2 else 1), told
    for laid in ({"turn": 90}, {"is_turned_over": True}, {"turn": 180}, {"anchor": 2}):
        again = change(part, **laid)["changes"]
        assert len(again) == len(told), again


def test_a_newer_drawing_keeps_what_was_given_of_lines_that_are_still_there(client, drop, revise):
    def sheet(lines, size=(300, 80)):
        return drawing(units=4, lines=lines, size=size)

    part = drop("flat.dxf", sheet((60, 200)))
    rows = [{"angle": 45.0, "radius": 3.0, "up": False}, {"angle": 30.0, "radius": 2.0, "up": True}]
    client.patch(f"/api/parts/{part.pk}/given", {"thickness": 1.5, "bends": rows}, **JSON)

    moved = revise(part, "flat.dxf", sheet((63, 200), (310, 80)))

    assert [(b["angle"], b["direction"]) for b in moved["bends"]] == [(45, "down"), (30, "up")]
    assert "bend-data-missing" not in {f["code"] for f in moved["findings"]}

    more = revise(part, "flat.dxf", sheet((63, 130, 200), (310, 80)))

    assert [b["angle"] for b in more["bends"]] == [45, 90, 30]
    (untold,) = [f for f in more["findings"] if f["code"] == "bend-data-missing"]
    assert untold["text"].startswith("The drawing does not say how 1 of its 3 bends is made: it is")


def test_a_drawing_and_a_solid_can_follow_each_other(client, drop, revise, tmp_path):
    part = drop("plate.dxf", drawing(units=1))
    row = {"angle": 45.0, "radius": 3.0, "up": False}
    body = {"thickness": 1.5, "bends": [row]}
    client.patch(f"/api/parts/{part.pk}/given", body, **JSON)

    # The same bend lines keep what was given of them, other lines do not.
    same = revise(part, "plate.dxf", drawing(units=1) + b"\n")
    assert [b["angle"] for b in same["bends"]] == [45.0]
    flat = revise(part, "plate.dxf", drawing(units=1, bends=False))
    assert (flat["revision"], flat["bends"]) == (3, [])
    other = revise(part, "plate.dxf", drawing(units=1))
    assert [b["angle"] for b in other["bends"]] == [90.0]

    solid = step_bytes(profile([40, (90, 2), 60], thickness=2, wide=75), tmp_path)
    bent = revise(part, "plate.step", solid)
    rack = client.get(f"/api/orders/{part.line.order_id}/rack").json()["lines"][0]
    assert (bent["thickness"], rack["drawn"]) == (2.0, None)
    assert bent["height"] == pytest.approx(75)


def test_the_same_part_under_two_names_is_offered_as_one(client, drop, order, tmp_path):
    shape = profile([40, (90, 2), 60], thickness=2, wide=75)
    drop("angle.step", step_bytes(shape, tmp_path))
    turned_round = profile([60, (90, 2), 40], thickness=2, wide=75)
    twin = drop("bracket.step", step_bytes(turned_round, tmp_path))
    other = drop(
        "longer.step", step_bytes(profile([40, (90, 2), 61], thickness=2, wide=75), tmp_path)
    )

    assert blank_of(client, twin)["twin"] == "angle"
    assert blank_of(client, other)["twin"] is None
    assert client.post(f"/api/parts/{twin.pk}/twin").status_code == 204

    assert [(x.part.name, x.quantity) for x in order.lines.all()] == [("angle", 2), ("longer", 1)]
    assert OrderLine.objects.filter(order=Order.objects.get()).count() == 2


@pytest.fixture
def twins(drop, tmp_path):
    """The same plate twice."""
    files = [
        ("one.step", profile([80], thickness=2, wide=40)),
        ("two.step", profile([80], thickness=2, wide=40)),
    ]
    return [drop(name, step_bytes(shape, tmp_path)) for name, shape in files]


def test_twins_of_which_the_grain_must_run_otherwise_are_no_twins(client, change, twins):
    one, two = twins
    assert blank_of(client, two)["twin"] == "one"

    change(two, grain="along")
    assert blank_of(client, two)["twin"] is None
    change(one, grain="across")
    assert blank_of(client, two)["twin"] is None
    # Laid a quarter turn on, the other one's grain is called across too.
    assert change(two, turn=90)["grain"] == "across"
    assert blank_of(client, two)["twin"] is None
    change(one, grain="along")
    assert blank_of(client, two)["twin"] == "one"


@pytest.mark.parametrize("rule", [{"priority": 3}, {"is_filler": True}, {"may_mirror": True}])
def test_what_is_nested_by_other_rules_is_not_offered_as_one(client, twins, rule):
    one, two = twins
    assert client.patch(f"/api/lines/{two.line.pk}", rule, **JSON).status_code == 200

    assert blank_of(client, two)["twin"] is None
    assert client.post(f"/api/parts/{two.pk}/twin").status_code == 422
    client.patch(f"/api/lines/{one.line.pk}", rule, **JSON)
    assert blank_of(client, two)["twin"] == "one"


def test_what_is_marked_otherwise_at_its_bends_is_not_offered_as_one(
    client, drop, change, tmp_path
):
    one, two = (
        drop(f"{name}.step", step_bytes(profile([40, (90, 2), 60], thickness=2, wide=75), tmp_path))
        for name in ("one", "two")
    )
    assert blank_of(client, two)["twin"] == "one"

    ticks = {"style": "ticks", "length": 5.0, "etched": False}
    change(two, line_marks=ticks)
    assert blank_of(client, two)["twin"] is None
    change(one, line_marks=ticks)
    assert blank_of(client, two)["twin"] == "one"
