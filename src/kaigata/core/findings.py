"""Findings: things to know about a result, collected beside it and never raised."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

__all__ = ["Finding", "Level", "counted"]


class Level(StrEnum):
    """How much a finding matters, worst first."""

    ERROR = "error"
    WARNING = "warning"
    NOTE = "note"


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """One thing to know.

    Attributes
    ----------
    level : Level
        How much it matters.
    code : str
        A short fixed name such as ``hole-near-bend``.
    text : str
        What is so, with sizes and a remedy, as a sentence.
    at : tuple of two floats, optional
        The place, mm, in the frame of the thing it is about.
    panels : tuple of int
        Numbers of the panels it is about, where it is about whole panels.
    outline : tuple of points
        The area it is about, in the same frame, where it is about an area.
    """

    level: Level
    code: str
    text: str
    at: tuple[float, float] | None = None
    panels: tuple[int, ...] = ()
    outline: tuple[tuple[float, float], ...] = ()


def counted(count: int, one: str, many: str = "") -> str:
    """Return a count with the words that go with it; of many, an "s" is added if not said.

    Examples
    --------
    >>> counted(1, "place"), counted(2, "place"), counted(3, "corner is", "corners are")
    ('1 place', '2 places', '3 corners are')
    """
    return f"{count} {one if count == 1 else many or f'{one}s'}"
