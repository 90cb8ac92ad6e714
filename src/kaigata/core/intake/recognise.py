"""From a solid to a folded part: its skins, the edges between them, its panels and bends."""

from __future__ import annotations

import math
from dataclasses import replace

from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.pieces import Pieces, build_pieces, vector
from kaigata.core.intake.sides import Sides, judge_sides
from kaigata.core.intake.skins import FORM, find_skins
from kaigata.core.part import Feature, FoldedPart, Panel, Remark
from kaigata.core.plane import Point

__all__ = ["folded_part"]

_VOLUME_SHARE = 0.05
"""How far a sheet's volume may be from its skin times its thickness: countersinks, bevels."""


def folded_part(solid: Solid, name: str) -> FoldedPart:
    """Return the folded part that a solid is.

    Parameters
    ----------
    solid : Solid
        A solid of any faces.
    name : str
        What to call it.

    Returns
    -------
    FoldedPart
        Panels and bends of the skin whose largest panel looks most upwards (then to +y, +x).

    Raises
    ------
    InputError
        The solid is no folded sheet of one thickness; the text says why and where.
    """
    skins = find_skins(solid)
    sides = judge_sides(solid, skins)
    pieces = build_pieces(solid, skins, sides.aprons)
    part = FoldedPart(name, skins.thickness, _whole(pieces, sides), pieces.bends)
    _require_volume(solid, part)
    return _annotated(part, pieces, sides)


def _whole(pieces: Pieces, sides: Sides) -> tuple[Panel, ...]:
    """Return the panels without the loops that bound pressed forms."""
    if not sides.closed:
        return pieces.panels
    return tuple(
        replace(p, edges=tuple(e for e in p.edges if e.number not in sides.closed))
        for p in pieces.panels
    )


def _annotated(part: FoldedPart, pieces: Pieces, sides: Sides) -> FoldedPart:
    def place(face: int, at: object) -> tuple[int, Point]:
        number = pieces.piece_of_face[face]
        piece = part.pieces[number]
        x, y, z = piece.frame.local(vector(at))  # type: ignore[arg-type]
        return number, ((x, y) if isinstance(piece, Panel) else (math.atan2(z, x), y))

    features = []
    for mark in sides.marks:
        number, at = place(mark.face, mark.at)
        features.append(
            Feature(
                kind=mark.kind,
                piece=number,
                at=at,
                diameter=mark.diameter,
                note=mark.note,
                is_above=mark.is_above,
            )
        )
    remarks = []
    for r in sides.remarks:
        number, at = place(r.face, r.at)
        remarks.append(Remark(level=r.level, code=r.code, text=r.text, piece=number, at=at))
    return replace(part, features=tuple(features), remarks=tuple(remarks))


def _require_volume(solid: Solid, part: FoldedPart) -> None:
    share = part.volume / solid.volume - 1
    if abs(share) > _VOLUME_SHARE:
        raise InputError(
            f"thickness is not constant: skin times {part.thickness:.4g} mm gives "
            f"{part.volume:.1f} mm3, the solid has {solid.volume:.1f} mm3",
            fix=FORM,
        )
    skin = math.fsum(p.area for p in part.panels)
    skin += math.fsum(b.area * (b.inside_radius + part.thickness / 2) for b in part.bends)
    sides = math.fsum(f.area for f in solid.faces) - 2 * skin
    if sides > 2 * skin:
        raise InputError(
            f"it is a block: {part.thickness:.4g} mm thick with only {skin:.0f} mm2 of flat",
            fix=FORM,
        )
