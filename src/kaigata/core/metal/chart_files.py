"""Bend charts as CSV."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from pathlib import Path

from kaigata.core.errors import InputError
from kaigata.core.metal.charts import (
    BendChart,
    ChartPoint,
    Method,
    is_for_same_bend,
    require_possible,
)
from kaigata.core.metal.tables import Row, csv_text, number_text, rows_of, text_of_file

__all__ = ["CHART_COLUMNS", "ORIGINS", "bend_charts_csv", "bend_charts_of", "read_bend_charts"]

CHART_COLUMNS = ("thickness", "method", "angle", "radius", "ratio", "value", "origin")
ORIGINS = ("standard", "supplier", "measured", "typed")

_SAME_THICKNESS = 1e-3


def read_bend_charts(path: Path) -> tuple[BendChart, ...]:
    """Read bend charts from a CSV file, as ``bend_charts_of``.

    Raises
    ------
    InputError
        The file or a row is unusable; file and line are told.
    """
    return bend_charts_of(text_of_file(path), path.name)


def bend_charts_of(text: str, name: str) -> tuple[BendChart, ...]:
    """Return the bend charts of a CSV, one a thickness.

    Either the columns ``thickness,k`` (and ``origin``), one K a thickness; or
    ``thickness,method,angle,radius,ratio,value,origin``, where ``method`` is ``k``,
    ``k-by-ratio`` (with ``ratio``), ``din-6935`` (no value), ``allowance`` or ``deduction`` (with
    ``angle`` in degrees turned from flat and ``radius``).

    Raises
    ------
    InputError
        A column is missing or a value is wrong; the line is told.
    """
    heading = text.removeprefix("\ufeff").partition("\n")[0]
    value = "value" if "method" in heading else "k"
    needed = ("thickness", "method", "value") if value == "value" else ("thickness", "k")
    found: dict[float, tuple[Method, list[ChartPoint]]] = {}
    for row in rows_of(text, name, needed):
        thickness = row.positive("thickness")
        method = Method(row.one_of("method", [m.value for m in Method], "k"))
        key = next((t for t in found if abs(t - thickness) < _SAME_THICKNESS), thickness)
        is_new = key not in found
        known, points = found.setdefault(key, (method, []))
        if known is not method:
            raise InputError(
                f"{thickness:g} mm is {method.value} here and {known.value} above",
                where=row.where,
                fix="A thickness has one method",
            )
        if method is not Method.DIN_6935:
            points.append(_point(row, method, key, row.number(value), points))
        elif not is_new:
            raise _twice(f"{thickness:g} mm", row)
    return tuple(
        BendChart(thickness=t, method=method, points=tuple(points), name=name)
        for t, (method, points) in found.items()
    )


def _point(
    row: Row, method: Method, thickness: float, value: float, above: Sequence[ChartPoint]
) -> ChartPoint:
    """Return the row of a chart that has none yet for such a bend."""
    origin = row.one_of("origin", ORIGINS, "typed")
    ratio = angle = radius = 0.0
    said = f"{thickness:g} mm"
    if method is Method.K_BY_RATIO:
        ratio = row.number("ratio")
        said += f" with ratio {ratio:g}"
    elif method is not Method.K:
        angle, radius = row.positive("angle"), row.number("radius")
        if angle > 180:
            raise InputError(f"angle is {angle:g}, at most 180 degrees", where=row.where)
        if radius < 0:
            raise InputError(f"radius is {radius:g}, it must not be below 0", where=row.where)
        said += f" with {angle:g} degrees and radius {radius:g}"
    point = ChartPoint(
        value=value, ratio=ratio, angle=math.radians(angle), radius=radius, origin=origin
    )
    require_possible(point, method, thickness, where=row.where)
    if any(is_for_same_bend(point, other) for other in above):
        raise _twice(said, row)
    return point


def _twice(said: str, row: Row) -> InputError:
    return InputError(f"{said} stands twice", where=row.where, fix="Leave one of the rows out")


def bend_charts_csv(charts: Iterable[BendChart]) -> str:
    """Return bend charts as CSV, as ``bend_charts_of`` reads it."""
    rows: list[list[object]] = []
    for chart in charts:
        if chart.method is Method.DIN_6935:
            rows.append(
                [number_text(chart.thickness), chart.method.value, "", "", "", "", "standard"]
            )
        for p in chart.points:
            is_table = chart.method in (Method.ALLOWANCE, Method.DEDUCTION)
            rows.append(
                [
                    number_text(chart.thickness),
                    chart.method.value,
                    number_text(math.degrees(p.angle)) if is_table else "",
                    number_text(p.radius) if is_table else "",
                    number_text(p.ratio) if chart.method is Method.K_BY_RATIO else "",
                    number_text(p.value),
                    p.origin,
                ]
            )
    return csv_text(CHART_COLUMNS, rows)
