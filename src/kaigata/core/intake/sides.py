"""Everything of a solid that is not skin: cut edges, slanted edges, holes, forms, and faults.

What joins the two skins is a cut edge. A face of it that leans outwards over the skin (a chamfer,
a countersink, a bevel) is laid flat with the piece it borders on, seen square to the sheet: the
blank is cut at its widest and its holes at their narrowest, and the rest is taken off at another
bench. What leaves the sheet's thickness is no edge but a fault, or a form pressed into it.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.findings import Level
from kaigata.core.intake.kernel import Face, Solid, Vec
from kaigata.core.intake.pieces import vector
from kaigata.core.intake.skins import FORM, Skins, is_smooth
from kaigata.core.metal.threads import thread_of_drill
from kaigata.core.plane.tolerance import KERNEL

__all__ = ["SideMark", "SideRemark", "Sides", "judge_sides"]

_SQUARE = 0.02
"""How far a cut edge may lean and still be square, as a sine (about a degree)."""

_SLACK = 0.01
"""How far an edge may stand out of the sheet's thickness, mm."""

_LONGEST_SLANT = 4.0
"""Thicknesses that a slanted edge may run over; what is longer is a sheet that tapers."""

_LEANS = (
    "An edge leans {:.0f} degrees from square: the blank is cut square where it is widest. "
    "Bevel it afterwards."
)
_ACROSS = (
    "An edge or hole runs across a bend at a slant to the sheet: its flat shape is that of the "
    "side shown, not a square cut. Check it on a trial piece."
)

_COUNTERSINK_SHARE = 0.35
"""A cone deeper than this share of the thickness is a countersink, not a broken edge."""


@dataclass(frozen=True, slots=True)
class SideMark:
    """A mark at a point of space on a face of the upper skin; see ``Feature``."""

    kind: str
    face: int
    at: Vec
    diameter: float
    note: str
    is_above: bool | None = None


@dataclass(frozen=True, slots=True)
class SideRemark:
    """Something to know at a point of space on a face of the upper skin."""

    level: Level
    code: str
    text: str
    face: int
    at: Vec


@dataclass
class Sides:
    """What became of the faces that are not skin.

    ``aprons`` gives for each face that is laid flat with a piece a face of that piece;
    ``closed`` are the edges of skin loops that bound a pressed form and are no cuts.
    """

    aprons: dict[int, int] = field(default_factory=dict)
    closed: set[int] = field(default_factory=set)
    marks: list[SideMark] = field(default_factory=list)
    remarks: list[SideRemark] = field(default_factory=list)


def judge_sides(solid: Solid, skins: Skins) -> Sides:
    """Return what the cut edges of a sheet are.

    Raises
    ------
    InputError
        Something is not of the sheet's thickness; the text says what, how much and where.
    """
    return _Judge(solid, skins).judge()


