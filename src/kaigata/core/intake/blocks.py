"""The faces of a block: a solid with flat faces alone, whose shell may be folded."""

from __future__ import annotations

import math

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Face, Solid, Vec

__all__ = ["block_faces"]

_UPRIGHT = 0.5
"""How far up or down a face must look to be the top or the bottom: as the sine of 30 degrees."""
_SAME = 1e-6
"""Difference between the directions of faces that look the same way."""


def block_faces(solid: Solid) -> dict[str, Vec]:
    """Return the corners of each face, counter-clockwise seen from outside, (n, 3) mm.

    The lowest corner in x, y and z of all is 0,0,0. The largest face that looks down most is the
    ``bottom``, that which looks up most the ``top``; the others are ``side-1``, ``side-2`` and so
    on, round from the one that looks to -y. Of each the first edge is the lowest.

    Raises
    ------
    InputError
        A face is curved, or has a hole or a curved edge; the text says where.
    """
    found = [(face, _corners(solid, face)) for face in solid.faces]
    low = np.min([corners.min(axis=0) for _, corners in found], axis=0)
    named = _names([face for face, _ in found])
    return {name: np.round(found[i][1] - low, 6) for name, i in named.items()}


def _corners(solid: Solid, face: Face) -> Vec:
    if face.kind != "plane":
        edge = face.coedges[0].edge if face.coedges else None
        raise _unfit("a face is curved", None if edge is None else solid.middle(edge))
    steps: dict[int, tuple[int, Vec]] = {}
    for coedge in face.coedges:
        curve = solid.curve(coedge.edge)
        if curve.kind != "line":
            raise _unfit("an edge is curved", solid.middle(coedge.edge))
        ends = (curve.start, curve.end) if coedge.forward else (curve.end, curve.start)
        steps[ends[0]] = (ends[1], curve.points[0 if coedge.forward else -1])
    at = first = next(iter(steps))
    corners: list[Vec] = []
    while not corners or at != first:
        if at not in steps:
            raise _unfit("the edges of a face do not close", corners[-1])
        at, corner = steps.pop(at)
        corners.append(corner)
    if steps:
        raise _unfit("a face has a hole", next(iter(steps.values()))[1])
    around = np.array(corners)
    heights = around[:, 2] + np.roll(around[:, 2], -1)
    return np.roll(around, -int(np.argmin(np.round(heights, 6))), axis=0)


def _unfit(what: str, at: Vec | None) -> InputError:
    where = "" if at is None else "near x {:.2f}, y {:.2f}, z {:.2f}".format(*at)
    return InputError(
        f"{what}: a shell is folded round flat faces with straight edges",
        where=where,
        fix="Leave it out of the block; holes are cut in the recipe afterwards",
        spot=None if at is None else (float(at[0]), float(at[1]), float(at[2])),
    )


def _names(faces: list[Face]) -> dict[str, int]:
    order = sorted(range(len(faces)), key=lambda i: (faces[i].direction[2], -faces[i].area))
    named: dict[str, int] = {}
    left = [*order]
    if faces[order[0]].direction[2] < -_UPRIGHT:
        named["bottom"] = left.pop(0)
    highest = max(faces[i].direction[2] for i in left)
    if highest > _UPRIGHT:
        upper = [i for i in left if faces[i].direction[2] > highest - _SAME]
        top = max(upper, key=lambda i: faces[i].area)
        left.remove(top)
        named["top"] = top

    def turned(i: int) -> float:
        x, y, _ = faces[i].direction
        return round((math.atan2(x, -y)) % (2 * math.pi), 6) % round(2 * math.pi, 6)

    return named | {f"side-{n}": i for n, i in enumerate(sorted(left, key=turned), start=1)}
