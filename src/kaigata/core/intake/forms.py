"""Plain forms behind free ones: files often carry planes, cylinders, lines and arcs as splines."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kaigata.core.plane.tolerance import KERNEL

__all__ = ["PlainForm", "circle_through", "cylinder_through", "line_through", "plane_through"]

Vec = npt.NDArray[np.float64]

_SQUARE = 1e-6
"""How far normals may stand from square to an axis, as a sine."""


@dataclass(frozen=True, slots=True)
class PlainForm:
    """A plane (point, normal) or a cylinder (point of the axis, axis, radius), mm."""

    origin: Vec
    direction: Vec
    radius: float = 0.0


def line_through(points: Vec) -> bool:
    """Return whether points, (n, 3) mm, lie on the straight line between the first and last."""
    along = points[-1] - points[0]
    length = float(np.linalg.norm(along))
    if length < KERNEL:
        return False
    across = np.cross(points - points[0], along / length)
    return float(np.linalg.norm(across, axis=1).max()) < KERNEL


def circle_through(points: Vec) -> bool:
    """Return whether points, (n, 3) mm, lie on one circle."""
    plane = plane_through(points)
    if plane is None:
        return False
    flat = _flattened(points, plane.direction)
    _, off = _circle(flat)
    return off < KERNEL


def plane_through(points: Vec) -> PlainForm | None:
    """Return the plane through points, (n, 3) mm, or None when they leave it."""
    middle = points.mean(axis=0)
    _, _, axes = np.linalg.svd(points - middle, full_matrices=False)
    normal = axes[2]
    off = np.abs((points - middle) @ normal).max()
    return PlainForm(middle, normal) if off < KERNEL else None


def cylinder_through(points: Vec, normals: Vec) -> PlainForm | None:
    """Return the cylinder through points with these normals, (n, 3) each, or None.

    Every normal of a cylinder is square to its axis, so the axis is the direction in which the
    normals do not spread; seen along it the points lie on a circle.
    """
    _, spread, axes = np.linalg.svd(normals, full_matrices=False)
    axis = axes[2]
    if spread[1] < _SQUARE * spread[0] or float(np.abs(normals @ axis).max()) > 1e3 * _SQUARE:
        return None
    x, y = _across(axis)
    flat = np.column_stack([points @ x, points @ y])
    (cx, cy, radius), off = _circle(flat)
    return PlainForm(cx * x + cy * y, axis, radius) if off < 10 * KERNEL else None


def _across(axis: Vec) -> tuple[Vec, Vec]:
    x = np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))])
    x = x / np.linalg.norm(x)
    return x, np.cross(axis, x)


def _flattened(points: Vec, normal: Vec) -> Vec:
    x, y = _across(normal)
    return np.column_stack([points @ x, points @ y])


def _circle(flat: Vec) -> tuple[tuple[float, float, float], float]:
    """Return the circle (x, y, radius) nearest to points, and how far the furthest one is off.

    Linear least squares on x² + y² = 2·x·cx + 2·y·cy + c (Kasa).
    """
    middle = flat.mean(axis=0)
    p = flat - middle
    rows = np.column_stack([2 * p, np.ones(len(p))])
    (cx, cy, c), *_ = np.linalg.lstsq(rows, (p * p).sum(axis=1), rcond=None)
    radius = float(np.sqrt(max(c + cx * cx + cy * cy, 0.0)))
    off = float(np.abs(np.hypot(p[:, 0] - cx, p[:, 1] - cy) - radius).max())
    return (float(cx + middle[0]), float(cy + middle[1]), radius), off
