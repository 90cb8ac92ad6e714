"""What is pressed into the sheet or out of it: a table of Stores over HTTP."""

from __future__ import annotations

from typing import Annotated, Literal

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field, StringConstraints
from rest_framework.request import Request
from rest_framework.response import Response

from kaigata.core.errors import InputError
from kaigata.shop.api.answers import answer, read
from kaigata.shop.api.stores import ShopDataView, StoresAnswer, stores_answer
from kaigata.shop.models import Pressing

__all__ = ["PressingView", "PressingsView"]

Size = Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]


class PressingAsk(BaseModel):
    """What is pressed ``in`` or ``out``: the diameter of its hole, and the room it needs, mm.

    ``clear`` is how far its middle must be from edges and bends; what is pressed out has half of
    its footprint there.
    """

    model_config = ConfigDict(extra="forbid")

    name: Annotated[str, StringConstraints(min_length=1, max_length=60, strip_whitespace=True)]
    kind: Literal["in", "out"]
    hole: Size | None = None
    clear: Size


def _keep(pressing: Pressing, asked: PressingAsk) -> None:
    if Pressing.objects.filter(name=asked.name).exclude(pk=pressing.pk).exists():
        raise InputError(f"there is {asked.name!r} already", fix="Give another name")
    if asked.kind == "in" and asked.hole is None:
        raise InputError(
            f"{asked.name} is pressed into no hole", fix="Give the diameter that its maker says"
        )
    if asked.hole is not None and asked.hole / 2 >= asked.clear:
        raise InputError(
            f"{asked.name} is to be {asked.clear:g} mm clear of edges, its hole has a radius of "
            f"{asked.hole / 2:g}",
            fix="Give the distance from its middle",
        )
    for name, value in asked.model_dump().items():
        setattr(pressing, name, value)
    pressing.save()


class PressingsView(ShopDataView):
    """What is pressed in and out."""

    @extend_schema(request=PressingAsk, responses={201: StoresAnswer}, operation_id="pressing_add")
    def post(self, request: Request) -> Response:
        """Keep one more."""
        _keep(Pressing(), read(PressingAsk, request))
        return answer(stores_answer(), 201)


class PressingView(ShopDataView):
    """Something pressed in or out."""

    @extend_schema(request=PressingAsk, responses=StoresAnswer, operation_id="pressing_change")
    def put(self, request: Request, pressing: int) -> Response:
        """Change it; recipes that have taken it before stay as they are."""
        _keep(get_object_or_404(Pressing, pk=pressing), read(PressingAsk, request))
        return answer(stores_answer())

    @extend_schema(request=None, responses=StoresAnswer, operation_id="pressing_take_out")
    def delete(self, request: Request, pressing: int) -> Response:
        """Take it out of Stores."""
        get_object_or_404(Pressing, pk=pressing).delete()
        return answer(stores_answer())
