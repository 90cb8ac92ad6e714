"""The rules a sheet of placements must keep, checked by distances of the true shapes.

The engine's layouts and what a person moves by hand are judged by the same rules.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from shapely.geometry import Polygon

from kaigata.core.nest.figures import Placement, motion_of
from kaigata.core.nest.order import NestOrder, NestPart, StockSheet

__all__ = ["BrokenRule", "broken_rules"]

SLACK = 0.01
"""mm: how much less than spacing or margin still counts as kept."""
_CHORD = 0.001
_SAME_TURN = 1e-8


@dataclass(frozen=True, slots=True)
class BrokenRule:
    """A rule a placement breaks.

    Attributes
    ----------
    kind : str
        ``overlap``, ``spacing``, ``margin``, ``turn`` or ``mirror``.
    rows : tuple of int
        Which placements, by their place in the sequence.
    text : str
        What is wrong, by how much.
    """

    kind: str
    rows: tuple[int, ...]
    text: str


def broken_rules(
    order: NestOrder, sheet: StockSheet, placements: Sequence[Placement]
) -> list[BrokenRule]:
    """Return the rules that placements on one sheet break.

    Parameters
    ----------
    order : NestOrder
        Parts, spacing and margin.
    sheet : StockSheet
        The sheet.
    placements : sequence of Placement
        What lies on it.

    Returns
    -------
    list of BrokenRule
        Empty when all is well.
    """
    if not placements:
        return []
    parts = {p.id: p for p in order.parts}
    least = min(p.region.outer.area for p in order.parts)
    known: dict[tuple[str, bool, float], Polygon] = {}
    shapes = np.empty(len(placements), dtype=object)
    for i, p in enumerate(placements):
        shapes[i] = _shape(parts[p.part], p, least, known)
    broken = [
        rule for i, p in enumerate(placements) for rule in _own_rules(i, p, parts[p.part], sheet)
    ]
    broken += _edge_rules(order, sheet, placements, parts, shapes)
    return broken + _distance_rules(order, placements, shapes)


def _shape(
    part: NestPart, p: Placement, least: float, known: dict[tuple[str, bool, float], Polygon]
) -> Polygon:
    """Return a part where it lies; holes nothing can lie in are filled."""
    key = (p.part, p.mirrored, p.turn)
    if key not in known:
        still = Placement(part=p.part, copy=0, x=0.0, y=0.0, turn=p.turn, mirrored=p.mirrored)
        region = part.region.moved(motion_of(still))
        holes = [h.flattened(_CHORD) for h in region.holes if abs(h.area) >= least]
        shape = Polygon(region.outer.flattened(_CHORD), holes)
        known[key] = shape if shape.is_valid else shape.buffer(0)
    return shapely.transform(known[key], lambda points: points + np.array((p.x, p.y)))


def _own_rules(row: int, p: Placement, part: NestPart, sheet: StockSheet) -> list[BrokenRule]:
    broken = []
    if part.gauge != sheet.gauge:
        broken.append(BrokenRule("sheet", (row,), f"{p.part} is of another material or thickness"))
    if p.mirrored and not part.may_mirror:
        broken.append(BrokenRule("mirror", (row,), f"{p.part} may not be mirrored"))
    if part.turns is not None and not any(
        abs(math.remainder(p.turn - t, 2 * math.pi)) < _SAME_TURN for t in part.turns
    ):
        degrees = math.degrees(p.turn) % 360
        broken.append(BrokenRule("turn", (row,), f"{p.part} may not lie at {degrees:g} degrees"))
    return broken


def _edge_rules(
    order: NestOrder,
    sheet: StockSheet,
    placements: Sequence[Placement],
    parts: dict[str, NestPart],
    shapes: np.ndarray,
) -> list[BrokenRule]:
    broken = []
    edge = sheet.outline.polygon(_CHORD) if sheet.outline is not None else None
    for i, p in enumerate(placements):
        if edge is None:
            x0, y0, x1, y1 = parts[p.part].region.outer.moved(motion_of(p)).bounds
            away = min(x0, y0, sheet.width - x1, sheet.height - y1)
        elif not edge.buffer(SLACK).covers(shapes[i]):
            away = -1.0
        else:
            away = float(edge.exterior.distance(shapes[i]))
        if away < order.margin - SLACK:
            where = (
                "reaches off the sheet"
                if away < -SLACK
                else f"lies {away:.2f} mm from the edge, the margin is {order.margin:g}"
            )
            broken.append(BrokenRule("margin", (i,), f"{p.part} {where}"))
    return broken


def _distance_rules(
    order: NestOrder, placements: Sequence[Placement], shapes: np.ndarray
) -> list[BrokenRule]:
    # Shapes that only touch are apart: a hair is taken off both before they are compared.
    least = order.spacing - SLACK
    thin = shapes if least > 0 else shapely.buffer(shapes, -SLACK / 2, join_style="mitre")
    tree = shapely.STRtree(thin)
    one, other = (
        tree.query(thin, predicate="dwithin", distance=least)
        if least > 0
        else tree.query(thin, predicate="intersects")
    )
    broken = []
    for i, j in sorted((i, j) for i, j in zip(one.tolist(), other.tolist(), strict=True) if i < j):
        apart = float(shapes[i].distance(shapes[j]))
        a, b = placements[i].part, placements[j].part
        if apart == 0.0:
            broken.append(BrokenRule("overlap", (i, j), f"{a} and {b} overlap"))
        else:
            wanted = f"the spacing is {order.spacing:g}"
            broken.append(
                BrokenRule("spacing", (i, j), f"{a} and {b} are {apart:.2f} mm apart, {wanted}")
            )
    return broken
