"""Errors as RFC 9457 problem documents: what, where, and how to mend it."""

from __future__ import annotations

from typing import Any

from django.db import DataError
from django.http import Http404, HttpRequest, HttpResponse, JsonResponse
from pydantic import BaseModel, ValidationError
from rest_framework.exceptions import APIException
from rest_framework.views import exception_handler, set_rollback

from kaigata.core.errors import KaigataError, LimitError
from kaigata.core.faults import said
from kaigata.shop.problem_page import problem_page
from kaigata.shop.services.conflicts import ChangedMeanwhile
from kaigata.shop.services.people import NotAllowed

__all__ = ["Problem", "answer_problem", "declare_problems", "not_found", "server_error"]

_MEDIA = "application/problem+json"


class FieldProblem(BaseModel):
    """What is wrong with one value of a request."""

    pointer: str
    code: str
    detail: str


class Problem(BaseModel):
    """The body of every answer that is an error."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    instance: str = ""
    code: str = ""
    where: str = ""
    fix: str = ""
    errors: list[FieldProblem] = []


_TITLES = {
    400: "The request cannot be read",
    401: "Sign in first",
    403: "Not allowed",
    404: "Not found",
    405: "Not possible here",
    409: "It has changed meanwhile",
    413: "Too large",
    415: "Unknown kind of content",
    422: "It cannot be done as asked",
}


_STATUS = {LimitError: 413, ChangedMeanwhile: 409, NotAllowed: 403}


def answer_problem(error: Exception, context: dict[str, Any]) -> HttpResponse | None:
    """Answer an error raised in a view; the transaction is rolled back."""
    request = context["request"]
    problem = _of_error(error, request.path)
    if problem is not None:
        set_rollback()
        return _answer(problem, request)
    plain = exception_handler(error, context)
    if plain is None:
        return None
    answer = _answer(_of_framework(error, plain.status_code, request.path), request)
    for name, value in plain.items():
        answer.headers.setdefault(name, value)
    return answer


def _of_error(error: Exception, path: str) -> Problem | None:
    """Return what an error is to whoever asked; None for those of the framework and faults."""
    if isinstance(error, KaigataError):
        status = _STATUS.get(type(error), 422)
        return Problem(
            title=_TITLES[status],
            status=status,
            detail=error.what,
            instance=path,
            code=error.code,
            where=error.where,
            fix=error.fix,
        )
    if isinstance(error, ValidationError):
        return _invalid(error, path)
    if isinstance(error, Http404):
        return _missing(path)
    if isinstance(error, DataError):
        return _unkeepable(error, path)
    return None


def _invalid(error: ValidationError, path: str) -> Problem:
    rows = [
        FieldProblem(
            pointer="#/" + "/".join(str(p) for p in e["loc"]), code=e["type"], detail=said(e)
        )
        for e in error.errors()
    ]
    return Problem(
        title=_TITLES[400],
        status=400,
        detail="; ".join(f"{r.pointer[2:]} {r.detail}" for r in rows),
        instance=path,
        code="invalid",
        fix="Correct the value",
        errors=rows,
    )


def _unkeepable(error: DataError, path: str) -> Problem:
    """Return what is wrong with a value no column takes: a NUL in a text."""
    return Problem(
        title=_TITLES[400],
        status=400,
        detail=f"a value cannot be kept: {error}",
        instance=path,
        code="invalid",
        fix="Correct the value",
    )


def _missing(path: str) -> Problem:
    return Problem(
        title=_TITLES[404],
        status=404,
        detail="This is not there: it was taken out, or the address is wrong",
        instance=path,
        code="not_found",
        fix="Go back to the orders and look for it there",
    )


def _of_framework(error: Exception, status: int, path: str) -> Problem:
    code = str(error.get_codes()) if isinstance(error, APIException) else ""
    return Problem(
        title=_TITLES.get(status, "It did not work"),
        status=status,
        detail=str(getattr(error, "detail", error)) or _TITLES.get(status, ""),
        instance=path,
        code=code,
    )


def _answer(problem: Problem, request: HttpRequest) -> HttpResponse:
    """Answer with a problem: as a page where a browser opens the address, else as a document."""
    if "text/html" in request.headers.get("Accept", ""):
        page = problem_page(
            status=problem.status,
            title=problem.title,
            what=problem.detail,
            where=problem.where,
            fix=problem.fix,
        )
        return HttpResponse(page, status=problem.status)
    return JsonResponse(problem.model_dump(), status=problem.status, content_type=_MEDIA)


def not_found(request: HttpRequest, exception: Exception | None = None) -> HttpResponse:
    """Answer an address that does not exist."""
    return _answer(_missing(request.path), request)


def server_error(request: HttpRequest) -> HttpResponse:
    """Answer a fault of the server's own."""
    problem = Problem(
        title="The server failed",
        status=500,
        detail="The server met a fault of its own; nothing was changed.",
        instance=request.path,
        code="server",
        fix="Try again; if it stays, look into var/log",
    )
    return _answer(problem, request)


def declare_problems(
    result: dict[str, Any],
    generator: object,
    request: object,
    public: bool,  # noqa: FBT001
) -> dict[str, Any]:
    """Declare the problem body for every operation of the schema."""
    schemas = result["components"].setdefault("schemas", {})
    own = Problem.model_json_schema(ref_template="#/components/schemas/{model}")
    schemas.update(own.pop("$defs", {}))
    schemas["Problem"] = own
    body = {
        "description": "What is wrong, where, and how to mend it",
        "content": {_MEDIA: {"schema": {"$ref": "#/components/schemas/Problem"}}},
    }
    for operations in result["paths"].values():
        for operation in operations.values():
            operation["responses"]["default"] = body
    return result
