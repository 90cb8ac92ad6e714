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


@pytest.mark.parametrize(
    ("name", "file"),
    [("Tool tray", "Tool-tray"), ("../../etc/passwd", "etc-passwd"), ("***", "part")],
)
def test_names_become_safe_file_names(name, file):
    assert file_name(name) == file
