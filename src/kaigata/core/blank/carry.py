"""What was pointed at on a blank, found again when the blank lies or is sized otherwise."""

from __future__ import annotations

from collections.abc import Sequence

import shapely

from kaigata.core.blank.blank import Blank
from kaigata.core.part.matching import Matches
from kaigata.core.plane import Motion, Point
from kaigata.core.plane.tolerance import KERNEL

__all__ = ["carried_points", "carried_sequence", "motion_between"]


def carried_points(
    points: Sequence[Point], before: Blank, after: Blank, same: Matches
) -> list[Point]:
    """Return where points of a blank lie in another blank of the same part.

    Each goes along with the panel it lies nearest to: exactly, however the blank is turned, turned
    over, hung on another panel or bent by another chart. Where that panel is gone, points stay.

    Parameters
    ----------
    points : sequence of Point
        On ``before``, mm.
    before, after : Blank
        Two blanks unfolded from one part, or from two revisions of it.
    same : Matches
        Which panels of the one part are still there in the other.

    Returns
    -------
    list of Point
        On ``after``, in the same order.
    """
    if not before.panels:
        return list(points)
    shapes = [p.region.polygon(10 * KERNEL) for p in before.panels]
    there = {p.number: p.motion for p in after.panels}
    out = []
    for point in points:
        away = shapely.distance(shapes, shapely.Point(point))
        panel = before.panels[int(away.argmin())]
        match = same.panels.get(panel.number - 1)
        if match is None:
            out.append(point)
        else:
            out.append(there[match.place + 1].point(match.motion.point(panel.motion.back(point))))
    return out


def motion_between(before: Blank, after: Blank, same: Matches) -> Motion | None:
    """Return the motion that lays a blank on another of the same part.

    The largest panel that both have comes to lie on itself; None where they have none in common.
    """
    if not same.panels:
        return None
    first = min(same.panels)
    match = same.panels[first]
    was = next(p.motion for p in before.panels if p.number == first + 1)
    now = next(p.motion for p in after.panels if p.number == match.place + 1)

    def there(p: Point) -> Point:
        return now.point(match.motion.point(was.back(p)))

    return Motion.like(there, mirrored=(was.mirrored != match.motion.mirrored) != now.mirrored)


def carried_sequence(
    sequence: Sequence[int], places: dict[int, int], after: Blank, same: Matches
) -> list[int]:
    """Return the order of bending with the numbers that the bends have in another blank.

    A bend's number is where it stands in its blank's table and changes as the blank is turned; the
    order in which the part is bent does not. Bends that have come are bent last, in the order of
    the table.

    Parameters
    ----------
    sequence : sequence of int
        Numbers of the bends as the blank before had them, in the order they are bent.
    places : dict of int to int
        Which of the folded part's bends each of these numbers meant.
    after : Blank
        The blank as it is now.
    same : Matches
        Which bends of the part are still there.

    Returns
    -------
    list of int
        Every bend of ``after`` once, by its number.
    """
    numbers = {b.place: b.number for b in after.bends}
    still = [same.bends.get(places.get(n, -1), -1) for n in sequence]
    kept = list(dict.fromkeys(numbers[p] for p in still if p in numbers))
    return kept + sorted(set(numbers.values()) - set(kept))
