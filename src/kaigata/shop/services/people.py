"""Who did something, as stamps and drawings say it."""

from __future__ import annotations

from django.contrib.auth.models import AbstractUser

__all__ = ["initials_of"]


def initials_of(user: AbstractUser) -> str:
    """Return somebody's initials, by the sign-in name where no other is known."""
    return "".join(f"{word[0]}." for word in (user.get_full_name() or user.username).split())
