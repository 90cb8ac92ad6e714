"""Writing files whole or not at all."""

from __future__ import annotations

import re
import shutil
import tempfile
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from kaigata.core.errors import InputError

__all__ = ["file_name", "free_name", "whole_folder"]


@contextmanager
def whole_folder(out: Path, *, own: str = "") -> Iterator[Path]:
    """Give a folder to write into, and move what is in it to ``out`` when the block ends well.

    Files are renamed into place one by one, each whole; when the block raises, ``out`` is as it
    was before.

    Parameters
    ----------
    out : Path
        Where the files are to be.
    own : str
        Names below ``out``, as a regular expression, that only such a run gives. Files of an
        earlier run that have one and are not written now go: a program of a sheet that there is no
        more would be cut by mistake.

    Raises
    ------
    InputError
        ``out`` cannot be made or written to.
    """
    made = _first_missing(out)
    try:
        out.mkdir(parents=True, exist_ok=True)
        beside = Path(tempfile.mkdtemp(prefix=".kaigata-", dir=out))
    except OSError as error:
        raise InputError(
            f"nothing can be written there ({error.strerror})",
            where=str(out),
            fix="Name a folder that you may write to",
        ) from error
    try:
        yield beside
        written = {p.relative_to(beside) for p in beside.rglob("*") if p.is_file()}
        for name in sorted(written):
            target = out / name
            target.parent.mkdir(parents=True, exist_ok=True)
            (beside / name).replace(target)
        for folder in {(out / name).parent for name in written}:
            for file in list(folder.iterdir()):
                name = file.relative_to(out)
                if name not in written and re.fullmatch(own, name.as_posix()):
                    file.unlink()
    except BaseException:
        shutil.rmtree(beside, ignore_errors=True)
        if made is not None:
            shutil.rmtree(made, ignore_errors=True)
        raise
    shutil.rmtree(beside)


def _first_missing(out: Path) -> Path | None:
    """Return the topmost folder of ``out`` that does not exist yet."""
    missing = None
    for folder in (out, *out.parents):
        if folder.exists():
            return missing
        missing = folder
    return missing


def file_name(name: str) -> str:
    """Return a name as a file can be called: letters, digits, dots, dashes and underscores.

    Examples
    --------
    >>> file_name("Hanger arm / left")
    'Hanger-arm-left'
    """
    kept = "".join(c if c.isalnum() or c in "-_." else " " for c in name)
    return "-".join(kept.split()).strip("-.")[:80] or "part"


def free_name(name: str, taken: Iterable[str]) -> str:
    """Return the name, numbered from 2 on where its file would be one of another name's.

    Examples
    --------
    >>> free_name("Tray", ["Roof", "tray"])
    'Tray 2'
    """
    files = {file_name(t).lower() for t in taken}
    tried, number = name, 1
    while file_name(tried).lower() in files:
        number += 1
        tried = f"{name} {number}"
    return tried
