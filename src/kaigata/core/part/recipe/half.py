"""Halves of space, in which panels that meet others are kept."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

__all__ = ["Half"]

Vec = npt.NDArray[np.float64]


@dataclass(frozen=True)
class Half:
    """The half of space in which ``normal @ p <= reach``."""

    normal: Vec
    reach: float

    def less(self, gap: float) -> Half:
        """Return it with its end moved in, mm."""
        return Half(self.normal, self.reach - gap)

    def other(self) -> Half:
        """Return the other half of space."""
        return Half(-self.normal, -self.reach)
