"""Metric threads and the drills they are tapped from."""

from __future__ import annotations

__all__ = ["TAP_DRILLS", "thread_of_drill"]

TAP_DRILLS = {
    "M2": 1.6,
    "M2.5": 2.05,
    "M3": 2.5,
    "M4": 3.3,
    "M5": 4.2,
    "M6": 5.0,
    "M8": 6.8,
    "M10": 8.5,
    "M12": 10.2,
    "M16": 14.0,
}
"""Drill for a coarse metric thread, mm (ISO 2306)."""

_SAME = 0.005


def thread_of_drill(diameter: float) -> str | None:
    """Return the thread that is tapped from a hole of this diameter in mm, or None.

    Examples
    --------
    >>> thread_of_drill(5.0), thread_of_drill(5.5)
    ('M6', None)
    """
    return next((name for name, d in TAP_DRILLS.items() if abs(d - diameter) < _SAME), None)
