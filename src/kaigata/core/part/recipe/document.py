"""The document of a fold recipe: named dimensions and steps, each one thing a person would say."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Literal, TypeAlias

from pydantic import Field

from kaigata.core.checked import load_document
from kaigata.core.errors import InputError
from kaigata.core.part.recipe.cutout_steps import Crease, Form, Hole, Mirror, Opening, Repeat, Slot
from kaigata.core.part.recipe.formulas import Dimensions
from kaigata.core.part.recipe.panel_steps import (
    Corners,
    Flange,
    Fold,
    Hem,
    Jog,
    Panel,
    Profile,
    Relief,
    Round,
)
from kaigata.core.part.recipe.shell_steps import Shape, Shell, Solid
from kaigata.core.part.recipe.words import Amount, DimensionName, Metal, Model, Outline, Text

__all__ = [
    "Corners",
    "Crease",
    "Flange",
    "Fold",
    "Form",
    "Hem",
    "Hole",
    "Jog",
    "Metal",
    "Mirror",
    "Opening",
    "Outline",
    "Panel",
    "Profile",
    "Recipe",
    "Relief",
    "Repeat",
    "Round",
    "Shape",
    "Shell",
    "Slot",
    "Solid",
    "Step",
    "read_recipe",
    "recipe_schema",
    "recipe_text",
]

Step: TypeAlias = Annotated[
    Panel
    | Profile
    | Shell
    | Flange
    | Fold
    | Jog
    | Hem
    | Hole
    | Form
    | Crease
    | Slot
    | Opening
    | Mirror
    | Corners
    | Round,
    Field(discriminator="do"),
]


class Recipe(Model):
    """A part to be folded, as it is said.

    Attributes
    ----------
    kind : str
        ``fold-recipe``.
    version : int
        Of the format.
    part : str
        What the part is called.
    units : str
        What a number without a unit is.
    thickness, inside_radius : Amount
        Of the sheet and its bends; the radius is the thickness when None.
    hand : str
        ``as-said``, or ``other``: its mirror image across x.
    dimensions : mapping
        Named sizes, for formulas. ``thickness`` and ``inside_radius`` can be named in them too.
    steps : list of Step
        A panel, a profile or a shell first.
    """

    kind: Literal["fold-recipe"]
    version: Literal[1] = 1
    part: Text
    units: Literal["mm", "in"] = "mm"
    thickness: Amount
    inside_radius: Amount | None = None
    hand: Literal["as-said", "other"] = "as-said"
    dimensions: dict[DimensionName, Amount] = {}
    steps: Annotated[list[Step], Field(min_length=1, max_length=2000)]

    def sizes(self) -> Dimensions:
        """Return the dimensions, those of the sheet among them.

        Raises
        ------
        InputError
            A formula cannot be worked out.
        """
        sheet = {
            "thickness": self.thickness,
            "inside_radius": "thickness" if self.inside_radius is None else self.inside_radius,
        }
        taken = sheet.keys() & self.dimensions.keys()
        if taken:
            name = min(taken)
            raise InputError(
                f"a dimension is called {name!r}, which the sheet's own is called",
                where=f"dimensions.{name}",
                fix="Give it another name",
            )
        return Dimensions({**sheet, **self.dimensions}, unit=self.units)


def recipe_schema() -> str:
    """Return the JSON schema of a recipe."""
    return json.dumps(Recipe.model_json_schema(), indent=1) + "\n"


def recipe_text(recipe: Recipe) -> str:
    """Return a recipe as its file has it: what goes without saying is not said."""
    return recipe.model_dump_json(exclude_defaults=True, indent=1) + "\n"


def read_recipe(path: Path) -> Recipe:
    """Read a recipe.

    Raises
    ------
    InputError
        The file is no recipe; every fault is told with its place.
    """
    return load_document(path, Recipe)
