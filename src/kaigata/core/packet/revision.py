"""What is different between two revisions of a part's blank."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from kaigata.core.findings import counted
from kaigata.core.formats.blank_files import region_of_document
from kaigata.core.formats.documents import BendDocument, BlankDocument, MarkDocument
from kaigata.core.plane import Contour, Motion, Point, Region

__all__ = ["Change", "compare_blanks"]

_T = TypeVar("_T")

_SAME = 0.01
_IN_PLACE = 1.0
"""mm within which one thing has taken another's place."""


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

    Both lie so that what has not changed lies in one place.
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
    apart = one.outer.polygon().symmetric_difference(two.outer.polygon())
    worth = [g for g in getattr(apart, "geoms", [apart]) if g.buffer(-_SAME).area > 0]
    most = max(worth, key=lambda g: g.area, default=two.outer.polygon()).representative_point()
    if max(abs(old.width - new.width), abs(old.height - new.height)) > _SAME:
        text = (
            f"Blank {old.width:.2f} x {old.height:.2f} became {new.width:.2f} x {new.height:.2f} mm"
        )
    elif worth:
        places = counted(len(worth), "place")
        text = f"Outline changed in {places}, {apart.area:.1f} mm2 in all"
    else:
        return []
    return [Change("outline", text, (most.x, most.y))]


def _holes(one: Region, two: Region) -> list[Change]:
    def size(hole: Contour) -> str:
        return f"{2 * math.sqrt(abs(hole.area) / math.pi):.2f}"

    def told(old: _Placed[Contour], new: _Placed[Contour]) -> str:
        if math.dist(old.at, new.at) >= _IN_PLACE:
            return f"Hole moved from {old} to {new}"
        if abs(abs(old.what.area) - abs(new.what.area)) < _SAME:
            return f"Hole at {old}: turned, or of another shape of the same area"
        return f"Hole at {old}: as wide as {size(old.what)}, now {size(new.what)} mm"

    holes = ([_hole(h) for h in r.holes] for r in (one, two))
    changed, gone, come = _different(*holes, apart=_unlike)
    return [
        *(Change("hole", told(old, new), new.at) for old, new in changed),
        *(Change("hole", f"Hole at {h} taken out", h.at) for h in gone),
        *(Change("hole", f"Hole at {h} added", h.at) for h in come),
    ]


def _hole(hole: Contour) -> _Placed[Contour]:
    x0, y0, x1, y1 = hole.bounds
    x, y = (x0 + x1) / 2, (y0 + y1) / 2
    return _Placed((x, y), hole.moved(Motion(x=-x, y=-y)))


def _unlike(one: Contour, two: Contour) -> float:
    """Return the area that one hole has and the other has not, mm2, both about their middles."""
    apart = float(one.polygon().symmetric_difference(two.polygon()).area)
    # Circles that begin elsewhere have other chords: that much is no difference.
    if apart < _SAME * one.length:
        return abs(abs(one.area) - abs(two.area))
    return apart


def _marks(old: BlankDocument, new: BlankDocument) -> list[Change]:
    def told(was: _Placed[str], now: _Placed[str]) -> str:
        become = f"moved to {now}" if was.what == now.what else f"became {now.what}"
        return f"At {was}: {was.what} {become}"

    marks = ([_mark(m) for m in d.marks] for d in (old, new))
    changed, gone, come = _different(*marks, apart=lambda a, b: 0.0 if a == b else math.inf)
    return [
        *(Change("mark", told(was, now), now.at) for was, now in changed),
        *(Change("mark", f"At {m}: {m.what} taken out", m.at) for m in gone),
        *(Change("mark", f"At {m}: {m.what} added", m.at) for m in come),
    ]


def _mark(mark: MarkDocument) -> _Placed[str]:
    """Return a mark by its middle; what it is, of a line tells how it lies too."""
    if mark.end is None:
        return _Placed(mark.at, mark.note)
    (x0, y0), (x1, y1) = sorted((mark.at, mark.end))
    lies = f"{mark.note}, {x1 - x0:.1f} across and {y1 - y0:.1f} up"
    return _Placed(((x0 + x1) / 2, (y0 + y1) / 2), lies)


@dataclass(frozen=True)
class _Placed(Generic[_T]):
    """Something at a place of the blank: of a hole its contour, of a mark its note."""

    at: Point
    what: _T

    def __str__(self) -> str:
        return "{:.1f}, {:.1f}".format(*self.at)


def _different(
    one: Sequence[_Placed[_T]], two: Sequence[_Placed[_T]], *, apart: Callable[[_T, _T], float]
) -> tuple[list[tuple[_Placed[_T], _Placed[_T]]], list[_Placed[_T]], list[_Placed[_T]]]:
    """Return what has changed from one to two, what is gone and what has come.

    What lies in the place of another is a change of it; the same elsewhere has moved.
    """

    def is_same(p: _Placed[_T], q: _Placed[_T]) -> bool:
        off = max(abs(p.at[0] - q.at[0]), abs(p.at[1] - q.at[1]))
        return off < _SAME * 5 and apart(p.what, q.what) < _SAME * 5

    def is_in_place(p: _Placed[_T], q: _Placed[_T]) -> bool:
        return math.dist(p.at, q.at) < _IN_PLACE

    def is_elsewhere(p: _Placed[_T], q: _Placed[_T]) -> bool:
        return apart(p.what, q.what) < _SAME * 10

    def taken(
        p: _Placed[_T], *ways: Callable[[_Placed[_T], _Placed[_T]], bool]
    ) -> _Placed[_T] | None:
        hit = next((q for is_like in ways for q in come if is_like(p, q)), None)
        if hit is not None:
            come.remove(hit)
        return hit

    come = list(two)
    differ = [p for p in one if taken(p, is_same) is None]
    changed, gone = [], []
    for p in differ:
        hit = taken(p, is_in_place, is_elsewhere)
        if hit is None:
            gone.append(p)
        else:
            changed.append((p, hit))
    return changed, gone, come


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
    if not said and _ends_apart(old, new) > 0.05:
        said.append("turned about its middle")
    return said


def _ends_apart(old: BendDocument, new: BendDocument) -> float:
    """Return how far the ends of one bend line lie from those of another, whichever comes first."""
    (a, b), (c, d) = old.line, new.line
    return min(max(math.dist(a, p), math.dist(b, q)) for p, q in ((c, d), (d, c)))


def _middle(bend: BendDocument) -> Point:
    (x0, y0), (x1, y1) = bend.line
    return ((x0 + x1) / 2, (y0 + y1) / 2)
