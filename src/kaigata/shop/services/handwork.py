"""A nest changed by hand: measured, judged by the engine's rules, kept."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence

from django.db import transaction

from kaigata.core.errors import InputError
from kaigata.core.formats.documents import NestedSheetDocument
from kaigata.core.formats.nest_files import nest_document
from kaigata.core.nest import NestedSheet, NestOrder, Placement, Unplaced
from kaigata.core.nest.figures import measured_as_numbered
from kaigata.core.nest.rules import broken_rules
from kaigata.shop.models import Nest
from kaigata.shop.services.conflicts import ChangedMeanwhile
from kaigata.shop.services.digests import digest
from kaigata.shop.services.nesting import open_nest

__all__ = ["lay_by_hand"]


@transaction.atomic
def lay_by_hand(
    nest: Nest,
    sheets: Sequence[NestedSheetDocument],
    locked: Sequence[tuple[str, int]],
    *,
    seen: str,
) -> None:
    """Keep sheets as someone laid them, with what they break marked.

    ``seen`` is the digest of the nest they were laid from.

    Raises
    ------
    InputError
        The nest is released or still searched for, or the sheets are not of its order.
    ChangedMeanwhile
        The nest is no longer the one that was seen.
    """
    nest = Nest.objects.select_for_update().get(pk=nest.pk)
    if nest.run.is_open:
        raise InputError("the search still works on this nest", fix="Stop it first")
    if hasattr(nest, "release"):
        raise InputError("the nest is released", fix="Withdraw it first")
    if seen != nest.digest:
        raise ChangedMeanwhile(
            "the nest was changed meanwhile by somebody else or in another window",
            fix="Look at it as it is now, and change it again where that is still right",
        )
    document, order, before = open_nest(nest)
    laid = _sheets(order, sheets)
    reasons = {u.part: u for u in before.unplaced}
    lying = Counter(p.part for s in laid for p in s.placements)
    missing = [
        Unplaced(part=p.id, quantity=n, why=_reason(reasons.get(p.id), n))
        for p in order.parts
        if (n := p.quantity - lying[p.id])
    ]
    found = measured_as_numbered(order, laid, missing)
    data = nest_document(found, document, order).model_dump(mode="json", by_alias=True)
    stock = {s.id: s for s in order.sheets}
    nest.faults = [
        {
            "sheet": s.number,
            "kind": rule.kind,
            "placements": [[s.placements[i].part, s.placements[i].copy] for i in rule.rows],
            "text": rule.text,
        }
        for s in found.sheets
        for rule in broken_rules(order, stock[s.sheet], s.placements)
    ]
    here = {(p.part, p.copy) for s in found.sheets for p in s.placements}
    nest.locked = [[part, copy] for part, copy in locked if (part, copy) in here]
    nest.document, nest.counted_area = data, found.counted_area
    nest.digest = digest(data["sheets"])
    nest.save()


def _sheets(order: NestOrder, sheets: Sequence[NestedSheetDocument]) -> list[NestedSheet]:
    """Return sheets as the core's values, refused where they are not of the order."""
    parts = {p.id: p for p in order.parts}
    stock = {s.id: s for s in order.sheets}
    used: Counter[str] = Counter()
    seen: set[tuple[str, int]] = set()
    laid = []
    for i, sheet in enumerate(sheets):
        where = f"$.sheets[{i}]"
        kind = stock.get(sheet.sheet)
        if kind is None:
            raise InputError(f"no sheet {sheet.sheet!r} in the order", where=where)
        used[sheet.sheet] += 1
        if kind.count is not None and used[sheet.sheet] > kind.count:
            raise InputError(
                f"there are only {kind.count} of {sheet.sheet}", where=where, fix="Use another"
            )
        for p in sheet.placements:
            known = parts.get(p.part)
            if known is None or not 1 <= p.copy_ <= known.quantity:
                raise InputError(f"the order has no {p.part} {p.copy_}", where=where)
            if (p.part, p.copy_) in seen:
                raise InputError(f"{p.part} {p.copy_} lies twice", where=where)
            seen.add((p.part, p.copy_))
        laid.append(
            NestedSheet(
                sheet=sheet.sheet,
                number=sheet.number,
                placements=tuple(
                    Placement(
                        part=p.part, copy=p.copy_, x=p.x, y=p.y,
                        turn=math.radians(p.turn % 360), mirrored=p.mirrored,
                    )
                    for p in sheet.placements
                ),
            )
        )  # fmt: skip
    if len({s.number for s in laid}) < len(laid):
        raise InputError("two sheets have one number", where="$.sheets")
    return laid


def _reason(before: Unplaced | None, quantity: int) -> str:
    if before is not None and before.quantity == quantity:
        return before.why
    return "taken off by hand"
