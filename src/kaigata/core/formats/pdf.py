"""Pages as a PDF, true to size, with the type in it."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence

from PIL import Image
from reportlab.lib.colors import black, white
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfgen.canvas import Canvas
from reportlab.pdfgen.pathobject import PDFPathObject

from kaigata.core.formats.typeset import MIDDLE, known_fonts, paper_behind, runs_of, start_of
from kaigata.core.markup.page import LAID, Fill, Page, Pen, Stroke, Words
from kaigata.core.plane import Segment

__all__ = ["pages_pdf"]


def pages_pdf(pages: Sequence[Page], *, title: str) -> bytes:
    """Return pages as a PDF; the same pages give the same bytes.

    Parameters
    ----------
    pages : sequence of Page
        What to write.
    title : str
        What the document is called.

    Returns
    -------
    bytes
        The file.
    """
    known_fonts()
    stream = io.BytesIO()
    canvas = Canvas(stream, invariant=1, pageCompression=1, initialFontName="Helvetica")
    canvas.setTitle(title)
    canvas.setCreator("Kaigata")
    for page in pages:
        canvas.setPageSize((page.width * mm, page.height * mm))
        canvas.scale(mm, mm)
        canvas.setLineCap(1)
        canvas.setLineJoin(1)
        canvas.saveState()
        if page.window is not None:
            path = canvas.beginPath()
            path.rect(page.window.left, page.window.bottom, page.window.width, page.window.height)
            canvas.clipPath(path, stroke=0)
        for picture in page.pictures:
            image, box = ImageReader(Image.fromarray(picture.tones)), picture.box
            canvas.drawImage(image, box.left, box.bottom, box.width, box.height)
        for pen in Pen:
            _draw_strokes(canvas, pen, [s for s in page.strokes if s.pen == pen])
        canvas.restoreState()
        for fill in page.fills:
            _draw_fill(canvas, fill)
        for words in page.words:
            if words.text:
                _write(canvas, words)
        canvas.showPage()
    canvas.save()
    return stream.getvalue()


def _draw_strokes(canvas: Canvas, pen: Pen, strokes: Sequence[Stroke]) -> None:
    if not strokes:
        return
    width, dashes = LAID[pen]
    canvas.setLineWidth(width)
    canvas.setDash(list(dashes))
    path = canvas.beginPath()
    for stroke in strokes:
        path.moveTo(*stroke.run[0].start)
        for segment in stroke.run:
            _along(path, segment)
        if stroke.run[0].start == stroke.run[-1].end:
            path.close()
    canvas.drawPath(path)


def _along(path: PDFPathObject, segment: Segment) -> None:
    """Go along a segment; an arc is cut into quarters, each a cubic within 3e-4 of its radius."""
    if segment.is_line:
        path.lineTo(*segment.end)
        return
    cx, cy = segment.centre
    n = max(1, math.ceil(abs(segment.sweep) / (math.pi / 2) - 1e-9))
    step = segment.sweep / n
    # The usual cubic for an arc: handles of 4/3 tan(step / 4) radii.
    reach = 4 / 3 * math.tan(step / 4)
    x, y = segment.start[0] - cx, segment.start[1] - cy
    cos, sin = math.cos(step), math.sin(step)
    for i in range(n):
        to_x, to_y = x * cos - y * sin, x * sin + y * cos
        end = segment.end if i == n - 1 else (cx + to_x, cy + to_y)
        path.curveTo(
            cx + x - reach * y, cy + y + reach * x,
            cx + to_x + reach * to_y, cy + to_y - reach * to_x,
            *end,
        )  # fmt: skip
        x, y = to_x, to_y


def _draw_fill(canvas: Canvas, fill: Fill) -> None:
    canvas.setDash([])
    canvas.setLineWidth(0.2)
    canvas.setFillColor(white if fill.is_clear else black)
    path = canvas.beginPath()
    path.moveTo(*fill.points[0])
    for p in fill.points[1:]:
        path.lineTo(*p)
    path.close()
    canvas.drawPath(path, stroke=int(fill.is_open), fill=int(fill.is_clear or not fill.is_open))


def _write(canvas: Canvas, words: Words) -> None:
    canvas.saveState()
    canvas.translate(*words.at)
    canvas.rotate(math.degrees(words.turn))
    if words.is_clear:
        box = paper_behind(words)
        canvas.setFillColor(white)
        canvas.rect(box.left, box.bottom, box.width, box.height, stroke=0, fill=1)
    canvas.setFillColor(black)
    x = start_of(words)
    for text, font, long in runs_of(words):
        canvas.setFont(font, words.size)
        canvas.drawString(x, -words.size * MIDDLE, text)
        x += long
    canvas.restoreState()
