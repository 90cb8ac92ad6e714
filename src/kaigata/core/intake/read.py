"""The door for files: from a path to folded parts."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
import numpy.typing as npt

from kaigata.core.errors import InputError, KaigataError, LimitError
from kaigata.core.intake.drawing import Drawing, read_drawing
from kaigata.core.isolation import run_isolated
from kaigata.core.part import IN_PLACE, FoldedPart, Frame
from kaigata.core.part.recipe import folded_recipe, read_recipe

__all__ = [
    "ReadPart",
    "ReadResult",
    "RefusedPart",
    "check_file",
    "is_drawing",
    "is_recipe",
    "is_step",
    "read_flats",
    "read_parts",
]

FILE_LIMIT = 64 * 2**20
"""Largest file, bytes."""

READ_SECONDS = 60.0
READ_MEMORY = 4 * 2**30

STEP_SUFFIXES = (".step", ".stp")
DXF_SUFFIXES = (".dxf",)
RECIPE_SUFFIXES = (".json",)
SUFFIXES = (*STEP_SUFFIXES, *DXF_SUFFIXES, *RECIPE_SUFFIXES)
"""Names of files that may be parts end so."""


@dataclass(frozen=True, slots=True)
class ReadPart:
    """A folded part of a file, and where it lies each time that the file has it."""

    places: tuple[Frame, ...]
    part: FoldedPart

    @property
    def quantity(self) -> int:
        """How often the file has it."""
        return len(self.places)


@dataclass(frozen=True, slots=True)
class RefusedPart:
    """A solid of a file that is no folded sheet: why, its triangles, (n, 3, 3) mm, its places."""

    name: str
    error: KaigataError
    triangles: npt.NDArray[np.float64]
    places: tuple[Frame, ...]


@dataclass(frozen=True, slots=True)
class ReadResult:
    """What a file gave: the parts, and why other solids of it are none."""

    parts: tuple[ReadPart, ...]
    refused: tuple[RefusedPart, ...]


def read_parts(path: Path, *, seconds: float = READ_SECONDS) -> ReadResult:
    """Read the folded parts of a file, in a child process with limits.

    Parameters
    ----------
    path : Path
        A STEP file or a fold recipe.
    seconds : float
        How long reading may take.

    Returns
    -------
    ReadResult
        The parts and the refused solids; one of either at least.

    Raises
    ------
    InputError
        The file is missing, empty, of an unknown kind, holds no solid, or is a recipe that cannot
        be followed.
    LimitError
        The file is too large, or reading it took too long, too much memory, or crashed.
    """
    check_file(path)
    read = _read_recipe if is_recipe(path) else _read_step
    return run_isolated(read, str(path), seconds=seconds, memory=READ_MEMORY, where=path.name)


def is_step(path: Path) -> bool:
    """Return whether a file is a STEP file, by its name."""
    return path.suffix.lower() in STEP_SUFFIXES


def is_recipe(path: Path) -> bool:
    """Return whether a file is a fold recipe, by its name."""
    return path.suffix.lower() in RECIPE_SUFFIXES


def is_drawing(path: Path) -> bool:
    """Return whether a file is a drawing of flats, by its name."""
    return path.suffix.lower() in DXF_SUFFIXES


def read_flats(path: Path, *, unit: float | None = None, seconds: float = READ_SECONDS) -> Drawing:
    """Read the flats of a drawing, in a child process with limits.

    Parameters
    ----------
    path : Path
        A DXF file.
    unit : float, optional
        Millimetres a unit, for a file that does not say.
    seconds : float
        How long reading may take.

    Raises
    ------
    InputError
        The file is unusable; the text says what and where.
    LimitError
        The file is too large, or reading it took too long, too much memory, or crashed.
    """
    check_file(path)
    return run_isolated(
        _read_dxf, str(path), unit, seconds=seconds, memory=READ_MEMORY, where=path.name
    )


def _read_dxf(name: str, unit: float | None) -> Drawing:
    path = Path(name)
    try:
        return read_drawing(path, unit=unit)
    except InputError as error:
        raise error if error.where.startswith(path.name) else error.at(path.name) from None


def _read_recipe(name: str) -> ReadResult:
    path = Path(name)
    try:
        part = folded_recipe(read_recipe(path))
    except InputError as error:
        raise error if error.where.startswith(path.name) else error.at(path.name) from None
    return ReadResult((ReadPart((IN_PLACE,), part),), ())


def check_file(path: Path) -> None:
    """Refuse a file that is missing, empty, too large or of an unknown kind.

    Raises
    ------
    InputError, LimitError
        It is; the text says which.
    """
    if not path.is_file():
        raise InputError("there is no such file", where=path.name, fix="Check the name and folder")
    size = path.stat().st_size
    if size == 0:
        raise InputError("the file is empty (0 bytes)", where=path.name, fix="Export it again")
    if size > FILE_LIMIT:
        raise LimitError(
            f"the file has {size / 2**20:.0f} MB, at most {FILE_LIMIT / 2**20:.0f} are taken",
            where=path.name,
            fix="Export the part alone",
        )
    suffix = path.suffix.lower()
    if suffix not in SUFFIXES:
        raise InputError(
            f"files of kind {path.suffix or 'without a suffix'!r} are not read as parts",
            where=path.name,
            fix="Give a STEP file (.step, .stp) of the bent part, a DXF of its flat, or a fold "
            "recipe (.json)",
        )
    with path.open("rb") as file:
        head = file.read(4096)
    if suffix in STEP_SUFFIXES and b"ISO-10303-21" not in head:
        raise InputError(
            f"it does not begin as a STEP file does, but with {_told(head[:16])}",
            where=path.name,
            fix="Export the part as STEP AP203, AP214 or AP242",
        )


def _told(begin: bytes) -> str:
    """Return how a file begins: its text, or that it is none."""
    text = begin.decode("utf-8", errors="replace").strip()
    return f"“{text}”" if text.isprintable() and "\ufffd" not in text else "no text"


def _read_step(name: str) -> ReadResult:
    from kaigata.core.intake.step import read_step_parts

    parts, refused = [], []
    for places, found in read_step_parts(Path(name)):
        if isinstance(found, FoldedPart):
            parts.append(ReadPart(places, found))
        else:
            refused.append(RefusedPart(found.name, found.error, found.triangles, places))
    return ReadResult(tuple(parts), tuple(refused))
