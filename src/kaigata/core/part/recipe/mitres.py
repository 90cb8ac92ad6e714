"""Corners where two flanges of one panel meet: which plane each is cut by.

Mitred, both end at the plane through the lines in which their inside faces and their outside faces
meet, less half the gap; all that hangs on them ends there too. Cut edges are square to the sheet,
so of a plane at a slant the side of the sheet that it meets first counts.
"""

from __future__ import annotations

import math

import numpy as np

from kaigata.core.part.recipe.half import Half
from kaigata.core.part.recipe.plates import ACROSS, Flange, Line, Plate

__all__ = ["keep_within", "meeting_pairs", "mitre", "overlap", "room_of_bend"]

_LEVEL = 1e-9
"""Sine of an angle between planes that are one."""


def meeting_pairs(panel: Plate) -> list[tuple[Flange, Flange]]:
    """Return the flanges that meet in a corner of a panel, folded the same way.

    One with an outline of its own keeps that.
    """
    edges = len(panel.edges)
    return [
        (a, b)
        for a in panel.hung
        for b in panel.hung
        if a is not b and not a.is_shaped and not b.is_shaped
        and (a.joint.edge + 1) % edges == b.joint.edge
        and a.joint.reaches_end and b.joint.reaches_start
        and a.joint.is_up == b.joint.is_up and a.joint.angle > 0 and b.joint.angle > 0
        and float(np.linalg.norm(np.cross(a.frame.z, b.frame.z))) > _LEVEL
    ]  # fmt: skip


def mitre(one: Flange, two: Flange, *, gap: float, thickness: float) -> None:
    """Cut two flanges, and all that hangs on them, to each other."""
    half = _between(one, two, thickness)
    _cut_all(one, half.less(gap / 2), thickness)
    _cut_all(two, half.other().less(gap / 2), thickness)


def overlap(over: Flange, under: Flange, *, gap: float, thickness: float) -> None:
    """Let one flange go over the end of another, which stops at its inside less a gap."""
    half = _between(over, under, thickness)
    for flange in over.hung:
        _cut_all(flange, half.less(gap / 2), thickness)
    for flange in under.hung:
        _cut_all(flange, half.other().less(gap / 2), thickness)
    _cut(over, _inside(under, thickness).less(-thickness), thickness)
    _cut(under, _inside(over, thickness).less(gap), thickness)


def keep_within(flange: Flange, half: Half, *, thickness: float) -> None:
    """Let a flange and all that hangs on it end in a half of space; none becomes wider."""
    _cut_all(flange, half, thickness, may_widen=False)


def _inside(flange: Flange, thickness: float) -> Half:
    """Return the half of space before the inside face of a flange."""
    normal = np.array(flange.frame.z)
    level = float(normal @ np.array(flange.frame.origin))
    if flange.joint.is_up:
        return Half(-normal, -level)
    return Half(normal, level - thickness)


def _between(one: Flange, two: Flange, thickness: float) -> Half:
    """Return the half of space that ends at the mitre and holds the first flange."""
    n1, n2 = np.array(one.frame.z), np.array(two.frame.z)
    along = np.cross(n1, n2)
    rows = np.array([n1, n2, along])
    levels = np.array([n1 @ np.array(one.frame.origin), n2 @ np.array(two.frame.origin), 0.0])
    seen = np.linalg.solve(rows, levels)
    behind = np.linalg.solve(rows, levels - np.array([thickness, thickness, 0.0]))
    normal = np.cross(along, behind - seen)
    normal = normal / np.linalg.norm(normal)
    reach = float(normal @ seen)
    width = one.edges[0].chord
    middle = np.array(one.frame.place(width / 2, one.rise, 0.0))
    return Half(normal, reach) if float(normal @ middle) < reach else Half(-normal, -reach)


def _cut_all(plate: Flange, half: Half, thickness: float, *, may_widen: bool = True) -> None:
    _cut(plate, half, thickness, may_widen=may_widen)
    for hung in plate.hung:
        _cut_all(hung, half, thickness, may_widen=may_widen)


def _cut(plate: Flange, half: Half, thickness: float, *, may_widen: bool = True) -> None:
    """Let a flange end, at the side that a half of space ends at, where that does."""
    frame = plate.frame
    nx, ny, nz = (float(half.normal @ np.array(v)) for v in (frame.x, frame.y, frame.z))
    flat = math.hypot(nx, ny)
    if abs(nx) < _LEVEL:
        return
    reach = half.reach - float(half.normal @ np.array(frame.origin)) + min(0.0, nz * thickness)
    ux, uy = nx / flat, ny / flat
    tip, wide = (reach - ny * plate.edges[ACROSS].start[1]) / nx, plate.edges[0].chord
    is_wider = tip > wide if nx > 0 else tip < 0
    if not plate.is_shaped and (may_widen or not is_wider):
        line = Line((ux * reach / flat, uy * reach / flat), (-uy, ux))
        plate.sides[1 if nx > 0 else 3] = line
    plate.limits = room_of_bend(plate, half, thickness)


def room_of_bend(plate: Flange, half: Half, thickness: float) -> tuple[float, float]:
    """Return where a flange's bend may lie on its edge to stay in a half of space all round.

    The ends are mm along the edge, within what is known of them already.
    """
    joint, parent = plate.joint, plate.parent
    frame = parent.frame
    ux, uy = parent.edges[joint.edge].heading(0.0)
    x, y = np.array(frame.x), np.array(frame.y)
    along, out = ux * x + uy * y, uy * x - ux * y
    lift = np.array(frame.z) * (1.0 if joint.is_up else -1.0)
    # The seen face of a bend down is its outside.
    seen = joint.radius if joint.is_up else joint.radius + thickness
    start = np.array(frame.place(*parent.on_edge(joint.edge, 0.0, joint.depth), 0.0))
    axis = float(half.normal @ (start + lift * seen))
    a, b = float(half.normal @ out), float(half.normal @ lift)
    turns = [0.0, joint.angle, *(t for t in (math.atan2(a, -b),) if 0 < t < joint.angle)]
    furthest = max(
        r * (a * math.sin(t) - b * math.cos(t))
        for t in turns
        for r in (joint.radius, joint.radius + thickness)
    )
    low, high = plate.limits
    slope = float(half.normal @ along)
    if abs(slope) < _LEVEL:
        return plate.limits
    end = (half.reach - axis - furthest) / slope
    return (low, min(high, end)) if slope > 0 else (max(low, end), high)
