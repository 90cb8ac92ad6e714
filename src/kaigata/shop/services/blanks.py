"""Unfolding a part with the shop's bend chart and keeping its blank."""

from __future__ import annotations

from dataclasses import dataclass, replace

from django.db import transaction

from kaigata.core.blank import Blank as FlatBlank
from kaigata.core.blank import FaceUp, unfold
from kaigata.core.blank.mesh import MeshPiece, fold_mesh
from kaigata.core.errors import InputError
from kaigata.core.formats.blank_files import blank_document
from kaigata.core.formats.documents import BlankDocument
from kaigata.core.metal.stores import STANDARD_K
from kaigata.core.part import FoldedPart
from kaigata.shop.models import Blank, Gauge, Material, Part
from kaigata.shop.services.digests import digest

__all__ = ["BlankChange", "change_blank", "document_of", "folded_of", "mesh_of", "unfold_part"]


@dataclass(frozen=True, slots=True, kw_only=True)
class BlankChange:
    """What to change about how a part is unfolded; None leaves a thing as it is."""

    own_k: float | None = None
    clear_own_k: bool = False
    anchor: int | None = None
    is_turned_over: bool | None = None
    quarter_turns: int | None = None
    sequence: list[int] | None = None


def folded_of(part: Part) -> FoldedPart:
    """Return the folded part that was read.

    Raises
    ------
    InputError
        The part is not ready.
    """
    from kaigata.shop.services.reading import FOLDED

    if part.state != Part.State.READY:
        raise InputError(
            f"the part is {part.state}", where=part.name, fix=part.fix or "Wait until it is read"
        )
    folded: FoldedPart = FOLDED.validate_python(part.folded)
    return folded


@transaction.atomic
def unfold_part(part: Part, change: BlankChange | None = None) -> Blank:
    """Unfold a part with its material's chart, or its own K, and keep the blank."""
    kept = Blank.objects.select_for_update().filter(part=part).first() or Blank(part=part)
    _apply(kept, change or BlankChange())
    kept.k, kept.k_origin = _factor(kept, part)
    flat = unfold(
        folded_of(part),
        k=kept.k,
        anchor=kept.anchor,
        face_up=_face_up(kept),
        quarter_turns=kept.quarter_turns,
    )
    flat = replace(flat, name=part.name)
    kept.sequence = _sequence(flat, kept.sequence)
    turn = {n: i for i, n in enumerate(kept.sequence, start=1)}
    flat = replace(flat, bends=tuple(replace(b, sequence=turn[b.number]) for b in flat.bends))
    material: Material | None = part.line.material
    document = blank_document(
        flat, quantity=part.line.quantity, material=material.name if material else None
    )
    kept.document = document.model_dump(mode="json")
    kept.digest = digest(
        {n: kept.document[n] for n in ("outer", "holes", "bends", "thickness", "material")}
    )
    kept.save()
    return kept


def _apply(blank: Blank, change: BlankChange) -> None:
    if change.clear_own_k:
        blank.own_k = None
    for name in ("own_k", "anchor", "is_turned_over", "sequence"):
        value = getattr(change, name)
        if value is not None:
            setattr(blank, name, value)
    if change.quarter_turns is not None:
        blank.quarter_turns = change.quarter_turns % 4


def _face_up(blank: Blank) -> FaceUp:
    return FaceUp.OTHER if blank.is_turned_over else FaceUp.AS_MODELLED


def _factor(blank: Blank, part: Part) -> tuple[float, str]:
    """Return K and where it came from: the part's own, its gauge's chart, or the usual one."""
    if blank.own_k is not None:
        return blank.own_k, "typed for this part"
    thickness, material = part.thickness or 0.0, part.line.material
    gauge = Gauge.objects.filter(
        material=material, thickness__range=(thickness - 1e-3, thickness + 1e-3)
    ).first()
    if gauge is None:
        return STANDARD_K, "no chart row, the usual 0.44"
    return gauge.k, f"chart, {gauge.origin}"


def _sequence(flat: FlatBlank, wanted: list[int]) -> list[int]:
    numbers = [b.number for b in flat.bends]
    return wanted if sorted(wanted) == numbers else numbers


def change_blank(part: Part, change: BlankChange) -> Blank:
    """Change how a part is unfolded.

    Raises
    ------
    InputError
        The panel, K or sequence is unusable; nothing is changed then.
    """
    if change.sequence is not None:
        bends = len(folded_of(part).bends)
        if sorted(change.sequence) != list(range(1, bends + 1)):
            raise InputError(
                f"the sequence {change.sequence} is not each of the {bends} bends once",
                where=part.name,
                fix="Name every bend once",
            )
    return unfold_part(part, change)


def document_of(blank: Blank) -> BlankDocument:
    """Return a blank's document as it is now called and counted."""
    document: BlankDocument = BlankDocument.model_validate(blank.document)
    line = blank.part.line
    return document.model_copy(update={"part": blank.part.name, "quantity": line.quantity})


def mesh_of(blank: Blank) -> list[MeshPiece]:
    """Return the triangles a folded view turns."""
    return fold_mesh(
        folded_of(blank.part),
        k=blank.k,
        anchor=blank.anchor,
        face_up=_face_up(blank),
        quarter_turns=blank.quarter_turns,
    )
