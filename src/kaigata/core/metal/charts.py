"""Bend charts: what a bend of any angle and radius takes in one thickness of a material."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum
from itertools import pairwise

from kaigata.core.errors import InputError
from kaigata.core.metal.allowance import bend_allowance, check_factor, outside_setback

__all__ = [
    "BendChart",
    "BendTake",
    "ChartPoint",
    "Method",
    "constant_chart",
    "din_factor",
    "is_for_same_bend",
    "own_take",
    "require_possible",
]

_SAME_RADIUS = 1e-3
"""mm, radians, or radius over thickness: values that differ less are one."""
_ROUNDED = 0.02
"""How far K may lie outside of the sheet where a table's values were rounded."""


class Method(StrEnum):
    """How a chart gives a bend's allowance."""

    K = "k"
    K_BY_RATIO = "k-by-ratio"
    DIN_6935 = "din-6935"
    ALLOWANCE = "allowance"
    DEDUCTION = "deduction"


@dataclass(frozen=True, slots=True, kw_only=True)
class ChartPoint:
    """A row of a chart.

    Attributes
    ----------
    value : float
        K (no unit), or an allowance or deduction in mm.
    ratio : float
        Inside radius over thickness, of ``k-by-ratio``.
    angle, radius : float
        Turn from flat in radians and inside radius in mm, of the tables.
    origin : str
        ``standard``, ``supplier``, ``measured`` or ``typed``.
    """

    value: float
    ratio: float = 0.0
    angle: float = 0.0
    radius: float = 0.0
    origin: str = "typed"


@dataclass(frozen=True, slots=True, kw_only=True)
class BendTake:
    """What one bend takes in the flat, and where that comes from.

    Attributes
    ----------
    inside_radius : float
        The radius it is bent with, mm.
    k : float
        Neutral-axis factor that gives the allowance.
    spread : float
        Distance in the flat between the lines where the modelled bend begins and ends, mm: the
        allowance, unless the bend is made with another radius than it was modelled with.
    origin : str
        Where the number comes from, to be read by people.
    """

    inside_radius: float
    k: float
    spread: float
    origin: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BendChart:
    """A bend chart of one thickness."""

    thickness: float
    method: Method
    points: tuple[ChartPoint, ...]
    name: str = ""

    def __post_init__(self) -> None:
        """Refuse a chart that cannot answer.

        Raises
        ------
        InputError
            It has no rows where it needs some, a row is out of range, or two are for one bend.
        """
        if self.method is not Method.DIN_6935 and not self.points:
            raise InputError(
                f"the {self.method.value} chart of {self.thickness:g} mm has no rows",
                fix="Add a row or choose a constant K",
            )
        for i, p in enumerate(self.points):
            require_possible(p, self.method, self.thickness)
            if any(is_for_same_bend(p, other) for other in self.points[:i]):
                raise InputError(
                    f"two rows of the {self.method.value} chart of {self.thickness:g} mm are for "
                    "the same bend",
                    fix="Leave one of them out",
                )

    def take(self, angle: float, inside_radius: float) -> BendTake:
        """Return what a bend takes.

        Between rows it is interpolated in a straight line. Outside the rows of a table the factor
        K of the nearest row is kept and the allowance formula used with it.

        Parameters
        ----------
        angle : float
            Turn from flat, radians.
        inside_radius : float
            Inside radius, mm.
        """
        k, origin = self._factor(angle, inside_radius)
        spread = angle * (inside_radius + k * self.thickness)
        label = f"{self.name}: {origin}" if self.name else origin
        return BendTake(inside_radius=inside_radius, k=k, spread=spread, origin=label)

    def _factor(self, angle: float, inside_radius: float) -> tuple[float, str]:
        if self.method is Method.K:
            point = self.points[0]
            return point.value, f"one K, {point.origin}"
        if self.method is Method.DIN_6935:
            return din_factor(inside_radius / self.thickness), "DIN 6935, standard"
        if self.method is Method.K_BY_RATIO:
            ratio = inside_radius / self.thickness
            k, how, origin = _along([(p.ratio, p.value, p.origin) for p in self.points], ratio)
            return k, f"K by radius over thickness {ratio:.2f}, {how}, {origin}"
        return self._table(angle, inside_radius)

    def _table(self, angle: float, inside_radius: float) -> tuple[float, str]:
        """Return K out of an allowance or deduction table.

        The rows of one radius are interpolated over the angle, then between the two radii next
        to the bend's own.
        """
        by_radius: dict[float, list[tuple[float, float, str]]] = {}
        for p in self.points:
            k = _table_factor(p, self.method, self.thickness)
            key = next((r for r in by_radius if abs(r - p.radius) < _SAME_RADIUS), p.radius)
            by_radius.setdefault(key, []).append((p.angle, k, p.origin))
        curves = []
        how_angle = ""
        for radius, rows in sorted(by_radius.items()):
            k, how_angle, origin = _along(rows, angle)
            curves.append((radius, k, origin))
        k, how, origin = _along(curves, inside_radius)
        steps = {how_angle, how} - {"row of the table"} or {"row of the table"}
        return k, f"{self.method.value} table, {' and '.join(sorted(steps))}, {origin}"


