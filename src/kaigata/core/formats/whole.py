"""Writing files whole or not at all."""

from __future__ import annotations

import json
import shutil
import tempfile
from collections.abc import Collection, Iterable, Iterator
from contextlib import contextmanager
from pathlib import Path

from kaigata.core.errors import InputError

__all__ = ["file_name", "free_name", "sheet_files_of", "whole_folder"]


@contextmanager
def whole_folder(out: Path, *, earlier: Collection[str] = ()) -> Iterator[Path]:
    """Give a folder to write into, and move what is in it to ``out`` when the block ends well.

    Files are renamed into place one by one, each whole; when the block raises, ``out`` is as it
    was before.

    Parameters
    ----------
    out : Path
        Where the files are to be.
    earlier : collection of str
        Files below ``out`` that an earlier run wrote. Those that are not written now go: a program
        of a sheet that there is no more would be cut by mistake.

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
        for file in (out / e for e in earlier if Path(e) not in written):
            if file.is_file() and out.resolve() in file.resolve().parents:
                file.unlink()
    except BaseException:
        shutil.rmtree(beside, ignore_errors=True)
        if made is not None:
            shutil.rmtree(made, ignore_errors=True)
        raise
    shutil.rmtree(beside)


def sheet_files_of(document: Path, *endings: str) -> set[str]:
    """Return the files of single sheets that a ``nest.json`` or ``cut.json`` was written with."""
    try:
        sheets = json.loads(document.read_text(encoding="utf-8"))["sheets"]
        return {f"sheet-{s['number']}{ending}" for s in sheets for ending in endings}
    except (OSError, ValueError, KeyError, TypeError):
        return set()


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
