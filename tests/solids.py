"""Solids made with the kernel's own tools from explicit folds, with the flat summed by hand.

A folded profile is a list of steps: a number is a straight length in mm, a pair (angle in
degrees, inside radius in mm) is a bend, up when the angle is above nothing.
"""

import math

from OCP.BRep import BRep_Builder
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse, BRepAlgoAPI_Splitter
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakeSolid,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_NurbsConvert,
    BRepBuilderAPI_Sewing,
    BRepBuilderAPI_Transform,
)
from OCP.BRepGProp import BRepGProp
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeBox,
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
)
from OCP.GC import GC_MakeArcOfCircle
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.GProp import GProp_GProps
from OCP.IFSelect import IFSelect_RetDone
from OCP.Interface import Interface_Static
from OCP.STEPControl import STEPControl_AsIs, STEPControl_Writer
from OCP.TopAbs import TopAbs_SHELL, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Compound
from OCP.TopTools import TopTools_ListOfShape

from kaigata.core.plane.chain import closed_contours


def flat_length(steps, *, thickness, k):
    """Return the developed length of a profile by the allowance formula."""
    return math.fsum(
        math.radians(abs(s[0])) * (s[1] + k * thickness) if isinstance(s, tuple) else s
        for s in steps
    )


def profile(steps, *, thickness, wide):
    """Return the solid of a folded profile: it runs along x from 0,0 and is ``wide`` along y.

    The lower side starts on the x axis and z is up; sides of no length are left out, so that an
    inside radius of 0 gives a sharp inner corner and an outer arc.
    """
    lower, upper = [], []
    x = z = heading = 0.0

    def side(height):
        return (x - height * math.sin(heading), z + height * math.cos(heading))

    for step in steps:
        if not isinstance(step, tuple):
            a, b = side(0), side(thickness)
            x, z = x + step * math.cos(heading), z + step * math.sin(heading)
            lower.append((a, side(0)))
            upper.append((b, side(thickness)))
            continue
        turn, inside = math.radians(step[0]), step[1]
        # Distance from the lower side up to the axis of the bend, negative below it.
        reach = inside + thickness if turn > 0 else -inside
        cx, cz = side(reach)
        runs = ([], [])
        for share in (0.0, 0.5, 1.0):
            h = heading + turn * share
            for run, height in zip(runs, (0.0, thickness), strict=True):
                r = reach - height
                run.append((cx + r * math.sin(h), cz - r * math.cos(h)))
        heading += turn
        x, z = runs[0][-1]
        lower.append(tuple(runs[0]))
        upper.append(tuple(runs[1]))
    wire = BRepBuilderAPI_MakeWire()
    closing = [(lower[-1][-1], upper[-1][-1])]
    for piece in [
        *lower,
        *closing,
        *(r[::-1] for r in reversed(upper)),
        (upper[0][0], lower[0][0]),
    ]:
        if math.dist(piece[0], piece[-1]) > 1e-9:
            wire.Add(_curve([(x, 0, z) for x, z in piece]))
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0, wide, 0)).Shape()


def box(x, y, z, dx, dy, dz):
    return BRepPrimAPI_MakeBox(gp_Pnt(x, y, z), dx, dy, dz).Shape()


def round_bar(at, along, radius, length):
    return BRepPrimAPI_MakeCylinder(gp_Ax2(gp_Pnt(*at), gp_Dir(*along)), radius, length).Shape()


def cone(at, along, first, last, length):
    axes = gp_Ax2(gp_Pnt(*at), gp_Dir(*along))
    return BRepPrimAPI_MakeCone(axes, first, last, length).Shape()


def volume(shape):
    sums = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, sums)
    return sums.Mass()


def only_solid(shape):
    return TopExp_Explorer(shape, TopAbs_SOLID).Current()


def less(shape, *tools):
    for tool in tools:
        shape = only_solid(BRepAlgoAPI_Cut(shape, tool).Shape())
    return shape


def joined(shape, *others):
    for other in others:
        fuse = BRepAlgoAPI_Fuse(shape, other)
        fuse.SimplifyResult()
        shape = only_solid(fuse.Shape())
    return shape


def as_splines(shape):
    """Return the same solid with every face and edge a spline."""
    return only_solid(BRepBuilderAPI_NurbsConvert(shape, True).Shape())


