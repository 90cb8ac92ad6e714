"""The shell of a solid: the step that makes panels of its faces and bends of its edges."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from kaigata.core.part.folded import Frame
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.choosing import Choice, chosen
from kaigata.core.part.recipe.half import Half
from kaigata.core.part.recipe.mitres import keep_within, room_of_bend
from kaigata.core.part.recipe.plates import Flange, Hung, Joint, Line, Notch, Plate, hang
from kaigata.core.part.recipe.polyhedron import Polyhedron, Ridge
from kaigata.core.part.recipe.solids import solid_of
from kaigata.core.part.recipe.workbench import Workbench
from kaigata.core.plane import Contour, Motion
from kaigata.core.plane.meet import crossings

__all__ = ["cut_shell", "fold_shell"]

_LEVEL = 1e-9
"""Sine of the angle between edges that are in one line."""


def fold_shell(bench: Workbench, step: said.Shell, level: Frame) -> None:
    """Fold a shell; its anchor lies in a frame, seen from inside.

    Raises
    ------
    InputError
        The solid is none, the faces bent to each other do not hang together as one flat, or a
        face has no room for its bends.
    """
    solid = solid_of(bench, step.solid)
    choice = chosen(solid, step)
    shell = _Shell(bench, step, solid, choice)
    shell.hang_from(choice.anchor, level)
    for ridge in choice.ridges:
        shell.divide(ridge)
        if ridge not in choice.bent:
            shell.open_seam(ridge)


def cut_shell(bench: Workbench, step: said.Shell) -> None:
    """Cut corners of a shell's faces, and what hangs beside its seams, when all hangs there."""
    solid = solid_of(bench, step.solid)
    _Shell(bench, step, solid, chosen(solid, step)).cut_corners()


