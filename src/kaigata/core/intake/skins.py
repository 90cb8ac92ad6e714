"""The two skins of a sheet: its thickness, and which faces make each side.

A sheet has two skins a thickness apart. Within a skin the faces meet without a corner: plane,
bend, plane; only where a bend has no inside radius do two planes meet in a sharp inner corner,
around which the other side runs in an arc. So the upper skin is what is reached in this way from
the largest flat face, and every face of it has its mate a thickness behind it.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Face, Solid, Vec, unit
from kaigata.core.plane.tolerance import KERNEL, SAME

__all__ = ["FORM", "SharpFold", "Skins", "find_skins", "is_coaxial"]

FORM = "It must be a sheet of one thickness with flat panels and round bends"

_SMOOTH = 1e-3
"""Cosine shortfall up to which two faces meet without a corner (2.5 degrees: files are rough)."""

_PARALLEL = 1e-6


@dataclass(frozen=True, slots=True)
class SharpFold:
    """A bend without inside radius: the inner corner's edge, its two planes, the outer arcs."""

    edge: int
    planes: tuple[int, int]
    arcs: frozenset[int]


@dataclass(frozen=True)
class Skins:
    """Which faces of a solid make its two sides.

    Attributes
    ----------
    thickness : float
        Distance between the skins, mm.
    top : frozenset of int
        Faces of the side that looks most upwards at its largest panel.
    fronts : dict
        For each face of the other side those of ``top`` that it lies a thickness behind.
    folds : tuple of SharpFold
        Sharp inner corners within ``top``.
    corners : tuple of int
        Edges at which two faces with a sheet behind them meet and nothing is round: no bend.
    """

    thickness: float
    top: frozenset[int]
    fronts: dict[int, frozenset[int]]
    folds: tuple[SharpFold, ...]
    corners: tuple[int, ...] = ()

    @cached_property
    def bottom(self) -> frozenset[int]:
        """Faces of the other side."""
        return frozenset(self.fronts)


@dataclass(frozen=True, slots=True)
class _Gap:
    """Two faces back to back with the sheet between them: how far apart, over what area."""

    width: float
    area: float
    first: int
    second: int


def find_skins(solid: Solid) -> Skins:
    """Return the two skins of a sheet.

    Raises
    ------
    InputError
        There are no two faces back to back, or the two sides run into each other.
    """
    return _Search(solid).skins()


class _Search:
    """The faces of one solid, compared once."""

    def __init__(self, solid: Solid) -> None:
        self.solid = solid
        self.gaps = [*_plane_gaps(solid), *_cylinder_gaps(solid.faces)]
        self.thickness = _thickness(self.gaps)

    @cached_property
    def mates(self) -> dict[int, set[int]]:
        """For each face those a thickness behind it."""
        found: dict[int, set[int]] = defaultdict(set)
        for g in self.gaps:
            if abs(g.width - self.thickness) < SAME:
                found[g.first].add(g.second)
                found[g.second].add(g.first)
        return found

    @cached_property
    def sharp_folds(self) -> list[SharpFold]:
        """Arcs of the sheet's thickness around a sharp inner corner."""
        arcs = [
            i
            for i, f in enumerate(self.solid.faces)
            if f.kind == "cylinder"
            and f.outward > 0
            and abs(f.radius - self.thickness) < SAME
            and i not in self.mates
        ]
        if not arcs:
            return []
        out = []
        for edge, beside in self._sheet_edges():
            around = frozenset(i for i in arcs if self._runs_around(i, edge))
            if around:
                out.append(SharpFold(edge, (beside[0], beside[1]), around))
        return out

    def _sheet_edges(self) -> Iterator[tuple[int, list[int]]]:
        """Yield edges between two planes that both have a sheet behind them, with the planes."""
        for edge, beside in self.solid.faces_of_edge.items():
            flat = len(beside) == 2 and all(self.solid.faces[i].kind == "plane" for i in beside)
            if flat and all(i in self.mates for i in beside):
                yield edge, list(beside)

    def _runs_around(self, arc: int, edge: int) -> bool:
        """Whether an edge lies on a cylinder's axis, somewhere along the cylinder."""
        curve, cylinder = self.solid.curve(edge), self.solid.faces[arc]
        if curve.kind != "line":
            return False
        off = np.cross(curve.points - cylinder.origin, cylinder.direction)
        if float(np.linalg.norm(off, axis=1).max()) > SAME:
            return False
        points = np.vstack([self.solid.curve(c.edge).points for c in cylinder.coedges])
        one, two = curve.points @ cylinder.direction, points @ cylinder.direction
        return bool(min(one.max(), two.max()) - max(one.min(), two.min()) > SAME)

    def skins(self) -> Skins:
        """Return the skins, the upper one by how its largest panel looks."""
        first, second = self._seeds()
        top = self._reached(first)
        folds = tuple(f for f in self.sharp_folds if set(f.planes) <= top)
        fronts = self._fronts(top, folds)
        if second in top or top & fronts.keys():
            raise InputError(
                "its two sides run into each other without an edge, so neither can be laid flat",
                fix=FORM,
            )
        folded = {f.edge for f in folds}
        corners = tuple(
            edge
            for edge, beside in self._sheet_edges()
            if edge not in folded and top & set(beside) and not top >= set(beside)
        )
        return Skins(self.thickness, top, fronts, folds, corners)

    def _fronts(self, top: frozenset[int], folds: Sequence[SharpFold]) -> dict[int, frozenset[int]]:
        found: dict[int, set[int]] = defaultdict(set)
        for face in top:
            for behind in self.mates.get(face, ()):
                found[behind].add(face)
        for fold in folds:
            for arc in fold.arcs:
                found[arc].update(fold.planes)
        return {behind: frozenset(faces) for behind, faces in found.items()}

    def _seeds(self) -> tuple[int, int]:
        faces = self.solid.faces
        pairs = [g for g in self.gaps if abs(g.width - self.thickness) < SAME]
        flat = [g for g in pairs if faces[g.first].kind == "plane"]
        if not flat:
            # A rolled sheet without a flat panel is seen from outside.
            rolled = max(pairs, key=lambda g: g.area)
            return rolled.first, rolled.second
        most = max(g.area for g in flat)
        largest = [g for g in flat if g.area > most * (1 - KERNEL)]
        best = min(largest, key=lambda g: tuple(self.solid.faces[g.first].origin.round(3)))
        i, j = best.first, best.second
        if _upwards(faces[i].direction) < _upwards(faces[j].direction):
            i, j = j, i
        return i, j

    def _reached(self, seed: int) -> frozenset[int]:
        skin_like = set(self.mates).union(*(f.arcs for f in self.sharp_folds))
        across = defaultdict(list)
        for fold in self.sharp_folds:
            across[fold.planes[0]].append(fold.planes[1])
            across[fold.planes[1]].append(fold.planes[0])
        found, queue = {seed}, [seed]
        while queue:
            here = queue.pop()
            beside = [
                j
                for c in self.solid.faces[here].coedges
                for j in self.solid.faces_of_edge[c.edge]
                if j in skin_like and j not in found and is_smooth(self.solid, here, j, c.edge)
            ]
            for other in [*beside, *across[here]]:
                if other not in found:
                    found.add(other)
                    queue.append(other)
        return frozenset(found)


