"""The surface of what is seen, in tones: the more a face is turned to the light, the lighter."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import numpy.typing as npt

from kaigata.core.markup.folded_view import Seen
from kaigata.core.markup.page import Box, Page, Picture
from kaigata.core.markup.stage import Stage

__all__ = ["draw_shaded"]

Floats = npt.NDArray[np.float64]

_DOTS = 6.0
"""Dots in a millimetre of paper: their steps lie under the lines of the edges."""
_LIGHT = np.array([-0.30, 0.80, 0.52])
"""Heading towards the light: from the upper left, in front. Each of the three sides seen in an
isometric view has a tone of its own in it."""
_DARK, _PAPER = 150.0, 255.0
_AT_ONCE = 2_000_000
"""Dots that are looked at together, for the memory they take."""


def draw_shaded(page: Page, stage: Stage, seen: Seen) -> None:
    """Lay the tones of what is seen on a page; nothing where it has no surface."""
    wide, high = (max(1, round(size * _DOTS)) for size in (stage.width, stage.height))
    tones = _tones(seen.triangles * (stage.scale * _DOTS), wide, high)
    if tones is not None:
        x, y = stage.at
        box = Box(left=x, bottom=y, right=x + wide / _DOTS, top=y + high / _DOTS)
        page.pictures.append(Picture(box=box, tones=tones))


def _tones(triangles: Floats, wide: int, high: int) -> npt.NDArray[np.uint8] | None:
    """Return the tone of each dot, the top row first, of triangles (n, 3, 3) in dots.

    Their third coordinate grows towards the eye; the nearest triangle at the middle of a dot is
    seen there.
    """
    normals = np.cross(triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0])
    # Seen from their edge they cover nothing.
    facing = np.abs(normals[:, 2]) > 1e-9 * np.linalg.norm(normals, axis=1)
    triangles, normals = triangles[facing], normals[facing]
    if not len(triangles):
        return None
    tones = _tone_of(normals)
    slopes = -normals[:, :2] / normals[:, 2:]
    nearest = np.full(wide * high, -np.inf)
    shown = np.full(wide * high, _PAPER)
    for owner, x, y in _dots(triangles, wide, high):
        first = triangles[owner, 0]
        deep = (
            first[:, 2]
            + slopes[owner, 0] * (x + 0.5 - first[:, 0])
            + slopes[owner, 1] * (y + 0.5 - first[:, 1])
        )
        at = y * wide + x
        nearer = np.flatnonzero(deep > nearest[at])
        # Of several in one dot the last that is written stays.
        nearer = nearer[np.argsort(deep[nearer], kind="stable")]
        nearest[at[nearer]] = deep[nearer]
        shown[at[nearer]] = tones[owner[nearer]]
    return shown.reshape(high, wide)[::-1].astype(np.uint8)


def _tone_of(normals: Floats) -> Floats:
    """Return the tone of faces; the side towards the eye is the one that is seen."""
    towards = normals * np.sign(normals[:, 2:])
    lit = towards @ (_LIGHT / np.linalg.norm(_LIGHT)) / np.linalg.norm(normals, axis=1)
    tones: Floats = _DARK + (_PAPER - _DARK) * (1 + lit) / 2
    return tones


def _dots(
    triangles: Floats, wide: int, high: int
) -> Iterator[tuple[npt.NDArray[np.int64], npt.NDArray[np.int64], npt.NDArray[np.int64]]]:
    """Yield which dots triangles cover, some triangles at a time: the triangle, x and y of each.

    A dot belongs to a triangle that its middle lies in, to one alone where two share a side.
    """
    y = triangles[:, :, 1]
    low, high_end = (_begun(v, high) for v in (y.min(axis=1), y.max(axis=1)))
    owner, row = _runs(low, high_end)
    left, right = _crossed(triangles[owner], row.astype(np.float64) + 0.5)
    begin, end = _begun(left, wide), _begun(right, wide)
    covered = np.cumsum(np.maximum(end - begin, 0))
    part = covered // _AT_ONCE
    for rows in np.split(np.arange(len(owner)), np.flatnonzero(np.diff(part)) + 1):
        of, x = _runs(begin[rows], end[rows])
        yield owner[rows[of]], x, row[rows[of]]


def _begun(at: Floats, count: int) -> npt.NDArray[np.int64]:
    """Return how many of a row's dots have their middle before a place."""
    return np.clip(np.ceil(at - 0.5), 0, count).astype(np.int64)


def _runs(
    begin: npt.NDArray[np.int64], end: npt.NDArray[np.int64]
) -> tuple[npt.NDArray[np.int64], npt.NDArray[np.int64]]:
    """Return every number from ``begin`` to before ``end``, and of which of them it is."""
    long = np.maximum(end - begin, 0)
    owner = np.repeat(np.arange(len(begin)), long)
    within = np.arange(len(owner)) - np.repeat(np.cumsum(long) - long, long)
    return owner, begin[owner] + within


def _crossed(triangles: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Return between which x level lines cross triangles, one line each."""
    left, right = np.full(len(y), np.inf), np.full(len(y), -np.inf)
    for i in range(3):
        a, b = triangles[:, i], triangles[:, (i + 1) % 3]
        # From the lower end to the upper: two that share a side reckon the same.
        upwards = (a[:, 1] < b[:, 1])[:, None]
        p, q = np.where(upwards, a, b), np.where(upwards, b, a)
        meets = (p[:, 1] <= y) & (y < q[:, 1])
        share = (y - p[:, 1]) / np.where(meets, q[:, 1] - p[:, 1], 1.0)
        x = p[:, 0] + share * (q[:, 0] - p[:, 0])
        left, right = (
            np.where(meets, np.minimum(left, x), left),
            np.where(meets, np.maximum(right, x), right),
        )
    return left, right
