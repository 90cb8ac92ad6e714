"""Steps that hang something on a panel: flanges and hems on edges, and what lies beyond a line."""

from __future__ import annotations

import math
from dataclasses import replace

from kaigata.core.errors import InputError
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.parting import Parting, give_over, part_off
from kaigata.core.part.recipe.plates import ACROSS, Flange, Hung, Joint, Plate, hang, setback
from kaigata.core.part.recipe.workbench import Workbench
from kaigata.core.plane import Contour
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["fold_across", "hang_flange", "hang_hem", "jog_across"]


def hang_flange(bench: Workbench, step: said.Flange) -> None:
    """Hang flanges on edges."""
    turn = _turn(bench, step)
    angle, radius = turn
    if angle == 0 and bench.sizes.value(step.offset) != 0:
        raise InputError(
            "what goes on in the plane of its panel has no bend to lie further out",
            fix="Give it more length instead",
        )
    inside = {"inside": "outside", "outside": "inside", "beside": "tangent"}[step.bend]
    depth = setback(inside, angle, radius, bench.thickness) - bench.sizes.length(step.offset)
    reach = setback(step.measured, angle, radius, bench.thickness)
    _hang_all(bench, step, _own_shape(bench, step), turn, depth, reach)


def _turn(bench: Workbench, step: said.Flange | said.Fold | said.Jog) -> tuple[float, float]:
    """Return how far a step turns, radians, and its inside radius, mm."""
    angle = math.radians(bench.sizes.value(step.angle))
    if not 0 <= angle <= math.pi + LENGTH:
        raise InputError(f"the angle is {math.degrees(angle):g}", fix="Give 0 to 180 degrees")
    if step.radius is None:
        return angle, bench.radius
    return angle, bench.not_below(step.radius, "the inside radius")


def _own_shape(bench: Workbench, step: said.Flange) -> float | Contour:
    if step.outline is None and step.length is not None:
        return bench.above(step.length, "the length")
    if step.outline is None or step.length is not None:
        raise InputError("it has no one shape", fix="Give either a length or an outline")
    made = bench.outline(step.outline)
    first = made.segments[0]
    level = max(abs(first.start[1]), abs(first.end[1])) < LENGTH
    if not (first.is_line and level and first.start[0] < first.end[0]):
        raise InputError(
            "the outline's first side is not the one at the bend",
            fix="Begin with the side on y = 0, from left to right, and go on counter-clockwise",
        )
    return made


def hang_hem(bench: Workbench, step: said.Hem) -> None:
    """Turn edges back on their panels."""
    radius = bench.not_below(step.gap, "the gap") / 2
    out = radius + bench.thickness
    depth = out if step.bend == "inside" else 0.0
    length = bench.above(step.length, "the length")
    _hang_all(bench, step, length, (math.pi, radius), depth, out)


def _hang_all(
    bench: Workbench,
    step: said.Flange | said.Hem,
    shape: float | Contour,
    turn: tuple[float, float],
    depth: float,
    reach: float,
) -> None:
    for i, on in enumerate(step.on, start=1):
        name, _, number = on.rpartition(".")
        parent = bench.plate(name)
        centred = step.centred if isinstance(step, said.Flange) else None
        place = bench.edge(parent, int(number))
        along = bench.along(parent, place, step.ends, step.relief, centred)
        joint = along.joint(
            depth=depth, angle=turn[0], radius=turn[1], is_up=step.direction == "up"
        )
        called = step.name if len(step.on) == 1 else f"{step.name}-{i}"
        _hang(bench, parent, called, joint, shape, reach)


def _hang(
    bench: Workbench, parent: Plate, name: str, joint: Joint, shape: float | Contour, reach: float
) -> Flange:
    flange = Hung(name=name, where=bench.where, joint=joint, shape=shape, reach=reach)
    made = hang(parent, flange, thickness=bench.thickness)
    bench.keep(made)
    return made


def fold_across(bench: Workbench, step: said.Fold) -> None:
    """Part a panel by a line and bend it there."""
    turn = _turn(bench, step)
    if turn[0] == 0:
        raise InputError("a fold by 0 degrees is none", fix="Give more, up to 180 degrees")
    depth = setback(step.measured, *turn, bench.thickness)
    parting = _parted(bench, step)
    joint = _across(bench, step, parting, turn, depth)
    made = _hang(bench, parting.plate, step.name, joint, parting.shape, depth)
    give_over(parting, made, thickness=bench.thickness)


def jog_across(bench: Workbench, step: said.Jog) -> None:
    """Part a panel by a line and step what lies beyond."""
    angle, radius = turn = _turn(bench, step)
    if not 0 < angle <= math.pi / 2 + LENGTH:
        raise InputError(
            f"the jog turns by {math.degrees(angle):g} degrees",
            fix="Give more than 0, up to 90",
        )
    # Two arcs and the straight between: how high they reach, and how far they go.
    arcs = 2 * radius + bench.thickness
    height, taken = bench.above(step.height, "the height"), arcs * (1 - math.cos(angle))
    straight = (height - taken) / math.sin(angle)
    if straight <= LENGTH:
        raise InputError(
            f"the jog is {height:.6g} mm high, of which its bends take {taken:.6g} mm",
            fix="Make it higher, or its radius or angle smaller",
        )
    goes = arcs * math.sin(angle) + straight * math.cos(angle)
    depth = setback("outside", angle, radius, bench.thickness)
    parting = _parted(bench, step)
    if not parting.is_square():
        raise InputError(
            f"{step.panel} does not run on square to the line on both sides of it",
            fix="Lay the line square to straight edges",
        )
    joint = _across(bench, step, parting, turn, depth)
    rise = _hang(bench, parting.plate, f"{step.name}-step", joint, straight, 0.0)
    joint = replace(joint, edge=ACROSS, depth=0.0, is_up=not joint.is_up)
    made = _hang(bench, rise, step.name, joint, parting.shape, goes - depth)
    give_over(parting, made, thickness=bench.thickness)


def _parted(bench: Workbench, step: said.Fold | said.Jog) -> Parting:
    plate = bench.plate(step.panel)
    a, b = (plate.said.point(bench.place(p)) for p in step.line)
    return part_off(plate, *((a, b) if step.stays == "left" else (b, a)))


def _across(
    bench: Workbench,
    step: said.Fold | said.Jog,
    parting: Parting,
    turn: tuple[float, float],
    depth: float,
) -> Joint:
    is_up = step.direction == "up"
    return parting.joint(turn, depth=depth, is_up=is_up, thickness=bench.thickness)
