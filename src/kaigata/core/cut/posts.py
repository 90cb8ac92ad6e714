"""Posts: what a machine's dialect of G-code looks like, as data."""

from __future__ import annotations

import json
from collections.abc import Sequence
from functools import cache
from importlib import resources
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator, model_validator

from kaigata.core.errors import InputError
from kaigata.core.plane import Point

__all__ = ["Post", "corner_of", "find_post", "post_schema", "standard_posts"]

_Line = Annotated[str, Field(max_length=200, pattern=r"^[ -~]*$")]
_Word = Annotated[str, Field(max_length=40, pattern=r"^[A-Z][0-9.]+( ?[A-Z][0-9.]+)*$")]
"""One command with its values, as ``M3`` or ``M62 P1``."""

_KNOWN = ("program", "order", "sheet", "number", "material", "thickness", "kerf", "minutes")

_LEAST_DECIMALS = {
    ("mm", "centre"): 3,
    ("mm", "radius"): 3,
    ("in", "centre"): 5,
    ("in", "radius"): 4,
}
"""Decimals from which on a rounded arc is one to a machine: its radii agree within 0.002 mm."""


class Post(BaseModel):
    """How a machine wants its program.

    Attributes
    ----------
    units, decimals
        Unit of coordinates and feeds, and how many decimals coordinates carry.
    arcs
        ``centre``: I and J from the arc's start; ``radius``: R, in pieces of at most a quarter.
    line_step
        Lines are numbered by this step; 0: not numbered.
    header, footer
        Lines before the first command and before ``M30``; what stands in braces is filled in.
    beam_on, beam_off, mark_on, mark_off
        Commands round each stretch that is cut, and each that is marked.
    dwell
        Whether a dwell waits for the pierce, and its unit.
    compensation
        Who keeps the kerf off the part: the ``path``, or the ``machine`` (G41/G42).
    offset_word
        Word that stands with G42, as ``D1``; empty: none.
    zero
        The corner of the sheet where the program has its zero.
    remarks
        How remarks are written, or that they are left out.
    program_name
        A line that names the program, before all others; empty: none.
    percent
        Whether a line ``%`` begins and ends the file.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    name: Annotated[str, Field(min_length=1, max_length=40, pattern=r"^[a-z0-9][a-z0-9-]*$")]
    title: Annotated[str, Field(min_length=1, max_length=80)]
    units: Literal["mm", "in"] = "mm"
    decimals: Annotated[int, Field(ge=3, le=7)] = 4
    arcs: Literal["centre", "radius"] = "centre"
    line_step: Annotated[int, Field(ge=0, le=100)] = 0
    header: Annotated[tuple[_Line, ...], Field(max_length=40)] = ()
    footer: Annotated[tuple[_Line, ...], Field(max_length=40)] = ()
    beam_on: _Word = "M3"
    beam_off: _Word = "M5"
    mark_on: _Word = "M3"
    mark_off: _Word = "M5"
    dwell: Literal["none", "seconds", "milliseconds"] = "none"
    compensation: Literal["path", "machine"] = "path"
    offset_word: Annotated[str, Field(pattern=r"^(D[0-9]{1,4})?$")] = ""
    zero: Literal["lower-left", "lower-right", "upper-left", "upper-right"] = "lower-left"
    remarks: Literal["parentheses", "semicolon", "none"] = "parentheses"
    program_name: _Line = ""
    percent: bool = False

    @field_validator("header", "footer", "program_name")
    @classmethod
    def _names_are_known(cls, value: str | tuple[str, ...]) -> str | tuple[str, ...]:
        for line in (value,) if isinstance(value, str) else value:
            try:
                line.format_map(dict.fromkeys(_KNOWN, ""))
            except (KeyError, ValueError, IndexError, AttributeError) as error:
                raise ValueError(
                    f"{line!r} has something in braces that is not known; known are "
                    + ", ".join(_KNOWN)
                ) from error
        return value

    @model_validator(mode="after")
    def _arcs_stay_round(self) -> Post:
        least = _LEAST_DECIMALS[self.units, self.arcs]
        if self.decimals < least:
            raise ValueError(
                f"decimals is {self.decimals}: with arcs by {self.arcs} in {self.units} it takes "
                f"{least}, or rounding moves an arc's ends by more than a machine bears"
            )
        return self

    @property
    def scale(self) -> float:
        """Program units in a millimetre."""
        return 1.0 if self.units == "mm" else 1 / 25.4

    @property
    def can_mark(self) -> bool:
        """Whether its programs tell marks from cuts: by commands, or by a remark before a mark."""
        return self.mark_on != self.beam_on or self.remarks != "none"


def corner_of(width: float, height: float, corner: str) -> Point:
    """Return the point of a sheet, mm, that a post calls ``lower-left`` and so on."""
    return (
        width if corner.endswith("right") else 0.0,
        height if corner.startswith("upper") else 0.0,
    )


@cache
def standard_posts() -> tuple[Post, ...]:
    """Return the posts the product comes with."""
    folder = resources.files(__package__) / "posts_data"
    files = sorted((f for f in folder.iterdir() if f.name.endswith(".json")), key=lambda f: f.name)
    return tuple(Post.model_validate_json(f.read_text("utf-8")) for f in files)


def find_post(name: str | None, known: Sequence[Post] | None = None) -> Post:
    """Return the post of a name among those known; the plain one when nothing is said.

    Raises
    ------
    InputError
        There is none of that name.
    """
    posts = standard_posts() if known is None else known
    found = next((p for p in posts if p.name == (name or "plain")), None)
    if found is None:
        names = ", ".join(p.name for p in posts)
        raise InputError(f"there is no post {name or 'plain'!r}", fix=f"Choose one of {names}")
    return found


def post_schema() -> str:
    """Return the JSON schema of a post."""
    schema = Post.model_json_schema()
    schema["description"] = "How a machine wants its program."
    return json.dumps(schema, indent=1) + "\n"
