"""Steps that cut something out of a panel, or press something into it or out of it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from kaigata.core.part.recipe.words import Amount, Model, Name, Outline, Place, Sides, Text

__all__ = ["Crease", "Form", "Hole", "Mirror", "Opening", "Repeat", "Slot"]

Count = Annotated[int, Field(ge=1, le=500)]


class Repeat(Model):
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


class _Cutout(Model):
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


class Crease(Model):
    """Creases that stiffen a panel, pressed at another bench: on the blank only lines with a note.

    Attributes
    ----------
    line : pair of Place, optional
        From where to where in the panel.
    cross : Amount, optional
        Instead of a line: two from corner to corner of a panel with four edges, their ends so far
        from the corners.
    note : str
        What to press there.
    direction : str
        Whether it rises over the side that is seen or goes down from it.
    """

    do: Literal["crease"]
    panel: Name
    line: tuple[Place, Place] | None = None
    cross: Amount | None = None
    note: Text = "crease"
    direction: Literal["up", "down"] = "up"


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


class Mirror(Model):
    """All that has been cut out of a panel or marked on it, once more beyond a line."""

    do: Literal["mirror"]
    panel: Name
    line: tuple[Place, Place]
