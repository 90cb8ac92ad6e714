"""Which pieces of a folded part are still there in a later revision of it.

A revision moves, widens and adds; what it leaves lies about where it lay. Bends and panels of both
are paired so that they lie nearest to each other in all; what is turned otherwise is no pair. A
part that was modelled elsewhere is first moved to where most of its bends come to lie on those of
the other.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
from scipy.optimize import linear_sum_assignment

from kaigata.core.part.folded import Bend, FoldedPart, Frame, Panel
from kaigata.core.plane import Motion

__all__ = ["ALONG", "SHARE", "STILL", "Matches", "PanelMatch", "matched", "paired"]

Vec = npt.NDArray[np.float64]

ALONG = math.cos(math.radians(20))
"""Axes and planes that differ by less are turned alike."""

_TOWARDS = math.cos(math.radians(45))
"""Bends that bulge in directions that differ by less are bent alike."""

SHARE = 0.25
"""Share of a part's diagonal by which a piece may have moved and be itself."""

STILL = 0.5
"""mm: what lies nearer has not moved."""

_PIVOTS = 12
"""Bends of the part before that are laid on those of the part after."""


@dataclass(frozen=True, slots=True)
class PanelMatch:
    """The panel a panel became, by its place; ``motion`` takes its frame to the later one's.

    The motion is mirrored where the later panel is seen from the other side of the sheet.
    """

    place: int
    motion: Motion


@dataclass(frozen=True)
class Matches:
    """What of a part is still there in another: panels and bends by their places in each."""

    panels: dict[int, PanelMatch]
    bends: dict[int, int]

    @classmethod
    def all_of(cls, part: FoldedPart) -> Matches:
        """Return the matches of a part with itself."""
        return cls(
            panels={i: PanelMatch(i, Motion()) for i in range(len(part.panels))},
            bends={i: i for i in range(len(part.bends))},
        )


@dataclass(frozen=True, slots=True)
class _Place:
    """Where a piece lies in space: its middle, its axis either way round, where it bulges to.

    A panel, which is seen from either side, has its normal as its axis and bulges all ways.
    """

    middle: Vec
    axis: Vec
    bulge: Vec

    def moved(self, turn: Vec, shift: Vec) -> _Place:
        return _Place(turn @ self.middle + shift, turn @ self.axis, turn @ self.bulge)


@dataclass(frozen=True)
class _Pieces:
    panels: list[_Place]
    bends: list[_Place]

    @classmethod
    def of(cls, part: FoldedPart) -> _Pieces:
        half = part.thickness / 2
        return cls(
            [_panel_place(p, half) for p in part.panels], [_bend_place(b, half) for b in part.bends]
        )

    @property
    def count(self) -> int:
        return len(self.panels) + len(self.bends)

    def moved(self, turn: Vec, shift: Vec) -> _Pieces:
        return _Pieces(
            [p.moved(turn, shift) for p in self.panels], [b.moved(turn, shift) for b in self.bends]
        )

    def pairs(self, other: _Pieces, limit: float) -> tuple[dict[int, int], dict[int, int]]:
        """Return the pairs of panels and of bends that lie within a limit of each other."""
        return (
            paired(_apart(self.panels, other.panels), limit),
            paired(_apart(self.bends, other.bends), limit),
        )


def matched(before: FoldedPart, after: FoldedPart) -> Matches:
    """Return which panels and bends of a part are still there in a later revision of it.

    Parameters
    ----------
    before, after : FoldedPart
        Two revisions of one part; the later one may be modelled elsewhere in space.

    Returns
    -------
    Matches
        Pieces that have no like are in neither of its tables.
    """
    one, two = _Pieces.of(before), _Pieces.of(after)
    turn, shift = _registration(one, two)
    panels, bends = one.moved(turn, shift).pairs(two, SHARE * _diagonal(before))
    return Matches(
        panels={
            i: PanelMatch(j, _motion(before.panels[i].frame, after.panels[j].frame, turn, shift))
            for i, j in panels.items()
        },
        bends=bends,
    )


