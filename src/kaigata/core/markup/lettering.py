"""How drawings are lettered: what bend notes and the bend table say, and what a part adds by hand.

The shop settles a ``Lettering`` for all drawings; a part has its own ``Markup`` beside it.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from enum import StrEnum
from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, StringConstraints

from kaigata.core.blank import BlankBend
from kaigata.core.markup.chosen import ChosenSizes
from kaigata.core.markup.measure import Unit, angle_text

__all__ = [
    "NOTHING_ADDED",
    "USUAL_LETTERING",
    "BendFact",
    "Entries",
    "Lettering",
    "Markup",
    "MovedNote",
    "NoteField",
    "Number",
    "OwnField",
    "Remarks",
    "TitleField",
    "bend_notes",
    "fact_text",
    "own_fields",
]


class BendFact(StrEnum):
    """What can be said of a bend."""

    DIRECTION = "direction"
    ANGLE = "angle"
    INCLUDED = "included"
    RADIUS = "radius"
    K = "k"
    ALLOWANCE = "allowance"
    DEDUCTION = "deduction"
    FROM_EDGE = "from-edge"
    LENGTH = "length"
    SEQUENCE = "sequence"


class TitleField(StrEnum):
    """What of a title block may be left open."""

    NUMBER = "number"
    MATERIAL = "material"
    MASS = "mass"
    TOLERANCE = "tolerance"
    DRAWN = "drawn"


_LENGTHS: dict[BendFact, Callable[[BlankBend], float]] = {
    BendFact.RADIUS: lambda b: b.inside_radius,
    BendFact.ALLOWANCE: lambda b: b.allowance,
    BendFact.DEDUCTION: lambda b: b.deduction,
    BendFact.FROM_EDGE: lambda b: b.from_edge,
    BendFact.LENGTH: lambda b: b.length,
}
_OF_THICKNESS = (BendFact.ALLOWANCE, BendFact.DEDUCTION)
"""Facts that a bend in a sheet of no said thickness does not have."""

Words = Annotated[str, StringConstraints(max_length=12)]
Number = Annotated[str, StringConstraints(max_length=40, strip_whitespace=True)]
Remark = Annotated[str, StringConstraints(min_length=1, max_length=200, strip_whitespace=True)]
Remarks = Annotated[tuple[Remark, ...], Field(max_length=12)]
Label = Annotated[str, StringConstraints(min_length=1, max_length=24, strip_whitespace=True)]
Entry = Annotated[str, StringConstraints(max_length=60, strip_whitespace=True)]
Entries = Annotated[dict[Label, Entry], Field(max_length=24)]
Offset = Annotated[float, Field(ge=-20_000, le=20_000, allow_inf_nan=False)]


class _Model(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class NoteField(_Model):
    """One fact of a bend note, with words before and after it; it may begin a new line."""

    says: BendFact
    before: Words = ""
    after: Words = ""
    new_line: bool = False


class OwnField(_Model):
    """A field that a shop has in its title blocks beside those all have.

    ``text`` is what it says where a part says nothing else; where ``must_say`` no packet goes out
    before it says something.
    """

    label: Label
    text: Entry = ""
    must_say: bool = False


def _told_apart(fields: tuple[OwnField, ...]) -> tuple[OwnField, ...]:
    labels = [f.label for f in fields]
    if len(set(labels)) < len(labels):
        raise ValueError("two fields have the same name: name them apart")
    return fields


class Lettering(_Model):
    """How all drawings of a shop are lettered.

    Attributes
    ----------
    note : sequence of NoteField
        What stands beside a bend's number and sign on the flat, in order.
    angle_decimals, length_decimals : int, optional
        Of notes; zeros at the end are left off. Lengths are as the unit has them when None.
    is_level : bool
        Whether notes stand level; otherwise along their bends.
    size : float
        Of the notes' type, mm of paper.
    says_once : bool
        Whether what all bends have alike is said once, beside the tables, instead of in each note.
    columns : sequence of BendFact
        Of the bend table, after the number.
    order : str
        Whether its rows follow the numbers or the sequence.
    ordinates : str
        Of what: ``all`` bends and holes, ``bends`` alone, or ``none``.
    folded : str
        How the folded part is shown: beside the flat (``isometric``), or on a sheet of its own from
        the front, the top and a side too (``views``).
    is_shaded : bool
        Whether what is seen from a corner has tones; otherwise its lines alone.
    tolerance : str
        The general tolerance, for the title block.
    maker : str
        Who makes the parts, for the title block.
    required : sequence of TitleField
        What of the title block must be said before a packet goes out.
    fields : sequence of OwnField
        What the title block has beside what all have.
    """

    note: Annotated[tuple[NoteField, ...], Field(max_length=10)] = (
        NoteField(says=BendFact.ANGLE),
        NoteField(says=BendFact.RADIUS, before=" R"),
    )
    angle_decimals: Annotated[int, Field(ge=0, le=4)] = 2
    length_decimals: Annotated[int, Field(ge=0, le=4)] | None = None
    is_level: bool = False
    size: Annotated[float, Field(ge=1.8, le=7)] = 2.5
    says_once: bool = False
    columns: Annotated[tuple[BendFact, ...], Field(min_length=1)] = (
        BendFact.ANGLE,
        BendFact.RADIUS,
        BendFact.K,
        BendFact.ALLOWANCE,
        BendFact.FROM_EDGE,
        BendFact.LENGTH,
        BendFact.SEQUENCE,
    )
    order: Literal["number", "sequence"] = "number"
    ordinates: Literal["all", "bends", "none"] = "all"
    folded: Literal["isometric", "views"] = "isometric"
    is_shaded: bool = True
    tolerance: Annotated[str, StringConstraints(max_length=40, strip_whitespace=True)] = ""
    maker: Annotated[str, StringConstraints(max_length=60, strip_whitespace=True)] = ""
    required: tuple[TitleField, ...] = ()
    fields: Annotated[tuple[OwnField, ...], Field(max_length=3), AfterValidator(_told_apart)] = ()


class MovedNote(_Model):
    """A bend's note moved by hand: from the middle of its bend line, mm of the flat."""

    by: tuple[Offset, Offset]
    leader: bool = True


