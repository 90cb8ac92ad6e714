"""From a solid's faces to a folded part: its two skins, its thickness, its panels and bends.

A sheet has two skins a thickness apart. Within a skin the faces meet without a corner: plane,
bend, plane. So the skin is what is reached from the largest flat face across smooth edges, and
whatever else the solid has is the cut edge between the skins.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Coedge, Curve, Face, Solid, Vec, unit
from kaigata.core.part import Bend, FoldedPart, Frame, Panel, PieceEdge
from kaigata.core.part.folded import Vector
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.tolerance import KERNEL

__all__ = ["folded_part"]

_SMOOTH = 1e-3
"""Cosine shortfall up to which two faces meet without a corner (2.5 degrees: files are rough)."""

_VOLUME_SHARE = 0.02
"""How far a sheet's volume may be from its skin times its thickness: countersinks and chamfers."""

_FORM = "It must be a sheet of one thickness with flat panels and round bends"


@dataclass(frozen=True, slots=True)
class _Skin:
    """The faces of one side of the sheet."""

    faces: frozenset[int]

    def planes(self, solid: Solid) -> list[int]:
        return sorted(i for i in self.faces if solid.faces[i].kind == "plane")

    def cylinders(self, solid: Solid) -> list[int]:
        return sorted(i for i in self.faces if solid.faces[i].kind == "cylinder")


def folded_part(solid: Solid, name: str) -> FoldedPart:
    """Return the folded part that a solid is.

    Parameters
    ----------
    solid : Solid
        A solid of planes and cylinders.
    name : str
        What to call it.

    Returns
    -------
    FoldedPart
        Panels and bends of the skin whose largest panel looks most upwards (then to +y, +x).

    Raises
    ------
    InputError
        The solid is no folded sheet of one thickness; the text says why and where.
    """
    gaps = _plane_gaps(solid.faces)
    thickness = _thickness([*gaps, *_cylinder_gaps(solid.faces)])
    top, bottom = _skins(solid, gaps, thickness)
    _require_pairs(solid, top, bottom, thickness)
    groups = _bend_groups(solid, top)
    panels = [_panel(solid, solid.faces[i]) for i in top.planes(solid)]
    bends = [_bend(solid, g, thickness) for g in groups]
    panels.sort(key=lambda p: (-round(p.area, 3), *(round(v, 3) for v in p.frame.origin)))
    part = FoldedPart(name, thickness, tuple(panels), tuple(bends))
    _require_volume(solid, part)
    return part


@dataclass(frozen=True, slots=True)
class _Gap:
    """Two parallel faces back to back: how far apart, over about what area, and which."""

    width: float
    area: float
    first: int
    second: int


def _thickness(gaps: Sequence[_Gap]) -> float:
    """Return the distance at which most skin area lies opposite other skin area."""
    weight: dict[float, float] = defaultdict(float)
    for gap in gaps:
        known = next((g for g in weight if abs(g - gap.width) < KERNEL), gap.width)
        weight[known] += gap.area
    if not weight:
        raise InputError(
            "no two parallel faces lie back to back, so it has no thickness", fix=_FORM
        )
    # A wide gap (a channel's outer walls) can carry as much area as the sheet: the least one wins.
    most = max(weight.values())
    return min(g for g, area in weight.items() if area > 0.5 * most)


def _plane_gaps(faces: Sequence[Face]) -> list[_Gap]:
    flat = [i for i, f in enumerate(faces) if f.kind == "plane"]
    if not flat:
        return []
    normals = np.array([faces[i].direction for i in flat])
    origins = np.array([faces[i].origin for i in flat])
    reach = np.einsum("ij,ij->i", normals, origins)
    # Row i, column j: how far face i lies before face j, along its own normal.
    apart = reach[:, None] - normals @ origins.T
    against = np.argwhere((normals @ normals.T < -1 + _SMOOTH**2) & (apart > KERNEL))
    return [
        _Gap(float(apart[i, j]), min(faces[flat[i]].area, faces[flat[j]].area), flat[i], flat[j])
        for i, j in against.tolist()
        if i < j
    ]


def _cylinder_gaps(faces: Sequence[Face]) -> list[_Gap]:
    outer = [i for i, f in enumerate(faces) if f.kind == "cylinder" and f.outward > 0]
    inner = [i for i, f in enumerate(faces) if f.kind == "cylinder" and f.outward < 0]
    return [
        _Gap(faces[i].radius - faces[j].radius, min(faces[i].area, faces[j].area), i, j)
        for i in outer
        for j in inner
        if faces[i].radius - faces[j].radius > KERNEL and _coaxial(faces[i], faces[j])
    ]


def _coaxial(a: Face, b: Face) -> bool:
    if abs(abs(float(a.direction @ b.direction)) - 1) > _SMOOTH**2:
        return False
    d = b.origin - a.origin
    across = d - a.direction * float(d @ a.direction)
    return float(np.linalg.norm(across)) < 10 * KERNEL


