"""DXF R2010 in millimetres on the layers of the contract."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

import ezdxf
from ezdxf.document import Drawing
from ezdxf.enums import TextEntityAlignment
from ezdxf.layouts import Modelspace

from kaigata.core.plane import Contour, Point, Region, Segment

__all__ = ["DxfPlan", "new_document", "text_of"]

# No times and random numbers in the header: the same drawing is the same file, so that the hashes
# of two packets tell what differs.
ezdxf.options.write_fixed_meta_data_for_testing = True

_MM = 4
_METRIC = 1


@dataclass(frozen=True, slots=True)
class _Layer:
    colour: int
    line_type: str = "CONTINUOUS"


_LAYERS = {
    "CUT_OUTER": _Layer(7),
    "CUT_INNER": _Layer(7),
    "BEND_UP": _Layer(3, "DASHED"),
    "BEND_DOWN": _Layer(1, "DASHDOT"),
    "MARK": _Layer(6),
    "NOTE": _Layer(8),
    "SHEET": _Layer(9),
    "PATH_CUT": _Layer(4),
    "PATH_LEAD": _Layer(5),
    "PATH_RAPID": _Layer(8, "DOTTED"),
}

_PATTERNS = {
    "DASHED": ("Dashed __ __ __", [18.0, 12.0, -6.0]),
    "DASHDOT": ("Dash dot __ . __ .", [24.0, 16.0, -4.0, 0.0, -4.0]),
    "DOTTED": ("Dotted . . . .", [3.0, 0.0, -3.0]),
}


def new_document() -> Drawing:
    """Return an empty drawing in millimetres."""
    document = ezdxf.new("R2010", setup=False)
    document.header["$INSUNITS"] = _MM
    document.header["$MEASUREMENT"] = _METRIC
    return document


def text_of(document: Drawing) -> str:
    """Return a drawing as the text of a DXF file."""
    # In a set's order they would be written otherwise in every process.
    for kind in sorted(document.entitydb.dxf_types_in_use()):
        document.classes.add_class(kind)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()


class DxfPlan:
    """A drawing being made: contours, lines and notes on the contract's layers."""

    def __init__(self) -> None:
        self._document = new_document()
        for name, (text, pattern) in _PATTERNS.items():
            self._document.linetypes.add(name, pattern, description=text)
        for name, layer in _LAYERS.items():
            self._document.layers.add(name, color=layer.colour, linetype=layer.line_type)
        self._space: Modelspace = self._document.modelspace()

    def contour(self, contour: Contour, layer: str) -> None:
        """Draw a closed contour."""
        self._space.add_lwpolyline(
            contour.vertices, format="xyb", close=True, dxfattribs={"layer": layer}
        )

    def region(self, region: Region) -> None:
        """Draw a part's outline and holes."""
        self.contour(region.outer, "CUT_OUTER")
        for hole in region.holes:
            self.contour(hole, "CUT_INNER")

    def run(self, segments: Sequence[Segment], layer: str) -> None:
        """Draw an open or closed run of lines and arcs."""
        rows = [(*s.start, s.bulge) for s in segments] + [(*segments[-1].end, 0.0)]
        self._space.add_lwpolyline(rows, format="xyb", dxfattribs={"layer": layer})

    def line(self, a: Point, b: Point, layer: str) -> None:
        """Draw a straight line."""
        self._space.add_line(a, b, dxfattribs={"layer": layer})

    def note(self, text: str, at: Point, *, size: float) -> None:
        """Write a text with its lower left corner at a point."""
        entity = self._space.add_text(text, height=size, dxfattribs={"layer": "NOTE"})
        entity.set_placement(at, align=TextEntityAlignment.LEFT)

    def text(self) -> str:
        """Return the drawing as the text of a DXF file."""
        return text_of(self._document)

    def write(self, path: Path) -> None:
        """Write the drawing to a file."""
        path.write_text(self.text(), encoding="utf-8")
