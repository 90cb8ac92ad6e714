"""A folded profile: the step that makes panels and bends of a section."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise

from kaigata.core.errors import InputError
from kaigata.core.part.folded import Frame
from kaigata.core.part.recipe import document as said
from kaigata.core.part.recipe.plates import ACROSS, Along, Hung, Notch, Plate, hang
from kaigata.core.part.recipe.workbench import Workbench
from kaigata.core.plane import Contour, Segment
from kaigata.core.plane.tolerance import LENGTH

__all__ = ["fold_profile", "run_profile"]

_TANGENT = 1e-4
"""Sine of the angle up to which an arc goes on from a straight: half a hundredth of a degree."""
_OUTER = {"left": 1.0, "right": 0.0, "both": 0.5}
"""How much of the sheet lies inside of the line where the section turns left."""
_FIRST_EDGE = 1


@dataclass(frozen=True, slots=True)
class _Turn:
    """A bend of a section: how far it turns, radians, left above 0, and its inside radius, mm.

    ``setback`` is how far from the ends of the straights beside it, as drawn, it begins and ends.
    """

    angle: float
    radius: float
    setback: float


def fold_profile(bench: Workbench, step: said.Profile, level: Frame) -> None:
    """Fold a profile; its first straight lies in a frame.

    Raises
    ------
    InputError
        The section is not straights joined by corners or arcs, or a bend has no room.
    """
    if step.width is None:
        raise InputError("it has no width", fix="Give its width, or the edges that it runs along")
    segments = list(_segments(bench, step))
    wide = bench.above(step.width, "the width")
    first, *others = [s for s in segments if s.is_line]
    turns = list(_turns(bench, step, segments))
    outline = Contour.through([(0.0, 0.0), (first.chord, 0.0), (first.chord, wide), (0.0, wide)])
    plate = Plate(name=f"{step.name}-1", where=bench.where, edges=outline.segments, frame=level)
    bench.keep(plate)
    names = [f"{step.name}-{n}" for n in range(2, len(others) + 2)]
    _hang_on(bench, plate, _whole(bench, _FIRST_EDGE, wide), others, turns, names)


def run_profile(bench: Workbench, step: said.Profile) -> None:
    """Run a profile along edges of panels: what it begins with is bent at each edge.

    Raises
    ------
    InputError
        The section is not straights joined by corners or arcs, does not turn at the edge, or has
        no room; there is no such edge, or a width is given.
    """
    if step.width is not None:
        raise InputError(
            "a profile along edges is as wide as they are",
            fix="Leave out its width; leave ends free where it is to be narrower",
        )
    segments = list(_segments(bench, step))
    (x, y), straights = segments[0].start, [s for s in segments if s.is_line]
    # The panel is the straight before the first: it ends at the edge.
    turns = list(_turns(bench, step, [Segment((x - 1.0, y), (x, y)), *segments], first=0))
    for i, on in enumerate(step.on, start=1):
        name, _, number = on.rpartition(".")
        parent = bench.plate(name)
        place = bench.edge(parent, int(number))
        joint = bench.along(parent, place, step.ends, step.relief)
        called = step.name if len(step.on) == 1 else f"{step.name}-{i}"
        names = [f"{called}-{n}" for n in range(1, len(straights) + 1)]
        _hang_on(bench, parent, joint, straights, turns, names)


def _whole(bench: Workbench, edge: int, wide: float) -> Along:
    notch = Notch(bench.thickness, bench.thickness, is_round=False)
    return Along(edge, 0.0, wide, reaches_start=True, reaches_end=True, notch=notch)


def _hang_on(
    bench: Workbench,
    plate: Plate,
    along: Along,
    straights: Sequence[Segment],
    turns: Sequence[_Turn],
    names: Sequence[str],
) -> None:
    """Hang straights one on the other, the first on an edge of a plate."""
    for straight, turn, name in zip(straights, turns, names, strict=True):
        joint = along.joint(
            depth=turn.setback, angle=abs(turn.angle), radius=turn.radius, is_up=turn.angle > 0
        )
        hung = Hung(
            name=name, where=bench.where, joint=joint, shape=straight.chord, reach=turn.setback
        )
        plate = hang(plate, hung, thickness=bench.thickness)
        bench.keep(plate)
        along = _whole(bench, ACROSS, joint.end - joint.start)


def _segments(bench: Workbench, step: said.Profile) -> Iterator[Segment]:
    rows = [[*map(bench.sizes.length, r[:2]), *map(bench.sizes.value, r[2:])] for r in step.section]
    for i, (a, b) in enumerate(pairwise(rows), start=1):
        made = Segment((a[0], a[1]), (b[0], b[1]), a[2] if len(a) > 2 else 0.0)
        if made.is_nothing():
            raise InputError(f"corner {i} of the section is corner {i + 1} again")
        yield made


def _turns(
    bench: Workbench, step: said.Profile, segments: list[Segment], first: int = 1
) -> Iterator[_Turn]:
    """Yield the bend between each straight and the next; the first segment begins at a corner."""
    if not (segments[0].is_line and segments[-1].is_line):
        raise InputError(
            "the section begins or ends with an arc", fix="Let it begin and end with a straight"
        )
    for i, (one, two) in enumerate(pairwise(segments), start=first):
        heading, after = one.heading(1.0), two.heading(0.0)
        turn = math.atan2(
            heading[0] * after[1] - heading[1] * after[0],
            heading[0] * after[0] + heading[1] * after[1],
        )
        if one.is_line and two.is_line:
            if abs(turn) < _TANGENT or abs(turn) > math.pi - _TANGENT:
                raise InputError(
                    f"at corner {i + 1} the section does not turn, or turns right back",
                    fix="Leave out a corner on a straight; turn back by an arc",
                )
            outside = _outer_share(step, turn) * bench.thickness
            yield _Turn(turn, bench.radius, (bench.radius + outside) * math.tan(abs(turn) / 2))
            continue
        if abs(turn) > _TANGENT or not (one.is_line or two.is_line):
            raise InputError(
                f"at corner {i + 1} an arc does not go on from a straight, or into one",
                fix="Let arcs touch the straights before and after them",
            )
        if two.is_line:
            continue
        radius = two.radius - _outer_share(step, two.sweep) * bench.thickness
        if radius < -LENGTH:
            raise InputError(
                f"the arc from corner {i + 1} leaves no inside radius in {bench.thickness:g} mm",
                fix="Draw it larger, or let the metal lie on the other side of the line",
            )
        yield _Turn(two.sweep, max(0.0, radius), 0.0)


def _outer_share(step: said.Profile, turn: float) -> float:
    """Return how much of the sheet lies between the line and the inside of a bend."""
    share = _OUTER[step.metal]
    return share if turn > 0 else 1.0 - share
