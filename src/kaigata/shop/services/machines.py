"""Machines and posts of the shop."""

from __future__ import annotations

from typing import Literal

from django.db import transaction
from pydantic import ValidationError

from kaigata.core.cut import Post as CorePost
from kaigata.core.cut import standard_posts
from kaigata.core.errors import InputError
from kaigata.core.faults import said
from kaigata.core.formats.trial import trial_program
from kaigata.shop.models import Machine, Post

__all__ = ["keep_post", "known_posts", "origin_of", "take_out_post"]


def known_posts() -> tuple[CorePost, ...]:
    """Return the posts there are: the standard ones, as the shop has changed them, and its own."""
    posts = {p.name: p for p in standard_posts()}
    posts.update({r.name: CorePost.model_validate(r.document) for r in Post.objects.all()})
    return tuple(sorted(posts.values(), key=lambda p: p.name))


def origin_of(post: CorePost) -> Literal["standard", "changed", "own"]:
    """Return whether a post is as it came, changed by the shop, or the shop's own."""
    came = next((p for p in standard_posts() if p.name == post.name), None)
    if came is None:
        return "own"
    return "standard" if came == post else "changed"


def keep_post(document: dict[str, object]) -> None:
    """Keep a post once a trial program in its dialect has been read back and proved.

    Raises
    ------
    InputError
        A field is wrong, or the trial fails; the field or the reason is told.
    """
    try:
        post = CorePost.model_validate(document)
    except ValidationError as error:
        first = error.errors()[0]
        place = ".".join(str(s) for s in first["loc"])
        raise InputError(f"{place} {said(first)}".strip(), where="post") from error
    trial_program(post)
    Post.objects.update_or_create(
        name=post.name, defaults={"document": post.model_dump(mode="json")}
    )


@transaction.atomic
def take_out_post(name: str) -> None:
    """Take a post out of Stores; a standard one is then as it came.

    Raises
    ------
    InputError
        The shop has no such post of its own, or a machine uses it.
    """
    is_standard = any(p.name == name for p in standard_posts())
    used = Machine.objects.filter(post=name).first()
    if used is not None and not is_standard:
        raise InputError(f"{used.name} uses the post {name!r}", fix="Give it another post first")
    if not Post.objects.filter(name=name).delete()[0]:
        raise InputError(
            f"there is no post {name!r} of the shop's own", fix="Standard posts stay as they came"
        )
