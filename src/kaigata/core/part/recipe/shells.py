"""The shell of a solid: the step that makes panels of its faces and bends of its edges."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.part.folded import Frame
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.mitres import Half, room_of_bend
from kaigata.core.part.recipe.nets import is_tree, usual_net
from kaigata.core.part.recipe.plates import Flange, Hung, Joint, Line, Notch, Plate, hang
from kaigata.core.part.recipe.polyhedron import Polyhedron, Ridge, over_base
from kaigata.core.part.recipe.workbench import Workbench
from kaigata.core.plane import Contour, Motion, Point
from kaigata.core.plane.meet import crossings
from kaigata.core.plane.segment import Segment

__all__ = ["closed_faces", "fold_shell", "solid_of"]

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
    faces = closed_faces(solid, step)
    ridges = [r for r in solid.ridges if r.faces <= faces.keys()]
    anchor = _anchor(step, faces)
    bent = (
        usual_net(solid, faces, anchor) if step.bent is None else tuple(_named(ridges, step.bent))
    )
    if not is_tree(faces, bent):
        _refuse_net(faces, bent, anchor)
    shell = _Shell(bench, step, solid, bent)
    shell.hang_from(anchor, level)
    for ridge in ridges:
        if ridge not in bent:
            shell.open_seam(ridge)
    shell.cut_corners()


def closed_faces(solid: Polyhedron, step: said.Shell) -> dict[str, None]:
    """Return the faces that are of metal, in order; refuse open ones that there are not."""
    unknown = next((f for f in step.open if f not in solid.faces), None)
    if unknown is not None:
        raise _no_face(solid.faces, unknown)
    faces = {f: None for f in solid.faces if f not in step.open}
    if not faces:
        raise InputError("every face is left open", fix="Leave one closed, at least")
    return faces


def _anchor(step: said.Shell, faces: dict[str, None]) -> str:
    if step.anchor is None:
        return next(iter(faces))
    if step.anchor not in faces:
        raise _no_face(faces, step.anchor)
    return step.anchor


def _no_face(faces: Iterable[str], name: str) -> InputError:
    return InputError(f"there is no face {name!r}", fix=f"There are {', '.join(faces)}")


def _named(ridges: Sequence[Ridge], bent: Sequence[tuple[str, str]]) -> Iterator[Ridge]:
    """Yield the longest edge between each two faces named."""
    for pair in bent:
        between = [r for r in ridges if r.faces == frozenset(pair)]
        if not between:
            raise InputError(
                f"{pair[0]} and {pair[1]} are not neighbours",
                fix="Name two faces that share an edge, both of them closed",
            )
        yield max(between, key=lambda r: r.length)


def _refuse_net(faces: dict[str, None], bent: Sequence[Ridge], anchor: str) -> None:
    reached, grown = {anchor}, True
    while grown:
        more = {f for r in bent if r.faces & reached for f in r.faces} - reached
        reached |= more
        grown = bool(more)
    apart = [f for f in faces if f not in reached]
    if apart:
        raise InputError(
            f"no bend joins {apart[0]} to {anchor}", fix="Bend another edge of it, or leave it open"
        )
    raise InputError(
        f"{len(bent)} edges of {len(faces)} faces are bent, so some close a ring",
        fix=f"Bend {len(faces) - 1}; a ring of faces needs a seam",
    )


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
    count = shape.sides or 0
    if shape.across is None:
        raise InputError("a polygon without a size", fix="Say how far it is across its flats")
    far = bench.above(shape.across, "the size across flats") / 2 / math.cos(math.pi / count)
    # The first edge lies below, level.
    angles = [math.pi * (2 * i - 1) / count - math.pi / 2 for i in range(count)]
    return [(far * math.cos(a), far * math.sin(a)) for a in angles]


@dataclass(frozen=True)
class _Shell:
    """Faces becoming plates: seen from inside, their outlines those of the solid."""

    bench: Workbench
    step: said.Shell
    solid: Polyhedron
    bent: Sequence[Ridge]

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
            for ridge in self.bent:
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

    def open_seam(self, ridge: Ridge) -> None:
        """Cut two faces to each other at the plane between them, less half the gap each."""
        gap = self.bench.not_below(self.step.gap, "the gap") / 2
        thickness = self.bench.thickness
        half = ridge.angle / 2
        back = gap / math.cos(half)
        if ridge.is_convex == self._is_inside:
            back += thickness * math.tan(half)
        sides = [(self._plate(face), ridge.place(face)) for face in (ridge.one, ridge.two)]
        places = [(plate, self._placed(plate, place)) for plate, place in sides]
        outward = [_outward(plate, edge) for plate, edge in places]
        for i, (plate, edge) in enumerate(places):
            at = plate.on_edge(edge, 0.0, back)
            plate.sides[edge] = Line(at, plate.edges[edge].heading(0.0))
            normal = outward[i] - outward[1 - i]
            normal = normal / np.linalg.norm(normal)
            x, y = plate.edges[edge].start
            vertex = np.array(plate.frame.place(x, y, -thickness if self._is_inside else 0.0))
            room = Half(normal, float(normal @ vertex) - gap)
            for corner in (edge - 1, edge):
                bend = self._bend_at(plate, edge + 1 if corner == edge else corner)
                # At a corner that turns in, what is cut lies away from the bend.
                if bend is not None and _turns_out(plate, corner):
                    bend.limits = room_of_bend(bend, room, thickness)

    @staticmethod
    def _bend_at(plate: Plate, edge: int) -> Flange | None:
        """Return the flange whose bend lies at an edge of a plate: itself at its first."""
        edge %= len(plate.edges)
        if isinstance(plate, Flange) and edge == 0:
            return plate
        return next((f for f in plate.hung if f.joint.edge == edge), None)

    def cut_corners(self) -> None:
        """Let bends that meet in a corner of a face end there, with a relief between them."""
        for face in closed_faces(self.solid, self.step):
            plate = self._plate(face)
            for edge in range(len(plate.edges)):
                self._cut_corner(plate, edge)

    def _cut_corner(self, plate: Plate, edge: int) -> None:
        after = (edge + 1) % len(plate.edges)
        one, two = self._bend_at(plate, edge), self._bend_at(plate, after)
        if one is None or two is None:
            return
        if not _turns_out(plate, edge):
            return
        if self._relief:
            plate.reliefs[edge] = (self._relief, self.step.relief == "round")
        if plate not in (one, two) or not isinstance(plate, Flange):
            return
        # Its own bend ends, seen from what it hangs on, where that of its neighbour begins.
        lines = [
            Segment(plate.on_edge(e, 0.0, f.joint.depth), plate.on_edge(e, 1.0, f.joint.depth))
            for e, f in ((edge, one), (after, two))
        ]
        x = crossings(*lines)[0][0]
        low, high = plate.limits
        end = plate.joint.end
        if plate is one:
            plate.limits = (max(low, end - x + self._relief), high)
        else:
            plate.limits = (low, min(high, end - x - self._relief))


def _turns_out(plate: Plate, edge: int) -> bool:
    """Return whether the corner at the end of an edge is one of a convex outline."""
    count = len(plate.edges)
    (ux, uy), (vx, vy) = (plate.edges[e % count].heading(0.0) for e in (edge, edge + 1))
    return ux * vy - uy * vx > _LEVEL


def _outward(plate: Plate, edge: int) -> np.ndarray:
    """Return the direction in space that points out of a plate over one of its edges."""
    ux, uy = plate.edges[edge].heading(0.0)
    return uy * np.array(plate.frame.x) - ux * np.array(plate.frame.y)
