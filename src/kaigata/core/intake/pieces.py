"""From the faces of a skin to panels and bends with their boundaries."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Coedge, Curve, Face, Solid, Vec, unit
from kaigata.core.intake.skins import SharpFold, Skins, arc_angle, is_coaxial
from kaigata.core.part import Bend, Frame, Panel, PieceEdge
from kaigata.core.part.folded import Vector
from kaigata.core.plane import Point, Segment
from kaigata.core.plane.tolerance import KERNEL, SAME

__all__ = ["Pieces", "build_pieces", "vector"]

_DENSE = 33
"""Points along an edge that is not simple in the piece's frame."""


@dataclass(frozen=True)
class Pieces:
    """Panels and bends of a skin, and which piece (panels first) each face belongs to."""

    panels: tuple[Panel, ...]
    bends: tuple[Bend, ...]
    piece_of_face: Mapping[int, int]


def build_pieces(solid: Solid, skins: Skins, aprons: Mapping[int, int]) -> Pieces:
    """Return the panels and bends of the upper skin.

    Parameters
    ----------
    solid : Solid
        The solid.
    skins : Skins
        Its skins.
    aprons : mapping of int to int
        For each face of a slanted or stepped edge that is to be laid flat with a piece, a face of
        the upper skin of that piece.

    Raises
    ------
    InputError
        A bend runs all the way round.
    """
    sheets = _groups(solid, skins.top, _same_plane)
    rolls = _bend_groups(solid, skins.top, sheets)
    lines = _Lines(solid, skins.folds)
    worn = defaultdict(list)
    for face, owner in aprons.items():
        worn[owner].append(face)
    built = [
        (group, _panel(solid, group, [f for i in group for f in worn[i]], lines))
        for group in sheets
    ]
    built.sort(key=lambda b: (-round(b[1].area, 3), *(round(v, 3) for v in b[1].frame.origin)))
    t = skins.thickness
    bends = [
        (group, _bend(solid, group, [f for i in group for f in worn[i]], t)) for group in rolls
    ]
    sheet_of = {i: n for n, (group, _) in enumerate(built) for i in group}
    bends += [((), _sharp_bend(solid, folds, lines)) for folds in _fold_groups(skins, sheet_of)]
    piece_of = {
        i: n for n, group in enumerate([*(g for g, _ in built), *(g for g, _ in bends)])
        for i in group
    }  # fmt: skip
    return Pieces(tuple(p for _, p in built), tuple(b for _, b in bends), piece_of)


def vector(v: Vec) -> Vector:
    """Return an array of three as a plain tuple."""
    return (float(v[0]), float(v[1]), float(v[2]))


class _Lines:
    """Numbers for the two sides of a sharp inner corner's edge, which its two panels share."""

    def __init__(self, solid: Solid, folds: Sequence[SharpFold]) -> None:
        first = max(solid.faces_of_edge, default=0) + 1
        self._number = {
            (fold.edge, plane): first + 2 * i + side
            for i, fold in enumerate(folds)
            for side, plane in enumerate(fold.planes)
        }

    def number(self, edge: int, face: int) -> int:
        return self._number.get((edge, face), edge)


def _groups(
    solid: Solid, faces: Iterable[int], same: Callable[[Face, Face], bool]
) -> list[tuple[int, ...]]:
    """Return the faces for which ``same`` has a meaning, those that meet and are alike together."""
    left = {i for i in faces if same(solid.faces[i], solid.faces[i])}
    out = []
    while left:
        group = [min(left)]
        left.discard(group[0])
        for here in group:
            for j in sorted(solid.neighbours(here) & left):
                if same(solid.faces[here], solid.faces[j]):
                    left.discard(j)
                    group.append(j)
        out.append(tuple(group))
    return out


def _same_plane(a: Face, b: Face) -> bool:
    if a.kind != "plane" or b.kind != "plane":
        return False
    level = abs(float(a.direction @ (a.origin - b.origin))) < SAME
    return level and float(a.direction @ b.direction) > 1 - KERNEL


def _same_cylinder(a: Face, b: Face) -> bool:
    if a.kind != "cylinder" or b.kind != "cylinder" or a.outward != b.outward:
        return False
    return abs(a.radius - b.radius) < SAME and is_coaxial(a, b)


