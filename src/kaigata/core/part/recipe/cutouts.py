"""Steps that cut something out of a panel."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

import shapely

from kaigata.core.errors import InputError
from kaigata.core.metal.threads import TAP_DRILLS
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.plates import Mark, Plate
from kaigata.core.part.recipe.workbench import Workbench
from kaigata.core.plane import Contour, Motion, Point, Segment
from kaigata.core.plane.tolerance import CHORD, LENGTH

__all__ = [
    "cut_hole",
    "cut_opening",
    "cut_slot",
    "mirror_cutouts",
    "press_crease",
    "press_form",
]


@dataclass(frozen=True, slots=True)
class _One:
    """One of a repeated cutout: its middle, and how much larger it is than the first, mm."""

    at: Point
    grown: float


def cut_hole(bench: Workbench, step: said.Hole) -> None:
    """Cut round holes."""
    first, plate = _drilled(bench, step), bench.plate(step.panel)
    for one in _each(bench, step):
        at, wide = plate.said.point(one.at), _grown(first, one)
        plate.openings.append((bench.where, Contour.circle(at, wide / 2)))
        if step.thread is not None:
            plate.marks.append(Mark("tapped-hole", at, wide, step.thread))
        if step.countersink is not None:
            plate.marks.append(_countersink(bench, step, at, wide))
        if step.press_in is not None:
            plate.marks.append(_press_in(bench, step, at, wide))


def press_form(bench: Workbench, step: said.Form) -> None:
    """Mark what is pressed out of the sheet, and cut its pilot holes."""
    first, plate = bench.above(step.diameter, "the footprint"), bench.plate(step.panel)
    for one in _each(bench, step):
        at, wide = plate.said.point(one.at), _grown(first, one)
        plate.marks.append(Mark("formed", at, wide, step.note, step.direction == "up"))
        if step.pilot is not None:
            pilot = bench.above(step.pilot, "the pilot hole")
            if pilot >= wide:
                raise InputError(
                    f"the pilot hole is {pilot:.6g} mm wide, what is pressed {wide:.6g} mm",
                    fix="Give the diameter of all that is pressed as that of the footprint",
                )
            plate.openings.append((bench.where, Contour.circle(at, pilot / 2)))


def press_crease(bench: Workbench, step: said.Crease) -> None:
    """Mark creases, each a line within its panel."""
    plate = bench.plate(step.panel)
    outline = shapely.Polygon([p for e in plate.edges for p in e.flattened(CHORD)])
    for a, b in _creases(bench, step, plate):
        if math.dist(a, b) < LENGTH:
            raise InputError("it begins and ends in one point", fix="Give it two ends apart")
        if not outline.buffer(LENGTH).covers(shapely.LineString([a, b])):
            raise InputError(
                f"a crease of {math.dist(a, b):.6g} mm reaches beyond {plate.name}",
                fix="Keep both ends, and all between them, within the panel",
            )
        plate.marks.append(Mark("crease", a, 0.0, step.note, step.direction == "up", end=b))


def _creases(bench: Workbench, step: said.Crease, plate: Plate) -> Iterator[tuple[Point, Point]]:
    if (step.line is None) == (step.cross is None):
        raise InputError(
            "it is not said in one way", fix="Give either its line or how far a cross keeps off"
        )
    if step.line is not None:
        a, b = (plate.said.point(bench.place(p)) for p in step.line)
        yield a, b
        return
    off = bench.not_below(step.cross or 0, "what it keeps off the corners")
    if len(plate.edges) != 4:
        raise InputError(
            f"{plate.name} has {len(plate.edges)} edges, a cross runs between four corners",
            fix="Say each crease as a line",
        )
    corners = [e.start for e in plate.edges]
    for a, b in ((corners[0], corners[2]), (corners[1], corners[3])):
        long = math.dist(a, b)
        if 2 * off > long - LENGTH:
            raise InputError(
                f"a crease of {long:.6g} mm from corner to corner has no room to keep {off:.6g} mm "
                "off both",
                fix="Keep it less far off",
            )
        line = Segment(a, b)
        yield line.at(off / long), line.at(1 - off / long)


def _grown(first: float, one: _One) -> float:
    wide = first + one.grown
    if wide <= LENGTH:
        raise InputError(
            f"the one at x {one.at[0]:.6g}, y {one.at[1]:.6g} would be {wide:.6g} mm",
            fix="Let them shrink less, or repeat fewer",
        )
    return wide


def _countersink(bench: Workbench, step: said.Hole, at: Point, hole: float) -> Mark:
    wide = bench.above(step.countersink or 0, "the countersink")
    if wide <= hole:
        raise InputError(
            f"the countersink is {wide:.6g} mm wide, its hole {hole:.6g} mm",
            fix="Give the width of the cone at the sheet's face",
        )
    note = f"countersink {wide:.4g} x 90 deg"
    return Mark("countersink", at, wide, note, step.side == "near")


def _press_in(bench: Workbench, step: said.Hole, at: Point, hole: float) -> Mark:
    """Return the mark of what is pressed in: as wide as it must be kept clear."""
    clear = hole / 2 if step.clear is None else bench.above(step.clear, "the clear distance")
    if clear < hole / 2 - LENGTH:
        raise InputError(
            f"it is to be {clear:.6g} mm clear of edges, its hole has a radius of {hole / 2:.6g}",
            fix="Give the distance from its middle",
        )
    return Mark("press-in", at, 2 * clear, step.press_in or "", step.side == "near")


def _drilled(bench: Workbench, step: said.Hole) -> float:
    if step.thread is not None and step.diameter is None:
        if step.thread not in TAP_DRILLS:
            raise InputError(
                f"the thread {step.thread!r} is not known",
                fix=f"Known are {', '.join(TAP_DRILLS)}",
            )
        if any(bench.sizes.length(v) for v in step.repeat.grow):
            raise InputError("a thread does not grow", fix="Say the holes of each thread apart")
        return TAP_DRILLS[step.thread]
    if step.diameter is None or step.thread is not None:
        raise InputError("it has no one size", fix="Give either a diameter or a thread")
    return bench.above(step.diameter, "the diameter")


def cut_slot(bench: Workbench, step: said.Slot) -> None:
    """Cut slots."""
    first, wide = bench.above(step.length, "the length"), bench.above(step.width, "the width")

    def shape(one: _One) -> Contour:
        long = _grown(first, one)
        if long < wide - LENGTH:
            raise InputError(
                f"the slot is {long:.6g} mm long and {wide:.6g} mm wide",
                fix="Its length is over both round ends: give more than its width",
            )
        return Contour.slot(long, wide)

    _cut_out(bench, step, shape)


def cut_opening(bench: Workbench, step: said.Opening) -> None:
    """Cut openings of any outline."""
    corner = bench.not_below(step.corner, "the corner radius")
    if corner and step.rectangle is None:
        raise InputError(
            "only a rectangle has corners of a radius", fix="Draw its corners in an outline"
        )
    _cut_out(bench, step, lambda one: bench.shape(step, corner, one.grown))


def mirror_cutouts(bench: Workbench, step: said.Mirror) -> None:
    """Cut and mark once more, beyond a line, what a panel has so far."""
    plate = bench.plate(step.panel)
    a, b = (plate.said.point(bench.place(p)) for p in step.line)
    along = (b[0] - a[0], b[1] - a[1])
    if math.hypot(*along) < LENGTH:
        raise InputError("its line begins and ends in one point", fix="Give two points")
    if not plate.openings and not plate.marks:
        raise InputError(
            f"nothing has been cut out of {plate.name} yet", fix="Say this step after the cutouts"
        )
    there = Motion.taking(a, along, to=a, along=along, mirrored=True)
    bench.count_cutouts(len(plate.openings))
    plate.openings += [(bench.where, hole.moved(there)) for _, hole in plate.openings]
    plate.marks += [m.moved(there) for m in plate.marks]


def _cut_out(
    bench: Workbench, step: said.Slot | said.Opening, shape: Callable[[_One], Contour]
) -> None:
    plate = bench.plate(step.panel)
    angle = math.radians(bench.sizes.value(step.turn))
    for one in _each(bench, step):
        x, y = one.at
        made = shape(one).moved(Motion.turned(angle, x=x, y=y).then(plate.said))
        plate.openings.append((bench.where, made))


def _each(bench: Workbench, step: said.Hole | said.Form | said.Slot | said.Opening) -> list[_One]:
    repeat = step.repeat
    (x, y), (dx, dy) = bench.place(step.at), bench.place(repeat.pitch)
    across, up = bench.place(repeat.grow)
    columns, rows = repeat.columns, repeat.rows
    beyond = next((p for p in repeat.without if p[0] > columns or p[1] > rows), None)
    if beyond is not None:
        raise InputError(
            f"column {beyond[0]}, row {beyond[1]} is to be left out, there are {columns} across "
            f"and {rows} up",
            fix="Count from 1, from the left and from below",
        )
    bench.count_cutouts(columns * rows)
    return [
        _One((x + i * dx, y + j * dy), i * across + j * up)
        for j in range(rows)
        for i in range(columns)
        if (i + 1, j + 1) not in repeat.without
    ]
