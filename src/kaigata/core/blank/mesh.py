"""Triangles of the flat blank, piece by piece, from which a view folds the part by any share."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import shapely
from shapely.geometry import Polygon, box
from shapely.geometry.polygon import orient

from kaigata.core.blank.place import Layout, lay_out
from kaigata.core.blank.pose import FaceUp, flat_pose
from kaigata.core.metal.charts import BendTake
from kaigata.core.part import Bend, FoldedPart, Frame
from kaigata.core.plane import Motion, Point
from kaigata.core.plane.tolerance import AREA

__all__ = ["MESH_CHORD", "Joint", "MeshPiece", "fold_mesh", "folded_points", "mesh_frame"]

MESH_CHORD = 0.1
"""How far a mesh's chords may leave the arcs of the flat, mm."""
_SLICE = math.radians(7.5)

Points3 = npt.NDArray[np.float64]


@dataclass(frozen=True, slots=True, kw_only=True)
class Joint:
    """How a bend rolls up: from its edge on the parent's side, across, mm and radians.

    Attributes
    ----------
    start : Point
        A point of that edge in the blank.
    across : Point
        Unit direction from the parent into the bend.
    allowance, angle : float
        Width of the zone and turn when folded.
    is_up : bool
        Whether it turns towards the viewer.
    neutral : float
        Height of the neutral axis, mm; the face that lies up is at 0, the other below.
    """

    start: Point
    across: Point
    allowance: float
    angle: float
    is_up: bool
    neutral: float


@dataclass(frozen=True, slots=True, kw_only=True)
class MeshPiece:
    """A piece as triangles and outlines in the blank, mm, and how it hangs on its parent.

    ``panel`` is a panel's number, ``bend`` a bend's place among the part's bends; ``creases`` are
    lines that are only marked on it, (n, 2, 2).
    """

    panel: int | None
    bend: int | None
    parent: int | None
    triangles: npt.NDArray[np.float64]
    outlines: tuple[npt.NDArray[np.float64], ...]
    joint: Joint | None
    creases: npt.NDArray[np.float64]


def fold_mesh(
    part: FoldedPart,
    *,
    takes: Sequence[BendTake],
    anchor: int = 1,
    face_up: FaceUp = FaceUp.AS_MODELLED,
    turn: float = 0.0,
) -> list[MeshPiece]:
    """Return the pieces of a part as they lie in its blank, each after the one it hangs on.

    The parameters are those of ``unfold``; ``parent`` is a place in the list returned.
    """
    layout = lay_out(part, takes=takes, anchor=anchor - 1)
    pose = flat_pose(layout.region(), face_up=face_up, turn=turn)
    place = {step.piece: i for i, step in enumerate(layout.steps)}
    out = []
    for step in layout.steps:
        piece = part.pieces[step.piece]
        parent = None if step.parent is None else place[step.parent]
        joint = None
        if isinstance(piece, Bend):
            joint = _joint(layout, step.piece, step.edge, pose)
        polygons = [r.moved(pose).polygon(MESH_CHORD) for r in layout.piece_regions(step.piece)]
        out.append(
            MeshPiece(
                panel=None if isinstance(piece, Bend) else step.piece + 1,
                bend=step.piece - len(part.panels) if isinstance(piece, Bend) else None,
                parent=parent,
                triangles=_triangles(polygons, joint),
                outlines=tuple(o for p in polygons for o in _outlines(p, joint)),
                joint=joint,
                creases=_creases(layout, step.piece, pose),
            )
        )
    return out


def mesh_frame(part: FoldedPart, *, takes: Sequence[BendTake]) -> Frame | None:
    """Return where the frame of a mesh lies in the space the part came in.

    That is of the mesh that ``fold_mesh`` gives with the first panel as anchor and the side up that
    was modelled so. None where the part has no panel.
    """
    if not part.panels:
        return None
    layout = lay_out(part, takes=takes, anchor=0)
    pose = flat_pose(layout.region(), face_up=FaceUp.AS_MODELLED)
    to_flat = layout.motions[0].then(pose)
    panel = part.panels[0].frame
    origin, *ends = (
        panel.place(*to_flat.back(p), 0.0) for p in ((0.0, 0.0), (1.0, 0.0), (0.0, 1.0))
    )
    x, y = ((p[0] - origin[0], p[1] - origin[1], p[2] - origin[2]) for p in ends)
    return Frame(origin=origin, x=x, y=y, z=panel.z)


