"""Rigid motions of the plane: mirror, then turn, then move."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from kaigata.core.plane.segment import Point

__all__ = ["Motion"]

_SQUARE = {0.0: (1.0, 0.0), 90.0: (0.0, 1.0), 180.0: (-1.0, 0.0), 270.0: (0.0, -1.0)}


@dataclass(frozen=True, slots=True)
class Motion:
    """Mirror (x becomes -x) when ``mirrored``, turn by ``(cos, sin)``, move by ``(x, y)``.

    Examples
    --------
    >>> Motion.turned(math.pi / 2).point((1.0, 0.0))
    (0.0, 1.0)
    """

    cos: float = 1.0
    sin: float = 0.0
    x: float = 0.0
    y: float = 0.0
    mirrored: bool = False

    @classmethod
    def turned(
        cls, turn: float, *, x: float = 0.0, y: float = 0.0, mirrored: bool = False
    ) -> Motion:
        """Return a motion by ``turn`` radians; right angles are exact.

        Parameters
        ----------
        turn : float
            Counter-clockwise turn, radians.
        x, y : float
            Move after the turn, mm.
        mirrored : bool
            Whether x becomes -x first.

        Returns
        -------
        Motion
            The motion.
        """
        degrees = round(math.degrees(turn) % 360, 9) % 360
        cos, sin = _SQUARE.get(degrees, (math.cos(turn), math.sin(turn)))
        return cls(cos, sin, x, y, mirrored)

    @classmethod
    def taking(
        cls, p: Point, heading: Point, *, to: Point, along: Point, mirrored: bool = False
    ) -> Motion:
        """Return the motion that takes ``p`` to ``to`` and ``heading`` to ``along``.

        Headings are of any length.
        """
        flip = cls(mirrored=mirrored)
        start, (hx, hy) = flip.point(p), flip.heading(heading)
        cos, sin = hx * along[0] + hy * along[1], hx * along[1] - hy * along[0]
        n = math.hypot(cos, sin)
        x, y = cls(cos / n, sin / n).point(start)
        return cls(cos / n, sin / n, to[0] - x, to[1] - y, mirrored)

    @classmethod
    def like(cls, there: Callable[[Point], Point], *, mirrored: bool) -> Motion:
        """Return the motion that takes the origin and the x axis where a function takes them."""
        (ox, oy), (ux, uy) = there((0.0, 0.0)), there((1.0, 0.0))
        return cls.taking(
            (0.0, 0.0), (1.0, 0.0), to=(ox, oy), along=(ux - ox, uy - oy), mirrored=mirrored
        )

    def point(self, p: Point) -> Point:
        """Return where a point goes."""
        x = -p[0] if self.mirrored else p[0]
        return (self.cos * x - self.sin * p[1] + self.x, self.sin * x + self.cos * p[1] + self.y)

    def back(self, p: Point) -> Point:
        """Return the point that goes to ``p``.

        Examples
        --------
        >>> quarter = Motion.turned(math.pi / 2, x=5.0, mirrored=True)
        >>> quarter.back(quarter.point((2.0, 7.0)))
        (2.0, 7.0)
        """
        dx, dy = p[0] - self.x, p[1] - self.y
        x = self.cos * dx + self.sin * dy
        return (-x if self.mirrored else x, self.cos * dy - self.sin * dx)

    def heading(self, d: Point) -> Point:
        """Return where a direction goes."""
        x = -d[0] if self.mirrored else d[0]
        return (self.cos * x - self.sin * d[1], self.sin * x + self.cos * d[1])

    def then(self, after: Motion) -> Motion:
        """Return the motion that does this one first and ``after`` second."""
        ox, oy = after.point((self.x, self.y))
        ux, uy = after.heading((self.cos, self.sin))
        mirrored = self.mirrored != after.mirrored
        if after.mirrored:
            # A mirror that follows a turn turns back: M R(a) = R(-a) M, and (ux, uy) is -R(-a) e_x.
            return Motion(-ux, -uy, ox, oy, mirrored)
        return Motion(ux, uy, ox, oy, mirrored)
