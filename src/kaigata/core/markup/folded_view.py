"""The folded part as a drawing of its visible edges, seen from any side.

Every edge is cut into short pieces, and a piece is drawn where no triangle of the part's surface
lies between it and the eye. So the drawing needs nothing but the mesh that the folded view turns.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import LineString, MultiLineString

from kaigata.core.blank.mesh import MESH_CHORD, Joint, MeshPiece, folded_points
from kaigata.core.markup.hidden import Hidden
from kaigata.core.part import Frame
from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import ANGLE, SAME

__all__ = [
    "FROM_LEFT",
    "FROM_RIGHT",
    "FRONT",
    "ISOMETRIC",
    "TOP",
    "Body",
    "Direction",
    "Seen",
    "folded_at",
    "folded_bodies",
    "folded_bounds",
    "folded_size",
    "meshed_body",
    "seen_from",
    "seen_together",
]

Floats = npt.NDArray[np.float64]

_CORNER = math.radians(15)
"""A turn of an outline from which on its corner is an edge through the sheet."""
_ARC = 1.1
"""How much longer than an arc's chord a side is that is none."""
_THIN = 0.05
"""Share of the thickness by which something must be nearer to hide an edge."""
_MESHED = 0.3
"""How much nearer something must be to hide an edge of a solid known by its triangles, mm."""
_SAG = 0.003
"""Share of its radius by which a bend's triangles lie inside of it at most."""


@dataclass(frozen=True, slots=True)
class Direction:
    """From where a part is seen: ``right`` and ``up`` of the view as headings in space."""

    right: tuple[float, float, float]
    up: tuple[float, float, float]

    @property
    def eye(self) -> Floats:
        """The heading towards the eye."""
        eye: Floats = np.cross(self.right, self.up)
        return eye


