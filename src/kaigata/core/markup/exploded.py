"""Where the parts of an assembly lie in its exploded view: each out the way it comes off.

Parts are taken off the largest one after the other, first small ones that lie on others and have
nothing before them; put back in the other sequence each is laid beyond what it came off.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import product

import numpy as np
import numpy.typing as npt

from kaigata.core.markup.folded_view import Body
from kaigata.core.markup.hidden import twice_area

__all__ = ["exploded"]

Floats = npt.NDArray[np.float64]
Truths = npt.NDArray[np.bool_]

_RAYS, _MANY = 100, 300
"""Rays along the longest side of the assembly that parts are compared on, up to so many parts; of
more parts fewer, so that what there is to compare does not grow faster than they do."""
_FIT = 0.1
"""What parts that lie on each other may reach into each other, mm: their arcs are chords."""
_NEAR = 1.0
"""As far from each other parts still lie on each other, mm."""
_GAP = 0.15
"""From part to part, as a share of the assembly's longest side."""
_APART = 0.25
"""Share of that which parts that are seen apart as they stand need lie from each other."""
_OUTWARD = 0.5
"""How much it counts that a part lies on the outside, beside lying on what it comes off."""
_UPWARD = 0.1
"""How much it counts that a part comes off upwards."""
_AXES = (0, 1, 2)
_WAYS = tuple(product(_AXES, (1, -1)))
"""Ways a part may come off: an axis, and along it or against it."""


def exploded(bodies: Sequence[Body]) -> Floats:
    """Return how far each body is moved so that all come apart, (n, 3), mm.

    Each is moved along one axis, or not at all where it is the largest, which the others come off,
    or lies apart from them already. Where parts hook into each other the one that is hindered
    least is taken off first.

    Parameters
    ----------
    bodies : sequence of Body
        What lies together, each with at least one triangle.
    """
    if not bodies:
        return np.zeros((0, 3))
    low = np.array([b.triangles.reshape(-1, 3).min(axis=0) for b in bodies])
    high = np.array([b.triangles.reshape(-1, 3).max(axis=0) for b in bodies])
    hindered, resting = _compared(bodies, low, high)
    gap = _GAP * float((high.max(axis=0) - low.min(axis=0)).max())
    moved: Floats = np.zeros((len(bodies), 3))
    placed = [int(np.argmax(_sizes(low, high)))]
    for i, way in reversed(list(_taken_off(low, high, hindered, resting))):
        axis, sign = _WAYS[way]
        out = _out(i, axis, sign, low + moved, high + moved, placed, gap)
        moved[i, axis] = sign * out if out else 0.0
        placed.append(i)
    return moved


def _out(
    i: int, axis: int, sign: int, low: Floats, high: Floats, placed: Sequence[int], gap: float
) -> float:
    """Return how far a body goes along an axis to lie beyond those placed that it stands before."""
    others = [a for a in _AXES if a != axis]
    in_way = [
        j for j in placed if all(low[j, a] < high[i, a] and high[j, a] > low[i, a] for a in others)
    ]
    if sign > 0:
        between = [low[i, axis] - high[j, axis] for j in in_way]
    else:
        between = [low[j, axis] - high[i, axis] for j in in_way]
    least = min(between, default=gap)
    return gap - least if least < _APART * gap else 0.0


def _taken_off(
    low: Floats, high: Floats, hindered: npt.NDArray[np.int64], resting: Floats
) -> Iterator[tuple[int, int]]:
    """Yield body after body, but for the largest, and the way it comes off.

    ``hindered[w, i, j]`` counts rays on which body j hinders body i on way w, and
    ``resting[w, i, j]`` says how much of the smaller of both lies on the other where body i comes
    off body j on way w.
    """
    middle, whole = (low + high) / 2, high.max(axis=0) - low.min(axis=0)
    off_centre = (middle - (high.max(axis=0) + low.min(axis=0)) / 2) / np.maximum(whole, _FIT)
    size = _sizes(low, high)
    hopes = np.array([_OUTWARD * sign * off_centre[:, axis] for axis, sign in _WAYS])
    hopes[_WAYS.index((2, 1))] += _UPWARD
    hopes -= size / size.max()
    hindering, rests, lying = hindered.sum(axis=2), resting.max(axis=2), resting.copy()
    is_left = np.arange(len(size)) != np.argmax(size)
    while is_left.any():
        least = hindering[:, is_left].min()
        ways, rows = np.nonzero((hindering == least) & is_left)
        # Of those that are hindered alike, most often not at all, what most likely comes off so.
        hope = (hopes[ways, rows] + rests[ways, rows]).round(6)
        best = np.lexsort((rows, -hope))[0]
        i = int(rows[best])
        yield i, int(ways[best])
        is_left[i] = False
        hindering -= hindered[:, :, i]
        beside = (lying[:, :, i] > 0).any(axis=0)
        lying[:, :, i] = 0
        rests[:, beside] = lying[:, beside].max(axis=2)


