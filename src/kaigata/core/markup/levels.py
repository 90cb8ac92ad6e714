"""Where the faces and the edges of a folded part lie that are measured on it once it is bent."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import numpy.typing as npt

from kaigata.core.blank.mesh import MeshPiece
from kaigata.core.markup.folded_view import folded_at, folded_bounds
from kaigata.core.markup.ordinates import merged

__all__ = ["levels"]

Floats = npt.NDArray[np.float64]

_APART = 0.005
"""Levels nearer to each other are one, mm: so are their figures."""
_SQUARE = 1e-6
"""By how much what runs along an axis may lean, radians: 0.001 mm over a metre."""


def levels(pieces: Sequence[MeshPiece], thickness: float) -> tuple[tuple[float, ...], ...]:
    """Return what lies between the ends of a folded part along x, y and z, mm from its lower end.

    Of each panel square to an axis it is the face that is turned outwards, of each flange that runs
    along one its edge away from the bend. What lies at an end of the part is its overall size.

    Parameters
    ----------
    pieces : sequence of MeshPiece
        The part, as ``fold_mesh`` gives it.
    thickness : float
        Of the sheet, mm.
    """
    low, high = folded_bounds(pieces, thickness)
    found: tuple[list[float], ...] = ([], [], [])
    for number, piece in enumerate(pieces):
        if piece.panel is None or not len(piece.triangles):
            continue
        headings = _headings(pieces, number)
        for axis, at in (
            *_face(pieces, number, headings, thickness, (low + high) / 2),
            *_edge(pieces, number, headings),
        ):
            found[axis].append(at - float(low[axis]))
    sizes = (high - low).tolist()
    return tuple(
        tuple(v for v in merged(along, _APART) if _APART < v < size - _APART)
        for along, size in zip(found, sizes, strict=True)
    )


def _headings(pieces: Sequence[MeshPiece], number: int) -> Floats:
    """Return where the flat's x and y head in a panel once it is folded, and its normal, (3, 3)."""
    flat = pieces[number].triangles
    sides = np.stack([flat[:, 1] - flat[:, 0], flat[:, 2] - flat[:, 0]], axis=2)
    broad = int(np.argmax(np.abs(np.linalg.det(sides))))
    a, b, c = folded_at(pieces, number, flat[broad], 0.0)
    x, y = (np.stack([b - a, c - a], axis=1) @ np.linalg.inv(sides[broad])).T
    return np.stack([x, y, np.cross(x, y)])


def _face(
    pieces: Sequence[MeshPiece], number: int, headings: Floats, thickness: float, middle: Floats
) -> Iterator[tuple[int, float]]:
    """Yield along which axis a panel is square to it, and where its outer face lies there."""
    axis = _axis(headings[2])
    if axis is not None:
        corner = pieces[number].triangles[0, :1]
        sides = [folded_at(pieces, number, corner, h)[0, axis] for h in (0.0, -thickness)]
        # Of a panel in the very middle it is the lower one.
        yield axis, float(max(sides, key=lambda v: (round(abs(v - middle[axis]), 6), -v)))


def _edge(
    pieces: Sequence[MeshPiece], number: int, headings: Floats
) -> Iterator[tuple[int, float]]:
    """Yield along which axis a flange runs from its bend, and where it ends there."""
    piece = pieces[number]
    joint = pieces[piece.parent].joint if piece.parent is not None else None
    further = [p.joint for p in pieces if p.parent == number and p.joint is not None]
    if joint is None or any(np.dot(joint.across, j.across) > 1 - _SQUARE for j in further):
        return
    axis = _axis(np.array(joint.across) @ headings[:2])
    if axis is not None:
        points = piece.triangles.reshape(-1, 2)
        end = int(np.argmax(points @ np.array(joint.across)))
        yield axis, float(folded_at(pieces, number, points[end : end + 1], 0.0)[0, axis])


def _axis(way: Floats) -> int | None:
    """Return the axis that a way runs along, if it does along any."""
    shares = np.abs(way) / np.linalg.norm(way)
    axis = int(np.argmax(shares))
    return axis if np.linalg.norm(np.delete(shares, axis)) < _SQUARE else None
