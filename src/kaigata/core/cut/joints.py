"""Micro-joints: short stretches that are not cut, so that a part stays in its sheet."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cache

import numpy as np
import shapely
from shapely.geometry import LineString
from shapely.geometry import Point as ShapelyPoint
from shapely.geometry.base import BaseGeometry
from shapely.strtree import STRtree

from kaigata.core.cut.lead import Scrap
from kaigata.core.cut.passes import CutRules, Gap, Pass, line_of, piece_of
from kaigata.core.errors import InputError
from kaigata.core.plane import Contour, Point
from kaigata.core.plane.tolerance import SAME

__all__ = ["jointed", "joints_wanted", "require_joints"]

_FROM_ENTRY = 4.0
"""mm: a joint keeps this far from where the contour is entered."""

_FROM_BEND = 3.0
"""mm: and this far from a bend line."""

_STEP = 1.0
"""mm: places are looked for at this step."""


def require_joints(rules: CutRules) -> None:
    """Refuse joints that would hold nothing.

    Raises
    ------
    InputError
        A joint is not wider than the kerf: the beam takes it away from both sides.
    """
    if rules.has_joints and rules.joint_width <= rules.kerf:
        raise InputError(
            f"a micro-joint of {rules.joint_width:g} mm is not wider than the kerf of "
            f"{rules.kerf:g} mm and holds nothing",
            where="cut chart",
            fix="Make the joints wider or choose a finer process",
        )


def joints_wanted(path: Contour, rules: CutRules) -> int:
    """Return how many joints the chart asks for along an outline's path."""
    if not rules.has_joints:
        return 0
    return int(rules.joint_count or max(1, math.floor(path.length / rules.joint_spacing)))


def jointed(
    passes: Sequence[Pass], rules: CutRules, bends: Sequence[Sequence[LineString]], scrap: Scrap
) -> list[Pass]:
    """Return passes, outlines with their micro-joints; none on an edge that another cut serves.

    A joint reaches through the kerf to what lies beyond: skeleton, or the part on the other side
    of a common cut.

    Parameters
    ----------
    passes : sequence of Pass
        In their order, with what common cuts leave out.
    rules : CutRules
        Width of a joint along the edge, and how many or how far apart.
    bends : sequence of sequence of LineString
        The bend lines of each part on the sheet.
    scrap : Scrap
        What the cuts round parts leave.
    """
    common = [
        (p.placement, line_of(p.left_out(g)).buffer(2 * SAME))
        for p in passes
        for g in p.gaps
        if g.kind == "shared"
    ]
    tree = STRtree([edge for _, edge in common])
    trim = rules.kerf / 2

    def with_joints(wanted: Pass) -> Pass:
        def is_held(gap: Gap) -> bool:
            # The beam rounds off the ends of a joint.
            core = line_of(tuple(piece_of(wanted.path.segments, gap.start + trim, gap.end - trim)))
            beside = {common[int(k)][0] for k in tree.query(core, predicate="covered_by")}
            return scrap.stays(core.offset_curve(-trim - SAME), kerf=rules.kerf, beside=beside)

        joints = _joints_of(wanted, rules, bends[wanted.placement], is_held)
        return replace(wanted, gaps=tuple(sorted((*wanted.gaps, *joints), key=lambda g: g.start)))

    return [with_joints(p) if p.name == "outer" else p for p in passes]


def _joints_of(
    wanted: Pass, rules: CutRules, bends: Sequence[LineString], is_held: Callable[[Gap], bool]
) -> list[Gap]:
    """Return the joints along an outline's path, evenly spread as far as its edges allow.

    They lie on straight edges (on arcs only if the chart asks for it), clear of corners, of the
    entry and of bend lines, and never where the path runs out through scrap to turn a corner.
    There may be fewer than wanted.
    """
    path, taken = wanted.path, wanted.gaps
    count = joints_wanted(path, rules)
    if not count:
        return []
    places = [
        place
        for place in _places(
            path, wanted.nominal, rules, shapely.union_all(list(bends)) if bends else None
        )
        if all(place.end < g.start or place.start > g.end for g in taken)
    ]
    is_held = cache(is_held)
    found: list[Gap] = []
    for i in range(count):
        evenly = path.length * (i + 0.5) / count
        free = [g for g in places if all(abs(g.start - f.start) > 3 * g.width for f in found)]
        free.sort(key=lambda g: abs(g.start + g.width / 2 - evenly))
        best = next((g for g in free if is_held(g)), None)
        if best is None:
            break
        found.append(best)
    return found


def _places(
    path: Contour, nominal: Contour, rules: CutRules, bends: BaseGeometry | None
) -> list[Gap]:
    half = rules.kerf / 2
    places: list[Gap] = []
    # Of each place: the path's points where the joint's room begins, in its middle, where it ends.
    rooms: list[list[Point]] = []
    at = 0.0
    for segment in path.segments:
        length = segment.length
        width = rules.joint_width
        if not segment.is_line:
            # The edge lies half a kerf to the left of the path, so it is shorter or longer there.
            edge = segment.radius + (-half if segment.bulge > 0 else half)
            width *= segment.radius / edge if edge > half else 0.0
        keep = width / 2 + 2 * rules.kerf
        is_usable = (segment.is_line or rules.joint_arcs == "yes") and width > 0
        steps = int((length - 2 * keep) / _STEP) if is_usable else -1
        for k in range(max(steps, 0) + 1 if length > 2 * keep and is_usable else 0):
            along = keep + (length - 2 * keep) * (k / steps if steps > 0 else 0.5)
            x, y = segment.at(along / length)
            dx, dy = segment.heading(along / length)
            edge_point = (x - dy * half, y + dx * half)
            middle = at + along
            if min(middle, path.length - middle) < _FROM_ENTRY + width:
                continue
            if bends is not None and bends.distance(ShapelyPoint(edge_point)) < (
                _FROM_BEND + width / 2
            ):
                continue
            places.append(Gap("joint", middle - width / 2, middle + width / 2, edge_point))
            rooms.append([segment.at((along + d) / length) for d in (-keep, 0.0, keep)])
        at += length
    if not places:
        return []
    # A loop round a corner runs through scrap, where a joint would hold nothing.
    beside = shapely.distance(shapely.points(rooms), nominal.polygon().exterior)
    holds = np.all(np.abs(beside - half) < SAME, axis=1)
    return [place for place, is_held in zip(places, holds, strict=True) if is_held]
