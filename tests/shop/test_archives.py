"""A zip of many files onto the rack, and the list of how each of them went."""

import csv
import io
import zipfile

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from kaigata.core.errors import LimitError
from kaigata.shop.models import Part
from kaigata.shop.services import archives, reading
from tests.checks import DATA, PARTS


def zipped(files, **options):
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", zipfile.ZIP_DEFLATED) as out:
        for name, content in files.items():
            out.writestr(name, content, **options)
    return stream.getvalue()


def put(client, order, content, name="parts.zip"):
    file = SimpleUploadedFile(name, content)
    return client.post(f"/api/orders/{order.pk}/archives", {"file": file})


STEP = (PARTS / "pump-bracket.step").read_bytes()


def read_all(order):
    for line in order.lines.select_related("part__source"):
        reading.read_part(line.part.pk, line.part.source.name)


def test_each_part_of_a_zip_is_a_line_and_what_is_none_is_told(client, order):
    content = zipped({
        "stand/pump-bracket.step": STEP,
        "stand/again/pump-bracket.STEP": STEP,
        "stand/plate.dxf": (DATA / "dxf" / "o3-badge-spline.dxf").read_bytes(),
        "stand/read me.txt": "for the shop",
        "__MACOSX/stand/._plate.dxf": "x",
        "stand/.hidden.step": "x",
        "stand/empty.step": "",
    })  # fmt: skip

    answer = put(client, order, content)

    assert answer.status_code == 201
    body = answer.json()
    # Two files of one name are two parts.
    assert [r["name"] for r in body["lines"]] == ["pump-bracket", "pump-bracket 2", "plate"]
    assert {r["name"]: r["why"] for r in body["left_out"]} == {
        "stand/read me.txt": "no STEP, DXF or recipe file",
        "empty.step": "the file is empty (0 bytes)",
    }  # fmt: skip
    assert {r["state"] for r in body["lines"]} == {"reading"}


@pytest.mark.parametrize(
    ("content", "text"),
    [
        (b"PK no zip", "it is no zip, or damaged"),
        (zipped({"a.txt": "x", "b/c.pdf": "y"}), "there is no STEP, DXF or recipe file in it"),
        (zipped({}), "there is no STEP, DXF or recipe file in it"),
    ],
)
def test_a_zip_without_parts_is_refused_and_nothing_comes_onto_the_rack(
    client, order, content, text
):
    answer = put(client, order, content)

    assert answer.status_code == 422
    assert text in answer.json()["detail"]
    assert answer.json()["where"] == "parts.zip"
    assert not order.lines.exists()


def test_a_file_that_grows_beyond_what_is_taken_is_left_out(client, order, settings):
    settings.FILE_LIMIT = 200_000
    content = zipped({"huge.step": b" " * 5_000_000, "pump-bracket.step": STEP})

    body = put(client, order, content).json()

    assert [r["name"] for r in body["lines"]] == ["pump-bracket"]
    assert body["left_out"][0]["name"] == "huge.step"


def test_a_locked_zip_is_told_file_by_file(client, order):
    content = bytearray(zipped({"pump-bracket.step": STEP, "b.step": STEP}))
    # The first file's flag of being encrypted, in its own head and in the list at the end.
    for mark, at in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        content[content.find(mark) + at] |= 1

    body = put(client, order, bytes(content)).json()

    assert [r["name"] for r in body["lines"]] == ["b"]
    assert "cannot be unpacked" in body["left_out"][0]["why"]


def test_more_files_than_are_taken_at_once_are_refused(order, monkeypatch):
    monkeypatch.setattr(archives, "MOST_FILES", 2)

    with pytest.raises(LimitError, match="it holds 3 files, at most 2"):
        archives.put_archive(order, "x.zip", zipped({f"{i}.step": STEP for i in range(3)}))


def test_no_file_is_said(client, order):
    assert "no file came" in client.post(f"/api/orders/{order.pk}/archives").json()["detail"]


def test_the_results_tell_of_each_part_how_it_went(client, order):
    put(client, order, zipped({
        "pump-bracket.step": STEP,
        "tool-tray.step": (PARTS / "tool-tray.step").read_bytes(),
        "wrong.step": "no step at all",
    }))  # fmt: skip
    waiting = client.get(f"/api/orders/{order.pk}/results").content.decode()
    assert waiting.count("being read") == 3

    read_all(order)

    answer = client.get(f"/api/orders/{order.pk}/results")
    assert 'filename="T-1-results.csv"' in answer["Content-Disposition"]
    rows = {r["part"]: r for r in csv.DictReader(io.StringIO(answer.content.decode()))}
    done, found, failed = rows["pump-bracket"], rows["tool-tray"], rows["wrong"]
    assert (done["result"], done["thickness"], done["bends"], done["holes"]) == (
        "done",
        "2",
        "1",
        "5",
    )
    assert found["result"] == "done with findings"
    assert "the corner bulges" in found["findings"]
    assert failed["result"] == "failed"
    assert failed["why"]
    assert failed["what_to_do"]
    assert Part.objects.get(name="wrong").state == Part.State.REFUSED
