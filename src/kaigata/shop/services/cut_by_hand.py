"""What hands settle of a nest's paths: the order of contours, and where they are pierced."""

from __future__ import annotations

from collections.abc import Sequence

from kaigata.core.cut import ByHand
from kaigata.core.errors import InputError
from kaigata.shop.models import Order
from kaigata.shop.services.nesting import current_run

__all__ = ["hand_of", "keep_by_hand"]

Pierce = tuple[str, int, str, float, float]
"""A contour (part, copy, name) and where it is to be pierced, mm on the sheet."""

Key = tuple[str, int, str]


def hand_of(order: Order) -> dict[int, ByHand]:
    """Return what hands have settled for the nest the order has now, by number of the sheet."""
    kept = order.cut_by_hand
    if not kept or kept["nest"] != _digest(order):
        return {}
    return {
        int(number): ByHand(
            order=tuple((str(p), int(c), str(n)) for p, c, n in rows["order"]),
            pierces={(p, c, n): (x, y) for p, c, n, x, y in rows["pierces"]},
        )
        for number, rows in kept["sheets"].items()
    }


def keep_by_hand(order: Order, number: int, keys: Sequence[Key], pierces: Sequence[Pierce]) -> None:
    """Keep what hands have settled for a sheet; nothing lets its path be found again.

    Raises
    ------
    InputError
        The order has no nest, or its nest no such sheet.
    """
    run = current_run(order)
    nest = run.nest if run is not None and hasattr(run, "nest") else None
    if nest is None or all(s["number"] != number for s in nest.document["sheets"]):
        raise InputError(f"there is no sheet {number} in the nest", fix="Look at the nest again")
    kept = order.cut_by_hand
    sheets = kept["sheets"] if kept and kept["nest"] == nest.digest else {}
    sheets.pop(str(number), None)
    if keys or pierces:
        sheets[str(number)] = {"order": list(keys), "pierces": list(pierces)}
    order.cut_by_hand = {"nest": nest.digest, "sheets": sheets} if sheets else {}
    order.save(update_fields=["cut_by_hand"])


def _digest(order: Order) -> str:
    run = current_run(order)
    return run.nest.digest if run is not None and hasattr(run, "nest") else ""