_R2, _R6 = math.sqrt(2), math.sqrt(6)
ISOMETRIC = Direction(right=(1 / _R2, 1 / _R2, 0.0), up=(-1 / _R6, 1 / _R6, 2 / _R6))
"""From the front right and above, all three axes shortened alike (ISO 5456-3)."""
FRONT = Direction(right=(1.0, 0.0, 0.0), up=(0.0, 0.0, 1.0))
TOP = Direction(right=(1.0, 0.0, 0.0), up=(0.0, 1.0, 0.0))
FROM_LEFT = Direction(right=(0.0, -1.0, 0.0), up=(0.0, 0.0, 1.0))
FROM_RIGHT = Direction(right=(0.0, 1.0, 0.0), up=(0.0, 0.0, 1.0))
"""Square to the axes (ISO 5456-2): the anchor panel lies level, its side up seen from the top."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """What is seen of a part: lines in mm of the part, right and up from the lower left corner.

    ``edges`` are its edges, ``tangents`` creases and where a bend runs into a panel without a
    corner, ``hidden`` edges that lie behind something; ``owners`` tells of each edge which of the
    bodies has it, and ``low`` where that lower left corner lies along the headings of the view's
    ``direction``. ``triangles`` (n, 3, 3) is its surface: right, up and towards the eye, mm.
    """

    edges: tuple[tuple[Point, Point], ...]
    tangents: tuple[tuple[Point, Point], ...]
    width: float
    height: float
    hidden: tuple[tuple[Point, Point], ...] = ()
    owners: tuple[int, ...] = ()
    low: Point = (0.0, 0.0)
    direction: Direction = ISOMETRIC
    triangles: Floats = field(
        default_factory=lambda: np.zeros((0, 3, 3)), compare=False, repr=False
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Flat:
    """One piece in the flat: what of its outline is rim, and where it borders on other pieces.

    ``sides`` is the rim with as few points as can be, ``rim`` with enough to be rolled.
    """

    rim: Floats
    sides: Floats
    shared: Floats


def folded_size(pieces: Sequence[MeshPiece], thickness: float) -> tuple[float, float, float]:
    """Return the folded part's overall sizes along the flat's x and y and square to it, mm."""
    low, high = folded_bounds(pieces, thickness)
    x, y, z = (high - low).tolist()
    return (x, y, z)


def folded_bounds(pieces: Sequence[MeshPiece], thickness: float) -> tuple[Floats, Floats]:
    """Return the least and the most of the folded part along x, y and z of its mesh, mm."""
    points = np.vstack([t.reshape(-1, 3) for t in _triangles(pieces, thickness, ())])
    return points.min(axis=0), points.max(axis=0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Body:
    """Something to be seen: triangles (n, 3, 3), and lines (n, 2, 3) on them, mm.

    ``edges`` are its edges, those included along which it turns away from the eye it was made for;
    ``tangents`` where it runs on without a corner. Something must lie nearer to the eye than one of
    its lines by ``nearer`` to hide it, mm.
    """

    triangles: Floats
    edges: Floats
    tangents: Floats
    nearer: float

    def placed(self, frame: Frame) -> Body:
        """Return it where a frame lies."""
        axes, origin = np.array([frame.x, frame.y, frame.z]), np.array(frame.origin)
        return Body(
            triangles=self.triangles @ axes + origin,
            edges=self.edges @ axes + origin,
            tangents=self.tangents @ axes + origin,
            nearer=self.nearer,
        )


def folded_bodies(
    pieces: Sequence[MeshPiece], thickness: float, eyes: Sequence[Floats]
) -> list[Body]:
    """Return a folded part as a body for each of some eyes.

    Each is far away in a direction of the mesh's frame; all that does not depend on it is made
    once.
    """
    body = _folded_body(pieces, thickness)
    return [
        replace(body, edges=np.vstack([body.edges, *_outlines(pieces, thickness, eye)]))
        for eye in eyes
    ]


def _folded_body(pieces: Sequence[MeshPiece], thickness: float) -> Body:
    """Return a folded part without the lines along which it turns away from an eye."""
    flats = [_flat(pieces, i) for i in range(len(pieces))]
    return Body(
        triangles=np.vstack(list(_triangles(pieces, thickness, flats))),
        edges=np.vstack(list(_edges(pieces, thickness, flats))),
        tangents=np.vstack(
            [
                _folded_lines(pieces, i, lines, thickness)
                for i, f in enumerate(flats)
                for lines in (f.shared, pieces[i].creases)
            ]
        ),
        nearer=_nearer(pieces, thickness),
    )


def meshed_body(triangles: Floats, eye: Floats) -> Body:
    """Return a solid that is known by its triangles (n, 3, 3) alone as a body for an eye.

    Its edges are sides of triangles at which the surface turns by more than 15 degrees, ends, or
    turns away from the eye.
    """
    points, corner = np.unique(triangles.reshape(-1, 3).round(3), axis=0, return_inverse=True)
    corner = corner.reshape(-1, 3)
    normals = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    long = np.linalg.norm(normals, axis=1, keepdims=True)
    normals = normals / np.where(long > 0, long, 1.0)
    sides = defaultdict[tuple[int, int], list[int]](list)
    for n, (a, b, c) in enumerate(corner.tolist()):
        for p, q in ((a, b), (b, c), (c, a)):
            sides[min(p, q), max(p, q)].append(n)
    edges = [
        side
        for side, faces in sides.items()
        if side[0] != side[1] and (len(faces) != 2 or _turns(normals[faces], eye))
    ]
    return Body(
        triangles=triangles,
        edges=points[np.array(edges, dtype=int).reshape(-1, 2)],
        tangents=np.zeros((0, 2, 3)),
        nearer=_MESHED,
    )


def _turns(normals: Floats, eye: Floats) -> bool:
    """Whether two faces that meet make an edge, or one of them is turned away from the eye."""
    towards = normals @ eye
    return bool(normals[0] @ normals[1] < math.cos(_CORNER) or towards[0] * towards[1] < 0)


def seen_from(
    pieces: Sequence[MeshPiece], thickness: float, direction: Direction = ISOMETRIC
) -> Seen:
    """Return what is seen of a folded part.

    Parameters
    ----------
    pieces : sequence of MeshPiece
        The part, as ``fold_mesh`` gives it.
    thickness : float
        Of the sheet, mm.
    direction : Direction
        From where.

    Returns
    -------
    Seen
        Its visible lines.
    """
    return seen_together(folded_bodies(pieces, thickness, [direction.eye]), direction)


def seen_together(bodies: Sequence[Body], direction: Direction = ISOMETRIC) -> Seen:
    """Return what is seen of bodies that may hide each other."""
    right, up = np.array(direction.right), np.array(direction.up)
    axes = np.column_stack([right, up, direction.eye])
    triangles = np.vstack([b.triangles for b in bodies]) @ axes
    low = triangles.reshape(-1, 3).min(axis=0)
    high = triangles.reshape(-1, 3).max(axis=0)
    triangles = triangles - low
    hidden = Hidden(triangles, max(b.nearer for b in bodies))
    owner = np.repeat(np.arange(len(bodies)), [len(b.edges) for b in bodies]).tolist()
    edges, behind = hidden.parted(np.vstack([b.edges for b in bodies]) @ axes - low)
    tangents, _ = hidden.parted(np.vstack([b.tangents for b in bodies]) @ axes - low)
    return Seen(
        edges=tuple(line for _, line in edges),
        tangents=tuple(line for _, line in tangents),
        hidden=tuple(line for _, line in behind),
        owners=tuple(owner[n] for n, _ in edges),
        width=float(high[0] - low[0]),
        height=float(high[1] - low[1]),
        low=(float(low[0]), float(low[1])),
        direction=direction,
        triangles=triangles,
    )


def _nearer(pieces: Sequence[MeshPiece], thickness: float) -> float:
    """Return how much nearer something must lie to hide an edge, mm."""
    radii = [p.joint.allowance / p.joint.angle for p in pieces if p.joint and p.joint.angle]
    return _THIN * thickness + _SAG * max(radii, default=0.0)


def _flat(pieces: Sequence[MeshPiece], number: int) -> _Flat:
    """Tell what of a piece's outline borders on the pieces beside it."""
    piece = pieces[number]
    beside = [p for i, p in enumerate(pieces) if i == piece.parent or p.parent == number]
    mine = MultiLineString([o for o in piece.outlines if len(o) > 1])
    others = MultiLineString([o for p in beside for o in p.outlines if len(o) > 1]).buffer(SAME)
    shared = mine.intersection(others) if piece.joint is not None else LineString()
    rim = mine.difference(others)
    return _Flat(
        rim=_pairs(rim),
        sides=_pairs(shapely.line_merge(rim).simplify(SAME / 10)),
        shared=_pairs(shapely.line_merge(shared).simplify(SAME)),
    )


