"""A page of a drawing as DXF: a unit a millimetre of paper, a layer for each pen."""

from __future__ import annotations

import math

from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment
from ezdxf.layouts import Modelspace
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry
from shapely.ops import unary_union

from kaigata.core.formats.dxf import new_document, text_of
from kaigata.core.formats.typeset import paper_behind
from kaigata.core.markup.page import LAID, Anchor, Face, Fill, Page, Pen, Stroke, Words
from kaigata.core.plane import Motion

__all__ = ["layer_of", "page_dxf"]

_CAPITALS = 0.7
"""Height of capitals, which a DXF means by that of a text, for type of size 1."""
_FACES = {
    Face.WORDS: ("WORDS", "Barlow-Regular.ttf"),
    Face.STRONG: ("WORDS_STRONG", "Barlow-SemiBold.ttf"),
    Face.FIGURES: ("FIGURES", "IBMPlexMono-Regular.ttf"),
    Face.STRONG_FIGURES: ("FIGURES_STRONG", "IBMPlexMono-SemiBold.ttf"),
}
_PLACED = {
    Anchor.START: TextEntityAlignment.MIDDLE_LEFT,
    Anchor.MIDDLE: TextEntityAlignment.MIDDLE_CENTER,
    Anchor.END: TextEntityAlignment.MIDDLE_RIGHT,
}
_TEXT, _FILL = "TEXT", "FILL"
_BLACK_OR_WHITE = 7
_SAME = 1e-9
"""What is no length, mm."""


def page_dxf(page: Page) -> str:
    """Return a page as the text of a DXF file.

    The faces of type are named, not in it; pictures are left out.
    """
    document = new_document()
    _begin(document)
    space = document.modelspace()
    clear = _clear_of(page)
    for stroke in page.strokes:
        _draw(space, stroke, clear)
    for fill in page.fills:
        _fill(space, fill)
    for words in page.words:
        if words.text:
            _write(space, words)
    return text_of(document)


def layer_of(pen: Pen) -> str:
    """Return the layer that a pen's strokes lie on."""
    return pen.value.replace("-", "_").upper()


def _begin(document: Drawing) -> None:
    for pen, (width, dashes) in LAID.items():
        line_type = "CONTINUOUS"
        if dashes:
            line_type = layer_of(pen)
            turns = [d if i % 2 == 0 else -d for i, d in enumerate(dashes)]
            document.linetypes.add(line_type, [sum(dashes), *turns], description=pen.value)
        layer = document.layers.add(layer_of(pen), color=_BLACK_OR_WHITE, linetype=line_type)
        layer.dxf.lineweight = round(100 * width)
    for name in (_TEXT, _FILL):
        document.layers.add(name, color=_BLACK_OR_WHITE)
    for style, font in _FACES.values():
        document.styles.add(style, font=font)


def _clear_of(page: Page) -> BaseGeometry:
    """Return the paper that words and fills are to have behind them."""
    left = [Polygon(f.points) for f in page.fills if f.is_clear]
    for words in page.words:
        if words.is_clear and words.text:
            box = paper_behind(words)
            there = Motion.turned(words.turn, x=words.at[0], y=words.at[1])
            corners = [(box.left, box.bottom), (box.right, box.bottom), (box.right, box.top),
                       (box.left, box.top)]  # fmt: skip
            left.append(Polygon([there.point(p) for p in corners]))
    return unary_union(left)


def _draw(space: Modelspace, stroke: Stroke, clear: BaseGeometry) -> None:
    run, layer = stroke.run, {"layer": layer_of(stroke.pen)}
    if len(run) == 1 and run[0].is_line:
        # A line ends before what stands on it: nothing can be laid over it here as on paper.
        seen = LineString([run[0].start, run[0].end]).difference(clear)
        for piece in getattr(seen, "geoms", [seen]):
            if piece.length > _SAME:
                a, b = piece.coords
                space.add_line(a, b, dxfattribs=layer)
        return
    is_closed = math.dist(run[0].start, run[-1].end) < _SAME
    rows = [(*s.start, s.bulge) for s in run]
    if not is_closed:
        rows.append((*run[-1].end, 0.0))
    space.add_lwpolyline(rows, format="xyb", close=is_closed, dxfattribs=layer)


def _fill(space: Modelspace, fill: Fill) -> None:
    if fill.is_open:
        space.add_lwpolyline(fill.points, close=True, dxfattribs={"layer": _FILL})
    elif not fill.is_clear:
        hatch = space.add_hatch(color=_BLACK_OR_WHITE, dxfattribs={"layer": _FILL})
        hatch.paths.add_polyline_path(fill.points, is_closed=True)


def _write(space: Modelspace, words: Words) -> None:
    entity = space.add_text(
        words.text,
        height=words.size * _CAPITALS,
        rotation=math.degrees(words.turn),
        dxfattribs={"layer": _TEXT, "style": _FACES[words.face][0]},
    )
    entity.set_placement(words.at, align=_PLACED[words.anchor])
