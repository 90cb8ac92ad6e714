"""Every size and count of a drawing taken again from what was drawn, and compared with the part.

The strokes are measured on the paper and brought back by the scale; the figures are read as they
stand. So a wrong scale, a contour left out, a row too few or a figure of something else is found
before anybody sees the drawing.
"""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Iterator

from kaigata.core.blank import IN_THE_SHEET, Blank
from kaigata.core.blank.mesh import MESH_CHORD
from kaigata.core.markup.chosen import ChosenSize, Way, features, measured
from kaigata.core.markup.dimensions import CHOSEN
from kaigata.core.markup.folded_sheet import FoldedSheet
from kaigata.core.markup.measure import Unit
from kaigata.core.markup.page import Box, Face, Pen, Stroke, Words
from kaigata.core.markup.sheets import Drawing
from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import KERNEL, LENGTH

__all__ = ["differences", "lost_sizes"]

_SIGNS = str.maketrans({"−": "-", "±": None})
_MADE_IN_HOLES = ("tapped-hole", "press-in")


def differences(drawing: Drawing, blank: Blank, unit: Unit) -> list[str]:
    """Return in words what of a drawing is not as the part is.

    Parameters
    ----------
    drawing : Drawing
        What was drawn.
    blank : Blank
        The part it is of.
    unit : Unit
        What its lengths are written in.

    Returns
    -------
    list of str
        Nothing where all agrees.
    """
    return [
        *_outline(drawing, blank, unit),
        *_sizes(drawing, blank, unit),
        *_bends(drawing, blank),
        *_tables(drawing, blank),
        *_folded(drawing, unit),
    ]


def _folded(drawing: Drawing, unit: Unit) -> Iterator[str]:
    """Compare the sizes written on the sheet of the folded part with what is drawn between them."""
    sheet = drawing.folded
    if sheet is None:
        return
    if not any(page is sheet.page for page in drawing.pages):
        yield "the folded part is on no sheet"
    figures = [w.text for w in sheet.page.words if w.face == Face.STRONG_FIGURES and w.size == 3.5]
    bounds = [_bounds(s) for s in sheet.page.strokes if s.pen in (Pen.EDGE, Pen.HIDDEN)]
    within = {
        name: [b for b in bounds if box.holds(b)]
        for name, box in (("front", sheet.front), ("top", sheet.top), ("side", sheet.side))
    }
    front, top, side = (_reach(boxes, sheet.scale) for boxes in within.values())
    drawn = {"width": (front[0], top[0]), "height": (front[1], side[1]), "depth": (top[1], side[0])}
    for (name, sizes), figure in zip(drawn.items(), figures, strict=True):
        for size in sizes:
            if abs(unit.read(figure) - size) > _rounded(unit) + MESH_CHORD:
                yield f"the folded {name} is written {figure} {unit.name}, drawn {size:.3f} mm"
    yield from _levels(sheet, within["front"], within["top"], unit)


def _levels(sheet: FoldedSheet, front: list[Box], top: list[Box], unit: Unit) -> Iterator[str]:
    """Look for the end of an edge at each place beside the views, and for the place's figure."""
    written = {w.text for w in sheet.page.words if w.face == Face.FIGURES}
    beside = ((sheet.front, front, 0), (sheet.top, top, 1), (sheet.front, front, 1))
    for (box, edges, axis), places in zip(beside, sheet.levels, strict=True):
        first = box.corners[axis]
        ends = {(b.corners[i] - first) / sheet.scale for b in edges for i in (axis, axis + 2)}
        for place in places:
            figure = unit.length(place)
            if figure not in written:
                yield f"{figure} {unit.name} is not written beside the folded part"
            most, said = _rounded(unit) + MESH_CHORD, unit.read(figure)
            if not any(abs(said - end) <= most for end in ends):
                yield f"no edge of the folded part is drawn at {figure} {unit.name}"


def _reach(boxes: list[Box], scale: float) -> tuple[float, float]:
    """Return how large what lies in boxes is in all, mm of the part."""
    x0, y0, x1, y1 = zip(*(b.corners for b in boxes), strict=True)
    return ((max(x1) - min(x0)) / scale, (max(y1) - min(y0)) / scale)


def _bounds(stroke: Stroke) -> Box:
    (x0, y0), (x1, y1) = _corners([stroke])
    return Box(left=x0, bottom=y0, right=x1, top=y1)


