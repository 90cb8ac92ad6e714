"""Placing parts on stock sheets.

``order`` holds what is to be placed on what, by which rules; ``search`` is the door to the engine
and streams better and better nests; ``figures`` measures a nest. Behind the door: ``shapes`` (grown
shapes of a part's turns), ``nofit`` (where two shapes would overlap), ``kernels`` (compiled inner
loops), ``bench_sheet`` (one sheet being filled) and ``build`` (a whole nest from a sequence).
"""

from kaigata.core.nest.figures import Nest, NestedSheet, Placement, Unplaced, measured
from kaigata.core.nest.order import NestOrder, NestPart, StockSheet
from kaigata.core.nest.search import Progress, search

__all__ = [
    "Nest",
    "NestOrder",
    "NestPart",
    "NestedSheet",
    "Placement",
    "Progress",
    "StockSheet",
    "Unplaced",
    "measured",
    "search",
]
