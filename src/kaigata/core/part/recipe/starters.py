"""Recipes to start from: the shapes a shop folds most."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from kaigata.core.errors import InputError
from kaigata.core.part.recipe.document import Recipe, read_recipe

__all__ = ["starter", "starters"]

_NAMES = (
    "plate", "strap", "angle", "gusset", "channel", "zed", "hat", "rail", "tray",
    "lipped-tray", "sloped-tray", "box", "hopper", "hood",
)  # fmt: skip


@cache
def starters() -> dict[str, Recipe]:
    """Return the recipes to start from by name, the plainest first."""
    folder = Path(__file__).with_name("starters")
    return {name: read_recipe(folder / f"{name}.json") for name in _NAMES}


def starter(name: str) -> Recipe:
    """Return a recipe to start from.

    Raises
    ------
    InputError
        There is none of that name.
    """
    known = starters()
    if name not in known:
        raise InputError(
            f"there is no recipe {name!r} to start from", fix=f"Known are {', '.join(known)}"
        )
    return known[name]
