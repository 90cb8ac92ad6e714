"""Orders, their route cards, and what is found by its name."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import date, datetime
from typing import Annotated, Literal

from django.db.models import Count, Q, Sum
from django.db.models.functions import Coalesce
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.core.errors import InputError
from kaigata.shop.api.answers import answer, read
from kaigata.shop.models import Order, OrderLine
from kaigata.shop.services import orders, route_card

__all__ = [
    "FindView",
    "GaugesView",
    "OrderView",
    "OrdersView",
    "StampView",
]

LISTED = 200


class StationView(BaseModel):
    """A station on the route card."""

    number: int
    name: str
    state: Literal["nothing", "in work", "stamped", "stale"]
    note: str
    initials: str
    at: datetime | None


class OrderCard(BaseModel):
    """An order as its route card shows it."""

    id: int
    number: str
    title: str
    customer: str
    yard: str
    due: date | None
    note: str
    parts: int
    pieces: int
    stations: list[StationView]


class OrderList(BaseModel):
    """Orders, newest first."""

    orders: list[OrderCard]


class NewOrder(BaseModel):
    """What starts an order."""

    number: Annotated[str, Field(min_length=1, max_length=40)]
    title: Annotated[str, Field(min_length=1, max_length=120)]
    customer: Annotated[str, Field(max_length=120)] = ""
    yard: Annotated[str, Field(max_length=120)] = ""
    due: date | None = None


class OrderChange(BaseModel):
    """What can be changed about an order."""

    model_config = ConfigDict(extra="forbid")

    number: Annotated[str, Field(min_length=1, max_length=40)] | None = None
    title: Annotated[str, Field(min_length=1, max_length=120)] | None = None
    customer: Annotated[str, Field(max_length=120)] | None = None
    yard: Annotated[str, Field(max_length=120)] | None = None
    due: date | None = None
    note: Annotated[str, Field(max_length=4000)] | None = None


class GaugeStateAnswer(BaseModel):
    """How far the parts of one gauge have come; ``utilisation`` of their sheets alone."""

    material: str
    thickness: float | None
    parts: int
    pieces: int
    placed: int
    sheets: int
    utilisation: float | None
    state: Literal["open", "searching", "stale", "short", "nested"]


class GaugeStateList(BaseModel):
    """The gauges of an order, thin ones first."""

    gauges: list[GaugeStateAnswer]


class StampAsk(BaseModel):
    """The station to stamp."""

    station: int


class Found(BaseModel):
    """Something found by its name."""

    kind: Literal["order", "part", "sheet"]
    title: str
    note: str
    order: int | None = None
    part: int | None = None


class FoundList(BaseModel):
    """What was found."""

    found: list[Found]


def _card(order: Order) -> OrderCard:
    return _cards([order])[0]


def _cards(listed: Sequence[Order]) -> list[OrderCard]:
    counted = Order.objects.filter(pk__in=[o.pk for o in listed]).annotate(
        parts=Count("lines"), pieces=Coalesce(Sum("lines__quantity"), 0)
    )
    counts = {pk: rest for pk, *rest in counted.values_list("pk", "parts", "pieces")}
    return [
        OrderCard(
            id=order.pk,
            number=order.number,
            title=order.title,
            customer=order.customer,
            yard=order.yard,
            due=order.due,
            note=order.note,
            parts=counts[order.pk][0],
            pieces=counts[order.pk][1],
            stations=[StationView(**{f: getattr(s, f) for f in s.__slots__}) for s in stations],
        )
        for order, stations in zip(listed, route_card.stations_of(listed), strict=True)
    ]


class OrdersView(APIView):
    """All orders."""

    @extend_schema(responses=OrderList, operation_id="orders_list")
    def get(self, request: Request) -> Response:
        """List orders, newest first."""
        return answer(OrderList(orders=_cards(list(Order.objects.all()[:LISTED]))))

    @extend_schema(request=NewOrder, responses={201: OrderCard}, operation_id="order_start")
    def post(self, request: Request) -> Response:
        """Start an order."""
        asked = read(NewOrder, request)
        if Order.objects.filter(number=asked.number).exists():
            raise InputError(f"there is an order {asked.number} already", fix="Give another number")
        order = Order.objects.create(**asked.model_dump())
        return answer(_card(order), 201, about=order.number)


class OrderView(APIView):
    """One order."""

    @extend_schema(responses=OrderCard, operation_id="order_show")
    def get(self, request: Request, order: int) -> Response:
        """Show an order and its route card."""
        return answer(_card(get_object_or_404(Order, pk=order)))

    @extend_schema(request=OrderChange, responses=OrderCard, operation_id="order_change")
    def patch(self, request: Request, order: int) -> Response:
        """Change number, title, customer, due date or note of an order."""
        known = get_object_or_404(Order, pk=order)
        asked = read(OrderChange, request).model_dump(exclude_unset=True)
        # A date may be taken away; words are never null.
        orders.change_order(known, {n: v for n, v in asked.items() if v is not None or n == "due"})
        return answer(_card(known))


class GaugesView(APIView):
    """The gauges of an order."""

    @extend_schema(responses=GaugeStateList, operation_id="gauges_show")
    def get(self, request: Request, order: int) -> Response:
        """Show how far each gauge of an order has come."""
        states = orders.gauge_states(get_object_or_404(Order, pk=order))
        gauges = [GaugeStateAnswer(**{f: getattr(s, f) for f in s.__slots__}) for s in states]
        return answer(GaugeStateList(gauges=gauges))


class StampView(APIView):
    """Stamps on the route card."""

    @extend_schema(request=StampAsk, responses=OrderCard, operation_id="stamp_set")
    def post(self, request: Request, order: int) -> Response:
        """Declare a station done."""
        known = get_object_or_404(Order, pk=order)
        station = read(StampAsk, request).station
        route_card.stamp(known, station, request.user)
        return answer(_card(known), about=route_card.STATIONS[station])

    @extend_schema(
        parameters=[OpenApiParameter("station", int, required=True)],
        request=None,
        responses=OrderCard,
        operation_id="stamp_take_away",
    )
    def delete(self, request: Request, order: int) -> Response:
        """Take a station's stamp away."""
        known = get_object_or_404(Order, pk=order)
        station = request.query_params.get("station", "")
        route_card.unstamp(known, int(station) if station.isdecimal() else 0)
        return answer(_card(known))


class FindView(APIView):
    """Finding things by name."""

    @extend_schema(
        parameters=[OpenApiParameter("q", str)], responses=FoundList, operation_id="find"
    )
    def get(self, request: Request) -> Response:
        """Find orders, parts and sheets whose names hold a text."""
        text = request.query_params.get("q", "").strip()
        return answer(FoundList(found=_found(text) if text else []))


def _found(text: str) -> list[Found]:
    from kaigata.shop.models import StockSheet

    orders = Order.objects.filter(Q(number__icontains=text) | Q(title__icontains=text))[:5]
    lines = OrderLine.objects.filter(part__name__icontains=text).light().select_related("order")
    sheets = StockSheet.objects.filter(name__icontains=text)[:5]
    return [
        *(Found(kind="order", title=str(o), note=o.customer, order=o.pk) for o in orders),
        *(
            Found(kind="part", title=x.part.name, note=x.order.number, order=x.order.pk,
                  part=x.part.pk)
            for x in lines[:8]
        ),
        *(Found(kind="sheet", title=s.name, note=f"{s.count} in stock") for s in sheets),
    ]  # fmt: skip
