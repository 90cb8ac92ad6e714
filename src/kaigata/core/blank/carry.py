"""What was pointed at on a blank, found again when the blank lies or is sized otherwise."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from kaigata.core.blank.blank import Blank
from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import KERNEL

__all__ = ["carried_points", "carried_sequence", "is_laid_across"]


def carried_points(points: Sequence[Point], before: Blank, after: Blank) -> list[Point]:
    """Return where points of a blank lie in another blank of the same folded part.

    Each goes along with the panel it lies nearest to: exactly, however the blank is turned, turned
    over, hung on another panel or bent by another chart. Where there is no panel, or the parts
    have not as many, points stay.

    Parameters
    ----------
    points : sequence of Point
        On ``before``, mm.
    before, after : Blank
        Two blanks unfolded from one part.

    Returns
    -------
    list of Point
        On ``after``, in the same order.
    """
    if not before.panels or len(before.panels) != len(after.panels):
        return list(points)
    shapes = [p.region.polygon(10 * KERNEL) for p in before.panels]
    there = {p.number: p.motion for p in after.panels}
    out = []
    for point in points:
        away = shapely.distance(shapes, shapely.Point(point))
        panel = before.panels[int(away.argmin())]
        out.append(there[panel.number].point(panel.motion.back(point)))
    return out


def is_laid_across(before: Blank, after: Blank) -> bool:
    """Return whether what lay along x on a blank lies nearer to y on another of the same part."""
    if not before.panels or len(before.panels) != len(after.panels):
        return False
    was, now = before.panels[0].motion, after.panels[0].motion
    (ox, oy), (ux, uy) = was.back((0.0, 0.0)), was.back((1.0, 0.0))
    x, y = now.heading((ux - ox, uy - oy))
    return abs(y) > abs(x)


def carried_sequence(sequence: Sequence[int], places: dict[int, int], after: Blank) -> list[int]:
    """Return the order of bending with the numbers that the bends have in another blank.

    A bend's number is where it stands in its blank's table and changes as the blank is turned; the
    order in which the part is bent does not.

    Parameters
    ----------
    sequence : sequence of int
        Numbers of the bends as the blank before had them, in the order they are bent.
    places : dict of int to int
        Which of the folded part's bends each of these numbers meant.
    after : Blank
        The blank as it is now.

    Returns
    -------
    list of int
        The same bends by their numbers in ``after``; those in the order of its table when they are
        not the same bends.
    """
    numbers = {b.place: b.number for b in after.bends}
    wanted = [places.get(n, -1) for n in sequence]
    if sorted(wanted) != sorted(numbers):
        return sorted(numbers.values())
    return [numbers[p] for p in wanted]
