"""The trail: what somebody does over HTTP is kept, in the words the schema has for it."""

from __future__ import annotations

from collections.abc import Callable

from django.contrib.auth import get_user_model
from django.http import HttpRequest, HttpResponse
from django.urls import resolve

from kaigata.shop.models import (
    Deed,
    Machine,
    Nest,
    Order,
    OrderLine,
    Part,
    StockSheet,
)

__all__ = ["KeepTrail"]

_DOING = ("POST", "PUT", "PATCH", "DELETE")


class KeepTrail:
    """Keep what was done once it is done; what failed changed nothing and leaves no trail."""

    def __init__(self, answer: Callable[[HttpRequest], HttpResponse]) -> None:
        self._answer = answer

    def __call__(self, request: HttpRequest) -> HttpResponse:
        """Answer a request and keep what it did."""
        if request.method not in _DOING or not request.path.startswith("/api/"):
            return self._answer(request)
        # What is taken out is gone afterwards.
        deed = _deed(request)
        response = self._answer(request)
        user = request.user
        if deed is not None and response.status_code < 400 and user.is_authenticated:
            deed.by = user
            # What has only just been made is named by what made it.
            deed.about = deed.about or str(getattr(response, "about", ""))[:200]
            if deed.order and not Order.objects.filter(pk=deed.order.pk).exists():
                deed.order = None
            deed.save()
        return response


def _deed(request: HttpRequest) -> Deed | None:
    """Return what a request does, unsaved; None for signing in and out, and where nothing changes.

    A view whose ``changes`` is no only works something out of what it is sent.
    """
    match = resolve(request.path)
    view = getattr(match.func, "view_class", None)
    handler = getattr(view, str(request.method).lower(), None)
    if handler is None or "session" in match.route or not getattr(view, "changes", True):
        return None
    what = str(handler.__doc__).partition("\n")[0].rstrip(".")
    order, about = _about(match.kwargs)
    number = order.number if order else ""
    return Deed(what=what[:200], about=about[:200], order=order, order_number=number)


def _about(named: dict[str, object]) -> tuple[Order | None, str]:
    """Return the order a request belongs to, and what it is about."""
    for word, find in _FINDERS.items():
        if word in named:
            return find(named[word])
    return None, str(named.get("name", ""))


def _of_order(key: object) -> tuple[Order | None, str]:
    return Order.objects.filter(pk=key).first(), ""


def _of_part(key: object) -> tuple[Order | None, str]:
    part = Part.objects.filter(pk=key).select_related("line__order").first()
    return (part.line.order, part.name) if part else (None, "")


def _of_line(key: object) -> tuple[Order | None, str]:
    line = OrderLine.objects.filter(pk=key).light().select_related("order").first()
    return (line.order, line.part.name) if line else (None, "")


def _of_nest(key: object) -> tuple[Order | None, str]:
    nest = Nest.objects.filter(pk=key).select_related("run__order").first()
    return (nest.run.order, f"nest {nest.pk}") if nest else (None, "")


def _of_sheet(key: object) -> tuple[Order | None, str]:
    return None, str(StockSheet.objects.filter(pk=key).first() or "")


def _of_machine(key: object) -> tuple[Order | None, str]:
    return None, str(Machine.objects.filter(pk=key).first() or "")


def _of_person(key: object) -> tuple[Order | None, str]:
    return None, str(get_user_model().objects.filter(pk=key).first() or "")


_FINDERS = {
    "order": _of_order,
    "part": _of_part,
    "line": _of_line,
    "nest": _of_nest,
    "sheet": _of_sheet,
    "machine": _of_machine,
    "person": _of_person,
}