def paired(apart: Vec, limit: float) -> dict[int, int]:
    """Return pairs of rows and columns that are least apart in all, none more than a limit.

    Parameters
    ----------
    apart : (n, m) array
        How far each of the one lies from each of the other, mm; infinite where they are no pair.
    limit : float
        mm.
    """
    if not apart.size:
        return {}
    # Beyond the limit costs more than all nearness can gain, so as many are pairs as can be.
    far = np.where(apart <= limit, apart, 4 * limit * (1 + min(apart.shape)))
    rows, columns = linear_sum_assignment(far)
    return {int(i): int(j) for i, j in zip(rows, columns, strict=True) if apart[i, j] <= limit}


def _apart(one: Sequence[_Place], two: Sequence[_Place]) -> Vec:
    """Return how far pieces lie apart, infinite where they are turned otherwise."""
    if not one or not two:
        return np.empty((0, 0))

    def table(get: str) -> tuple[Vec, Vec]:
        a, b = (np.array([getattr(p, get) for p in places]) for places in (one, two))
        return a[:, None, :], b[None, :, :]

    (a, b), (p, q), (u, v) = table("middle"), table("axis"), table("bulge")
    is_alike = (np.abs((p * q).sum(axis=2)) > ALONG) & _is_towards(u, v)
    return np.where(is_alike, np.linalg.norm(a - b, axis=2), np.inf)


def _is_towards(u: Vec, v: Vec) -> npt.NDArray[np.bool_]:
    lengths: Vec = np.linalg.norm(u, axis=2) * np.linalg.norm(v, axis=2)
    return np.asarray((u * v).sum(axis=2) >= _TOWARDS * lengths)


def _registration(before: _Pieces, after: _Pieces) -> tuple[Vec, Vec]:
    """Return the turn and shift after which most pieces lie where one of the later part lies."""
    best: tuple[Vec, Vec] = (np.eye(3), np.zeros(3))

    def count(motion: tuple[Vec, Vec]) -> int:
        return sum(map(len, before.moved(*motion).pairs(after, STILL)))

    most = count(best)
    if 2 * most > before.count:
        # What was modelled elsewhere has hardly a piece where it was.
        return best
    for motion in _laid_on(before.bends[:_PIVOTS], after.bends):
        now = count(motion)
        if now > most:
            best, most = motion, now
    return best


def _laid_on(before: Sequence[_Place], after: Sequence[_Place]) -> Iterator[tuple[Vec, Vec]]:
    """Yield the motions that lay a bend on a bend, its axis either way round."""
    for p in before:
        own = np.column_stack([p.bulge, p.axis, np.cross(p.bulge, p.axis)])
        for q in after:
            for axis in (q.axis, -q.axis):
                there = np.column_stack([q.bulge, axis, np.cross(q.bulge, axis)])
                turn = there @ own.T
                yield turn, q.middle - turn @ p.middle


def _bend_place(bend: Bend, half: float) -> _Place:
    """Return where the middle of a bend lies, half a thickness inside its skins."""
    along = [y for e in bend.edges for s in e.run for y in (s.start[1], s.end[1])]
    middle = bend.frame.place(bend.inside_radius + half, (min(along) + max(along)) / 2, 0.0)
    return _Place(np.array(middle), np.array(bend.frame.y), np.array(bend.frame.x))


def _panel_place(panel: Panel, half: float) -> _Place:
    """Return where the middle of a panel lies, half a thickness inside its skins."""
    segments = [s for e in panel.edges for s in e.run]
    middles = np.array([panel.space(s.at(0.5)) for s in segments])
    normal = np.array(panel.frame.z)
    middle = np.average(middles, axis=0, weights=[s.length for s in segments]) - half * normal
    return _Place(middle, normal, np.zeros(3))


def _diagonal(part: FoldedPart) -> float:
    corners = np.array([p.space(s.start) for p in part.pieces for e in p.edges for s in e.run])
    return float(np.linalg.norm(np.ptp(corners, axis=0)))


def _motion(one: Frame, two: Frame, turn: Vec, shift: Vec) -> Motion:
    """Return the motion that takes one panel's plane to another's near it."""

    def local(p: tuple[float, float]) -> tuple[float, float]:
        x, y, z = (turn @ np.array(one.place(p[0], p[1], 0.0)) + shift).tolist()
        u, v, _ = two.local((x, y, z))
        return u, v

    is_seen_from_behind = float((turn @ np.array(one.z)) @ np.array(two.z)) < 0
    return Motion.like(local, mirrored=is_seen_from_behind)
