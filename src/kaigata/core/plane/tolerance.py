"""Every tolerance, by name; no other module holds one.

Lengths are mm, angles radians, areas mm².
"""

from __future__ import annotations

__all__ = [
    "ANGLE",
    "AREA",
    "CHORD",
    "CODE",
    "FINE_CHORD",
    "FIT",
    "HAIR",
    "JOIN",
    "KERNEL",
    "LENGTH",
    "SAME",
]

LENGTH = 1e-6
"""Two lengths that differ by less are the same length."""

ANGLE = 1e-9
"""The angle that ``LENGTH`` makes over a metre."""

AREA = 1e-6
"""Regions smaller than this are nothing."""

KERNEL = 1e-4
"""Points and radii read from a solid's file agree to this: files carry four to six decimals."""

SAME = 1e-3
"""Thicknesses, radii and axes of a solid that differ by less are the same."""

JOIN = 2e-3
"""Ends of neighbouring curves of a solid that lie this close are one point."""

CHORD = 0.01
"""How far a chord may leave its arc where it is only looked at or searched with."""

FINE_CHORD = 0.0005
"""How far a chord may leave its arc where distances are measured."""

HAIR = 0.001
"""Contours that run into themselves or each other by less than this do so by rounding."""

FIT = 0.002
"""How far an arc fitted to a free curve may leave it."""

CODE = 0.01
"""How far a finished edge may be from nominal before a program is not given out."""
