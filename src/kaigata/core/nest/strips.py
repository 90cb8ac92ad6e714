"""Upright strips through shapes and sheets: which places need not be tried at all.

A sheet is cut into strips a few millimetres wide. Of each it is known which stretches are solid
across the whole strip, and so what the longest gap is that may be left. A shape is cut likewise; at
the strips where it is longest it needs a gap as long. Where there is none, there is no place, and
none until the shape has left that strip.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
import numpy.typing as npt
from numba import njit

from kaigata.core.nest.nofit import Floats, Ints

__all__ = ["WIDE", "Solids", "Walls", "free_from", "make_solids", "make_walls", "wall_up"]

WIDE = 5.0
"""mm: a strip."""
_PROBES = 10
"""Strips by which a place is judged."""
_STRETCHES = 24
"""Stretches a strip of a sheet knows of at most; what more there is counts as gap."""
_SIFTED = 200
"""Sheets that have strips; on more than these every place is tried."""
_HAIR = 1e-9
_SLACK = 0.02
"""mm by which a gap may be too short: parts touch a little."""


class Solids(NamedTuple):
    """Where the ways of shapes are solid.

    Way w has the strips ``strip[w]`` to ``strip[w + 1]``, side by side from the left edge of its
    hull; strip c is solid across its width along the ``stretch`` rows ``first[c]`` to
    ``first[c + 1]``: from y to y about its 0,0, mm. ``probe[w]`` are rows of (strip, y, y): its
    longest stretches, one a strip, the longest first.
    """

    strip: Ints
    first: Ints
    stretch: Floats
    probe: Floats


class Walls(NamedTuple):
    """Where sheets are solid: ``solid[s, k, :known[s, k]]`` from y to y, mm, sorted.

    ``gap[s, k]`` is the longest gap between them in strip k of sheet s, and ``side[s]`` from where
    to where anything may reach.
    """

    solid: npt.NDArray[np.float32]
    known: npt.NDArray[np.int16]
    gap: Floats
    side: Floats


def make_solids(shapes: Sequence[Sequence[Floats]]) -> Solids:
    """Return the strips of ways, each given as its closed rings, (n, 2) mm."""
    rings = [ring for shape in shapes for ring in shape]
    edges = np.vstack([np.hstack([r[:-1], r[1:]]) for r in rings])
    lengths = [sum(len(r) - 1 for r in shape) for shape in shapes]
    return Solids(*_cut(edges, np.cumsum([0, *lengths]).astype(np.int64)))


@njit(cache=True, error_model="numpy")
def _cut(edges, shape):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    n = len(shape) - 1
    strip = np.zeros(n + 1, dtype=np.int64)
    for w in range(n):
        mine = edges[shape[w] : shape[w + 1]]
        strip[w + 1] = strip[w] + int((mine[:, 0].max() - mine[:, 0].min()) / WIDE)
    first = np.zeros(strip[n] + 1, dtype=np.int64)
    stretch = np.zeros((8 * strip[n] + 64, 2))
    probe = np.zeros((n, _PROBES, 3))
    for w in range(n):
        mine = edges[shape[w] : shape[w + 1]]
        left = mine[:, 0].min()
        strips = strip[w + 1] - strip[w]
        for c in range(strips):
            solid = _solid(mine, left + c * WIDE, left + (c + 1) * WIDE)
            at = first[strip[w] + c]
            if at + len(solid) > len(stretch):
                more = np.zeros((2 * len(stretch) + len(solid), 2))
                more[:at] = stretch[:at]
                stretch = more
            longest = 0
            for q in range(len(solid)):
                stretch[at + q] = solid[q]
                if solid[q, 1] - solid[q, 0] > solid[longest, 1] - solid[longest, 0]:
                    longest = q
            first[strip[w] + c + 1] = at + len(solid)
            p = c * _PROBES // strips
            if len(solid) and (
                solid[longest, 1] - solid[longest, 0] > probe[w, p, 2] - probe[w, p, 1]
            ):
                probe[w, p, 0], probe[w, p, 1:] = c, solid[longest]
        longest_first = np.argsort(probe[w, :, 1] - probe[w, :, 2])
        probe[w] = probe[w][longest_first]
    return strip, first, stretch[: first[strip[n]]].copy(), probe


@njit(cache=True, error_model="numpy")
def _solid(edges, x0, x1):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Return the stretches solid from x0 to x1: solid in the middle and crossed by no edge."""
    middle = (x0 + x1) / 2
    marks = np.empty(len(edges))
    n = 0
    for e in range(len(edges)):
        ax, ay, bx, by = edges[e]
        if (ax < middle) != (bx < middle):
            marks[n] = ay + (middle - ax) / (bx - ax) * (by - ay)
            n += 1
    marks = np.sort(marks[:n])
    out = np.empty((n + len(edges), 2))
    m = 0
    for q in range(n // 2):
        out[m, 0], out[m, 1] = marks[2 * q], marks[2 * q + 1]
        m += 1
    for e in range(len(edges)):
        ax, ay, bx, by = edges[e]
        if min(ax, bx) >= x1 or max(ax, bx) <= x0:
            continue
        ya, yb = ay, by
        if ax != bx:
            f, g = (x0 - ax) / (bx - ax), (x1 - ax) / (bx - ax)
            ya = ay + min(1.0, max(0.0, f)) * (by - ay)
            yb = ay + min(1.0, max(0.0, g)) * (by - ay)
        low, high = min(ya, yb), max(ya, yb)
        for q in range(m):
            if out[q, 0] >= high or out[q, 1] <= low:
                continue
            if out[q, 0] < low and out[q, 1] > high:
                out[m, 0], out[m, 1] = high, out[q, 1]
                m += 1
                out[q, 1] = low
            elif out[q, 0] < low:
                out[q, 1] = low
            elif out[q, 1] > high:
                out[q, 0] = high
            else:
                out[q, 1] = out[q, 0]
    kept = 0
    for q in range(m):
        if out[q, 1] > out[q, 0]:
            out[kept] = out[q]
            kept += 1
    return out[:kept]


def make_walls(width: float, room: Floats, beyond: float) -> Walls:
    """Return the strips of empty sheets.

    Parameters
    ----------
    width : float
        Of the widest sheet, mm.
    room : (n, 4) array
        Where parts may reach on each sheet.
    beyond : float
        How far grown shapes may reach beyond that, mm.
    """
    n = min(len(room), _SIFTED)
    side = np.stack([room[:n, 1] - beyond, room[:n, 3] + beyond], axis=1)
    strips = int(width / WIDE) + 2
    gap = np.repeat((side[:, 1] - side[:, 0])[:, None], strips, axis=1)
    return Walls(
        np.zeros((n, strips, _STRETCHES, 2), dtype=np.float32),
        np.zeros((n, strips), dtype=np.int16), gap, side,
    )  # fmt: skip


@njit(cache=True, error_model="numpy")
def wall_up(solids, walls, s, w, x, y):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Tell the strips of sheet s that a way lies there whose hull's left edge is at x."""
    if s >= len(walls.gap):
        return
    c0, strips = solids.strip[w], solids.strip[w + 1] - solids.strip[w]
    first, stretch = solids.first, solids.stretch
    begin = max(0, int(np.ceil(x / WIDE)))
    end = min(walls.gap.shape[1], int(np.floor((x + strips * WIDE) / WIDE)))
    for k in range(begin, end):
        # A strip of the sheet lies across two of the shape: solid is what is so in both.
        i = min(int((k * WIDE - x) / WIDE), strips - 1)
        j = min(i + 1, strips - 1)
        changed = False
        for a in range(first[c0 + i], first[c0 + i + 1]):
            for b in range(first[c0 + j], first[c0 + j + 1]):
                low = y + max(stretch[a, 0], stretch[b, 0])
                high = y + min(stretch[a, 1], stretch[b, 1])
                if high > low and _add(walls, s, k, low, high):
                    changed = True
        if changed:
            _measure(walls, s, k)


@njit(cache=True, error_model="numpy")
def _add(walls, s, k, low, high):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Add a stretch to a strip, joined with those it touches; whether there was room for it."""
    solid, n = walls.solid[s, k], walls.known[s, k]
    q = 0
    while q < n and solid[q, 1] < low - _SLACK:
        q += 1
    r = q
    while r < n and solid[r, 0] <= high + _SLACK:
        low, high = min(low, solid[r, 0]), max(high, solid[r, 1])
        r += 1
    if r == q:
        if n == len(solid):
            return False
        for t in range(n, q, -1):
            solid[t, 0], solid[t, 1] = solid[t - 1, 0], solid[t - 1, 1]
        walls.known[s, k] = n + 1
    else:
        for t in range(r, n):
            solid[q + 1 + t - r, 0], solid[q + 1 + t - r, 1] = solid[t, 0], solid[t, 1]
        walls.known[s, k] = n - (r - q) + 1
    solid[q, 0], solid[q, 1] = low, high
    return True


@njit(cache=True, error_model="numpy")
def _measure(walls, s, k):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    solid = walls.solid[s, k]
    y, longest = walls.side[s, 0], 0.0
    for q in range(walls.known[s, k]):
        longest = max(longest, solid[q, 0] - y)
        y = max(y, solid[q, 1])
    walls.gap[s, k] = max(longest, walls.side[s, 1] - y)


@njit(cache=True, error_model="numpy")
def free_from(solids, walls, s, w, x, stop, open_):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN201
    """Return from which x on, up to ``stop``, the strips do not say that way w cannot lie.

    ``x`` and ``stop`` are where the left edge of its hull may be; ``open_`` is room to work in.
    """
    if s >= len(walls.gap):
        return x
    while x < stop:
        k = int(np.floor(x / WIDE))
        aligned = x - k * WIDE < _HAIR
        if _may_lie(solids, walls, s, w, k, aligned, open_):
            return x
        x = (k + 1) * WIDE
    return stop


@njit(cache=True, error_model="numpy")
def _may_lie(solids, walls, s, w, k, aligned, open_):  # type: ignore[no-untyped-def] # noqa: ANN001, ANN202
    """Whether some y lets every probe of a way, its left edge in strip k, lie in gaps."""
    probe, known, solid, gap = solids.probe, walls.known, walls.solid, walls.gap
    strips = gap.shape[1]
    low, high = walls.side[s, 0], walls.side[s, 1]
    now, other = 0, 1
    n = 1
    open_[0, 0, 0], open_[0, 0, 1] = -1e30, 1e30
    for p in range(probe.shape[1]):
        if probe[w, p, 2] <= probe[w, p, 1]:
            break
        a, b = probe[w, p, 1] + _SLACK / 2, probe[w, p, 2] - _SLACK / 2
        begin = k + int(probe[w, p, 0])
        for t in range(begin, begin + (1 if aligned else 2)):
            if t < 0 or t >= strips:
                continue
            if gap[s, t] < b - a:
                return False
            # The places that this strip leaves open, cut with those left open so far.
            m, q = 0, 0
            y0 = low
            for g in range(known[s, t] + 1):
                y1 = solid[s, t, g, 0] if g < known[s, t] else high
                if y1 - y0 >= b - a:
                    while q < n and open_[now, q, 1] < y0 - a:
                        q += 1
                    r = q
                    while r < n and open_[now, r, 0] <= y1 - b and m < open_.shape[1]:
                        open_[other, m, 0] = max(y0 - a, open_[now, r, 0])
                        open_[other, m, 1] = min(y1 - b, open_[now, r, 1])
                        m += 1
                        r += 1
                if g < known[s, t]:
                    y0 = solid[s, t, g, 1]
            if m == 0:
                return False
            if m == open_.shape[1]:
                return True
            now, other, n = other, now, m
    return True
