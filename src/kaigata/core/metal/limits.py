"""What the shop's machines and rules allow, with the reason of each."""

from __future__ import annotations

from dataclasses import dataclass, field

__all__ = ["LIMIT_REASONS", "Limits"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Limits:
    """Thresholds of the findings; lengths mm, shares in thicknesses, forces kN.

    ``radii`` are those the gauge's chart knows and ``sheets`` the sizes of its stock; empty means
    that they are not looked at.
    """

    blank_width: float = 3000.0
    blank_height: float = 1500.0
    brake_length: float = 3100.0
    brake_force: float = 1300.0
    hole_to_bend: float = 2.0
    hole_to_edge: float = 1.0
    hole_to_hole: float = 1.0
    slot_width: float = 0.5
    kerf: float = 0.3
    corner_radius: float = 0.0
    tensile: float = 400.0
    radii: tuple[float, ...] = ()
    sheets: tuple[tuple[float, float], ...] = field(default=())


LIMIT_REASONS = {
    "blank_width": "largest cutting machine, length of its table",
    "blank_height": "largest cutting machine, width of its table",
    "brake_length": "longest bend the brake takes",
    "brake_force": "most force the brake gives, kN",
    "hole_to_bend": "thicknesses, beside the radius, between a hole and where a bend begins: "
    "nearer the hole is drawn out of round",
    "hole_to_edge": "thicknesses between a hole and the edge: a narrower web burns or tears",
    "hole_to_hole": "thicknesses between two holes",
    "slot_width": "narrowest slot in thicknesses: the cut does not blow out of a narrower one",
    "kerf": "width of the widest cut in use: a gap under it cannot be cut",
    "corner_radius": "least radius wanted at outside corners, 0 for sharp ones",
}
"""Why each limit stands, to be read beside it."""
