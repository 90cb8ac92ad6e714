"""Materials, gauges and limits: changed singly or as CSV tables."""

from __future__ import annotations

import math
from collections.abc import Iterable

from django.db import transaction
from django.db.models import QuerySet

from kaigata.core.errors import InputError
from kaigata.core.findings import counted
from kaigata.core.metal.chart_files import bend_charts_csv, bend_charts_of
from kaigata.core.metal.limits import LIMIT_REASONS
from kaigata.core.metal.stores import cut_chart_csv
from kaigata.core.metal.tables import Row, csv_text, number_text, rows_of
from kaigata.shop.models import Gauge, Material, Part, ShopLimits
from kaigata.shop.services import cutting, stock
from kaigata.shop.services.blanks import unfold_part
from kaigata.shop.services.charts import chart_of_record, keep_chart

__all__ = ["change_limits", "copy_gauge", "parts_of", "table", "take_in", "take_out"]

_COLUMNS = ("name", "title", "density", "price", "tensile", "note", "thickness", "number", "radii")
_SAME = 1e-3


def parts_of(gauge: Gauge) -> QuerySet[Part]:
    """Return the parts that are unfolded with a gauge."""
    near = (gauge.thickness - _SAME, gauge.thickness + _SAME)
    return Part.objects.filter(line__material_id=gauge.material_id, thickness__range=near)


def copy_gauge(gauge: Gauge, thickness: float) -> None:
    """Start a gauge as the copy of another.

    Raises
    ------
    InputError
        The material has the thickness already.
    """
    near = (thickness - _SAME, thickness + _SAME)
    if Gauge.objects.filter(material=gauge.material_id, thickness__range=near).exists():
        raise InputError(
            f"{gauge.material.title} has {thickness:g} mm already", fix="Give another thickness"
        )
    Gauge.objects.create(
        material=gauge.material,
        thickness=thickness,
        radii=gauge.radii,
        method=gauge.method,
        points=[{**p, "origin": "typed"} for p in gauge.points],
    )


def take_out(gauge: Gauge) -> None:
    """Take a gauge out of Stores.

    Raises
    ------
    InputError
        Parts are unfolded with it.
    """
    used = parts_of(gauge).select_related("line__order")
    if first := used.first():
        raise InputError(
            f"{counted(used.count(), 'part uses', 'parts use')} {gauge}, "
            f"the first is {first.name} of order {first.line.order.number}",
            fix="Give these parts another material first",
        )
    gauge.delete()


@transaction.atomic
def change_limits(values: dict[str, float]) -> None:
    """Change thresholds of the findings and look at every blank again.

    Raises
    ------
    InputError
        There is no such threshold.
    """
    unknown = next((n for n in values if n not in LIMIT_REASONS), None)
    if unknown is not None:
        raise InputError(
            f"there is no limit {unknown!r}", fix=f"There are {', '.join(LIMIT_REASONS)}"
        )
    kept = ShopLimits.objects.select_for_update().first() or ShopLimits()
    kept.values = {**kept.values, **values}
    kept.save()
    for part in Part.objects.filter(state=Part.State.READY).select_related("line__material"):
        unfold_part(part)


def table(name: str) -> str:
    """Return ``materials``, ``stock``, ``cut-chart`` or a material's bend charts as CSV.

    Raises
    ------
    InputError
        There is no such table.
    """
    if name == "materials":
        return csv_text(
            _COLUMNS,
            (
                [
                    m.name, m.title, *map(number_text, (m.density, m.price, m.tensile)), m.note,
                    number_text(g.thickness), g.number, " ".join(map(number_text, g.radii)),
                ]
                for m in Material.objects.all()
                for g in m.gauges.all()
            ),
        )  # fmt: skip
    if name == "stock":
        return stock.stock_table()
    if name == "cut-chart":
        return cut_chart_csv(cutting.cut_chart())
    material = _material(name)
    return bend_charts_csv(
        chart_of_record(
            {"thickness": g.thickness, "method": g.method, "points": g.points, "name": str(g)}
        )
        for g in material.gauges.select_related("material")
    )


