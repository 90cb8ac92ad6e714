"""Dialects of G-code, as data."""

from __future__ import annotations

from dataclasses import dataclass

from kaigata.core.errors import InputError

__all__ = ["POSTS", "Post", "find_post"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Post:
    """How a machine wants its program: units per mm, decimals."""

    name: str
    title: str
    units: str = "mm"
    decimals: int = 4

    @property
    def scale(self) -> float:
        """Program units in a millimetre."""
        return 1.0 if self.units == "mm" else 1 / 25.4


POSTS = (
    Post(name="plain", title="Plain ISO 6983, millimetres"),
    Post(name="plain-inch", title="Plain ISO 6983, inches", units="in", decimals=5),
)


def find_post(name: str | None) -> Post:
    """Return the post of a name; the plain one when nothing is said.

    Raises
    ------
    InputError
        There is none of that name.
    """
    found = next((p for p in POSTS if p.name == (name or "plain")), None)
    if found is None:
        names = ", ".join(p.name for p in POSTS)
        raise InputError(f"there is no post {name!r}", fix=f"Choose one of {names}")
    return found
