"""Micro-joints: short stretches that are not cut, so that a part stays in its sheet."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cache

import numpy as np
import shapely
from shapely.geometry import LineString
from shapely.geometry import Point as ShapelyPoint
from shapely.strtree import STRtree

from kaigata.core.cut.lead import Scrap
from kaigata.core.cut.passes import CutRules, Gap, Pass, line_of, piece_of
from kaigata.core.errors import InputError
from kaigata.core.plane import Contour, Point, Segment
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
    path = wanted.path
    count = joints_wanted(path, rules)
    spots = list(_spots(path, rules)) if count else []
    if not spots:
        return []
    nominal, lines = wanted.nominal.polygon().exterior, shapely.union_all(list(bends))
    shapely.prepare(nominal)

    @cache
    def joint_at(k: int) -> Gap | None:
        spot = spots[k]
        # A loop round a corner runs through scrap, where a joint would hold nothing.
        beside = shapely.distance(shapely.points(spot.room), nominal)
        is_edge = bool(np.all(np.abs(beside - rules.kerf / 2) < SAME))
        gap = Gap("joint", spot.start, spot.end, spot.on_edge(rules.kerf / 2))
        apart = lines.distance(ShapelyPoint(gap.at)) if bends else math.inf
        return gap if is_edge and apart >= _FROM_BEND + gap.width / 2 and is_held(gap) else None

    low, high = (np.array([getattr(s, end) for s in spots]) for end in ("start", "end"))
    is_free = np.ones(len(spots), dtype=bool)
    for gap in wanted.gaps:
        is_free &= (high < gap.start) | (low > gap.end)
    found: list[Gap] = []
    for i in range(count):
        evenly = path.length * (i + 0.5) / count
        nearest = np.argsort(np.abs((low + high) / 2 - evenly), kind="stable")
        best = next((g for k in nearest if is_free[k] and (g := joint_at(int(k)))), None)
        if best is None:
            break
        found.append(best)
        is_free &= np.abs(low - best.start) > 3 * best.width
    return found


@dataclass(frozen=True, slots=True)
class _Spot:
    """Where a joint might lie: from a length to another along the path, mm.

    Its middle is ``along`` a segment of the path, with room of ``keep`` to both sides.
    """

    start: float
    end: float
    segment: Segment
    along: float
    keep: float

    @property
    def room(self) -> list[Point]:
        """The path's points where the joint's room begins, in its middle and where it ends."""
        length = self.segment.length
        return [self.segment.at((self.along + d) / length) for d in (-self.keep, 0.0, self.keep)]

    def on_edge(self, half_kerf: float) -> Point:
        """Return the joint's middle on the part's edge."""
        share = self.along / self.segment.length
        (x, y), (dx, dy) = self.segment.at(share), self.segment.heading(share)
        return (x - dy * half_kerf, y + dx * half_kerf)


def _spots(path: Contour, rules: CutRules) -> Iterator[_Spot]:
    """Yield where joints might lie on edges by themselves, clear of corners and the entry."""
    half = rules.kerf / 2
    whole, at = path.length, 0.0
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
            middle = at + along
            if min(middle, whole - middle) >= _FROM_ENTRY + width:
                yield _Spot(middle - width / 2, middle + width / 2, segment, along, keep)
        at += length
