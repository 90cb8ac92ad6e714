"""A plate parted by a line: what of it stays, and what is turned or stepped."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from itertools import pairwise

from kaigata.core.errors import InputError
from kaigata.core.part.recipe.plates import Flange, Joint, Line, Notch, Plate, rehang
from kaigata.core.plane import Contour, Motion, Point, Segment
from kaigata.core.plane.meet import crossings
from kaigata.core.plane.tolerance import FINE_CHORD, LENGTH

__all__ = ["Parting", "give_over", "part_off"]

_RECTANGLE = 4
"""Sides of one."""


@dataclass(frozen=True, slots=True)
class _Piece:
    """A piece of an outline: of which edge, how far along that it begins, and where it goes."""

    run: Segment
    edge: int
    begins: float
    stays: bool


@dataclass(frozen=True)
class Parting:
    """What a line has parted off a plate, and what was on the plate before.

    Attributes
    ----------
    plate : Plate
        What stays: its outline is cut already.
    line : Segment
        The line from side to side, what stays on its left.
    stays : tuple of _Piece or None
        The outline of what stays, None where the line has taken the place of what is parted off.
    off : tuple of _Piece
        The rest, in order from the beginning of the line to its end.
    hung : tuple of Flange
        What hung on the plate.
    """

    plate: Plate
    line: Segment
    stays: tuple[_Piece | None, ...]
    off: tuple[_Piece, ...]
    hung: tuple[Flange, ...]

    @property
    def motion(self) -> Motion:
        """From the plate's coordinates to those of what is parted off: the line is its x axis."""
        back = self.line.reversed()
        return Motion.taking(back.start, back.heading(0.0), to=(0.0, 0.0), along=(1.0, 0.0))

    @property
    def shape(self) -> float | Contour:
        """The outline of what is parted off, or how long it is where that is a rectangle."""
        runs = [self.line.reversed(), *(p.run for p in self.off)]
        outline = Contour.of_segments(runs).moved(self.motion)
        _, _, wide, high = outline.bounds
        square = wide * high - LENGTH * (wide + high)
        return high if len(runs) == _RECTANGLE and outline.area > square else outline

    def joint(
        self, turn: tuple[float, float], *, depth: float, is_up: bool, thickness: float
    ) -> Joint:
        """Return how it hangs on what stays, turned so far (radians) at an inside radius."""
        return Joint(
            edge=self.stays.index(None),
            start=0.0,
            end=self.line.chord,
            reaches_start=True,
            reaches_end=True,
            depth=depth,
            angle=turn[0],
            radius=turn[1],
            is_up=is_up,
            notch=Notch(thickness, thickness, is_round=False),
        )

    def is_square(self) -> bool:
        """Whether the outline runs on square to the line, and straight, on both sides of it."""
        place = self.stays.index(None)
        beside = (self.stays[place - 1], self.stays[(place + 1) % len(self.stays)])
        runs = [p.run for p in (*beside, self.off[0], self.off[-1]) if p is not None]
        ux, uy = self.line.heading(0.0)
        return all(
            r.is_line and abs((r.end[0] - r.start[0]) * ux + (r.end[1] - r.start[1]) * uy) < LENGTH
            for r in runs
        )


def part_off(plate: Plate, a: Point, b: Point) -> Parting:
    """Part off what lies right of the line through two points of a plate.

    Raises
    ------
    InputError
        The line does not part it in two, or parts the bend that it hangs on.
    """
    pieces = list(_pieces(plate, a, b))
    changes = [i for i, p in enumerate(pieces) if p.stays and not pieces[i - 1].stays]
    if len(changes) != 1:
        how = "does not cross it" if not changes else f"crosses it {2 * len(changes)} times"
        raise InputError(
            f"the line is to part {plate.name} in two, and {how}",
            fix="Give two points so that the line through them crosses its outline twice",
        )
    ordered = [*pieces[changes[0] :], *pieces[: changes[0]]]
    off = tuple(p for p in ordered if not p.stays)
    if isinstance(plate, Flange) and any(p.edge == 0 for p in off):
        raise InputError(
            f"what is to stay of {plate.name} does not hold the whole of its own bend",
            fix="Let the other side stay, or give a line that does not cross the bend",
        )
    stays: list[_Piece | None] = []
    for p in pieces:
        if p.stays:
            stays.append(p)
        elif None not in stays:
            stays.append(None)
    line = Segment(off[0].run.start, off[-1].run.end)
    plate.edges = tuple(line if p is None else p.run for p in stays)
    first = (i for i, p in enumerate(stays) if p and p.edge == plate.first and not p.begins)
    plate.first = next(first, stays.index(None))
    hung, plate.hung = tuple(plate.hung), []
    return Parting(plate, line, tuple(stays), off, hung)