def is_for_same_bend(a: ChartPoint, b: ChartPoint) -> bool:
    """Whether two rows of a chart say what one and the same bend takes."""
    pairs = ((a.ratio, b.ratio), (a.angle, b.angle), (a.radius, b.radius))
    return all(abs(p - q) < _SAME_RADIUS for p, q in pairs)


def require_possible(
    point: ChartPoint, method: Method, thickness: float, *, where: str = ""
) -> None:
    """Refuse a row that no bend could agree with.

    Raises
    ------
    InputError
        Its factor K, or the one its allowance or deduction stands for, is not between 0 and 1.
    """
    if method in (Method.K, Method.K_BY_RATIO):
        check_factor(point.value, where=where)
    elif method is not Method.DIN_6935:
        if point.angle <= 0:
            raise InputError(
                f"a row of the {method.value} chart of {thickness:g} mm has no angle",
                where=where,
                fix="Give how far the bend is turned from flat",
            )
        k = _table_factor(point, method, thickness)
        if not -_ROUNDED <= k <= 1 + _ROUNDED:
            raise InputError(
                f"the {method.value} of {point.value:g} mm at {math.degrees(point.angle):g} "
                f"degrees and radius {point.radius:g} in {thickness:g} mm stands for K {k:.2f}, "
                "outside of the sheet",
                where=where,
                fix="Check the value, the angle (turned from flat) and the radius (inside)",
            )


def _table_factor(p: ChartPoint, method: Method, thickness: float) -> float:
    """Return the factor K that a row of a table stands for.

    Tables are interpolated in K, which hardly changes, rather than in mm.
    """
    allowance = p.value
    if method is Method.DEDUCTION:
        setback = outside_setback(p.angle, inside_radius=p.radius, thickness=thickness)
        allowance = 2 * setback - p.value
    k = (allowance / p.angle - p.radius) / thickness
    # Values are written in hundredths of a millimetre; at an end of its range K is that end.
    return min(max(k, 0.0), 1.0) if -_ROUNDED <= k <= 1 + _ROUNDED else k


def constant_chart(
    k: float, thickness: float, *, name: str = "", origin: str = "typed"
) -> BendChart:
    """Return a chart of one K for every bend."""
    point = ChartPoint(value=k, origin=origin)
    return BendChart(thickness=thickness, method=Method.K, points=(point,), name=name)


def din_factor(ratio: float) -> float:
    """Return the neutral-axis factor of DIN 6935 for inside radius over thickness.

    The standard's correction is ``k = 0.65 + log10(r/s) / 2``, 1 from r/s = 5 on, and multiplies
    half the thickness, so that our factor is half of it. Below 0 it has no meaning and 0 is taken.

    Examples
    --------
    >>> din_factor(1.0), din_factor(5.0), din_factor(0.0)
    (0.325, 0.5, 0.0)
    """
    if ratio <= 0:
        return 0.0
    if ratio >= 5:
        return 0.5
    return min(max((0.65 + math.log10(ratio) / 2) / 2, 0.0), 0.5)


def own_take(
    angle: float, *, modelled_radius: float, inside_radius: float, k: float, thickness: float
) -> BendTake:
    """Return what a bend takes that is given its own radius or K.

    The outside sizes of the part stay as modelled: what the other radius shortens at the corner
    (twice the difference of the outside setbacks) is added to the spread in the flat.
    """

    def setback(radius: float) -> float:
        return outside_setback(angle, inside_radius=radius, thickness=thickness)

    allowance = bend_allowance(angle, inside_radius=inside_radius, thickness=thickness, k=k)
    spread = allowance + 2 * (setback(modelled_radius) - setback(inside_radius))
    if spread <= 0:
        raise InputError(
            f"with an inside radius of {inside_radius:g} mm the bend would take {spread:.3f} mm",
            fix="Choose a radius nearer to the modelled one",
        )
    return BendTake(inside_radius=inside_radius, k=k, spread=spread, origin="typed for this bend")


def _along(rows: Sequence[tuple[float, float, str]], x: float) -> tuple[float, str, str]:
    """Return the value at ``x`` along rows (x, value, origin), how it was found, its origin."""
    ordered = sorted(rows)
    for at, value, origin in ordered:
        if abs(at - x) < _SAME_RADIUS:
            return value, "row of the table", origin
    if x < ordered[0][0]:
        return ordered[0][1], "under the table, K of its first row", ordered[0][2]
    if x > ordered[-1][0]:
        return ordered[-1][1], "over the table, K of its last row", ordered[-1][2]
    for (x0, v0, o0), (x1, v1, o1) in pairwise(ordered):
        if x0 <= x <= x1:
            share = (x - x0) / (x1 - x0)
            origin = o0 if o0 == o1 else f"{o0} and {o1}"
            return v0 + share * (v1 - v0), "interpolated", origin
    raise AssertionError("ordered rows cover every x between their ends")
