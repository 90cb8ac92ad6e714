"""Writing a tool path as G-code, in the dialect a post describes."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Mapping, Sequence

from kaigata.core.cut import Post, Run, ToolPath
from kaigata.core.cut.edge_runs import edge_run
from kaigata.core.formats.arc_words import Joints, rounded_arc
from kaigata.core.plane import Point, Segment

__all__ = ["gcode"]

_TINY = 0.005
"""Arcs shorter than this are written as lines: rounding could turn them the long way, mm."""

_SMOOTH = 2e-3
"""Sine of a turn between two pieces that is meant to be none."""

_QUARTER = math.pi / 2 + 1e-9
"""Largest turn of an arc given by its radius: a half turn's centre would be badly defined."""


def gcode(
    path: ToolPath,
    post: Post,
    *,
    zero: Point = (0.0, 0.0),
    title: str = "",
    names: Mapping[str, str] | None = None,
) -> str:
    """Return the program that cuts a sheet.

    I and J are taken from the rounded start point, so that both radii of an arc agree; what
    vanishes in rounding is left out.

    Parameters
    ----------
    path : ToolPath
        What to cut, mm.
    post : Post
        The machine's dialect.
    zero : point
        Where on the sheet the program has its zero, mm.
    title : str
        A remark for the program's head.
    names : mapping of str to str, optional
        What the post's header and footer may name: ``material``, ``thickness``.
    """
    return "\n".join(_numbered(_lines(path, post, zero, title, names or {}), post)) + "\n"


def _lines(
    path: ToolPath, post: Post, zero: Point, title: str, names: Mapping[str, str]
) -> Iterator[str]:
    known = {
        "program": f"sheet-{path.number}",
        "order": _plain(title),
        "sheet": _plain(path.sheet),
        "number": str(path.number),
        "material": _plain(names.get("material", "")),
        "thickness": names.get("thickness", ""),
        "kerf": f"{path.rules.kerf:g}",
        "minutes": f"{path.seconds / 60:.1f}",
    }
    if post.percent:
        yield "%"
    if post.program_name:
        yield post.program_name.format_map(known)
    if title:
        yield from _remark(title, post)
    yield from _remark(f"sheet {path.number} {path.sheet} kerf {path.rules.kerf:g} mm", post)
    yield from (line.format_map(known) for line in post.header)
    yield f"{'G21' if post.units == 'mm' else 'G20'} G90 G17 G40"
    pen = _Pen(path, post, zero)
    said = None
    for run in path.runs:
        if (run.kind, run.of) != said:
            yield from _remark(_name(path, run), post)
            said = (run.kind, run.of)
        yield from pen.run(run)
    yield from (line.format_map(known) for line in post.footer)
    yield "M30"
    if post.percent:
        yield "%"


def _name(path: ToolPath, run: Run) -> str:
    if run.kind == "mark":
        return path.marks[run.of].name
    if run.kind == "scrap":
        return path.scrap[run.of].name
    p = path.passes[run.of]
    return f"{p.part} {p.copy} {p.name}"


