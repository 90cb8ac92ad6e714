"""Parts built here: the recipe a part was made from, and changes to it."""

from __future__ import annotations

import itertools
import json
import tempfile
from dataclasses import dataclass
from pathlib import Path

from django.db import transaction

from kaigata.core.checked import check_document
from kaigata.core.errors import InputError
from kaigata.core.intake.shelling import shell_of_block
from kaigata.core.part.recipe import (
    NamedPanel,
    Recipe,
    ShellNet,
    built_recipe,
    folded_recipe,
    recipe_text,
    shell_nets,
    starter,
)
from kaigata.core.part.recipe.document import Metal
from kaigata.shop.models import Order, OrderLine, Part
from kaigata.shop.services.blanks import flat_of
from kaigata.shop.services.conflicts import ChangedMeanwhile
from kaigata.shop.services.reading import kept, put_on_rack, read_instead, revise

__all__ = [
    "FlatNet",
    "begin_recipe",
    "change_recipe",
    "flat_nets",
    "fold_round",
    "panel_names",
    "recipe_of",
]

_MOST_NETS = 12
"""Nets of a shell that are shown."""
_MOST_TRIED = 40
"""Nets that are built and unfolded to find them."""


@dataclass(frozen=True, slots=True)
class FlatNet:
    """A net that a part's shell could have, and the width and height of its blank, mm."""

    net: ShellNet
    size: tuple[float, float]


def recipe_of(part: Part) -> Recipe:
    """Return the recipe a part was made from.

    Raises
    ------
    InputError
        It came as something else, or could not be built.
    """
    if part.state != Part.State.READY:
        raise InputError(f"the part is {part.state}", where=part.name, fix=part.fix)
    if not part.source.is_recipe:
        raise InputError(
            "the part was not built here", where=part.name, fix="Send a newer file of it instead"
        )
    return check_document(json.loads(bytes(part.source.content)), Recipe, where=part.source.name)


def panel_names(part: Part, recipe: Recipe) -> list[NamedPanel]:
    """Return the names of a part's panels and free edges, their places those on the blank."""
    built = built_recipe(recipe)
    motion = {p.number: p.motion for p in flat_of(part.blank, built.part).panels}
    return [n.moved(motion[n.panel + 1].point) for n in built.names]


def flat_nets(part: Part, recipe: Recipe) -> list[FlatNet]:
    """Return the net that a part's shell has, and others that suit all its steps, unfolded.

    Of those that are alike there is one.
    """
    found: dict[tuple[float, ...], FlatNet] = {}
    for net in itertools.islice(shell_nets(recipe), _MOST_TRIED):
        alike = tuple(round(v, 2) for v in (*net.size, net.length))
        if alike in found:
            continue
        if len(found) == _MOST_NETS:
            break
        try:
            blank = flat_of(part.blank, folded_recipe(net.recipe))
        except InputError:
            # A later step may hang something on an edge that would be bent, or has no room.
            continue
        found[alike] = FlatNet(net, (blank.width, blank.height))
    return [*found.values()]


def begin_recipe(order: Order, name: str) -> OrderLine:
    """Put a part onto the rack that is built from one of the recipes to start from.

    Raises
    ------
    InputError
        There is no such recipe.
    """
    recipe = starter(name)
    return put_on_rack(order, f"{recipe.part}.json", recipe_text(recipe).encode())


def fold_round(part: Part, *, thickness: float, metal: Metal) -> None:
    """Make a part of the shell round the solid it came as.

    One that was refused is read anew by a worker; one that is a part, as a block is a thick plate,
    gets its next revision.

    Raises
    ------
    InputError
        The part came as something else, or its solid is no block with flat faces.
    LimitError
        Reading it took too long, or too much memory.
    """
    if part.state not in (Part.State.READY, Part.State.REFUSED):
        raise InputError(f"the part is {part.state}", where=part.name, fix="Wait until it is read")
    with tempfile.TemporaryDirectory(prefix="kaigata-") as folder:
        path = Path(folder) / Path(part.source.name).name
        path.write_bytes(bytes(part.source.content))
        recipe = shell_of_block(path, thickness=thickness, metal=metal)
    name, content = f"{recipe.part}.json", recipe_text(recipe).encode()
    with transaction.atomic():
        known = Part.objects.select_for_update().get(pk=part.pk)
        if known.source_id != part.source_id:
            raise ChangedMeanwhile(
                f"{known.name} was changed meanwhile",
                where=known.name,
                fix="Look at it as it is now, and fold a sheet round it where that is still right",
            )
        if known.state == Part.State.READY:
            revise(known, kept(name, content), folded_recipe(recipe))
        else:
            read_instead(known, name, content)


@transaction.atomic
def change_recipe(part: Part, recipe: Recipe, *, seen: str) -> None:
    """Build a part from another recipe; ``seen`` is the file whose recipe was changed.

    Raises
    ------
    InputError
        The recipe cannot be followed, or the part was not built here; nothing is changed then.
    ChangedMeanwhile
        The recipe is no longer the one that was seen.
    """
    known = Part.objects.select_for_update().get(pk=part.pk)
    recipe_of(known)
    if known.source_id != seen:
        raise ChangedMeanwhile(
            f"the recipe of {known.name} was changed meanwhile by somebody else or in another "
            "window",
            where=known.name,
            fix="Look at it as it is now, and change it again where that is still right",
        )
    revise(known, kept(known.source.name, recipe_text(recipe).encode()), folded_recipe(recipe))
