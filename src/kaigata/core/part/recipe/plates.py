"""The panels of a recipe before they are cut to each other: outlines as said, and where they lie.

A plate's own coordinates are those a person gives holes in. Of a flange x runs along its bend from
its left end, seen with the bend below, and y from where its length is measured.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

from kaigata.core.errors import InputError
from kaigata.core.metal.allowance import outside_setback
from kaigata.core.part.folded import Frame, Vector
from kaigata.core.part.recipe.half import Half
from kaigata.core.plane import Contour, Motion, Point, Segment
from kaigata.core.plane.tolerance import LENGTH

__all__ = [
    "ACROSS",
    "Along",
    "Flange",
    "Hung",
    "Joint",
    "Line",
    "Mark",
    "Notch",
    "Plate",
    "Rounding",
    "hang",
    "rehang",
    "setback",
]

ACROSS = 2
"""Place of the edge of a rectangular flange that lies across from its bend."""


@dataclass(frozen=True, slots=True)
class Line:
    """A line of a plate's plane with the plate on its left: a point and a unit direction."""

    at: Point
    along: Point

    def stretch(self) -> Segment:
        """Return a stretch of it, 1 mm long."""
        (x, y), (ux, uy) = self.at, self.along
        return Segment((x, y), (x + ux, y + uy))


@dataclass(frozen=True, slots=True)
class Notch:
    """A relief beside a bend: along the edge, and from the bend line into the panel, mm."""

    width: float
    depth: float
    is_round: bool


@dataclass(frozen=True, slots=True)
class Rounding:
    """What becomes of a free corner: a radius or a chamfer, mm, and the step that said so.

    One that was not chosen by its number is left as it is where a bend or an arc lies.
    """

    size: float
    is_round: bool
    is_chosen: bool
    where: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Joint:
    """How a flange hangs on an edge of its panel.

    Attributes
    ----------
    edge : int
        Place of the edge, from 0.
    start, end : float
        From where to where along the edge, mm.
    reaches_start, reaches_end : bool
        Whether it goes as far as the edge's own ends.
    depth : float
        How far inside the edge the bend begins, mm; outside below 0.
    angle : float
        How far it is turned from flat, radians.
    radius : float
        Inside radius, mm.
    is_up : bool
        Whether it turns towards the side that is seen.
    notch : Notch
        Beside it where it stops within the edge.
    """

    edge: int
    start: float
    end: float
    reaches_start: bool
    reaches_end: bool
    depth: float
    angle: float
    radius: float
    is_up: bool
    notch: Notch


@dataclass(frozen=True, slots=True)
class Along:
    """How far something goes along an edge of a plate, and how that is cut free beside it.

    ``start`` and ``end`` along the edge, mm, and whether these are its ends.
    """

    edge: int
    start: float
    end: float
    reaches_start: bool
    reaches_end: bool
    notch: Notch

    def joint(self, *, depth: float, angle: float, radius: float, is_up: bool) -> Joint:
        """Return the joint of something that is bent there."""
        return Joint(
            edge=self.edge,
            start=self.start,
            end=self.end,
            reaches_start=self.reaches_start,
            reaches_end=self.reaches_end,
            depth=depth,
            angle=angle,
            radius=radius,
            is_up=is_up,
            notch=self.notch,
        )


@dataclass(frozen=True, slots=True)
class Mark:
    """What is made of a hole or of the sheet later; see ``Feature``."""

    kind: str
    at: Point
    diameter: float
    note: str
    is_above: bool | None = None
    end: Point | None = None

    def moved(self, there: Motion) -> Mark:
        """Return it after a motion within the plane of its plate."""
        return replace(self, at=there.point(self.at), end=self.end and there.point(self.end))


@dataclass(eq=False, kw_only=True)
class Plate:
    """A panel as said.

    Attributes
    ----------
    name, where : str
        What it is called; the step that made it, for messages.
    edges : tuple of Segment
        Its outline as said, counter-clockwise; a flange's first edge is its bend.
    frame : Frame
        Where it lies when folded.
    hung : list of Flange
        What hangs on it.
    sides : dict of int to Line
        Edges that are cut to a neighbour, by their place.
    openings : list of (str, Contour)
        What is cut out, each with the step it was said in.
    marks : list of Mark
        What is made of holes later.
    rounds : dict of int to Rounding
        Corners to be rounded, by the place of the edge they end.
    reliefs : dict of int to (float, bool)
        Reliefs of corners where two bends meet: size, and whether round.
    rooms : dict of int to Half
        At edges to a neighbour, the half of space that what hangs beside them is kept in.
    first : int
        The place of the edge that is called edge 1.
    said : Motion
        From the coordinates a person gives places in to the plate's own.
    """

    name: str
    where: str
    edges: tuple[Segment, ...]
    frame: Frame
    hung: list[Flange] = field(default_factory=list)
    sides: dict[int, Line] = field(default_factory=dict)
    openings: list[tuple[str, Contour]] = field(default_factory=list)
    marks: list[Mark] = field(default_factory=list)
    rounds: dict[int, Rounding] = field(default_factory=dict)
    reliefs: dict[int, tuple[float, bool]] = field(default_factory=dict)
    rooms: dict[int, Half] = field(default_factory=dict)
    first: int = 0
    said: Motion = field(default_factory=Motion)

    def number(self, edge: int) -> int:
        """Return what the edge at a place is called."""
        return (edge - self.first) % len(self.edges) + 1

    def called(self, edge: int) -> str:
        """Return words for the edge at a place."""
        return f"edge {self.number(edge)} of {self.name}"

    def numbered(self, number: int) -> int | None:
        """Return the place of the edge called so, if there is one."""
        count = len(self.edges)
        return (number - 1 + self.first) % count if 1 <= number <= count else None

    def on_edge(self, edge: int, along: float, depth: float) -> Point:
        """Return the point so far along an edge and inside it."""
        segment = self.edges[edge]
        (x, y), (ux, uy) = segment.start, segment.heading(0.0)
        return (x + ux * along - uy * depth, y + uy * along + ux * depth)