def _material(name: str) -> Material:
    found = Material.objects.filter(name=name).first()
    if found is None:
        names = ", ".join(Material.objects.values_list("name", flat=True))
        raise InputError(
            f"there is no table {name!r}",
            fix=f"There are materials, stock, cut-chart and the charts of {names}",
        )
    return found


@transaction.atomic
def take_in(name: str, text: str, file: str) -> None:
    """Take a table in, all of it or nothing.

    Rows of materials and gauges that are not in the table stay.

    Raises
    ------
    InputError
        A line is wrong; file and line are told.
    """
    if name == "materials":
        _take_materials(rows_of(text, file, ("name", "title", "density", "price", "thickness")))
        return
    if name == "stock":
        stock.take_stock(text, file)
        return
    if name == "cut-chart":
        cutting.take_cut_chart(text, file)
        return
    material = _material(name)
    for chart in bend_charts_of(text, file):
        near = (chart.thickness - _SAME, chart.thickness + _SAME)
        gauge = material.gauges.filter(thickness__range=near).first()
        keep_chart(gauge or Gauge(material=material, thickness=chart.thickness), chart)


_OF_MATERIAL = ("title", "density", "price", "tensile", "note")
"""Columns that say the same in each row of a material."""


def _take_materials(rows: Iterable[Row]) -> None:
    first: dict[str, Row] = {}
    seen: dict[tuple[str, float], str] = {}
    for row in rows:
        before = first.setdefault(row["name"], row)
        differing = next((c for c in _OF_MATERIAL if row.get(c) != before.get(c)), None)
        if differing is not None:
            raise InputError(
                f"{differing} of {row['name']} is another than in {before.where}",
                where=row.where,
                fix="Say the same of a material in each of its rows",
            )
        gauge = (row["name"], round(row.positive("thickness"), 3))
        if gauge in seen:
            raise InputError(
                f"{row['thickness']} mm of {row['name']} stands in {seen[gauge]} already",
                where=row.where,
                fix="Keep one of them",
            )
        seen[gauge] = row.where
        _take_material(row)


def _take_material(row: Row) -> None:
    if not row["name"].replace("-", "").replace("_", "").isalnum():
        raise InputError(
            f"name is {row['name']!r}", where=row.where, fix="Letters, digits and - make a name"
        )
    material, _ = Material.objects.update_or_create(
        name=row["name"],
        defaults={
            "title": row["title"][:80] or row["name"],
            "density": row.positive("density"),
            "price": row.not_negative("price"),
            "tensile": row.not_negative("tensile", 400.0),
            "note": row.get("note", "")[:200],
        },
    )
    thickness = row.positive("thickness")
    try:
        radii = [float(r) for r in row.get("radii", "").split()]
    except ValueError as error:
        raise InputError(
            f"radii is {row['radii']!r}", where=row.where, fix="Write numbers with blanks between"
        ) from error
    if not all(0 <= r < math.inf for r in radii):
        raise InputError(
            f"radii is {row['radii']!r}", where=row.where, fix="Write radii of 0 mm and more"
        )
    near = (thickness - _SAME, thickness + _SAME)
    gauge = material.gauges.filter(thickness__range=near).first() or Gauge(
        material=material, thickness=thickness, points=[{"value": 0.44, "origin": "typed"}]
    )
    gauge.number, gauge.radii = row.get("number", "")[:10], radii
    # Through the chart, so that every record of a gauge has the same shape.
    keep_chart(
        gauge,
        chart_of_record(
            {
                "thickness": gauge.thickness,
                "method": gauge.method,
                "name": str(gauge),
                "points": [{"angle": 0.0, **p} for p in gauge.points],
            }
        ),
    )