def with_split_faces(shape, *tools):
    """Return the same solid with its faces divided where the sides of tools cross them."""
    walk = TopExp_Explorer(shape, TopAbs_SHELL)
    arguments, knives = TopTools_ListOfShape(), TopTools_ListOfShape()
    arguments.Append(walk.Current())
    for tool in tools:
        knives.Append(TopExp_Explorer(tool, TopAbs_SHELL).Current())
    splitter = BRepAlgoAPI_Splitter()
    splitter.SetArguments(arguments)
    splitter.SetTools(knives)
    splitter.Build()
    sewing = BRepBuilderAPI_Sewing(1e-6)
    sewing.Add(splitter.Shape())
    sewing.Perform()
    shell = TopExp_Explorer(sewing.SewedShape(), TopAbs_SHELL).Current()
    return BRepBuilderAPI_MakeSolid(TopoDS.Shell_s(shell)).Shape()


def turned(shape, axis, degrees, by=(0, 0, 0)):
    move = gp_Trsf()
    move.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(*axis)), math.radians(degrees))
    lift = gp_Trsf()
    lift.SetTranslation(gp_Vec(*by))
    move.PreMultiply(lift)
    return BRepBuilderAPI_Transform(shape, move, True).Shape()


def mirrored(shape):
    """The image of a shape in a mirror that stands askew."""
    move = gp_Trsf()
    move.SetMirror(gp_Ax2(gp_Pnt(3, 4, 5), gp_Dir(1, 2, 3)))
    return BRepBuilderAPI_Transform(shape, move, True).Shape()


def folded_solid(part):
    """The solid of a folded part: its panels pulled to their thickness, its bends swept, joined."""
    order = [0]
    for here in order:
        beside = {j for e in part.pieces[here].edges for j, _ in part.meetings[e.number]}
        order += sorted(beside - {*order})
    made = [(_plate if i < len(part.panels) else _sector) for i in order]
    return joined(
        *(make(part.pieces[i], part.thickness) for make, i in zip(made, order, strict=True))
    )


def _plate(panel, thickness):
    loops = closed_contours([e.run for e in panel.edges])
    outer = max(loops, key=lambda c: c.area)
    face = BRepBuilderAPI_MakeFace(_ring(outer, panel.space))
    for hole in loops:
        if hole is not outer:
            face.Add(_ring(hole, panel.space))
    return _pulled(face.Face(), panel.frame.z, -thickness)


def _sector(bend, thickness):
    along = [s.start[1] for e in bend.edges for s in e.run]
    h, r0, r1 = bend.angle / 2, bend.inside_radius, bend.inside_radius + thickness

    def at(r, angle):
        return bend.frame.place(r * math.cos(angle), min(along), r * math.sin(angle))

    runs = [[at(r0, -h), at(r1, -h)], [at(r1, a) for a in (-h, 0, h)], [at(r1, h), at(r0, h)]]
    if r0:
        runs.append([at(r0, a) for a in (h, 0, -h)])
    wire = BRepBuilderAPI_MakeWire()
    for run in runs:
        wire.Add(_curve(run))
    face = BRepBuilderAPI_MakeFace(wire.Wire()).Face()
    return _pulled(face, bend.frame.y, max(along) - min(along))


def _pulled(face, direction, by):
    return BRepPrimAPI_MakePrism(face, gp_Vec(*(v * by for v in direction))).Shape()


def _ring(contour, space):
    wire = BRepBuilderAPI_MakeWire()
    for s in contour.segments:
        shares = (0, 1) if s.is_line else (0, 0.5, 1)
        wire.Add(_curve([space(s.at(t)) for t in shares]))
    return wire.Wire()


def _curve(run):
    points = [gp_Pnt(*p) for p in run]
    if len(points) == 2:
        return BRepBuilderAPI_MakeEdge(*points).Edge()
    return BRepBuilderAPI_MakeEdge(GC_MakeArcOfCircle(*points).Value()).Edge()


def beside(*shapes):
    """Return solids together, each for itself."""
    together, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(together)
    for shape in shapes:
        builder.Add(together, shape)
    return together


def write_step(shape, path, *, unit="MM"):
    """Write a solid as a STEP file."""
    Interface_Static.SetCVal_s("write.step.unit", unit)
    writer = STEPControl_Writer()
    writer.Transfer(shape, STEPControl_AsIs)
    assert writer.Write(str(path)) == IFSelect_RetDone
