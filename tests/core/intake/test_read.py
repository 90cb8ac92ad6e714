"""Every part's blank against its truth, and files that are no parts."""

import json
import os
import time

import pytest

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.errors import InputError, LimitError
from kaigata.core.formats.blank_files import blank_document, write_blank
from kaigata.core.intake import read_parts
from kaigata.core.isolation import run_isolated
from kaigata.core.metal.charts import constant_chart
from tests.checks import PARTS, checked

NAMES = sorted(p.stem for p in PARTS.glob("*.step"))


@pytest.mark.parametrize("name", NAMES)
def test_blank_agrees_with_its_truth(name, tmp_path):
    truth = PARTS / f"{name}.truth.json"
    read = read_parts(PARTS / f"{name}.step")

    for k in json.loads(truth.read_text())["k"]:
        out = tmp_path / str(k)
        out.mkdir()
        for part in read.parts:
            takes = chart_takes(part.part, constant_chart(k, part.part.thickness))
            write_blank(blank_document(unfold(part.part, takes=takes), quantity=part.quantity), out)

        assert checked("blank_check.py", truth, out, "--k", k) == f"ok {name}"
    # The drawing is written from the same document whatever the factor.
    for dxf in out.glob("*.dxf"):
        blank = dxf.with_suffix(".blank.json")
        assert checked("dxf_check.py", dxf, "--blank", blank).startswith("ok")


@pytest.mark.parametrize(
    ("name", "content", "text"),
    [
        ("none.step", None, "no such file"),
        ("empty.step", b"", "the file is empty"),
        ("zeros.step", bytes(2**20), "does not begin as a STEP file does, but with no text"),
        ("note.step", b"this is a note\n", "but with “this is a note”"),
        ("photo.jpg", b"\xff\xd8\xff", "files of kind '.jpg'"),
        ("torn.step", (PARTS / "pump-bracket.step").read_bytes()[:9000], "STEP|solid"),
    ],
)
def test_files_that_are_no_parts_are_refused(tmp_path, name, content, text):
    path = tmp_path / name
    if content is not None:
        path.write_bytes(content)

    with pytest.raises((InputError, LimitError), match=text):
        read_parts(path)


def test_a_reader_that_hangs_is_stopped():
    with pytest.raises(LimitError, match=r"over 0.5 s and was stopped"):
        run_isolated(time.sleep, 60, seconds=0.5, memory=2**32, where="slow.step")


def test_a_reader_that_crashes_does_not_take_the_caller_along():
    with pytest.raises(LimitError, match=r"crash of the geometry kernel \(SIGABRT\)"):
        run_isolated(os.abort, seconds=20, memory=2**32, where="bad.step")


def test_a_reader_that_floods_memory_is_stopped():
    with pytest.raises(LimitError, match="memory"):
        run_isolated(bytearray, 2**40, seconds=20, memory=2**31, where="big.step")
