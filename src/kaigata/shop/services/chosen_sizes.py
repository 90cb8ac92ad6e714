"""Sizes chosen for a part's drawing: kept with the flat, followed as it is laid or sized otherwise.

A blank keeps their ends in the frame of its flat before that is shifted to 0,0, as it keeps its
cutouts; a page shows and gives them as the blank lies.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from pydantic import TypeAdapter

from kaigata.core.blank import Blank as FlatBlank
from kaigata.core.blank.carry import carried_points
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import blank_of_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.core.markup import (
    ChosenSize,
    ChosenSizes,
    Feature,
    Way,
    features,
    followed,
    measured,
    moved_size,
)
from kaigata.core.part.matching import Matches
from kaigata.core.plane import Motion
from kaigata.shop.models import Blank

__all__ = ["carried_sizes", "kept_sizes", "places_of", "shown_sizes", "unshifted"]

_SIZES: TypeAdapter[tuple[ChosenSize, ...]] = TypeAdapter(ChosenSizes)


def shown_sizes(blank: Blank) -> list[dict[str, Any]]:
    """Return a blank's chosen sizes as it lies."""
    x, y = blank.shift or (0.0, 0.0)
    return _dumped(_moved(_kept(blank), Motion(x=x, y=y)))


def kept_sizes(blank: Blank, sizes: Sequence[ChosenSize]) -> list[dict[str, Any]]:
    """Return sizes that were chosen on a blank as it lies as it keeps them.

    Raises
    ------
    InputError
        One has come that lies between no places of the blank, or is nothing.
    """
    places = list(features(blank_of_document(BlankDocument.model_validate(blank.document))))
    known = _SIZES.validate_python(shown_sizes(blank))
    for number, size in enumerate(sizes, start=1):
        if size in known or measured(size, places) is not None:
            continue
        straight = size.model_copy(update={"way": Way.STRAIGHT})
        if size.way is not Way.ROUND and measured(straight, places) is not None:
            what = "nothing that way: its ends lie in line"
            fix = "Take it the other way, or straight"
        else:
            what = "not between two places of the flat that can be told"
            fix = "Choose corners, edges, bend lines or the middles of holes and arcs"
        raise InputError(f"chosen size {number} is {what}", where=blank.part.name, fix=fix)
    x, y = blank.shift or (0.0, 0.0)
    return _dumped(_moved(sizes, Motion(x=-x, y=-y)))


def places_of(blank: Blank) -> list[Feature]:
    """Return the places of a blank as it keeps sizes; none where none was chosen."""
    if not blank.markup.get("sizes"):
        return []
    document = BlankDocument.model_validate(blank.document)
    return list(features(unshifted(blank_of_document(document), blank)))


def unshifted(flat: FlatBlank, blank: Blank) -> FlatBlank:
    """Return a flat that lies at 0,0 where a blank keeps what was chosen on it."""
    x, y = blank.shift or (0.0, 0.0)
    return flat.moved(Motion(x=-x, y=-y))


def carried_sizes(
    kept: Blank,
    before: Sequence[Feature],
    now: FlatBlank,
    shown: FlatBlank,
    flat: FlatBlank,
    same: Matches,
    to_flat: Motion,
    *,
    is_revised: bool,
) -> list[dict[str, Any]]:
    """Return a blank's chosen sizes where their ends lie in another flat of its part.

    Parameters
    ----------
    kept : Blank
        The blank, its sizes as they were.
    before : sequence of Feature
        Places of the blank as it was, in the frame of ``shown``: what ``places_of`` gave.
    now : FlatBlank
        The blank as it is, in the frame of ``flat``.
    shown, flat : FlatBlank
        Both flats before corners are treated and what is cut in the flat alone is cut.
    same : Matches
        Which panels of the one part are still there in the other.
    to_flat : Motion
        How the one lies on the other.
    is_revised : bool
        Whether it is a revision, in which places that have moved are followed.
    """
    carried = carried_points([f.at for f in before], shown, flat, same)
    # A bend belongs to no panel: it lies elsewhere as soon as it takes more or less.
    after = [f for f in features(now) if is_revised or f.kind in ("bend", "bend end")]
    moved = []
    for size in _kept(kept):
        start, end = (followed(p, to_flat, before, carried, after) for p in (size.start, size.end))
        moved.append(moved_size(size, (start, end), to_flat))
    return _dumped(moved)


def _kept(blank: Blank) -> tuple[ChosenSize, ...]:
    return _SIZES.validate_python(blank.markup.get("sizes", []))


def _moved(sizes: Sequence[ChosenSize], shift: Motion) -> list[ChosenSize]:
    return [moved_size(s, (shift.point(s.start), shift.point(s.end)), shift) for s in sizes]


def _dumped(sizes: Sequence[ChosenSize]) -> list[dict[str, Any]]:
    """Return sizes as they are kept: to a millionth, so that a blank laid back is as it was."""
    rows = [s.model_dump(mode="json") for s in sizes]
    return [
        {**row, **{n: [round(v, 6) + 0.0 for v in row[n]] for n in ("start", "end")}}
        for row in rows
    ]
