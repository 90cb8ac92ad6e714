"""Corners of a blank rounded or chamfered for safe handling, its bends left whole."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from shapely.geometry import LineString, Polygon

from kaigata.core.blank.blank import Blank, BlankBend
from kaigata.core.blank.pose import gauge
from kaigata.core.findings import Finding, Level, counted
from kaigata.core.plane import Point
from kaigata.core.plane.corners import CornerKind, CornerSide, treated
from kaigata.core.plane.tolerance import JOIN

__all__ = ["CornerRule", "with_corners"]

_WORD = {CornerKind.ROUND: "rounded", CornerKind.CHAMFER: "chamfered"}


@dataclass(frozen=True, slots=True, kw_only=True)
class CornerRule:
    """What becomes of which corners.

    ``size`` is the radius of a round or what a chamfer takes of each edge, mm; only corners within
    0.5 mm of one of ``chosen`` are meant, all when there is none.
    """

    kind: CornerKind
    size: float
    side: CornerSide = CornerSide.OUTSIDE
    chosen: tuple[Point, ...] = ()


def with_corners(blank: Blank, rules: Sequence[CornerRule]) -> Blank:
    """Return a blank with its corners treated, where it lay.

    What was done is told in a finding for each rule. A corner is left sharp where there is no room
    and where it lies in a bend or at the end of one: a bend line stays as long as it was, and
    metal beside its end would be torn. Where an outermost tip is taken off, the bends are gauged
    from what is outermost now, and the lower left corner may lie off 0,0.

    Parameters
    ----------
    blank : Blank
        As unfolded.
    rules : sequence of CornerRule
        Done one after the other, places in the frame of ``blank``.
    """
    for rule in rules:
        blank = _treated(blank, rule)
    return gauge(blank)


def _treated(blank: Blank, rule: CornerRule) -> Blank:
    region, count, left = treated(
        blank.region,
        rule.size,
        kind=rule.kind,
        side=rule.side,
        chosen=rule.chosen,
        keep=[_strip(b, rule.size) for b in blank.bends],
    )
    corners = counted(count, "corner is", "corners are")
    text = f"{corners} {_WORD[rule.kind]} by {rule.size:g} mm in the flat, not in the model."
    if left:
        text += f" Left sharp for want of room, or at a bend: {len(left)}."
    missed = len(rule.chosen) - count - len(left)
    if missed > 0:
        text += f" Chosen, but no such corner there: {missed}. Choose anew or another side."
    note = Finding(
        level=Level.NOTE, code="corners-treated", text=text, at=left[0] if left else None
    )
    return replace(blank, region=region, findings=(*blank.findings, note))


def _strip(bend: BlankBend, reach: float) -> Polygon:
    """Return a bend's zone, drawn out by a reach beyond its ends."""
    (ax, ay), (bx, by) = bend.line
    dx, dy = (bx - ax) / bend.length * reach, (by - ay) / bend.length * reach
    # A fold of card takes no width and is to stay as long as it is, too.
    half = max(bend.allowance / 2, JOIN)
    line = LineString([(ax - dx, ay - dy), (bx + dx, by + dy)])
    return line.buffer(half, cap_style="flat")
