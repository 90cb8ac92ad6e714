"""Flats already drawn: DXF in, regions with bend lines out.

``strokes`` takes lines and arcs out of the file, with what their layers and line types say
(``layers``); ``joining`` makes closed contours of loose strokes; ``flats`` makes parts of the
contours; ``zones`` tells what each bend takes of a flat once it is known, and ``folding`` makes a
folded part of them; ``matching`` finds bend lines again in a later drawing. ``across`` is a line
over a region, as bend lines and zones need it.
"""

from kaigata.core.intake.drawing.flats import Drawing, DrawnBend, DrawnFlat, read_drawing
from kaigata.core.intake.drawing.folding import BendGiven, folded_drawn
from kaigata.core.intake.drawing.matching import matched_lines

__all__ = [
    "BendGiven",
    "Drawing",
    "DrawnBend",
    "DrawnFlat",
    "folded_drawn",
    "matched_lines",
    "read_drawing",
]
