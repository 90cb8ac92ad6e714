"""Solids as a recipe says them."""

from __future__ import annotations

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.polyhedron import Polyhedron, over_base
from kaigata.core.part.recipe.workbench import Workbench
from kaigata.core.plane import Point

__all__ = ["solid_of"]


def solid_of(bench: Workbench, solid: said.Solid) -> Polyhedron:
    """Return a solid as said, sizes in mm.

    Raises
    ------
    InputError
        It is none.
    """
    if solid.faces is not None:
        if (solid.base, solid.height, solid.top, solid.tip) != (None,) * 4:
            raise InputError(
                "it has no one shape", where="solid", fix="Give either faces or a base and a height"
            )
        length = bench.sizes.length
        return Polyhedron(
            {
                name: np.array([[length(v) for v in p] for p in corners])
                for name, corners in solid.faces.items()
            }
        )
    if solid.base is None or solid.height is None or (solid.top and solid.tip):
        raise InputError(
            "it has no one shape",
            where="solid",
            fix="Give a base and a height, and a top or a tip where they are not the base's",
        )
    base = _corners(bench, solid.base)
    dx, dy = bench.place(solid.shift)
    top = [bench.place(solid.tip)] if solid.tip else _corners(bench, solid.top or solid.base)
    height = bench.above(solid.height, "the height")
    return over_base(base, [(x + dx, y + dy) for x, y in top], height)


def _corners(bench: Workbench, shape: said.Shape) -> list[Point]:
    """Return the corners of a shape about 0,0, counter-clockwise."""
    if sum(v is not None for v in (shape.rectangle, shape.outline, shape.sides)) != 1:
        raise InputError(
            "it has no one shape", fix="Give one of a rectangle, an outline and a number of sides"
        )
    if shape.rectangle is not None:
        wide, high = (bench.above(a, "a side of the rectangle") / 2 for a in shape.rectangle)
        return [(-wide, -high), (wide, -high), (wide, high), (-wide, high)]
    if shape.outline is not None:
        made = bench.outline(shape.outline)
        if not all(s.is_line for s in made.segments):
            raise InputError("an outline with arcs", fix="Draw it with straight edges alone")
        return [s.start for s in made.segments]
    return bench.polygon(shape.sides or 0, shape.across)
