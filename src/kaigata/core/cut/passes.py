"""What the tool does on a sheet: marks, passes round contours, and cuts through scrap."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from shapely.geometry import LineString

from kaigata.core.findings import Finding
from kaigata.core.metal.stores import CutChartRow
from kaigata.core.plane import Contour, Point, Segment
from kaigata.core.plane.tolerance import LENGTH, SAME

__all__ = ["CutRules", "Gap", "Pass", "Run", "Stroke", "ToolPath", "line_of", "piece_of"]

CutRules = CutChartRow

_SHARP = math.radians(20)
"""The head stops at corners sharper than this."""


@dataclass(frozen=True, slots=True)
class Gap:
    """A stretch of a pass that is not cut, from a length to another along its path, mm.

    ``kind`` is ``joint`` for a micro-joint, ``shared`` where another part's cut serves both; ``at``
    is the middle on the part's edge.
    """

    kind: str
    start: float
    end: float
    at: Point

    @property
    def width(self) -> float:
        """How long it is, mm."""
        return self.end - self.start


@dataclass(frozen=True, slots=True)
class Pass:
    """From a pierce to the beam's end: an optional lead, once round a contour, a way out.

    ``nominal`` is the contour of the part that it cuts, where it lies on the sheet; ``over`` is
    the stretch cut twice after closing; ``speed`` is the share of the feed it is cut at; ``gaps``
    lie along the path in order; ``placement`` is the part's place among those of the sheet.
    """

    part: str
    copy: int
    name: str
    lead: Segment | None
    path: Contour
    nominal: Contour
    over: tuple[Segment, ...] = ()
    out: Segment | None = None
    speed: float = 1.0
    gaps: tuple[Gap, ...] = ()
    placement: int = 0

    @property
    def spans(self) -> list[tuple[float, float]]:
        """From where to where along the path it is cut without a stop, mm."""
        marks = [0.0, *(x for g in self.gaps for x in (g.start, g.end)), self.path.length]
        return [
            (low, high)
            for low, high in zip(marks[::2], marks[1::2], strict=True)
            if high - low > LENGTH
        ]

    @property
    def stretches(self) -> list[tuple[Segment, ...]]:
        """What is cut without a stop: the whole pass, or what lies between its gaps."""
        found = []
        for low, high in self.spans:
            first = (self.lead,) if self.lead and low == 0.0 else ()
            last = (*self.over, *((self.out,) if self.out else ()))
            own = piece_of(self.path.segments, low, high)
            found.append((*first, *own, *(last if high == self.path.length else ())))
        return found

    def left_out(self, gap: Gap) -> tuple[Segment, ...]:
        """Return the stretch of the path that a gap leaves out."""
        return tuple(piece_of(self.path.segments, gap.start, gap.end))

    @property
    def pierce(self) -> Point:
        """Where the beam starts."""
        return self.lead.start if self.lead else self.path.segments[0].start

    @property
    def end(self) -> Point:
        """Where the beam ends."""
        if self.out:
            return self.out.end
        return self.over[-1].end if self.over else self.path.segments[0].start


@dataclass(frozen=True, slots=True)
class Stroke:
    """An open line that is marked on metal or cut through scrap; ``name`` says what it is."""

    name: str
    segments: tuple[Segment, ...]


@dataclass(frozen=True, slots=True)
class Run:
    """The tool at work without a stop: ``way`` leads to it with the beam off.

    ``kind`` is ``mark``, ``cut`` or ``scrap``; ``of`` is the place of the pass or stroke it
    belongs to among those of its kind.
    """

    kind: str
    of: int
    way: tuple[Segment, ...]
    segments: tuple[Segment, ...]

    @property
    def length(self) -> float:
        """Length with the beam on, mm."""
        return math.fsum(s.length for s in self.segments)


@dataclass(frozen=True, slots=True)
class ToolPath:
    """What is done on a sheet in its order, and what it measures, mm and seconds.

    ``marks`` come first, then ``passes``, then ``scrap``: cuts through the skeleton or along the
    remnant. ``runs`` are all of them with the ways between.
    """

    sheet: str
    number: int
    rules: CutRules
    passes: tuple[Pass, ...]
    runs: tuple[Run, ...]
    findings: tuple[Finding, ...]
    marks: tuple[Stroke, ...] = ()
    scrap: tuple[Stroke, ...] = ()

    @property
    def cut_length(self) -> float:
        """Length with the beam on, leads included, marks not."""
        return math.fsum(r.length for r in self.runs if r.kind != "mark")

    @property
    def mark_length(self) -> float:
        """Length that is marked."""
        return math.fsum(r.length for r in self.runs if r.kind == "mark")

    @property
    def lead_length(self) -> float:
        """Length of all leads, in and out."""
        return math.fsum(s.length for p in self.passes for s in (p.lead, p.out) if s)

    @property
    def pierces(self) -> int:
        """How often the beam goes through metal."""
        return sum(1 for r in self.runs if r.kind != "mark")

    @property
    def rapids(self) -> list[Segment]:
        """The moves with the beam off, from the work zero on."""
        return [s for r in self.runs for s in r.way]

    @property
    def rapid_length(self) -> float:
        """Length of all rapid moves."""
        return math.fsum(s.length for s in self.rapids)

    @property
    def seconds(self) -> float:
        """Time by feeds, accelerations and pierces; the head stops at sharp corners."""
        return math.fsum(s for run in self.runs for s in self.seconds_of(run))

    def feed_of(self, run: Run) -> float:
        """Return the feed of a run, mm/min."""
        if run.kind == "mark":
            return self.rules.mark_feed
        share = self.passes[run.of].speed if run.kind == "cut" else 1.0
        return self.rules.feed * share

    def seconds_of(self, run: Run) -> tuple[float, float, float]:
        """Return how long the way to a run, its pierce and its cut take."""
        rules = self.rules
        feed = self.feed_of(run) / 60
        return (
            math.fsum(move_seconds(s.length, rules.rapid / 60, rules.acceleration)
                      for s in run.way),
            0.0 if run.kind == "mark" else rules.pierce_seconds,
            math.fsum(move_seconds(r, feed, rules.acceleration)
                      for r in _without_stop(run.segments)),
        )  # fmt: skip

    @property
    def cost(self) -> float:
        """What the machine costs for that time."""
        return self.seconds / 3600 * self.rules.hourly_rate


def line_of(run: Sequence[Segment]) -> LineString:
    """Return a run as a line of chords."""
    return LineString([run[0].start, *(p for s in run for p in s.flattened(SAME))])


def piece_of(segments: Sequence[Segment], start: float, end: float) -> Iterator[Segment]:
    """Yield what of a run lies between two lengths along it, mm."""
    at = 0.0
    for segment in segments:
        length = segment.length
        low, high = max(start - at, 0.0), min(end - at, length)
        if high - low > LENGTH:
            is_whole = low <= LENGTH and high >= length - LENGTH
            yield (
                segment
                if is_whole
                else segment.part(
                    low / length if low > LENGTH else 0.0,
                    high / length if high < length - LENGTH else 1.0,
                )
            )
        at += length


def move_seconds(length: float, speed: float, acceleration: float) -> float:
    """Return the time of a move from rest to rest: mm, mm/s, mm/s²."""
    if length <= 0:
        return 0.0
    if length * acceleration < speed * speed:
        return 2 * math.sqrt(length / acceleration)
    return length / speed + speed / acceleration


def _without_stop(segments: Sequence[Segment]) -> list[float]:
    """Return the lengths between the corners at which the head stops."""
    runs = [0.0]
    heading: tuple[float, float] | None = None
    for s in segments:
        (x, y), to = s.heading(0.0), s.heading(1.0)
        if heading and x * heading[0] + y * heading[1] < math.cos(_SHARP):
            runs.append(0.0)
        runs[-1] += s.length
        heading = to
    return runs
