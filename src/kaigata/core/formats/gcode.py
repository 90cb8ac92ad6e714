"""Writing a tool path as G-code, in the dialect a post describes."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

from kaigata.core.cut import Pass, Post, Run, ToolPath
from kaigata.core.cut.lead import entered, nearest_start
from kaigata.core.cut.passes import piece_of
from kaigata.core.plane import Point, Segment

__all__ = ["gcode"]

_TINY = 0.005
"""Arcs shorter than this are written as lines: rounding could turn them the long way, mm."""

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

    def run(self, run: Run) -> Iterator[str]:
        """Yield the lines of a run."""
        post, is_mark = self._post, run.kind == "mark"
        if is_mark:
            yield from _remark("mark", post)
        for point in [*(s.end for s in run.way[:-1]), run.segments[0].start]:
            self._at = self._rounded(point)
            yield f"G0 {self._words(self._at)}"
        yield post.mark_on if is_mark else post.beam_on
        if post.dwell != "none" and not is_mark and self._path.rules.pierce_seconds > 0:
            scale = 1.0 if post.dwell == "seconds" else 1000.0
            yield f"G4 P{_number(self._path.rules.pierce_seconds * scale, 3)}"
        feed = f" F{_number(self._path.feed_of(run) * post.scale, 3)}"
        off = post.mark_off if is_mark else post.beam_off
        if run.kind == "cut" and post.compensation == "machine":
            yield from self._compensated(self._path.passes[run.of], feed, off)
            return
        yield from self._moves(run.segments, feed)
        yield off

    def _compensated(self, wanted: Pass, feed: str, off: str) -> Iterator[str]:
        """Yield a pass along the part's own contour, the kerf kept off it by the machine.

        The machine cuts the corner between lead and contour short, so the contour is followed a
        kerf beyond where it was entered.
        """
        rules = self._path.rules
        place = nearest_start(wanted.nominal, wanted.path.segments[0].start)
        edge = entered(wanted.nominal, *place)
        over = piece_of(edge.segments, 0.0, max(rules.kerf, rules.over_cut))
        word = f" {self._post.offset_word}" if self._post.offset_word else ""
        lead = Segment(wanted.pierce, edge.segments[0].start)
        first, *rest = self._moves([lead, *edge.segments, *over], feed)
        yield f"G42{word} {first}"
        yield from rest
        if wanted.out:
            self._at = self._rounded(wanted.out.end)
            yield f"G40 G1 {self._words(self._at)}"
            yield off
        else:
            yield off
            yield "G40"

    def _moves(self, segments: Sequence[Segment], feed: str) -> Iterator[str]:
        for segment in segments:
            for piece in self._pieces(segment):
                to = self._rounded(piece.end)
                if self._at is None or to == self._at:
                    continue
                yield self._move(piece, self._at, to) + feed
                self._at, feed = to, ""

    def _pieces(self, segment: Segment) -> Iterator[Segment]:
        n = 1
        if self._post.arcs == "radius" and not segment.is_line:
            n = math.ceil(abs(segment.sweep) / _QUARTER)
        yield from (segment,) if n == 1 else (segment.part(i / n, (i + 1) / n) for i in range(n))

    def _move(self, segment: Segment, at: Point, to: Point) -> str:
        post = self._post
        if segment.is_line or segment.length < _TINY:
            return f"G1 {self._words(to)}"
        word = "G3" if segment.bulge > 0 else "G2"
        if post.arcs == "radius":
            # Rounding may part the ends by more than two radii; half their distance is least.
            radius = max(segment.radius * post.scale, math.dist(at, to) / 2)
            return f"{word} {self._words(to)} R{_number(radius, post.decimals)}"
        i, j = _centre_from(at, to, self._scaled(segment.centre), post.decimals)
        return f"{word} {self._words(to)} I{_number(i, post.decimals)} J{_number(j, post.decimals)}"

    def _scaled(self, p: Point) -> Point:
        k = self._post.scale
        return ((p[0] - self._zero[0]) * k, (p[1] - self._zero[1]) * k)

    def _rounded(self, p: Point) -> Point:
        x, y = self._scaled(p)
        return (round(x, self._post.decimals), round(y, self._post.decimals))

    def _words(self, p: Point) -> str:
        d = self._post.decimals
        return f"X{_number(p[0], d)} Y{_number(p[1], d)}"


def _centre_from(at: Point, to: Point, centre: Point, decimals: int) -> Point:
    """Return an arc's rounded centre as seen from its rounded start.

    The nearest one is taken whose radii at the rounded ends differ by no more than the last
    decimal; where the nearest of all is just between, its neighbours do better.
    """
    last = 10.0**-decimals
    exact = (centre[0] - at[0], centre[1] - at[1])

    def fault(c: Point) -> tuple[float, float]:
        parted = abs(math.hypot(*c) - math.dist(c, (to[0] - at[0], to[1] - at[1])))
        return max(parted, last), math.dist(c, exact)

    steps = (0.0, -last, last)
    near = ((exact[0] + dx, exact[1] + dy) for dx in steps for dy in steps)
    return min(((round(x, decimals), round(y, decimals)) for x, y in near), key=fault)


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
