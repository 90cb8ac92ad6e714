"""A recipe told in sentences, a step each."""

from __future__ import annotations

from collections.abc import Sequence
from functools import singledispatchmethod

from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.formulas import Amount
from kaigata.core.plane.corners import CornerKind

__all__ = ["sentences"]


def sentences(recipe: said.Recipe) -> list[str]:
    """Return each step as a sentence, formulas with what they come to.

    Raises
    ------
    InputError
        A formula cannot be worked out.
    """
    teller = _Teller(recipe)
    return [teller.told(step) for step in recipe.steps]


class _Teller:
    def __init__(self, recipe: said.Recipe) -> None:
        self.sizes, self.unit = recipe.sizes(), recipe.units

    def _number(self, amount: Amount, unit: str = "") -> str:
        value = f"{self.sizes.value(amount):.6g}"
        formula = amount.strip() if isinstance(amount, str) else value
        return f"{value}{unit}" if formula == value else f"{value}{unit} ({formula})"

    def _length(self, amount: Amount) -> str:
        return self._number(amount, f" {self.unit}")

    def _pair(self, place: Sequence[Amount], between: str) -> str:
        return f"{self._number(place[0])}{between}{self._length(place[1])}"

    def _is_nothing(self, amount: Amount) -> bool:
        return self.sizes.value(amount) == 0

    @singledispatchmethod
    def told(self, step: object) -> str:
        raise NotImplementedError(type(step).__name__)

    @told.register
    def _(self, step: said.Panel) -> str:
        return f"Begin with the panel {step.name}, {self._shape(step)}."

    @told.register
    def _(self, step: said.Profile) -> str:
        metal = "both sides" if step.metal == "both" else f"the {step.metal}"
        if step.on:
            return (
                f"Run the folded profile {step.name}, a section of {len(step.section)} corners "
                f"with the metal to {metal} of the line, along {_edges(step.on)}{self._ends(step)}."
            )
        return (
            f"Begin with the folded profile {step.name}, a section of {len(step.section)} corners "
            f"with the metal to {metal} of the line, {self._length(step.width or 0)} wide."
        )

    @told.register
    def _(self, step: said.Shell) -> str:
        left_open = f", {_listed(step.open)} left open" if step.open else ""
        bent = "hang as near to the first as they can"
        if step.bent:
            bent = f"are bent at {_listed([' | '.join(pair) for pair in step.bent])}"
        seams = "" if self._is_nothing(step.gap) else f" with a gap of {self._length(step.gap)}"
        return (
            f"Begin with the shell {step.name} of {self._solid(step.solid)}, the metal "
            f"{step.metal}{left_open}; its faces {bent}, the seams mitred{seams}."
        )

    def _solid(self, solid: said.Solid) -> str:
        if solid.base is None or solid.height is None:
            return f"a solid of {len(solid.faces or {})} faces"
        high = f"{self._length(solid.height)} high"
        base = self._base(solid.base)
        if solid.tip is not None:
            return f"a pyramid on {base}, {high}"
        if solid.top is not None:
            return f"a frustum from {base} to {self._base(solid.top)}, {high}"
        return f"a {'box' if solid.base.rectangle else 'prism'} on {base}, {high}"

    def _base(self, shape: said.Shape) -> str:
        if shape.rectangle is not None:
            return self._pair(shape.rectangle, " x ")
        if shape.sides is not None:
            return f"{shape.sides} sides, {self._length(shape.across or 0)} across"
        return f"an outline of {len(shape.outline or [])} corners"

    def _shape(self, step: said.Panel | said.Opening) -> str:
        if step.rectangle is not None:
            return self._pair(step.rectangle, " x ")
        if isinstance(step, said.Opening) and step.sides is not None:
            return f"{step.sides} sides, {self._length(step.across or 0)} across flats"
        return f"an outline of {len(step.outline or [])} corners"

    @told.register
    def _(self, step: said.Flange) -> str:
        on = _edges(step.on)
        if self._is_nothing(step.angle):
            long = "with" if step.length is None else "by"
            shape = self._shape_of(step)
            return f"Let the panel {step.name} go on from {on} {long} {shape}{self._ends(step)}."
        long = "" if step.length is None else " long"
        measured = "" if step.measured == "outside" else f" measured {_from(step.measured)}"
        beyond = ""
        if not self._is_nothing(step.offset):
            beyond = f" and {self._length(step.offset)} further out"
        return (
            f"Fold the flange {step.name} {step.direction} on {on} by {self._number(step.angle)} "
            f"degrees, {self._shape_of(step)}{long}{measured}, the bend {step.bend} the edge"
            f"{beyond}{self._radius(step)}{self._ends(step)}."
        )

    def _shape_of(self, step: said.Flange) -> str:
        if step.length is not None:
            return self._length(step.length)
        return f"an outline of {len(step.outline or [])} corners"

    def _ends(self, step: said.Flange | said.Hem | said.Profile) -> str:
        if isinstance(step, said.Flange) and step.centred is not None:
            return f", {self._length(step.centred)} wide in the middle of the edge"
        first, last = step.ends
        if self._is_nothing(first) and self._is_nothing(last):
            return ""
        return f", {self._number(first)} and {self._length(last)} of the edge left free"

    @told.register
    def _(self, step: said.Hem) -> str:
        gap = "closed"
        if not self._is_nothing(step.gap):
            gap = f"open by {self._length(step.gap)}"
        return (
            f"Turn the hem {step.name} {step.direction} on {_edges(step.on)}, "
            f"{self._length(step.length)} long, {gap}{self._ends(step)}."
        )

    @told.register
    def _(self, step: said.Fold) -> str:
        measured = "" if step.measured == "outside" else f", measured {_from(step.measured)}"
        return (
            f"Fold {step.panel} {step.direction} by {self._number(step.angle)} degrees "
            f"{self._line(step)}{measured}{self._radius(step)}."
        )

    @told.register
    def _(self, step: said.Jog) -> str:
        steep = ""
        if self.sizes.value(step.angle) != 90:
            steep = f" at {self._number(step.angle)} degrees"
        return (
            f"Step {step.panel} {step.direction} by {self._length(step.height)}{steep} "
            f"{self._line(step)}{self._radius(step)}."
        )

    def _line(self, step: said.Fold | said.Jog) -> str:
        a, b = (self._pair(p, ", ") for p in step.line)
        side = "right" if step.stays == "left" else "left"
        return f"across the line from {a} to {b}: what lies {side} of it is {step.name}"

    def _radius(self, step: said.Flange | said.Fold | said.Jog) -> str:
        return "" if step.radius is None else f", inside radius {self._length(step.radius)}"

    @told.register
    def _(self, step: said.Hole) -> str:
        size = step.thread or f"{self._length(step.diameter or 0)} across"
        kind = "a hole tapped" if step.thread else "a hole"
        sunk = ""
        if step.countersink is not None:
            sunk = f", countersunk {self._length(step.countersink)} from the {step.side} side,"
        if step.press_in is not None:
            clear = "" if step.clear is None else f" {self._length(step.clear)} clear of edges"
            sunk += f", {step.press_in} pressed in from the {step.side} side{clear},"
        return f"Cut {kind} {size}{sunk} in {self._where(step)}."

    @told.register
    def _(self, step: said.Slot) -> str:
        size = f"{self._pair((step.length, step.width), ' x ')}{self._turned(step.turn)}"
        return f"Cut a slot {size} in {self._where(step)}."

    @told.register
    def _(self, step: said.Opening) -> str:
        corner = ""
        if not self._is_nothing(step.corner):
            corner = f" with corners of radius {self._length(step.corner)}"
        shape = f"{self._shape(step)}{corner}{self._turned(step.turn)}"
        return f"Cut an opening, {shape}, in {self._where(step)}."

    @told.register
    def _(self, step: said.Form) -> str:
        pilot = "" if step.pilot is None else f" over a hole {self._length(step.pilot)} across"
        return (
            f"Press {step.note} {step.direction}, {self._length(step.diameter)} across{pilot}, in "
            f"{self._where(step)}."
        )

    @told.register
    def _(self, step: said.Crease) -> str:
        if step.line is not None:
            a, b = (self._pair(p, ", ") for p in step.line)
            where = f"from {a} to {b}"
        else:
            where = f"crosswise, {self._length(step.cross or 0)} off its corners"
        return f"Mark {step.note} {step.direction} in {step.panel} {where}."

    @told.register
    def _(self, step: said.Mirror) -> str:
        a, b = (self._pair(p, ", ") for p in step.line)
        return f"Cut once more what {step.panel} has so far, mirrored at the line from {a} to {b}."

    def _turned(self, turn: Amount) -> str:
        return "" if self._is_nothing(turn) else f" turned by {self._number(turn)} degrees"

    def _where(self, step: said.Hole | said.Form | said.Slot | said.Opening) -> str:
        place = f"{step.panel} at {self._pair(step.at, ', ')}"
        repeat = step.repeat
        if repeat.columns * repeat.rows == 1:
            return place
        pitch = self._pair(repeat.pitch, " and ")
        more = ""
        across, up = repeat.grow
        if not (self._is_nothing(across) and self._is_nothing(up)):
            more = f", larger by {self._number(across)} across and {self._length(up)} up"
        if repeat.without:
            more += f", without {_listed([f'{c}/{r}' for c, r in repeat.without])}"
        return f"{place}, {repeat.columns} across by {repeat.rows} up, {pitch} apart{more}"

    @told.register
    def _(self, step: said.Corners) -> str:
        how = {
            "open": "Leave the corners between the flanges of {} open",
            "mitred": "Mitre the corners between the flanges of {}",
            "overlapped": "Let the flanges of {} overlap at the corners, the earlier one outside",
        }[step.how].format(step.of)
        gap = "" if step.how == "open" else f" with a gap of {self._length(step.gap)}"
        if step.relief == "none":
            return f"{how}{gap}, without a relief."
        size = self._length(self.sizes.value("thickness" if step.size is None else step.size))
        return f"{how}{gap}, a {step.relief} relief of {size} where the bends meet."

    @told.register
    def _(self, step: said.Round) -> str:
        which = "all free corners"
        if step.corners:
            word = "corner" if len(step.corners) == 1 else "corners"
            which = f"{word} {_listed([str(c) for c in step.corners])}"
        how = "Round" if step.kind is CornerKind.ROUND else "Chamfer"
        return f"{how} {which} of {step.panel} by {self._length(step.radius)}."


def _from(measured: str) -> str:
    return "from the end of the bend" if measured == "tangent" else measured


def _edges(on: Sequence[str]) -> str:
    """Return edges in words: those of one panel together, and panels of the same edges."""
    panels: dict[str, list[str]] = {}
    for edge in on:
        name, _, number = edge.rpartition(".")
        panels.setdefault(name, []).append(number)
    alike: dict[str, list[str]] = {}
    for name, numbers in panels.items():
        alike.setdefault(_listed(numbers), []).append(name)
    return _listed(
        [
            f"edge{'' if numbers.isdigit() else 's'} {numbers} of {_listed(names)}"
            for numbers, names in alike.items()
        ]
    )


def _listed(words: Sequence[str]) -> str:
    if len(words) == 1:
        return words[0]
    return f"{', '.join(words[:-1])} and {words[-1]}"
