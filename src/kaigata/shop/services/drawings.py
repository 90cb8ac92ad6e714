"""Drawings of blanks: what the shop knows for the title block, how they are lettered, by hand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from django.db import transaction

from kaigata.core.formats.drawing_files import (
    DrawingChoice,
    checked_drawing,
    template_pdf,
    title_of,
)
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.markup import (
    INCH,
    INCH_FRACTIONS,
    MILLIMETRE,
    ChosenSize,
    Drawing,
    Lettering,
    Markup,
    MovedNote,
    OwnField,
    Title,
    require_room,
)
from kaigata.shop.models import Blank, Order, ShopLettering
from kaigata.shop.services.blanks import document_of, mass_of, mesh_of, state_of
from kaigata.shop.services.chosen_sizes import kept_sizes, shown_sizes
from kaigata.shop.services.conflicts import ChangedMeanwhile
from kaigata.shop.services.digests import digest
from kaigata.shop.services.people import initials_of

__all__ = [
    "change_lettering",
    "change_markup",
    "choice_of",
    "choices_of",
    "drawing_of",
    "drawing_pdf_of",
    "drawing_state",
    "lettering",
    "markup_of",
    "mass_text",
    "template_of",
]

UNITS = {"mm": MILLIMETRE, "in": INCH, **{f"in-{n}": u for n, u in INCH_FRACTIONS.items()}}
"""What drawings may be written in; of inches also to a 16th, a 32nd or a 64th."""
_BLANK_STATION = 2
_POUND = 0.45359237


def drawing_of(blank: Blank, *, paper: str = "", units: str = "mm") -> Drawing:
    """Return a blank's drawing.

    Raises
    ------
    KaigataError
        What was drawn is not what the part is.
    """
    document, choice = document_of(blank), choice_of(blank, paper=paper, units=units)
    return checked_drawing(
        document,
        choice.title or title_of(document),
        pieces=mesh_of(blank) if document.bends else (),
        choice=choice,
    )


def choice_of(blank: Blank, *, paper: str = "", units: str = "mm") -> DrawingChoice:
    """Return how a blank is drawn: as the shop letters drawings, with what is added by hand."""
    return choices_of(blank.part.line.order, [blank], paper=paper, units=units)[0]


def choices_of(
    order: Order, blanks: Sequence[Blank], *, paper: str = "", units: str = "mm"
) -> list[DrawingChoice]:
    """Return how some blanks of an order are drawn, as ``choice_of`` does."""
    usual, drawn = lettering(), _drawn_by(order)
    return [
        DrawingChoice(
            unit=UNITS[units],
            paper=paper,
            lettering=usual,
            markup=markup_of(blank),
            title=_title_block(blank, drawn, units),
        )
        for blank in blanks
    ]


def drawing_pdf_of(blank: Blank, *, paper: str = "", units: str = "mm") -> bytes:
    """Return a blank's drawing as PDF; raises as ``drawing_of``."""
    drawing = drawing_of(blank, paper=paper, units=units)
    return pages_pdf(drawing.pages, title=blank.part.name)


def lettering() -> Lettering:
    """Return how the shop's drawings are lettered."""
    kept = ShopLettering.objects.first()
    return Lettering.model_validate(kept.values if kept else {})


@transaction.atomic
def change_lettering(wanted: Lettering) -> None:
    """Letter all drawings another way from now on; what is not set in ``wanted`` stays.

    What parts say in a field of the shop's own goes along when the field is given another name.

    Raises
    ------
    InputError
        The columns of the bend table have no room beside each other.
    """
    kept = ShopLettering.objects.select_for_update().first() or ShopLettering()
    before = Lettering.model_validate(kept.values)
    kept.values = {**kept.values, **wanted.model_dump(mode="json", exclude_unset=True)}
    after = Lettering.model_validate(kept.values)
    require_room(after)
    kept.save()
    renamed = _renamed(before.fields, after.fields)
    blanks = Blank.objects.select_for_update()
    for blank in blanks.filter(markup__fields__has_any_keys=list(renamed)):
        said = blank.markup["fields"]
        blank.markup["fields"] = {renamed.get(label, label): text for label, text in said.items()}
        blank.save(update_fields=["markup"])


