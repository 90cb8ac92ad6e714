"""Stock sheets: kept, taken off by a released nest, and remnants given back."""

from __future__ import annotations

import math
from collections import Counter
from typing import Any

from django.db import transaction
from django.db.models import F

from kaigata.core.errors import InputError
from kaigata.core.metal.tables import Row, csv_text, number_text, rows_of
from kaigata.core.nest import remnants_of
from kaigata.core.nest.order import gauge_name
from kaigata.core.plane import Contour
from kaigata.core.plane.contour import require_simple
from kaigata.shop.models import Material, Nest, Release, StockSheet
from kaigata.shop.services.nesting import open_nest

__all__ = ["add_sheet", "edge_of", "release", "stock_table", "take_stock", "withdraw"]


def edge_of(sheet: StockSheet) -> Contour:
    """Return the edge of a stock sheet, mm."""
    if sheet.outline:
        return Contour.from_rows(sheet.outline)
    return Contour.rectangle(sheet.width, sheet.height)


def add_sheet(
    *, name: str, material: str, outline: list[list[float]] | None, **values: Any
) -> StockSheet:
    """Keep a stock sheet or remnant.

    Raises
    ------
    InputError
        The name is taken, the material unknown, or the outline crosses itself or the sheet.
    """
    if StockSheet.objects.filter(name=name).exists():
        raise InputError(f"there is a sheet {name} already", where="name", fix="Give another name")
    return _keep_sheet(None, name, material=material, outline=outline, **values)


def _keep_sheet(
    sheet: StockSheet | None,
    name: str,
    *,
    material: str,
    outline: list[list[float]] | None,
    **values: Any,
) -> StockSheet:
    """Keep a sheet that is new, or change one that is known."""
    if not name.strip() or len(name) > 80:
        raise InputError("the name is empty or longer than 80 letters", where="name")
    metal = Material.objects.filter(name=material).first()
    if metal is None:
        names = ", ".join(Material.objects.values_list("name", flat=True))
        raise InputError(
            f"there is no material {material}", where="material", fix=f"Stores has {names}"
        )
    sheet = sheet or StockSheet(name=name)
    sheet.material, sheet.outline = metal, outline
    for field, value in values.items():
        setattr(sheet, field, value)
    if outline is not None:
        edge = edge_of(sheet)
        require_simple(edge, where="outline")
        x0, y0, x1, y1 = edge.bounds
        if min(x0, y0) < 0 or x1 > sheet.width or y1 > sheet.height:
            raise InputError(
                f"the outline reaches from {x0:g}, {y0:g} to {x1:g}, {y1:g}",
                where="outline",
                fix="Keep it within 0, 0 and the sheet's width and height",
            )
    sheet.save()
    return sheet


_COLUMNS = ("name", "material", "thickness", "width", "height", "count", "cost", "grain", "outline")


def stock_table() -> str:
    """Return the stock as CSV; the points of a remnant's outline are divided by semicolons."""
    return csv_text(
        _COLUMNS,
        (
            [
                s.name, s.material.name,
                *map(number_text, (s.thickness, s.width, s.height)),
                s.count, "" if s.cost is None else number_text(s.cost), number_text(s.grain),
                "; ".join(" ".join(map(number_text, row)) for row in s.outline or ()),
            ]
            for s in StockSheet.objects.select_related("material")
        ),
    )  # fmt: skip


@transaction.atomic
def take_stock(text: str, file: str) -> None:
    """Take stock sheets in from CSV, all of it or nothing; sheets it does not name stay.

    Raises
    ------
    InputError
        A line is wrong; file and line are told.
    """
    seen: dict[str, str] = {}
    for row in rows_of(text, file, ("name", "material", "thickness", "width", "height", "count")):
        name = row["name"].strip()
        if name in seen:
            raise InputError(f"{name!r} stands in {seen[name]} already", where=row.where)
        seen[name] = row.where
        count = row.number("count")
        if count != int(count) or count < 0:
            raise InputError(f"count is {row['count']!r}", where=row.where, fix="Write 0, 1, 2 …")
        values = {
            "material": row["material"].strip(),
            "thickness": row.positive("thickness"),
            "width": row.positive("width"),
            "height": row.positive("height"),
            "count": int(count),
            "cost": row.not_negative("cost") if row.get("cost", "").strip() else None,
            "grain": float(row.one_of("grain", ("0", "90"), "0")),
            "outline": _outline(row),
        }
        try:
            _keep_sheet(StockSheet.objects.filter(name=name).first(), name, **values)
        except InputError as error:
            raise InputError(error.what, where=row.where, fix=error.fix) from error


