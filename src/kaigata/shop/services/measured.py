"""Back from the floor: what measurements propose for a chart, and what that would change."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from statistics import fmean

from django.utils import timezone

from kaigata.core.blank import unfold
from kaigata.core.findings import counted
from kaigata.core.metal.allowance import bend_allowance, bend_deduction
from kaigata.core.metal.charts import ChartPoint, Method, constant_chart
from kaigata.core.metal.measured import (
    Estimate,
    MeasuredBend,
    MeasuredSize,
    k_from_bends,
    kerf_from_sizes,
)
from kaigata.shop.models import Blank, CutRow, Gauge
from kaigata.shop.services.blanks import document_of, face_up_of
from kaigata.shop.services.drawn import folded_of

__all__ = ["Changed", "chart_points", "propose_k", "take_kerf"]

_SAME = 1e-3
_SHOWN = 12
"""Parts of which it is shown what a chart would change."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Changed:
    """A part and the size of its blank, mm, as it is and as it would be."""

    name: str
    order: str
    before: tuple[float, float]
    after: tuple[float, float]


def propose_k(gauge: Gauge, bends: Sequence[MeasuredBend]) -> tuple[Estimate, list[Changed]]:
    """Return the K that coupons of a gauge tell of, and what it would change.

    What it changes is shown where the gauge has one K for every bend.

    Raises
    ------
    InputError
        The measurements cannot be right.
    """
    found = k_from_bends(bends, thickness=gauge.thickness)
    if Method(gauge.method) is not Method.K:
        return found, []
    near = (gauge.thickness - _SAME, gauge.thickness + _SAME)
    blanks = Blank.objects.filter(
        part__line__material=gauge.material, part__thickness__range=near, own_k=None
    ).select_related("part__line__order")
    changed = (_changed(b, found.value) for b in blanks[:_SHOWN])
    return found, [c for c in changed if c.before != c.after]


def chart_points(gauge: Gauge, bends: Sequence[MeasuredBend], found: Estimate) -> list[ChartPoint]:
    """Return measured bends as rows of a gauge's chart, by its method.

    One K is the mean of all; else those of one radius, and in tables of one angle, are a row.
    """
    method, t = Method(gauge.method), gauge.thickness
    if method in (Method.K, Method.DIN_6935):
        return [ChartPoint(value=round(found.value, 4), origin="measured")]
    alike: dict[tuple[float, float], list[float]] = defaultdict(list)
    for bend, k in zip(bends, found.each, strict=True):
        angle = 0.0 if method is Method.K_BY_RATIO else bend.angle
        alike[angle, bend.inside_radius].append(k)
    points = []
    for (angle, radius), factors in sorted(alike.items()):
        k = fmean(factors)
        if method is Method.K_BY_RATIO:
            points.append(ChartPoint(value=round(k, 4), ratio=radius / t, origin="measured"))
            continue
        takes = bend_allowance if method is Method.ALLOWANCE else bend_deduction
        value = takes(angle, inside_radius=radius, thickness=t, k=k)
        points.append(
            ChartPoint(value=round(value, 4), angle=angle, radius=radius, origin="measured")
        )
    return points


def _changed(blank: Blank, k: float) -> Changed:
    folded = folded_of(blank.part)
    chart = constant_chart(k, folded.thickness, origin="measured")
    takes = tuple(chart.take(b.angle, b.inside_radius) for b in folded.bends)
    after = unfold(
        folded, takes=takes, anchor=blank.anchor, face_up=face_up_of(blank),
        turn=math.radians(blank.turn),
    )  # fmt: skip
    document = document_of(blank)
    return Changed(
        name=blank.part.name,
        order=blank.part.line.order.number,
        before=(round(document.width, 4), round(document.height, 4)),
        after=(round(after.width, 4), round(after.height, 4)),
    )


def take_kerf(row: CutRow, sizes: Sequence[MeasuredSize], *, kerf: float) -> None:
    """Take the kerf that sizes of parts cut with another tell of, with where it comes from.

    It rests on what the parts were cut with, not on what the chart says by now: taken twice it is
    the same.

    Raises
    ------
    InputError
        The measurements cannot be right.
    """
    found = kerf_from_sizes(sizes, kerf=kerf)
    row.kerf = round(found.value, 4)
    spread = f", ± {found.spread:.3f} mm" if len(sizes) > 1 else ""
    row.kerf_origin = f"measured {timezone.now():%Y-%m-%d}: {counted(len(sizes), 'size')}{spread}"
    row.save()
