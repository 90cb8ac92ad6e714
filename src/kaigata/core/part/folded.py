"""Panels joined by bends, with the exact boundary of each."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property
from typing import TypeAlias

from kaigata.core.findings import Level
from kaigata.core.plane import Point, Segment

__all__ = [
    "IN_PLACE",
    "Bend",
    "Feature",
    "FoldedPart",
    "Frame",
    "Panel",
    "PieceEdge",
    "Remark",
    "Vector",
]

Vector: TypeAlias = tuple[float, float, float]


@dataclass(frozen=True, slots=True)
class Frame:
    """Where a piece lies in space: an origin and three unit vectors at right angles, mm.

    For a panel ``x`` and ``y`` span its plane and ``z`` points out of the face it was taken from.
    For a bend ``y`` is the axis, ``x`` points from the axis to the middle of the bend, and ``z``
    is the direction in which its angle grows.
    """

    origin: Vector
    x: Vector
    y: Vector
    z: Vector

    def local(self, p: Vector) -> Vector:
        """Return the coordinates of a point in this frame."""
        d = (p[0] - self.origin[0], p[1] - self.origin[1], p[2] - self.origin[2])
        return (_dot(d, self.x), _dot(d, self.y), _dot(d, self.z))

    def place(self, x: float, y: float, z: float) -> Vector:
        """Return the point with these coordinates in this frame."""
        o, i, j, k = self.origin, self.x, self.y, self.z
        return (
            o[0] + x * i[0] + y * j[0] + z * k[0],
            o[1] + x * i[1] + y * j[1] + z * k[1],
            o[2] + x * i[2] + y * j[2] + z * k[2],
        )


IN_PLACE = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
"""The frame of space itself."""


def _dot(a: Vector, b: Vector) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@dataclass(frozen=True, slots=True)
class PieceEdge:
    """One edge of a piece, run so that the piece lies on its left.

    Attributes
    ----------
    number : int
        Number of the edge in the part; two pieces that meet share it.
    run : tuple of Segment
        The edge in the piece's frame: (x, y) of a panel in mm; (angle in radians, along the axis
        in mm) of a bend, where only straight segments stand.
    free : bool
        Whether the run samples a curve that has no exact form, so that arcs are to be fitted.
    torn : bool
        Whether the pieces beside it part there when the sheet is folded, though it is whole in
        the flat: bends that meet in a corner without a relief.
    """

    number: int
    run: tuple[Segment, ...]
    free: bool = False
    torn: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Panel:
    """A flat region of the part."""

    edges: tuple[PieceEdge, ...]
    frame: Frame

    @property
    def area(self) -> float:
        """Net area of the panel, mm²."""
        return math.fsum(s.area for e in self.edges for s in e.run)

    def space(self, p: Point) -> Vector:
        """Return the point in space of a point of the panel's frame."""
        return self.frame.place(p[0], p[1], 0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Bend:
    """A cylindrical region; several faces of one cylinder between the same panels are one bend.

    Attributes
    ----------
    edges : tuple of PieceEdge
        The boundary in (angle, along the axis); the bend's middle is at angle 0.
    radius : float
        Radius of the face it was taken from, mm.
    inside_radius : float
        Radius of the concave face, mm.
    angle : float
        How far the sheet turns, radians, above 0.
    is_up : bool
        Whether the sheet turns towards the side the face is seen from.
    """

    edges: tuple[PieceEdge, ...]
    frame: Frame
    radius: float
    inside_radius: float
    angle: float
    is_up: bool

    @property
    def area(self) -> float:
        """Area of the bend in its frame, rad·mm."""
        return math.fsum(s.area for e in self.edges for s in e.run)

    def space(self, p: Point) -> Vector:
        """Return the point in space of a point (angle, along) of the bend's frame."""
        r = self.radius
        return self.frame.place(r * math.cos(p[0]), p[1], r * math.sin(p[0]))


@dataclass(frozen=True, slots=True, kw_only=True)
class Feature:
    """Something on a piece that is marked in the flat and made at another bench.

    Attributes
    ----------
    kind : str
        ``tapped-hole``, ``countersink``, ``counterbore``, ``press-in``, ``formed`` or ``crease``.
    piece : int
        The piece it is on, by its place in ``pieces``.
    at : Point
        Its middle in the piece's frame (of a bend: angle, along); of a line where it begins.
    diameter : float
        Of the mark, mm.
    note : str
        What to do there.
    is_above : bool, optional
        Whether it is sunk from the side of the upper skin, or rises over it; None where it is the
        same from both sides.
    end : Point, optional
        Of a line, where it ends.
    """

    kind: str
    piece: int
    at: Point
    diameter: float
    note: str
    is_above: bool | None = None
    end: Point | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Remark:
    """Something to know about the part as it was read: a finding before it has a flat."""

    level: Level
    code: str
    text: str
    piece: int
    at: Point


@dataclass(frozen=True)
class FoldedPart:
    """A sheet of one thickness, folded.

    Attributes
    ----------
    name : str
        What the part is called.
    thickness : float
        Sheet thickness, mm.
    panels : tuple of Panel
        Largest first; a panel's number in results is its place here, from 1.
    bends : tuple of Bend
        In no particular order.
    features : tuple of Feature
        Marks.
    remarks : tuple of Remark
        Things to know.
    """

    name: str
    thickness: float
    panels: tuple[Panel, ...]
    bends: tuple[Bend, ...]
    features: tuple[Feature, ...] = ()
    remarks: tuple[Remark, ...] = ()

    @property
    def pieces(self) -> tuple[Panel | Bend, ...]:
        """All panels, then all bends."""
        return (*self.panels, *self.bends)

    @cached_property
    def meetings(self) -> dict[int, tuple[tuple[int, PieceEdge], ...]]:
        """For each edge number the pieces (by their place in ``pieces``) that have it."""
        found: dict[int, list[tuple[int, PieceEdge]]] = {}
        for i, piece in enumerate(self.pieces):
            for e in piece.edges:
                found.setdefault(e.number, []).append((i, e))
        return {n: tuple(v) for n, v in found.items()}

    def mirrored(self) -> FoldedPart:
        """Return the other hand: the part in a mirror across x, seen from the same side."""
        return replace(
            self,
            panels=tuple(_mirrored_panel(p) for p in self.panels),
            bends=tuple(_mirrored_bend(b) for b in self.bends),
            features=tuple(
                replace(
                    f,
                    at=self._mirrored(f.piece, f.at),
                    end=f.end and self._mirrored(f.piece, f.end),
                )
                for f in self.features
            ),
            remarks=tuple(replace(r, at=self._mirrored(r.piece, r.at)) for r in self.remarks),
        )

    def _mirrored(self, piece: int, at: Point) -> Point:
        return (-at[0], at[1]) if piece < len(self.panels) else (at[0], -at[1])

    @property
    def volume(self) -> float:
        """Volume of the sheet the pieces stand for, mm³, all edges square to it."""
        t = self.thickness
        flat = math.fsum(p.area for p in self.panels) * t
        return flat + math.fsum(b.area * (b.inside_radius + t / 2) * t for b in self.bends)


def _mirrored_panel(panel: Panel) -> Panel:
    f = panel.frame
    frame = Frame(_across(f.origin), _back(_across(f.x)), _across(f.y), _across(f.z))
    return Panel(edges=_mirrored_edges(panel.edges, (-1.0, 1.0)), frame=frame)


def _mirrored_bend(bend: Bend) -> Bend:
    f = bend.frame
    frame = Frame(_across(f.origin), _across(f.x), _back(_across(f.y)), _across(f.z))
    return replace(bend, edges=_mirrored_edges(bend.edges, (1.0, -1.0)), frame=frame)


def _mirrored_edges(edges: tuple[PieceEdge, ...], by: Point) -> tuple[PieceEdge, ...]:
    """Return edges with one coordinate turned about, run the other way: the piece stays left."""

    def there(p: Point) -> Point:
        return (p[0] * by[0], p[1] * by[1])

    return tuple(
        replace(e, run=tuple(Segment(there(s.end), there(s.start), s.bulge) for s in e.run[::-1]))
        for e in edges
    )


def _across(v: Vector) -> Vector:
    return (-v[0], v[1], v[2])


def _back(v: Vector) -> Vector:
    return (-v[0], -v[1], -v[2])
