"""People, what they may do, and the trail of what they did, over HTTP."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractUser
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.shop.api.answers import answer, read
from kaigata.shop.models import Deed
from kaigata.shop.services import people

__all__ = ["PeopleView", "PersonView", "TrailView"]

Right = Literal["plan", "release", "stores", "people"]
Password = Annotated[str, Field(min_length=1, max_length=200)]

_MOST = 200
"""Deeds that are shown at once."""


class PersonAnswer(BaseModel):
    """Somebody who may sign in, or might once, and what they may do beside looking."""

    id: int
    user: str
    name: str
    initials: str
    rights: list[Right]
    is_active: bool


class PeopleAnswer(BaseModel):
    """Everybody, by their sign-in name."""

    people: list[PersonAnswer]


class PersonAsk(BaseModel):
    """Somebody new."""

    model_config = ConfigDict(extra="forbid")

    user: Annotated[str, Field(min_length=1, max_length=60, pattern=r"^[\w.@+-]+$")]
    name: Annotated[str, Field(min_length=1, max_length=120)]
    password: Password
    rights: list[Right] = []


class PersonChange(BaseModel):
    """What to change of somebody; what is left out stays."""

    model_config = ConfigDict(extra="forbid")

    rights: list[Right] | None = None
    is_active: bool | None = None
    password: Password | None = None


class DeedAnswer(BaseModel):
    """Something somebody did."""

    at: datetime
    by: str
    what: str
    about: str
    order: int | None
    order_number: str


class TrailAnswer(BaseModel):
    """What was done, the newest first."""

    deeds: list[DeedAnswer]


class PeopleView(APIView):
    """Everybody who may sign in."""

    right = "people"

    @extend_schema(responses=PeopleAnswer, operation_id="people_show")
    def get(self, request: Request) -> Response:
        """List everybody and what they may do."""
        return answer(_people())

    @extend_schema(request=PersonAsk, responses={201: PeopleAnswer}, operation_id="person_add")
    def post(self, request: Request) -> Response:
        """Let somebody sign in."""
        asked = read(PersonAsk, request)
        people.add_person(**asked.model_dump())
        return answer(_people(), 201, about=asked.user)


class PersonView(APIView):
    """Somebody who may sign in."""

    right = "people"

    @extend_schema(request=PersonChange, responses=PeopleAnswer, operation_id="person_change")
    def patch(self, request: Request, person: int) -> Response:
        """Change what somebody may do, or their password."""
        known = get_object_or_404(get_user_model(), pk=person)
        people.change_person(known, **read(PersonChange, request).model_dump())
        return answer(_people())


class TrailView(APIView):
    """The trail of who did what."""

    @extend_schema(
        parameters=[OpenApiParameter("order", int)],
        responses=TrailAnswer,
        operation_id="trail_show",
    )
    def get(self, request: Request) -> Response:
        """List what was done, of one order or of all."""
        deeds = Deed.objects.select_related("by")
        order = request.query_params.get("order", "")
        if order.isdigit():
            deeds = deeds.filter(order_id=int(order))
        return answer(
            TrailAnswer(
                deeds=[
                    DeedAnswer(
                        at=d.at,
                        by=_name(d.by),
                        what=d.what,
                        about=d.about,
                        order=d.order_id,
                        order_number=d.order_number,
                    )
                    for d in deeds[:_MOST]
                ]
            )
        )


def _people() -> PeopleAnswer:
    return PeopleAnswer(
        people=[
            PersonAnswer(
                id=p.pk,
                user=p.username,
                name=_name(p),
                initials=people.initials_of(p),
                rights=people.rights_of(p),
                is_active=p.is_active,
            )
            for p in get_user_model().objects.order_by("username")
        ]
    )


def _name(person: AbstractUser) -> str:
    return person.get_full_name() or person.username
