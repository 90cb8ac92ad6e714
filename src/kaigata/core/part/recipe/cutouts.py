"""Steps that cut something out of a panel."""

from __future__ import annotations

import math

from kaigata.core.errors import InputError
from kaigata.core.metal.threads import TAP_DRILLS
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.formulas import Amount
from kaigata.core.part.recipe.plates import Mark
from kaigata.core.part.recipe.workbench import Workbench
from kaigata.core.plane import Contour, Motion, Point
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["cut_hole", "cut_opening", "cut_slot"]

_MOST_CUTOUTS = 5_000
"""Cutouts of one part: rows and columns multiply quickly."""


def cut_hole(bench: Workbench, step: said.Hole) -> None:
    """Cut round holes."""
    wide, plate = _drilled(bench, step), bench.plate(step.panel)
    for at in map(plate.said.point, _places(bench, step)):
        plate.openings.append((bench.where, Contour.circle(at, wide / 2)))
        if step.thread is not None:
            plate.marks.append(Mark("tapped-hole", at, wide, step.thread))
        if step.countersink is not None:
            plate.marks.append(_countersink(bench, step, at, wide))


def _countersink(bench: Workbench, step: said.Hole, at: Point, hole: float) -> Mark:
    wide = bench.above(step.countersink or 0, "the countersink")
    if wide <= hole:
        raise InputError(
            f"the countersink is {wide:.6g} mm wide, its hole {hole:.6g} mm",
            fix="Give the width of the cone at the sheet's face",
        )
    note = f"countersink {wide:.4g} x 90 deg"
    return Mark("countersink", at, wide, note, step.side == "near")


def _drilled(bench: Workbench, step: said.Hole) -> float:
    if step.thread is not None and step.diameter is None:
        if step.thread not in TAP_DRILLS:
            raise InputError(
                f"the thread {step.thread!r} is not known",
                fix=f"Known are {', '.join(TAP_DRILLS)}",
            )
        return TAP_DRILLS[step.thread]
    if step.diameter is None or step.thread is not None:
        raise InputError("it has no one size", fix="Give either a diameter or a thread")
    return bench.above(step.diameter, "the diameter")


def cut_slot(bench: Workbench, step: said.Slot) -> None:
    """Cut slots."""
    long, wide = bench.above(step.length, "the length"), bench.above(step.width, "the width")
    if long < wide - LENGTH:
        raise InputError(
            f"the slot is {long:.6g} mm long and {wide:.6g} mm wide",
            fix="Its length is over both round ends: give more than its width",
        )
    straight = (long - wide) / 2
    shape = Contour.circle((0.0, 0.0), wide / 2)
    if straight > LENGTH:
        rows = [(-straight, -1, 0), (straight, -1, 1), (straight, 1, 0), (-straight, 1, 1)]
        shape = Contour(tuple((x, y * wide / 2, float(b)) for x, y, b in rows))
    _cut_out(bench, step, shape, step.turn)


def cut_opening(bench: Workbench, step: said.Opening) -> None:
    """Cut openings of any outline."""
    corner = bench.not_below(step.corner, "the corner radius")
    _cut_out(bench, step, bench.shape(step, corner), step.turn)


def _cut_out(
    bench: Workbench, step: said.Slot | said.Opening, shape: Contour, turn: Amount
) -> None:
    plate = bench.plate(step.panel)
    angle = math.radians(bench.sizes.value(turn))
    for x, y in _places(bench, step):
        made = shape.moved(Motion.turned(angle, x=x, y=y).then(plate.said))
        plate.openings.append((bench.where, made))


def _places(bench: Workbench, step: said.Hole | said.Slot | said.Opening) -> list[Point]:
    (x, y), (dx, dy) = bench.place(step.at), bench.place(step.repeat.pitch)
    columns, rows = step.repeat.columns, step.repeat.rows
    bench.cutouts += columns * rows
    if bench.cutouts > _MOST_CUTOUTS:
        raise InputError(
            f"the part has {bench.cutouts} cutouts, at most {_MOST_CUTOUTS} are made",
            fix="Repeat it less often",
        )
    return [(x + i * dx, y + j * dy) for j in range(rows) for i in range(columns)]