def _pieces(plate: Plate, a: Point, b: Point) -> Iterator[_Piece]:
    """Yield the outline of a plate, its edges divided where the line crosses them."""
    long = math.dist(a, b)
    if long < LENGTH:
        raise InputError("its line begins and ends in one point", fix="Give two points")
    ux, uy = (b[0] - a[0]) / long, (b[1] - a[1]) / long
    line = Segment(a, b)

    def left(p: Point) -> float:
        return ux * (p[1] - a[1]) - uy * (p[0] - a[0])

    for i, edge in enumerate(plate.edges):
        shares = sorted(edge.share_of(p) for p in crossings(edge, line))
        slack = LENGTH / edge.length
        cuts = [0.0, *(t for t in shares if slack < t < 1 - slack), 1.0]
        for t0, t1 in pairwise(cuts):
            run = edge.part(t0, t1)
            side = left(run.at(0.5))
            if abs(side) < LENGTH:
                raise InputError(
                    f"the line runs along {plate.called(i)}",
                    fix="Hang a flange on that edge",
                )
            yield _Piece(run, i, t0 * edge.length, side > 0)


def give_over(parting: Parting, to: Flange, *, thickness: float) -> None:
    """Give what was on the parted plate to that and to the flange that hangs there now.

    Raises
    ------
    InputError
        A cutout or a flange lies across the line.
    """
    plate, there = parting.plate, parting.motion
    openings, plate.openings = plate.openings, []
    for where, hole in openings:
        levels = [there.point(p)[1] for s in hole.segments for p in s.flattened(FINE_CHORD)]
        if min(levels) < 0 < max(levels):
            raise InputError(
                f"what {where} cuts out of {plate.name} lies across the line",
                fix="Move one of them; a cutout belongs to one side of a bend",
            )
        if min(levels) < 0:
            plate.openings.append((where, hole))
        else:
            to.openings.append((where, hole.moved(there)))
    marks, plate.marks = plate.marks, []
    for mark in marks:
        moved = mark.moved(there)
        is_beyond = moved.at[1] >= 0
        if moved.end is not None and (moved.end[1] >= 0) != is_beyond:
            raise InputError(
                f"a crease of {plate.name} lies across the line",
                fix="Say a crease for each side, after this step",
            )
        if is_beyond:
            to.marks.append(moved)
        else:
            plate.marks.append(mark)
    _give_rounds(parting, to)
    _give_sides(parting, to)
    for flange in parting.hung:
        home, place, piece = _home(parting, flange, to)
        start, end = (v - piece.begins for v in (flange.joint.start, flange.joint.end))
        joint = replace(flange.joint, edge=place, start=start, end=end)
        flange.limits = (flange.limits[0] - piece.begins, flange.limits[1] - piece.begins)
        rehang(flange, home, joint, thickness=thickness)


def _homes(parting: Parting, to: Flange) -> list[tuple[Plate, int, _Piece]]:
    """Return of each piece whose edge it is now, and that edge's place."""
    stays = [(parting.plate, i, p) for i, p in enumerate(parting.stays) if p is not None]
    return stays + [(to, i, p) for i, p in enumerate(parting.off, start=1)]


def _home(parting: Parting, flange: Flange, to: Flange) -> tuple[Plate, int, _Piece]:
    joint = flange.joint
    for home in _homes(parting, to):
        piece = home[2]
        first, last = piece.begins, piece.begins + piece.run.length
        is_there = first - LENGTH < joint.start and joint.end < last + LENGTH
        if piece.edge == joint.edge and is_there:
            return home
    raise InputError(
        f"the flange {flange.name} hangs across the line",
        fix="Say this step before that flange, and hang one on each side",
    )


def _give_rounds(parting: Parting, to: Flange) -> None:
    """Let each rounding go with its corner, which is where the last piece of its edge ends."""
    rounds, parting.plate.rounds = parting.plate.rounds, {}
    homes = _homes(parting, to)
    for home, place, piece in homes:
        is_last = all(p.begins <= piece.begins for _, _, p in homes if p.edge == piece.edge)
        if piece.edge in rounds and is_last:
            home.rounds[place] = rounds[piece.edge]


def _give_sides(parting: Parting, to: Flange) -> None:
    """Let each piece of an edge that is cut to a neighbour be cut so."""
    sides, parting.plate.sides = parting.plate.sides, {}
    rooms, parting.plate.rooms = parting.plate.rooms, {}
    for home, place, piece in _homes(parting, to):
        if piece.edge in rooms:
            home.rooms[place] = rooms[piece.edge]
        side = sides.get(piece.edge)
        if side is not None:
            there = parting.motion if home is to else Motion()
            home.sides[place] = Line(there.point(side.at), there.heading(side.along))
