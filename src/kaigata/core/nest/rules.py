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

__all__ = ["BrokenRule", "RuleBook", "broken_rules"]

SLACK = 0.01
"""mm: how much less than spacing or margin still counts as kept."""
_CHORD = 0.001
_SAME_TURN = 1e-8

Bounds = tuple[float, float, float, float]


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
    """Return the rules that placements on one sheet break; empty when all is well."""
    return RuleBook(order).broken(sheet, placements)


class RuleBook:
    """The rules of an order, for many sheets.

    Parameters
    ----------
    order : NestOrder
        Parts, spacing and margin.
    """

    def __init__(self, order: NestOrder) -> None:
        self._order = order
        self._parts = {p.id: p for p in order.parts}
        self._least = min((p.region.outer.area for p in order.parts), default=0.0)
        self._known: dict[tuple[str, bool, float], tuple[Polygon, Bounds]] = {}

    def broken(
        self,
        sheet: StockSheet,
        placements: Sequence[Placement],
        moved: Sequence[int] | None = None,
    ) -> list[BrokenRule]:
        """Return the rules that placements on one sheet break.

        Parameters
        ----------
        sheet : StockSheet
            The sheet.
        placements : sequence of Placement
            What lies on it.
        moved : sequence of int, optional
            Which of them to look at, where the others are known to break none among themselves.

        Returns
        -------
        list of BrokenRule
            Empty when all is well.
        """
        rows = range(len(placements)) if moved is None else moved
        if not len(rows):
            return []
        shapes = np.empty(len(placements), dtype=object)
        for i, p in enumerate(placements):
            still, _ = self._still(p)
            shapes[i] = shapely.transform(still, lambda points, p=p: points + np.array((p.x, p.y)))
        broken = []
        for i in rows:
            broken += _own_rules(i, placements[i], self._parts[placements[i].part], sheet)
        broken += self._edge_rules(sheet, placements, shapes, rows)
        return broken + _distance_rules(self._order, placements, shapes, rows)

    def _still(self, p: Placement) -> tuple[Polygon, Bounds]:
        """Return a part in its turn about 0,0, holes that nothing can lie in filled; and bounds."""
        key = (p.part, p.mirrored, p.turn)
        if key not in self._known:
            still = Placement(part=p.part, copy=0, x=0.0, y=0.0, turn=p.turn, mirrored=p.mirrored)
            region = self._parts[p.part].region.moved(motion_of(still))
            holes = [h.flattened(_CHORD) for h in region.holes if abs(h.area) >= self._least]
            shape = Polygon(region.outer.flattened(_CHORD), holes)
            shape = shape if shape.is_valid else shape.buffer(0)
            self._known[key] = shape, region.outer.bounds
        return self._known[key]

    def _edge_rules(
        self,
        sheet: StockSheet,
        placements: Sequence[Placement],
        shapes: np.ndarray,
        rows: Sequence[int],
    ) -> list[BrokenRule]:
        broken = []
        edge = sheet.outline.polygon(_CHORD) if sheet.outline is not None else None
        for i in rows:
            p = placements[i]
            if edge is None:
                x0, y0, x1, y1 = self._still(p)[1]
                away = min(x0 + p.x, y0 + p.y, sheet.width - x1 - p.x, sheet.height - y1 - p.y)
            elif not edge.buffer(SLACK).covers(shapes[i]):
                away = -1.0
            else:
                away = float(edge.exterior.distance(shapes[i]))
            if away < self._order.margin - SLACK:
                where = (
                    "reaches off the sheet"
                    if away < -SLACK
                    else f"lies {away:.2f} mm from the edge, the margin is {self._order.margin:g}"
                )
                broken.append(BrokenRule("margin", (i,), f"{p.part} {where}"))
        return broken


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


def _distance_rules(
    order: NestOrder, placements: Sequence[Placement], shapes: np.ndarray, rows: Sequence[int]
) -> list[BrokenRule]:
    # Shapes that only touch are apart: a hair is taken off both before they are compared.
    least = order.spacing - SLACK
    thin = shapes if least > 0 else shapely.buffer(shapes, -SLACK / 2, join_style="mitre")
    grow = max(least, 0.0)
    mine = np.array(rows, dtype=np.int64)
    bounds = shapely.bounds(thin[mine]) + np.array((-grow, -grow, grow, grow))
    one, other = shapely.STRtree(thin).query(shapely.box(*bounds.T))
    one = mine[one]
    # A pair of which both are looked at comes twice.
    once = (one < other) | ~np.isin(other, mine)
    one, other = one[once], other[once]
    shapely.prepare(thin)
    near = shapely.dwithin(thin[one], thin[other], grow)
    broken = []
    pairs = np.sort(np.stack([one[near], other[near]], axis=1), axis=1)
    for i, j in sorted(map(tuple, pairs.tolist())):
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
