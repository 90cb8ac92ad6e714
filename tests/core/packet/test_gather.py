"""A packet is whole: what is in it is listed with true sums, what is not with its reason."""

import hashlib
import json
import zipfile
from functools import partial

import pytest

from kaigata.core.errors import InputError
from kaigata.core.formats import drawing_files
from kaigata.core.formats.documents import OrderDocument
from kaigata.core.nest import search
from kaigata.core.packet.cutting import CutOptions
from kaigata.core.packet.gather import PacketResult, pack, unfolded_order, write_packet
from kaigata.core.packet.unfolding import UnfoldChoice
from tests.checks import DATA, PARTS

PLATE = {"outer": [[0, 0], [100, 0], [100, 60], [0, 60]], "holes": []}


def order_of(*parts, **more):
    sheet = {"id": "s", "width": 1000, "height": 500, "thickness": 1.5, "material": "galvanised"}
    return OrderDocument.model_validate(
        {
            "name": "Stands",
            "spacing": 5,
            "margin": 10,
            "sheets": [sheet],
            "parts": list(parts),
            **more,
        }
    )


def from_file(name, file=None, **more):
    return {"id": name, "file": file or f"{name}.step", "material": "galvanised", **more}


def unfolded(*parts, defaults=None, folder=PARTS):
    result = PacketResult()
    order = unfolded_order(order_of(*parts), folder, result, defaults=defaults or UnfoldChoice())
    return order, result


def packed(out, *parts, folder=PARTS):
    return pack(
        order_of(*parts), folder, out, search=partial(search, seconds=0.2, workers=1),
        options=CutOptions.chosen(None), defaults=UnfoldChoice(),
    )  # fmt: skip


def test_a_parts_file_becomes_its_contours_and_bends():
    order, result = unfolded(from_file("hose-clip", quantity=3))

    (part,), (blank,) = order.parts, result.blanks
    assert part.file is None
    assert (part.outer, part.holes) == (blank.outer, blank.holes)
    assert (part.quantity, blank.quantity, part.thickness) == (3, 3, blank.thickness)
    assert [b.angle for b in part.bends] == [b.angle for b in blank.bends]


def test_what_the_order_says_of_a_part_goes_before_what_holds_for_all():
    _, result = unfolded(
        from_file("hose-clip", k=0.3), from_file("tool-tray"), defaults=UnfoldChoice(k=0.4)
    )

    ks = [{b.k for b in blank.bends} for blank in result.blanks]
    assert ks == [{0.3}, {0.4}]


def test_an_assembly_gives_each_part_as_often_as_order_and_assembly_say():
    # Its parts are of several thicknesses, not all of them in one material's chart.
    _, once = unfolded(from_file("stand", material=None))
    _, thrice = unfolded(from_file("stand", material=None, quantity=3))

    assert len(once.blanks) > 1
    assert [b.quantity for b in thrice.blanks] == [3 * b.quantity for b in once.blanks]
    assert all(b.part.startswith("stand-") for b in once.blanks)


def test_a_part_of_another_thickness_than_ordered_is_left_out_with_both_figures():
    order, result = unfolded(from_file("hose-clip", thickness=4.0), {"id": "plate", **PLATE})

    assert [p.id for p in order.parts] == ["plate"]
    (failed,) = result.failed
    assert failed["part"] == "hose-clip"
    assert "the order says 4 mm, the part is" in failed["why"]


def test_a_drawing_that_does_not_say_its_thickness_is_left_out_until_the_order_does():
    name = "o4-lid-blocks.dxf"
    _, without = unfolded(from_file("lid", name), folder=DATA / "dxf")
    _, given = unfolded(from_file("lid", name, thickness=1.5), folder=DATA / "dxf")

    assert "how thick" in without.failed[0]["why"]
    assert given.failed == []
    assert given.blanks[0].thickness == 1.5


def test_a_file_that_is_not_there_leaves_the_others():
    order, result = unfolded(from_file("gone"), from_file("hose-clip"))

    assert [p.id for p in order.parts] == ["hose-clip"]
    assert "gone.step" in result.failed[0]["why"]
    assert result.is_partial


