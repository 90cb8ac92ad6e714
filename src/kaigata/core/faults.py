"""What is wrong with values of a document, in plain words."""

from __future__ import annotations

import json
from collections.abc import Mapping
from typing import Any

__all__ = ["said"]

_WORDS = {
    "missing": "is missing",
    "extra_forbidden": "is not known here",
    "finite_number": "must be a finite number",
    "greater_than": "must be above {gt}",
    "greater_than_equal": "must be {ge} or more",
    "less_than": "must be below {lt}",
    "less_than_equal": "must be {le} or less",
    "literal_error": "must be one of {expected}",
    "enum": "must be one of {expected}",
    "union_tag_invalid": "must say {discriminator} as one of {expected_tags}",
    "union_tag_not_found": "must say {discriminator}",
    "string_too_short": "must have {min_length} characters or more",
    "string_too_long": "must have {max_length} characters or fewer",
    "too_short": "must have {min_length} entries or more",
    "too_long": "must have {max_length} entries or fewer",
}
_EMPTY = "must not be empty"
_KINDS = {
    "int": "a whole number",
    "float": "a number",
    "bool": "true or false",
    "string": "a text",
    "list": "a list",
    "tuple": "a list",
    "dict": "an object",
    "model": "an object",
    "mapping": "an object",
    "date": "a date, 2026-09-01",
    "none": "null",
}


def said(error: Mapping[str, Any]) -> str:
    """Return what is wrong with a value: an entry of a validation error's ``errors()``.

    Examples
    --------
    >>> said({"type": "less_than_equal", "input": 9, "ctx": {"le": 5}, "msg": ""})
    'is 9: must be 5 or less'
    >>> said({"type": "float_parsing", "input": "", "msg": ""})
    'is empty: must be a number'
    """
    words = _words(error)
    value = error["input"]
    if error["type"] in {"missing", "extra_forbidden"} or words == _EMPTY:
        return words
    if value == "":
        return f"is empty: {words}"
    if value is None or isinstance(value, str | int | float | bool):
        return f"is {json.dumps(value, ensure_ascii=False)[:80]}: {words}"
    return words


def _words(error: Mapping[str, Any]) -> str:
    kind = str(error["type"])
    if kind in _WORDS:
        bounds = {
            name: f"{v:g}" if isinstance(v, float) else v
            for name, v in error.get("ctx", {}).items()
        }
        return _EMPTY if bounds.get("min_length") == 1 else _WORDS[kind].format(**bounds)
    of, _, _ = kind.partition("_")
    if of in _KINDS and kind != "string_pattern_mismatch":
        return f"must be {_KINDS[of]}"
    text = str(error["msg"]).removeprefix("Value error, ")
    return text[:1].lower() + text[1:]
