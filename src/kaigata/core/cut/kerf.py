"""Contours moved by half a kerf, and what a kerf cannot enter."""

from __future__ import annotations

from dataclasses import dataclass

from kaigata.core.errors import InputError
from kaigata.core.findings import Finding, Level
from kaigata.core.plane import Contour, Region
from kaigata.core.plane.offset import offset_contour
from kaigata.core.plane.tolerance import CODE

__all__ = ["KerfLoop", "kerf_loops"]


@dataclass(frozen=True, slots=True)
class KerfLoop:
    """A closed path of the tool's centre: mm, part's frame.

    ``name`` is ``outer`` or ``hole N``; further loops of one hole are ``hole N.2`` and so on.
    """

    name: str
    hole: int | None
    path: Contour


def kerf_loops(region: Region, kerf: float, *, part: str) -> tuple[list[KerfLoop], list[Finding]]:
    """Return the tool's centre paths round a part and findings about what they cannot reach.

    Parameters
    ----------
    region : Region
        The part.
    kerf : float
        Width of the cut, mm, above 0.
    part : str
        Its name, for findings.

    Returns
    -------
    list of KerfLoop, list of Finding
        Holes first. A hole with a neck narrower than the kerf gives several loops.

    Raises
    ------
    InputError
        The outline crosses itself by so little that it was taken in all the same.
    """
    loops: list[KerfLoop] = []
    findings: list[Finding] = []
    half = kerf / 2
    for i, hole in enumerate(region.holes, start=1):
        paths = offset_contour(hole, half)
        loops += [
            KerfLoop(f"hole {i}" if k == 1 else f"hole {i}.{k}", i, p)
            for k, p in enumerate(paths, start=1)
        ]
        x0, y0, x1, y1 = hole.bounds
        at = ((x0 + x1) / 2, (y0 + y1) / 2)
        if not paths:
            findings.append(
                Finding(
                    level=Level.ERROR,
                    code="hole-under-kerf",
                    text=f"{part} hole {i} ({x1 - x0:.2f} x {y1 - y0:.2f} mm) is narrower than "
                    f"the kerf of {kerf:g} mm and is not cut. Drill it or choose a finer process.",
                    at=at,
                )
            )
        elif len(paths) > 1:
            findings.append(_narrow(f"{part} hole {i} has a neck", kerf, at))
    outer = offset_contour(region.outer, half)
    if not outer:
        raise InputError(
            "no way round its outline closes for the cut",
            where=part,
            fix="Draw the outline so that it crosses itself nowhere, not even by a hair",
        )
    loops.append(KerfLoop("outer", None, outer[0]))
    # Moving out by half a kerf and back closes what the kerf cannot enter.
    grown = outer[0].polygon().buffer(-half, quad_segs=64)
    closed = grown.difference(region.outer.polygon())
    for pocket in getattr(closed, "geoms", [closed]):
        if pocket.area > kerf * kerf / 2 and not pocket.buffer(-CODE).is_empty:
            p = pocket.representative_point()
            findings.append(_narrow(f"{part} has a notch", kerf, (p.x, p.y)))
    return loops, findings


def _narrow(what: str, kerf: float, at: tuple[float, float]) -> Finding:
    return Finding(
        level=Level.WARNING,
        code="narrower-than-kerf",
        text=f"{what} narrower than the kerf of {kerf:g} mm at {at[0]:.1f}, {at[1]:.1f}: it is "
        "cut only as far as the kerf reaches. Widen it or choose a finer process.",
        at=at,
    )
