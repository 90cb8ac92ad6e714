import pytest

from kaigata.core.formats.whole import file_name, sheet_files_of, whole_folder


def break_off(out, name):
    with whole_folder(out) as folder:
        (folder / name).write_text("new")
        raise ZeroDivisionError


def test_nothing_is_left_when_writing_fails(tmp_path):
    out = tmp_path / "a" / "b"

    with pytest.raises(ZeroDivisionError):
        break_off(out, "half.txt")

    assert list(tmp_path.iterdir()) == []


def test_what_was_there_stays_when_writing_fails(tmp_path):
    (tmp_path / "old.txt").write_text("old")

    with pytest.raises(ZeroDivisionError):
        break_off(tmp_path, "old.txt")

    assert [p.read_text() for p in tmp_path.iterdir()] == ["old"]


def test_files_an_earlier_run_wrote_go_and_others_stay(tmp_path):
    out = tmp_path / "out"
    out.mkdir()
    for name in ("sheet-1.nc", "sheet-2.nc", "sheet-3.nc", "../beside.nc"):
        (out / name).write_text("old")
    (out / "cut.json").write_text('{"sheets": [{"number": 1}, {"number": 2}, {"number": 4}]}')

    earlier = {*sheet_files_of(out / "cut.json", ".nc"), "../beside.nc"}
    with whole_folder(out, earlier=earlier) as folder:
        (folder / "sheet-1.nc").write_text("new")

    left = {p.name: p.read_text() for p in tmp_path.rglob("*.nc")}
    # The third no run has written, so it is somebody's own.
    assert left == {"sheet-1.nc": "new", "sheet-3.nc": "old", "beside.nc": "old"}


@pytest.mark.parametrize("text", [None, "no JSON", "[]", '{"sheets": 3}', '{"sheets": [{}]}'])
def test_what_is_no_document_of_sheets_has_no_files(text, tmp_path):
    if text is not None:
        (tmp_path / "cut.json").write_text(text)

    assert sheet_files_of(tmp_path / "cut.json", ".nc") == set()


@pytest.mark.parametrize(
    ("name", "file"),
    [("Tool tray", "Tool-tray"), ("../../etc/passwd", "etc-passwd"), ("***", "part")],
)
def test_names_become_safe_file_names(name, file):
    assert file_name(name) == file