def _renamed(before: Sequence[OwnField], after: Sequence[OwnField]) -> dict[str, str]:
    """Return the new names of fields by the old: a name not known before stands in its place."""
    if len(before) != len(after):
        return {}
    old, new = [f.label for f in before], [f.label for f in after]
    return {o: n for o, n in zip(old, new, strict=True) if o not in new and n not in old}


def markup_of(blank: Blank) -> Markup:
    """Return what is added to a blank's drawing, moved notes by the numbers of their bends."""
    number = {str(b.place): b.id for b in document_of(blank).bends}
    moved = blank.markup.get("moved", {})
    return Markup.model_validate(
        {
            **blank.markup,
            "moved": {number[p]: note for p, note in moved.items() if p in number},
            "sizes": shown_sizes(blank),
        }
    )


def drawing_state(blank: Blank) -> str:
    """Return a digest of how a blank lies and which sizes are chosen for its drawing.

    Notes are named by how it lies, and sizes take the place of those that were chosen before.
    """
    sizes = [
        {n: [round(c, 3) for c in v] if n in ("start", "end") else v for n, v in size.items()}
        for size in shown_sizes(blank)
    ]
    return digest({"lies": state_of(blank), "sizes": sizes})


@transaction.atomic
def change_markup(
    blank: Blank,
    values: dict[str, Any],
    moved: dict[int, MovedNote | None],
    sizes: Sequence[ChosenSize] | None = None,
    *,
    seen: str,
) -> None:
    """Change what is added to a blank's drawing.

    Parameters
    ----------
    blank : Blank
        The blank.
    values : dict
        Another ``number``, other ``remarks``, or what the shop's own ``fields`` say.
    moved : dict
        Notes that are moved, by the numbers of their bends; None lays one back.
    sizes : sequence of ChosenSize, optional
        Other sizes than those chosen before, as the blank lies.
    seen : str
        The state of the drawing that was shown.

    Raises
    ------
    ChangedMeanwhile
        The drawing is no longer as it was seen.
    InputError
        A size lies between no places of the blank, or the sizes leave it no room.
    """
    kept = Blank.objects.select_for_update().get(pk=blank.pk)
    if seen != drawing_state(kept):
        raise ChangedMeanwhile(
            f"the drawing of {kept.part.name} was changed meanwhile by somebody else or in another "
            "window",
            where=kept.part.name,
            fix="Look at it as it is now, and change it again where that is still right",
        )
    place = {b.id: str(b.place) for b in document_of(kept).bends}
    notes = dict(kept.markup.get("moved", {}))
    for number, note in moved.items():
        if note is None:
            notes.pop(place.get(number, ""), None)
        elif number in place:
            notes[place[number]] = note.model_dump(mode="json")
    kept.markup = {**kept.markup, **values, "moved": notes}
    if sizes is not None:
        kept.markup["sizes"] = kept_sizes(kept, sizes)
        drawing_of(kept)
    kept.save(update_fields=["markup"])


def template_of(blank: Blank, *, paper: str = "", units: str = "mm") -> bytes:
    """Return a blank's flat at 1:1 on a printer's pages.

    Raises
    ------
    LimitError
        It takes more pages than can be laid together.
    """
    return template_pdf(document_of(blank), paper or UNITS[units].papers[0])


def _drawn_by(order: Order) -> str:
    """Return who stamped an order's blanks and when; nothing where they are not stamped."""
    stamp = order.stamps.filter(station=_BLANK_STATION).select_related("by").first()
    return f"{initials_of(stamp.by)} {stamp.at:%Y-%m-%d}" if stamp else ""


def _title_block(blank: Blank, drawn: str, units: str) -> Title:
    """Return what stands in the title block of a blank's drawing, by whom it was ``drawn``."""
    line = blank.part.line
    document = document_of(blank)
    mass = mass_of(blank)
    return title_of(
        document.model_copy(update={"material": line.material.title if line.material else None}),
        order=f"{line.order.number} {line.order.title}".strip(),
        source=blank.part.source.name,
        drawn=drawn,
        mass=mass_text(mass, units) if mass else "",
    )


def mass_text(kilograms: float, units: str) -> str:
    """Return a mass as a title block writes it."""
    return f"{kilograms:.3f} kg" if units == "mm" else f"{kilograms / _POUND:.3f} lb"
