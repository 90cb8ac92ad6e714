"""Digests of what a result was made from, so that a change shows what it makes stale."""

from __future__ import annotations

import hashlib
import json

__all__ = ["changes", "digest"]


def digest(value: object) -> str:
    """Return a short hash of a JSON value."""
    text = json.dumps(value, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


def changes(before: dict[str, str], now: dict[str, str]) -> list[str]:
    """Return in words what differs between the inputs of then and of now."""
    said = [f"{n} added" for n in now if n not in before]
    said += [f"{n} taken out" for n in before if n not in now]
    said += [f"{n} changed" for n in now if n in before and now[n] != before[n]]
    return said
