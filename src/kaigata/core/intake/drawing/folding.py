"""A drawn flat with its bends' angles, radii and directions made a folded part."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence

import numpy as np
from shapely.geometry import Point as Point2

from kaigata.core.errors import InputError
from kaigata.core.findings import counted
from kaigata.core.intake.drawing.flats import DrawnFlat
from kaigata.core.intake.drawing.zones import BendGiven, Zones
from kaigata.core.part import Bend, FoldedPart, Frame, Panel, PieceEdge
from kaigata.core.plane import Contour, Point, Segment
from kaigata.core.plane.chain import closed_loops
from kaigata.core.plane.tolerance import CHORD, JOIN

__all__ = ["BendGiven", "folded_drawn"]


_CHORD = 1_000_000
_TEAR = 2_000_000
"""First numbers of the edges that bend zones have beside the flat's own."""


def folded_drawn(flat: DrawnFlat, given: Sequence[BendGiven], *, thickness: float) -> FoldedPart:
    """Return the folded part whose blank is a drawn flat.

    Each bend line is the middle of its zone; the zone is as wide as the bend takes. Unfolding the
    part with the same takes gives the drawn flat back.

    Parameters
    ----------
    flat : DrawnFlat
        The flat, mm.
    given : sequence of BendGiven
        One for each of its bends, in their order.
    thickness : float
        Sheet thickness, mm.

    Raises
    ------
    InputError
        A bend zone does not fit between the edges, or two zones run into each other.
    """
    return _Cutter(flat, given, thickness).part()


