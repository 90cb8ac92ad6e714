"""Machines and posts of Stores over HTTP."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response

from kaigata.core.errors import InputError
from kaigata.shop.api.answers import answer, read
from kaigata.shop.api.stores import ShopDataView, StoresAnswer, stores_answer
from kaigata.shop.models import Machine
from kaigata.shop.services import machines

__all__ = ["MachineView", "MachinesView", "PostView", "PostsView"]

Table = Annotated[float, Field(gt=0, le=100_000, allow_inf_nan=False)]


class MachineAsk(BaseModel):
    """A cutting machine: what it cuts by, the post it reads, and its table, mm."""

    model_config = ConfigDict(extra="forbid")

    name: Annotated[str, Field(min_length=1, max_length=80)]
    process: Literal["laser", "plasma", "waterjet"]
    post: str
    width: Table
    height: Table


class PostAsk(BaseModel):
    """A post as its JSON document; Stores checks it by its schema and tries it out."""

    model_config = ConfigDict(extra="forbid")

    post: dict[str, Any]


def _keep(machine: Machine, asked: MachineAsk) -> None:
    if all(p.name != asked.post for p in machines.known_posts()):
        raise InputError(f"there is no post {asked.post!r}", fix="Choose one of Stores")
    if Machine.objects.filter(name=asked.name).exclude(pk=machine.pk).exists():
        raise InputError(f"there is a machine {asked.name!r} already", fix="Give another name")
    for name, value in asked.model_dump().items():
        setattr(machine, name, value)
    machine.save()


class MachinesView(ShopDataView):
    """The cutting machines."""

    @extend_schema(request=MachineAsk, responses={201: StoresAnswer}, operation_id="machine_add")
    def post(self, request: Request) -> Response:
        """Keep one more machine."""
        _keep(Machine(), read(MachineAsk, request))
        return answer(stores_answer(), 201)


class MachineView(ShopDataView):
    """A cutting machine."""

    @extend_schema(request=MachineAsk, responses=StoresAnswer, operation_id="machine_change")
    def put(self, request: Request, machine: int) -> Response:
        """Change a machine."""
        _keep(get_object_or_404(Machine, pk=machine), read(MachineAsk, request))
        return answer(stores_answer())

    @extend_schema(request=None, responses=StoresAnswer, operation_id="machine_take_out")
    def delete(self, request: Request, machine: int) -> Response:
        """Take a machine out of Stores."""
        get_object_or_404(Machine, pk=machine).delete()
        return answer(stores_answer())


class PostsView(ShopDataView):
    """The posts."""

    @extend_schema(request=PostAsk, responses=StoresAnswer, operation_id="post_keep")
    def put(self, request: Request) -> Response:
        """Keep a post by its name, new or changed, once its trial program is proved."""
        machines.keep_post(read(PostAsk, request).post)
        return answer(stores_answer())


class PostView(ShopDataView):
    """A post."""

    @extend_schema(request=None, responses=StoresAnswer, operation_id="post_take_out")
    def delete(self, request: Request, name: str) -> Response:
        """Take a post of the shop's own out; a standard one is then as it came."""
        machines.take_out_post(name)
        return answer(stores_answer())