def lost_sizes(drawing: Drawing) -> list[str]:
    """Return in words which sizes were chosen for a drawing and have no place on the part now."""
    return [
        f"chosen size {index + 1} meets the part no more: take it out or choose it anew"
        for index in drawing.flat.lost
    ]


def _outline(drawing: Drawing, blank: Blank, unit: Unit) -> Iterator[str]:
    page, scale = drawing.pages[0], drawing.flat.scale
    cuts = [s for s in page.strokes if s.pen == Pen.CUT]
    if len(cuts) != len(blank.region.contours):
        yield f"{len(cuts)} contours are drawn, the part has {len(blank.region.contours)}"
    long = math.fsum(x.length for s in cuts for x in s.run) / scale
    if abs(long - blank.region.length) > KERNEL * len(blank.region.contours):
        yield f"the contours drawn are {long:.3f} mm long, the part's {blank.region.length:.3f} mm"
    most = _rounded(unit)
    figures = [w.text for w in page.words if w.face == Face.STRONG_FIGURES and w.size == 3.5]
    for name, drawn, figure in zip(("width", "height"), _size(cuts, scale), figures, strict=True):
        if abs(unit.read(figure) - drawn) > most:
            yield f"the {name} is written {figure} {unit.name}, drawn {drawn:.3f} mm"
    tips = [f.points[0] for f in page.fills if len(f.points) == 3 and not f.is_open]
    (x0, y0), (x1, y1) = _corners(cuts)
    for name, axis, ends in (("width", 0, (x0, x1)), ("height", 1, (y0, y1))):
        if not all(any(abs(tip[axis] - end) < KERNEL for tip in tips) for end in ends):
            yield f"the arrows of the {name} do not stand at the ends of the flat"


def _rounded(unit: Unit) -> float:
    """Return what a figure may be off, mm: half of the last that is written."""
    return unit.step / 2 + KERNEL


def _sizes(drawing: Drawing, blank: Blank, unit: Unit) -> Iterator[str]:
    """Compare each chosen size: as written, as drawn between its arrows, and as the part has it."""
    flat, page = drawing.flat, drawing.pages[0]
    tips = [f.points[0] for f in page.fills if len(f.points) == 3 and not f.is_open]
    written = {w.text for w in page.words if w.size == CHOSEN and w.face == Face.FIGURES}
    places = list(features(blank)) if flat.sizes else []
    for drawn in flat.sizes:
        name, size = f"chosen size {drawn.index + 1}", drawing.chosen[drawn.index]
        found = measured(size, places)
        if found is None:
            yield f"{name} meets the part no more"
            continue
        said = unit.read(drawn.figure.lstrip("øR"))
        if abs(said - found[2]) > _rounded(unit):
            yield f"{name} is written {drawn.figure} {unit.name}, the part has {found[2]:.3f} mm"
        twice = 2 if size.way is Way.ROUND and found[0].is_whole else 1
        if abs(math.dist(*drawn.tips) / flat.scale * twice - found[2]) > KERNEL:
            yield f"the arrows of {name} are not {found[2]:.3f} mm apart"
        pointed = drawn.tips[:1] if size.way is Way.ROUND else drawn.tips
        is_pointed = all(any(math.dist(t, p) < KERNEL for t in tips) for p in pointed)
        if not is_pointed or drawn.figure not in written:
            yield f"{name} is not on the sheet"
    tolerances = [(d.index, d.tolerance) for d in flat.sizes] + list(flat.overall)
    for index, texts in tolerances:
        size, name = drawing.chosen[index], f"the tolerance of chosen size {index + 1}"
        if not set(texts) <= {w.text for w in page.words if w.face == Face.FIGURES}:
            yield f"{name} is not on the sheet"
        if not _says_deviations(texts, size, unit):
            yield (
                f"{name} is written {' '.join(texts) or 'nowhere'} {unit.name}, it is "
                f"{size.upper or 0:+g} {size.lower or 0:+g} mm"
            )


def _says_deviations(texts: tuple[str, ...], size: ChosenSize, unit: Unit) -> bool:
    """Whether what is written are a size's deviations, one that is not 0 not as 0."""
    figures = [float(text.translate(_SIGNS)) * unit.size for text in texts] or [0.0]
    told = (figures[0], -figures[0] if len(figures) == 1 else figures[1])
    rounded = unit.size * 0.1 ** (unit.decimals + 1) / 2 + KERNEL
    return all(
        abs(figure - (value or 0.0)) <= rounded and (figure != 0) == (abs(value or 0.0) > LENGTH)
        for figure, value in zip(told, (size.upper, size.lower), strict=True)
    )


