"""The document of a fold recipe: named dimensions and steps, each one thing a person would say."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Literal, TypeAlias

from pydantic import BaseModel, ConfigDict, Field, StringConstraints

from kaigata.core.checked import load_document
from kaigata.core.errors import InputError
from kaigata.core.part.recipe.formulas import Dimensions
from kaigata.core.plane.corners import CornerKind

__all__ = [
    "Corners",
    "Flange",
    "Fold",
    "Form",
    "Hem",
    "Hole",
    "Jog",
    "Metal",
    "Mirror",
    "Opening",
    "Panel",
    "Profile",
    "Recipe",
    "Relief",
    "Repeat",
    "Round",
    "Shape",
    "Shell",
    "Slot",
    "Solid",
    "Step",
    "read_recipe",
    "recipe_schema",
    "recipe_text",
]

Amount: TypeAlias = Annotated[float, Field(allow_inf_nan=False)] | str
Text = Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
Name = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_-]{0,39}$")]
DimensionName = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_]{0,39}$")]
EdgeName = Annotated[str, StringConstraints(pattern=r"^[A-Za-z][A-Za-z0-9_-]{0,44}\.[1-9][0-9]*$")]
Place = tuple[Amount, Amount]
OutlineRow = Annotated[list[Amount], Field(min_length=2, max_length=3)]
Sides = Annotated[int, Field(ge=3, le=200)]
Metal = Literal["inside", "outside"]
Outline = Annotated[list[OutlineRow], Field(min_length=3)]


class _Model(BaseModel):
    model_config = ConfigDict(extra="forbid", frozen=True)


class Relief(_Model):
    """How a panel is cut free beside a bend that stops within an edge.

    ``width`` along the edge and ``depth`` from the bend line into the panel; None is the sheet's
    thickness.
    """

    kind: Literal["rectangular", "round"] = "rectangular"
    width: Amount | None = None
    depth: Amount | None = None


class Panel(_Model):
    """The first panel, as seen from the side that lies up.

    ``rectangle`` is its size along x and y; ``outline`` a contour, counter-clockwise. Edges are
    numbered from 1 as they are drawn: of a rectangle the lower, right, upper and left one.
    """

    do: Literal["panel"]
    name: Name
    rectangle: Place | None = None
    outline: Outline | None = None


class Profile(_Model):
    """A folded profile: an open section and how wide it is, instead of a first panel.

    Attributes
    ----------
    name : str
        Its straights are the panels ``NAME-1``, ``NAME-2`` and so on, each hung on the one before.
    section : contour
        Its corners in order, x to the right and y upwards; each is bent at the recipe's radius. A
        row with a bulge begins an arc, which is bent as it is drawn and goes on straight.
    width : Amount
        Across the section.
    metal : str
        Where the sheet lies, seen along the section: to the ``left`` of the line drawn, to its
        ``right``, or to ``both`` sides.
    """

    do: Literal["profile"]
    name: Name
    section: Annotated[list[OutlineRow], Field(min_length=2)]
    width: Amount
    metal: Literal["left", "right", "both"] = "right"


class Shape(_Model):
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


class Solid(_Model):
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


class Shell(_Model):
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


class Flange(_Model):
    """A flange on straight edges.

    Attributes
    ----------
    on : list of str
        Edges, ``PANEL.N``. On several edges the flanges are called ``NAME-1``, ``NAME-2``.
    length : Amount
        To its far edge, ``measured`` from where the outside or the inside faces meet (over a
        right angle: from the outermost of the bend), or from the end of the bend.
    outline : contour, optional
        Instead of a length: its own outline, counter-clockwise, in its x and y as holes are
        placed in them. Its first side lies on the bend (y = 0) and is how far that goes.
    angle : Amount
        How far it is turned from flat, degrees; 0 goes on in the plane of its panel.
    bend : str
        Where the bend lies: ``inside`` the edge (the outside of the flange is flush with it),
        ``outside`` (its inside is), or ``beside`` it (the bend begins there).
    offset : Amount
        How much further out.
    ends : two Amounts
        What is left free at the beginning and end of the edge.
    radius : Amount, optional
        Inside radius; the recipe's when None.
    """

    do: Literal["flange"]
    name: Name
    on: Annotated[list[EdgeName], Field(min_length=1)]
    length: Amount | None = None
    outline: Outline | None = None
    measured: Literal["outside", "inside", "tangent"] = "outside"
    angle: Amount = 90.0
    direction: Literal["up", "down"] = "up"
    bend: Literal["inside", "outside", "beside"] = "inside"
    offset: Amount = 0.0
    ends: Place = (0.0, 0.0)
    radius: Amount | None = None
    relief: Relief = Relief()


class Hem(_Model):
    """An edge turned back on its panel: closed, or open by a gap."""

    do: Literal["hem"]
    name: Name
    on: Annotated[list[EdgeName], Field(min_length=1)]
    length: Amount
    gap: Amount = 0.0
    direction: Literal["up", "down"] = "up"
    bend: Literal["inside", "beside"] = "inside"
    ends: Place = (0.0, 0.0)
    relief: Relief = Relief()


class _Across(_Model):
    """What is done along a line across a panel.

    What lies left or right of the line, seen from its first point to its second, ``stays``; the
    other side becomes a panel of its own, called ``name``, with all that is on it. The line takes
    its place among the edges of what stays, and is edge 1 of the other.
    """

    panel: Name
    name: Name
    line: tuple[Place, Place]
    stays: Literal["left", "right"] = "left"
    angle: Amount = 90.0
    direction: Literal["up", "down"] = "up"
    radius: Amount | None = None


class Fold(_Across):
    """A bend across a panel; both sides keep their sizes, ``measured`` to the line.

    The line is where the outside or the inside faces meet, or where the bend begins and ends.
    """

    do: Literal["fold"]
    measured: Literal["outside", "inside", "tangent"] = "outside"


class Jog(_Across):
    """Two bends against each other across a panel, which lies higher or lower beyond them.

    Seen from above what lies beyond keeps its place.

    Attributes
    ----------
    height : Amount
        From a face of what stays to the same face of what is stepped.
    line : two Places
        Where the outside faces of what stays and of the step meet, as of a fold.
    angle : Amount
        Of both bends, up to 90 degrees. The panel between is called ``NAME-step``.
    """

    do: Literal["jog"]
    height: Amount


Count = Annotated[int, Field(ge=1, le=500)]


class Repeat(_Model):
    """Columns along x and rows along y, so far from middle to middle.

    Attributes
    ----------
    columns, rows : int
        How many.
    pitch : Place
        From middle to middle, across and up.
    grow : Place
        How much larger each is than the one before it, across and up: a hole's diameter, a slot's
        length, both sides of a rectangle, a polygon across its flats.
    without : list of pairs of int
        Those left out, (column, row) from 1: to be cut otherwise by a step of their own.
    """

    columns: Count = 1
    rows: Count = 1
    pitch: Place = (0.0, 0.0)
    grow: Place = (0.0, 0.0)
    without: list[tuple[Count, Count]] = []


class _Cutout(_Model):
    """Something cut out of a panel.

    ``at`` is its middle in the panel's own x and y: of a flange x runs along the bend from the
    flange's left end, the bend below, and y from where its length is measured.
    """

    panel: Name
    at: Place
    repeat: Repeat = Repeat()


class Hole(_Cutout):
    """A round hole, drilled for a metric ``thread`` or of a ``diameter``.

    Attributes
    ----------
    countersink : Amount, optional
        How wide it is sunk, at 90 degrees.
    press_in : str, optional
        What is pressed into it, as the drawing is to say it.
    clear : Amount, optional
        How far the middle of what is pressed in must be from any edge and bend, as its maker says.
    side : str
        The side that it is sunk or pressed in from: the ``near`` one, which is seen, or the
        ``far`` one.
    """

    do: Literal["hole"]
    diameter: Amount | None = None
    thread: str | None = None
    countersink: Amount | None = None
    press_in: Text | None = None
    clear: Amount | None = None
    side: Literal["near", "far"] = "near"


class Form(_Cutout):
    """Something pressed out of the sheet at another bench: on the blank a footprint with a note.

    Attributes
    ----------
    note : str
        What to press there.
    diameter : Amount
        Of the footprint, which must keep clear of edges and bends.
    direction : str
        Whether it rises over the side that is seen or goes down from it.
    pilot : Amount, optional
        Diameter of a hole cut in its middle beforehand.
    """

    do: Literal["form"]
    note: Text
    diameter: Amount
    direction: Literal["up", "down"] = "up"
    pilot: Amount | None = None


class Slot(_Cutout):
    """A slot with round ends: overall ``length`` along x, then turned by ``turn`` degrees."""

    do: Literal["slot"]
    length: Amount
    width: Amount
    turn: Amount = 0.0


class Opening(_Cutout):
    """An opening: a rectangle with rounded corners, a regular polygon, or any outline.

    A polygon has so many ``sides``, so far ``across`` its flats, the lowest level; an outline is
    drawn about the middle.
    """

    do: Literal["opening"]
    rectangle: Place | None = None
    corner: Amount = 0.0
    sides: Sides | None = None
    across: Amount | None = None
    outline: Outline | None = None
    turn: Amount = 0.0


class Mirror(_Model):
    """All that has been cut out of a panel or marked on it, once more beyond a line."""

    do: Literal["mirror"]
    panel: Name
    line: tuple[Place, Place]


class Corners(_Model):
    """What becomes of the corners where two flanges of one panel meet.

    ``mitred``: both reach to where their inside faces meet, and what hangs on them is cut
    likewise. ``overlapped``: the one that was made first goes over the other. ``open``, which is
    so when nothing is said: each ends with its bend. ``relief`` is cut into the panel where the
    two bends meet, ``size`` along each (the sheet's thickness when None).
    """

    do: Literal["corners"]
    of: Name
    how: Literal["open", "mitred", "overlapped"]
    gap: Amount = 0.0
    relief: Literal["round", "square", "none"] = "round"
    size: Amount | None = None


class Round(_Model):
    """Corners of a panel rounded or chamfered; corner N is where edge N ends; all when empty."""

    do: Literal["round"]
    panel: Name
    corners: list[Annotated[int, Field(ge=1)]] = []
    radius: Amount
    kind: CornerKind = CornerKind.ROUND


Step: TypeAlias = Annotated[
    Panel
    | Profile
    | Shell
    | Flange
    | Fold
    | Jog
    | Hem
    | Hole
    | Form
    | Slot
    | Opening
    | Mirror
    | Corners
    | Round,
    Field(discriminator="do"),
]


class Recipe(_Model):
    """A part to be folded, as it is said.

    Attributes
    ----------
    kind : str
        ``fold-recipe``.
    version : int
        Of the format.
    part : str
        What the part is called.
    units : str
        What a number without a unit is.
    thickness, inside_radius : Amount
        Of the sheet and its bends; the radius is the thickness when None.
    hand : str
        ``as-said``, or ``other``: its mirror image across x.
    dimensions : mapping
        Named sizes, for formulas. ``thickness`` and ``inside_radius`` can be named in them too.
    steps : list of Step
        A panel, a profile or a shell first.
    """

    kind: Literal["fold-recipe"]
    version: Literal[1] = 1
    part: Text
    units: Literal["mm", "in"] = "mm"
    thickness: Amount
    inside_radius: Amount | None = None
    hand: Literal["as-said", "other"] = "as-said"
    dimensions: dict[DimensionName, Amount] = {}
    steps: Annotated[list[Step], Field(min_length=1, max_length=2000)]

    def sizes(self) -> Dimensions:
        """Return the dimensions, those of the sheet among them.

        Raises
        ------
        InputError
            A formula cannot be worked out.
        """
        sheet = {
            "thickness": self.thickness,
            "inside_radius": "thickness" if self.inside_radius is None else self.inside_radius,
        }
        taken = sheet.keys() & self.dimensions.keys()
        if taken:
            name = min(taken)
            raise InputError(
                f"a dimension is called {name!r}, which the sheet's own is called",
                where=f"dimensions.{name}",
                fix="Give it another name",
            )
        return Dimensions({**sheet, **self.dimensions}, unit=self.units)


def recipe_schema() -> str:
    """Return the JSON schema of a recipe."""
    return json.dumps(Recipe.model_json_schema(), indent=1) + "\n"


def recipe_text(recipe: Recipe) -> str:
    """Return a recipe as its file has it: what goes without saying is not said."""
    return recipe.model_dump_json(exclude_defaults=True, indent=1) + "\n"


def read_recipe(path: Path) -> Recipe:
    """Read a recipe.

    Raises
    ------
    InputError
        The file is no recipe; every fault is told with its place.
    """
    return load_document(path, Recipe)
