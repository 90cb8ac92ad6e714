"""Placing parts on stock sheets.

``order`` holds what is to be placed on what, by which rules; ``search`` is the door to the engine
and streams better and better nests; ``figures`` measures a nest and ``rules`` judges one. Behind
the door: ``shapes`` (grown shapes), ``nofit`` (where two shapes would overlap) with ``cells`` over
them, ``table`` (all of it in flat arrays), ``strips``, ``place`` and ``bench`` (filling sheets),
``plans`` (in which sequence), ``overlap``, ``separate`` and ``improve`` (making them denser),
``mates`` and ``joining`` (parts that only fit each other), ``leftovers``, ``score``; ``moves``,
``portions``, ``jobs``, ``race`` and ``crew`` (who does what next). docs/nesting.md tells how.
"""

from kaigata.core.nest.figures import (
    Nest,
    NestedSheet,
    Placement,
    Remnant,
    Unplaced,
    measured,
    remnants_of,
)
from kaigata.core.nest.order import BendLine, NestOrder, NestPart, StockSheet
from kaigata.core.nest.search import Progress, search

__all__ = [
    "BendLine",
    "Nest",
    "NestOrder",
    "NestPart",
    "NestedSheet",
    "Placement",
    "Progress",
    "Remnant",
    "StockSheet",
    "Unplaced",
    "measured",
    "remnants_of",
    "search",
]
