"""Reading requests into models and answering with models or files."""

from __future__ import annotations

from typing import TypeVar

from django.http import HttpResponse
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.response import Response

from kaigata.core.formats.whole import file_name

__all__ = ["answer", "download", "read"]

Body = TypeVar("Body", bound=BaseModel)


def read(model: type[Body], request: Request) -> Body:
    """Return a request's body as a model; a fault becomes a problem with a pointer."""
    return model.model_validate(request.data)


def answer(body: BaseModel, status: int = 200) -> Response:
    """Answer with a model."""
    return Response(body.model_dump(mode="json", by_alias=True), status=status)


def download(content: str | bytes, stem: str, suffix: str, kind: str) -> HttpResponse:
    """Answer with a file to keep."""
    response = HttpResponse(content, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{file_name(stem)}.{suffix}"'
    return response
