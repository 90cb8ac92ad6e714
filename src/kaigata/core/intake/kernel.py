"""Plain values out of the geometry kernel: the faces, edges and vertices of a solid.

The only module besides ``step`` that touches the kernel. All lengths are mm.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
import numpy.typing as npt
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.GeomAbs import GeomAbs_Circle, GeomAbs_Cylinder, GeomAbs_Line, GeomAbs_Plane
from OCP.GProp import GProp_GProps
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_VERTEX
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopoDS import TopoDS
from OCP.TopTools import TopTools_IndexedMapOfShape

from kaigata.core.plane.tolerance import FIT

__all__ = ["Coedge", "Curve", "Face", "Solid"]

Vec = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True)
class Coedge:
    """An edge as a face runs along it, the face on the left seen from outside."""

    edge: int
    forward: bool


@dataclass(frozen=True, slots=True)
class Curve:
    """An edge's shape: ``line`` by its ends, ``arc`` by five even points, ``free`` by many."""

    kind: str
    start: int
    end: int
    points: Vec


@dataclass(frozen=True, slots=True)
class Face:
    """A face: ``plane`` (origin, outward normal), ``cylinder`` (axis), or ``other``.

    ``outward`` is 1 when a cylinder's outside is the convex one, -1 when it is the concave one.
    """

    kind: str
    coedges: tuple[Coedge, ...]
    area: float
    origin: Vec
    direction: Vec
    radius: float = 0.0
    outward: int = 1

    def normal_at(self, p: Vec) -> Vec:
        """Return the outward normal at a point of the face."""
        if self.kind == "plane":
            return self.direction
        d = p - self.origin
        d = d - self.direction * float(d @ self.direction)
        return self.outward * d / float(np.linalg.norm(d))


class Solid:
    """A solid of the kernel with its parts numbered, read on demand."""

    def __init__(self, shape: Any) -> None:
        unify = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
        unify.Build()
        self._shape = unify.Shape()
        self._edges = _indexed(self._shape, TopAbs_EDGE)
        self._vertices = _indexed(self._shape, TopAbs_VERTEX)
        self._curves: dict[int, Curve] = {}

    @cached_property
    def volume(self) -> float:
        """Volume, mm³."""
        props = GProp_GProps()
        BRepGProp.VolumeProperties_s(self._shape, props)
        return float(props.Mass())

    @cached_property
    def faces(self) -> tuple[Face, ...]:
        """Every face."""
        faces = _indexed(self._shape, TopAbs_FACE)
        return tuple(self._face(TopoDS.Face_s(faces.FindKey(i + 1))) for i in range(faces.Extent()))

    @cached_property
    def faces_of_edge(self) -> dict[int, list[int]]:
        """For each edge the faces that have it, a face twice where the edge is its seam."""
        found: dict[int, list[int]] = {}
        for i, face in enumerate(self.faces):
            for c in face.coedges:
                found.setdefault(c.edge, []).append(i)
        return found

    def curve(self, edge: int) -> Curve:
        """Return the shape of an edge."""
        if edge not in self._curves:
            self._curves[edge] = self._read_curve(edge)
        return self._curves[edge]

    def _read_curve(self, number: int) -> Curve:
        edge = TopoDS.Edge_s(self._edges.FindKey(number))
        first, last = TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge)
        adaptor = BRepAdaptor_Curve(edge)
        u0, u1 = adaptor.FirstParameter(), adaptor.LastParameter()
        kinds = {GeomAbs_Line: "line", GeomAbs_Circle: "arc"}
        kind = kinds.get(adaptor.GetType(), "free")
        if kind == "free":
            spread = GCPnts_QuasiUniformDeflection(adaptor, FIT / 20, u0, u1)
            shares = [spread.Parameter(i + 1) for i in range(spread.NbPoints())]
        else:
            n = 1 if kind == "line" else 4
            shares = [u0 + (u1 - u0) * i / n for i in range(n + 1)]
        spots = [adaptor.Value(u) for u in shares]
        points = np.array([(p.X(), p.Y(), p.Z()) for p in spots])
        points.setflags(write=False)
        ends = (self._vertices.FindIndex(first), self._vertices.FindIndex(last))
        return Curve(kind, *ends, points)

    def _face(self, face: Any) -> Face:
        surface = BRepAdaptor_Surface(face)
        flipped = face.Orientation() == TopAbs_REVERSED
        props = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, props)
        coedges = self._coedges(face)
        area = float(props.Mass())
        if surface.GetType() == GeomAbs_Plane:
            plane = surface.Plane()
            normal = _xyz(plane.Axis().Direction())
            # A left-handed plane's natural normal is against its axis.
            if flipped == plane.Direct():
                normal = -normal
            return Face("plane", coedges, area, _xyz(plane.Location()), normal)
        if surface.GetType() == GeomAbs_Cylinder:
            cylinder = surface.Cylinder()
            outward = 1 if flipped != cylinder.Direct() else -1
            axis = _xyz(cylinder.Axis().Direction())
            radius = float(cylinder.Radius())
            origin = _xyz(cylinder.Location())
            return Face("cylinder", coedges, area, origin, axis, radius, outward)
        return Face("other", coedges, area, np.zeros(3), np.zeros(3))

    def _coedges(self, face: Any) -> tuple[Coedge, ...]:
        out = []
        walk = TopExp_Explorer(face, TopAbs_EDGE)
        while walk.More():
            edge = TopoDS.Edge_s(walk.Current())
            if not BRep_Tool.Degenerated_s(edge):
                forward = edge.Orientation() != TopAbs_REVERSED
                out.append(Coedge(self._edges.FindIndex(edge), forward))
            walk.Next()
        return tuple(out)


def _indexed(shape: Any, kind: Any) -> Any:
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    return found


def _xyz(p: Any) -> Vec:
    return np.array([p.X(), p.Y(), p.Z()])


def unit(v: Vec) -> Vec:
    """Return a vector of length 1 in the direction of ``v``."""
    return v / math.sqrt(float(v @ v))
