"""JSON documents, checked on reading."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, TypeVar

from pydantic import BaseModel, ValidationError

from kaigata.core.errors import InputError
from kaigata.core.faults import said

__all__ = ["check_document", "load_document"]

Document = TypeVar("Document", bound=BaseModel)

DOCUMENT_LIMIT = 64 * 2**20
"""Largest document, bytes."""


def load_document(path: Path, model: type[Document]) -> Document:
    """Read a JSON document and check it.

    Parameters
    ----------
    path : Path
        The file.
    model : type
        The model it must be.

    Returns
    -------
    Document
        The document.

    Raises
    ------
    InputError
        The file is missing, too large, no JSON, or not such a document; all faults are told.
    """
    if not path.is_file():
        raise InputError("there is no such file", where=path.name, fix="Check the name and folder")
    size = path.stat().st_size
    if size > DOCUMENT_LIMIT:
        raise InputError(f"it has {size} bytes, at most {DOCUMENT_LIMIT} are read", where=path.name)
    try:
        data: Any = json.loads(path.read_bytes())
    except (ValueError, RecursionError) as error:
        reason = str(error)[:120] if isinstance(error, json.JSONDecodeError) else "no text in UTF-8"
        raise InputError(
            f"it is no JSON: {reason}", where=path.name, fix="Mend the file or write it again"
        ) from error
    return check_document(data, model, where=path.name)


def check_document(data: object, model: type[Document], *, where: str) -> Document:
    """Return data as a document.

    Raises
    ------
    InputError
        The data is not such a document; the text names every place that is wrong.
    """
    try:
        return model.model_validate(data)
    except ValidationError as error:
        faults = [f"{_place(e['loc'])} {said(e)}" for e in error.errors()]
        shown = ", ".join(faults[:5]) + (f" and {len(faults) - 5} more" if len(faults) > 5 else "")
        raise InputError(shown, where=where) from error


def _place(loc: tuple[int | str, ...]) -> str:
    # Names of the alternatives of a union are the model's own and mean nothing to a reader.
    steps = [s for s in loc if isinstance(s, int) or s.replace("_", "").isalnum()]
    return "$" + "".join(f"[{s}]" if isinstance(s, int) else f".{s}" for s in steps)