@dataclass(eq=False, kw_only=True)
class Flange(Plate):
    """A panel that hangs on the edge of another.

    Attributes
    ----------
    parent : Plate
        What it hangs on.
    joint : Joint
        How.
    rise : float
        How far from its first edge its bend ends, mm.
    is_shaped : bool
        Whether its outline is its own; otherwise it is as wide as its bend comes out.
    limits : (float, float)
        Between where on the parent's edge its bend may lie, mm.
    """

    parent: Plate
    joint: Joint
    rise: float
    is_shaped: bool = False
    limits: tuple[float, float] = (-math.inf, math.inf)


@dataclass(frozen=True, slots=True, kw_only=True)
class Hung:
    """A flange to be hung: what it is called, how it hangs, and its length or its outline.

    ``reach`` is how far both are measured from behind the end of the bend, mm. The outline is in
    the flange's own coordinates, its first edge on the x axis.
    """

    name: str
    where: str
    joint: Joint
    shape: float | Contour
    reach: float


def setback(measured: str, angle: float, radius: float, thickness: float) -> float:
    """Return how far from a bend's end ``outside``, ``inside`` or ``tangent`` is, mm.

    That of the inside is the outside's of a sheet without thickness.
    """
    if measured == "tangent":
        return 0.0
    thick = thickness if measured == "outside" else 0.0
    return outside_setback(angle, inside_radius=radius, thickness=thick)


def hang(parent: Plate, flange: Hung, *, thickness: float) -> Flange:
    """Hang a flange on an edge of a plate and return it.

    Raises
    ------
    InputError
        The bend leaves nothing of the flange.
    """
    joint, shape = flange.joint, flange.shape
    wide = joint.end - joint.start
    outline = shape if isinstance(shape, Contour) else _rectangle(wide, shape)
    length = outline.bounds[3]
    if length <= flange.reach + LENGTH:
        raise InputError(
            f"the flange is {length:.6g} mm long, of which its bend takes {flange.reach:.6g} mm",
            where=flange.where,
            fix="Make it longer, or the radius smaller",
        )
    # Its x runs against the parent's edge, from where that or what is left free of it ends.
    left, right = outline.segments[0].start[0], outline.segments[0].end[0]
    if left < -LENGTH or right > wide + LENGTH:
        raise InputError(
            f"its outline goes along the bend from {left:.6g} to {right:.6g} mm, of which the edge "
            f"gives 0 to {wide:.6g}",
            where=flange.where,
            fix="Begin the outline with a side that lies on the edge",
        )
    bent = replace(
        joint,
        start=joint.end - right,
        end=joint.end - left,
        reaches_start=joint.reaches_start and wide - right <= LENGTH,
        reaches_end=joint.reaches_end and left <= LENGTH,
    )
    made = Flange(
        name=flange.name,
        where=flange.where,
        edges=outline.segments,
        frame=_frame_beyond(parent, bent, (left, flange.reach), thickness),
        rise=flange.reach,
        is_shaped=isinstance(shape, Contour),
        joint=bent,
        parent=parent,
    )
    parent.hung.append(made)
    return made


def _rectangle(wide: float, high: float) -> Contour:
    return Contour.through([(0.0, 0.0), (wide, 0.0), (wide, high), (0.0, high)])


def rehang(flange: Flange, parent: Plate, joint: Joint, *, thickness: float) -> None:
    """Hang a flange, and with it all that hangs on it, on an edge of another plate."""
    if flange not in parent.hung:
        parent.hung.append(flange)
    flange.parent, flange.joint = parent, joint
    first = flange.edges[0].start[0]
    flange.frame = _frame_beyond(parent, joint, (first, flange.rise), thickness)
    for hung in flange.hung:
        rehang(hung, flange, hung.joint, thickness=thickness)


def _frame_beyond(parent: Plate, joint: Joint, first: Point, thickness: float) -> Frame:
    """Return the frame of a flange: its first edge runs against the parent's.

    ``first`` is where, in that frame, the beginning of its bend ends.
    """
    ux, uy = parent.edges[joint.edge].heading(0.0)
    frame = parent.frame
    x, y, _ = frame.x, frame.y, frame.z
    along = _sum((ux, x), (uy, y))
    out = _sum((uy, x), (-ux, y))
    lift = _sum((1.0 if joint.is_up else -1.0, frame.z))
    radius = joint.radius if joint.is_up else joint.radius + thickness
    sin, cos = math.sin(joint.angle), math.cos(joint.angle)
    px, py = parent.on_edge(joint.edge, joint.end, joint.depth)
    up = _sum((cos, out), (sin, lift))
    back = _sum((-1.0, along))
    start = _sum(
        (1.0, frame.place(px, py, 0.0)),
        (radius * sin, out),
        (radius * (1 - cos), lift),
        (-first[0], back),
        (-first[1], up),
    )
    return Frame(start, back, up, _cross(back, up))


def _sum(*terms: tuple[float, Vector]) -> Vector:
    return (
        math.fsum(f * v[0] for f, v in terms),
        math.fsum(f * v[1] for f, v in terms),
        math.fsum(f * v[2] for f, v in terms),
    )


def _cross(a: Vector, b: Vector) -> Vector:
    """Return the cross product."""
    return (
        a[1] * b[2] - a[2] * b[1],
        a[2] * b[0] - a[0] * b[2],
        a[0] * b[1] - a[1] * b[0],
    )
