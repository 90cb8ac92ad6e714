"""Nets of a solid: which of its edges are bent, so that its faces lie flat as one piece."""

from __future__ import annotations

import itertools
import math
import random
from collections.abc import Collection, Iterable, Iterator, Sequence
from dataclasses import dataclass

from shapely.geometry import Polygon
from shapely.ops import unary_union

from kaigata.core.part.recipe.polyhedron import Polyhedron, Ridge
from kaigata.core.plane import Motion

__all__ = ["Net", "is_tree", "net_of", "nets", "usual_net"]

_MOST = 500
"""Nets that are looked at: of a box there are 384, of a solid with many faces no end."""
_MOST_FACES = 10_000
"""Faces that are laid in all of them: a second's work."""
_FEW = 12
"""Edges of which every choice is looked at: those of a box."""
_OVERLAP = 1e-6
"""Share of a net's area by which its faces may overlap: rounding."""


@dataclass(frozen=True, slots=True)
class Net:
    """Edges that are bent, and how large that is when flat.

    Attributes
    ----------
    bent : tuple of Ridge
        They join all faces, and close no ring; in the order of the solid's edges.
    size : (float, float)
        Of the smallest rectangle round the faces, the longer side first, mm; what bends take is
        not in it.
    bends : float
        How long all of them are, mm.
    overlaps : bool
        Whether faces lie on each other in the flat.
    """

    bent: tuple[Ridge, ...]
    size: tuple[float, float]
    bends: float
    overlaps: bool


def is_tree(faces: Collection[str], bent: Sequence[Ridge]) -> bool:
    """Return whether bent edges join all faces, and close no ring."""
    return len(bent) == len(faces) - 1 and len(_joined(faces, bent)) == len(bent)


def usual_net(solid: Polyhedron, faces: Collection[str], anchor: str) -> tuple[Ridge, ...]:
    """Return the net in which each face hangs as near to the anchor as it can, by long edges.

    Where its faces lie on each other in the flat, it is the smallest that has none that do.
    """
    star = tuple(_star((r for r in solid.ridges if r.faces <= {*faces}), anchor))
    if is_tree(faces, star) and net_of(solid, star, anchor).overlaps:
        return next((n.bent for n in nets(solid, faces)), star)
    return star


def _star(ridges: Iterable[Ridge], anchor: str) -> list[Ridge]:
    ordered = sorted(ridges, key=lambda r: -round(r.length, 6))
    reached, bent = [anchor], []
    for face in reached:
        for ridge in ordered:
            if face in ridge.faces and ridge.other(face) not in reached:
                reached.append(ridge.other(face))
                bent.append(ridge)
    return bent


def nets(solid: Polyhedron, faces: Collection[str]) -> list[Net]:
    """Return nets of some faces that do not overlap, on the smallest rectangle first.

    All are looked at where there are few, else as many drawn at random, the same each time.
    """
    ridges = [r for r in solid.ridges if r.faces <= {*faces}]
    first = next(iter(faces))
    most = max(1, min(_MOST, _MOST_FACES // len(faces)))
    drawn = dict.fromkeys(itertools.islice(_trees(faces, ridges), most))
    found = [net for bent in drawn if not (net := net_of(solid, bent, first)).overlaps]
    return sorted(found, key=lambda n: (n.size[0] * n.size[1], n.bends))


def _trees(faces: Collection[str], ridges: Sequence[Ridge]) -> Iterator[tuple[Ridge, ...]]:
    """Yield sets of edges that join all faces and close no ring: all, or without end at random."""
    count = len(faces) - 1
    if len(ridges) <= _FEW:
        for bent in itertools.combinations(ridges, count):
            if is_tree(faces, bent):
                yield bent
        return
    draw = random.Random(len(ridges))
    while True:
        ordered = [*ridges]
        draw.shuffle(ordered)
        joined = {*_joined(faces, ordered)}
        yield tuple(r for r in ridges if r in joined)


def net_of(solid: Polyhedron, bent: Sequence[Ridge], anchor: str) -> Net:
    """Return the net that bent edges make; ``anchor`` is one of its faces."""
    at = {anchor: Motion()}
    for face in (reached := [anchor]):
        for ridge in bent:
            if face in ridge.faces and (beyond := ridge.other(face)) not in at:
                at[beyond] = _beside(solid, ridge, face).then(at[face])
                reached.append(beyond)
    shapes = [Polygon([there.point(p) for p in solid.seen[face]]) for face, there in at.items()]
    whole = unary_union(shapes)
    area = sum(s.area for s in shapes)
    a, b, c, *_ = whole.minimum_rotated_rectangle.exterior.coords
    sides = (math.dist(a, b), math.dist(b, c))
    overlaps = area - whole.area > _OVERLAP * area
    return Net(tuple(bent), (max(sides), min(sides)), sum(r.length for r in bent), overlaps)


def _beside(solid: Polyhedron, ridge: Ridge, face: str) -> Motion:
    """Return how the face beyond an edge lies in the plane of one."""
    beyond = ridge.other(face)
    here, there = solid.seen[face], solid.seen[beyond]
    i, j = ridge.place(face), ridge.place(beyond)
    a, b = here[i], here[(i + 1) % len(here)]
    c, d = there[j], there[(j + 1) % len(there)]
    return Motion.taking(c, (d[0] - c[0], d[1] - c[1]), to=b, along=(a[0] - b[0], a[1] - b[1]))


def _joined(faces: Collection[str], ridges: Iterable[Ridge]) -> list[Ridge]:
    """Return those of some edges, the earlier first, that close no ring."""
    group = {f: f for f in faces}

    def root(face: str) -> str:
        while group[face] != face:
            face = group[face]
        return face

    found = []
    for ridge in ridges:
        one, two = root(ridge.one), root(ridge.two)
        if one != two:
            group[one] = two
            found.append(ridge)
    return found
