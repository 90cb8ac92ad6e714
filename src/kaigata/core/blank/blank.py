"""The flat blank and its bend lines."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from kaigata.core.findings import Finding
from kaigata.core.metal.allowance import bend_allowance, bend_deduction, outside_setback
from kaigata.core.plane import Motion, Point, Region

__all__ = ["FLAT_ONLY", "IN_THE_SHEET", "Blank", "BlankBend", "BlankMark", "BlankPanel", "Line"]

FLAT_ONLY = "flat only"
"""What a drawing says of a hole that the folded part is without."""
IN_THE_SHEET = ("formed", "crease")
"""Kinds of marks that are formed in the sheet itself, to the one side of it or the other."""

Line = tuple[Point, Point]


@dataclass(frozen=True, slots=True, kw_only=True)
class BlankPanel:
    """A flat region of the blank, by its number, with a point inside it.

    ``motion`` takes the panel from its own frame in the folded part to the blank.
    """

    number: int
    at: Point
    area: float
    region: Region
    motion: Motion


@dataclass(frozen=True, slots=True, kw_only=True)
class BlankBend:
    """A bend as it lies in the blank.

    Attributes
    ----------
    number : int
        Its number in the bend table, from 1.
    line : Line
        Middle of the developed zone, trimmed to the material: the whole span.
    lines : tuple of Line
        The pieces of it that lie on material; one where no cutout interrupts the bend.
    angle : float
        Turn from flat, radians.
    is_up : bool
        Whether the far side of the sheet comes towards the viewer.
    inside_radius, k, thickness : float
        mm, no unit, mm.
    panels : tuple of int
        Numbers of the panels it joins.
    from_edge : float
        Distance from the line to the nearest of the blank's two outermost points across it, mm.
    sequence : int
        Its turn at the brake, from 1.
    origin : str
        Where its allowance comes from.
    place : int
        Its place among the folded part's bends, from 0.
    """

    number: int
    line: Line
    lines: tuple[Line, ...]
    angle: float
    is_up: bool
    inside_radius: float
    k: float
    thickness: float
    panels: tuple[int, ...]
    from_edge: float = 0.0
    sequence: int = 0
    origin: str = ""
    place: int = 0

    @property
    def direction(self) -> str:
        """``up`` or ``down``, seen from the face that lies up."""
        return "up" if self.is_up else "down"

    @property
    def length(self) -> float:
        """Length of the whole span, mm."""
        return math.dist(*self.line)

    @property
    def allowance(self) -> float:
        """Developed length, mm; 0 where the thickness is not known."""
        if self.thickness == 0:
            return 0.0
        return bend_allowance(
            self.angle, inside_radius=self.inside_radius, thickness=self.thickness, k=self.k
        )

    @property
    def deduction(self) -> float:
        """What is taken from the sum of the two outside lengths, mm."""
        if self.thickness == 0:
            return 0.0
        return bend_deduction(
            self.angle, inside_radius=self.inside_radius, thickness=self.thickness, k=self.k
        )

    @property
    def setback(self) -> float:
        """Distance from the bend's tangent line to where the outside faces would meet, mm."""
        return outside_setback(
            self.angle, inside_radius=self.inside_radius, thickness=self.thickness
        )

    @property
    def is_level(self) -> bool:
        """Whether the line lies closer to the x axis than to the y axis."""
        (x0, y0), (x1, y1) = self.line
        return abs(x1 - x0) >= abs(y1 - y0)

    def zone(self) -> tuple[float, float]:
        """Return where the bend zone begins and ends across the line, mm (x, or y if level)."""
        (x0, y0), (x1, y1) = self.line
        middle = (y0 + y1) / 2 if self.is_level else (x0 + x1) / 2
        return (middle - self.allowance / 2, middle + self.allowance / 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class BlankMark:
    """Something marked on the blank and made later: its kind, middle, size in mm and note.

    ``is_near`` tells whether it is made from the face that lies up, or rises over it; None where
    it is the same from both. A line runs from ``at`` to ``end`` and has no diameter.
    """

    kind: str
    at: Point
    diameter: float
    note: str
    is_near: bool | None = None
    end: Point | None = None

    @classmethod
    def said(
        cls,
        text: str,
        *,
        kind: str,
        at: Point,
        diameter: float,
        is_near: bool | None,
        end: Point | None = None,
    ) -> BlankMark:
        """Return the mark that has a text."""
        bare = cls(kind=kind, at=at, diameter=diameter, note="", is_near=is_near, end=end)
        return replace(bare, note=text.removesuffix(bare.text))

    @property
    def middle(self) -> Point:
        """Its middle, of a line too."""
        end = self.end or self.at
        return ((self.at[0] + end[0]) / 2, (self.at[1] + end[1]) / 2)

    @property
    def length(self) -> float:
        """How long it is where it is a line, else 0, mm."""
        return math.dist(self.at, self.end or self.at)

    @property
    def text(self) -> str:
        """The note with the side that it is made from or goes to, as the blank lies."""
        if self.is_near is None:
            return self.note
        if self.kind in IN_THE_SHEET:
            return f"{self.note} {'up' if self.is_near else 'down'}"
        return self.note if self.is_near else f"{self.note}, other side"

    def moved(self, motion: Motion) -> BlankMark:
        """Return the mark after a motion; mirroring shows the other face."""
        is_near = self.is_near
        if is_near is not None:
            is_near = is_near != motion.mirrored
        end = self.end and motion.point(self.end)
        return replace(self, at=motion.point(self.at), is_near=is_near, end=end)


@dataclass(frozen=True, slots=True, kw_only=True)
class Blank:
    """A flat blank: its region, bends and panels, lower left corner at 0,0, mm.

    ``flat_only`` has the middles of holes that are cut in the flat alone.
    """

    name: str
    thickness: float
    region: Region
    bends: tuple[BlankBend, ...]
    panels: tuple[BlankPanel, ...]
    marks: tuple[BlankMark, ...] = ()
    findings: tuple[Finding, ...] = ()
    flat_only: tuple[Point, ...] = ()

    @property
    def width(self) -> float:
        """Overall size along x, mm."""
        x0, _, x1, _ = self.region.outer.bounds
        return x1 - x0

    @property
    def height(self) -> float:
        """Overall size along y, mm."""
        _, y0, _, y1 = self.region.outer.bounds
        return y1 - y0

    def moved(self, motion: Motion) -> Blank:
        """Return the blank after a motion; mirroring shows the other face, so up becomes down."""

        def line(ends: Line) -> Line:
            return (motion.point(ends[0]), motion.point(ends[1]))

        bends = tuple(
            replace(
                b,
                line=line(b.line),
                lines=tuple(line(x) for x in b.lines),
                is_up=b.is_up != motion.mirrored,
            )
            for b in self.bends
        )
        panels = tuple(
            replace(
                p,
                at=motion.point(p.at),
                region=p.region.moved(motion),
                motion=p.motion.then(motion),
            )
            for p in self.panels
        )
        marks = tuple(m.moved(motion) for m in self.marks)
        flat_only = tuple(motion.point(p) for p in self.flat_only)
        findings = tuple(
            replace(
                f,
                at=motion.point(f.at) if f.at else None,
                outline=tuple(motion.point(p) for p in f.outline),
            )
            for f in self.findings
        )
        return replace(
            self,
            region=self.region.moved(motion),
            bends=bends,
            panels=panels,
            marks=marks,
            findings=findings,
            flat_only=flat_only,
        )
