"""From the steps of a recipe to a folded part."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import singledispatchmethod

from kaigata.core.errors import InputError
from kaigata.core.metal.threads import TAP_DRILLS
from kaigata.core.part.folded import FoldedPart, Frame
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.fold import Folded, folded_plates
from kaigata.core.part.recipe.formulas import Amount
from kaigata.core.part.recipe.mitres import meeting_pairs, mitre, overlap
from kaigata.core.part.recipe.parting import Parting, give_over, part_off
from kaigata.core.part.recipe.plates import (
    ACROSS,
    Flange,
    Hung,
    Joint,
    Mark,
    Notch,
    Plate,
    Rounding,
    hang,
    setback,
)
from kaigata.core.plane import Contour, Motion, Point
from kaigata.core.plane.contour import require_simple
from kaigata.core.plane.corners import CornerKind
from kaigata.core.plane.segment import bulge_of_sweep
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["built_recipe", "folded_recipe"]

_MOST_CUTOUTS = 5_000
"""Cutouts of one part: rows and columns multiply quickly."""

_LEVEL = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


def folded_recipe(recipe: said.Recipe) -> FoldedPart:
    """Return the folded part a recipe tells of: ``built_recipe`` without the names."""
    return built_recipe(recipe).part


def built_recipe(recipe: said.Recipe) -> Folded:
    """Return the folded part a recipe tells of, with the names of its panels.

    The first panel lies in the plane z = 0, its seen side up.

    Raises
    ------
    InputError
        A step cannot be done; the text says which, what is wrong and how to mend it.
    """
    return _Maker(recipe).folded()


class _Maker:
    def __init__(self, recipe: said.Recipe) -> None:
        self.recipe = recipe
        self.sizes = recipe.sizes()
        self.thickness = self._above(self.recipe.thickness, "the thickness")
        radius = self.sizes.length("inside_radius")
        if radius < 0:
            raise InputError(f"the inside radius is {radius:g} mm", where="inside_radius")
        self.radius = radius
        self.plates: dict[str, Plate] = {}
        self.corners: list[tuple[str, said.Corners]] = []
        self.where = ""
        self.cutouts = 0

    def folded(self) -> Folded:
        first = self.recipe.steps[0]
        if not isinstance(first, said.Panel):
            raise InputError(
                "the first step makes no panel", where="step 1", fix="Begin with a panel"
            )
        for i, step in enumerate(self.recipe.steps, start=1):
            self.where = f"step {i} ({step.do})"
            try:
                self._do(step)
            except InputError as error:
                raise (error if error.where.startswith("step ") else error.at(self.where)) from None
        for where, corners in self.corners:
            self.where = where
            self._cut_corners(corners)
        made = folded_plates(
            self.plates[first.name], name=self.recipe.part, thickness=self.thickness
        )
        return made if self.recipe.hand == "as-said" else made.mirrored()

    def _above(self, amount: Amount, what: str) -> float:
        found = self.sizes.length(amount)
        if found <= LENGTH:
            raise InputError(f"{what} is {found:g} mm", fix="It must be above 0")
        return found

    def _not_below(self, amount: Amount, what: str) -> float:
        found = self.sizes.length(amount)
        if found < 0:
            raise InputError(f"{what} is {found:g} mm", fix="It must be 0 or more")
        return found

    def _place(self, place: tuple[Amount, Amount]) -> Point:
        return (self.sizes.length(place[0]), self.sizes.length(place[1]))

    def _plate(self, name: str) -> Plate:
        if name not in self.plates:
            raise InputError(
                f"there is no panel {name!r} yet", fix=f"So far there are {', '.join(self.plates)}"
            )
        return self.plates[name]

    def _keep(self, plate: Plate) -> None:
        if plate.name in self.plates:
            raise InputError(
                f"there is a panel {plate.name!r} already", fix="Give each a name of its own"
            )
        self.plates[plate.name] = plate

    def _outline(self, rows: said.Outline) -> Contour:
        made = Contour.from_rows(
            [[*map(self.sizes.length, r[:2]), *map(self.sizes.value, r[2:])] for r in rows]
        )
        require_simple(made, where="outline")
        return made if made.area > 0 else made.reversed()

    @singledispatchmethod
    def _do(self, step: object) -> None:
        raise NotImplementedError(type(step).__name__)

    @_do.register
    def _(self, step: said.Panel) -> None:
        if self.plates:
            raise InputError(
                "there is a first panel already", fix="Hang the others on it as flanges"
            )
        shape = self._shape(step)
        x0, y0, _, _ = shape.bounds
        if step.rectangle is not None:
            shape = shape.moved(Motion(x=-x0, y=-y0))
        self._keep(Plate(name=step.name, where=self.where, edges=shape.segments, frame=_LEVEL))

    def _shape(self, step: said.Panel | said.Opening, corner: float = 0.0) -> Contour:
        """Return the outline said, or the rectangle about its middle."""
        if step.outline is not None and step.rectangle is None:
            return self._outline(step.outline)
        if step.rectangle is None or step.outline is not None:
            raise InputError("it has no one shape", fix="Give either a rectangle or an outline")
        wide, high = (self._above(a, "a side of the rectangle") for a in step.rectangle)
        if corner and 2 * corner > min(wide, high) - LENGTH:
            raise InputError(
                f"corners of {corner:.6g} mm have no room in {wide:.6g} x {high:.6g} mm",
                fix="Give a smaller corner radius, or a slot",
            )
        return _rounded_rectangle(wide, high, corner)

    @_do.register
    def _(self, step: said.Flange) -> None:
        turn = self._turn(step)
        angle, radius = turn
        if angle == 0 and self.sizes.value(step.offset) != 0:
            raise InputError(
                "what goes on in the plane of its panel has no bend to lie further out",
                fix="Give it more length instead",
            )
        inside = {"inside": "outside", "outside": "inside", "beside": "tangent"}[step.bend]
        depth = setback(inside, angle, radius, self.thickness) - self.sizes.length(step.offset)
        reach = setback(step.measured, angle, radius, self.thickness)
        self._hang_all(step, self._own_shape(step), turn, depth, reach)

    def _turn(self, step: said.Flange | said.Fold | said.Jog) -> tuple[float, float]:
        """Return how far a step turns, radians, and its inside radius, mm."""
        angle = math.radians(self.sizes.value(step.angle))
        if not 0 <= angle <= math.pi + LENGTH:
            raise InputError(f"the angle is {math.degrees(angle):g}", fix="Give 0 to 180 degrees")
        if step.radius is None:
            return angle, self.radius
        return angle, self._not_below(step.radius, "the inside radius")

    def _own_shape(self, step: said.Flange) -> float | Contour:
        if step.outline is None and step.length is not None:
            return self._above(step.length, "the length")
        if step.outline is None or step.length is not None:
            raise InputError("it has no one shape", fix="Give either a length or an outline")
        made = self._outline(step.outline)
        first = made.segments[0]
        level = max(abs(first.start[1]), abs(first.end[1])) < LENGTH
        if not (first.is_line and level and first.start[0] < first.end[0]):
            raise InputError(
                "the outline's first side is not the one at the bend",
                fix="Begin with the side on y = 0, from left to right, and go on counter-clockwise",
            )
        return made

    @_do.register
    def _(self, step: said.Hem) -> None:
        radius = self._not_below(step.gap, "the gap") / 2
        out = radius + self.thickness
        depth = out if step.bend == "inside" else 0.0
        length = self._above(step.length, "the length")
        self._hang_all(step, length, (math.pi, radius), depth, out)

    def _hang_all(
        self,
        step: said.Flange | said.Hem,
        shape: float | Contour,
        turn: tuple[float, float],
        depth: float,
        reach: float,
    ) -> None:
        for i, on in enumerate(step.on, start=1):
            name, _, number = on.rpartition(".")
            parent = self._plate(name)
            joint = self._joint(step, parent, int(number) - 1, turn, depth)
            called = step.name if len(step.on) == 1 else f"{step.name}-{i}"
            self._hang(parent, called, joint, shape, reach)

    def _hang(
        self, parent: Plate, name: str, joint: Joint, shape: float | Contour, reach: float
    ) -> Flange:
        flange = Hung(name=name, where=self.where, joint=joint, shape=shape, reach=reach)
        made = hang(parent, flange, thickness=self.thickness)
        self._keep(made)
        return made

    @_do.register
    def _(self, step: said.Fold) -> None:
        turn = self._turn(step)
        if turn[0] == 0:
            raise InputError("a fold by 0 degrees is none", fix="Give more, up to 180 degrees")
        depth = setback(step.measured, *turn, self.thickness)
        parting = self._parted(step)
        joint = self._across(step, parting, turn, depth)
        made = self._hang(parting.plate, step.name, joint, parting.shape, depth)
        give_over(parting, made, thickness=self.thickness)

    @_do.register
    def _(self, step: said.Jog) -> None:
        angle, radius = turn = self._turn(step)
        if not 0 < angle <= math.pi / 2 + LENGTH:
            raise InputError(
                f"the jog turns by {math.degrees(angle):g} degrees",
                fix="Give more than 0, up to 90",
            )
        # Two arcs and the straight between: how high they reach, and how far they go.
        arcs = 2 * radius + self.thickness
        height, taken = self._above(step.height, "the height"), arcs * (1 - math.cos(angle))
        straight = (height - taken) / math.sin(angle)
        if straight <= LENGTH:
            raise InputError(
                f"the jog is {height:.6g} mm high, of which its bends take {taken:.6g} mm",
                fix="Make it higher, or its radius or angle smaller",
            )
        goes = arcs * math.sin(angle) + straight * math.cos(angle)
        depth = setback("outside", angle, radius, self.thickness)
        parting = self._parted(step)
        if not parting.is_square():
            raise InputError(
                f"{step.panel} does not run on square to the line on both sides of it",
                fix="Lay the line square to straight edges",
            )
        joint = self._across(step, parting, turn, depth)
        rise = self._hang(parting.plate, f"{step.name}-step", joint, straight, 0.0)
        joint = replace(joint, edge=ACROSS, depth=0.0, is_up=not joint.is_up)
        made = self._hang(rise, step.name, joint, parting.shape, goes - depth)
        give_over(parting, made, thickness=self.thickness)

    def _parted(self, step: said.Fold | said.Jog) -> Parting:
        a, b = (self._place(p) for p in step.line)
        return part_off(self._plate(step.panel), a, b)

    def _across(
        self, step: said.Fold | said.Jog, parting: Parting, turn: tuple[float, float], depth: float
    ) -> Joint:
        is_up = step.direction == "up"
        return parting.joint(turn, depth=depth, is_up=is_up, thickness=self.thickness)

    def _joint(
        self,
        step: said.Flange | said.Hem,
        parent: Plate,
        edge: int,
        turn: tuple[float, float],
        depth: float,
    ) -> Joint:
        if not 0 <= edge < len(parent.edges) or (isinstance(parent, Flange) and edge == 0):
            own = ": that is its own bend" if edge == 0 else f", it has {len(parent.edges)}"
            raise InputError(f"{parent.name} has no edge {edge + 1} for a flange{own}")
        first, last = (self._not_below(a, "an end left free") for a in step.ends)
        length = parent.edges[edge].chord
        if first + last > length - LENGTH:
            raise InputError(
                f"edge {edge + 1} of {parent.name} is {length:.6g} mm long, of which "
                f"{first + last:.6g} mm are left free",
                fix="Leave less free",
            )
        return Joint(
            edge=edge,
            start=first,
            end=length - last,
            reaches_start=first <= LENGTH,
            reaches_end=last <= LENGTH,
            depth=depth,
            angle=turn[0],
            radius=turn[1],
            is_up=step.direction == "up",
            notch=self._notch(step.relief),
        )

    def _notch(self, relief: said.Relief) -> Notch:
        width = (
            self.thickness if relief.width is None else self._not_below(relief.width, "a relief")
        )
        depth = (
            self.thickness if relief.depth is None else self._not_below(relief.depth, "a relief")
        )
        return Notch(width, max(depth, width / 2), relief.kind == "round")

    @_do.register
    def _(self, step: said.Hole) -> None:
        wide, plate = self._drilled(step), self._plate(step.panel)
        for at in self._places(step):
            plate.openings.append((self.where, Contour.circle(at, wide / 2)))
            if step.thread is not None:
                plate.marks.append(Mark("tapped-hole", at, wide, step.thread))
            if step.countersink is not None:
                plate.marks.append(self._countersink(step, at, wide))

    def _countersink(self, step: said.Hole, at: Point, hole: float) -> Mark:
        wide = self._above(step.countersink or 0, "the countersink")
        if wide <= hole:
            raise InputError(
                f"the countersink is {wide:.6g} mm wide, its hole {hole:.6g} mm",
                fix="Give the width of the cone at the sheet's face",
            )
        note = f"countersink {wide:.4g} x 90 deg"
        return Mark("countersink", at, wide, note, step.side == "near")

    def _drilled(self, step: said.Hole) -> float:
        if step.thread is not None and step.diameter is None:
            if step.thread not in TAP_DRILLS:
                raise InputError(
                    f"the thread {step.thread!r} is not known",
                    fix=f"Known are {', '.join(TAP_DRILLS)}",
                )
            return TAP_DRILLS[step.thread]
        if step.diameter is None or step.thread is not None:
            raise InputError("it has no one size", fix="Give either a diameter or a thread")
        return self._above(step.diameter, "the diameter")

    @_do.register
    def _(self, step: said.Slot) -> None:
        long, wide = self._above(step.length, "the length"), self._above(step.width, "the width")
        if long < wide - LENGTH:
            raise InputError(
                f"the slot is {long:.6g} mm long and {wide:.6g} mm wide",
                fix="Its length is over both round ends: give more than its width",
            )
        straight = (long - wide) / 2
        shape = Contour.circle((0.0, 0.0), wide / 2)
        if straight > LENGTH:
            rows = [(-straight, -1, 0), (straight, -1, 1), (straight, 1, 0), (-straight, 1, 1)]
            shape = Contour(tuple((x, y * wide / 2, float(b)) for x, y, b in rows))
        self._cut_out(step, shape, step.turn)

    @_do.register
    def _(self, step: said.Opening) -> None:
        corner = self._not_below(step.corner, "the corner radius")
        self._cut_out(step, self._shape(step, corner), step.turn)

    def _cut_out(self, step: said.Slot | said.Opening, shape: Contour, turn: Amount) -> None:
        plate = self._plate(step.panel)
        angle = math.radians(self.sizes.value(turn))
        for x, y in self._places(step):
            made = shape.moved(Motion.turned(angle, x=x, y=y))
            plate.openings.append((self.where, made))

    def _places(self, step: said.Hole | said.Slot | said.Opening) -> list[Point]:
        (x, y), (dx, dy) = self._place(step.at), self._place(step.repeat.pitch)
        columns, rows = step.repeat.columns, step.repeat.rows
        self.cutouts += columns * rows
        if self.cutouts > _MOST_CUTOUTS:
            raise InputError(
                f"the part has {self.cutouts} cutouts, at most {_MOST_CUTOUTS} are made",
                fix="Repeat it less often",
            )
        return [(x + i * dx, y + j * dy) for j in range(rows) for i in range(columns)]

    @_do.register
    def _(self, step: said.Corners) -> None:
        self._plate(step.of)
        self.corners.append((self.where, step))

    def _cut_corners(self, step: said.Corners) -> None:
        gap = self._not_below(step.gap, "the gap")
        pairs = meeting_pairs(self._plate(step.of))
        if not pairs:
            raise InputError(
                f"no two flanges of {step.of} meet in a corner",
                where=self.where,
                fix="Hang flanges on neighbouring edges, their ends not left free",
            )
        order = list(self.plates.values())
        size = self.thickness if step.size is None else self._above(step.size, "the relief's size")
        for one, two in pairs:
            if step.relief != "none":
                one.parent.reliefs[one.joint.edge] = (size, step.relief == "round")
            if step.how == "mitred":
                mitre(one, two, gap=gap, thickness=self.thickness)
            elif step.how == "overlapped":
                over, under = sorted((one, two), key=order.index)
                overlap(over, under, gap=gap, thickness=self.thickness)

    @_do.register
    def _(self, step: said.Round) -> None:
        plate = self._plate(step.panel)
        size = self._above(step.radius, "the radius")
        count = len(plate.edges)
        wanted = step.corners or range(1, count + 1)
        for corner in wanted:
            if corner > count:
                raise InputError(
                    f"{plate.name} has no corner {corner}, it has {count}",
                    fix="Corner N is where edge N ends",
                )
            plate.rounds[corner - 1] = Rounding(
                size, step.kind is CornerKind.ROUND, bool(step.corners), self.where
            )


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
