"""The same part twice under two names, offered as one."""

from __future__ import annotations

from django.db import transaction

from kaigata.core.blank.alike import turns_between
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import blank_of_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.shop.models import Blank, OrderLine, Part
from kaigata.shop.services.blanks import ACROSS

__all__ = ["join_twins", "twin_of"]


def twin_of(blank: Blank) -> str | None:
    """Return the name of an earlier part of the order that is the same part, if there is one."""
    line = _twin_line(blank)
    return line.part.name if line else None


def _twin_line(blank: Blank) -> OrderLine | None:
    own = blank.part.line
    flat = blank_of_document(BlankDocument.model_validate(blank.document))
    # What is nested by other rules or marked otherwise is kept apart on purpose.
    earlier = own.order.lines.filter(
        pk__lt=own.pk,
        part__state=Part.State.READY,
        material=own.material,
        priority=own.priority,
        is_filler=own.is_filler,
        may_mirror=own.may_mirror,
        part__blank__line_marks=blank.line_marks,
    ).select_related("part__blank")
    for line in earlier:
        known = line.part.blank
        other = blank_of_document(BlankDocument.model_validate(known.document))
        if any(_grain_fits(known.grain, blank.grain, n) for n in turns_between(other, flat)):
            return line
    return None


def _grain_fits(one: str, other: str, quarters: int) -> bool:
    """Whether blanks that lie so many quarter turns apart want the grain to run one way."""
    return one == (ACROSS.get(other, other) if quarters % 2 else other)


@transaction.atomic
def join_twins(blank: Blank) -> None:
    """Add a part's quantity to its twin's and take the part out of the order.

    Raises
    ------
    InputError
        The order has no earlier part that is the same.
    """
    line = _twin_line(blank)
    if line is None:
        raise InputError(
            "the order has no earlier part that is the same",
            where=blank.part.name,
            fix="Nothing is to be joined",
        )
    line.quantity += blank.part.line.quantity
    line.save()
    blank.part.delete()
