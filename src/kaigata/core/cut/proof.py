"""Comparing what a program does with the nominal parts, before it is given out."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
import numpy.typing as npt
import shapely
from numba import njit
from shapely.geometry import LineString, MultiLineString, Point, Polygon
from shapely.strtree import STRtree

from kaigata.core.cut.passes import Pass, ToolPath
from kaigata.core.cut.rims import Rims
from kaigata.core.plane import Region, Segment
from kaigata.core.plane.tolerance import CODE, FINE_CHORD

__all__ = ["Cut", "Proof", "prove"]

Floats = npt.NDArray[np.float64]

_NEAR = 6
"""Chords to either side that are looked at before the whole ring is."""

_ROUND = 128
"""Chords to a quarter turn of the region grown here by half a kerf."""

_STEP = 5.0
"""mm: edges are tested at this step, and at every corner."""

_ENOUGH = 2 * FINE_CHORD
"""mm: chords may make a good place seem this much farther than it is."""


class Cut(Protocol):
    """What a program does without a stop: all of it, and the loop it closes, if it closes one."""

    @property
    def is_mark(self) -> bool:
        """Whether it only marks."""

    @property
    def segments(self) -> Sequence[Segment]:
        """All of it."""

    @property
    def loop(self) -> Sequence[Segment]:
        """The longest stretch of it that ends where it began."""


@dataclass(frozen=True, slots=True)
class Proof:
    """What comparing gave: largest deviation of a cut edge, mm, and how many contours agree."""

    largest_deviation: float
    contours: int
    fault: str = ""

    @property
    def ok(self) -> bool:
        """Whether the program may be given out."""
        return not self.fault


def prove(path: ToolPath, done: Sequence[Cut], regions: Sequence[Region], edge: Polygon) -> Proof:
    """Compare what was read back from a program with the parts it must leave.

    Nothing that is cut, leads and cuts through scrap among it, may come nearer to any part than
    half the kerf; every edge of a part that the kerf can reach must be cut, but for its joints;
    a contour without gaps must close, and the stretches of others begin and end in their places;
    nothing may leave the sheet. What the kerf can reach is found by a general polygon library, not
    by the offset that made the path.

    Parameters
    ----------
    path : ToolPath
        What was to be done.
    done : sequence of Cut
        What the program does: for each run its segments, and the loop it closes.
    regions : sequence of Region
        The parts where they lie, as ``placed_on`` gives them.
    edge : Polygon
        The sheet.

    Returns
    -------
    Proof
        With a fault, where there is one, that names the contour.
    """
    if len(done) != len(path.runs):
        fault = f"the program has {len(done)} stretches, the path {len(path.runs)}"
        return Proof(0.0, 0, fault)
    lines = [_line(cut.segments) for cut in done]
    cuts = [i for i, run in enumerate(path.runs) if run.kind != "mark"]
    fault = (
        _wrong_marks(path, done, lines)
        or _outside(path, lines, edge)
        or _into_parts(path, [(i, lines[i]) for i in cuts], regions)
    )
    if fault:
        return Proof(0.0, 0, fault)
    of_pass: dict[int, list[int]] = {}
    for i, run in enumerate(path.runs):
        if run.kind == "cut":
            of_pass.setdefault(run.of, []).append(i)
    joints = [_line(p.left_out(g)) for p in path.passes for g in p.gaps if g.kind == "joint"]
    served = STRtree([*(lines[i] for i in cuts), *joints])
    largest = 0.0
    for at, wanted in enumerate(path.passes):
        own = of_pass.get(at, [])
        found, fault = _deviation(
            wanted, [done[i] for i in own], [lines[i] for i in own], path.rules.kerf / 2, served
        )
        largest = max(largest, found)
        fault = fault or (_wrong_ends(path, done, own) if wanted.gaps else "")
        if fault:
            return Proof(largest, 0, f"{_name(wanted)} {fault}")
    return Proof(largest, len(path.passes))


def _line(segments: Sequence[Segment]) -> LineString:
    line: LineString = shapely.linestrings(_points(segments))
    return line


def _points(segments: Sequence[Segment]) -> Floats:
    """Return a run as points, chords in the place of its arcs."""
    return np.array([segments[0].start, *(p for s in segments for p in s.flattened(FINE_CHORD))])


def _name(wanted: Pass) -> str:
    return f"{wanted.part} copy {wanted.copy} {wanted.name}"


def _wrong_marks(path: ToolPath, done: Sequence[Cut], lines: Sequence[LineString]) -> str:
    """Return what is wrong with marks: one that is cut, or is not where it was to be."""
    for run, cut, line in zip(path.runs, done, lines, strict=True):
        if cut.is_mark != (run.kind == "mark"):
            return f"a {run.kind} stretch is {'marked' if cut.is_mark else 'cut'}"
        if run.kind == "cut":
            continue
        off = shapely.hausdorff_distance(line, _line(run.segments))
        if off > CODE:
            return f"a {run.kind} stretch runs {off:.4f} mm beside its line"
    return ""


def _outside(path: ToolPath, lines: Sequence[LineString], edge: Polygon) -> str:
    """Return where a mark, or what a cut takes away, leaves the sheet, if one does."""
    half = path.rules.kerf / 2
    board = edge.buffer(CODE, join_style="mitre")
    inner = edge.buffer(CODE - half, join_style="mitre")
    shapely.prepare([board, inner])
    for run, line in zip(path.runs, lines, strict=True):
        room = board if run.kind == "mark" else inner
        if not room.covers(line):
            x, y = line.difference(room).representative_point().coords[0]
            return f"a {run.kind} stretch leaves the sheet at {x:.2f}, {y:.2f}"
    return ""


def _into_parts(
    path: ToolPath, cuts: Sequence[tuple[int, LineString]], regions: Sequence[Region]
) -> str:
    """Return which cut comes nearer to a part than half the kerf, if one does."""
    half = path.rules.kerf / 2
    lines, parts = [line for _, line in cuts], [r.polygon() for r in regions]
    near = Rims(parts).touched(lines, half - CODE)
    if not near.size:
        # What comes near no contour lies in a part as a whole, or not at all.
        near = STRtree(parts).query([Point(x.coords[0]) for x in lines], predicate="within").T
    if not near.size:
        return ""
    cut, part = near[0]
    run, line = path.runs[cuts[cut][0]], cuts[cut][1]
    depth = half - float(shapely.distance(line, parts[part]))
    x, y = shapely.shortest_line(line, parts[part]).coords[1]
    name = _name(path.passes[run.of]) if run.kind == "cut" else "a cut through scrap"
    return f"{name} cuts {depth:.3f} mm into a part at {x:.2f}, {y:.2f}: it is off its size"


def _wrong_ends(path: ToolPath, done: Sequence[Cut], own: Sequence[int]) -> str:
    """Return how far a stretch between gaps begins or ends beside its place, if one does."""
    for i in own:
        have, want = done[i].segments, path.runs[i].segments
        ends = ((have[0].start, want[0].start), (have[-1].end, want[-1].end))
        off = max(math.dist(a, b) for a, b in ends)
        if off > CODE:
            return f"begins or ends a stretch {off:.3f} mm beside its place"
    return ""


def _deviation(
    wanted: Pass,
    cuts: Sequence[Cut],
    lines: Sequence[LineString],
    half: float,
    served: STRtree,
) -> tuple[float, str]:
    """Return how far the finished edge of a contour strays from nominal, and what is wrong.

    ``served`` holds all that is cut, and the stretches that are left for joints.
    """
    shape = wanted.nominal.polygon().buffer(
        half if wanted.name == "outer" else -half, quad_segs=_ROUND
    )
    rings = [LineString(Polygon(g).exterior) for g in getattr(shape, "geoms", [shape])]
    # Where common edges leave nothing to cut, its own path tells which ring is meant.
    own = lines[0] if lines else LineString(wanted.path.flattened(CODE))
    middle = own.interpolate(0.5, normalized=True)
    ring = min(rings, key=lambda r: float(shapely.distance(r, middle)))
    ways = shapely.get_coordinates(ring.segmentize(_STEP))
    edge = _points(wanted.nominal.segments)
    if not wanted.gaps:
        if not cuts[0].loop:
            return 0.0, "is not closed"
        loop = _points(cuts[0].loop)
        found = float(_farthest(ways, edge, loop, half, _ENOUGH))
        return found, f"is cut {found:.4f} mm off its size" if found > CODE else ""
    feet = shapely.points(_feet(ways, edge, half + _ENOUGH))
    away = np.full(len(feet), wanted.path.length)
    if lines:
        away = np.abs(shapely.distance(feet, MultiLineString(list(lines))) - half)
    # What its own cut leaves may be another's, a common edge, or a joint of either.
    left = np.flatnonzero(away > CODE)
    if len(left):
        there, _ = served.query(feet[left], predicate="dwithin", distance=half + CODE)
        away[left[np.unique(there)]] = 0.0
    found = float(away.max())
    return found, f"is left uncut over {found:.3f} mm and more" if found > CODE else ""


@njit(cache=True)
def _nearest(x: float, y: float, ring: Floats, at: int, enough: float) -> tuple[int, float, float]:
    """Return the chord of a closed run that is nearest to a point, and the nearest point on it.

    It is looked for near the chord ``at`` first; only where nothing is within ``enough`` there is
    the whole run looked at.
    """
    n = len(ring) - 1
    best, nearest, px, py = np.inf, at, 0.0, 0.0
    for span in (_NEAR, n):
        for step in range(-span, span + 1) if span < n else range(n):
            k = (at + step) % n
            ax, ay = ring[k]
            dx, dy = ring[k + 1, 0] - ax, ring[k + 1, 1] - ay
            length = dx * dx + dy * dy
            t = 0.0
            if length > 0.0:
                t = min(1.0, max(0.0, ((x - ax) * dx + (y - ay) * dy) / length))
            apart = math.hypot(x - ax - t * dx, y - ay - t * dy)
            if apart < best:
                best, nearest, px, py = apart, k, ax + t * dx, ay + t * dy
        if best <= enough:
            break
    return nearest, px, py


@njit(cache=True)
def _feet(points: Floats, ring: Floats, enough: float) -> Floats:
    """Return the point of a closed run of chords that is nearest to each of some points."""
    out, at = np.empty_like(points), 0
    for p in range(len(points)):
        at, out[p, 0], out[p, 1] = _nearest(points[p, 0], points[p, 1], ring, at, enough)
    return out


@njit(cache=True)
def _farthest(ways: Floats, edge: Floats, loop: Floats, half: float, slack: float) -> float:
    """Return how far the cut of an edge lies from where it should at most.

    ``ways`` run half a kerf beside the edge wherever the kerf can reach; the edge's points nearest
    to them must lie half a kerf from the loop that is cut. That nothing comes nearer than that is
    tested elsewhere, so a near chord that is good enough need not be the nearest of all.
    """
    feet, at, worst = _feet(ways, edge, half + slack), 0, 0.0
    for p in range(len(feet)):
        x, y = feet[p]
        at, px, py = _nearest(x, y, loop, at, half + slack)
        worst = max(worst, abs(math.hypot(x - px, y - py) - half))
    return worst
