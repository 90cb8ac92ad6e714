"""Bend charts between the records and the core."""

from __future__ import annotations

import math
from dataclasses import asdict

from kaigata.core.errors import InputError
from kaigata.core.metal.charts import BendChart, ChartPoint, Method, constant_chart
from kaigata.core.metal.limits import Limits
from kaigata.core.metal.stores import STANDARD_K
from kaigata.shop.models import Gauge, Material, ShopLimits, StockSheet

__all__ = ["chart_of_gauge", "chart_of_record", "find_gauge", "keep_chart", "limits", "record_of"]

_SAME = 1e-3


def find_gauge(material: Material | None, thickness: float) -> Gauge | None:
    """Return the gauge of a thickness of a material."""
    near = (thickness - _SAME, thickness + _SAME)
    return Gauge.objects.filter(material=material, thickness__range=near).first()


def chart_of_gauge(material: Material | None, thickness: float) -> BendChart:
    """Return the bend chart of a thickness, or the usual K where the shop has none."""
    gauge = find_gauge(material, thickness)
    if gauge is None:
        return constant_chart(STANDARD_K, thickness, name="no chart", origin="standard")
    return chart_of_record(
        {
            "thickness": gauge.thickness,
            "method": gauge.method,
            "points": gauge.points,
            "name": f"{gauge.thickness:g} {gauge.material.title}",
        }
    )


def record_of(chart: BendChart) -> dict[str, object]:
    """Return a chart as a record keeps it; angles in degrees."""
    return {
        "thickness": chart.thickness,
        "method": chart.method.value,
        "name": chart.name,
        "points": [{**asdict(p), "angle": round(math.degrees(p.angle), 6)} for p in chart.points],
    }


def chart_of_record(record: dict[str, object]) -> BendChart:
    """Return the chart of a record.

    Raises
    ------
    InputError
        The record's values cannot make a chart.
    """
    points = record["points"]
    assert isinstance(points, list)
    return BendChart(
        thickness=float(str(record["thickness"])),
        method=Method(record["method"]),
        name=str(record["name"]),
        points=tuple(ChartPoint(**{**p, "angle": math.radians(p["angle"])}) for p in points),
    )


def keep_chart(gauge: Gauge, chart: BendChart) -> None:
    """Write a chart into its gauge.

    Raises
    ------
    InputError
        The chart is of another thickness.
    """
    if abs(gauge.thickness - chart.thickness) > _SAME:
        raise InputError(
            f"the chart is for {chart.thickness:g} mm, the gauge is {gauge.thickness:g} mm",
            fix="Choose the gauge of the chart's thickness",
        )
    kept = record_of(chart)
    gauge.method, gauge.points = str(kept["method"]), kept["points"]
    gauge.save()


def limits(material: Material | None, thickness: float) -> Limits:
    """Return the shop's limits for a gauge: its radii and sheets among them."""
    kept = ShopLimits.objects.first()
    gauge = find_gauge(material, thickness)
    near = (thickness - _SAME, thickness + _SAME)
    sheets = StockSheet.objects.filter(material=material, thickness__range=near)
    return Limits(
        **(kept.values if kept else {}),
        tensile=material.tensile if material else 400.0,
        radii=tuple(gauge.radii) if gauge else (),
        sheets=tuple((s.width, s.height) for s in sheets),
    )