def _bend_groups(
    solid: Solid, skin: frozenset[int], sheets: Sequence[tuple[int, ...]]
) -> list[tuple[int, ...]]:
    """Return the skin's bends; pieces of one cylinder between the same panels are one bend."""
    runs = _groups(solid, skin, _same_cylinder)
    place = {i: n for n, group in enumerate([*sheets, *runs]) for i in group}
    joined: dict[tuple[frozenset[int], int], list[int]] = {}
    for n, run in enumerate(runs, start=len(sheets)):
        beside = {place[j] for i in run for j in solid.neighbours(i) if j in place} - {n}
        like = next(
            k for k, r in enumerate(runs) if _same_cylinder(solid.faces[run[0]], solid.faces[r[0]])
        )
        # A bend that touches fewer than two pieces has nothing to be one bend with.
        key = frozenset(beside) if len(beside) > 1 else frozenset({n})
        joined.setdefault((key, like), []).extend(run)
    return [tuple(faces) for faces in joined.values()]


def _fold_groups(skins: Skins, sheet_of: Mapping[int, int]) -> list[list[SharpFold]]:
    """Return the sharp folds by bends: two panels meet along one line only."""
    groups: dict[frozenset[int], list[SharpFold]] = {}
    for fold in skins.folds:
        groups.setdefault(frozenset(sheet_of[i] for i in fold.planes), []).append(fold)
    return list(groups.values())


def _rim(solid: Solid, faces: Sequence[int]) -> list[tuple[int, Coedge]]:
    """Return the edges that a group of faces does not share among itself, each with its face."""
    every = [(i, c) for i in faces for c in solid.faces[i].coedges]
    count = Counter(c.edge for _, c in every)
    return [(i, c) for i, c in every if count[c.edge] == 1]


def _panel(solid: Solid, group: Sequence[int], apron: Sequence[int], lines: _Lines) -> Panel:
    z = solid.faces[group[0]].direction
    rim = _rim(solid, [*group, *apron])
    longest = max((solid.curve(c.edge) for _, c in rim), key=_chord)
    x = longest.points[-1] - longest.points[0]
    if float(np.linalg.norm(x)) < KERNEL:
        x = np.eye(3)[int(np.argmin(np.abs(z)))]
    x = unit(x - z * float(x @ z))
    level = z * float((solid.faces[group[0]].origin - longest.points[0]) @ z)
    frame = Frame(
        vector(longest.points[0] + level), vector(x), vector(unit(np.cross(z, x))), vector(z)
    )
    edges = [_panel_edge(solid, c, frame, lines.number(c.edge, face)) for face, c in rim]
    return Panel(edges=tuple(e for e in edges if e is not None), frame=frame)


def _chord(curve: Curve) -> float:
    return float(np.linalg.norm(curve.points[-1] - curve.points[0]))


def _panel_edge(solid: Solid, coedge: Coedge, frame: Frame, number: int) -> PieceEdge | None:
    curve = solid.curve(coedge.edge)
    local = [frame.local(vector(p)) for p in curve.points]
    kind = curve.kind
    if kind == "arc" and _spread([p[2] for p in local]) > KERNEL:
        # An arc out of the panel's plane is an ellipse in it.
        local = [frame.local(vector(p)) for p in solid.samples(coedge.edge, _DENSE)]
        kind = "free"
    flat = [(x, y) for x, y, _ in local]
    if not coedge.forward:
        flat.reverse()
    if kind != "arc" and _length(flat) < KERNEL:
        return None
    run = _arc_halves(flat) if kind == "arc" else [Segment(p, q) for p, q in pairwise(flat)]
    return PieceEdge(number, tuple(run), free=kind == "free")


def _length(points: Sequence[Point]) -> float:
    return math.fsum(math.dist(p, q) for p, q in pairwise(points))


def _arc_halves(p: Sequence[Point]) -> list[Segment]:
    """Return two arcs through five points of one: each half by its ends and a point between."""
    return [_arc_through(p[0], p[1], p[2]), _arc_through(p[2], p[3], p[4])]


def _arc_through(a: Point, between: Point, b: Point) -> Segment:
    """Return the arc from a to b through a third point (the inscribed angle gives its sweep)."""
    ux, uy = a[0] - between[0], a[1] - between[1]
    vx, vy = b[0] - between[0], b[1] - between[1]
    cross, dot = ux * vy - uy * vx, ux * vx + uy * vy
    sweep = 2 * (math.pi - math.atan2(abs(cross), dot))
    return Segment(a, b, math.copysign(math.tan(sweep / 4), -cross))


def _bend(solid: Solid, group: Sequence[int], apron: Sequence[int], thickness: float) -> Bend:
    first = solid.faces[group[0]]
    axis = first.direction
    rim = _rim(solid, [*group, *apron])
    middle = _middle_heading(solid, first, [c for i in group for c in solid.faces[i].coedges])
    # Seen from outside the angle must grow so that (angle, along the axis) is right-handed.
    growth = first.outward * unit(np.cross(axis, middle))
    frame = Frame(vector(first.origin), vector(middle), vector(axis), vector(growth))
    edges = tuple(e for _, c in rim if (e := _bend_edge(solid, c, frame, first.radius)) is not None)
    angles = [a for e in edges for s in e.run for a in (s.start[0], s.end[0])]
    inside = first.radius if first.outward < 0 else first.radius - thickness
    return Bend(
        edges=edges,
        frame=frame,
        radius=first.radius,
        inside_radius=0.0 if abs(inside) < SAME else inside,
        angle=max(angles) - min(angles),
        is_up=first.outward < 0,
    )


