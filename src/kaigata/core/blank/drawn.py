"""The blank of a flat that was drawn and whose bends are not known in full."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from kaigata.core.blank.blank import Blank, BlankBend, Line
from kaigata.core.blank.pose import FaceUp, flat_pose, gauge
from kaigata.core.blank.unfold import numbered
from kaigata.core.findings import Finding, Level
from kaigata.core.plane import Region

__all__ = ["drawn_blank", "missing_bend_data"]


def drawn_blank(
    name: str,
    region: Region,
    bends: Sequence[tuple[Sequence[Line], bool | None]],
    *,
    thickness: float = 0.0,
    k: float,
    face_up: FaceUp = FaceUp.AS_MODELLED,
    findings: Sequence[Finding] = (),
) -> Blank:
    """Return the blank of a drawn flat.

    What a drawing does not say of a bend is taken as 90 degrees up with an inside radius of the
    thickness, and said in a finding.

    Parameters
    ----------
    name : str
        What to call it.
    region : Region
        Outline and holes, mm, lying as drawn.
    bends : sequence
        For each bend its lines on material, and whether it goes up, None where that is not said.
    thickness : float
        Sheet thickness, mm; 0 where it is not known.
    k : float
        Neutral-axis factor.
    face_up : FaceUp
        Which side lies up; the drawing is taken as seen from ``AS_MODELLED``.
    findings : sequence of Finding
        What was found when it was read.
    """
    made = tuple(
        BlankBend(
            number=0,
            line=(lines[0][0], lines[-1][1]),
            lines=tuple((a, b) for a, b in lines),
            angle=math.pi / 2,
            is_up=is_up is not False,
            inside_radius=thickness,
            k=k,
            thickness=thickness,
            panels=(),
            origin="not said by the drawing",
            place=i,
        )
        for i, (lines, is_up) in enumerate(bends)
    )
    blank = Blank(
        name=name,
        thickness=thickness,
        region=region,
        bends=made,
        panels=(),
        findings=(*findings, *missing_bend_data(len(made), sum(up is None for _, up in bends))),
    )
    laid = blank.moved(flat_pose(region, face_up=face_up))
    return gauge(replace(laid, bends=numbered(laid.bends)))


def missing_bend_data(
    bends: int, without_direction: int, *, of: int | None = None
) -> list[Finding]:
    """Return the finding that a drawing does not say how bends are made, if there are such.

    ``of`` is how many bends it has in all, where of some it is known.
    """
    if not bends:
        return []
    if of and bends < of:
        what = f"{bends} of its {of} bends {'is' if bends == 1 else 'are'} made: "
    else:
        what = "its bend is made: " if bends == 1 else f"its {bends} bends are made: "
    what += "it is" if bends == 1 else "they are"
    direction = ""
    if without_direction:
        direction = " up" if without_direction == bends else f", {without_direction} of them up"
    return [
        Finding(
            level=Level.WARNING,
            code="bend-data-missing",
            text=f"The drawing does not say how {what} taken as "
            f"90 degrees{direction}, the inside radius as the thickness. Give angle, radius and "
            "direction at the part.",
        )
    ]
