"""Lengths and angles as a drawing writes them, and the scales it may have."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from fractions import Fraction

__all__ = [
    "INCH",
    "INCH_FRACTIONS",
    "MILLIMETRE",
    "SCALES",
    "Unit",
    "angle_text",
    "scale_name",
    "standard_scale",
]


@dataclass(frozen=True, slots=True, kw_only=True)
class Unit:
    """What lengths are written in: its name, its size in mm, and the decimals it is given.

    ``papers`` are those of where it is used, the smaller first; the first two are the usual ones.
    With a ``fraction`` lengths are written to that part of the unit, and only what must be exact
    (radii, thicknesses, allowances, tolerances) in decimals.
    """

    name: str
    size: float
    decimals: int
    papers: tuple[str, ...]
    fraction: int = 0

    @property
    def step(self) -> float:
        """From one length that can be written to the next, mm."""
        return self.size / (self.fraction or 10.0**self.decimals)

    def length(self, value: float) -> str:
        """Return a length of mm as figures: as a fraction, or with all its decimals.

        Examples
        --------
        >>> replace(INCH, fraction=16).length(36.5), INCH.length(36.5)
        ('1 7/16', '1.437')
        """
        if self.fraction:
            return _fraction(value / self.size, self.fraction)
        return self.exact(value)

    def exact(self, value: float, decimals: int | None = None) -> str:
        """Return a length of mm with decimals, all of them given."""
        places = self.decimals if decimals is None else decimals
        text = f"{value / self.size:.{places}f}"
        return text.lstrip("-") if float(text) == 0 else text

    def short(self, value: float, decimals: int | None = None) -> str:
        """Return a length of mm with decimals, without the zeros at its end.

        Examples
        --------
        >>> MILLIMETRE.short(1.5), INCH.short(6.35), MILLIMETRE.short(1.26, 1)
        ('1.5', '0.25', '1.3')
        """
        text = self.exact(value, decimals)
        return text.rstrip("0").rstrip(".") if "." in text else text

    def read(self, text: str) -> float:
        """Return the length that figures say, mm.

        Examples
        --------
        >>> INCH.read("2 1/2"), MILLIMETRE.read("3.5")
        (63.5, 3.5)
        """
        return float(sum(Fraction(word) for word in text.split())) * self.size


def _fraction(value: float, denominator: int) -> str:
    """Return a number to so many parts of one, shortened."""
    whole, part = divmod(Fraction(round(abs(value) * denominator), denominator), 1)
    sign = "-" if value < 0 and (whole or part) else ""
    words = [str(int(whole))] if whole or not part else []
    return sign + " ".join(words + ([str(part)] if part else []))


MILLIMETRE = Unit(name="mm", size=1.0, decimals=2, papers=("A4", "A3", "A2", "A1"))
INCH = Unit(name="in", size=25.4, decimals=3, papers=("letter", "tabloid", "C", "D"))
INCH_FRACTIONS = {n: replace(INCH, fraction=n) for n in (16, 32, 64)}
"""Inches by the part that lengths are written to."""

SCALES = (10.0, 5.0, 2.0, 1.0, 0.5, 0.4, 1 / 3, 0.25, 0.2, 0.1, 0.05, 0.02, 0.01)
"""The scales of ISO 5455 from 10:1 to 1:100, and between 1:2 and 1:5, where most blanks are on
small paper, 1:2.5, 1:3 and 1:4: a flat half as large as there is room for is hard to read."""


def standard_scale(wide: float, high: float, *, room: tuple[float, float]) -> float:
    """Return the largest standard scale at which a size fits a room, or what fits where none does.

    Examples
    --------
    >>> standard_scale(400, 270, room=(180, 120))
    0.4
    """
    most = min(room[0] / wide, room[1] / high)
    return next((s for s in SCALES if s <= most), most)


def angle_text(angle: float, decimals: int = 2) -> str:
    """Return an angle of radians in degrees, with so many decimals where it needs them.

    Examples
    --------
    >>> angle_text(math.pi / 2), angle_text(1.2345)
    ('90°', '70.73°')
    """
    text = f"{math.degrees(angle):.{decimals}f}"
    return (text.rstrip("0").rstrip(".") if decimals else text) + "°"


def scale_name(scale: float) -> str:
    """Return a scale as it is written.

    Examples
    --------
    >>> scale_name(0.5), scale_name(2), scale_name(0.004)
    ('1:2', '2:1', '1:250')
    """
    if scale >= 1:
        return f"{scale:g}:1"
    below = 1 / scale
    near = round(below)
    return f"1:{near}" if math.isclose(below, near, rel_tol=1e-9) else f"1:{below:.1f}"
