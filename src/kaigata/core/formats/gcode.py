"""Writing a tool path as plain ISO 6983."""

from __future__ import annotations

import math
from collections.abc import Iterator

from kaigata.core.cut import Pass, Post, ToolPath
from kaigata.core.plane import Point, Segment

__all__ = ["gcode"]

_TINY = 0.005
"""Arcs shorter than this are written as lines: rounding could turn them the long way, mm."""


def gcode(path: ToolPath, post: Post, *, title: str = "") -> str:
    """Return the program that cuts a sheet.

    I and J are taken from the rounded start point, so that both radii of an arc agree; what
    vanishes in rounding is left out.

    Parameters
    ----------
    path : ToolPath
        What to cut, mm.
    post : Post
        Units and decimals.
    title : str
        A remark for the program's head.
    """
    lines = [f"({_remark(title)})"] if title else []
    lines.append(f"({_remark(f'sheet {path.number} {path.sheet} kerf {path.rules.kerf:g} mm')})")
    lines.append(f"{'G21' if post.units == 'mm' else 'G20'} G90 G17 G40")
    for wanted in path.passes:
        lines.extend(_pass(wanted, path, post))
    lines.append("M30")
    return "\n".join(lines) + "\n"


def _pass(wanted: Pass, path: ToolPath, post: Post) -> Iterator[str]:
    yield f"({_remark(f'{wanted.part} {wanted.copy} {wanted.name}')})"
    at = _rounded(wanted.pierce, post)
    yield f"G0 {_words(at, post)}"
    yield "M3"
    feed = f" F{_number(path.rules.feed * wanted.speed * post.scale, 1)}"
    for segment in wanted.segments:
        to = _rounded(segment.end, post)
        if to == at:
            continue
        yield _move(segment, at, to, post) + feed
        at, feed = to, ""
    yield "M5"


def _move(segment: Segment, at: Point, to: Point, post: Post) -> str:
    if segment.is_line or segment.length < _TINY:
        return f"G1 {_words(to, post)}"
    cx, cy = segment.centre
    i, j = cx * post.scale - at[0], cy * post.scale - at[1]
    word = "G3" if segment.bulge > 0 else "G2"
    d = post.decimals
    return f"{word} {_words(to, post)} I{_number(i, d)} J{_number(j, d)}"


def _rounded(p: Point, post: Post) -> Point:
    return (round(p[0] * post.scale, post.decimals), round(p[1] * post.scale, post.decimals))


def _words(p: Point, post: Post) -> str:
    return f"X{_number(p[0], post.decimals)} Y{_number(p[1], post.decimals)}"


def _number(value: float, decimals: int) -> str:
    text = f"{round(value, decimals) + 0.0:.{decimals}f}"
    return text.rstrip("0").rstrip(".") if math.isfinite(value) and "." in text else text


def _remark(text: str) -> str:
    kept = text.encode("ascii", "replace").decode().replace("(", " ").replace(")", " ")
    return " ".join(kept.split())[:120]
