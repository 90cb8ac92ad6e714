"""An order with parts joined that belong together, and its nests taken apart again."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

from shapely.geometry import Polygon

from kaigata.core.nest.figures import Nest, Placement
from kaigata.core.nest.mates import Joined, Member, joined
from kaigata.core.nest.order import NestOrder, NestPart
from kaigata.core.nest.shapes import grown_polygon
from kaigata.core.plane import Contour, Region

__all__ = ["JoinedOrder", "joined_order"]

_FEWER = 0.7
"""Share of the copies down to which joining must bring the shapes to be worth a search."""
_EXACT = 2e-3
"""mm a joined shape may reach into the margin: parts that fill a sheet to the last hair."""


@dataclass(frozen=True, eq=False)
class JoinedOrder:
    """An order of joined shapes, grown by half the spacing, and what each shape is made of."""

    order: NestOrder
    shapes: dict[str, Joined]

    def apart(self, nest: Nest) -> list[tuple[str, list[Placement]]]:
        """Return the sheets of a nest of the joined order with the parts' own placements."""
        return [
            (
                sheet.sheet,
                [
                    Placement(part=m.part, copy=0, x=m.x, y=m.y, turn=m.turn % (2 * math.pi))
                    for p in sheet.placements
                    for member in self.shapes[p.part].members
                    for m in (member.moved(p.turn, p.x, p.y),)
                ],
            )
            for sheet in nest.sheets
        ]


def joined_order(order: NestOrder) -> JoinedOrder | None:
    """Return an order with the parts joined that belong together; None when few do."""
    shapes: dict[str, Joined] = {}
    parts: list[NestPart] = []
    margin = order.margin - order.spacing / 2
    for group in _groups(order):
        least = min(p.region.outer.area for p in group)
        single = [
            Joined(
                (Member(p.id, 0.0, 0.0, 0.0),),
                grown_polygon(p.region, grow=order.spacing / 2, least_hole=least),
                p.turns,
                p.quantity,
            )
            for p in group
        ]
        sides = {
            side - 2 * margin
            for s in order.sheets
            if s.gauge == group[0].gauge
            for side in (s.width, s.height)
        }
        # A part at any angle may come to lie at one that has no no-fit polygons.
        free = [shape for shape in single if shape.turns is None]
        bound = [shape for shape in single if shape.turns is not None]
        for shape in [*free, *(joined(bound, sides) if bound else [])]:
            name = f"joined {len(shapes) + 1}"
            shapes[name] = shape
            parts.append(
                replace(
                    group[0], id=name, quantity=shape.quantity, region=_region(shape.polygon),
                    turns=shape.turns, may_mirror=False, bends=(),
                )
            )  # fmt: skip
    copies = sum(p.quantity for p in order.parts if not p.filler)
    if not shapes or sum(s.quantity for s in shapes.values()) > _FEWER * copies:
        return None
    fitting = replace(order, parts=tuple(parts), spacing=0.0, margin=margin - _EXACT)
    return JoinedOrder(fitting, shapes)


def _groups(order: NestOrder) -> list[Sequence[NestPart]]:
    """Return the parts that may be joined with each other, group by group."""
    groups: dict[tuple[object, ...], list[NestPart]] = {}
    for part in order.parts:
        if not part.filler:
            groups.setdefault((part.gauge, part.priority), []).append(part)
    return list(groups.values())


def _region(polygon: Polygon) -> Region:
    outer, *holes = (
        Contour.from_rows(ring.coords[:-1]) for ring in (polygon.exterior, *polygon.interiors)
    )
    return Region(outer, tuple(holes))