def _thickness(gaps: Sequence[_Gap]) -> float:
    """Return the distance at which most skin area lies opposite other skin area."""
    weight: dict[float, float] = defaultdict(float)
    for gap in sorted(gaps, key=lambda g: -g.area):
        known = next((g for g in weight if abs(g - gap.width) < SAME), gap.width)
        weight[known] += gap.area
    if not weight:
        raise InputError(
            "no two faces lie back to back at one distance, so it has no thickness", fix=FORM
        )
    # A wide gap (a channel's outer walls) can carry as much area as the sheet: the least one wins.
    most = max(weight.values())
    return min(g for g, area in weight.items() if area > 0.5 * most)


def _plane_gaps(solid: Solid) -> list[_Gap]:
    out = []
    for normal, members in _parallel_planes(solid.faces):
        x = unit(np.cross(normal, np.eye(3)[int(np.argmin(np.abs(normal)))]))
        across = np.array([x, np.cross(normal, x)])
        at = np.array([solid.faces[i].origin for i in members])
        heading = np.array([solid.faces[i].direction for i in members])
        fronts = np.array([float(solid.faces[i].direction @ normal) > 0 for i in members])
        boxes = np.array([_box(solid, i, across) for i in members])
        # Along each face's own normal: planes that are not quite parallel are in one class too.
        apart = (heading * at).sum(axis=1)[:, None] - heading @ at.T
        low = np.maximum(boxes[:, None, :2], boxes[None, :, :2])
        high = np.minimum(boxes[:, None, 2:], boxes[None, :, 2:])
        common = np.prod(np.clip(high - low, 0.0, None), axis=2)
        facing = fronts[:, None] & ~fronts[None, :] & (apart > KERNEL) & (common > KERNEL)
        for a, b in np.argwhere(facing).tolist():
            i, j = members[a], members[b]
            area = min(float(common[a, b]), solid.faces[i].area, solid.faces[j].area)
            out.append(_Gap(float(apart[a, b]), area, i, j))
    return out


def _parallel_planes(faces: Sequence[Face]) -> list[tuple[Vec, list[int]]]:
    classes: list[tuple[Vec, list[int]]] = []
    for i, face in enumerate(faces):
        if face.kind != "plane":
            continue
        for normal, members in classes:
            if abs(float(normal @ face.direction)) > 1 - _PARALLEL:
                members.append(i)
                break
        else:
            classes.append((face.direction, [i]))
    return classes


def _box(solid: Solid, face: int, across: Vec) -> Vec:
    points = np.vstack([solid.curve(c.edge).points for c in solid.faces[face].coedges])
    flat = points @ across.T
    return np.concatenate([flat.min(axis=0), flat.max(axis=0)])


def _cylinder_gaps(faces: Sequence[Face]) -> list[_Gap]:
    outer = [i for i, f in enumerate(faces) if f.kind == "cylinder" and f.outward > 0]
    inner = [i for i, f in enumerate(faces) if f.kind == "cylinder" and f.outward < 0]
    return [
        _Gap(faces[i].radius - faces[j].radius, min(faces[i].area, faces[j].area), i, j)
        for i in outer
        for j in inner
        if faces[i].radius - faces[j].radius > KERNEL and is_coaxial(faces[i], faces[j])
    ]


def is_coaxial(a: Face, b: Face) -> bool:
    """Return whether two cylinders have one axis."""
    if abs(abs(float(a.direction @ b.direction)) - 1) > _PARALLEL:
        return False
    d = b.origin - a.origin
    across = d - a.direction * float(d @ a.direction)
    return float(np.linalg.norm(across)) < SAME


def is_smooth(solid: Solid, a: int, b: int, edge: int) -> bool:
    """Return whether two faces meet at an edge without a corner."""
    return float(solid.normal_at(a, edge) @ solid.normal_at(b, edge)) > 1 - _SMOOTH


def _upwards(normal: Vec) -> tuple[float, float, float]:
    x, y, z = (round(float(v), 6) for v in normal)
    return (z, y, x)


def arc_angle(a: Vec, b: Vec) -> float:
    """Return the angle between two unit vectors, radians."""
    return math.atan2(float(np.linalg.norm(np.cross(a, b))), float(a @ b))
