"""What is chosen of a shell: the faces that are of metal, and the edges that are bent."""

from __future__ import annotations

import math
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from kaigata.core.errors import InputError
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.nets import is_tree, net_of, nets, usual_net
from kaigata.core.part.recipe.polyhedron import Polyhedron, Ridge
from kaigata.core.part.recipe.solids import solid_of
from kaigata.core.part.recipe.workbench import Workbench

__all__ = ["Choice", "Neighbour", "ShellFace", "ShellNet", "chosen", "shell_faces", "shell_nets"]


@dataclass(frozen=True, slots=True)
class Choice:
    """The faces of metal, that which the others are folded from, and the edges between them.

    ``bent`` are those of the ``ridges`` that are bends; the others are seams.
    """

    faces: tuple[str, ...]
    anchor: str
    ridges: tuple[Ridge, ...]
    bent: tuple[Ridge, ...]


@dataclass(frozen=True, slots=True)
class Neighbour:
    """A face beyond an edge: how long that is, mm, and how far the sheet turns, degrees."""

    face: str
    length: float
    turn: float


@dataclass(frozen=True, slots=True)
class ShellFace:
    """A face of a shell: what it hangs on, None where it is the first or left open."""

    name: str
    is_open: bool
    hangs_on: str | None
    beside: tuple[Neighbour, ...]


@dataclass(frozen=True, slots=True)
class ShellNet:
    """A net of a recipe's shell, and the recipe so.

    Attributes
    ----------
    bent : tuple of pairs of str
        The faces between which it is bent.
    length : float
        Of all bends, mm.
    size : (float, float)
        Of the smallest rectangle round its faces, mm; not that of the blank.
    recipe : Recipe
        With this net.
    """

    bent: tuple[tuple[str, str], ...]
    length: float
    size: tuple[float, float]
    recipe: said.Recipe


def chosen(solid: Polyhedron, step: said.Shell) -> Choice:
    """Return what a step chooses of its solid.

    Raises
    ------
    InputError
        It names faces that there are not, or its bends do not join all faces as one flat.
    """
    faces = _closed_faces(solid, step)
    ridges = tuple(r for r in solid.ridges if r.faces <= {*faces})
    anchor = faces[0] if step.anchor is None else step.anchor
    if anchor not in faces:
        raise _no_face(faces, anchor)
    if step.bent is None:
        bent = usual_net(solid, faces, anchor)
    else:
        bent = tuple(_named(ridges, step.bent))
    if not is_tree(faces, bent):
        _refuse_net(faces, bent, anchor)
    return Choice(faces, anchor, ridges, bent)


def shell_faces(recipe: said.Recipe) -> list[ShellFace]:
    """Return the faces of a recipe's shell, open ones too; none of another recipe.

    Raises
    ------
    InputError
        The shell cannot be made.
    """
    found = _shell_of(recipe)
    if found is None:
        return []
    step, solid, choice = found
    holders, reached = {}, [choice.anchor]
    for face in reached:
        for ridge in choice.bent:
            beyond = ridge.other(face) if face in ridge.faces else choice.anchor
            if beyond not in reached:
                holders[beyond] = face
                reached.append(beyond)
    return [
        ShellFace(
            name=face,
            is_open=face in step.open,
            hangs_on=holders.get(face),
            beside=tuple(
                Neighbour(r.other(face), r.length, math.degrees(r.angle))
                for r in solid.ridges
                if face in r.faces
            ),
        )
        for face in solid.faces
    ]


def shell_nets(recipe: said.Recipe) -> Iterator[ShellNet]:
    """Yield the net that a recipe's shell has, then all, on the smallest rectangle first.

    Raises
    ------
    InputError
        The shell cannot be made.
    """
    found = _shell_of(recipe)
    if found is None:
        return
    step, solid, choice = found
    for net in (net_of(solid, choice.bent, choice.anchor), *nets(solid, choice.faces)):
        bent = tuple((r.one, r.two) for r in net.bent)
        so = step.model_copy(update={"bent": [*bent]})
        changed = recipe.model_copy(update={"steps": [so, *recipe.steps[1:]]})
        yield ShellNet(bent, net.bends, net.size, changed)


def _shell_of(recipe: said.Recipe) -> tuple[said.Shell, Polyhedron, Choice] | None:
    step = recipe.steps[0]
    if not isinstance(step, said.Shell):
        return None
    solid = solid_of(Workbench(recipe), step.solid)
    return step, solid, chosen(solid, step)


def _closed_faces(solid: Polyhedron, step: said.Shell) -> tuple[str, ...]:
    unknown = next((f for f in step.open if f not in solid.faces), None)
    if unknown is not None:
        raise _no_face(solid.faces, unknown)
    faces = tuple(f for f in solid.faces if f not in step.open)
    if not faces:
        raise InputError("every face is left open", fix="Leave one closed, at least")
    return faces


def _no_face(faces: Iterable[str], name: str) -> InputError:
    return InputError(f"there is no face {name!r}", fix=f"There are {', '.join(faces)}")


def _named(ridges: Sequence[Ridge], bent: Sequence[tuple[str, str]]) -> Iterator[Ridge]:
    """Yield the longest edge between each two faces named."""
    for pair in bent:
        between = [r for r in ridges if r.faces == frozenset(pair)]
        if not between:
            raise InputError(
                f"{pair[0]} and {pair[1]} are not neighbours",
                fix="Name two faces that share an edge, both of them closed",
            )
        yield max(between, key=lambda r: r.length)


def _refuse_net(faces: Sequence[str], bent: Sequence[Ridge], anchor: str) -> None:
    reached, grown = {anchor}, True
    while grown:
        more = {f for r in bent if r.faces & reached for f in r.faces} - reached
        reached |= more
        grown = bool(more)
    apart = [f for f in faces if f not in reached]
    if apart:
        raise InputError(
            f"no bend joins {apart[0]} to {anchor}", fix="Bend another edge of it, or leave it open"
        )
    raise InputError(
        f"{len(bent)} edges of {len(faces)} faces are bent, so some close a ring",
        fix=f"Bend {len(faces) - 1}; a ring of faces needs a seam",
    )
