"""Steps that make panels, hang others on them and finish their corners."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from kaigata.core.part.recipe.words import Amount, EdgeName, Model, Name, Outline, OutlineRow, Place
from kaigata.core.plane.corners import CornerKind

__all__ = [
    "Corners",
    "Flange",
    "Fold",
    "Hem",
    "Jog",
    "Panel",
    "Profile",
    "Relief",
    "Round",
]


class Relief(Model):
    """How a panel is cut free beside a bend that stops within an edge.

    ``width`` along the edge and ``depth`` from the bend line into the panel; None is the sheet's
    thickness.
    """

    kind: Literal["rectangular", "round"] = "rectangular"
    width: Amount | None = None
    depth: Amount | None = None


class Panel(Model):
    """The first panel, as seen from the side that lies up.

    ``rectangle`` is its size along x and y; ``outline`` a contour, counter-clockwise. Edges are
    numbered from 1 as they are drawn: of a rectangle the lower, right, upper and left one.
    """

    do: Literal["panel"]
    name: Name
    rectangle: Place | None = None
    outline: Outline | None = None


class Profile(Model):
    """A folded profile: an open section, as wide as said instead of a first panel, or along edges.

    Attributes
    ----------
    name : str
        Its straights are the panels ``NAME-1``, ``NAME-2`` and so on, each hung on the one before;
        along several edges ``NAME-E-1``, ``NAME-E-2`` on the E-th of them.
    section : contour
        Its corners in order, x to the right and y upwards; each is bent at the recipe's radius. A
        row with a bulge begins an arc, which is bent as it is drawn and goes on straight. Along
        edges it begins where the edge is, x leading away from the panel and y to its seen side,
        and is bent there.
    width : Amount, optional
        Across the section, where that is not the length of an edge.
    on : list of str
        Edges, ``PANEL.N``, of panels there are.
    ends : two Amounts
        What is left free at the beginning and end of each edge.
    relief : Relief
        How the panel is cut free beside a bend that stops within its edge.
    metal : str
        Where the sheet lies, seen along the section: to the ``left`` of the line drawn, to its
        ``right``, or to ``both`` sides.
    """

    do: Literal["profile"]
    name: Name
    section: Annotated[list[OutlineRow], Field(min_length=2)]
    width: Amount | None = None
    on: list[EdgeName] = []
    ends: Place = (0.0, 0.0)
    relief: Relief = Relief()
    metal: Literal["left", "right", "both"] = "right"


class Flange(Model):
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
    centred : Amount, optional
        Instead of ends left free: how wide it is, in the middle of the edge.
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
    centred: Amount | None = None
    radius: Amount | None = None
    relief: Relief = Relief()


class Hem(Model):
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


class _Across(Model):
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


class Corners(Model):
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


class Round(Model):
    """Corners of a panel rounded or chamfered; corner N is where edge N ends; all when empty."""

    do: Literal["round"]
    panel: Name
    corners: list[Annotated[int, Field(ge=1)]] = []
    radius: Amount
    kind: CornerKind = CornerKind.ROUND
