"""Flats already drawn: DXF in, regions with bend lines out.

``strokes`` takes lines and arcs out of the file, with what their layers and line types say
(``layers``); ``joining`` makes closed contours of loose strokes; ``flats`` makes parts of the
contours; ``folding`` makes a folded part of a flat once its bends are known.
"""

from kaigata.core.intake.drawing.flats import Drawing, DrawnBend, DrawnFlat, read_drawing
from kaigata.core.intake.drawing.folding import BendGiven, folded_drawn

__all__ = ["BendGiven", "Drawing", "DrawnBend", "DrawnFlat", "folded_drawn", "read_drawing"]