def _skins(solid: Solid, gaps: Sequence[_Gap], thickness: float) -> tuple[_Skin, _Skin]:
    """Return the skin whose largest panel looks up, and the one on the other side."""
    pairs = [(g.area, g.first, g.second) for g in gaps if abs(g.width - thickness) < KERNEL]
    if not pairs:
        raise InputError(f"it has no flat panel {thickness:.4g} mm thick", fix=_FORM)
    most = max(p[0] for p in pairs)
    largest = [p for p in pairs if p[0] > most * (1 - KERNEL)]
    _, i, j = min(largest, key=lambda p: tuple(solid.faces[p[1]].origin.round(3)))
    if _upwards(solid.faces[i].direction) < _upwards(solid.faces[j].direction):
        i, j = j, i
    top, bottom = _smooth_reach(solid, i), _smooth_reach(solid, j)
    if top.faces & bottom.faces:
        raise InputError(
            "its two sides run into each other without an edge, so neither can be laid flat",
            fix=_FORM,
        )
    return top, bottom


def _back_to_back(a: Face, b: Face, thickness: float) -> bool:
    if float(a.direction @ b.direction) > -1 + _SMOOTH**2:
        return False
    return abs(float(a.direction @ (a.origin - b.origin)) - thickness) < KERNEL


def _upwards(normal: Vec) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 6) for v in normal)
    return (z, y, x)


def _smooth_reach(solid: Solid, seed: int) -> _Skin:
    found, queue = {seed}, [seed]
    while queue:
        here = queue.pop()
        for c in solid.faces[here].coedges:
            for other in solid.faces_of_edge[c.edge]:
                if other not in found and _is_smooth(solid, here, other, c.edge):
                    found.add(other)
                    queue.append(other)
    return _Skin(frozenset(found))