def _sizes(low: Floats, high: Floats) -> Floats:
    """Return how much room each body takes, mm³; even of one without thickness it is something."""
    sizes: Floats = np.prod(np.maximum(high - low, _FIT), axis=1)
    return sizes


def _compared(
    bodies: Sequence[Body], low: Floats, high: Floats
) -> tuple[npt.NDArray[np.int64], Floats]:
    """Return on how many rays bodies hinder each other, and how much they lie on each other."""
    n = len(bodies)
    rays = round(_RAYS * min(1.0, math.sqrt(_MANY / n)))
    hindered = np.zeros((len(_WAYS), n, n), dtype=np.int64)
    resting = np.zeros((len(_WAYS), n, n))
    first, side = low.min(axis=0), float((high.max(axis=0) - low.min(axis=0)).max())
    for axis in _AXES:
        near, far = _along(bodies, axis, first, max(side, _FIT), rays)
        counts = np.isfinite(near).sum(axis=1)
        for i in range(n):
            mine = np.isfinite(near[i])
            if not mine.any():
                resting[:, i] = np.maximum(resting[:, i], _resting(i, axis, low, high))
                continue
            begins, ends = near[:, mine], far[:, mine]
            smaller = np.maximum(1, np.minimum(counts, counts[i]))
            ahead: Truths = ends > begins[i] + _FIT
            back: Truths = begins < ends[i] - _FIT
            touches_low = np.abs(ends - begins[i]) < _NEAR
            touches_high = np.abs(begins - ends[i]) < _NEAR
            for way, hinders, touches in (
                (_WAYS.index((axis, 1)), ahead, touches_low),
                (_WAYS.index((axis, -1)), back, touches_high),
            ):
                hindered[way, i] = hinders.sum(axis=1)
                resting[way, i] = touches.sum(axis=1) / smaller
                hindered[way, i, i] = resting[way, i, i] = 0
    return hindered, resting


def _resting(i: int, axis: int, low: Floats, high: Floats) -> Floats:
    """Return how much a body that no ray meets lies on others along an axis, by their bounds."""
    across = [a for a in _AXES if a != axis]
    common = np.minimum(high, high[i]) - np.maximum(low, low[i])
    areas = np.maximum(high - low, _FIT)[:, across].prod(axis=1)
    share = np.maximum(common, 0.0)[:, across].prod(axis=1) / np.minimum(areas, areas[i])
    out: Floats = np.zeros((len(_WAYS), len(low)))
    out[_WAYS.index((axis, 1))] = share * (np.abs(high[:, axis] - low[i, axis]) < _NEAR)
    out[_WAYS.index((axis, -1))] = share * (np.abs(low[:, axis] - high[i, axis]) < _NEAR)
    out[:, i] = 0.0
    return out


def _along(
    bodies: Sequence[Body], axis: int, first: Floats, side: float, rays: int
) -> tuple[Floats, Floats]:
    """Return where each body begins and ends on each of the rays along an axis.

    Where a ray meets no body it begins at infinity and ends before all. ``first`` is the lower
    corner of them all, and ``side`` their longest side, along which there are so many ``rays``.
    """
    across = [a for a in _AXES if a != axis]
    step, rays = side / rays, rays + 1
    near = np.full((len(bodies), rays * rays), np.inf)
    far = np.full((len(bodies), rays * rays), -np.inf)
    for i, body in enumerate(bodies):
        # In steps of the rays, which pass in the middle between two.
        flat = (body.triangles[:, :, across] - first[across]) / step - 0.5
        ray, triangle, shares = _met(flat)
        depth = (body.triangles[triangle, :, axis] * shares).sum(axis=1)
        at = ray[:, 0] * rays + ray[:, 1]
        np.minimum.at(near[i], at, depth)
        np.maximum.at(far[i], at, depth)
    return near, far


def _met(
    triangles: Floats,
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], Floats]:
    """Return the whole points that lie in triangles (n, 3, 2) of a plane.

    Each with the number of its triangle and the shares of its corners.
    """
    low = np.ceil(triangles.min(axis=1)).astype(np.int64)
    counts = np.maximum(0, np.floor(triangles.max(axis=1)).astype(np.int64) - low + 1)
    each = counts.prod(axis=1)
    triangle = np.repeat(np.arange(len(triangles)), each)
    nth = np.arange(len(triangle)) - np.repeat(np.cumsum(each) - each, each)
    columns = np.maximum(1, counts[triangle, 1])
    points = low[triangle] + np.column_stack([nth // columns, nth % columns])
    a, b, c = np.moveaxis(triangles[triangle], 1, 0)
    x, y = points.T
    parts = np.column_stack([twice_area(p, q, x, y) for p, q in ((b, c), (c, a), (a, b))])
    whole = parts.sum(axis=1)
    inside = whole != 0
    shares = parts[inside] / whole[inside, None]
    within = (shares >= 0).all(axis=1)
    kept = np.flatnonzero(inside)[within]
    return points[kept], triangle[kept], shares[within]
