"""The errors the core raises: what is wrong, where, and how to mend it."""

from __future__ import annotations

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
    """

    code = "error"

    def __init__(self, what: str, *, where: str = "", fix: str = "") -> None:
        super().__init__(what)
        self.what, self.where, self.fix = what, where, fix

    def __str__(self) -> str:
        """Return the error as one line, ``where: what; fix``."""
        text = f"{self.where}: {self.what}" if self.where else self.what
        text = f"{text}; {self.fix}" if self.fix else text
        return " ".join(text.split())

    def at(self, where: str) -> KaigataError:
        """Return the same error with its place put in front of the one it has."""
        place = f"{where}: {self.where}" if self.where else where
        return type(self)(self.what, where=place, fix=self.fix)


class InputError(KaigataError):
    """A file, value or option that cannot be used as it is."""

    code = "input"


class LimitError(KaigataError):
    """Something larger, longer or slower than the product takes."""

    code = "limit"


class Stopped(KaigataError):  # noqa: N818 - it is no error that somebody stopped a search
    """The work was stopped on request before there was anything to return."""

    code = "stopped"
