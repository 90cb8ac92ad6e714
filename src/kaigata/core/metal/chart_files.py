"""Bend charts as CSV."""

from __future__ import annotations

import math
from collections.abc import Iterable
from pathlib import Path

from kaigata.core.errors import InputError
from kaigata.core.metal.allowance import check_factor
from kaigata.core.metal.charts import BendChart, ChartPoint, Method, constant_chart
from kaigata.core.metal.tables import Row, csv_text, rows_of, text_of_file

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
    if "method" not in heading:
        return tuple(
            constant_chart(
                check_factor(row.number("k"), where=row.where),
                row.positive("thickness"),
                name=name,
                origin=row.one_of("origin", ORIGINS, "typed"),
            )
            for row in rows_of(text, name, ("thickness", "k"))
        )
    found: dict[float, tuple[Method, list[ChartPoint]]] = {}
    for row in rows_of(text, name, ("thickness", "method", "value")):
        thickness = row.positive("thickness")
        method = Method(row.one_of("method", [m.value for m in Method], "k"))
        key = next((t for t in found if abs(t - thickness) < _SAME_THICKNESS), thickness)
        known, points = found.setdefault(key, (method, []))
        if known is not method:
            raise InputError(
                f"{thickness:g} mm is {method.value} here and {known.value} above",
                where=row.where,
                fix="A thickness has one method",
            )
        if method is not Method.DIN_6935:
            points.append(_point(row, method))
    return tuple(
        BendChart(thickness=t, method=method, points=tuple(points), name=name)
        for t, (method, points) in found.items()
    )


def _point(row: Row, method: Method) -> ChartPoint:
    origin = row.one_of("origin", ORIGINS, "typed")
    if method in (Method.K, Method.K_BY_RATIO):
        k = check_factor(row.number("value"), where=row.where)
        ratio = row.number("ratio") if method is Method.K_BY_RATIO else 0.0
        return ChartPoint(value=k, ratio=ratio, origin=origin)
    angle = row.positive("angle")
    if angle > 180:
        raise InputError(f"angle is {angle:g}, at most 180 degrees", where=row.where)
    radius = row.number("radius")
    if radius < 0:
        raise InputError(f"radius is {radius:g}, it must not be below 0", where=row.where)
    return ChartPoint(
        value=row.number("value"), angle=math.radians(angle), radius=radius, origin=origin
    )


def bend_charts_csv(charts: Iterable[BendChart]) -> str:
    """Return bend charts as CSV, as ``bend_charts_of`` reads it."""
    rows: list[list[object]] = []
    for chart in charts:
        if chart.method is Method.DIN_6935:
            rows.append([f"{chart.thickness:g}", chart.method.value, "", "", "", "", "standard"])
        for p in chart.points:
            is_table = chart.method in (Method.ALLOWANCE, Method.DEDUCTION)
            rows.append(
                [
                    f"{chart.thickness:g}",
                    chart.method.value,
                    f"{math.degrees(p.angle):.6g}" if is_table else "",
                    f"{p.radius:g}" if is_table else "",
                    f"{p.ratio:g}" if chart.method is Method.K_BY_RATIO else "",
                    f"{p.value:.6g}",
                    p.origin,
                ]
            )
    return csv_text(CHART_COLUMNS, rows)