def _pairs(lines: shapely.Geometry) -> Floats:
    """Return the segments of lines, (n, 2, 2), those of next to no length left out."""
    parts = [np.array(g.coords) for g in getattr(lines, "geoms", [lines]) if g.length > 2 * SAME]
    ends = [np.stack([p[:-1], p[1:]], axis=1) for p in parts]
    pairs = np.concatenate(ends) if ends else np.zeros((0, 2, 2))
    kept: Floats = pairs[np.hypot(*(pairs[:, 1] - pairs[:, 0]).T) > 0]
    return kept


def _lifted(points: Floats, height: float) -> Floats:
    """Return points of the flat at a height, as (n, 3)."""
    flat = points.reshape(-1, 2)
    return np.column_stack([flat, np.full(len(flat), height)])


def folded_at(pieces: Sequence[MeshPiece], number: int, points: Floats, height: float) -> Floats:
    """Return where points of a piece, (n, 2) in the flat, lie at a height once it is folded."""
    return folded_points(list(pieces), number, _lifted(points, height))


def _triangles(
    pieces: Sequence[MeshPiece], thickness: float, flats: Sequence[_Flat]
) -> Iterator[Floats]:
    """Yield the triangles of both faces and of the rims between them, (n, 3, 3)."""
    for i, piece in enumerate(pieces):
        for height in (0.0, -thickness):
            yield folded_at(pieces, i, piece.triangles, height).reshape(-1, 3, 3)
    for i, flat in enumerate(flats):
        near = folded_at(pieces, i, flat.rim, 0.0).reshape(-1, 2, 3)
        far = folded_at(pieces, i, flat.rim, -thickness).reshape(-1, 2, 3)
        yield np.stack([near[:, 0], near[:, 1], far[:, 0]], axis=1)
        yield np.stack([near[:, 1], far[:, 1], far[:, 0]], axis=1)


