"""Solids with flat faces: what a shell is folded round.

Faces are called ``bottom``, ``top`` and ``side-1``, ``side-2`` and so on, side N over edge N of
the base, unless they are given with names of their own.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from kaigata.core.errors import InputError
from kaigata.core.plane import Point

__all__ = ["Polyhedron", "Ridge", "over_base"]

Vec = npt.NDArray[np.float64]

FLAT = 0.01
"""How far a corner may lie off the plane of its face, mm: the sheet is flat there."""
_SAME = 1e-3
"""How far apart corners of two faces may lie that are one, mm."""
_LEVEL = 1e-4
"""Angle between the planes of faces that are one, radians."""


@dataclass(frozen=True, slots=True)
class Ridge:
    """Where two faces meet: the faces, the place of the edge in each, and how the surface turns.

    Attributes
    ----------
    one, two : str
        The faces.
    at_one, at_two : int
        Which edge of each, by its place.
    length : float
        How long it is, mm.
    angle : float
        How far the surface turns over it, radians, above 0.
    is_convex : bool
        Whether it turns away from the side seen from outside.
    """

    one: str
    two: str
    at_one: int
    at_two: int
    length: float
    angle: float
    is_convex: bool

    @property
    def faces(self) -> frozenset[str]:
        """Both faces."""
        return frozenset((self.one, self.two))

    def other(self, face: str) -> str:
        """Return the face beyond it, seen from one."""
        return self.two if face == self.one else self.one

    def place(self, face: str) -> int:
        """Return which edge of a face it is."""
        return self.at_one if face == self.one else self.at_two


@dataclass(frozen=True)
class Polyhedron:
    """A closed surface of flat faces.

    Attributes
    ----------
    faces : mapping of str to (n, 3) array
        The corners of each face in order, mm, counter-clockwise seen from outside.

    Raises
    ------
    InputError
        A face is not flat, or the faces do not close.
    """

    faces: Mapping[str, Vec]

    def __post_init__(self) -> None:
        for name in self.faces:
            self._require_flat(name)
        if self._volume() <= 0:
            raise InputError(
                "its faces are seen from inside",
                where="faces",
                fix="Give the corners of each counter-clockwise, seen from outside",
            )
        self.ridges  # noqa: B018  faces that do not close are told here

    def normal(self, face: str) -> Vec:
        """Return the unit vector that points out of a face."""
        corners = self.faces[face]
        found = _area_vector(corners)
        return found / np.linalg.norm(found)

    @cached_property
    def seen(self) -> Mapping[str, tuple[Point, ...]]:
        """The corners of each face in its plane, seen from inside, counter-clockwise.

        Its first edge begins at 0,0 and runs along x.
        """
        return {face: self._seen(face) for face in self.faces}

    def _seen(self, face: str) -> tuple[Point, ...]:
        corners = self.faces[face]
        # Seen from the other side the first edge runs the other way, and stays the first.
        around = np.array([corners[1], corners[0], *corners[:1:-1]])
        origin, x = around[0], _unit(around[1] - around[0])
        y = np.cross(-self.normal(face), x)
        return tuple((float((p - origin) @ x), float((p - origin) @ y)) for p in around)

    @cached_property
    def ridges(self) -> tuple[Ridge, ...]:
        """Every edge between two faces; places are those of ``seen``."""
        at = {ends: where for where, ends in self._edges()}
        found = []
        for (face, i), (a, b) in self._edges():
            other = at.get((b, a))
            if other is None or at[(a, b)] != (face, i) or a == b:
                raise InputError(
                    f"edge {_seen_place(self.faces[face], i) + 1} of {face} is not where it meets "
                    "just one other face",
                    where="faces",
                    fix="Let each edge be shared by two faces, with the same two corners",
                )
            if (face, i) < other:
                found.append(self._ridge(face, i, *other))
        return tuple(found)

    def _edges(self) -> Iterator[tuple[tuple[str, int], tuple[int, int]]]:
        """Yield each edge of each face with the numbers of its corners: those that are one."""
        known = np.empty((0, 3))
        for face, corners in self.faces.items():
            numbers = []
            for p in corners:
                near = np.flatnonzero((np.abs(known - p) < _SAME).all(axis=1))
                numbers.append(int(near[0]) if len(near) else len(known))
                if not len(near):
                    known = np.vstack([known, p])
            for i, a in enumerate(numbers):
                yield (face, i), (a, numbers[(i + 1) % len(numbers)])

    def _ridge(self, one: str, i: int, two: str, j: int) -> Ridge:
        corners = self.faces[one]
        a, b = corners[i], corners[(i + 1) % len(corners)]
        n, m = self.normal(one), self.normal(two)
        along = _unit(b - a)
        turn = math.atan2(float(np.cross(n, m) @ along), float(n @ m))
        if abs(turn) > math.pi - _LEVEL:
            raise InputError(f"{one} and {two} lie on each other", where="faces")
        return Ridge(
            one=one,
            two=two,
            at_one=_seen_place(corners, i),
            at_two=_seen_place(self.faces[two], j),
            length=float(np.linalg.norm(b - a)),
            angle=abs(turn),
            is_convex=turn > 0,
        )

    def _require_flat(self, name: str) -> None:
        corners = self.faces[name]
        normal = _area_vector(corners)
        size = float(np.linalg.norm(normal))
        if size < _SAME:
            raise InputError(f"{name} has no area", where="faces")
        off = np.abs((corners - corners.mean(axis=0)) @ (normal / size)).max()
        if off > FLAT:
            raise InputError(
                f"{name} is not flat: a corner lies {off:.3g} mm off its plane",
                where="faces",
                fix="Let the edges of the top run along those of the base",
            )

    def _volume(self) -> float:
        return float(sum(f[0] @ _area_vector(f) for f in self.faces.values()))


def over_base(base: Sequence[Point], top: Sequence[Point], height: float) -> Polyhedron:
    """Return the solid over a base: a prism, a pyramid or a frustum.

    Parameters
    ----------
    base : sequence of Point
        Its corners, counter-clockwise seen from above, at the height 0, mm.
    top : sequence of Point
        As many corners, each over one of the base, or the tip alone.
    height : float
        Of the top, mm.

    Raises
    ------
    InputError
        The top has another number of corners, or a side is not flat.
    """
    low = [np.array([*p, 0.0]) for p in base]
    high = [np.array([*p, height]) for p in top]
    count = len(low)
    # Seen from below, its first edge that of the base.
    faces = {"bottom": np.roll(np.array(low[::-1]), 2, axis=0)}
    if len(high) == 1:
        for i in range(count):
            faces[f"side-{i + 1}"] = np.array([low[i], low[(i + 1) % count], high[0]])
        return Polyhedron(faces)
    if len(high) != count:
        raise InputError(
            f"the base has {count} corners, the top {len(high)}",
            where="top",
            fix="Give both the same number of corners",
        )
    for i in range(count):
        j = (i + 1) % count
        faces[f"side-{i + 1}"] = np.array([low[i], low[j], high[j], high[i]])
    faces["top"] = np.array(high)
    return Polyhedron(faces)


def _seen_place(corners: Vec, i: int) -> int:
    """Return which edge of the face seen from inside an edge is."""
    return -i % len(corners)


def _unit(v: Vec) -> Vec:
    return v / np.linalg.norm(v)


def _area_vector(corners: Vec) -> Vec:
    """Return half the sum of cross products round a face: its normal, as long as its area."""
    rolled = np.roll(corners, -1, axis=0)
    return np.asarray(np.cross(corners, rolled).sum(axis=0) / 2)
