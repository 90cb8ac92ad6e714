"""From plates cut to each other to the panels and bends of a folded part."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable
from dataclasses import dataclass, replace

from shapely.geometry import MultiPoint

from kaigata.core.errors import InputError
from kaigata.core.part.folded import Bend, Feature, FoldedPart, Frame, Panel, PieceEdge
from kaigata.core.part.recipe.outline import outline
from kaigata.core.part.recipe.plates import Flange, Plate
from kaigata.core.part.recipe.rounding import AtBend, Side, Span
from kaigata.core.plane import Contour, Motion, Point, Region, Segment
from kaigata.core.plane.region import require_sound

__all__ = ["Folded", "NamedEdge", "NamedPanel", "folded_plates"]


@dataclass(frozen=True, slots=True)
class NamedEdge:
    """A free edge: its number in its plate, and its middle in the panel's frame, mm."""

    number: int
    at: Point


@dataclass(frozen=True, slots=True)
class NamedPanel:
    """What a plate has become: its name, its panel's place in the part, its middle and edges."""

    name: str
    panel: int
    at: Point
    edges: tuple[NamedEdge, ...]

    def moved(self, there: Callable[[Point], Point]) -> NamedPanel:
        """Return it with its places where a function takes them."""
        edges = tuple(replace(e, at=there(e.at)) for e in self.edges)
        return replace(self, at=there(self.at), edges=edges)


@dataclass(frozen=True, slots=True)
class Folded:
    """A folded part, and which of its panels a recipe calls what."""

    part: FoldedPart
    names: tuple[NamedPanel, ...]

    def mirrored(self) -> Folded:
        """Return the other hand, its panels and edges called the same."""
        names = tuple(n.moved(lambda p: (-p[0], p[1])) for n in self.names)
        return Folded(self.part.mirrored(), names)


def folded_plates(base: Plate, *, name: str, thickness: float) -> Folded:
    """Return the folded part that a first panel and all that hangs on it make.

    Raises
    ------
    InputError
        An outline crosses itself, or what is cut out does not lie in its panel.
    """
    return _Folder(base, name, thickness).folded()


@dataclass(frozen=True, slots=True)
class _Piece:
    """A piece of a panel's outline, the plate it is of, and how that lies in the panel."""

    side: Side
    plate: Plate
    motion: Motion


class _Folder:
    def __init__(self, base: Plate, name: str, thickness: float) -> None:
        self.name, self.thickness = name, thickness
        self.numbers = itertools.count(1)
        self.bends: list[Bend] = []
        self.panels: list[tuple[Panel, list[Feature], list[NamedPanel]]] = []
        self.left: list[tuple[Plate, Span | None, int]] = [(base, None, 0)]

    def folded(self) -> Folded:
        for plate, own, number in self.left:
            self._panel(plate, own, number)
        self.panels.sort(key=lambda p: -round(p[0].area, 3))
        part = FoldedPart(
            self.name,
            self.thickness,
            tuple(panel for panel, _, _ in self.panels),
            tuple(self.bends),
            tuple(
                replace(f, piece=i) for i, (_, marks, _) in enumerate(self.panels) for f in marks
            ),
        )
        names = [replace(n, panel=i) for i, (_, _, names) in enumerate(self.panels) for n in names]
        return Folded(part, tuple(names))

    def _panel(self, plate: Plate, own: Span | None, number: int) -> None:
        flat = self._in_plane(outline(plate, own), plate, Motion())
        edges = []
        for piece in flat:
            bend = piece.side.bend
            run = _moved(piece.side.run, piece.motion)
            shared = next(self.numbers) if bend is None else number
            if bend is not None and bend.flange is not plate:
                shared = self._begun(piece.plate, bend)
            edges.append(PieceEdge(shared, (run,)))
        parts = {p.plate.name: p for p in flat}.values()
        region = _sound(
            plate,
            Contour.of_segments([e.run[0] for e in edges]),
            [(w, hole.moved(p.motion)) for p in parts for w, hole in p.plate.openings],
        )
        edges += [
            PieceEdge(next(self.numbers), (s,)) for hole in region.holes for s in hole.segments
        ]
        marks = [
            Feature(
                kind=m.kind,
                piece=0,
                at=p.motion.point(m.at),
                diameter=m.diameter,
                note=m.note,
                is_above=m.is_above,
                end=m.end and p.motion.point(m.end),
            )
            for p in parts
            for m in p.plate.marks
        ]
        names = [_named(p.plate, p.motion, flat) for p in parts]
        self.panels.append((Panel(edges=tuple(edges), frame=plate.frame), marks, names))

    def _in_plane(self, sides: list[Side], plate: Plate, motion: Motion) -> list[_Piece]:
        """Return an outline, that of a flange that goes on in its plane in place of its edge."""
        out = []
        for side in sides:
            bend = side.bend
            if bend is None or bend.flange is plate or bend.flange.joint.angle > 0:
                out.append(_Piece(side, plate, motion))
                continue
            made = outline(bend.flange, bend.beyond)
            own = next(i for i, s in enumerate(made) if s.bend and s.bend.flange is bend.flange)
            run = made[own].run
            # Its own edge runs against the edge it goes on from.
            there = Motion.taking(
                run.start, run.heading(0.0), to=side.run.end, along=side.run.reversed().heading(0.0)
            )
            around = [*made[own + 1 :], *made[:own]]
            out += self._in_plane(around, bend.flange, there.then(motion))
        return out

    def _begun(self, plate: Plate, bend: AtBend) -> int:
        """Make the bend of a flange and return the number of the edge it begins at."""
        numbers = tuple(next(self.numbers) for _ in range(4))
        self.bends.append(_bend(plate, bend, numbers, self.thickness))
        self.left.append((bend.flange, bend.beyond, numbers[1]))
        return numbers[0]