@dataclass(frozen=True)
class _Shell:
    """Faces becoming plates: seen from inside, their outlines those of the solid."""

    bench: Workbench
    step: said.Shell
    solid: Polyhedron
    choice: Choice

    @property
    def _is_inside(self) -> bool:
        """Whether the metal lies inside of the solid's faces."""
        return self.step.metal == "inside"

    def _plate(self, face: str) -> Plate:
        return self.bench.plates[f"{self.step.name}-{face}"]

    def hang_from(self, anchor: str, level: Frame) -> None:
        """Make a plate of the anchor, and of the others flanges, each on one made before."""
        outline = Contour.through(self.solid.seen[anchor])
        name = f"{self.step.name}-{anchor}"
        self.bench.keep(
            Plate(name=name, where=self.bench.where, edges=outline.segments, frame=level)
        )
        made = [anchor]
        for face in made:
            for ridge in self.choice.bent:
                if face in ridge.faces and ridge.other(face) not in made:
                    self._hang(ridge, face)
                    made.append(ridge.other(face))

    def _hang(self, ridge: Ridge, holder: str) -> None:
        face, thickness = ridge.other(holder), self.bench.thickness
        parent = self._plate(holder)
        # The bend touches both faces, on the side of the sheet that the solid's surface is.
        is_outer = ridge.is_convex == self._is_inside
        radius = self.bench.radius + (thickness if is_outer else 0.0)
        depth = radius * math.tan(ridge.angle / 2)
        edge = self._placed(parent, ridge.place(holder))
        corners, place = self.solid.seen[face], ridge.place(face)
        own = Contour.through(corners).segments[place]
        said_there = Motion.taking(own.start, own.heading(0.0), to=(0.0, 0.0), along=(1.0, 0.0))
        turned = [said_there.point(p) for p in (*corners[place:], *corners[:place])]
        joint = Joint(
            edge=edge,
            start=0.0,
            end=parent.edges[edge].chord,
            reaches_start=True,
            reaches_end=True,
            depth=depth,
            angle=ridge.angle,
            radius=self.bench.radius,
            is_up=ridge.is_convex,
            notch=Notch(self._relief, self._relief, is_round=False),
        )
        hung = Hung(
            name=f"{self.step.name}-{face}",
            where=self.bench.where,
            joint=joint,
            shape=Contour.through(turned),
            reach=depth,
        )
        made = hang(parent, hung, thickness=thickness)
        made.first, made.said = -place % len(corners), said_there
        self.bench.keep(made)

    def _placed(self, plate: Plate, place: int) -> int:
        """Return where among a plate's edges one of its face is."""
        return (place + plate.first) % len(plate.edges)

    @property
    def _relief(self) -> float:
        step = self.step
        if step.relief == "none":
            return 0.0
        if step.size is None:
            return self.bench.thickness
        return self.bench.above(step.size, "the relief's size")

    def divide(self, ridge: Ridge) -> None:
        """Give two faces a half of space each, less half the gap, for what hangs beside."""
        gap = self.bench.not_below(self.step.gap, "the gap") / 2
        level = -self.bench.thickness if self._is_inside else 0.0
        places = [self._edge(face, ridge) for face in (ridge.one, ridge.two)]
        outward = [_outward(plate, edge) for plate, edge in places]
        for i, (plate, edge) in enumerate(places):
            normal = outward[i] - outward[1 - i]
            normal = normal / np.linalg.norm(normal)
            vertex = np.array(plate.frame.place(*plate.edges[edge].start, level))
            plate.rooms[edge] = Half(normal, float(normal @ vertex) - gap)

    def open_seam(self, ridge: Ridge) -> None:
        """Cut two faces to each other where their halves of space end."""
        half = ridge.angle / 2
        back = self.bench.not_below(self.step.gap, "the gap") / 2 / math.cos(half)
        if ridge.is_convex == self._is_inside:
            back += self.bench.thickness * math.tan(half)
        for plate, edge in (self._edge(face, ridge) for face in (ridge.one, ridge.two)):
            plate.sides[edge] = _line(plate, edge, back)
            for corner in (edge - 1, edge):
                bend = self._bend_at(plate, edge + 1 if corner == edge else corner)
                # At a corner that turns in, what is cut lies away from the bend.
                if bend is not None and _turns_out(plate, corner):
                    bend.limits = room_of_bend(bend, plate.rooms[edge], self.bench.thickness)

    def _edge(self, face: str, ridge: Ridge) -> tuple[Plate, int]:
        plate = self._plate(face)
        return plate, self._placed(plate, ridge.place(face))

    @staticmethod
    def _bend_at(plate: Plate, edge: int) -> Flange | None:
        """Return the flange whose bend lies at an edge of a plate: itself at its first."""
        edge %= len(plate.edges)
        if isinstance(plate, Flange) and edge == 0:
            return plate
        return next((f for f in plate.hung if f.joint.edge == edge), None)

    def cut_corners(self) -> None:
        """Let bends end in the corners of faces, with reliefs."""
        for face in self.choice.faces:
            plate = self._plate(face)
            for edge, room in plate.rooms.items():
                for flange in plate.hung:
                    if not flange.is_shaped and _reaches(flange.joint, edge, len(plate.edges)):
                        keep_within(flange, room, thickness=self.bench.thickness)
            for edge in range(len(plate.edges)):
                self._cut_corner(plate, edge)

    def _cut_corner(self, plate: Plate, edge: int) -> None:
        after = (edge + 1) % len(plate.edges)
        bends = (self._bend_at(plate, edge), self._bend_at(plate, after))
        relief = self._relief
        lines = [
            plate.sides.get(e) or _line(plate, e, bend.joint.depth if bend else 0.0)
            for e, bend in zip((edge, after), bends, strict=True)
        ]
        met = crossings(*(line.stretch() for line in lines))
        if not met:
            return
        if _turns_out(plate, edge):
            if None in bends:
                return
            if relief:
                plate.reliefs[edge] = (relief, self.step.relief == "round")
        elif None not in bends or not (edge in plate.sides or after in plate.sides):
            return
        for e, bend, is_end in zip((edge, after), bends, (True, False), strict=True):
            # Where two meet, what hangs there is cut by the face itself.
            if bend is plate or (bend and None in bends):
                at = plate.edges[e].share_of(met[0]) * plate.edges[e].chord
                _end_bend(plate, bend, at - relief if is_end else at + relief, is_end=is_end)


def _end_bend(plate: Plate, bend: Flange, along: float, *, is_end: bool) -> None:
    """Let a bend at an edge of a plate end, or begin, no further than so far along the edge."""
    if bend is plate:
        # What limits a bend is told on the edge it hangs on, which runs the other way.
        along, is_end = bend.joint.end - along, not is_end
    low, high = bend.limits
    bend.limits = (low, min(high, along)) if is_end else (max(low, along), high)


def _reaches(joint: Joint, edge: int, count: int) -> bool:
    """Return whether a flange's bend reaches the corner that its edge has with another edge."""
    return (joint.reaches_end and edge == (joint.edge + 1) % count) or (
        joint.reaches_start and joint.edge == (edge + 1) % count
    )


def _line(plate: Plate, edge: int, depth: float) -> Line:
    return Line(plate.on_edge(edge, 0.0, depth), plate.edges[edge].heading(0.0))


def _turns_out(plate: Plate, edge: int) -> bool:
    """Return whether the corner at the end of an edge is one of a convex outline."""
    count = len(plate.edges)
    (ux, uy), (vx, vy) = (plate.edges[e % count].heading(0.0) for e in (edge, edge + 1))
    return ux * vy - uy * vx > _LEVEL


def _outward(plate: Plate, edge: int) -> np.ndarray:
    """Return the direction in space that points out of a plate over one of its edges."""
    ux, uy = plate.edges[edge].heading(0.0)
    return uy * np.array(plate.frame.x) - ux * np.array(plate.frame.y)
