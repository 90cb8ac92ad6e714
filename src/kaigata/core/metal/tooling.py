"""Air bending: die openings, least flanges, forces."""

from __future__ import annotations

import math

__all__ = ["DIES", "die_opening", "force_per_metre", "least_flange"]

DIES = (6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0, 32.0, 40.0, 50.0, 63.0, 80.0, 100.0, 125.0)
"""Die openings of the usual series, mm."""

_OPENING_SHARE = 8.0


def die_opening(thickness: float, *, inside_radius: float = 0.0) -> float:
    """Return the die opening to bend a sheet with, mm.

    The rule of eight: about eight times the thickness, from the series of ``DIES``. In air bending
    the inside radius becomes about a sixth of the opening, so a larger radius asks for more.

    Examples
    --------
    >>> die_opening(2.0), die_opening(2.0, inside_radius=5.0)
    (16.0, 32.0)
    """
    wanted = max(_OPENING_SHARE * thickness, 6.0 * inside_radius)
    if inside_radius <= 1.5 * thickness:
        wanted = _OPENING_SHARE * thickness
    return min(DIES, key=lambda v: (abs(math.log(v / wanted)), v))


def least_flange(opening: float, angle: float) -> float:
    """Return the least outside length of a flange that a die still carries, mm.

    Until the bend is done the flange must reach over the shoulder of the die, half an opening from
    its middle; leaning by half the turn that is ``opening / 2 / cos(angle / 2)`` along the flange.
    Over a right angle the die has done its work at 90 degrees.

    Examples
    --------
    >>> round(least_flange(16.0, math.pi / 2), 2)
    11.31
    """
    return opening / 2 / math.cos(min(angle, math.pi / 2) / 2)


def force_per_metre(thickness: float, opening: float, tensile: float) -> float:
    """Return the force of air bending to 90 degrees, kN per metre of bend.

    ``1.33 * Rm * s**2 / V`` (bending of a beam over two supports with the usual factor for
    friction in a V die), with Rm in MPa and lengths in mm.

    Examples
    --------
    >>> round(force_per_metre(2.0, 16.0, 400.0), 1)
    133.0
    """
    return 1.33 * tensile * thickness**2 / opening
