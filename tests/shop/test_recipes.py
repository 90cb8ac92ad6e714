"""Parts built here: begun, changed, undone, and changes that cannot be."""

import json

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from OCP.BRepPrimAPI import BRepPrimAPI_MakeWedge

from kaigata.core.part.recipe import starters
from kaigata.shop.models import Part
from kaigata.shop.services import reading
from tests.solids import box, write_step

JSON = {"content_type": "application/json"}


@pytest.fixture
def begin(client, order):
    """Begin a part from a recipe and read it at once, as a worker would."""

    def begun(name):
        answer = client.post(f"/api/orders/{order.pk}/recipes", {"starter": name}, **JSON)
        assert answer.status_code == 201, answer.json()
        line = order.lines.get(pk=answer.json()["id"])
        reading.read_part(line.part.pk, line.part.source.name)
        return Part.objects.get(pk=line.part.pk)

    return begun


def shown(client, part):
    return client.get(f"/api/parts/{part.pk}/recipe").json()


def change_to(client, part, recipe, seen):
    body = {"recipe": recipe, "seen": seen}
    return client.put(f"/api/parts/{part.pk}/recipe", body, **JSON)


def test_each_recipe_to_start_from_becomes_a_blank_without_findings(client, begin):
    listed = client.get("/api/recipes").json()["starters"]
    assert [s["name"] for s in listed] == [*starters()]
    for name in starters():
        part = begin(name)
        assert part.state == "ready"
        found = client.get(f"/api/parts/{part.pk}/blank").json()["findings"]
        # The rack has the plain words; which dies the shop has is its own.
        assert not [f for f in found if f["level"] != "note"], (name, found)


def test_a_changed_dimension_makes_the_next_revision(client, begin):
    part = begin("angle")
    before = shown(client, part)
    wide = client.get(f"/api/parts/{part.pk}/blank").json()["width"]
    sizes = {d["name"]: d for d in before["dimensions"]}
    assert (sizes["other_leg"]["value"], sizes["inside_radius"]["said"]) == (40, "thickness")
    assert before["sentences"][0].startswith("Begin with the panel base, 200 (length) x 60 mm")

    recipe = before["recipe"]
    recipe["dimensions"]["length"] = "2 * one_leg + 100"
    answer = change_to(client, part, recipe, before["seen"])

    assert answer.status_code == 200
    assert {d["name"]: d["value"] for d in answer.json()["dimensions"]}["length"] == 220
    blank = client.get(f"/api/parts/{part.pk}/blank").json()
    assert (blank["revision"], blank["width"] - wide) == (2, pytest.approx(20))
    assert blank["changes"]
    # Taking it back is the same way: what was there goes back.
    recipe["dimensions"]["length"] = 200
    assert change_to(client, part, recipe, answer.json()["seen"]).status_code == 200
    blank = client.get(f"/api/parts/{part.pk}/blank").json()
    assert (blank["revision"], blank["width"]) == (3, wide)


def test_steps_are_added(client, begin):
    part = begin("channel")
    was = shown(client, part)
    was["recipe"]["steps"].append(
        {"do": "hole", "panel": "leg-2", "at": [30, 25], "diameter": 9,
         "repeat": {"columns": 4, "pitch": [80, 0]}}
    )  # fmt: skip
    now = change_to(client, part, was["recipe"], was["seen"]).json()
    assert now["sentences"][-1].startswith("Cut a hole 9 mm across in leg-2 at 30, 25 mm, 4 across")
    assert len(client.get(f"/api/parts/{part.pk}/blank").json()["holes"]) == 4


@pytest.mark.parametrize(
    ("change", "status", "said"),
    [
        ({"dimensions": {"length": "lenght * 2", "one_leg": 60, "other_leg": 40, "turned": 90}},
         422, "'lenght', which is no dimension"),
        ({"dimensions": {"length": 200, "one_leg": 60, "other_leg": 2, "turned": 90}},
         422, "the flange is 2 mm long, of which its bend takes 4 mm"),
        ({"thickness": 0}, 422, "the thickness is 0 mm"),
        ({"steps": []}, 400, "not be empty"),
        ({"colour": "red"}, 400, "not known"),
    ],
)  # fmt: skip
def test_a_change_that_cannot_be_made_changes_nothing(client, begin, change, status, said):
    part = begin("angle")
    was = shown(client, part)
    answer = change_to(client, part, {**was["recipe"], **change}, was["seen"])
    assert answer.status_code == status
    assert said in json.dumps(answer.json())
    assert shown(client, part) == was
    assert Part.objects.get(pk=part.pk).revision == 1


def test_of_two_windows_the_second_is_told(client, begin):
    part = begin("angle")
    was = shown(client, part)
    first = {**was["recipe"], "thickness": 3}
    assert change_to(client, part, first, was["seen"]).status_code == 200
    late = change_to(client, part, {**was["recipe"], "thickness": 1}, was["seen"])
    assert late.status_code == 409
    assert "changed meanwhile" in late.json()["detail"]
    assert Part.objects.get(pk=part.pk).thickness == 3


