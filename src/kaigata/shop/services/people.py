"""People: their initials, what they may do, and who may say so."""

from __future__ import annotations

from collections.abc import Iterable

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractUser, Group
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction

from kaigata.core.errors import InputError, KaigataError

__all__ = ["RIGHTS", "NotAllowed", "add_person", "change_person", "initials_of", "require",
           "rights_of"]  # fmt: skip

RIGHTS = {
    "plan": "plan orders",
    "release": "release nests and packets",
    "stores": "change shop data",
    "people": "say who may do what",
}
"""What somebody may do beside looking, which everybody may who can sign in."""


class NotAllowed(KaigataError):  # noqa: N818 - nothing is wrong with what was asked
    """Somebody asked for what they may not do."""

    code = "not-allowed"


def initials_of(user: AbstractUser) -> str:
    """Return somebody's initials, by the sign-in name where no other is known."""
    return "".join(f"{word[0]}." for word in (user.get_full_name() or user.username).split())


def rights_of(user: AbstractUser) -> list[str]:
    """Return what somebody may do, in the order of ``RIGHTS``."""
    held = set(user.groups.values_list("name", flat=True))
    return [r for r in RIGHTS if r in held]


def require(user: AbstractUser, right: str) -> None:
    """Let somebody do what a right is for.

    Raises
    ------
    NotAllowed
        They do not have it.
    """
    if right in rights_of(user):
        return
    who = get_user_model().objects.filter(groups__name="people", is_active=True)
    names = ", ".join(p.get_full_name() or p.username for p in who.order_by("username")[:3])
    raise NotAllowed(
        f"{user.get_full_name() or user.username} may not {RIGHTS[right]}",
        fix=f"Ask {names or 'who runs Kaigata'}",
    )


@transaction.atomic
def add_person(*, user: str, name: str, password: str, rights: Iterable[str] = ()) -> AbstractUser:
    """Let somebody sign in.

    Raises
    ------
    InputError
        The name is taken, or the password is too weak.
    """
    people = get_user_model()
    if people.objects.filter(username__iexact=user).exists():
        raise InputError(f"somebody signs in as {user!r} already", where="user",
                         fix="Take another name")  # fmt: skip
    first, _, last = name.rpartition(" ")
    person: AbstractUser = people(username=user, first_name=first, last_name=last)
    _set_password(person, password)
    person.save()
    _set_rights(person, rights)
    return person


@transaction.atomic
def change_person(
    person: AbstractUser,
    *,
    rights: Iterable[str] | None = None,
    is_active: bool | None = None,
    password: str | None = None,
) -> None:
    """Change what somebody may do, whether they may sign in, or their password.

    Raises
    ------
    InputError
        Nobody would be left who may say who may do what, or the password is too weak.
    """
    if password is not None:
        _set_password(person, password)
    if is_active is not None:
        person.is_active = is_active
    person.save()
    if rights is not None:
        _set_rights(person, rights)
    left = get_user_model().objects.filter(groups__name="people", is_active=True)
    if not left.exists():
        raise InputError(
            "nobody would be left who may say who may do what", where=person.username,
            fix="Let somebody else first",
        )  # fmt: skip


def _set_password(person: AbstractUser, password: str) -> None:
    try:
        validate_password(password, person)
    except ValidationError as error:
        raise InputError(
            " ".join(error.messages).rstrip("."), where="password", fix="Take a longer one"
        ) from error
    person.set_password(password)


def _set_rights(person: AbstractUser, rights: Iterable[str]) -> None:
    person.groups.set([Group.objects.get_or_create(name=r)[0] for r in RIGHTS if r in set(rights)])