class Markup(_Model):
    """What a part's drawing says beside what is drawn of it.

    Attributes
    ----------
    number : str
        The drawing's number.
    remarks : sequence of str
        Lines beside the tables.
    moved : mapping of int to MovedNote
        Notes that were moved, by the numbers of their bends.
    sizes : sequence of ChosenSize
        Sizes that were chosen, in the frame of the flat.
    fields : mapping of str to str
        What the shop's own fields say of this part, by their labels.
    """

    number: Number = ""
    remarks: Remarks = ()
    moved: dict[int, MovedNote] = {}
    sizes: ChosenSizes = ()
    fields: Entries = {}


USUAL_LETTERING, NOTHING_ADDED = Lettering(), Markup()


def own_fields(lettering: Lettering, markup: Markup = NOTHING_ADDED) -> list[tuple[str, str]]:
    """Return the shop's own fields of a title block, each with what it says of a part.

    Examples
    --------
    >>> shop = Lettering(fields=(OwnField(label="Finish", text="as cut"), OwnField(label="Lot")))
    >>> own_fields(shop, Markup(fields={"Finish": "RAL 7016"}))
    [('Finish', 'RAL 7016'), ('Lot', '')]
    """
    return [(f.label, markup.fields.get(f.label) or f.text) for f in lettering.fields]


def fact_text(bend: BlankBend, fact: BendFact, unit: Unit) -> str:
    """Return a fact of a bend as a table has it, all decimals given."""
    if fact in _OF_THICKNESS and not bend.thickness:
        return ""
    if fact is BendFact.RADIUS:
        return unit.short(bend.inside_radius)
    if fact in _LENGTHS:
        value = _LENGTHS[fact](bend)
        return unit.exact(value) if fact in _OF_THICKNESS else unit.length(value)
    return _plain(bend, fact, 2)


def _plain(bend: BlankBend, fact: BendFact, decimals: int) -> str:
    """Return a fact that is no length."""
    if fact is BendFact.K:
        return f"{bend.k:.3f}".lstrip("0") or "0"
    if fact is BendFact.SEQUENCE:
        return str(bend.sequence)
    if fact is BendFact.DIRECTION:
        return "up" if bend.is_up else "down"
    included = math.pi - bend.angle
    return angle_text(included if fact is BendFact.INCLUDED else bend.angle, decimals)


def _note_text(bend: BlankBend, field: NoteField, lettering: Lettering, unit: Unit) -> str:
    fact = field.says
    if fact in _OF_THICKNESS and not bend.thickness:
        return ""
    if fact in _LENGTHS:
        told = unit.short(_LENGTHS[fact](bend), lettering.length_decimals)
    else:
        told = _plain(bend, fact, lettering.angle_decimals)
    return f"{field.before}{told}{field.after}"


def bend_notes(
    bends: Sequence[BlankBend], lettering: Lettering, unit: Unit
) -> tuple[dict[int, tuple[str, ...]], str]:
    """Return the lines of each bend's note by its number, and what is said once for all of them.

    Examples
    --------
    >>> from kaigata.core.markup.measure import MILLIMETRE
    >>> bend_notes([], Lettering(), MILLIMETRE)
    ({}, '')
    """
    once: list[NoteField] = []
    if lettering.says_once and len(bends) > 1:
        for field in lettering.note:
            told = {_note_text(b, field, lettering, unit) for b in bends}
            if len(told) == 1:
                once.append(field)
    notes = {}
    for bend in bends:
        lines = [""]
        for field in lettering.note:
            if field in once:
                continue
            text = _note_text(bend, field, lettering, unit)
            if field.new_line and lines[-1]:
                lines.append(text)
            else:
                lines[-1] += text
        notes[bend.number] = tuple(t.strip() for t in lines if t.strip())
    said = " ".join(_note_text(bends[0], f, lettering, unit).strip() for f in once) if once else ""
    return notes, f"All bends: {said}." if said else ""
