"""A page of a drawing as SVG: a unit a millimetre of paper, for looking at and for web pages."""

from __future__ import annotations

import base64
import io
import math
from collections.abc import Iterator
from html import escape

from PIL import Image

from kaigata.core.formats.svg import run_path
from kaigata.core.formats.typeset import MIDDLE, paper_behind, start_of
from kaigata.core.markup.page import LAID, Face, Fill, Page, Pen, Picture, Words

__all__ = ["page_svg"]

_FACES = {
    Face.WORDS: ("Barlow, sans-serif", 400),
    Face.STRONG: ("Barlow, sans-serif", 600),
    Face.FIGURES: ("'IBM Plex Mono', monospace", 400),
    Face.STRONG_FIGURES: ("'IBM Plex Mono', monospace", 600),
}


def page_svg(page: Page) -> str:
    """Return a page as SVG; the faces of type are named, not in it."""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {page.width:g} {page.height:g}" '
        f'width="{page.width:g}mm" height="{page.height:g}mm">\n'
        f'<rect width="100%" height="100%" fill="#fff"/>\n'
        f"{''.join(_picture(p, page.height) for p in page.pictures)}"
        f'<g transform="matrix(1 0 0 -1 0 {page.height:g})" fill="none" stroke="#000" '
        f'stroke-linecap="round" stroke-linejoin="round">\n'
        f"{''.join(_strokes(page))}{''.join(map(_fill, page.fills))}</g>\n"
        f"{''.join(_words(w, page.height) for w in page.words if w.text)}</svg>\n"
    )


def _picture(picture: Picture, height: float) -> str:
    png = io.BytesIO()
    Image.fromarray(picture.tones).save(png, "PNG")
    data, box = base64.b64encode(png.getvalue()).decode(), picture.box
    return (
        f'<image x="{box.left:.3f}" y="{height - box.top:.3f}" width="{box.width:.3f}" '
        f'height="{box.height:.3f}" preserveAspectRatio="none" '
        f'href="data:image/png;base64,{data}"/>\n'
    )


def _strokes(page: Page) -> Iterator[str]:
    for pen in Pen:
        drawn = [run_path(s.run) for s in page.strokes if s.pen == pen]
        if not drawn:
            continue
        width, dashes = LAID[pen]
        dashed = f' stroke-dasharray="{" ".join(f"{d:g}" for d in dashes)}"' if dashes else ""
        yield f'<path stroke-width="{width:g}"{dashed} d="{"".join(drawn)}"/>\n'


def _fill(fill: Fill) -> str:
    points = " ".join(f"{x:.3f},{y:.3f}" for x, y in fill.points)
    inside = "#fff" if fill.is_clear else "none" if fill.is_open else "#000"
    edge = "#000" if fill.is_open else "none"
    return f'<polygon points="{points}" fill="{inside}" stroke="{edge}" stroke-width="0.2"/>\n'


def _words(words: Words, height: float) -> str:
    x, y = words.at[0], height - words.at[1]
    family, weight = _FACES[words.face]
    # Paper behind a text that lines run through.
    clear = ""
    if words.is_clear:
        box = paper_behind(words)
        clear = (
            f'<rect x="{box.left:.3f}" y="{box.bottom:.3f}" width="{box.width:.3f}" '
            f'height="{box.height:.3f}" fill="#fff"/>'
        )
    return (
        f'<g transform="translate({x:.3f} {y:.3f}) rotate({-math.degrees(words.turn):.3f})">{clear}'
        f'<text x="{start_of(words):.3f}" y="{words.size * MIDDLE:.3f}" font-family="{family}" '
        f'font-weight="{weight}" font-size="{words.size:g}">{escape(words.text)}</text></g>\n'
    )
