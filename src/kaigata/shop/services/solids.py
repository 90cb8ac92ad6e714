"""The folded part of a blank, as a solid for whoever designs beside it."""

from __future__ import annotations

from dataclasses import replace

from kaigata.core.formats.solid_files import solid_file
from kaigata.shop.models import Blank
from kaigata.shop.services.drawn import folded_of

__all__ = ["solid_of"]


def solid_of(blank: Blank) -> bytes:
    """Return the part as it is folded, as a STEP file; own radii of its bends are not in it.

    Raises
    ------
    InputError
        The part's faces close to no solid.
    LimitError
        Writing it took too long.
    """
    part = blank.part
    return solid_file(replace(folded_of(part), name=part.name))
