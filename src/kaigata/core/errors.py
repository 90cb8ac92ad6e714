"""The errors the core raises: what is wrong, where, and how to mend it."""

from __future__ import annotations

from typing import Any

__all__ = ["InputError", "KaigataError", "LimitError", "Stopped"]


class KaigataError(Exception):
    """Base of every error that is told to a user.

    Parameters
    ----------
    what : str
        What is wrong, with the value found and the limit it breaks.
    where : str
        File and place within it.
    fix : str
        What to do about it, as an instruction.
    spot : tuple of three floats, optional
        The place in space, mm, where it is about a solid.
    """

    code = "error"

    def __init__(
        self,
        what: str,
        *,
        where: str = "",
        fix: str = "",
        spot: tuple[float, float, float] | None = None,
    ) -> None:
        super().__init__(what)
        self.what, self.where, self.fix, self.spot = what, where, fix, spot

    def __reduce__(self) -> tuple[Any, ...]:
        """Let the error travel between processes whole."""
        return (_rebuilt, (type(self), self.what, self.where, self.fix, self.spot))

    def __str__(self) -> str:
        """Return the error as one line, ``where: what; fix``."""
        text = f"{self.where}: {self.what}" if self.where else self.what
        text = f"{text}; {self.fix}" if self.fix else text
        return " ".join(text.split())

    def at(self, where: str) -> KaigataError:
        """Return the same error with its place put in front of the one it has."""
        place = f"{where}: {self.where}" if self.where else where
        return type(self)(self.what, where=place, fix=self.fix, spot=self.spot)


def _rebuilt(
    kind: type[KaigataError],
    what: str,
    where: str,
    fix: str,
    spot: tuple[float, float, float] | None,
) -> KaigataError:
    return kind(what, where=where, fix=fix, spot=spot)


class InputError(KaigataError):
    """A file, value or option that cannot be used as it is."""

    code = "input"


class LimitError(KaigataError):
    """Something larger, longer or slower than the product takes."""

    code = "limit"


class Stopped(KaigataError):  # noqa: N818 - it is no error that somebody stopped a search
    """The work was stopped on request before there was anything to return."""

    code = "stopped"
