"""Cutouts that exist only in the flat: they may run across bends, and no folded part shows them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import shapely
from shapely.geometry import LineString, Polygon

from kaigata.core.blank.blank import Blank, BlankBend, Line
from kaigata.core.findings import Finding, Level, counted
from kaigata.core.plane import Contour, Motion, Point, Region
from kaigata.core.plane.tolerance import CHORD, FINE_CHORD, JOIN, LENGTH

__all__ = ["CutoutKind", "FlatCutout", "moved_cutout", "with_cutouts"]

_LEAST_WEB = 0.01
"""Metal there must be between a cutout and what else is cut, mm."""


class CutoutKind(StrEnum):
    """What is cut."""

    HOLE = "hole"
    SLOT = "slot"
    RECTANGLE = "rectangle"


@dataclass(frozen=True, slots=True, kw_only=True)
class FlatCutout:
    """A cutout of the flat.

    Attributes
    ----------
    kind : CutoutKind
        A round hole, a slot with round ends or a rectangle.
    at : Point
        Its middle, mm.
    length : float
        Over all along its own x, mm; of a hole the diameter.
    width : float
        Across that, mm; of a hole nothing.
    turn : float
        How far its own x is turned from that of the flat, degrees.
    """

    kind: CutoutKind
    at: Point
    length: float
    width: float = 0.0
    turn: float = 0.0

    def contour(self) -> Contour:
        """Return its outline."""
        if self.kind is CutoutKind.HOLE:
            return Contour.circle(self.at, self.length / 2)
        if self.kind is CutoutKind.SLOT:
            made = Contour.slot(self.length, self.width)
        else:
            made = Contour.rectangle(self.length, self.width)
            made = made.moved(Motion(x=-self.length / 2, y=-self.width / 2))
        return made.moved(Motion.turned(math.radians(self.turn), x=self.at[0], y=self.at[1]))

    def fault(self) -> str:
        """Return in words what is wrong with its sizes; nothing where they make a shape."""
        if self.length <= LENGTH or (self.kind is not CutoutKind.HOLE and self.width <= LENGTH):
            return "a size of it is not above 0"
        if self.kind is CutoutKind.SLOT and self.length < self.width - LENGTH:
            return f"it is {self.length:.6g} mm long over both round ends and {self.width:.6g} wide"
        return ""


def with_cutouts(blank: Blank, cutouts: Sequence[FlatCutout]) -> Blank:
    """Return a blank with cutouts where there is room for them.

    What was cut is told in a finding, and so is each that was not: one that has no shape, reaches
    over the outline, runs into what else is cut or takes a whole bend. A bend line that one runs
    across is in pieces then.

    Parameters
    ----------
    blank : Blank
        As unfolded.
    cutouts : sequence of FlatCutout
        In its frame.
    """
    holes = list(blank.region.holes)
    metal = blank.region.polygon(CHORD)
    bends = blank.bends
    lost: list[int] = []
    for i, cutout in enumerate(cutouts):
        shape = None if cutout.fault() else Region(cutout.contour()).polygon(FINE_CHORD)
        crossed = None if shape is None else tuple(_crossed(b, shape) for b in bends)
        if (
            shape is None
            or crossed is None
            or not metal.contains(shapely.buffer(shape, _LEAST_WEB))
            or not all(b.lines for b in crossed)
        ):
            lost.append(i)
            continue
        bends = crossed
        holes.append(cutout.contour().reversed())
        metal = metal.difference(shape)
    findings = [*blank.findings]
    if len(lost) < len(cutouts):
        are = counted(len(cutouts) - len(lost), "cutout exists", "cutouts exist")
        first = next(c for i, c in enumerate(cutouts) if i not in lost)
        findings.append(
            Finding(
                level=Level.NOTE,
                code="flat-only",
                text=f"{are} only in the flat: the folded view and the part's solid are without.",
                at=first.at,
            )
        )
    for i in lost:
        cutout = cutouts[i]
        why = cutout.fault() or (
            "it does not lie in the metal, clear of all else that is cut, or takes a whole bend"
        )
        findings.append(
            Finding(
                level=Level.ERROR,
                code="flat-cutout-lost",
                text=f"Cutout {i + 1} of the flat is not cut: {why}. Move it, change its sizes or "
                "take it out.",
                at=cutout.at,
            )
        )
    region = replace(blank.region, holes=tuple(holes))
    made = tuple(c.at for i, c in enumerate(cutouts) if i not in lost)
    return replace(blank, region=region, bends=bends, findings=tuple(findings), flat_only=made)


def _crossed(bend: BlankBend, shape: Polygon) -> BlankBend:
    """Return a bend without what of its line a cutout takes; it keeps its whole span."""
    lines: list[Line] = []
    for a, b in bend.lines:
        rest = LineString([a, b]).difference(shape)
        pieces = [g for g in getattr(rest, "geoms", [rest]) if g.length > JOIN]
        ends = [sorted((g.coords[0], g.coords[-1]), key=lambda p: math.dist(p, a)) for g in pieces]
        ordered = sorted(ends, key=lambda e: math.dist(e[0], a))
        lines += [((p[0], p[1]), (q[0], q[1])) for p, q in ordered]
    return replace(bend, lines=tuple(lines))


def moved_cutout(cutout: FlatCutout, at: Point, motion: Motion) -> FlatCutout:
    """Return a cutout at another place, turned as a motion turns the flat."""
    x, y = motion.heading(
        (math.cos(math.radians(cutout.turn)), math.sin(math.radians(cutout.turn)))
    )
    turn = math.degrees(math.atan2(y, x)) % 180
    return replace(cutout, at=at, turn=round(turn, 6) % 180)
