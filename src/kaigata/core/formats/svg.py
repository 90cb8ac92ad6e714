"""Pictures of nested sheets as SVG, true to scale."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from kaigata.core.formats.nest_files import placed_regions, sheet_outline
from kaigata.core.nest import NestedSheet, NestOrder
from kaigata.core.plane import Contour, Region, Segment

__all__ = ["contour_path", "region_path", "run_path", "sheet_svg"]

PAPER, INK, METAL, ZINC = "#FCFBF7", "#1F272B", "#D9DFE1", "#EEEDE5"


def contour_path(contour: Contour) -> str:
    """Return a contour as SVG path data, arcs kept as arcs.

    Examples
    --------
    >>> contour_path(Contour.circle((1, 1), 1))
    'M0 1A1 1 0 0 1 2 1A1 1 0 0 1 0 1Z'
    """
    return run_path(contour.segments) + "Z"


def run_path(segments: Sequence[Segment]) -> str:
    """Return a run of lines and arcs, each beginning where the one before ends, as path data."""
    x, y = segments[0].start
    words = [f"M{_n(x)} {_n(y)}"]
    for s in segments:
        ex, ey = _n(s.end[0]), _n(s.end[1])
        if s.is_line:
            words.append(f"L{ex} {ey}")
        else:
            r = _n(s.radius)
            large = 1 if abs(s.bulge) > 1 else 0
            words.append(f"A{r} {r} 0 {large} {1 if s.bulge > 0 else 0} {ex} {ey}")
    return "".join(words)


def region_path(region: Region) -> str:
    """Return a region as SVG path data, to be filled by the even-odd rule."""
    return "".join(contour_path(c) for c in region.contours)


def sheet_svg(order: NestOrder, sheet: NestedSheet) -> str:
    """Return a picture of a nested sheet, y upwards, a unit a millimetre."""
    stock = next(s for s in order.sheets if s.id == sheet.sheet)
    outline = sheet_outline(stock)
    placed = placed_regions(order, sheet)
    # Large parts first, or a filled hole would hide what lies in it.
    placed.sort(key=lambda pair: -pair[1].outer.area)
    parts = "\n".join(
        f'<path d="{region_path(region)}" fill="{METAL}" fill-rule="evenodd">'
        f"<title>{escape(p.part)} {p.copy}</title></path>"
        for p, region in placed
    )
    w, h = stock.width, stock.height
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="-5 -5 {_n(w + 10)} {_n(h + 10)}" '
        f'style="background:{PAPER}">\n'
        f'<g transform="matrix(1 0 0 -1 0 {_n(h)})" stroke="{INK}" stroke-width="1" '
        f'vector-effect="non-scaling-stroke">\n'
        f'<path d="{contour_path(outline)}" fill="{ZINC}"/>\n{parts}\n'
        f'<path d="M{_n(sheet.used_length)} 0V{_n(h)}" fill="none" stroke-dasharray="4 8"/>\n'
        "</g></svg>\n"
    )


def _n(value: float) -> str:
    text = f"{value:.4f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text
