"""Back from the floor: the kerf from measured sizes of cut parts, K from measured bends."""

from __future__ import annotations

import statistics
from collections.abc import Sequence
from dataclasses import dataclass

from kaigata.core.errors import InputError
from kaigata.core.metal.allowance import outside_setback

__all__ = ["Estimate", "MeasuredBend", "MeasuredSize", "k_from_bends", "kerf_from_sizes"]

_WIDE = 4.0
"""How many usual distances a value may lie from the middle before it is questioned."""
_FINE = 0.02
"""What is nearer than this, mm or K, is as near as people measure."""


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredSize:
    """A size of a cut part, mm: as drawn and as measured, of a hole or of the outside."""

    nominal: float
    measured: float
    is_hole: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredBend:
    """A bent coupon, mm and radians.

    ``flat`` is how long it was cut, ``first`` and ``second`` its legs measured over the outside:
    to where the outside faces would meet up to a right angle, to the outermost point beyond.
    """

    flat: float
    first: float
    second: float
    angle: float
    inside_radius: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Estimate:
    """What measurements come to.

    Attributes
    ----------
    value : float
        Their mean.
    spread : float
        Their standard deviation; 0 of a single one.
    each : tuple of float
        What each comes to alone.
    odd : tuple of int
        Those that lie far from the others.
    """

    value: float
    spread: float
    each: tuple[float, ...]
    odd: tuple[int, ...]


def kerf_from_sizes(sizes: Sequence[MeasuredSize], *, kerf: float) -> Estimate:
    """Return the kerf that the sizes of parts cut with another one tell of.

    The path runs half the kerf that was set beside the drawn edge, the cut takes half the true one:
    an outside comes out larger by what was set less what is true, a hole smaller by as much.

    Parameters
    ----------
    sizes : sequence of MeasuredSize
        At least one.
    kerf : float
        The kerf that the programs were made with, mm.

    Returns
    -------
    Estimate
        In mm.

    Raises
    ------
    InputError
        Nothing was measured, or what was leaves no kerf above 0.

    Examples
    --------
    >>> outside = MeasuredSize(nominal=100.0, measured=99.94, is_hole=False)
    >>> hole = MeasuredSize(nominal=20.0, measured=20.06, is_hole=True)
    >>> round(kerf_from_sizes([outside, hole], kerf=0.2).value, 6)
    0.26
    """
    if not sizes:
        raise InputError("no size was measured", fix="Give at least one")
    each = [kerf + (s.measured - s.nominal) * (1 if s.is_hole else -1) for s in sizes]
    found = _estimate(each)
    if found.value <= 0:
        raise InputError(
            f"the sizes tell of a kerf of {found.value:.3f} mm, it must be above 0",
            fix="Look whether holes and outsides are told apart, and which kerf was set",
        )
    return found


def k_from_bends(bends: Sequence[MeasuredBend], *, thickness: float) -> Estimate:
    """Return the neutral-axis factor that bent coupons tell of.

    What the legs are longer than the flat is the deduction; twice the outside setback less it is
    the allowance, ``angle * (inside_radius + k * thickness)``, which gives K. Beyond a right angle
    the setback is taken to the outermost point (radius plus thickness).

    Parameters
    ----------
    bends : sequence of MeasuredBend
        At least one.
    thickness : float
        Of the sheet, mm.

    Returns
    -------
    Estimate
        Without unit.

    Raises
    ------
    InputError
        Nothing was measured, or what was leaves a K outside of 0 to 1.

    Examples
    --------
    >>> from math import pi
    >>> bend = MeasuredBend(flat=97.393, first=50.0, second=50.0, angle=pi / 2, inside_radius=1.5)
    >>> round(k_from_bends([bend], thickness=1.5).value, 3)
    0.44
    """
    if not bends:
        raise InputError("no bend was measured", fix="Give at least one")
    each = [_factor(b, thickness) for b in bends]
    found = _estimate(each)
    if not 0 <= found.value <= 1:
        raise InputError(
            f"the bends tell of a K of {found.value:.3f}, it lies from 0 to 1",
            fix="Look whether the legs were measured over the outside, and the flat's length",
        )
    return found


def _factor(bend: MeasuredBend, thickness: float) -> float:
    setback = outside_setback(bend.angle, inside_radius=bend.inside_radius, thickness=thickness)
    allowance = bend.flat - bend.first - bend.second + 2 * setback
    return (allowance / bend.angle - bend.inside_radius) / thickness


def _estimate(each: Sequence[float]) -> Estimate:
    middle = statistics.median(each)
    # The median of the distances stays what it is when one value is far off, the deviation grows.
    usual = statistics.median(abs(v - middle) for v in each)
    most = max(_WIDE * usual, _FINE)
    odd = [i for i, v in enumerate(each) if len(each) > 2 and abs(v - middle) > most]
    return Estimate(
        value=statistics.fmean(each),
        spread=statistics.stdev(each) if len(each) > 1 else 0.0,
        each=tuple(each),
        odd=tuple(odd),
    )
