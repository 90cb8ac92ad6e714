"""The step that turns a solid into a shell."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from kaigata.core.part.recipe.words import Amount, Metal, Model, Name, Outline, Place, Sides

__all__ = ["Shape", "Shell", "Solid"]


class Shape(Model):
    """A closed outline with straight edges: one of the three.

    Attributes
    ----------
    rectangle : two Amounts, optional
        Its size along x and y, about 0,0.
    outline : contour, optional
        Any outline, counter-clockwise.
    sides : int, optional
        Of a regular polygon about 0,0, ``across`` its flats; its first edge lies below, level.
    """

    rectangle: Place | None = None
    outline: Outline | None = None
    sides: Sides | None = None
    across: Amount | None = None


class Solid(Model):
    """A solid with flat faces: over a base, or of faces with names of their own.

    Attributes
    ----------
    base : Shape, optional
        Face ``bottom``; over its edges stand the faces ``side-1``, ``side-2`` and so on.
    height : Amount, optional
        From the base to the top or the tip.
    top : Shape, optional
        Face ``top``, edge over edge; that of the base when None.
    tip : Place, optional
        Where the sides meet instead of in a top.
    shift : Place
        How far the top or the tip is moved.
    faces : mapping, optional
        Corners (x, y, z) of each face, counter-clockwise seen from outside.
    """

    base: Shape | None = None
    height: Amount | None = None
    top: Shape | None = None
    tip: Place | None = None
    shift: Place = (0.0, 0.0)
    faces: (
        Annotated[
            dict[Name, Annotated[list[tuple[Amount, Amount, Amount]], Field(min_length=3)]],
            Field(min_length=4, max_length=400),
        ]
        | None
    ) = None


class Shell(Model):
    """A solid turned into a thin shell, instead of a first panel.

    Each face that is not open is the panel ``NAME-FACE``, seen from inside; x runs along its edge
    1, which is that at the base, whichever of its edges is bent.

    Attributes
    ----------
    name : str
        Before the faces' names.
    solid : Solid
        What it is folded round.
    metal : str
        Whether the sheet lies ``inside`` of the solid's faces or ``outside`` of them.
    open : list of str
        Faces left out.
    anchor : str, optional
        The face that the others are folded from; the first when None.
    bent : list of pairs of str, optional
        The faces between which the edge is bent; all other edges are seams. When None the faces
        hang as near to the anchor as they can.
    gap : Amount
        Of the seams, which are mitred.
    relief : str
        What is cut where two bends meet in a corner, ``size`` along each (the sheet's thickness
        when None).
    """

    do: Literal["shell"]
    name: Name
    solid: Solid
    metal: Metal = "inside"
    open: list[Name] = []
    anchor: Name | None = None
    bent: list[tuple[Name, Name]] | None = None
    gap: Amount = 0.0
    relief: Literal["round", "square", "none"] = "round"
    size: Amount | None = None