def _named(plate: Plate, motion: Motion, flat: list[_Piece]) -> NamedPanel:
    """Return where a plate and its free edges lie in its panel."""
    own = [p.side for p in flat if p.plate is plate]
    middle = MultiPoint([p for s in own for p in (s.run.start, s.run.end)]).convex_hull.centroid
    # What is cut to a neighbour, or left beside a bend on a whole edge, takes no other flange.
    taken = {*plate.sides} | {
        f.joint.edge for f in plate.hung if f.joint.reaches_start and f.joint.reaches_end
    }
    taken |= {0} if isinstance(plate, Flange) else set()
    free: dict[int, Segment] = {}
    for s in own:
        if s.edge is not None and s.bend is None and s.edge not in taken:
            free[s.edge] = max(s.run, free.get(s.edge, s.run), key=lambda run: run.length)
    return NamedPanel(
        name=plate.name,
        panel=0,
        at=motion.point((middle.x, middle.y)),
        edges=tuple(
            sorted(
                (NamedEdge(plate.number(n), motion.point(run.at(0.5))) for n, run in free.items()),
                key=lambda e: e.number,
            )
        ),
    )


def _moved(run: Segment, motion: Motion) -> Segment:
    return Segment(motion.point(run.start), motion.point(run.end), run.bulge)


def _bend(holder: Plate, bend: AtBend, numbers: tuple[int, ...], thickness: float) -> Bend:
    """Return the bend between a panel and its flange: near edge, far edge, and two free ones."""
    joint, span, beyond = bend.flange.joint, bend.span, bend.beyond
    frame, half, length = holder.frame, joint.angle / 2, span.end - span.start
    ux, uy = holder.edges[joint.edge].heading(0.0)
    radius = joint.radius if joint.is_up else joint.radius + thickness
    up = 1.0 if joint.is_up else -1.0
    px, py = holder.on_edge(joint.edge, span.start, joint.depth)
    sin, cos = math.sin(half), math.cos(half)

    def heading(x: float, y: float, z: float) -> tuple[float, float, float]:
        o = frame.origin
        p = frame.place(x, y, z)
        return (p[0] - o[0], p[1] - o[1], p[2] - o[2])

    along = heading(ux, uy, 0.0)
    middle = heading(uy * sin, -ux * sin, -up * cos)
    growth = heading(uy * cos, -ux * cos, up * sin)
    near, far, low, high = numbers
    # The flange's edge runs against the panel's.
    first, last = (joint.end - v - span.start for v in (beyond.end, beyond.start))
    corners: list[tuple[int, Point, Point]] = [
        (low, (-half, 0.0), (half, first)),
        (far, (half, first), (half, last)),
        (high, (half, last), (-half, length)),
        (near, (-half, length), (-half, 0.0)),
    ]
    return Bend(
        edges=tuple(PieceEdge(n, (Segment(a, b),)) for n, a, b in corners),
        frame=Frame(frame.place(px, py, up * radius), middle, along, growth),
        radius=radius,
        inside_radius=joint.radius,
        angle=joint.angle,
        is_up=joint.is_up,
    )


def _sound(plate: Plate, outer: Contour, openings: list[tuple[str, Contour]]) -> Region:
    """Return a panel's region when it is one."""
    region = Region.oriented(outer, tuple(hole for _, hole in openings))
    try:
        if outer.area <= 0:
            raise InputError("the panel's outline turns inside out", where="outer")
        require_sound(region, where="", name=plate.name)
    except InputError as error:
        found = re.search(r"holes\[(\d+)\]", error.where)
        where = openings[int(found[1])][0] if found else plate.where
        what = re.sub(r"holes\[(\d+)\]", lambda m: openings[int(m[1])][0], error.what)
        fix = error.fix or "Make the panel larger, or what is cut from it smaller"
        raise InputError(f"{what} of {plate.name}", where=where, fix=fix) from None
    return region
