"""Common cuts: edges of two parts exactly a kerf apart are cut once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
import shapely
from shapely.strtree import STRtree

from kaigata.core.cut.passes import Gap, Pass
from kaigata.core.plane import Contour, Segment
from kaigata.core.plane.tolerance import LENGTH, SAME

__all__ = ["sharing"]

_SHORTEST = 2.0
"""mm: shorter common edges are cut by both."""

_PAST_CORNER = 0.05
"""mm of a common edge that are cut again behind a corner: a machine that keeps the kerf off itself
rounds a corner only when it is told what comes after it."""


def sharing(passes: Sequence[Pass]) -> list[Pass]:
    """Return passes that leave out the straight edges that one before them has cut already.

    Two centre paths that run on each other in opposite directions are the common edge of two
    parts a kerf apart. The later pass begins at the end of such an edge where it was entered on
    one.
    """
    lines = [(i, s) for i, p in enumerate(passes) for s in p.path.segments if s.is_line]
    if not lines:
        return list(passes)
    tree = STRtree([shapely.LineString([s.start, s.end]) for _, s in lines])
    out: list[Pass] = []
    for i, wanted in enumerate(passes):
        entered = _entered_beside(wanted, lines, tree, i)
        out.append(replace(entered, gaps=tuple(_gaps(entered, lines, tree, i))))
    return out


def _entered_beside(
    wanted: Pass, lines: Sequence[tuple[int, Segment]], tree: STRtree, place: int
) -> Pass:
    """Return a pass that is not entered in an edge it leaves out, or just before one.

    A lead longer than what is cut with it would be scrap for nothing: the end of the common edge
    is open already.
    """
    gaps = _gaps(wanted, lines, tree, place)
    ahead = LENGTH + (wanted.lead.length if wanted.lead else 0.0)
    first = next((g for g in gaps if g.start < ahead), None)
    if first is None:
        return wanted
    at, segments = 0.0, list(wanted.path.segments)
    for k, segment in enumerate(segments):
        length = segment.length
        if at + length >= first.end - LENGTH:
            share = min(1.0, (first.end - at) / length)
            rest = [segment.part(share, 1.0)] if share < 1 - LENGTH / length else []
            before = [segment.part(0.0, share)] if share < 1 - LENGTH / length else [segment]
            path = Contour.of_segments([*rest, *segments[k + 1 :], *segments[:k], *before])
            return replace(wanted, lead=None, path=path, over=(), out=None)
        at += length
    return wanted


def _gaps(
    wanted: Pass, lines: Sequence[tuple[int, Segment]], tree: STRtree, place: int
) -> list[Gap]:
    gaps: list[Gap] = []
    at = 0.0
    for segment in wanted.path.segments:
        length = segment.length
        for low, high in _covered(segment, lines, tree, place) if segment.is_line else ():
            x, y = segment.at((low + high) / 2 / length)
            start = at + low
            if gaps and start - gaps[-1].end < LENGTH:
                start = gaps.pop().start
            elif start > LENGTH:
                start = at + max(low, _PAST_CORNER)
            gaps.append(Gap("shared", start, at + high, (x, y)))
        at += length
    return gaps


def _covered(
    segment: Segment, lines: Sequence[tuple[int, Segment]], tree: STRtree, place: int
) -> list[tuple[float, float]]:
    """Return the stretches of a line that passes before it have cut, from its start, mm."""
    line = shapely.LineString([segment.start, segment.end])
    dx, dy = segment.heading(0.0)
    found: list[tuple[float, float]] = []
    for k in np.sort(tree.query(line, predicate="dwithin", distance=SAME)):
        other_place, other = lines[int(k)]
        ox, oy = other.heading(0.0)
        if other_place >= place or ox * dx + oy * dy > -0.5:
            continue
        ends = [((x - segment.start[0]) * dx + (y - segment.start[1]) * dy,
                 abs((x - segment.start[0]) * dy - (y - segment.start[1]) * dx))
                for x, y in (other.end, other.start)]  # fmt: skip
        if max(away for _, away in ends) > SAME:
            continue
        low, high = max(0.0, ends[0][0]), min(segment.length, ends[1][0])
        if high - low >= _SHORTEST:
            found.append((low, high))
    merged: list[tuple[float, float]] = []
    for low, high in sorted(found):
        if merged and low < merged[-1][1] + LENGTH:
            merged[-1] = (merged[-1][0], max(high, merged[-1][1]))
        else:
            merged.append((low, high))
    return merged
