"""Shop data and the demo order, so that every screen has something real at first start."""

from __future__ import annotations

import json
from argparse import ArgumentParser

from django.contrib.auth import get_user_model
from django.core.management.base import BaseCommand
from django.db import transaction

from kaigata.core.metal.stores import standard_cut_chart, standard_materials
from kaigata.shop.models import (
    Gauge,
    Machine,
    Material,
    Order,
    Part,
    Pressing,
    StockSheet,
)
from kaigata.shop.services.charts import keep_chart
from kaigata.shop.services.cutting import keep_cut_chart
from kaigata.shop.services.people import RIGHTS, add_person
from kaigata.shop.services.reading import put_on_rack
from kaigata.shop.settings import ROOT

DEMO_USER, DEMO_PASSWORD = "kestrel", "repair-stand"
NUMBER = "24-031"
_PRESSINGS = (
    ("press nut M4", "in", 5.6, 7.0),
    ("press nut M5", "in", 6.5, 7.5),
    ("press nut M6", "in", 8.9, 9.0),
    ("press stud M5", "in", 5.0, 7.0),
    ("dimple 12", "out", None, 8.0),
    ("extruded hole M6", "out", 3.2, 8.0),
)
"""Demo shop data: what is pressed in and out, its hole and the room it needs, mm."""


class Command(BaseCommand):
    """``load_demo``: fill what is missing; ``--reset`` begins the demo order afresh."""

    help = "Load shop data, the demo user and the demo order; what is there stays."

    def add_arguments(self, parser: ArgumentParser) -> None:
        """Say which options there are."""
        parser.add_argument("--reset", action="store_true", help="Begin the demo order afresh.")
        parser.add_argument("--stores-only", action="store_true", help="Only user and shop data.")

    def handle(self, *args: object, **options: bool) -> None:
        """Load it."""
        demo = json.loads((ROOT / "demo" / "order.json").read_text(encoding="utf-8"))
        with transaction.atomic():
            _people()
            _stores(demo["sheets"])
            if options["stores_only"]:
                return
            if options["reset"]:
                Part.objects.filter(line__order__number=NUMBER).delete()
                Order.objects.filter(number=NUMBER).delete()
            if not Order.objects.filter(number=NUMBER).exists():
                _order(demo["parts"])


def _people() -> None:
    if not get_user_model().objects.filter(username=DEMO_USER).exists():
        add_person(user=DEMO_USER, name="A. Kestrel", password=DEMO_PASSWORD, rights=RIGHTS)


def _stores(sheets: list[dict[str, object]]) -> None:
    if Material.objects.exists():
        return
    for m in standard_materials():
        kept = Material.objects.create(
            name=m.name, title=m.title, density=m.density, price=m.price, tensile=m.tensile
        )
        for g in m.gauges:
            gauge = Gauge(
                material=kept, thickness=g.thickness, number=g.number, radii=list(g.radii)
            )
            keep_chart(gauge, g.chart)
    materials = {m.name: m for m in Material.objects.all()}
    keep_cut_chart(standard_cut_chart())
    for s in sheets:
        StockSheet.objects.create(
            name=s["id"],
            material=materials[str(s["material"])],
            **{n: s[n] for n in ("thickness", "width", "height", "count", "outline", "grain")},
        )
    for name, kind, hole, clear in _PRESSINGS:
        Pressing.objects.create(name=name, kind=kind, hole=hole, clear=clear)
    Machine.objects.create(name="Laser 1", process="laser", post="plain", width=3000, height=1500)
    Machine.objects.create(
        name="Waterjet 1", process="waterjet", post="plain", width=2500, height=1250
    )


def _order(parts: list[dict[str, object]]) -> None:
    order = Order.objects.create(
        number=NUMBER,
        title="Repair stands",
        customer="Halvik Street Furniture",
        yard="Fernbrook yard",
    )
    for p in parts:
        path = ROOT / "demo" / str(p["file"])
        line = put_on_rack(order, path.name, path.read_bytes())
        line.quantity = int(str(p["quantity"]))
        line.material = Material.objects.get(name=p["material"])
        line.save()
        line.part.name = str(p["id"]).replace("-", " ").capitalize()
        line.part.save()