def test_the_recipe_comes_back_as_a_file_that_builds_the_same_part(client, order, begin):
    part = begin("tray")
    answer = client.get(f"/api/parts/{part.pk}/recipe/file")
    assert answer["Content-Disposition"] == 'attachment; filename="Tray.json"'
    # Dropped again, as any file.
    file = SimpleUploadedFile("again.json", answer.content.replace(b'"Tray"', b'"Again"'))
    line = client.post(f"/api/orders/{order.pk}/files", {"file": file}).json()
    again = order.lines.get(pk=line["id"]).part
    reading.read_part(again.pk, again.source.name)
    one, two = (client.get(f"/api/parts/{p.pk}/blank").json() for p in (part, again))
    assert (one["width"], one["height"], one["outer"]) == (
        two["width"],
        two["height"],
        two["outer"],
    )


def test_the_folded_part_comes_as_a_solid_that_unfolds_alike(client, order, begin):
    part = begin("strap")
    answer = client.get(f"/api/parts/{part.pk}/files/step")
    assert answer["Content-Disposition"] == 'attachment; filename="Stepped-strap.step"'
    file = SimpleUploadedFile("solid.step", answer.content)
    line = client.post(f"/api/orders/{order.pk}/files", {"file": file}).json()
    again = order.lines.get(pk=line["id"]).part
    reading.read_part(again.pk, again.source.name)
    one, two = (client.get(f"/api/parts/{p.pk}/blank").json() for p in (part, again))
    assert sorted((one["width"], one["height"])) == pytest.approx(
        sorted((two["width"], two["height"])), abs=1e-4
    )
    assert two["area"] == pytest.approx(one["area"])
    assert [b["direction"] for b in one["bends"]].count("up") == 1


@pytest.mark.parametrize(
    ("content", "said"),
    [
        (b'{"spacing": 5, "parts": []}', "$.kind is missing"),
        (b"{", "it is no JSON"),
        ((b'{"kind": "fold-recipe", "part": "x", "thickness": 1, "steps": [{"do": "panel", '
         b'"name": "base", "rectangle": [-5, 9]}]}'), "a side of the rectangle is -5 mm"),
    ],
)  # fmt: skip
def test_a_file_that_is_no_recipe_is_refused_with_why(client, order, content, said):
    file = SimpleUploadedFile("made.json", content)
    line = client.post(f"/api/orders/{order.pk}/files", {"file": file}).json()
    part = order.lines.get(pk=line["id"]).part
    reading.read_part(part.pk, part.source.name)
    part.refresh_from_db()
    assert part.state == "refused"
    assert said in part.what
    assert part.where.startswith("made.json")


def test_what_came_as_a_solid_has_no_recipe(client, order, put):
    part = put("pump-bracket")
    answer = client.get(f"/api/parts/{part.pk}/recipe")
    assert answer.status_code == 422
    assert "not built here" in answer.json()["detail"]
    nothing = client.post(f"/api/orders/{order.pk}/recipes", {"starter": "chair"}, **JSON)
    assert nothing.status_code == 422
    assert "Known are plate, strap" in nothing.json()["fix"]


def test_a_shell_tells_its_faces_and_its_nets(client, begin):
    part = begin("box")
    shell = client.get(f"/api/parts/{part.pk}/recipe/nets").json()
    faces = {f["name"]: f for f in shell["faces"]}
    assert faces["top"]["is_open"]
    assert faces["bottom"]["hangs_on"] is None
    assert {f["hangs_on"] for n, f in faces.items() if n.startswith("side")} == {"bottom"}
    assert [(b["face"], b["length"], b["turn"]) for b in faces["side-2"]["beside"]] == [
        ("bottom", 140, 90), ("side-1", 90, 90), ("side-3", 90, 90), ("top", 140, 90),
    ]  # fmt: skip
    nets = shell["nets"]
    sizes = [n["width"] * n["height"] for n in nets[1:]]
    assert sizes == pytest.approx(sorted(sizes), rel=0.02)
    star = nets[0]
    assert all("bottom" in pair for pair in star["bent"])
    blank = client.get(f"/api/parts/{part.pk}/blank").json()
    assert (star["width"], star["height"]) == pytest.approx((blank["width"], blank["height"]))

    # Another net is another blank, of the size that was told.
    told = max(nets, key=lambda n: max(n["width"], n["height"]))
    now = shown(client, part)
    now["recipe"]["steps"][0]["bent"] = told["bent"]
    assert change_to(client, part, now["recipe"], now["seen"]).status_code == 200
    blank = client.get(f"/api/parts/{part.pk}/blank").json()
    assert (blank["width"], blank["height"]) == pytest.approx((told["width"], told["height"]))
    faces = client.get(f"/api/parts/{part.pk}/recipe/nets").json()["faces"]
    hung = {frozenset((f["name"], f["hangs_on"])) for f in faces if f["hangs_on"]}
    assert hung == {frozenset(pair) for pair in told["bent"]}


