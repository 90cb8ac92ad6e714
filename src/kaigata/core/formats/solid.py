"""A folded part as a STEP solid: two skins and the walls between them, sewn together.

Walls stand square to the sheet, so of an edge that was cut at a slant only the seen side is kept.
"""

from __future__ import annotations

import math
from abc import ABC, abstractmethod
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from pathlib import Path
from typing import Any, TypeAlias

import numpy as np
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Sewing,
)
from OCP.BRepFill import BRepFill
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.GC import GC_MakeArcOfCircle
from OCP.GCE2d import GCE2d_MakeSegment
from OCP.Geom import Geom_CylindricalSurface, Geom_Plane
from OCP.Geom2dAPI import Geom2dAPI_Interpolate
from OCP.GeomAPI import GeomAPI_Interpolate
from OCP.gp import gp_Ax3, gp_Dir, gp_Pnt, gp_Pnt2d
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
from OCP.TColgp import TColgp_HArray1OfPnt, TColgp_HArray1OfPnt2d
from OCP.TopAbs import TopAbs_SHELL
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS
from shapely.geometry import Point as ShapelyPoint
from shapely.geometry import Polygon

from kaigata.core.errors import InputError
from kaigata.core.findings import counted
from kaigata.core.part import Bend, FoldedPart, Frame, Panel
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.chain import closed_loops
from kaigata.core.plane.tolerance import CHORD, LENGTH, SAME

__all__ = ["folded_solid", "write_solid"]

_SAME_VOLUME = 1e-5
"""Share by which a solid may differ from the sum of its pieces: curves are sampled."""


def write_solid(part: FoldedPart, path: Path) -> None:
    """Write the solid of a folded part as STEP, lengths in mm.

    Raises
    ------
    InputError
        The part's faces close to no solid, or the file cannot be written.
    """
    solid = folded_solid(part)
    writer = STEPControl_Writer()
    Interface_Static.SetCVal_s("write.step.unit", "MM")
    Interface_Static.SetCVal_s("write.step.product.name", part.name)
    writer.Transfer(solid, STEPControl_AsIs)
    if writer.Write(str(path)) != IFSelect_RetDone:
        raise InputError(
            "the solid cannot be written",
            where=path.name,
            fix="Look whether the folder may be written to and has room",
        )


def folded_solid(part: FoldedPart) -> Any:
    """Return the kernel's solid of a folded part.

    Raises
    ------
    InputError
        Its faces leave an opening, or lie on each other.
    """
    sewing = BRepBuilderAPI_Sewing(SAME)
    for piece in part.pieces:
        free = {e.number for e in piece.edges if e.torn or len(part.meetings[e.number]) == 1}
        sheet = _Flat(piece, part) if isinstance(piece, Panel) else _Rolled(piece, part)
        for face in sheet.faces(free):
            sewing.Add(face)
    sewing.Perform()
    shells = TopExp_Explorer(sewing.SewedShape(), TopAbs_SHELL)
    if sewing.NbFreeEdges() or not shells.More():
        left = counted(sewing.NbFreeEdges(), "edge has", "edges have")
        raise InputError(
            f"its faces close to no solid: {left} a face on one side only",
            where=part.name,
            fix="Leave a gap, or a relief, where bends or panels touch",
        )
    solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell_s(shells.Current())).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    sums = GProp_GProps()
    BRepGProp.VolumeProperties_s(solid, sums)
    if abs(sums.Mass() - part.volume) > _SAME_VOLUME * part.volume:
        raise InputError(
            "panels of it touch or run into each other, which a solid cannot tell from joined",
            where=part.name,
            fix="Give closed hems a gap, of 0.02 mm for instance, and what collides room",
        )
    return solid


@dataclass(frozen=True)
class _Run:
    """The run of a piece's edge, its ends those of its neighbours: see ``PieceEdge``."""

    number: int
    points: tuple[Segment, ...]
    is_sampled: bool


_Loop: TypeAlias = list[_Run]


def _area(loop: _Loop) -> float:
    return math.fsum(s.area for run in loop for s in run.points)


def _corners(loop: _Loop) -> list[Point]:
    return [p for run in loop for s in run.points for p in s.flattened(CHORD)]


