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
from OCP.BOPTools import BOPTools_AlgoTools3D
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Curve, BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.GCPnts import GCPnts_QuasiUniformDeflection
from OCP.GeomAbs import (
    GeomAbs_Circle,
    GeomAbs_Cone,
    GeomAbs_Cylinder,
    GeomAbs_Line,
    GeomAbs_Plane,
    GeomAbs_Sphere,
    GeomAbs_Torus,
)
from OCP.gp import gp_Dir, gp_Pnt, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.ShapeUpgrade import ShapeUpgrade_UnifySameDomain
from OCP.TopAbs import TopAbs_EDGE, TopAbs_FACE, TopAbs_REVERSED, TopAbs_VERTEX
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS
from OCP.TopTools import TopTools_IndexedMapOfShape

from kaigata.core.intake.forms import circle_through, cylinder_through, line_through, plane_through
from kaigata.core.plane.tolerance import FIT

__all__ = ["Coedge", "Curve", "Face", "Solid", "triangles_of"]

Vec = npt.NDArray[np.float64]

_LOOK = 9
"""Points along an edge or a side of a face that are looked at to find its plain form."""


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
    """A face: ``plane`` (origin, outward normal), ``cylinder`` or ``cone`` (axis), or ``other``.

    ``outward`` is 1 when a cylinder's outside is the convex one, -1 when it is the concave one;
    ``radius`` is a cylinder's, mm, and ``slant`` a cone's half angle, radians.
    """

    kind: str
    coedges: tuple[Coedge, ...]
    area: float
    origin: Vec
    direction: Vec
    radius: float = 0.0
    outward: int = 1
    slant: float = 0.0


