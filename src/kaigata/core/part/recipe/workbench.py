"""What a recipe is made on: its sizes, and the plates that there are so far."""

from __future__ import annotations

import math

from kaigata.core.errors import InputError
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.formulas import Amount
from kaigata.core.part.recipe.plates import Along, Flange, Notch, Plate
from kaigata.core.plane import Contour, Point
from kaigata.core.plane.contour import require_simple
from kaigata.core.plane.segment import bulge_of_sweep
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["Workbench"]

_MOST_CUTOUTS = 5_000
"""Cutouts of one part: rows and columns multiply quickly."""


class Workbench:
    """The plates of a recipe while its steps are done.

    Attributes
    ----------
    sizes : Dimensions
        The recipe's dimensions.
    thickness, radius : float
        Of the sheet and its bends, mm.
    plates : dict of str to Plate
        What there is so far, by name.
    where : str
        The step that is being done, for messages.
    cutouts : int
        How many there are.
    """

    def __init__(self, recipe: said.Recipe) -> None:
        self.sizes = recipe.sizes()
        self.thickness = self.above(recipe.thickness, "the thickness")
        radius = self.sizes.length("inside_radius")
        if radius < 0:
            raise InputError(f"the inside radius is {radius:g} mm", where="inside_radius")
        self.radius = radius
        self.plates: dict[str, Plate] = {}
        self.where = ""
        self.cutouts = 0

    def above(self, amount: Amount, what: str) -> float:
        """Return a length in mm; refuse one that is not above 0."""
        found = self.sizes.length(amount)
        if found <= LENGTH:
            raise InputError(f"{what} is {found:g} mm", fix="It must be above 0")
        return found

    def not_below(self, amount: Amount, what: str) -> float:
        """Return a length in mm; refuse one below 0."""
        found = self.sizes.length(amount)
        if found < 0:
            raise InputError(f"{what} is {found:g} mm", fix="It must be 0 or more")
        return found

    def place(self, place: tuple[Amount, Amount]) -> Point:
        """Return a place in mm."""
        return (self.sizes.length(place[0]), self.sizes.length(place[1]))

    def plate(self, name: str) -> Plate:
        """Return the plate of a name; refuse one there is not."""
        if name not in self.plates:
            raise InputError(
                f"there is no panel {name!r} yet", fix=f"So far there are {', '.join(self.plates)}"
            )
        return self.plates[name]

    def keep(self, plate: Plate) -> None:
        """Keep a plate that was made; refuse a name that is taken."""
        if plate.name in self.plates:
            raise InputError(
                f"there is a panel {plate.name!r} already", fix="Give each a name of its own"
            )
        self.plates[plate.name] = plate

    def edge(self, plate: Plate, number: int) -> int:
        """Return the place of a plate's edge by its number; refuse one that nothing can hang on."""
        edge = plate.numbered(number)
        if edge is None or (isinstance(plate, Flange) and edge == 0):
            own = ": that is its own bend" if edge == 0 else f", it has {len(plate.edges)}"
            raise InputError(f"{plate.name} has no edge {number} for a flange{own}")
        return edge

    def along(
        self,
        plate: Plate,
        edge: int,
        ends: tuple[Amount, Amount],
        relief: said.Relief,
        centred: Amount | None = None,
    ) -> Along:
        """Return how far something goes along an edge.

        It leaves free what is said of the edge's ends, or what is beside it when it is centred.
        """
        first, last = (self.not_below(a, "an end left free") for a in ends)
        length = plate.edges[edge].chord
        if centred is not None:
            if first or last:
                raise InputError(
                    "it is centred and leaves ends free", fix="Give either its width or its ends"
                )
            wide = self.above(centred, "the width")
            if wide > length + LENGTH:
                raise InputError(
                    f"edge {plate.number(edge)} of {plate.name} is {length:.6g} mm long, "
                    f"{wide:.6g} mm are wanted",
                    fix="Make it narrower",
                )
            first = last = max(0.0, (length - wide) / 2)
        if first + last > length - LENGTH:
            raise InputError(
                f"edge {plate.number(edge)} of {plate.name} is {length:.6g} mm long, of which "
                f"{first + last:.6g} mm are left free",
                fix="Leave less free",
            )
        return Along(
            edge,
            first,
            length - last,
            reaches_start=first <= LENGTH,
            reaches_end=last <= LENGTH,
            notch=self._notch(relief),
        )

    def _notch(self, relief: said.Relief) -> Notch:
        width, depth = (
            self.thickness if a is None else self.not_below(a, "a relief")
            for a in (relief.width, relief.depth)
        )
        return Notch(width, max(depth, width / 2), relief.kind == "round")

    def count_cutouts(self, more: int) -> None:
        """Count cutouts that are to be made; refuse more than a part may have."""
        self.cutouts += more
        if self.cutouts > _MOST_CUTOUTS:
            raise InputError(
                f"the part has {self.cutouts} cutouts, at most {_MOST_CUTOUTS} are made",
                fix="Repeat it less often",
            )

    def outline(self, rows: said.Outline) -> Contour:
        """Return an outline as said, counter-clockwise; refuse one that crosses itself."""
        made = Contour.from_rows(
            [[*map(self.sizes.length, r[:2]), *map(self.sizes.value, r[2:])] for r in rows]
        )
        require_simple(made, where="outline")
        return made if made.area > 0 else made.reversed()

    def polygon(self, sides: int, across: Amount | None, grown: float = 0.0) -> list[Point]:
        """Return the corners of a regular polygon about 0,0, its first edge below and level."""
        if across is None:
            raise InputError("a polygon without a size", fix="Say how far it is across its flats")
        flats = self.above(across, "the size across flats") + grown
        far = flats / 2 / math.cos(math.pi / sides)
        angles = [math.pi * (2 * i - 1) / sides - math.pi / 2 for i in range(sides)]
        return [(far * math.cos(a), far * math.sin(a)) for a in angles]

    def shape(
        self, step: said.Panel | said.Opening, corner: float = 0.0, grown: float = 0.0
    ) -> Contour:
        """Return the outline said, about its middle; ``grown`` is how much larger it is, mm."""
        sides = step.sides if isinstance(step, said.Opening) else None
        if sum(v is not None for v in (step.outline, step.rectangle, sides)) != 1:
            raise InputError(
                "it has no one shape",
                fix="Give one of a rectangle, an outline and, of an opening, a number of sides",
            )
        if step.outline is not None:
            if grown:
                raise InputError(
                    "an outline does not grow", fix="Repeat a rectangle or a polygon, or say each"
                )
            return self.outline(step.outline)
        if isinstance(step, said.Opening) and step.sides is not None:
            return Contour.through(self.polygon(step.sides, step.across, grown))
        wide, high = (
            self.above(a, "a side of the rectangle") + grown for a in step.rectangle or ()
        )
        if corner and 2 * corner > min(wide, high) - LENGTH:
            raise InputError(
                f"corners of {corner:.6g} mm have no room in {wide:.6g} x {high:.6g} mm",
                fix="Give a smaller corner radius, or a slot",
            )
        return _rounded_rectangle(wide, high, corner)


def _rounded_rectangle(wide: float, high: float, corner: float) -> Contour:
    """Return a rectangle about 0,0."""
    x, y, c = wide / 2, high / 2, corner
    if not c:
        return Contour.through([(-x, -y), (x, -y), (x, y), (-x, y)])
    quarter = bulge_of_sweep(math.pi / 2)
    return Contour((
        (c - x, -y, 0.0), (x - c, -y, quarter), (x, c - y, 0.0), (x, y - c, quarter),
        (x - c, y, 0.0), (c - x, y, quarter), (-x, y - c, 0.0), (-x, c - y, quarter),
    ))  # fmt: skip
