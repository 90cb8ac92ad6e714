import pytest

from kaigata.core.formats.whole import file_name, whole_folder


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


def test_files_of_an_earlier_run_go_by_their_names_and_others_stay(tmp_path):
    (tmp_path / "cut").mkdir()
    for name in ("cut/sheet-1.nc", "cut/sheet-2.nc", "cut/sheet-2.nc.bak", "cut/notes.txt",
                 "sheet-2.nc"):  # fmt: skip
        (tmp_path / name).write_text("old")

    with whole_folder(tmp_path, own=r"cut/sheet-\d+\.nc") as folder:
        (folder / "cut").mkdir()
        (folder / "cut" / "sheet-1.nc").write_text("new")

    left = {p.relative_to(tmp_path).as_posix(): p.read_text()
            for p in tmp_path.rglob("*") if p.is_file()}  # fmt: skip
    assert left == {
        "cut/sheet-1.nc": "new",
        "cut/sheet-2.nc.bak": "old",
        "cut/notes.txt": "old",
        "sheet-2.nc": "old",
    }


@pytest.mark.parametrize(
    ("name", "file"),
    [("Tool tray", "Tool-tray"), ("../../etc/passwd", "etc-passwd"), ("***", "part")],
)
def test_names_become_safe_file_names(name, file):
    assert file_name(name) == file
