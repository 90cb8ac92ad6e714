"""A recipe for the shell of a block that came as STEP."""

from __future__ import annotations

import math
from pathlib import Path

from kaigata.core.errors import InputError
from kaigata.core.intake.read import READ_MEMORY, READ_SECONDS, check_file, is_step
from kaigata.core.isolation import run_isolated
from kaigata.core.part.recipe import Recipe, built_recipe
from kaigata.core.part.recipe.document import Metal, Shell, Solid

__all__ = ["shell_of_block"]

_GAP = 0.5
"""Of the seams, mm, until somebody says another."""


def shell_of_block(path: Path, *, thickness: float, metal: Metal = "inside") -> Recipe:
    """Return a recipe that folds a sheet round a solid with flat faces.

    Parameters
    ----------
    path : Path
        A STEP file with one solid.
    thickness : float
        Of the sheet, mm.
    metal : Metal
        Whether the sheet lies ``inside`` of the solid's faces or ``outside`` of them.

    Raises
    ------
    InputError
        The file holds no such solid, or its faces have no room for the bends.
    LimitError
        The file is too large, or reading it took too long, too much memory, or crashed.
    """
    if not (math.isfinite(thickness) and thickness > 0):
        raise InputError(f"the thickness is {thickness:g} mm", fix="Give one above 0")
    check_file(path)
    if not is_step(path):
        raise InputError("it is no STEP file", where=path.name, fix="Export the block as STEP")
    faces = run_isolated(
        _faces, str(path), seconds=READ_SECONDS, memory=READ_MEMORY, where=path.name
    )
    solid = Solid.model_validate({"faces": faces})
    step = Shell(do="shell", name="block", solid=solid, metal=metal, gap="gap")
    recipe = Recipe(
        kind="fold-recipe",
        part=path.stem[:60],
        thickness=thickness,
        dimensions={"gap": _GAP},
        steps=[step],
    )
    try:
        built_recipe(recipe)
    except InputError as error:
        raise error.at(path.name) from None
    return recipe


def _faces(name: str) -> dict[str, list[tuple[float, float, float]]]:
    # The geometry kernel is loaded where it is used: it is large.
    from kaigata.core.intake.blocks import block_faces
    from kaigata.core.intake.kernel import Solid as KernelSolid
    from kaigata.core.intake.step import closed_solid, read_step

    path = Path(name)
    products = read_step(path)
    if len(products) != 1:
        raise InputError(
            f"it holds {len(products)} solids", where=path.name, fix="Export the block alone"
        )
    try:
        faces = block_faces(KernelSolid(closed_solid(products[0])))
    except InputError as error:
        raise error.at(path.name) from None
    return {face: [(x, y, z) for x, y, z in corners.tolist()] for face, corners in faces.items()}
