"""The STEP file of a folded part, written apart from whoever wants it."""

from __future__ import annotations

import tempfile
from pathlib import Path

from kaigata.core.intake.read import READ_MEMORY
from kaigata.core.isolation import run_isolated
from kaigata.core.part import FoldedPart

__all__ = ["solid_file"]

_WRITE_SECONDS = 100.0


def solid_file(part: FoldedPart) -> bytes:
    """Return a folded part's solid as a STEP file.

    Raises
    ------
    InputError
        The part's faces close to no solid.
    LimitError
        It took too long, or too much memory.
    """
    return run_isolated(
        _written,
        part,
        seconds=_WRITE_SECONDS,
        memory=READ_MEMORY,
        where=part.name,
        doing="writing its solid",
        fix="Take the flat instead: the part has too many pieces for this",
    )


def _written(part: FoldedPart) -> bytes:
    # The geometry kernel is loaded where it is used: it is large.
    from kaigata.core.formats.solid import write_solid

    with tempfile.TemporaryDirectory(prefix="kaigata-") as folder:
        path = Path(folder) / "part.step"
        write_solid(part, path)
        return path.read_bytes()