class _Judge:
    def __init__(self, solid: Solid, skins: Skins) -> None:
        self.solid, self.skins = solid, skins
        self.side = set(range(len(solid.faces))) - skins.top - skins.bottom
        self.out = Sides()

    def judge(self) -> Sides:
        blind_above: list[list[int]] = []
        blind_below: list[list[int]] = []
        for group in self._components():
            above = any(self.solid.neighbours(i) & self.skins.top for i in group)
            below = any(self.solid.neighbours(i) & self.skins.bottom for i in group)
            if above and below:
                self._through(group)
            elif above:
                blind_above.append(group)
            elif below:
                blind_below.append(group)
            else:
                raise self._fault("there is a hollow inside the sheet", group[0])
        self._blind(blind_above, blind_below)
        return self.out

    def _components(self) -> list[list[int]]:
        left, out = set(self.side), []
        while left:
            group = [min(left)]
            left.discard(group[0])
            for here in group:
                beside = sorted(self.solid.neighbours(here) & left)
                left.difference_update(beside)
                group.extend(beside)
            out.append(group)
        return out

    def _fault(self, what: str, face: int, *, fix: str = FORM) -> InputError:
        spot = self.solid.middle(self.solid.faces[face].coedges[0].edge)
        return InputError(
            what,
            where="near x {:.2f}, y {:.2f}, z {:.2f}".format(*spot),
            fix=fix,
            spot=vector(spot),
        )

    # What goes through the sheet.

    def _through(self, group: Sequence[int]) -> None:
        owners = {i: self._owners(i) for i in group}
        odd = [i for i in group if not self._is_square(i)]
        known = {o for found in owners.values() for o in found}
        if self._is_pressed(group):
            self._form(group, known)
            return
        for i in group:
            self._require_within(i, owners[i] or known)
        hole = self._round_hole(group, known)
        if hole:
            return
        for i in odd:
            self._slanted(i, owners[i], known)
        self._spread_aprons(group)

    def _owners(self, face: int) -> set[int]:
        """Return the faces of the upper skin that a side face lies between the skins of."""
        beside = self.solid.neighbours(face)
        return beside & self.skins.top or self._in_front_of(beside & self.skins.bottom)

    def _in_front_of(self, below: Iterable[int]) -> set[int]:
        return set().union(*(self.skins.fronts[i] for i in below))

    def _is_square(self, face: int) -> bool:
        skin = self.skins.top | self.skins.bottom
        rims = [
            (c.edge, j)
            for c in self.solid.faces[face].coedges
            for j in self.solid.faces_of_edge[c.edge]
            if j in skin
        ]
        return bool(rims) and all(
            abs(float(self.solid.normal_at(face, e) @ self.solid.normal_at(j, e))) < _SQUARE
            for e, j in rims
        )

    def _points(self, face: int) -> Vec:
        return np.vstack([self.solid.curve(c.edge).points for c in self.solid.faces[face].coedges])

    def _depth(self, owner: Face, points: Vec) -> Vec:
        """Return how deep points lie under the upper skin at one of its faces, mm."""
        if owner.kind == "plane":
            depth: Vec = (owner.origin - points) @ owner.direction
            return depth
        d = points - owner.origin
        off = np.linalg.norm(d - np.outer(d @ owner.direction, owner.direction), axis=1)
        below: Vec = owner.outward * (owner.radius - off)
        return below

    def _require_within(self, face: int, owners: Iterable[int]) -> None:
        points = self._points(face)
        t = self.skins.thickness
        # Round a sharp inner corner the sheet belongs to both planes, also to the one that only
        # meets the face in a point.
        near = set(owners)
        owners = near.union(*(f.planes for f in self.skins.folds if near & set(f.planes)))
        depths = np.array([self._depth(self.solid.faces[o], points) for o in owners])
        beyond = np.maximum(-depths, depths - t).min(axis=0)
        worst = int(np.argmax(beyond))
        if beyond[worst] <= _SLACK:
            return
        if self.skins.corners:
            raise self._bare_corner()
        spot = points[worst]
        column = depths[:, worst]
        depth = column[int(np.argmin(np.maximum(-column, column - t)))]
        thick = depth if depth > t else t - depth
        raise InputError(
            f"thickness is not constant: about {thick:.2f} mm here, {t:.4g} mm elsewhere",
            where="near x {:.2f}, y {:.2f}, z {:.2f}".format(*spot),
            fix=FORM,
            spot=vector(spot),
        )

    def _bare_corner(self) -> InputError:
        """Return that panels meet without a bend: the longest such corner."""
        runs = [self.solid.curve(e).points for e in self.skins.corners]
        points = max(runs, key=lambda p: float(np.linalg.norm(p[-1] - p[0])))
        spot = (points[0] + points[-1]) / 2
        t = self.skins.thickness
        return InputError(
            f"two panels of {t:.4g} mm meet in a corner that is sharp inside and outside, so there "
            "is no bend to unfold",
            where="near x {:.2f}, y {:.2f}, z {:.2f}".format(*spot),
            fix="Model the bend with its inside radius (where it is 0 the outside is round by the "
            "thickness), or leave a gap where the panels only touch",
            spot=vector(spot),
        )

    def _slanted(self, face: int, owners: set[int], known: set[int]) -> None:
        """Refuse a face that is no edge of a sheet, and remark on one that leans."""
        own = self.solid.faces[face]
        t = self.skins.thickness
        owner = min(owners or known)
        lean = self._lean(face, self.solid.faces[owner])
        depth = self._depth(self.solid.faces[owner], self._points(face))
        rise = float(depth.max() - depth.min())
        if own.kind == "cylinder" and own.outward < 0 and self._is_smooth_to_skin(face):
            raise self._fault(
                f"thickness is not constant: the bend of inside radius {own.radius:.4g} mm has no "
                f"face {t:.4g} mm behind it",
                face,
            )
        if rise < _SLACK:
            d = float(depth.mean())
            raise self._fault(
                f"thickness is not constant: a step or pocket {d:.2f} mm deep, "
                f"{max(t - d, 0):.2f} mm are left of {t:.4g} mm",
                face,
            )
        steep = max(1 - lean * lean, KERNEL)
        run = rise * abs(lean) / math.sqrt(steep)
        if run > _LONGEST_SLANT * t and own.kind == "plane":
            raise self._fault(
                f"thickness is not constant: it tapers by {rise:.2f} mm over {run:.1f} mm", face
            )
        spot = self.solid.middle(own.coedges[0].edge)
        if len(owners) > 1 or self._is_twisted(face, self.solid.faces[owner]):
            self._remark(Level.WARNING, "slanted-across-bend", _ACROSS, owner, spot)
        elif abs(lean) > _SQUARE:
            angle = math.degrees(math.asin(min(1.0, abs(lean))))
            self._remark(Level.NOTE, "edge-not-square", _LEANS.format(angle), owner, spot)

    def _remark(self, level: Level, code: str, text: str, owner: int, spot: Vec) -> None:
        """Add a remark once: a bevel over many panels is one thing to know."""
        if all(r.text != text for r in self.out.remarks):
            self.out.remarks.append(SideRemark(level, code, text, owner, spot))

    def _is_twisted(self, face: int, owner: Face) -> bool:
        """Whether a face leans outwards at one edge and inwards at another."""
        leans = [
            float(self.solid.normal_at(face, c.edge)
                  @ self._skin_normal(owner, self.solid.middle(c.edge)))
            for c in self.solid.faces[face].coedges
        ]  # fmt: skip
        return min(leans) < -_SQUARE and max(leans) > _SQUARE

    def _lean(self, face: int, owner: Face) -> float:
        """Return how far a face looks the way the skin does: 0 square to it, 1 parallel."""
        edges = [c.edge for c in self.solid.faces[face].coedges]
        normals = [
            float(self.solid.normal_at(face, e) @ self._skin_normal(owner, self.solid.middle(e)))
            for e in edges
        ]
        return math.fsum(normals) / len(normals)

    def _skin_normal(self, owner: Face, at: Vec) -> Vec:
        if owner.kind == "plane":
            return owner.direction
        d = at - owner.origin
        d = d - owner.direction * float(d @ owner.direction)
        return owner.outward * d / float(np.linalg.norm(d))

    def _is_smooth_to_skin(self, face: int) -> bool:
        skin = self.skins.top | self.skins.bottom
        return any(
            j in skin and is_smooth(self.solid, face, j, c.edge)
            for c in self.solid.faces[face].coedges
            for j in self.solid.faces_of_edge[c.edge]
        )

    def _spread_aprons(self, group: Sequence[int]) -> None:
        """Lay the faces that lean outwards flat with the one piece they border on."""
        members = set(group)
        for seed in group:
            owners = self.solid.neighbours(seed) & self.skins.top
            if len(owners) != 1 or seed in self.out.aprons:
                continue
            owner = next(iter(owners))
            for face in self._leaning_from(seed, owner, members):
                self.out.aprons[face] = owner

    def _leaning_from(self, seed: int, owner: int, members: set[int]) -> list[int]:
        if not self._leans_out(seed, owner):
            return []
        found, queue = [seed], [seed]
        while queue:
            here = queue.pop()
            for j in self.solid.neighbours(here) & members:
                touched = self.solid.neighbours(j) & self.skins.top
                if j not in found and not touched and self._leans_out(j, owner):
                    found.append(j)
                    queue.append(j)
        return found

    def _leans_out(self, face: int, owner: int) -> bool:
        return self._lean(face, self.solid.faces[owner]) > _SQUARE

    # Round holes.

    def _round_hole(self, group: Sequence[int], owners: set[int]) -> bool:
        """Mark a round hole square to its panel by what it is for; whether it was one."""
        faces = [self.solid.faces[i] for i in group]
        walls = [f for f in faces if f.kind == "cylinder"]
        cones = [i for i in group if self.solid.faces[i].kind == "cone"]
        floors = [f for f in faces if f.kind == "plane"]
        planes = [o for o in owners if self.solid.faces[o].kind == "plane"]
        if len(walls) + len(cones) + len(floors) < len(faces) or len(planes) != len(owners):
            return False
        if not planes or not (walls or cones) or any(f.outward > 0 for f in walls):
            return False
        normal = self.solid.faces[planes[0]].direction
        axes = [self.solid.faces[i].direction for i in cones] + [f.direction for f in walls]
        if any(abs(abs(float(a @ normal)) - 1) > KERNEL for a in axes):
            return False
        if any(abs(abs(float(f.direction @ normal)) - 1) > KERNEL for f in floors):
            return False
        centre = (walls[0] if walls else self.solid.faces[cones[0]]).origin
        if any(_off_axis(f.origin, centre, normal) > 10 * KERNEL for f in walls):
            return False
        points = np.vstack([self._points(i) for i in group])
        reach = points - centre
        off = np.linalg.norm(reach - np.outer(reach @ normal, normal), axis=1)
        narrow, wide = 2 * float(off.min()), 2 * float(off.max())
        owner = min(planes)
        top = self.solid.faces[owner]
        at = centre + normal * float((top.origin - centre) @ normal)
        self._mark_hole(group, cones, floors, owner, at, narrow, wide)
        self._spread_hole(group, owner)
        return True

    def _mark_hole(
        self,
        group: Sequence[int],
        cones: Sequence[int],
        floors: Sequence[Face],
        owner: int,
        at: Vec,
        narrow: float,
        wide: float,
    ) -> None:
        thread = thread_of_drill(narrow)
        if thread is not None:
            self.out.marks.append(SideMark("tapped-hole", owner, at, round(narrow, 6), thread))
        if floors:
            note = f"counterbore {wide:.4g} for hole {narrow:.4g}"
            looks_up = float(floors[0].direction @ self.solid.faces[owner].direction) > 0
            self.out.marks.append(SideMark("counterbore", owner, at, wide, note, looks_up))
        sunk: dict[bool, SideMark] = {}
        for i in cones:
            points = self._points(i)
            depth = self._depth(self.solid.faces[owner], points)
            if float(np.ptp(depth)) < _COUNTERSINK_SHARE * self.skins.thickness:
                continue
            is_above = float(depth.min()) < KERNEL
            normal = self.solid.faces[owner].direction
            width = 2 * max(_off_axis(p, at, normal) for p in points)
            angle = 2 * math.degrees(self.solid.faces[i].slant)
            note = f"countersink {width:.4g} x {angle:.0f} deg"
            sunk[is_above] = SideMark("countersink", owner, at, width, note, is_above)
        self.out.marks += sunk.values()

    def _spread_hole(self, group: Sequence[int], owner: int) -> None:
        """Lay everything over the narrowest place of a round hole flat with its panel."""
        for i in group:
            if self._leans_out(i, owner):
                self.out.aprons[i] = owner
        if not any(i in self.out.aprons for i in group):
            return
        # A square wall between two steps belongs to neither unless it is taken along.
        for i in group:
            beside = self.solid.neighbours(i)
            steps = sum(j in self.out.aprons or j in self.skins.top for j in beside)
            if i not in self.out.aprons and steps > 1:
                self.out.aprons[i] = owner

    # What is pressed into the sheet or stands on it.

    def _is_pressed(self, group: Sequence[int]) -> bool:
        """Whether the faces leave the upper skin in a smooth, doubly curved rim all round."""
        rims = [
            (i, c.edge, j)
            for i in group
            for c in self.solid.faces[i].coedges
            for j in self.solid.faces_of_edge[c.edge]
            if j in self.skins.top
        ]
        doubly = any(self.solid.faces[i].kind == "other" for i, _, _ in rims)
        return doubly and all(is_smooth(self.solid, i, j, e) for i, e, j in rims)

    def _form(self, group: Sequence[int], owners: Iterable[int]) -> None:
        """Mark the footprint of a pressed form and leave the sheet whole under it."""
        owner = next(iter(sorted(owners)))
        edges = {
            c.edge
            for i in group
            for c in self.solid.faces[i].coedges
            if any(j in self.skins.top for j in self.solid.faces_of_edge[c.edge])
        }
        self.out.closed |= edges
        points = np.vstack([self.solid.curve(e).points for e in edges])
        middle = (points.min(axis=0) + points.max(axis=0)) / 2
        wide = 2 * float(np.linalg.norm(points - middle, axis=1).max())
        depth = self._depth(self.solid.faces[owner], np.vstack([self._points(i) for i in group]))
        height = max(float(-depth.min()), float(depth.max()) - self.skins.thickness)
        is_above = bool(-depth.min() > depth.max() - self.skins.thickness)
        note = f"form {height:.2f} mm"
        self.out.marks.append(SideMark("formed", owner, middle, wide, note, is_above))
        text = (
            f"A form {wide:.1f} mm wide and {height:.2f} mm high is pressed into the sheet: the "
            "blank shows its footprint, its stretch is not counted. Form it after cutting."
        )
        self.out.remarks.append(SideRemark(Level.NOTE, "pressed-form", text, owner, middle))

    def _blind(self, above: list[list[int]], below: list[list[int]]) -> None:
        """Pair what rises on one side with what sinks on the other; refuse what has no pair."""
        unpaired = list(below)
        for group in above:
            owners = set().union(*(self.solid.neighbours(i) & self.skins.top for i in group))
            pair = next((b for b in unpaired if self._is_behind(group, b, owners)), None)
            if pair is None:
                raise self._standing(group, owners)
            unpaired.remove(pair)
            self._form([*group, *pair], owners)
        if unpaired:
            beside = set().union(*(self.solid.neighbours(j) for j in unpaired[0]))
            owners = self._in_front_of(beside & self.skins.bottom)
            raise self._standing(unpaired[0], owners)

    def _is_behind(self, above: Sequence[int], below: Sequence[int], owners: set[int]) -> bool:
        """Whether two one-sided forms are the two sides of one pressed form."""
        owner = self.solid.faces[min(owners)]
        one = np.vstack([self._points(i) for i in above])
        two = np.vstack([self._points(i) for i in below])
        t = self.skins.thickness
        up = -self._depth(owner, one)
        down = t - self._depth(owner, two)
        # Both must go the same way: up over the upper skin and up into the lower, or both down.
        same_way = (up.max() > _SLACK and down.max() > _SLACK) or (
            up.min() < -_SLACK and down.min() < -_SLACK
        )
        apart = (one.min(axis=0) + one.max(axis=0) - two.min(axis=0) - two.max(axis=0)) / 2
        across = apart
        if owner.kind == "plane":
            across = apart - owner.direction * float(apart @ owner.direction)
        reach = np.linalg.norm(one.max(axis=0) - one.min(axis=0))
        return same_way and float(np.linalg.norm(across)) < 0.1 * float(reach)

    def _standing(self, group: Sequence[int], owners: set[int]) -> InputError:
        t = self.skins.thickness
        points = np.vstack([self._points(i) for i in group])
        depth = self._depth(self.solid.faces[min(owners or self.skins.top)], points)
        over = max(float(-depth.min()), float(depth.max()) - t)
        if over > _SLACK:
            what = f"something stands {over:.2f} mm proud of the sheet on one side"
        else:
            deep = max(float(depth[depth < t / 2].max(initial=0)), 0.0)
            deep = deep or float(t - depth.min())
            what = f"a pocket is sunk into one side, {t - deep:.2f} mm are left of {t:.4g} mm"
        return self._fault(f"thickness is not constant: {what}", group[0])


def _off_axis(p: Vec, centre: Vec, axis: Vec) -> float:
    d = p - centre
    return float(np.linalg.norm(d - axis * float(d @ axis)))
