"""How much length a bend takes."""

from __future__ import annotations

import math

from kaigata.core.errors import InputError

__all__ = ["bend_allowance", "bend_deduction", "check_factor", "outside_setback"]


def check_factor(k: float, *, where: str = "") -> float:
    """Return ``k`` when it can be a neutral-axis factor.

    Raises
    ------
    InputError
        ``k`` is not between 0 and 1.
    """
    if not 0 <= k <= 1:
        raise InputError(
            f"K is {k:g}, it must lie between 0 and 1",
            where=where,
            fix="K is where the neutral axis lies in the thickness; 0.33 to 0.5 is usual",
        )
    return k


def bend_allowance(angle: float, *, inside_radius: float, thickness: float, k: float) -> float:
    """Return the developed length of a bend along its neutral axis.

    The neutral axis lies ``k * thickness`` from the inner face, so the length is
    ``angle * (inside_radius + k * thickness)``.

    Parameters
    ----------
    angle : float
        How far the sheet is turned from flat, radians, above 0.
    inside_radius : float
        Radius of the concave face, mm, at least 0.
    thickness : float
        Sheet thickness, mm, above 0.
    k : float
        Neutral-axis factor, 0 to 1.

    Returns
    -------
    float
        Length, mm.

    Raises
    ------
    InputError
        A value is outside its range.

    Examples
    --------
    >>> round(bend_allowance(math.pi / 2, inside_radius=2, thickness=2, k=0.44), 6)
    4.523893
    >>> bend_allowance(math.pi, inside_radius=0, thickness=1, k=0)
    0.0
    """
    if angle <= 0 or inside_radius < 0 or thickness <= 0:
        raise InputError(
            f"a bend of {math.degrees(angle):g} degrees, inside radius {inside_radius:g} mm in "
            f"{thickness:g} mm cannot be",
            fix="angle and thickness must be above 0 and the radius not below",
        )
    return angle * (inside_radius + check_factor(k) * thickness)


def outside_setback(angle: float, *, inside_radius: float, thickness: float) -> float:
    """Return the distance from a bend's tangent line to where the outside faces would meet, mm.

    ``(inside_radius + thickness) * tan(angle / 2)``; over a right angle the faces meet behind the
    bend or nowhere, and the trade takes the outermost point instead: ``inside_radius + thickness``.

    Examples
    --------
    >>> round(outside_setback(math.pi / 2, inside_radius=2, thickness=1), 9)
    3.0
    >>> outside_setback(math.pi, inside_radius=2, thickness=1)
    3.0
    """
    reach = float(inside_radius + thickness)
    return reach if angle >= math.pi / 2 else reach * math.tan(angle / 2)


def bend_deduction(angle: float, *, inside_radius: float, thickness: float, k: float) -> float:
    """Return what is taken from the sum of the two outside lengths to get the flat, mm.

    Twice the outside setback less the allowance.

    Examples
    --------
    >>> round(bend_deduction(math.pi / 2, inside_radius=1.5, thickness=1.5, k=0.44), 3)
    2.607
    """
    setback = outside_setback(angle, inside_radius=inside_radius, thickness=thickness)
    allowance = bend_allowance(angle, inside_radius=inside_radius, thickness=thickness, k=k)
    return 2 * setback - allowance
