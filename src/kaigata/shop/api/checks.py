"""The checks of an order's packet over HTTP."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Literal

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel, ConfigDict, Field
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.shop.api.answers import answer, read
from kaigata.shop.models import Order
from kaigata.shop.services import checks

__all__ = ["CheckView", "ChecksView"]


class CheckAnswer(BaseModel):
    """A check; where it fails and is let pass all the same, who does so, when and why."""

    name: str
    title: str
    state: Literal["passed", "failed", "open"]
    said: str
    reason: str
    by: str
    at: datetime | None


class ChecksAnswer(BaseModel):
    """The checks of a packet; ``may_go`` tells whether none of them stops it."""

    checks: list[CheckAnswer]
    may_go: bool


class WordAsk(BaseModel):
    """Why a check shall not stop the packet, and what was seen of it."""

    model_config = ConfigDict(extra="forbid")

    reason: Annotated[str, Field(max_length=500)]
    said: str


class ChecksView(APIView):
    """The checks of an order's packet."""

    @extend_schema(responses=ChecksAnswer, operation_id="checks_show")
    def get(self, request: Request, order: int) -> Response:
        """Check the order as it is now."""
        return answer(_checks_answer(get_object_or_404(Order, pk=order)))


class CheckView(APIView):
    """One check of an order's packet."""

    right = "release"

    @extend_schema(request=WordAsk, responses=ChecksAnswer, operation_id="check_let_pass")
    def put(self, request: Request, order: int, name: str) -> Response:
        """Let a check that fails pass, with the reason."""
        known, word = get_object_or_404(Order, pk=order), read(WordAsk, request)
        checks.let_pass(known, name, said=word.said, reason=word.reason, by=request.user)
        return answer(_checks_answer(known))

    @extend_schema(responses=ChecksAnswer, operation_id="check_take_back")
    def delete(self, request: Request, order: int, name: str) -> Response:
        """Let a check stop the packet again."""
        known = get_object_or_404(Order, pk=order)
        checks.take_back(known, name)
        return answer(_checks_answer(known))


def _checks_answer(order: Order) -> ChecksAnswer:
    found = checks.checks_of(order)
    return ChecksAnswer(
        checks=[CheckAnswer(**asdict(c)) for c in found],
        may_go=not any(c.stops for c in found),
    )
