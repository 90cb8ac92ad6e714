"""Laying the pieces of a folded part out in one plane."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from shapely.geometry import Point as Point2

from kaigata.core.errors import InputError
from kaigata.core.metal.charts import BendTake
from kaigata.core.part import FoldedPart, PieceEdge
from kaigata.core.plane import Motion, Point, Region, Segment
from kaigata.core.plane.chain import closed_contours
from kaigata.core.plane.fit import fit_segments
from kaigata.core.plane.tolerance import CHORD, JOIN

__all__ = ["Layout", "Step", "lay_out"]


@dataclass(frozen=True, slots=True)
class Step:
    """How a piece was reached: from which other piece, across which edge."""

    piece: int
    parent: int | None
    edge: int | None


@dataclass(frozen=True)
class Layout:
    """Every piece of a part in the flat.

    Attributes
    ----------
    part : FoldedPart
        The part.
    motions : tuple of Motion
        For each piece the motion from its developed frame into the flat.
    steps : tuple of Step
        The pieces in the order they were laid, the anchor first.
    takes : tuple of BendTake
        What each bend takes, in the order of the part's bends.
    """

    part: FoldedPart
    motions: tuple[Motion, ...]
    steps: tuple[Step, ...]
    takes: tuple[BendTake, ...]

    def take(self, piece: int) -> BendTake:
        """Return what a bend takes, by its place in the part's pieces."""
        return self.takes[piece - len(self.part.panels)]

    def run(self, piece: int, edge: PieceEdge) -> list[Segment]:
        """Return an edge of a piece as segments of the flat."""
        to_flat = _flattener(self.part, piece, self.takes)
        motion = self.motions[piece]
        ends = [
            Segment(motion.point(to_flat(s.start)), motion.point(to_flat(s.end)), s.bulge)
            for s in edge.run
        ]
        if not edge.free:
            return ends
        return fit_segments([ends[0].start, *(s.end for s in ends)])

    def point(self, piece: int, p: Point) -> Point:
        """Return where a point of a piece's own frame lies in the flat."""
        return self.motions[piece].point(_flattener(self.part, piece, self.takes)(p))

    def region(self) -> Region:
        """Return the outline and holes of the whole blank, as laid.

        Where a bend without a relief lies against a panel beside it, the two are one there.
        """
        meetings = self.part.meetings
        rim = [
            (i, e) for i, piece in enumerate(self.part.pieces) for e in piece.edges
            if len(meetings[e.number]) == 1
        ]  # fmt: skip
        whole = _largest(_regions([self.run(i, e) for i, e in rim]))
        return Region(whole.outer.without_spikes(), whole.holes)

    def piece_regions(self, piece: int) -> list[Region]:
        """Return where one piece lies: several regions where a cutout divides a bend."""
        return _regions([self.run(piece, e) for e in self.part.pieces[piece].edges])


def lay_out(part: FoldedPart, *, takes: Sequence[BendTake], anchor: int = 0) -> Layout:
    """Lay every piece beside the one it joins, from the anchor panel on.

    Parameters
    ----------
    part : FoldedPart
        The part.
    takes : sequence of BendTake
        What each bend takes, in the order of the part's bends.
    anchor : int
        Place of the panel that stays put in ``part.panels``.

    Returns
    -------
    Layout
        Where every piece lies; the anchor lies in its own frame.

    Raises
    ------
    InputError
        The pieces close a ring that does not close in the flat, so nothing can be laid flat.
    """
    pieces, meetings = part.pieces, part.meetings
    motions: dict[int, Motion] = {anchor: Motion()}
    steps = [Step(anchor, None, None)]
    for step in steps:
        for edge in pieces[step.piece].edges:
            if edge.torn:
                continue
            for other, same in meetings[edge.number]:
                if other == step.piece:
                    continue
                here = _ends(part, step.piece, edge, motions[step.piece], takes)
                there = _ends(part, other, same, Motion(), takes)
                if other in motions:
                    _require_meeting(part, here, _ends(part, other, same, motions[other], takes))
                    continue
                motions[other] = Motion.taking(
                    there[1], _towards(there[1], there[0]), to=here[0], along=_towards(*here)
                )
                steps.append(Step(other, step.piece, edge.number))
    if len(motions) < len(pieces):
        raise InputError(
            f"{len(pieces) - len(motions)} of {len(pieces)} panels and bends do not hang together",
            fix="Each panel must join the next along a bend",
        )
    return Layout(part, tuple(motions[i] for i in range(len(pieces))), tuple(steps), tuple(takes))


def _flattener(part: FoldedPart, piece: int, takes: Sequence[BendTake]) -> Callable[[Point], Point]:
    first = len(part.panels)
    if piece < first:
        return lambda p: p
    rho = takes[piece - first].spread / part.bends[piece - first].angle
    return lambda p: (p[0] * rho, p[1])


def _ends(
    part: FoldedPart, piece: int, edge: PieceEdge, motion: Motion, takes: Sequence[BendTake]
) -> tuple[Point, Point]:
    flat = _flattener(part, piece, takes)
    return (motion.point(flat(edge.run[0].start)), motion.point(flat(edge.run[-1].end)))


def _towards(a: Point, b: Point) -> Point:
    n = math.dist(a, b)
    return ((b[0] - a[0]) / n, (b[1] - a[1]) / n)


def _require_meeting(
    part: FoldedPart, here: tuple[Point, Point], there: tuple[Point, Point]
) -> None:
    gap = max(math.dist(here[0], there[1]), math.dist(here[1], there[0]))
    if gap > JOIN:
        raise InputError(
            f"its panels close a ring (a tube or a box without an open corner), and laid flat "
            f"its ends come {gap:.2f} mm apart",
            where=part.name,
            fix="Model one seam or corner open by a gap",
        )


def _regions(runs: list[list[Segment]]) -> list[Region]:
    """Return the regions that boundary edges enclose."""
    loops = closed_contours(runs)
    outers = [c for c in loops if c.area > 0]
    holes = [c for c in loops if c.area < 0]
    if len(outers) == 1:
        return [Region(outers[0], tuple(holes))]
    shapes = [c.polygon(CHORD) for c in outers]
    return [
        Region(c, tuple(h for h in holes if shape.contains(Point2(h.vertices[0][:2]))))
        for c, shape in zip(outers, shapes, strict=True)
    ]


def _largest(regions: list[Region]) -> Region:
    return max(regions, key=lambda r: r.outer.area)