class _Cutter:
    def __init__(self, flat: DrawnFlat, given: Sequence[BendGiven], thickness: float) -> None:
        if len(given) != len(flat.bends):
            raise InputError(
                f"{counted(len(given), 'bend is', 'bends are')} given, "
                f"the drawing has {len(flat.bends)}",
                where=flat.name,
                fix="Give angle, radius and direction of every bend line",
            )
        self.flat, self.given, self.thickness = flat, given, thickness
        self.zones = Zones(flat, given)
        self.chords, self.tears = self.zones.chords, self.zones.tears

    def part(self) -> FoldedPart:
        runs, numbers = self._runs()
        faces = self._faces(runs)
        zones = [self._bend_of(face, runs) for face in faces]
        self.zones.require_all(zones)
        frames = _Placing(self, faces, zones, runs, numbers).frames()
        panels = []
        # An opening may divide a zone: its pieces are one bend.
        zone_edges: dict[int, list[tuple[int, tuple[Segment, ...]]]] = {}
        zone_frame: dict[int, Frame] = {}
        for i, (face, zone) in enumerate(zip(faces, zones, strict=True)):
            edges = [(numbers[r], runs[r]) for r in face]
            if zone is None:
                panel = tuple(PieceEdge(n, run, torn=n >= _TEAR) for n, run in edges)
                panels.append(Panel(edges=panel, frame=frames[i]))
            else:
                zone_edges.setdefault(zone, []).extend(edges)
                zone_frame[zone] = frames[i]
        panels.sort(key=lambda p: -round(p.area, 3))
        bends = [self._bend(z, zone_edges[z], zone_frame[z]) for z in sorted(zone_edges)]
        return FoldedPart(self.flat.name, self.thickness, tuple(panels), tuple(bends))

    def radius(self, bend: int) -> float:
        """Return the radius of the upper face at a bend, mm."""
        given = self.given[bend]
        return given.take.inside_radius + (0.0 if given.is_up else self.thickness)

    def _runs(self) -> tuple[list[tuple[Segment, ...]], list[int]]:
        """Return the flat's edges split at the chords, and the chords both ways, with numbers."""
        stops = [p for c in self.chords for p in c.ends] + [end for _, end in self.tears]
        runs: list[tuple[Segment, ...]] = []
        numbers: list[int] = []
        for contour in self.flat.region.contours:
            for segment in contour.segments:
                for piece in _split(segment, stops):
                    runs.append((piece,))
                    numbers.append(len(numbers))
        for n, chord in enumerate(self.chords):
            a, b = chord.ends
            for way in (Segment(a, b), Segment(b, a)):
                runs.append((way,))
                numbers.append(_CHORD + n)
        for n, (a, b) in enumerate(self.tears):
            for way in (Segment(a, b), Segment(b, a)):
                runs.append((way,))
                numbers.append(_TEAR + n)
        return runs, numbers

    def _faces(self, runs: Sequence[tuple[Segment, ...]]) -> list[list[int]]:
        """Return the pieces of the flat, each the runs round it, its holes' runs among them."""
        loops = closed_loops(runs)
        shapes = [Contour.of_segments([s for r in loop for s in runs[r]]) for loop in loops]
        outers = [i for i, c in enumerate(shapes) if c.area > 0]
        faces = {i: list(loops[i]) for i in outers}
        polygons = {i: shapes[i].polygon(CHORD) for i in outers}
        for i, c in enumerate(shapes):
            if c.area < 0:
                start = Point2(c.vertices[0][:2])
                around = [j for j in outers if polygons[j].covers(start)]
                if not around:
                    raise InputError(
                        "two bend zones run into each other",
                        where=self.flat.name,
                        fix="Give smaller radii, or move the lines apart",
                    )
                faces[min(around, key=lambda j: polygons[j].area)] += loops[i]
        return list(faces.values())

    def _bend_of(self, face: Sequence[int], runs: Sequence[tuple[Segment, ...]]) -> int | None:
        """Return the bend whose zone a piece is: it has a chord of it on both sides."""
        first = len(runs) - 2 * len(self.chords) - 2 * len(self.tears)
        touched: dict[int, set[float]] = {}
        for r in face:
            if not first <= r < first + 2 * len(self.chords):
                continue
            chord = self.chords[(r - first) // 2]
            (ox, oy), (ux, uy) = self.zones.middle(chord.bend)
            (x, y) = runs[r][0].start
            side = math.copysign(1.0, (y - oy) * ux - (x - ox) * uy)
            touched.setdefault(chord.bend, set()).add(side)
        both = [b for b, sides in touched.items() if len(sides) == 2]
        if not both:
            return None
        own_runs = [runs[r] for r in face]
        # A hole within the zone is a loop of its own.
        loops = [[s for r in loop for s in own_runs[r]] for loop in closed_loops(own_runs)]
        outer = max((Contour.of_segments(loop) for loop in loops), key=lambda c: c.area)
        own = [b for b in both if self._holds_line(b, outer)]
        return own[0] if own else None

    def _holds_line(self, bend: int, shape: Contour) -> bool:
        polygon = shape.polygon(CHORD).buffer(0)
        return any(
            polygon.contains(Point2((a[0] + b[0]) / 2, (a[1] + b[1]) / 2))
            for a, b in self.flat.bends[bend].lines
        )

    def _bend(
        self, bend: int, edges: Sequence[tuple[int, tuple[Segment, ...]]], frame: Frame
    ) -> Bend:
        given = self.given[bend]
        width = given.take.spread
        (ox, oy), (ux, uy) = self.zones.middle(bend)

        def zone(p: Point) -> Point:
            across = (p[0] - ox) * uy - (p[1] - oy) * ux
            along = (p[0] - ox) * ux + (p[1] - oy) * uy
            return (across / width * given.angle, along)

        out = []
        for number, run in edges:
            flat = [run[0].start, *(p for s in run for p in s.flattened(JOIN / 4))]
            points = [zone(p) for p in flat]
            curved = any(not s.is_line for s in run)
            pieces = tuple(Segment(p, q) for p, q in itertools.pairwise(points))
            out.append(PieceEdge(number, pieces, free=curved, torn=number >= _TEAR))
        return Bend(
            edges=tuple(out),
            frame=frame,
            radius=self.radius(bend),
            inside_radius=given.take.inside_radius,
            angle=given.angle,
            is_up=given.is_up,
        )


class _Placing:
    """Where the pieces lie in space when folded, the largest panel in the drawing's own plane."""

    def __init__(
        self,
        cutter: _Cutter,
        faces: Sequence[Sequence[int]],
        zones: Sequence[int | None],
        runs: Sequence[tuple[Segment, ...]],
        numbers: Sequence[int],
    ) -> None:
        self.cutter, self.faces, self.zones = cutter, faces, zones
        self.runs, self.numbers = runs, numbers

    def frames(self) -> list[Frame]:
        areas = [
            math.fsum(s.area for r in face for s in self.runs[r]) if zone is None else 0.0
            for face, zone in zip(self.faces, self.zones, strict=True)
        ]
        root = int(np.argmax(areas))
        # Of each piece a matrix (3 x 3, columns x, y, z) and an origin that place its flat plane.
        placed: dict[int, tuple[np.ndarray, np.ndarray]] = {root: (np.eye(3), np.zeros(3))}
        frames: dict[int, Frame] = {root: _frame(np.eye(3), np.zeros(3))}
        queue = [root]
        for here in queue:
            for there, zone in self._beyond(here):
                if there in placed:
                    continue
                turn, origin = placed[here]
                if zone is not None:
                    frames[there], beyond = self._rolled(turn, origin, here, there, zone)
                    placed[there] = beyond
                else:
                    placed[there] = placed[here]
                    frames[there] = _frame(*placed[here])
                queue.append(there)
        if len(frames) < len(self.faces):
            raise InputError(
                "two bend zones run into each other",
                where=self.cutter.flat.name,
                fix="Give smaller radii, or move the lines apart",
            )
        return [frames[i] for i in range(len(self.faces))]

    def _beyond(self, here: int) -> list[tuple[int, int | None]]:
        own = {self.numbers[r] for r in self.faces[here] if self.numbers[r] < _TEAR}
        return [
            (i, self.zones[i])
            for i, face in enumerate(self.faces)
            if i != here and own & {self.numbers[r] for r in face}
        ]

    def _rolled(
        self, turn: np.ndarray, origin: np.ndarray, here: int, there: int, zone: int
    ) -> tuple[Frame, tuple[np.ndarray, np.ndarray]]:
        """Return a bend's frame and the placing of the flat beyond it."""
        given = self.cutter.given[zone]
        (ox, oy), (ux, uy) = self.cutter.zones.middle(zone)
        middle = np.array([ox, oy, 0.0])
        along = np.array([ux, uy, 0.0])
        # From the side we come from to the other: across is to the right of the line.
        start = self._side(here, there, zone)
        across = start * -np.array([uy, -ux, 0.0])
        half, r = given.take.spread / 2, self.cutter.radius(zone)
        up = 1.0 if given.is_up else -1.0
        axis = middle - across * half + np.array([0.0, 0.0, up * r])
        angle = given.angle

        def about_axis(v: np.ndarray, by: float) -> np.ndarray:
            """Turn a direction: what points across turns up (or down)."""
            c, s = math.cos(by), math.sin(by)
            lift = np.array([0.0, 0.0, up])
            a, z = float(v @ across), float(v @ lift)
            rest = v - across * a - lift * z
            return rest + across * (a * c - z * s) + lift * (a * s + z * c)

        down = np.array([0.0, 0.0, -up])
        heading = about_axis(down, angle / 2)
        growth = about_axis(across, angle / 2) * start * -1.0
        frame = _frame(turn @ np.column_stack([heading, along, growth]), origin + turn @ axis)
        # The plane beyond: its points as drawn, shifted by the zone, turned about the axis.
        beyond = np.column_stack([about_axis(e, angle) for e in np.eye(3)])
        far = middle + across * half
        end = axis + about_axis(down, angle) * r
        return frame, (turn @ beyond, origin + turn @ (end - beyond @ far))

    def _side(self, here: int, there: int, zone: int) -> float:
        """Return on which side of the bend line the shared chord lies: 1 to its right."""
        shared = {self.numbers[r] for r in self.faces[here]} & {
            self.numbers[r] for r in self.faces[there]
        }
        r = next(r for r in self.faces[there] if self.numbers[r] in shared)
        (ox, oy), (ux, uy) = self.cutter.zones.middle(zone)
        x, y = self.runs[r][0].at(0.5)
        return math.copysign(1.0, (x - ox) * uy - (y - oy) * ux)


def _frame(turn: np.ndarray, origin: np.ndarray) -> Frame:
    def plain(v: np.ndarray) -> tuple[float, float, float]:
        return (float(v[0]), float(v[1]), float(v[2]))

    return Frame(plain(origin), plain(turn[:, 0]), plain(turn[:, 1]), plain(turn[:, 2]))


def _split(segment: Segment, stops: Sequence[Point]) -> list[Segment]:
    """Return a segment in pieces between the stops that lie on it."""
    shares = [0.0, 1.0]
    for p in stops:
        t = segment.share_of(p)
        off = math.dist(segment.at(min(max(t, 0.0), 1.0)), p)
        if off < JOIN / 2 and JOIN < t * segment.length < segment.length - JOIN:
            shares.append(t)
    ordered = sorted(shares)
    return [
        segment.part(a, b)
        for a, b in itertools.pairwise(ordered)
        if (b - a) * segment.length > JOIN / 10
    ]