def _is_smooth(solid: Solid, a: int, b: int, edge: int) -> bool:
    fa, fb = solid.faces[a], solid.faces[b]
    points = solid.curve(edge).points
    p = (points[0] + points[-1]) / 2 if len(points) == 2 else points[len(points) // 2]
    if fb.kind == "other":
        # A free-form bend would be smooth here; a cut edge of any form is not a matter of the skin.
        return False
    return float(fa.normal_at(p) @ fb.normal_at(p)) > 1 - _SMOOTH


def _require_pairs(solid: Solid, top: _Skin, bottom: _Skin, thickness: float) -> None:
    """Refuse a sheet with a face on one side that has none behind it on the other."""
    below = [solid.faces[i] for i in bottom.faces]
    for i in sorted(top.faces):
        face = solid.faces[i]
        if face.kind == "plane":
            paired = any(b.kind == "plane" and _back_to_back(face, b, thickness) for b in below)
        else:
            want = face.radius - face.outward * thickness
            paired = any(
                b.kind == "cylinder"
                and abs(b.radius - want) < KERNEL
                and b.outward == -face.outward
                and _coaxial(face, b)
                for b in below
            )
        if not paired:
            p = solid.curve(face.coedges[0].edge).points[0]
            kind = "panel" if face.kind == "plane" else f"bend of radius {face.radius:.4g} mm"
            raise InputError(
                f"thickness is not constant: a {kind} has no face {thickness:.4g} mm behind it",
                where="near x {:.2f}, y {:.2f}, z {:.2f}".format(*p),
                fix=_FORM,
            )


def _require_volume(solid: Solid, part: FoldedPart) -> None:
    share = part.volume / solid.volume - 1
    if abs(share) > _VOLUME_SHARE:
        raise InputError(
            f"thickness is not constant: skin times {part.thickness:.4g} mm gives "
            f"{part.volume:.1f} mm3, the solid has {solid.volume:.1f} mm3",
            fix=_FORM,
        )
    skin = math.fsum(p.area for p in part.panels)
    skin += math.fsum(b.area * (b.inside_radius + part.thickness / 2) for b in part.bends)
    sides = math.fsum(f.area for f in solid.faces) - 2 * skin
    if sides > 2 * skin:
        raise InputError(
            f"it is a block: {part.thickness:.4g} mm thick with only {skin:.0f} mm2 of flat",
            fix=_FORM,
        )


def _bend_groups(solid: Solid, skin: _Skin) -> list[list[Face]]:
    """Return the skin's cylinders, those of one axis between the same neighbours together."""
    groups: dict[tuple[frozenset[int], int], list[Face]] = {}
    cylinders = skin.cylinders(solid)
    for i in cylinders:
        face = solid.faces[i]
        beside = frozenset(
            j
            for c in face.coedges
            for j in solid.faces_of_edge[c.edge]
            if j in skin.faces and j != i
        )
        if any(solid.faces_of_edge[c.edge].count(i) > 1 for c in face.coedges):
            raise InputError(
                f"a closed tube of radius {face.radius:.4g} mm cannot be laid flat",
                fix="Model it with a seam a gap wide",
            )
        axis = next(k for k, j in enumerate(cylinders) if _same_cylinder(face, solid.faces[j]))
        groups.setdefault((beside, axis), []).append(face)
    return list(groups.values())


def _same_cylinder(a: Face, b: Face) -> bool:
    return abs(a.radius - b.radius) < KERNEL and a.outward == b.outward and _coaxial(a, b)


def _vector(v: Vec) -> Vector:
    return (float(v[0]), float(v[1]), float(v[2]))


def _panel(solid: Solid, face: Face) -> Panel:
    z = face.direction
    longest = max((solid.curve(c.edge) for c in face.coedges), key=_chord)
    x = longest.points[-1] - longest.points[0]
    if float(np.linalg.norm(x)) < KERNEL:
        x = np.eye(3)[int(np.argmin(np.abs(z)))]
    x = unit(x - z * float(x @ z))
    frame = Frame(_vector(longest.points[0]), _vector(x), _vector(unit(np.cross(z, x))), _vector(z))
    edges = tuple(_panel_edge(c, solid.curve(c.edge), frame) for c in face.coedges)
    return Panel(edges=edges, frame=frame)


def _chord(curve: Curve) -> float:
    return float(np.linalg.norm(curve.points[-1] - curve.points[0]))


def _panel_edge(coedge: Coedge, curve: Curve, frame: Frame) -> PieceEdge:
    flat = [frame.local(_vector(p))[:2] for p in curve.points]
    start, end = curve.start, curve.end
    if not coedge.forward:
        flat.reverse()
        start, end = end, start
    run = _arc_halves(flat) if curve.kind == "arc" else [Segment(p, q) for p, q in pairwise(flat)]
    return PieceEdge(coedge.edge, start, end, tuple(run), free=curve.kind == "free")


def _arc_halves(p: Sequence[Point]) -> list[Segment]:
    """Return two arcs through five even points of one: each half by its ends and its middle."""
    return [_arc_through(p[0], p[1], p[2]), _arc_through(p[2], p[3], p[4])]


def _arc_through(a: Point, middle: Point, b: Point) -> Segment:
    chord = math.dist(a, b)
    rise = ((middle[0] - a[0]) * (b[1] - a[1]) - (middle[1] - a[1]) * (b[0] - a[0])) / chord
    return Segment(a, b, 2 * rise / chord)


def _bend(solid: Solid, faces: Sequence[Face], thickness: float) -> Bend:
    first = faces[0]
    axis = first.direction
    middle = _middle_heading(solid, faces)
    # Seen from outside the angle must grow so that (angle, along the axis) is right-handed.
    growth = first.outward * unit(np.cross(axis, middle))
    frame = Frame(_vector(first.origin), _vector(middle), _vector(axis), _vector(growth))
    edges = tuple(_bend_edge(c, solid.curve(c.edge), frame) for f in faces for c in f.coedges)
    angles = [a for e in edges for s in e.run for a in (s.start[0], s.end[0])]
    inside = first.radius if first.outward < 0 else first.radius - thickness
    return Bend(
        edges=edges,
        frame=frame,
        radius=first.radius,
        inside_radius=inside,
        angle=max(angles) - min(angles),
        is_up=first.outward < 0,
    )


def _middle_heading(solid: Solid, faces: Sequence[Face]) -> Vec:
    """Return the direction from the axis to the middle of the bend.

    The bend covers what the points of its edges cover, and they leave a gap where it does not
    run; so it is opposite the middle of the widest gap between their angles.
    """
    first = faces[0]
    axis = first.direction
    x = unit(np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))]))
    y = np.cross(axis, x)
    points = np.vstack([solid.curve(c.edge).points for f in faces for c in f.coedges])
    d = points - first.origin
    turns = np.sort(np.arctan2(d @ y, d @ x))
    gaps = np.diff(np.append(turns, turns[0] + 2 * math.pi))
    widest = int(np.argmax(gaps))
    turn = turns[widest] + gaps[widest] / 2 + math.pi
    return x * math.cos(turn) + y * math.sin(turn)


def _bend_edge(coedge: Coedge, curve: Curve, frame: Frame) -> PieceEdge:
    local = [frame.local(_vector(p)) for p in curve.points]
    run = [(math.atan2(z, x), y) for x, y, z in local]
    start, end = curve.start, curve.end
    if not coedge.forward:
        run.reverse()
        start, end = end, start
    # Along the axis or square to it the developed edge is one straight piece.
    straight = _spread([p[0] for p in run]) < KERNEL or _spread([p[1] for p in run]) < KERNEL
    if straight:
        run = [run[0], run[-1]]
    pieces = tuple(Segment(p, q) for p, q in pairwise(run))
    return PieceEdge(coedge.edge, start, end, pieces, free=not straight)


def _spread(values: Sequence[float]) -> float:
    return max(values) - min(values)
