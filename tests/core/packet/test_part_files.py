"""The files of a packet's parts, written by one process or by several."""

from dataclasses import replace
from functools import partial

import pytest

from kaigata.core.formats.blank_files import blank_document
from kaigata.core.packet import part_files
from kaigata.core.packet.part_files import PartToWrite, write_parts
from tests.core.markup.given import demo

NAMES = ("tool-tray", "sign-plate", "hose-clip")


def wanted(name):
    blank, pieces = demo(name)
    return PartToWrite(document=blank_document(blank), mesh=partial(list, pieces))


def spoilt(name):
    """A part whose document says a hole more than its flat has."""
    part = wanted(name)
    return replace(
        part, document=part.document.model_copy(update={"outer": [[0, 0], [9, 0], [0, 9]]})
    )


@pytest.mark.parametrize("alone", [8, 1], ids=["one process", "several"])
def test_each_part_has_its_files_whoever_writes_them(alone, tmp_path, monkeypatch):
    monkeypatch.setattr(part_files, "_ALONE", alone)

    written = list(write_parts([wanted(n) for n in NAMES], tmp_path))

    kinds = (".blank.json", ".dxf", ".bends.csv", ".pdf")
    assert [w.names for w in written] == [tuple(f"{n}{k}" for k in kinds) for n in NAMES]
    assert not any(w.fault for w in written)
    assert {p.name for p in tmp_path.iterdir()} == {n for w in written for n in w.names}
    # The folded part is drawn beside the flat of those that have bends.
    sizes = {n: len((tmp_path / f"{n}.pdf").read_bytes()) for n in NAMES}
    assert b"/Subtype /Image" in (tmp_path / "tool-tray.pdf").read_bytes()
    assert b"/Subtype /Image" not in (tmp_path / "sign-plate.pdf").read_bytes()
    assert min(sizes.values()) > 10_000


@pytest.mark.parametrize("alone", [8, 1], ids=["one process", "several"])
def test_a_drawing_that_is_not_as_its_part_is_left_out_and_said(alone, tmp_path, monkeypatch):
    monkeypatch.setattr(part_files, "_ALONE", alone)

    wrong, right = write_parts([spoilt("tool-tray"), wanted("sign-plate")], tmp_path)

    assert wrong.names == ("tool-tray.blank.json", "tool-tray.dxf", "tool-tray.bends.csv")
    assert "its drawing is not as the part is" in str(wrong.fault)
    assert "sign-plate.pdf" in right.names
    assert not (tmp_path / "tool-tray.pdf").exists()
