"""The files of every part of a packet: its blank as data and DXF, its bend table, its drawing."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path

from kaigata.core.blank.mesh import MeshPiece
from kaigata.core.errors import KaigataError
from kaigata.core.formats.blank_files import write_blank
from kaigata.core.formats.documents import BlankDocument
from kaigata.core.formats.drawing_files import DrawingChoice, title_of, write_drawing
from kaigata.core.processes import each

__all__ = ["PartToWrite", "WrittenPart", "write_parts"]

_ALONE = 8
"""Parts below which one process is done with them before others have begun."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PartToWrite:
    """A part whose files are wanted; it is sent to another process.

    ``mesh`` gives the blank's mesh, from which the folded part is drawn, where it is known.
    """

    document: BlankDocument
    choice: DrawingChoice = field(default_factory=DrawingChoice)
    mesh: Callable[[], Sequence[MeshPiece]] = tuple


@dataclass(frozen=True, slots=True, kw_only=True)
class WrittenPart:
    """What was written of a part, and why its drawing was not where it is left out."""

    names: tuple[str, ...]
    fault: KaigataError | None = None


def write_parts(parts: Sequence[PartToWrite], folder: Path) -> Iterator[WrittenPart]:
    """Write the files of parts, several parts at a time; yield what became of each, in order.

    A drawing that is not as its part is goes to no floor: it is left out.
    """
    yield from each(partial(_written, folder), parts, workers=1 if len(parts) < _ALONE else None)


def _written(folder: Path, part: PartToWrite) -> WrittenPart:
    names = write_blank(part.document, folder)
    try:
        names += write_drawing(
            part.document,
            part.choice.title or title_of(part.document),
            folder,
            pieces=part.mesh() if part.document.bends else (),
            choice=part.choice,
        )
    except KaigataError as error:
        return WrittenPart(names=tuple(names), fault=error)
    return WrittenPart(names=tuple(names))