@pytest.mark.parametrize(("one", "other"), [("Arm", "arm"), ("Arm/left", "Arm left")])
def test_parts_whose_files_would_be_one_are_refused_before_anything_is_read(one, other):
    with pytest.raises(InputError, match=r"same files.*|parts\[1\]\.id") as refused:
        unfolded(from_file(one, "gone.step"), from_file(other, "gone.step"))

    assert refused.value.where == "$.parts[1].id"


def test_a_part_of_an_assembly_may_not_be_called_as_another_part():
    with pytest.raises(InputError, match="'stand-base-foot' and 'Stand-Base-Foot'"):
        unfolded(
            from_file("stand", material=None),
            from_file("Stand-Base-Foot", "base-foot.step", material=None),
        )


def test_an_order_of_which_nothing_can_be_used_says_why(tmp_path):
    with pytest.raises(InputError, match=r"none of its parts can be used: gone\.step"):
        packed(tmp_path, from_file("gone"))


@pytest.fixture(scope="module")
def packet(tmp_path_factory):
    """A packet of parts whose names begin alike, and what is said of it."""
    out = tmp_path_factory.mktemp("packet")
    result = packed(
        out,
        from_file("Clip", "hose-clip.step"),
        from_file("Clip-2", "tool-tray.step"),
        from_file("Clip.3", "hose-clip.step"),
        {"id": "plate", "thickness": 1.5, "material": "galvanised", **PLATE},
    )
    return out, result


def test_the_manifest_lists_every_file_with_its_true_sum(packet):
    out, result = packet
    rows = json.loads((out / "manifest.json").read_text())["files"]

    there = {p.relative_to(out).as_posix() for p in out.rglob("*") if p.is_file()}
    assert {r["name"] for r in rows} | {"manifest.json", "packet.zip"} == there
    assert sorted(result.files) == sorted(there)
    for row in rows:
        data = (out / row["name"]).read_bytes()
        assert (row["size"], row["sha256"]) == (len(data), hashlib.sha256(data).hexdigest())


def test_the_zip_holds_the_same_files(packet):
    out, _ = packet
    with zipfile.ZipFile(out / "packet.zip") as whole:
        assert whole.testzip() is None
        for name in whole.namelist():
            assert whole.read(name) == (out / name).read_bytes()
        assert "manifest.json" in whole.namelist()


def test_every_file_tells_the_file_it_was_made_from(packet):
    out, _ = packet
    rows = json.loads((out / "manifest.json").read_text())["files"]
    made_from = {r["name"]: r["made_from"] for r in rows}

    for stem, source in (
        ("Clip", "hose-clip.step"), ("Clip-2", "tool-tray.step"), ("Clip.3", "hose-clip.step"),
    ):  # fmt: skip
        for end in (".blank.json", ".dxf", ".bends.csv", ".pdf"):
            assert made_from[f"blanks/{stem}{end}"] == source
    assert made_from["nest/nest.json"] == "blanks and the order"
    assert made_from["cut/cut.json"] == "nest/nest.json"


def test_a_drawing_that_is_not_as_its_part_is_left_out_and_the_rest_goes_on(tmp_path, monkeypatch):
    monkeypatch.setattr(drawing_files, "differences", lambda *a: ["2 contours are drawn"])

    result = packed(tmp_path, from_file("hose-clip"))

    assert (tmp_path / "blanks" / "hose-clip.dxf").exists()
    assert not (tmp_path / "blanks" / "hose-clip.pdf").exists()
    (failed,) = result.failed
    assert failed["part"] == "hose-clip"
    assert "2 contours are drawn" in failed["why"]
    assert result.is_partial


def test_the_same_content_is_the_same_zip(tmp_path):
    sums = []
    for name in ("one", "two"):
        out = tmp_path / name
        (out / "cut").mkdir(parents=True)
        (out / "cut" / "sheet-1.nc").write_text("M30\n")
        (out / "report.html").write_text("<p>")
        write_packet(out, made_from=lambda file: f"made {file}")
        sums.append((out / "packet.zip").read_bytes())

    assert sums[0] == sums[1]
