"""From the steps of a recipe to a folded part."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeAlias

from kaigata.core.errors import InputError
from kaigata.core.part.folded import FoldedPart, Frame
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.cutouts import (
    cut_hole,
    cut_opening,
    cut_slot,
    mirror_cutouts,
    press_crease,
    press_form,
)
from kaigata.core.part.recipe.fold import Folded, folded_plates
from kaigata.core.part.recipe.hanging import fold_across, hang_flange, hang_hem, jog_across
from kaigata.core.part.recipe.mitres import meeting_pairs, mitre, overlap
from kaigata.core.part.recipe.plates import Plate, Rounding
from kaigata.core.part.recipe.profiles import fold_profile, run_profile
from kaigata.core.part.recipe.shells import cut_shell, fold_shell
from kaigata.core.part.recipe.workbench import Workbench
from kaigata.core.plane import Motion
from kaigata.core.plane.corners import CornerKind

__all__ = ["built_recipe", "folded_recipe"]

_Doing: TypeAlias = Callable[[Workbench, Any], object]

_LEVEL = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))


def folded_recipe(recipe: said.Recipe) -> FoldedPart:
    """Return the folded part a recipe tells of: ``built_recipe`` without the names."""
    return built_recipe(recipe).part


def built_recipe(recipe: said.Recipe) -> Folded:
    """Return the folded part a recipe tells of, with the names of its panels.

    The first panel lies in the plane z = 0, its seen side up.

    Raises
    ------
    InputError
        A step cannot be done; the text says which, what is wrong and how to mend it.
    """
    bench = Workbench(recipe)
    first = recipe.steps[0]
    if not isinstance(first, said.Panel | said.Profile | said.Shell):
        raise InputError(
            "the first step makes no panel",
            where="step 1",
            fix="Begin with a panel, a profile or the shell of a solid",
        )
    named = [(f"step {i} ({step.do})", step) for i, step in enumerate(recipe.steps, start=1)]
    for where, step in named:
        _do(bench, _DOES[type(step)], step, where)
    # Corners are cut when all that hangs there is known.
    for where, step in named:
        if isinstance(step, said.Corners | said.Shell):
            _do(bench, cut_shell if isinstance(step, said.Shell) else _cut_corners, step, where)
    base = next(iter(bench.plates.values()))
    made = folded_plates(base, name=recipe.part, thickness=bench.thickness)
    return made if recipe.hand == "as-said" else made.mirrored()


def _do(bench: Workbench, does: _Doing, step: object, where: str) -> None:
    """Do a step; what is wrong with it is told with its place in the recipe."""
    bench.where = where
    try:
        does(bench, step)
    except InputError as error:
        raise (error if error.where.startswith("step ") else error.at(where)) from None


def _begin(bench: Workbench, step: said.Panel | said.Profile | said.Shell) -> None:
    if isinstance(step, said.Profile) and step.on:
        run_profile(bench, step)
        return
    if bench.plates:
        raise InputError("there is a first panel already", fix="Hang the others on it as flanges")
    if isinstance(step, said.Profile):
        fold_profile(bench, step, _LEVEL)
        return
    if isinstance(step, said.Shell):
        fold_shell(bench, step, _LEVEL)
        return
    shape = bench.shape(step)
    x0, y0, _, _ = shape.bounds
    if step.rectangle is not None:
        shape = shape.moved(Motion(x=-x0, y=-y0))
    bench.keep(Plate(name=step.name, where=bench.where, edges=shape.segments, frame=_LEVEL))


def _cut_corners(bench: Workbench, step: said.Corners) -> None:
    gap = bench.not_below(step.gap, "the gap")
    pairs = meeting_pairs(bench.plate(step.of))
    if not pairs:
        raise InputError(
            f"no two flanges of {step.of} meet in a corner",
            where=bench.where,
            fix="Hang flanges on neighbouring edges, their ends not left free",
        )
    order = list(bench.plates.values())
    size = bench.thickness if step.size is None else bench.above(step.size, "the relief's size")
    for one, two in pairs:
        if step.relief != "none":
            one.parent.reliefs[one.joint.edge] = (size, step.relief == "round")
        if step.how == "mitred":
            mitre(one, two, gap=gap, thickness=bench.thickness)
        elif step.how == "overlapped":
            over, under = sorted((one, two), key=order.index)
            overlap(over, under, gap=gap, thickness=bench.thickness)


def _round(bench: Workbench, step: said.Round) -> None:
    plate = bench.plate(step.panel)
    size = bench.above(step.radius, "the radius")
    count = len(plate.edges)
    wanted = step.corners or range(1, count + 1)
    for corner in wanted:
        place = plate.numbered(corner)
        if place is None:
            raise InputError(
                f"{plate.name} has no corner {corner}, it has {count}",
                fix="Corner N is where edge N ends",
            )
        plate.rounds[place] = Rounding(
            size, step.kind is CornerKind.ROUND, bool(step.corners), bench.where
        )


_DOES: dict[type, _Doing] = {
    said.Panel: _begin,
    said.Profile: _begin,
    said.Shell: _begin,
    said.Flange: hang_flange,
    said.Hem: hang_hem,
    said.Fold: fold_across,
    said.Jog: jog_across,
    said.Hole: cut_hole,
    said.Form: press_form,
    said.Crease: press_crease,
    said.Slot: cut_slot,
    said.Opening: cut_opening,
    said.Mirror: mirror_cutouts,
    said.Round: _round,
    # There must be such a panel by then; the corners themselves wait for the last step.
    said.Corners: lambda bench, step: bench.plate(step.of),
}
"""What does each kind of step."""
