"""Fold recipes: parts built here, step by step, from named dimensions.

``document`` holds what a recipe says, its steps in ``panel_steps``, ``cutout_steps`` and
``shell_steps``, and ``formulas`` its amounts; ``making`` does the steps: ``plates`` are the panels
as said, ``shells`` makes them of a solid's faces, ``mitres`` cuts flanges that meet to each other,
``outline`` gives each its true outline, and ``fold`` makes panels and bends of them.
``sentences`` tells the steps, and ``starters`` holds recipes to start from.
"""

from kaigata.core.part.recipe.choosing import ShellFace, ShellNet, shell_faces, shell_nets
from kaigata.core.part.recipe.document import Recipe, read_recipe, recipe_text
from kaigata.core.part.recipe.fold import NamedPanel
from kaigata.core.part.recipe.making import built_recipe, folded_recipe
from kaigata.core.part.recipe.sentences import sentences
from kaigata.core.part.recipe.starters import starter, starters

__all__ = [
    "NamedPanel",
    "Recipe",
    "ShellFace",
    "ShellNet",
    "built_recipe",
    "folded_recipe",
    "read_recipe",
    "recipe_text",
    "sentences",
    "shell_faces",
    "shell_nets",
    "starter",
    "starters",
]
