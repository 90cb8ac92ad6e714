"""A small order whose nesting uses every compiled loop, with the types that real orders have."""

import math

from kaigata.core.nest.order import NestOrder, NestPart, StockSheet
from kaigata.core.plane import Contour, Region

__all__ = ["small_order"]


def small_order() -> NestOrder:
    """Return the order: two parts, on a remnant and on sheets."""
    right_angles = (0.0, math.pi / 2, math.pi, 3 * math.pi / 2)
    corner = Contour.from_rows([[0, 0], [90, 0], [90, 30], [30, 30], [30, 90], [0, 90]])
    remnant = Contour.from_rows([[0, 0], [200, 0], [200, 150], [0, 200]])
    return NestOrder(
        sheets=(
            StockSheet(id="remnant", width=200, height=200, count=1, outline=remnant),
            StockSheet(id="sheet", width=200, height=200),
        ),
        parts=(
            NestPart(id="corner", quantity=9, region=Region(corner), turns=right_angles),
            NestPart(
                id="plate", quantity=4, region=Region(Contour.rectangle(70, 40)),
                turns=right_angles, may_mirror=True,
            ),
        ),
        spacing=2.0,
        margin=5.0,
    )  # fmt: skip