class _Pen:
    """Writes runs one after another."""

    def __init__(self, path: ToolPath, post: Post, zero: Point) -> None:
        self._path = path
        self._post = post
        self._zero = zero
        self._at: Point | None = None
        self._begun: Counter[int] = Counter()

    def run(self, run: Run) -> Iterator[str]:
        """Yield the lines of a run."""
        post, is_mark = self._post, run.kind == "mark"
        feed = f" F{_number(self._path.feed_of(run) * post.scale, 3)}"
        if is_mark:
            yield from _remark("mark", post)
        if run.kind == "cut" and post.compensation == "machine":
            yield from self._kept_off(run, feed)
            return
        yield from self._rapids(run, run.segments[0].start)
        yield from self._on(is_mark=is_mark)
        yield from self._moves(run.segments, feed)
        yield post.mark_off if is_mark else post.beam_off

    def _rapids(self, run: Run, to: Point) -> Iterator[str]:
        for point in [*(s.end for s in run.way[:-1]), to]:
            self._at = self._rounded(point)
            yield f"G0 {self._words(self._at)}"

    def _on(self, *, is_mark: bool) -> Iterator[str]:
        post, seconds = self._post, self._path.rules.pierce_seconds
        yield post.mark_on if is_mark else post.beam_on
        if post.dwell != "none" and not is_mark and seconds > 0:
            scale = 1.0 if post.dwell == "seconds" else 1000.0
            yield f"G4 P{_number(seconds * scale, 3)}"

    def _kept_off(self, run: Run, feed: str) -> Iterator[str]:
        """Yield a run along the part's own contour, the kerf kept off it by the machine.

        Where no lead is cut the head comes to the contour with the beam off.
        """
        wanted = self._path.passes[run.of]
        made = edge_run(wanted, self._begun[run.of], self._path.rules)
        self._begun[run.of] += 1
        yield from self._rapids(run, made.way_in.start)
        first, *rest = self._moves([made.way_in, *made.edge], feed, kept_off=True)
        word = f" {self._post.offset_word}" if self._post.offset_word else ""
        if made.is_lead:
            yield from self._on(is_mark=False)
            yield f"G42{word} {first}"
        else:
            yield f"G42{word} {first}"
            yield from self._on(is_mark=False)
        yield from rest
        if wanted.out and wanted.out == run.segments[-1]:
            self._at = self._rounded(wanted.out.end)
            yield f"G40 G1 {self._words(self._at)}"
            yield self._post.beam_off
        else:
            yield self._post.beam_off
            yield "G40"

    def _moves(
        self, segments: Sequence[Segment], feed: str, *, kept_off: bool = False
    ) -> Iterator[str]:
        """Yield the moves along a run, what vanishes in rounding left out.

        With ``kept_off`` arcs are rounded so that a machine sees no corners where they join.
        """
        moves: list[tuple[Segment, Point, Point]] = []
        at = self._at
        for piece in (p for s in segments for p in self._pieces(s)):
            to = self._rounded(piece.end)
            if at is not None and to != at:
                moves.append((piece, at, to))
                at = to
        before: Point | None = None
        for i, (piece, start, to) in enumerate(moves):
            joints = Joints(
                before if i and _is_smooth(moves[i - 1][0], piece) else None,
                _heading(*moves[i + 1]) if i + 1 < len(moves) and _is_smooth(piece, moves[i + 1][0])
                else None,
            ) if kept_off else None  # fmt: skip
            words, before = self._move(piece, start, to, joints)
            yield words + feed
            self._at, feed = to, ""

    def _pieces(self, segment: Segment) -> Iterator[Segment]:
        n = 1
        if self._post.arcs == "radius" and not segment.is_line:
            n = math.ceil(abs(segment.sweep) / _QUARTER)
        yield from (segment,) if n == 1 else (segment.part(i / n, (i + 1) / n) for i in range(n))

    def _move(
        self, segment: Segment, at: Point, to: Point, joints: Joints | None
    ) -> tuple[str, Point]:
        """Return a move's words and the heading it ends in."""
        post = self._post
        if _is_straight(segment):
            return f"G1 {self._words(to)}", _heading(segment, at, to)
        word = "G3" if segment.bulge > 0 else "G2"
        exact = Segment(self._scaled(segment.start), self._scaled(segment.end), segment.bulge)
        arc = rounded_arc(at, to, exact, post.decimals, joints)
        if post.arcs == "radius":
            # Rounding may part the ends by more than two radii; half their distance is least.
            radius = max(math.hypot(*arc.centre) if joints else exact.radius, math.dist(at, to) / 2)
            return f"{word} {self._words(to)} R{_number(radius, post.decimals)}", arc.heading
        i, j = (_number(v, post.decimals) for v in arc.centre)
        return f"{word} {self._words(to)} I{i} J{j}", arc.heading

    def _scaled(self, p: Point) -> Point:
        k = self._post.scale
        return ((p[0] - self._zero[0]) * k, (p[1] - self._zero[1]) * k)

    def _rounded(self, p: Point) -> Point:
        x, y = self._scaled(p)
        return (round(x, self._post.decimals), round(y, self._post.decimals))

    def _words(self, p: Point) -> str:
        d = self._post.decimals
        return f"X{_number(p[0], d)} Y{_number(p[1], d)}"


def _is_straight(segment: Segment) -> bool:
    return segment.is_line or segment.length < _TINY


def _heading(segment: Segment, at: Point, to: Point) -> Point:
    """Return the heading a move sets out in, between its rounded ends."""
    if not _is_straight(segment):
        return segment.heading(0.0)
    size = math.dist(at, to)
    return ((to[0] - at[0]) / size, (to[1] - at[1]) / size)


def _is_smooth(before: Segment, after: Segment) -> bool:
    (ux, uy), (vx, vy) = before.heading(1.0), after.heading(0.0)
    return abs(ux * vy - uy * vx) < _SMOOTH and ux * vx + uy * vy > 0


def _numbered(lines: Iterator[str], post: Post) -> Iterator[str]:
    number = 0
    for line in lines:
        if post.line_step and line[:1] not in {"", "(", ";", "%", "O"}:
            number += post.line_step
            yield f"N{number} {line}"
        else:
            yield line


def _number(value: float, decimals: int) -> str:
    text = f"{round(value, decimals) + 0.0:.{decimals}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def _plain(text: str) -> str:
    kept = text.encode("ascii", "replace").decode().replace("(", " ").replace(")", " ")
    return " ".join(kept.split())[:120]


def _remark(text: str, post: Post) -> Iterator[str]:
    if post.remarks != "none":
        plain = _plain(text)
        yield f"({plain})" if post.remarks == "parentheses" else f"; {plain}"
