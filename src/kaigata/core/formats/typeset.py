"""How words are set: in which fonts, how long they are, and where they stand about their place."""

from __future__ import annotations

import math
from collections.abc import Iterator
from functools import cache
from pathlib import Path

from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.cidfonts import UnicodeCIDFont
from reportlab.pdfbase.ttfonts import TTFont

from kaigata.core.markup.page import Anchor, Box, Face, Words

__all__ = ["MIDDLE", "known_fonts", "paper_behind", "runs_of", "start_of"]

_FONTS = Path(__file__).parent / "fonts"
_FILES = {
    Face.WORDS: "Barlow-Regular",
    Face.STRONG: "Barlow-SemiBold",
    Face.FIGURES: "IBMPlexMono-Regular",
    Face.STRONG_FIGURES: "IBMPlexMono-SemiBold",
}
_OTHER = "HeiseiKakuGo-W5"
"""Set where a letter is in none of ours: it comes with every reader of PDF."""
MIDDLE = 0.35
"""Height of the middle of capitals and figures over the base line, for type of size 1."""


@cache
def known_fonts() -> dict[Face, TTFont]:
    """Return the faces of type, known to the writer from then on."""
    fonts = {face: TTFont(name, str(_FONTS / f"{name}.ttf")) for face, name in _FILES.items()}
    for font in fonts.values():
        pdfmetrics.registerFont(font)
    pdfmetrics.registerFont(UnicodeCIDFont(_OTHER))
    return fonts


def runs_of(words: Words) -> Iterator[tuple[str, str, float]]:
    """Yield runs of a text, with the font each is set in and how long it is, mm."""
    for text, font in _set_in(words):
        yield text, font, pdfmetrics.stringWidth(text, font, words.size)


def start_of(words: Words) -> float:
    """Return where a text begins, mm along it from its place."""
    long = math.fsum(run for _, _, run in runs_of(words))
    return {Anchor.START: 0.0, Anchor.MIDDLE: -long / 2, Anchor.END: -long}[words.anchor]


def paper_behind(words: Words) -> Box:
    """Return what is left clear behind a text, about its place, before it is turned."""
    long = math.fsum(run for _, _, run in runs_of(words))
    start, half = start_of(words), words.size * 0.55
    return Box(left=start - 0.5, bottom=-half, right=start + long + 0.5, top=half)


def _set_in(words: Words) -> Iterator[tuple[str, str]]:
    """Yield runs of a text with the font each is set in."""
    known = known_fonts()[words.face].face.charToGlyph
    run, is_known = "", True
    for letter in words.text:
        if (ord(letter) in known) != is_known:
            if run:
                yield run, _FILES[words.face] if is_known else _OTHER
            run, is_known = "", not is_known
        run += letter
    if run:
        yield run, _FILES[words.face] if is_known else _OTHER
