"""What is to be placed on what, and by which rules."""

from __future__ import annotations

from dataclasses import dataclass

from kaigata.core.errors import InputError
from kaigata.core.plane import Contour, Point, Region
from kaigata.core.plane.contour import require_simple
from kaigata.core.plane.region import require_sound

__all__ = ["BendLine", "NestOrder", "NestPart", "StockSheet", "gauge_name", "require_usable"]

_LARGEST = 1e6
"""mm: no sheet is a kilometre long, so a part that is was read in a wrong unit."""

_SAME = 1e-3

Gauge = tuple[str | None, float | None]


def gauge_name(gauge: Gauge) -> str:
    """Return a material and thickness as the trade says it."""
    material, thickness = gauge
    words = [f"{thickness:g}" if thickness is not None else "", material or ""]
    return " ".join(w for w in words if w) or "the order's material"


@dataclass(frozen=True, slots=True, kw_only=True)
class StockSheet:
    """A stock sheet: its lower left corner is 0,0.

    Attributes
    ----------
    id : str
        Its name.
    width, height : float
        mm, along x and y.
    count : int or None
        How many there are; None for as many as wanted.
    thickness, material
        Its gauge.
    outline : Contour, optional
        Of a remnant that is not a rectangle.
    cost : float, optional
        What the whole sheet costs; where every sheet of a gauge has one, the cheapest set of
        sheets is sought, else the one with the least area.
    """

    id: str
    width: float
    height: float
    count: int | None = None
    thickness: float | None = None
    material: str | None = None
    outline: Contour | None = None
    cost: float | None = None

    @property
    def gauge(self) -> Gauge:
        """Material and thickness."""
        return (self.material, self.thickness)

    @property
    def area(self) -> float:
        """Area of the sheet or of the remnant's outline, mm²."""
        return abs(self.outline.area) if self.outline else self.width * self.height


@dataclass(frozen=True, slots=True, kw_only=True)
class BendLine:
    """A bend as its flat shows it: its lines, mm, its angle, radians, and ``up`` or ``down``."""

    lines: tuple[tuple[Point, Point], ...]
    angle: float
    direction: str


@dataclass(frozen=True, slots=True, kw_only=True)
class NestPart:
    """A part to place; ``turns`` in radians, or None for any.

    ``bends`` do not matter to nesting: leads and micro-joints keep off them. They are etched
    ``whole``, in ``ticks`` of ``tick`` mm at their ends, or not (``none``); where they are, so are
    ``creases``. Of a ``filler`` at most ``quantity`` copies go where there is room left on the
    metal the other parts use; it never costs metal of its own.
    """

    id: str
    quantity: int
    region: Region
    turns: tuple[float, ...] | None = None
    may_mirror: bool = False
    thickness: float | None = None
    material: str | None = None
    priority: int = 0
    filler: bool = False
    bends: tuple[BendLine, ...] = ()
    etched: str = "none"
    tick: float = 10.0
    creases: tuple[tuple[Point, Point], ...] = ()

    @property
    def gauge(self) -> Gauge:
        """Material and thickness."""
        return (self.material, self.thickness)


@dataclass(frozen=True, slots=True, kw_only=True)
class NestOrder:
    """Sheets, parts, and the least distances between parts and to the sheet's edge, mm."""

    sheets: tuple[StockSheet, ...]
    parts: tuple[NestPart, ...]
    spacing: float
    margin: float

    @property
    def gauges(self) -> tuple[Gauge, ...]:
        """The gauges of the parts, in the order they come."""
        return tuple(dict.fromkeys(p.gauge for p in self.parts))


def require_usable(order: NestOrder) -> None:
    """Refuse an order no nest can be made of.

    Raises
    ------
    InputError
        Two parts or sheets of one name, a contour that crosses itself, a hole that is none, an
        outline outside its sheet, or distances larger than every sheet.
    """
    for kind, names in (
        ("part", [p.id for p in order.parts]),
        ("sheet", [s.id for s in order.sheets]),
    ):
        twice = next((n for i, n in enumerate(names) if n in names[:i]), None)
        if twice is not None:
            raise InputError(f"the {kind} {twice!r} stands twice", fix="Give each its own id")
    least = max(min(s.width, s.height) for s in order.sheets)
    for name, value in (("spacing", order.spacing), ("margin", 2 * order.margin)):
        if value >= least:
            what = "spacing" if name == "spacing" else "margin on both sides"
            raise InputError(
                f"the {what} of {value:g} mm leaves no room on any sheet (shorter side {least:g})",
                where=f"$.{name}",
                fix="Give a smaller one",
            )
    for i, part in enumerate(order.parts):
        require_sound(part.region, where=f"$.parts[{i}]", name=part.id)
        x0, y0, x1, y1 = part.region.outer.bounds
        if max(x1 - x0, y1 - y0) > _LARGEST:
            raise InputError(
                f"the part measures {x1 - x0:.6g} x {y1 - y0:.6g} mm",
                where=f"$.parts[{i}].outer ({part.id})",
                fix="Check the unit and the bulges of its vertices",
            )
    for i, sheet in enumerate(order.sheets):
        if sheet.outline is not None:
            require_simple(sheet.outline, where=f"$.sheets[{i}].outline ({sheet.id})")
            x0, y0, x1, y1 = sheet.outline.bounds
            if min(x0, y0, sheet.width - x1, sheet.height - y1) < -_SAME:
                raise InputError(
                    f"the outline reaches from {x0:g}, {y0:g} to {x1:g}, {y1:g}, the sheet from "
                    f"0, 0 to {sheet.width:g}, {sheet.height:g}",
                    where=f"$.sheets[{i}].outline ({sheet.id})",
                    fix="Keep the outline within the sheet's width and height",
                )