class Solid:
    """A solid of the kernel with its parts numbered, read on demand."""

    def __init__(self, shape: Any) -> None:
        unify = ShapeUpgrade_UnifySameDomain(shape, True, True, False)
        unify.Build()
        self._shape = unify.Shape()
        self._edges = _indexed(self._shape, TopAbs_EDGE)
        self._vertices = _indexed(self._shape, TopAbs_VERTEX)
        self._faces = _indexed(self._shape, TopAbs_FACE)
        self._curves: dict[int, Curve] = {}

    @property
    def shape(self) -> Any:
        """The kernel's own shape."""
        return self._shape

    @cached_property
    def volume(self) -> float:
        """Volume, mm³."""
        props = GProp_GProps()
        BRepGProp.VolumeProperties_s(self._shape, props)
        return float(props.Mass())

    @cached_property
    def faces(self) -> tuple[Face, ...]:
        """Every face."""
        return tuple(self._face(self._kernel_face(i)) for i in range(self._faces.Extent()))

    def _kernel_face(self, number: int) -> Any:
        return TopoDS.Face_s(self._faces.FindKey(number + 1))

    @cached_property
    def faces_of_edge(self) -> dict[int, list[int]]:
        """For each edge the faces that have it, a face twice where the edge is its seam."""
        found: dict[int, list[int]] = {}
        for i, face in enumerate(self.faces):
            for c in face.coedges:
                found.setdefault(c.edge, []).append(i)
        return found

    def neighbours(self, face: int) -> set[int]:
        """Return the faces that share an edge with a face."""
        own = self.faces[face].coedges
        return {j for c in own for j in self.faces_of_edge[c.edge] if j != face}

    def curve(self, edge: int) -> Curve:
        """Return the shape of an edge."""
        if edge not in self._curves:
            self._curves[edge] = self._read_curve(edge)
        return self._curves[edge]

    def middle(self, edge: int) -> Vec:
        """Return the point half way along an edge."""
        points = self.curve(edge).points
        middle: Vec = points[len(points) // 2]
        return (points[0] + points[-1]) / 2 if len(points) == 2 else middle

    def normal_at(self, face: int, edge: int) -> Vec:
        """Return the outward normal of a face at the middle of one of its edges."""
        own = self.faces[face]
        if own.kind == "plane":
            return own.direction
        if own.kind == "cylinder":
            d = self.middle(edge) - own.origin
            d = d - own.direction * float(d @ own.direction)
            return own.outward * d / float(np.linalg.norm(d))
        kernel_edge = TopoDS.Edge_s(self._edges.FindKey(edge))
        adaptor = BRepAdaptor_Curve(kernel_edge)
        half = (adaptor.FirstParameter() + adaptor.LastParameter()) / 2
        normal = gp_Dir()
        kernel_face = self._kernel_face(face)
        BOPTools_AlgoTools3D.GetNormalToFaceOnEdge_s(kernel_edge, kernel_face, half, normal)
        return -_xyz(normal) if kernel_face.Orientation() == TopAbs_REVERSED else _xyz(normal)

    def samples(self, edge: int, count: int) -> Vec:
        """Return ``count`` points spread along an edge by its parameter, (count, 3) mm."""
        adaptor = BRepAdaptor_Curve(TopoDS.Edge_s(self._edges.FindKey(edge)))
        u0, u1 = adaptor.FirstParameter(), adaptor.LastParameter()
        spots = [adaptor.Value(u0 + (u1 - u0) * i / (count - 1)) for i in range(count)]
        return np.array([(p.X(), p.Y(), p.Z()) for p in spots])

    def _read_curve(self, number: int) -> Curve:
        edge = TopoDS.Edge_s(self._edges.FindKey(number))
        first, last = TopExp.FirstVertex_s(edge), TopExp.LastVertex_s(edge)
        adaptor = BRepAdaptor_Curve(edge)
        u0, u1 = adaptor.FirstParameter(), adaptor.LastParameter()
        kinds = {GeomAbs_Line: "line", GeomAbs_Circle: "arc"}
        kind = kinds.get(adaptor.GetType(), "free")
        if kind == "free":
            kind = _plain_form(self.samples(number, _LOOK))
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
        kind = surface.GetType()
        flipped = face.Orientation() == TopAbs_REVERSED
        props = GProp_GProps()
        BRepGProp.SurfaceProperties_s(face, props)
        coedges = self._coedges(face)
        area = float(props.Mass())
        if kind == GeomAbs_Plane:
            plane = surface.Plane()
            normal = _xyz(plane.Axis().Direction())
            # A left-handed plane's natural normal is against its axis.
            if flipped == plane.Direct():
                normal = -normal
            return Face("plane", coedges, area, _xyz(plane.Location()), normal)
        if kind == GeomAbs_Cylinder:
            cylinder = surface.Cylinder()
            outward = 1 if flipped != cylinder.Direct() else -1
            axis = _xyz(cylinder.Axis().Direction())
            radius = float(cylinder.Radius())
            origin = _xyz(cylinder.Location())
            return Face("cylinder", coedges, area, origin, axis, radius, outward)
        if kind == GeomAbs_Cone:
            cone = surface.Cone()
            axis, apex = _xyz(cone.Axis().Direction()), _xyz(cone.Apex())
            return Face("cone", coedges, area, apex, axis, slant=abs(float(cone.SemiAngle())))
        if kind in (GeomAbs_Sphere, GeomAbs_Torus):
            return Face("other", coedges, area, np.zeros(3), np.zeros(3))
        return _plain_face(surface, -1.0 if flipped else 1.0, coedges, area)

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


def triangles_of(shape: Any, *, chord: float = 0.2) -> Vec:
    """Return triangles of a kernel shape for looking at, (n, 3, 3) mm, chords within ``chord``."""
    BRepMesh_IncrementalMesh(shape, chord, False, 0.35, False)
    out = []
    walk = TopExp_Explorer(shape, TopAbs_FACE)
    while walk.More():
        face, place = TopoDS.Face_s(walk.Current()), TopLoc_Location()
        mesh = BRep_Tool.Triangulation_s(face, place)
        walk.Next()
        if mesh is None:
            continue
        move = place.Transformation()
        points = [_xyz(mesh.Node(i + 1).Transformed(move)) for i in range(mesh.NbNodes())]
        swap = face.Orientation() == TopAbs_REVERSED
        for i in range(mesh.NbTriangles()):
            a, b, c = mesh.Triangle(i + 1).Get()
            b, c = (c, b) if swap else (b, c)
            out.append((points[a - 1], points[b - 1], points[c - 1]))
    return np.array(out).reshape(-1, 3, 3)


def _plain_form(points: Vec) -> str:
    """Return whether a free curve is in truth a line or an arc."""
    if line_through(points):
        return "line"
    return "arc" if circle_through(points) else "free"


def _plain_face(surface: Any, sign: float, coedges: tuple[Coedge, ...], area: float) -> Face:
    """Return a free-form face as the plane or cylinder that it is in truth, or as ``other``."""
    points, normals = _grid(surface)
    plane = plane_through(points)
    if plane is not None:
        normal = plane.direction * (sign if float(normals[0] @ plane.direction) > 0 else -sign)
        return Face("plane", coedges, area, plane.origin, normal)
    cylinder = cylinder_through(points, normals)
    if cylinder is not None:
        spoke = points[0] - cylinder.origin
        outward = 1 if sign * float(spoke @ normals[0]) > 0 else -1
        return Face(
            "cylinder", coedges, area, cylinder.origin, cylinder.direction, cylinder.radius, outward
        )
    return Face("other", coedges, area, np.zeros(3), np.zeros(3))


def _grid(surface: Any) -> tuple[Vec, Vec]:
    """Return points of a surface and its natural unit normals there, (n, 3) each."""
    u0, u1 = surface.FirstUParameter(), surface.LastUParameter()
    v0, v1 = surface.FirstVParameter(), surface.LastVParameter()
    points, normals = [], []
    p, du, dv = gp_Pnt(), gp_Vec(), gp_Vec()
    # Not to the very ends, where a surface may come to a point and have no normal.
    shares = (np.arange(_LOOK) + 0.5) / _LOOK
    for a in shares:
        for b in shares:
            surface.D1(u0 + (u1 - u0) * a, v0 + (v1 - v0) * b, p, du, dv)
            normal = np.cross(_xyz(du), _xyz(dv))
            size = float(np.linalg.norm(normal))
            if size > 0:
                points.append(_xyz(p))
                normals.append(normal / size)
    return np.array(points), np.array(normals)


def _indexed(shape: Any, kind: Any) -> Any:
    found = TopTools_IndexedMapOfShape()
    TopExp.MapShapes_s(shape, kind, found)
    return found


def _xyz(p: Any) -> Vec:
    return np.array([p.X(), p.Y(), p.Z()])


def unit(v: Vec) -> Vec:
    """Return a vector of length 1 in the direction of ``v``."""
    return v / math.sqrt(float(v @ v))