def _size(strokes: list[Stroke], scale: float) -> tuple[float, float]:
    (x0, y0), (x1, y1) = _corners(strokes)
    return (x1 - x0) / scale, (y1 - y0) / scale


def _corners(strokes: list[Stroke]) -> tuple[Point, Point]:
    boxes = [x.bounds() for s in strokes for x in s.run]
    return (
        (min(b[0] for b in boxes), min(b[1] for b in boxes)),
        (max(b[2] for b in boxes), max(b[3] for b in boxes)),
    )


def _bends(drawing: Drawing, blank: Blank) -> Iterator[str]:
    page = drawing.pages[0]
    for pen, is_up in ((Pen.BEND_UP, True), (Pen.BEND_DOWN, False)):
        mine = [x for b in blank.bends if b.is_up == is_up for x in b.lines]
        drawn = [s for s in page.strokes if s.pen == pen]
        long = math.fsum(x.length for s in drawn for x in s.run) / drawing.flat.scale
        wanted = math.fsum(math.dist(*x) for x in mine)
        if len(drawn) != len(mine) or abs(long - wanted) > KERNEL * (1 + len(mine)):
            yield (
                f"{len(drawn)} bend lines {pen.removeprefix('bend-')} of {long:.3f} mm are drawn, "
                f"the part has {len(mine)} of {wanted:.3f} mm"
            )
    numbers = sorted(int(w.text) for w in page.words if _is_number(w))
    if numbers != sorted(b.number for b in blank.bends):
        yield f"bends {numbers} are numbered on the flat, the part has {len(blank.bends)}"


def _is_number(words: Words) -> bool:
    return words.face == Face.STRONG_FIGURES and words.size < 2.5


def _tables(drawing: Drawing, blank: Blank) -> Iterator[str]:
    rows = {t.title.split(",")[0]: t.rows for t in drawing.tables}
    bends, holes = rows.get("Bends", ()), rows.get("Holes and openings", ())
    if len(bends) != len(blank.bends):
        yield f"the bend table has {len(bends)} rows, the part {len(blank.bends)} bends"
    counted = sum(int(row[2]) for row in holes)
    if counted != len(blank.region.holes):
        yield f"the hole table counts {counted}, the part has {len(blank.region.holes)}"
    made = Counter(m.text for m in blank.marks if m.kind in _MADE_IN_HOLES)
    for what, count in made.items():
        told = sum(int(row[2]) for row in holes if _says(row[3], what))
        if told != count:
            yield f"the hole table has {told} holes {what}, the part {count}"
    listed = rows.get("Marked and not cut", ())
    made_of_sheet = [m for m in blank.marks if m.kind in IN_THE_SHEET]
    told = sum(int(row[2]) for row in listed)
    if told != len(made_of_sheet):
        yield f"{told} marks are listed, the part has {len(made_of_sheet)}"
    yield from _lines(drawing, blank)
    written = [w.text for page in drawing.pages for w in page.words]
    for title, table in rows.items():
        lost = [row for row in table if not _is_on(row, written)]
        if lost:
            yield f"row {lost[0][0]} of {title.lower()} is on no sheet"


def _lines(drawing: Drawing, blank: Blank) -> Iterator[str]:
    """Look for each of the part's creases among the strokes that mark."""
    drawn = [s for s in drawing.pages[0].strokes if s.pen == Pen.MARK and len(s.run) == 1]
    for mark in (m for m in blank.marks if m.end is not None):
        ends = {drawing.flat.on_paper(p) for p in (mark.at, mark.end) if p}
        if not any({s.run[0].start, s.run[0].end} == ends for s in drawn):
            yield f"a crease of {mark.length:.2f} mm is not drawn"


def _says(note: str, what: str) -> bool:
    """Whether a note says just this among what it says; made from the other side is another."""
    return bool(re.search(f"(^|, ){re.escape(what)}(?!, other side)(, |$)", note))


def _is_on(row: tuple[str, ...], written: list[str]) -> bool:
    """Whether the cells of a row stand one after another among what is written."""
    return any(tuple(written[i : i + len(row)]) == row for i in range(len(written)))
