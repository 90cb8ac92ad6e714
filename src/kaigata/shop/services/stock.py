"""Stock sheets: kept, taken off by a released nest, and remnants given back."""

from __future__ import annotations

from collections import Counter
from typing import Any

from django.db import transaction
from django.db.models import F

from kaigata.core.errors import InputError
from kaigata.core.nest.order import gauge_name
from kaigata.core.plane import Contour
from kaigata.core.plane.contour import require_simple
from kaigata.shop.models import Material, Nest, Release, StockSheet
from kaigata.shop.services.nesting import open_nest

__all__ = ["add_sheet", "edge_of", "release", "withdraw"]

LEAST_REMNANT = 300.0
"""mm: what is left of a sheet is worth keeping when it is at least this long."""


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
    metal = Material.objects.filter(name=material).first()
    if metal is None:
        raise InputError(f"there is no material {material}", where="material")
    if StockSheet.objects.filter(name=name).exists():
        raise InputError(f"there is a sheet {name} already", where="name", fix="Give another name")
    sheet = StockSheet(name=name, material=metal, outline=outline, **values)
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
    stock = {s.id: s for s in order.sheets}
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
    last = {stock[s.sheet].gauge: s for s in sorted(found.sheets, key=lambda s: s.number)}
    remnants = []
    for gauge, sheet in last.items():
        kind = stock[sheet.sheet]
        left = kind.width - sheet.used_length
        if kind.outline is not None or left < LEAST_REMNANT:
            continue
        source = StockSheet.objects.get(name=kind.id)
        name = f"{nest.run.order.number}-{nest.pk} {gauge_name(gauge)} remnant"
        StockSheet.objects.create(
            name=name,
            material=source.material,
            thickness=source.thickness,
            width=round(left, 1),
            height=source.height,
            outline=[[0, 0], [round(left, 1), 0], [round(left, 1), source.height],
                     [0, source.height]],
            count=1,
            grain=source.grain,
            cost=None if source.cost is None else round(source.cost * left / source.width, 2),
        )  # fmt: skip
        remnants.append(name)
    return Release.objects.create(nest=nest, taken=[list(t) for t in taken], remnants=remnants)


@transaction.atomic
def withdraw(nest: Nest) -> None:
    """Put a released nest's sheets back and take its remnants away again.

    Raises
    ------
    InputError
        It is not released, or one of its remnants has been used since.
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
        StockSheet.objects.filter(name=name).update(count=F("count") + count)
    kept.delete()
