"""What is different between two revisions of a part's blank."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from kaigata.core.findings import counted
from kaigata.core.formats.blank_files import region_of_document
from kaigata.core.formats.documents import BendDocument, BlankDocument
from kaigata.core.plane import Contour, Point, Region

__all__ = ["Change", "compare_blanks"]

_SAME = 0.01


@dataclass(frozen=True, slots=True)
class Change:
    """One difference, in words, with its place.

    Its kind is ``outline``, ``hole``, ``mark``, ``bend`` or ``sheet``.
    """

    kind: str
    text: str
    at: Point | None


def compare_blanks(old: BlankDocument, new: BlankDocument) -> list[Change]:
    """Return what the newer blank has changed, places in its own frame.

    Both lie as they are drawn, lower left corner at 0,0.
    """
    one, two = region_of_document(old), region_of_document(new)
    return [
        *_sheet(old, new),
        *_outline(old, new, one, two),
        *_holes(one, two),
        *_marks(old, new),
        *_bends(old, new),
    ]


def _sheet(old: BlankDocument, new: BlankDocument) -> list[Change]:
    if old.thickness == new.thickness:
        return []
    return [Change("sheet", f"Thickness {old.thickness:g} became {new.thickness:g} mm", None)]


def _outline(old: BlankDocument, new: BlankDocument, one: Region, two: Region) -> list[Change]:
    out = []
    if max(abs(old.width - new.width), abs(old.height - new.height)) > _SAME:
        text = (
            f"Blank {old.width:.2f} x {old.height:.2f} became {new.width:.2f} x {new.height:.2f} mm"
        )
        out.append(Change("outline", text, (new.width / 2, new.height / 2)))
    a, b = one.outer.polygon(), two.outer.polygon()
    apart = a.symmetric_difference(b)
    worth = [g for g in getattr(apart, "geoms", [apart]) if g.buffer(-_SAME).area > 0]
    if worth and not out:
        most = max(worth, key=lambda g: g.area).representative_point()
        places = counted(len(worth), "place", "places")
        text = f"Outline changed in {places}, {apart.area:.1f} mm2 in all"
        out.append(Change("outline", text, (most.x, most.y)))
    return out


def _holes(one: Region, two: Region) -> list[Change]:
    gone, come = _unmatched([_hole(h) for h in one.holes], [_hole(h) for h in two.holes])
    out = []
    for x, y, area in list(gone):
        # The same hole elsewhere is moved; another one in its place has changed its size.
        moved = next((h for h in come if abs(h[2] - area) < _SAME * 10), None)
        changed = next((h for h in come if math.dist(h[:2], (x, y)) < 1.0), None)
        if changed:
            come.remove(changed)
            sizes = tuple(2 * math.sqrt(v / math.pi) for v in (area, changed[2]))
            text = f"Hole at {x:.1f}, {y:.1f}: as wide as {sizes[0]:.2f}, now {sizes[1]:.2f} mm"
            out.append(Change("hole", text, changed[:2]))
        elif moved:
            come.remove(moved)
            text = f"Hole moved from {x:.1f}, {y:.1f} to {moved[0]:.1f}, {moved[1]:.1f}"
            out.append(Change("hole", text, moved[:2]))
        else:
            out.append(Change("hole", f"Hole at {x:.1f}, {y:.1f} taken out", (x, y)))
    out += [Change("hole", f"Hole at {x:.1f}, {y:.1f} added", (x, y)) for x, y, _ in come]
    return out


def _hole(hole: Contour) -> tuple[float, float, float]:
    x0, y0, x1, y1 = hole.bounds
    return ((x0 + x1) / 2, (y0 + y1) / 2, abs(hole.area))


Rows = list[tuple[float, float, float]]


def _unmatched(one: Rows, two: Rows) -> tuple[Rows, Rows]:
    left = list(two)
    gone = []
    for row in one:
        hit = next(
            (r for r in left if all(abs(p - q) < _SAME * 5 for p, q in zip(row, r, strict=True))),
            None,
        )
        if hit is None:
            gone.append(row)
        else:
            left.remove(hit)
    return gone, left


def _marks(old: BlankDocument, new: BlankDocument) -> list[Change]:
    come = list(new.marks)
    gone = []
    for mark in old.marks:
        same = (m for m in come if m.note == mark.note and math.dist(m.at, mark.at) < _SAME * 5)
        hit = next(same, None)
        if hit is None:
            gone.append(mark)
        else:
            come.remove(hit)
    out = []
    for mark in gone:
        place = "At {:.1f}, {:.1f}: ".format(*mark.at)
        changed = next((m for m in come if math.dist(m.at, mark.at) < 1.0), None)
        moved = next((m for m in come if m.note == mark.note), None)
        hit = changed or moved
        if hit is None:
            out.append(Change("mark", f"{place}{mark.note} taken out", mark.at))
            continue
        come.remove(hit)
        what = "moved to {:.1f}, {:.1f}".format(*hit.at)
        if hit.note != mark.note:
            what = f"became {hit.note}"
        out.append(Change("mark", f"{place}{mark.note} {what}", hit.at))
    for mark in come:
        text = "At {:.1f}, {:.1f}: ".format(*mark.at) + f"{mark.note} added"
        out.append(Change("mark", text, mark.at))
    return out


def _bends(old: BlankDocument, new: BlankDocument) -> list[Change]:
    same = _nearest([_middle(b) for b in old.bends], [_middle(b) for b in new.bends])
    out = []
    for i, bend in enumerate(old.bends):
        if i not in same:
            out.append(Change("bend", f"Bend {bend.id} taken out", _middle(bend)))
            continue
        now = new.bends[same[i]]
        said = _bend_changes(bend, now)
        if said:
            out.append(Change("bend", f"Bend {now.id}: {', '.join(said)}", _middle(now)))
    left = [b for i, b in enumerate(new.bends) if i not in same.values()]
    return out + [Change("bend", f"Bend {b.id} added", _middle(b)) for b in left]


def _nearest(one: Sequence[Point], two: Sequence[Point]) -> dict[int, int]:
    """Return which of the second points goes with each of the first, the nearest pairs first."""
    apart = sorted((math.dist(p, q), i, j) for i, p in enumerate(one) for j, q in enumerate(two))
    pairs: dict[int, int] = {}
    for _, i, j in apart:
        if i not in pairs and j not in pairs.values():
            pairs[i] = j
    return pairs


def _bend_changes(old: BendDocument, new: BendDocument) -> list[str]:
    said = []
    if abs(old.angle - new.angle) > _SAME:
        said.append(f"{old.angle:g} became {new.angle:g} degrees")
    if abs(old.inside_radius - new.inside_radius) > _SAME:
        said.append(f"radius {old.inside_radius:g} became {new.inside_radius:g} mm")
    if old.direction != new.direction:
        said.append(f"{old.direction} became {new.direction}")
    if abs(old.length - new.length) > _SAME:
        said.append(f"length {old.length:.2f} became {new.length:.2f} mm")
    if math.dist(_middle(old), _middle(new)) > 0.05:
        said.append(f"moved by {math.dist(_middle(old), _middle(new)):.2f} mm")
    return said


def _middle(bend: BendDocument) -> Point:
    (x0, y0), (x1, y1) = bend.line
    return ((x0 + x1) / 2, (y0 + y1) / 2)