class _Sheet(ABC):
    """The faces of a piece: what is made of a run at a depth below the seen skin."""

    def __init__(self, piece: Panel | Bend, part: FoldedPart) -> None:
        self.frame: Frame = piece.frame
        self.thickness = part.thickness
        kept = [e for e in piece.edges if any(not s.is_nothing() for s in e.run)]
        runs = [tuple(s for s in e.run if not s.is_nothing()) for e in kept]
        self.loops = [
            _joined([(kept[i].number, runs[i], kept[i].free) for i in loop])
            for loop in closed_loops(runs)
        ]

    def faces(self, free: set[int]) -> Iterator[Any]:
        """Yield the skins, and the walls over edges that no other piece has."""
        for depth in (0.0, self.thickness):
            yield from self._skin(depth)
        for run in (run for loop in self.loops for run in loop if run.number in free):
            yield from self._walls(run)

    @abstractmethod
    def _skin(self, depth: float) -> Iterator[Any]: ...

    @abstractmethod
    def _walls(self, run: _Run) -> Iterator[Any]: ...

    def _regions(self) -> Iterator[list[_Loop]]:
        """Yield each outer loop with the holes in it: a cutout may divide a bend."""
        outers = [(loop, Polygon(_corners(loop))) for loop in self.loops if _area(loop) > 0]
        holes = [(loop, ShapelyPoint(loop[0].points[0].start)) for loop in self.loops]
        for outer, shape in outers:
            yield [outer, *(h for h, at in holes if _area(h) < 0 and shape.contains(at))]


def _joined(loop: Sequence[tuple[int, tuple[Segment, ...], bool]]) -> _Loop:
    """Return the runs of a loop, each beginning where the one before it ends."""
    at = loop[-1][1][-1].end
    out = []
    for number, run, is_sampled in loop:
        first = Segment(at, run[0].end, run[0].bulge)
        out.append(_Run(number, (first, *run[1:]), is_sampled))
        at = run[-1].end
    return out


class _Flat(_Sheet):
    def _skin(self, depth: float) -> Iterator[Any]:
        o, x, z = self._at((0.0, 0.0), depth), gp_Dir(*self.frame.x), gp_Dir(*self.frame.z)
        plane = Geom_Plane(gp_Ax3(o, z, x))
        for region in self._regions():
            yield _face(
                plane, [[e for run in loop for e in self._edges(run, depth)] for loop in region]
            )

    def _walls(self, run: _Run) -> Iterator[Any]:
        pairs = zip(self._edges(run, 0.0), self._edges(run, self.thickness), strict=True)
        for seen, below in pairs:
            yield BRepFill.Face_s(seen, below)

    def _edges(self, run: _Run, depth: float) -> list[Any]:
        if run.is_sampled and len(run.points) > 1:
            points = [self._at(p, depth) for p in _ends(run.points)]
            array = TColgp_HArray1OfPnt(1, len(points))
            for i, p in enumerate(points, start=1):
                array.SetValue(i, p)
            spline = GeomAPI_Interpolate(array, False, LENGTH)
            spline.Perform()
            return [BRepBuilderAPI_MakeEdge(spline.Curve()).Edge()]
        return [self._edge(s, depth) for s in run.points]

    def _edge(self, s: Segment, depth: float) -> Any:
        a, b = self._at(s.start, depth), self._at(s.end, depth)
        if s.is_line:
            return BRepBuilderAPI_MakeEdge(a, b).Edge()
        arc = GC_MakeArcOfCircle(a, self._at(s.at(0.5), depth), b).Value()
        return BRepBuilderAPI_MakeEdge(arc).Edge()

    def _at(self, p: Point, depth: float) -> gp_Pnt:
        return gp_Pnt(*self.frame.place(p[0], p[1], -depth))