def _folded_lines(
    pieces: Sequence[MeshPiece], number: int, lines: Floats, thickness: float
) -> Floats:
    """Return lines of the flat on both faces of the folded part, (n, 2, 3)."""
    both = [folded_at(pieces, number, lines, height) for height in (0.0, -thickness)]
    return np.vstack(both).reshape(-1, 2, 3)


def _edges(
    pieces: Sequence[MeshPiece], thickness: float, flats: Sequence[_Flat]
) -> Iterator[Floats]:
    """Yield the rims on both faces and the corners through the sheet, (n, 2, 3)."""
    ends = defaultdict[tuple[int, int], list[tuple[int, Floats, Floats]]](list)
    for i, flat in enumerate(flats):
        yield _folded_lines(pieces, i, flat.rim, thickness)
        for a, b in flat.sides:
            for here, there in ((a, b), (b, a)):
                x, y = np.rint(here / (4 * SAME)).astype(int).tolist()
                ends[x, y].append((i, here, there - here))
    corners = []
    for meeting in ends.values():
        number, at, ahead = meeting[0]
        if len(meeting) == 2 and _is_smooth(ahead, meeting[1][2]):
            continue
        corners.append([folded_at(pieces, number, at, h)[0] for h in (0.0, -thickness)])
    yield np.array(corners).reshape(-1, 2, 3)


def _is_smooth(a: Floats, b: Floats) -> bool:
    """Whether two ways from one point run on into each other without a corner."""
    long = float(np.hypot(*a)), float(np.hypot(*b))
    turn = math.acos(max(-1.0, min(1.0, -float(a @ b) / (long[0] * long[1]))))
    # A chord that leaves its arc by c and turns by t into the next is 2 c / tan(t / 4) long.
    return turn < _CORNER or min(long) < _ARC * 2 * MESH_CHORD / math.tan(turn / 4)


def _outlines(pieces: Sequence[MeshPiece], thickness: float, eye: Floats) -> Iterator[Floats]:
    """Yield the lines along which a bend turns away from the eye, (n, 2, 3)."""
    for i, piece in enumerate(pieces):
        joint = piece.joint
        if joint is None or joint.angle == 0 or not len(piece.triangles):
            continue
        share = _turning_away(pieces, piece, joint, eye)
        if share is None:
            continue
        across, along = np.array(joint.across), np.array([-joint.across[1], joint.across[0]])
        middle = np.array(joint.start) + across * joint.allowance * share
        reach = float(np.abs(piece.triangles.reshape(-1, 2) - middle).max()) * 2
        line = LineString([middle - along * reach, middle + along * reach])
        # Triangle by triangle: the thinnest of them would make a union fail.
        crossed = shapely.intersection(shapely.polygons(piece.triangles), line)
        within = [g for g in crossed if g.geom_type == "LineString" and g.length]
        # Where the line runs along an edge it is in the triangles on both sides of it.
        once = shapely.line_merge(shapely.union_all(within, grid_size=SAME / 10))
        yield _folded_lines(pieces, i, _pairs(once), thickness)


def _turning_away(
    pieces: Sequence[MeshPiece], piece: MeshPiece, joint: Joint, eye: Floats
) -> float | None:
    """Return the share of a bend after which its face is seen from behind; None where it is not.

    Of a panel seen along its sheet it is the edge of the bend, or a hair within it, where the line
    meets the bend's material.
    """
    parent = piece.parent
    start = np.array(joint.start)
    frame = np.array([[*start, 0.0], [*(start + joint.across), 0.0], [*start, 1.0]])
    at, ahead, above = folded_points(list(pieces), parent, frame) if parent is not None else frame
    side = 1.0 if joint.is_up else -1.0
    # The face's normal after a turn is above * cos - side * ahead * sin.
    up, forth = float((above - at) @ eye), -side * float((ahead - at) @ eye)
    angle = (math.atan2(up, -forth) + ANGLE) % math.pi - ANGLE
    if angle > joint.angle + ANGLE:
        return None
    return min(max(angle / joint.angle, SAME), 1 - SAME)