def _joint(layout: Layout, number: int, edge: int | None, pose: Motion) -> Joint:
    bend = layout.part.bends[number - len(layout.part.panels)]
    rho = layout.take(number).spread / bend.angle
    # A bend was reached across an edge at one end of its angle; one that is the anchor itself
    # rolls up from either.
    shared = next((e for e in bend.edges if e.number == edge), bend.edges[0])
    side = 1.0 if shared.run[0].start[0] > 0 else -1.0
    motion = layout.motions[number].then(pose)
    is_up = bend.is_up != pose.mirrored
    t = layout.part.thickness
    return Joint(
        start=motion.point((side * bend.angle / 2 * rho, shared.run[0].start[1])),
        across=motion.heading((-side, 0.0)),
        allowance=bend.angle * rho,
        angle=bend.angle,
        is_up=is_up,
        neutral=bend.inside_radius - rho if is_up else rho - bend.inside_radius - t,
    )


def _creases(layout: Layout, number: int, pose: Motion) -> npt.NDArray[np.float64]:
    lines = [
        [pose.point(layout.point(number, p)) for p in (f.at, f.end)]
        for f in layout.part.features
        if f.piece == number and f.end is not None
    ]
    return np.array(lines, dtype=float).reshape(-1, 2, 2)


def _slices(polygon: Polygon, joint: Joint | None) -> list[Polygon]:
    """Return a bend's polygon cut into strips along its line, narrow enough to be rolled flat."""
    if joint is None:
        return [polygon]
    n = max(2, math.ceil(joint.angle / _SLICE))
    to_zone = Motion.taking(joint.start, joint.across, to=(0.0, 0.0), along=(1.0, 0.0))
    back = Motion.taking((0.0, 0.0), (1.0, 0.0), to=joint.start, along=joint.across)
    zone = shapely.transform(polygon, lambda p: np.array([to_zone.point(tuple(q)) for q in p]))
    _, y0, _, y1 = zone.bounds
    strips = [
        zone.intersection(box(joint.allowance * i / n, y0, joint.allowance * (i + 1) / n, y1))
        for i in range(n)
    ]
    flat = [g for s in strips for g in getattr(s, "geoms", [s]) if g.area > AREA]
    return [
        shapely.transform(g, lambda p: np.array([back.point(tuple(q)) for q in p])) for g in flat
    ]


def _triangles(polygons: list[Polygon], joint: Joint | None) -> npt.NDArray[np.float64]:
    rings = [
        np.array(orient(t).exterior.coords[:-1])
        for polygon in polygons
        for piece in _slices(polygon, joint)
        for t in shapely.constrained_delaunay_triangles(piece).geoms
    ]
    return np.array(rings).reshape(-1, 3, 2)


def _outlines(polygon: Polygon, joint: Joint | None) -> tuple[npt.NDArray[np.float64], ...]:
    rings = [polygon.exterior, *polygon.interiors]
    if joint is not None:
        # Edges across a bend need points enough to follow its roundness.
        step = joint.allowance / max(2, math.ceil(joint.angle / _SLICE))
        rings = [shapely.segmentize(r, step) for r in rings]
    return tuple(np.array(r.coords) for r in rings)


def folded_points(
    pieces: list[MeshPiece], number: int, points: Points3, *, share: float = 1.0
) -> Points3:
    """Return where points of a piece, (n, 3) mm in the blank, go when folded by a share.

    The anchor stays put. A bend folded by a share keeps its developed length: its neutral radius
    is the allowance over the angle so far.
    """
    while True:
        piece = pieces[number]
        if piece.joint is not None:
            points = _rolled(points, piece.joint, share)
        if piece.parent is None:
            return points
        number = piece.parent


def _rolled(points: Points3, joint: Joint, share: float) -> Points3:
    angle = joint.angle * share
    if angle == 0:
        return points
    (sx, sy), (ux, uy) = joint.start, joint.across
    x = (points[:, 0] - sx) * ux + (points[:, 1] - sy) * uy
    y = (points[:, 1] - sy) * ux - (points[:, 0] - sx) * uy
    side = 1.0 if joint.is_up else -1.0
    centre = joint.neutral + side * joint.allowance / angle
    r = side * (centre - points[:, 2])
    within = np.clip(x, 0.0, joint.allowance)
    # A sharp bend without stretch (K 0: card) takes nothing; all that is rolled lies beyond it.
    turn = within / joint.allowance * angle if joint.allowance else angle
    beyond = x - within
    across = r * np.sin(turn) + beyond * np.cos(turn)
    height = centre - side * r * np.cos(turn) + side * beyond * np.sin(turn)
    return np.column_stack([sx + across * ux - y * uy, sy + across * uy + y * ux, height])
