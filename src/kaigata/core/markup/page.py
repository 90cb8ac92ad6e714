"""What lies on a sheet of paper: strokes, fills, words and pictures, mm of paper, y upwards."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
import numpy.typing as npt

from kaigata.core.plane import Point, Segment

__all__ = [
    "LAID",
    "PAPERS",
    "Anchor",
    "Box",
    "Face",
    "Fill",
    "Page",
    "Pen",
    "Picture",
    "Stroke",
    "Words",
]

PAPERS = {
    "A4": (297.0, 210.0),
    "A3": (420.0, 297.0),
    "A2": (594.0, 420.0),
    "A1": (841.0, 594.0),
    "letter": (279.4, 215.9),
    "tabloid": (431.8, 279.4),
    "C": (558.8, 431.8),
    "D": (863.6, 558.8),
}
"""Papers of ISO 216 and of ANSI/ASME Y14.1, lying: width and height, mm."""


class Pen(StrEnum):
    """What a stroke stands for, which decides how wide and dashed it is drawn."""

    CUT = "cut"
    BEND_UP = "bend-up"
    BEND_DOWN = "bend-down"
    MARK = "mark"
    EDGE = "edge"
    TANGENT = "tangent"
    PATH = "path"
    HIDDEN = "hidden"
    DIMENSION = "dimension"
    RULE = "rule"
    FRAME = "frame"


LAID: dict[Pen, tuple[float, tuple[float, ...]]] = {
    Pen.CUT: (0.5, ()),
    Pen.BEND_UP: (0.25, (5.0, 1.6)),
    Pen.BEND_DOWN: (0.25, (5.0, 1.2, 0.4, 1.2)),
    Pen.MARK: (0.25, (0.4, 0.8)),
    Pen.EDGE: (0.35, ()),
    Pen.TANGENT: (0.13, ()),
    Pen.PATH: (0.13, (4.0, 1.0, 0.4, 1.0)),
    Pen.HIDDEN: (0.18, (1.8, 0.9)),
    Pen.DIMENSION: (0.18, ()),
    Pen.RULE: (0.18, ()),
    Pen.FRAME: (0.5, ()),
}
"""Width of each pen and its dashes, on and off in turn, mm of paper."""


class Face(StrEnum):
    """A face of type: words, or figures, which stand in columns."""

    WORDS = "words"
    STRONG = "strong"
    FIGURES = "figures"
    STRONG_FIGURES = "strong figures"


class Anchor(StrEnum):
    """Which end of a text its place is."""

    START = "start"
    MIDDLE = "middle"
    END = "end"


@dataclass(frozen=True, slots=True, kw_only=True)
class Stroke:
    """A run of lines and arcs, each beginning where the one before ends."""

    pen: Pen
    run: tuple[Segment, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Fill:
    """A small filled polygon: an arrow head, a triangle; open ones show only their edge."""

    points: tuple[Point, ...]
    is_open: bool = False
    is_clear: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Words:
    """A text at a place: the middle of its height, and an end or the middle of its length.

    ``size`` is that of the type, mm; ``turn`` counter-clockwise in radians; a clear text has paper
    behind it, so that no line runs through it.
    """

    text: str
    at: Point
    size: float = 2.5
    face: Face = Face.WORDS
    anchor: Anchor = Anchor.START
    turn: float = 0.0
    is_clear: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Box:
    """A rectangle on the paper."""

    left: float
    bottom: float
    right: float
    top: float

    @property
    def width(self) -> float:
        """Its width, mm."""
        return self.right - self.left

    @property
    def height(self) -> float:
        """Its height, mm."""
        return self.top - self.bottom

    def within(
        self, left: float = 0.0, bottom: float = 0.0, right: float = 0.0, top: float = 0.0
    ) -> Box:
        """Return the box less a strip at each side."""
        return Box(
            left=self.left + left,
            bottom=self.bottom + bottom,
            right=self.right - right,
            top=self.top - top,
        )

    @property
    def corners(self) -> tuple[float, float, float, float]:
        """Its lower left and upper right, ``(x0, y0, x1, y1)``."""
        return (self.left, self.bottom, self.right, self.top)

    def holds(self, other: Box) -> bool:
        """Whether another box lies within it."""
        return (
            self.left <= other.left
            and self.bottom <= other.bottom
            and other.right <= self.right
            and other.top <= self.top
        )

    def meets(self, other: Box) -> bool:
        """Whether two boxes overlap."""
        return (
            self.left < other.right
            and other.left < self.right
            and self.bottom < other.top
            and other.bottom < self.top
        )


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Picture:
    """Tones in a box: grey from black, 0, to that of the paper, 255; the top row first."""

    box: Box
    tones: npt.NDArray[np.uint8]


@dataclass(slots=True)
class Page:
    """A sheet of paper being drawn on; ``width`` and ``height`` mm.

    Of a page with a ``window`` strokes show only within it. Pictures lie under all else.
    """

    width: float
    height: float
    window: Box | None = None
    pictures: list[Picture] = field(default_factory=list)
    strokes: list[Stroke] = field(default_factory=list)
    fills: list[Fill] = field(default_factory=list)
    words: list[Words] = field(default_factory=list)

    def line(self, a: Point, b: Point, pen: Pen) -> None:
        """Draw a straight line; one of no length is left out."""
        if math.dist(a, b) > 0:
            self.strokes.append(Stroke(pen=pen, run=(Segment(a, b),)))

    def lines(self, points: Sequence[Point], pen: Pen, *, closed: bool = False) -> None:
        """Draw straight lines from point to point."""
        ends = [*points[1:], points[0]] if closed else points[1:]
        run = tuple(Segment(a, b) for a, b in zip(points, ends, strict=False) if a != b)
        if run:
            self.strokes.append(Stroke(pen=pen, run=run))

    def run(self, segments: Iterable[Segment], pen: Pen) -> None:
        """Draw a run of lines and arcs."""
        self.strokes.append(Stroke(pen=pen, run=tuple(segments)))

    def box(self, box: Box, pen: Pen) -> None:
        """Draw a rectangle."""
        self.lines(
            [(box.left, box.bottom), (box.right, box.bottom), (box.right, box.top),
             (box.left, box.top)],
            pen, closed=True,
        )  # fmt: skip