class _Rolled(_Sheet):
    def __init__(self, bend: Bend, part: FoldedPart) -> None:
        super().__init__(bend, part)
        self.radius, self.way = bend.radius, 1.0 if bend.is_up else -1.0
        f = bend.frame
        self.growth = -1.0 if np.dot(np.cross(f.x, f.y), f.z) > 0 else 1.0

    def _radius(self, depth: float) -> float:
        return self.radius + self.way * depth

    def _skin(self, depth: float) -> Iterator[Any]:
        if self._radius(depth) <= SAME:
            return
        surface = self._surface(depth)
        for region in self._regions():
            loops = [[p for run in loop for p in _pieces(run)] for loop in region]
            if self.growth < 0:
                # What is mirrored onto the surface would lie outside of its outline.
                loops = [[p[::-1] for p in loop[::-1]] for loop in loops]
            yield _face(surface, [[self._on(surface, p) for p in loop] for loop in loops])

    def _walls(self, run: _Run) -> Iterator[Any]:
        for piece in _pieces(run):
            yield self._wall(piece)

    def _wall(self, piece: tuple[Point, ...]) -> Any:
        edges = [self._edge(piece, depth) for depth in (0.0, self.thickness)]
        first, last = (
            BRepBuilderAPI_MakeEdge(*(self._at(p, d) for d in (0.0, self.thickness))).Edge()
            for p in (piece[0], piece[-1])
        )
        is_level = len(piece) == 2 and (
            abs(piece[0][0] - piece[1][0]) < LENGTH or abs(piece[0][1] - piece[1][1]) < LENGTH
        )
        if is_level:
            wire = BRepBuilderAPI_MakeWire()
            for edge in (edges[0], last, edges[1], first):
                if edge is not None:
                    wire.Add(edge)
            return BRepBuilderAPI_MakeFace(wire.Wire(), True).Face()
        return BRepFill.Face_s(*edges)

    def _edge(self, piece: tuple[Point, ...], depth: float) -> Any:
        """Return a curve of the skin at a depth; None when it is a point of the axis."""
        if self._radius(depth) > SAME:
            return self._on(self._surface(depth), piece)
        if abs(piece[0][1] - piece[-1][1]) < LENGTH:
            return None
        return BRepBuilderAPI_MakeEdge(*(self._at(p, depth) for p in (piece[0], piece[-1]))).Edge()

    def _surface(self, depth: float) -> Any:
        f = self.frame
        # The seam of the surface lies opposite the bend.
        axes = gp_Ax3(gp_Pnt(*f.origin), gp_Dir(*f.y), gp_Dir(*(-v for v in f.x)))
        return Geom_CylindricalSurface(axes, self._radius(depth))

    def _on(self, surface: Any, points: Sequence[Point]) -> Any:
        """Return the edge through points (angle, along) on one of the surfaces."""
        # A surface's angle grows to the right about its axis; the frame's may grow to the left.
        made = [gp_Pnt2d(math.pi + self.growth * a, y) for a, y in points]
        if len(made) == 2:
            curve = GCE2d_MakeSegment(*made).Value()
        else:
            array = TColgp_HArray1OfPnt2d(1, len(made))
            for i, p in enumerate(made, start=1):
                array.SetValue(i, p)
            spline = Geom2dAPI_Interpolate(array, False, LENGTH)
            spline.Perform()
            curve = spline.Curve()
        edge = BRepBuilderAPI_MakeEdge(curve, surface).Edge()
        BRepLib.BuildCurves3d_s(edge)
        return edge

    def _at(self, p: Point, depth: float) -> gp_Pnt:
        r = self._radius(depth)
        return gp_Pnt(*self.frame.place(r * math.cos(p[0]), p[1], r * math.sin(p[0])))


def _pieces(run: _Run) -> list[tuple[Point, ...]]:
    points = _ends(run.points)
    return [tuple(points)] if run.is_sampled else list(pairwise(points))


def _ends(run: Sequence[Segment]) -> list[Point]:
    return [run[0].start, *(s.end for s in run)]


def _face(surface: Any, loops: Sequence[Sequence[Any]]) -> Any:
    """Return the face of a surface within the first loop and without the others."""
    wires = []
    for loop in loops:
        wire = BRepBuilderAPI_MakeWire()
        for edge in loop:
            wire.Add(edge)
        wires.append(wire.Wire())
    face = BRepBuilderAPI_MakeFace(surface, wires[0], True)
    for hole in wires[1:]:
        face.Add(hole)
    return face.Face()