def _outline(row: Row) -> list[list[float]] | None:
    text = row.get("outline", "").strip()
    if not text:
        return None
    try:
        points = [[float(v) for v in point.split()] for point in text.split(";")]
    except ValueError as error:
        raise InputError("outline holds what is no number", where=row.where) from error
    if len(points) < 3 or any(
        len(p) not in (2, 3) or not all(map(math.isfinite, p)) for p in points
    ):
        raise InputError(
            "outline is no contour", where=row.where, fix="Write x y bulge; x y bulge; and so on"
        )
    return points


@transaction.atomic
def release(nest: Nest) -> Release:
    """Take a nest's sheets off stock and put its remnants there, all or nothing.

    Raises
    ------
    InputError
        It breaks rules or is released already, or a sheet it needs is no longer there.
    """
    nest = Nest.objects.select_for_update().get(pk=nest.pk)
    if hasattr(nest, "release"):
        raise InputError("the nest is released already")
    if nest.run.is_open:
        raise InputError("the search still works on this nest", fix="Stop it first")
    if nest.faults:
        raise InputError(
            f"the nest breaks rules: {nest.faults[0]['text']}",
            where=f"sheet {nest.faults[0]['sheet']}",
            fix="Move or take off what is marked first",
        )
    _, order, found = open_nest(nest)
    taken = sorted(Counter(s.sheet for s in found.sheets).items())
    for name, count in taken:
        # One statement takes and checks: of two nests that want the last sheet, one gets it.
        rows = StockSheet.objects.filter(name=name, count__gte=count)
        if not rows.update(count=F("count") - count):
            have = StockSheet.objects.filter(name=name).values_list("count", flat=True).first()
            raise InputError(
                f"the nest needs {count} of {name}, there {'is' if have == 1 else 'are'} "
                f"{have or 0}",
                fix="Nest again with what is in stock, or count the stock anew",
            )
    remnants = []
    for left in remnants_of(order, found):
        source = StockSheet.objects.get(name=left.sheet)
        gauge = gauge_name((source.material.name, source.thickness))
        name = f"{nest.run.order.number}-{nest.pk} {gauge} remnant"
        StockSheet.objects.create(
            name=name,
            material=source.material,
            thickness=source.thickness,
            width=left.width,
            height=left.height,
            outline=[[0, 0], [left.width, 0], [left.width, left.height], [0, left.height]],
            count=1,
            grain=source.grain,
            cost=None if source.cost is None else round(source.cost * left.width / source.width, 2),
        )  # fmt: skip
        remnants.append(name)
    return Release.objects.create(nest=nest, taken=[list(t) for t in taken], remnants=remnants)


@transaction.atomic
def withdraw(nest: Nest) -> None:
    """Put a released nest's sheets back and take its remnants away again.

    Raises
    ------
    InputError
        It is not released, one of its remnants has been used since, or a sheet of it was taken out
        of Stores.
    """
    kept = Release.objects.select_for_update().filter(nest=nest).first()
    if kept is None:
        raise InputError("the nest is not released")
    for name in kept.remnants:
        gone, _ = StockSheet.objects.filter(name=name, count=1).delete()
        if not gone:
            raise InputError(
                f"the remnant {name} has been used since",
                fix="Withdraw the nest that used it first",
            )
    for name, count in kept.taken:
        if not StockSheet.objects.filter(name=name).update(count=F("count") + count):
            raise InputError(
                f"there is no sheet {name} in Stores any more to put {count} back to",
                fix="Add it again with count 0, then withdraw the nest",
            )
    kept.delete()