def test_nets_that_do_not_suit_a_later_step_are_not_offered(client, begin):
    part = begin("box")
    every = client.get(f"/api/parts/{part.pk}/recipe/nets").json()["nets"]
    now = shown(client, part)
    now["recipe"]["steps"].append(
        {
            "do": "fold",
            "panel": "box-side-2",
            "name": "rim",
            "line": [[140, 45], [0, 45]],
            "angle": 9,
        }
    )
    assert change_to(client, part, now["recipe"], now["seen"]).status_code == 200
    nets = client.get(f"/api/parts/{part.pk}/recipe/nets").json()["nets"]
    # The line lies across the sides of that wall, so none of them can be bent.
    assert 1 < len(nets) < len(every)
    for net in nets:
        assert [{*pair} for pair in net["bent"] if "side-2" in pair] == [{"bottom", "side-2"}]


def test_a_part_that_is_no_shell_has_no_faces(client, begin):
    part = begin("tray")
    assert client.get(f"/api/parts/{part.pk}/recipe/nets").json() == {"faces": [], "nets": []}


@pytest.fixture
def came(order, tmp_path):
    """Put a solid onto the rack and read it."""

    def read(shape):
        write_step(shape, tmp_path / "chute.step")
        line = reading.put_on_rack(order, "chute.step", (tmp_path / "chute.step").read_bytes())
        reading.read_part(line.part.pk, "chute.step")
        return Part.objects.get(pk=line.part.pk)

    return read


FRUSTUM = BRepPrimAPI_MakeWedge(200.0, 120.0, 150.0, 60.0, 40.0, 140.0, 110.0)


def test_a_sheet_is_folded_round_a_block_that_was_refused(client, came):
    block = came(FRUSTUM.Shape())
    assert block.state == "refused"
    asked = {"thickness": 1.5, "metal": "outside"}
    answer = client.post(f"/api/parts/{block.pk}/recipe/block", asked, **JSON)
    assert answer.status_code == 204
    block.refresh_from_db()
    assert (block.state, block.source.name, block.what) == ("reading", "chute.json", "")
    reading.read_part(block.pk, block.source.name)

    part = Part.objects.get(pk=block.pk)
    assert (part.state, part.thickness) == ("ready", 1.5)
    step = shown(client, part)["recipe"]["steps"][0]
    assert (step["do"], step["metal"], len(step["solid"]["faces"])) == ("shell", "outside", 6)
    faces = client.get(f"/api/parts/{part.pk}/recipe/nets").json()["faces"]
    assert [f["hangs_on"] for f in faces].count(None) == 1

    # It came as a recipe now, and is no block any more.
    again = client.post(f"/api/parts/{block.pk}/recipe/block", asked, **JSON)
    assert again.status_code == 422
    assert "no STEP file" in again.json()["detail"]


def test_a_block_that_is_a_thick_plate_becomes_a_shell_by_revision(client, came):
    plate = came(box(0, 0, 0, 200, 100, 60))
    assert (plate.state, plate.thickness) == ("ready", 60)
    asked = {"thickness": 2}
    assert client.post(f"/api/parts/{plate.pk}/recipe/block", asked, **JSON).status_code == 204
    plate.refresh_from_db()
    assert (plate.state, plate.thickness, plate.revision) == ("ready", 2, 2)
    assert len(client.get(f"/api/parts/{plate.pk}/blank").json()["bends"]) == 5


def test_a_solid_that_is_being_read_is_waited_for(client, order, tmp_path):
    write_step(box(0, 0, 0, 200, 100, 60), tmp_path / "chute.step")
    line = reading.put_on_rack(order, "chute.step", (tmp_path / "chute.step").read_bytes())
    answer = client.post(f"/api/parts/{line.part.pk}/recipe/block", {"thickness": 2}, **JSON)
    assert answer.status_code == 422
    assert "the part is reading" in answer.json()["detail"]
    line.part.refresh_from_db()
    assert (line.part.state, line.part.source.name) == ("reading", "chute.step")


@pytest.mark.parametrize(
    ("asked", "status"), [({"thickness": 40}, 422), ({"thickness": 0}, 400), ({}, 400)]
)
def test_a_block_too_small_for_its_sheet_stays_as_it_was(client, came, asked, status):
    block = came(FRUSTUM.Shape())
    answer = client.post(f"/api/parts/{block.pk}/recipe/block", asked, **JSON)
    assert answer.status_code == status, answer.json()
    block.refresh_from_db()
    assert (block.state, block.source.name) == ("refused", "chute.step")