def _middle_heading(solid: Solid, face: Face, coedges: Sequence[Coedge]) -> Vec:
    """Return the direction from the axis to the middle of the bend.

    The bend covers the angles that its edges run over; so its middle is opposite the middle of
    the widest gap between those.

    Raises
    ------
    InputError
        The edges leave no gap: the sheet is a closed tube.
    """
    axis = face.direction
    x = unit(np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))]))
    y = np.cross(axis, x)
    covered = []
    for c in coedges:
        d = solid.curve(c.edge).points - face.origin
        turns = np.unwrap(np.arctan2(d @ y, d @ x))
        covered.append((float(turns.min()), float(turns.max() - turns.min())))
    edges = sorted((a % (2 * math.pi), width) for a, width in covered)
    # What runs over the full turn covers the beginning too.
    widest, middle = 0.0, 0.0
    reach = max(a + width - 2 * math.pi for a, width in edges)
    first_start = edges[0][0]
    reach = max(reach, first_start)
    for start, width in [*edges, (first_start + 2 * math.pi, 0.0)]:
        if start - reach > widest:
            widest, middle = start - reach, (start + reach) / 2
        reach = max(reach, start + width)
    if widest < KERNEL:
        spot = solid.curve(coedges[0].edge).points[0]
        raise InputError(
            f"a closed tube of radius {face.radius:.4g} mm cannot be laid flat",
            where="near x {:.2f}, y {:.2f}, z {:.2f}".format(*spot),
            fix="Model it with a seam a gap wide",
            spot=vector(spot),
        )
    return x * math.cos(middle + math.pi) + y * math.sin(middle + math.pi)


def _bend_edge(solid: Solid, coedge: Coedge, frame: Frame, radius: float) -> PieceEdge | None:
    curve = solid.curve(coedge.edge)
    run = _developed(curve.points, frame)
    # Along the axis or square to it the developed edge is one straight piece.
    straight = (
        _spread([p[0] for p in run]) * radius < KERNEL or _spread([p[1] for p in run]) < KERNEL
    )
    if straight:
        run = [run[0], run[-1]]
    elif curve.kind != "free":
        run = _developed(solid.samples(coedge.edge, _DENSE), frame)
    if not coedge.forward:
        run.reverse()
    if _length([(a * radius, y) for a, y in run]) < KERNEL:
        return None
    pieces = tuple(Segment(p, q) for p, q in pairwise(run))
    return PieceEdge(coedge.edge, pieces, free=not straight)


def _developed(points: Vec, frame: Frame) -> list[Point]:
    local = [frame.local(vector(p)) for p in points]
    return [(math.atan2(z, x), y) for x, y, z in local]


def _spread(values: Sequence[float]) -> float:
    return max(values) - min(values)


def _sharp_bend(solid: Solid, folds: Sequence[SharpFold], lines: _Lines) -> Bend:
    """Return the bend of a sharp inner corner: nothing wide on this side, an arc on the other."""
    fold = folds[0]
    one, two = (solid.faces[i].direction for i in fold.planes)
    points = solid.curve(fold.edge).points
    axis = unit(points[-1] - points[0])
    middle = -unit(one + two)
    growth = -np.cross(axis, middle)
    frame = Frame(vector(points[0]), vector(middle), vector(axis), vector(growth))
    angle = arc_angle(one, two)
    edges: list[PieceEdge] = []
    for f in folds:
        along = [frame.local(vector(p))[1] for p in solid.curve(f.edge).points]
        low, high = min(along), max(along)
        h = angle / 2
        # The plane whose normal leans against the growth lies at the growing end of the angle.
        right = min(f.planes, key=lambda i: float(solid.faces[i].direction @ growth))
        left = f.planes[1] if right == f.planes[0] else f.planes[0]
        edges += [
            PieceEdge(lines.number(f.edge, right), (Segment((h, low), (h, high)),)),
            PieceEdge(-2 * f.edge, (Segment((h, high), (-h, high)),)),
            PieceEdge(lines.number(f.edge, left), (Segment((-h, high), (-h, low)),)),
            PieceEdge(-2 * f.edge - 1, (Segment((-h, low), (h, low)),)),
        ]
    return Bend(
        edges=tuple(edges), frame=frame, radius=0.0, inside_radius=0.0, angle=angle, is_up=True
    )
