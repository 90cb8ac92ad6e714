"""Reading requests into models, and answering with models, files or how far work has come."""

from __future__ import annotations

from typing import Literal, TypeVar

from django.http import HttpResponse
from drf_spectacular.types import OpenApiTypes
from pydantic import BaseModel
from rest_framework.request import Request
from rest_framework.response import Response

from kaigata.core.formats.whole import file_name
from kaigata.shop.models import Run
from kaigata.shop.services.digests import changes

__all__ = ["BINARY", "RunAnswer", "answer", "download", "read", "run_answer"]

BINARY = {(200, "application/octet-stream"): OpenApiTypes.BINARY}
"""What the schema says of a file to keep."""

Body = TypeVar("Body", bound=BaseModel)


def read(model: type[Body], request: Request) -> Body:
    """Return a request's body as a model; a fault becomes a problem with a pointer."""
    return model.model_validate(request.data)


def answer(body: BaseModel, status: int = 200, *, about: str = "") -> Response:
    """Answer with a model; ``about`` names for the trail what was made."""
    response = Response(body.model_dump(mode="json", by_alias=True), status=status)
    response.about = about
    return response


def download(content: str | bytes, stem: str, suffix: str, kind: str) -> HttpResponse:
    """Answer with a file to keep."""
    response = HttpResponse(content, content_type=kind)
    response["Content-Disposition"] = f'attachment; filename="{file_name(stem)}.{suffix}"'
    return response


class RunAnswer(BaseModel):
    """How far background work has come, and what has made its result stale since."""

    id: int
    state: Literal["queued", "running", "done", "stopped", "failed"]
    progress: float
    what: str
    where: str
    fix: str
    stale: list[str]


def run_answer(run: Run, now: dict[str, str]) -> RunAnswer:
    """Return how far a run has come, and which of its inputs are no longer as they are now."""
    return RunAnswer(
        id=run.pk,
        state=run.state,
        progress=run.progress,
        what=run.what,
        where=run.where,
        fix=run.fix,
        stale=changes(run.inputs, now),
    )
