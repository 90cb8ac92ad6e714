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
    """Cut corners of a shell's faces, and what hangs beside them, when all hangs there."""
    relief, is_round = _relief(bench, step), step.relief == "round"
    for face in [p for p in bench.plates.values() if p.where == bench.where]:
        for corner in range(len(face.edges)):
            _keep_apart(face, corner, bench.thickness)
            _cut_corner(face, corner, relief, is_round=is_round)


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
        relief = _relief(self.bench, self.step)
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
            notch=Notch(relief, relief, is_round=False),
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
            for bend, corner in (
                (_bends_in(plate, edge - 1)[0], edge - 1),
                (_bends_in(plate, edge)[1], edge),
            ):
                # At a corner that turns in, what is cut lies away from the bend.
                if bend is not None and _turns_out(plate, corner):
                    bend.limits = room_of_bend(bend, plate.rooms[edge], self.bench.thickness)

    def _edge(self, face: str, ridge: Ridge) -> tuple[Plate, int]:
        plate = self._plate(face)
        return plate, self._placed(plate, ridge.place(face))


def _relief(bench: Workbench, step: said.Shell) -> float:
    if step.relief == "none":
        return 0.0
    return bench.thickness if step.size is None else bench.above(step.size, "the relief's size")


def _bends_in(plate: Plate, corner: int) -> tuple[Flange | None, Flange | None]:
    """Return the flanges whose bends reach a corner, that at the end of an edge and the next.

    Along its first edge a flange has its own.
    """
    edge, after = (e % len(plate.edges) for e in (corner, corner + 1))
    own = plate if isinstance(plate, Flange) else None
    before = (f for f in plate.hung if f.joint.edge == edge and f.joint.reaches_end)
    beyond = (f for f in plate.hung if f.joint.edge == after and f.joint.reaches_start)
    return (
        own if own and edge == 0 else next(before, None),
        own if own and after == 0 else next(beyond, None),
    )


def _keep_apart(plate: Plate, corner: int, thickness: float) -> None:
    """Cut what hangs in a corner to where the faces beside are divided."""
    after = (corner + 1) % len(plate.edges)
    for flange, other in zip(_bends_in(plate, corner), (after, corner), strict=True):
        room = plate.rooms.get(other)
        if flange and flange is not plate and not flange.is_shaped and room:
            keep_within(flange, room, thickness=thickness)


def _cut_corner(plate: Plate, corner: int, relief: float, *, is_round: bool) -> None:
    """Let bends end in a corner of a face, with a relief."""
    edges = (corner, (corner + 1) % len(plate.edges))
    bends = _bends_in(plate, corner)
    lines = [
        plate.sides.get(e) or _line(plate, e, bend.joint.depth if bend else 0.0)
        for e, bend in zip(edges, bends, strict=True)
    ]
    met = crossings(*(line.stretch() for line in lines))
    if not met:
        return
    if _turns_out(plate, corner):
        if None in bends:
            return
        if relief:
            plate.reliefs[corner] = (relief, is_round)
    elif None not in bends or not any(e in plate.sides for e in edges):
        return
    for edge, bend, is_end in zip(edges, bends, (True, False), strict=True):
        # Where two meet, what hangs there is cut by the face itself.
        if bend is plate or (bend and None in bends):
            at = plate.edges[edge].share_of(met[0]) * plate.edges[edge].chord
            _end_bend(plate, bend, at - relief if is_end else at + relief, is_end=is_end)


def _end_bend(plate: Plate, bend: Flange, along: float, *, is_end: bool) -> None:
    """Let a bend at an edge of a plate end, or begin, no further than so far along the edge."""
    if bend is plate:
        # What limits a bend is told on the edge it hangs on, which runs the other way.
        along, is_end = bend.joint.end - along, not is_end
    low, high = bend.limits
    bend.limits = (low, min(high, along)) if is_end else (max(low, along), high)


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
