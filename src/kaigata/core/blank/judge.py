"""Findings on a blank: what the brake, the cutter or the hand would run into, ranked."""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import combinations

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from kaigata.core.blank.blank import Blank, BlankBend
from kaigata.core.blank.pressed import creases_off_metal, pressed_too_near
from kaigata.core.findings import Finding, Level, counted
from kaigata.core.metal.limits import Limits
from kaigata.core.metal.tooling import DIES, die_opening, force_per_metre, least_flange
from kaigata.core.part import FoldedPart, Panel
from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import AREA, CHORD

__all__ = ["judged", "ranked"]

_RANK = {Level.ERROR: 0, Level.WARNING: 1, Level.NOTE: 2}

_SAME_RADIUS = 0.05
_STEP = 0.1

_WITHIN = 0.6
"""Share of half a bend zone: metal this far within it, past the bend's end, is torn off it."""


def judged(blank: Blank, limits: Limits, *, part: FoldedPart | None = None) -> tuple[Finding, ...]:
    """Return the findings on a blank with those it has, worst first.

    Parameters
    ----------
    blank : Blank
        The blank.
    limits : Limits
        The shop's thresholds.
    part : FoldedPart, optional
        The part folded, to look for collisions.
    """
    if any(f.code == "flat-overlap" for f in blank.findings):
        # Nothing can be measured on a flat that lies on itself.
        return ranked(list(blank.findings))
    look = _Look(blank, limits)
    found = [
        *blank.findings,
        *look.sizes(),
        *look.bends(),
        *look.radii(),
        *look.holes(),
        *pressed_too_near(blank, look.shape, look.holes_shapes, look.zones),
        *creases_off_metal(blank, look.shape, look.zones),
        *look.gaps(),
        *look.corners(),
        *(_collisions(blank, part) if part else ()),
    ]
    return ranked(found)


def ranked(findings: list[Finding]) -> tuple[Finding, ...]:
    """Return findings worst first, otherwise as they came."""
    return tuple(sorted(findings, key=lambda f: _RANK[f.level]))


def _warn(code: str, text: str, at: Point | None = None, level: Level = Level.WARNING) -> Finding:
    return Finding(level=level, code=code, text=text, at=at)


class _Look:
    def __init__(self, blank: Blank, limits: Limits) -> None:
        self.blank, self.limits, self.t = blank, limits, blank.thickness
        self.shape = blank.region.polygon(CHORD)
        self.holes_shapes = [h.polygon(CHORD) for h in blank.region.holes]
        self.zones = [
            LineString(b.line).buffer(b.allowance / 2, cap_style="flat") for b in blank.bends
        ]

    def sizes(self) -> Iterator[Finding]:
        w, h = self.blank.width, self.blank.height
        size = f"{w:.1f} x {h:.1f} mm"

        def fits(room: tuple[float, float]) -> bool:
            return max(w, h) <= max(room) and min(w, h) <= min(room)

        table = (self.limits.blank_width, self.limits.blank_height)
        if not fits(table):
            yield _warn(
                "blank-over-machine",
                f"The blank is {size}, the largest machine takes {table[0]:g} x {table[1]:g} mm. "
                "Divide the part or cut it elsewhere.",
                level=Level.ERROR,
            )
        if self.limits.sheets and not any(fits(s) for s in self.limits.sheets):
            most = max(self.limits.sheets, key=lambda s: s[0] * s[1])
            yield _warn(
                "blank-over-stock",
                f"The blank is {size}, the largest sheet of its gauge in stock is {most[0]:g} x "
                f"{most[1]:g} mm. Order a larger sheet.",
            )

    def bends(self) -> Iterator[Finding]:
        if self.t <= 0:
            return
        for bend in self.blank.bends:
            at = _middle(bend)
            name = f"Bend {bend.number}"
            opening = die_opening(self.t, inside_radius=bend.inside_radius)
            force = force_per_metre(self.t, opening, self.limits.tensile) * bend.length / 1000
            if bend.length > self.limits.brake_length:
                yield _warn(
                    "bend-over-brake",
                    f"{name} is {bend.length:.0f} mm long, the brake takes "
                    f"{self.limits.brake_length:g}. Divide the part.",
                    at,
                    Level.ERROR,
                )
            elif force > self.limits.brake_force:
                yield _warn(
                    "force-over-brake",
                    f"{name} needs {force:.0f} kN on the {opening:g} mm die, the brake gives "
                    f"{self.limits.brake_force:g}. Use a wider die.",
                    at,
                )
            yield from self._flanges(bend, opening)
            yield from self._relief(bend)

    def radii(self) -> Iterator[Finding]:
        """Look for radii the gauge's tools do not give, those of one radius together."""
        known = self.limits.radii
        if not known:
            return
        odd: dict[float, list[BlankBend]] = {}
        for bend in self.blank.bends:
            if all(abs(r - bend.inside_radius) > _SAME_RADIUS for r in known):
                odd.setdefault(round(bend.inside_radius, 2), []).append(bend)
        have = ", ".join(f"{r:g}" for r in known)
        for radius, bends in odd.items():
            yield _warn(
                "radius-not-in-chart",
                f"{_names(bends)}: the inside radius is {radius:g} mm, the gauge's tools give "
                f"{have}. Choose one of these or add the radius to the gauge.",
                _middle(bends[0]),
                Level.NOTE,
            )

    def _flanges(self, bend: BlankBend, opening: float) -> Iterator[Finding]:
        need = least_flange(opening, bend.angle)
        for number in bend.panels:
            panel = next((p for p in self.blank.panels if p.number == number), None)
            if panel is None:
                continue
            deep = _depth(panel.region.polygon(CHORD), bend) - bend.allowance / 2
            length = deep + bend.setback
            if length >= need - _STEP:
                continue
            smaller = [v for v in DIES if least_flange(v, bend.angle) <= length and v >= 4 * self.t]
            remedy = f"choose the {smaller[-1]:g} mm die" if smaller else "fold it another way"
            yield _warn(
                "flange-short",
                f"Bend {bend.number}: the flange is {length:.1f} mm, the {opening:g} mm die needs "
                f"{need:.1f}. Lengthen it or {remedy}.",
                panel.at,
            )

    def _relief(self, bend: BlankBend) -> Iterator[Finding]:
        """Look past both ends of a bend for material that would tear."""
        (x0, y0), (x1, y1) = bend.line
        n = bend.length
        if n == 0:
            return
        ux, uy = (x1 - x0) / n, (y1 - y0) / n

        def is_metal(x: float, y: float, along: float, across: float) -> bool:
            at = (x + ux * along - uy * across, y + uy * along + ux * across)
            return bool(self.shape.contains(shapely.Point(at)))

        half, room = bend.allowance / 2, max(self.t, 1.0)
        others = shapely.union_all(
            [z for b, z in zip(self.blank.bends, self.zones, strict=True) if b is not bend]
        )

        def is_held(x: float, y: float, past: float, across: float) -> bool:
            """Whether flat metal goes on beside the zone; an edge at a slant ends before long."""
            along = (past, math.copysign(room, past))
            return all(is_metal(x, y, a, across) for a in along) and not others.contains(
                shapely.Point(x + ux * past - uy * across, y + uy * past + ux * across)
            )

        touching: list[Point] = []
        for x, y, past in ((x0, y0, -_STEP), (x1, y1, _STEP)):
            if is_metal(x, y, past, 0.0) or any(
                is_held(x, y, past, side * half) for side in (-_WITHIN, _WITHIN)
            ):
                yield _warn(
                    "relief-missing",
                    f"Bend {bend.number} ends inside the sheet without a relief: it tears there. "
                    f"Cut a relief {room:.1f} mm wide past where the bend begins.",
                    (x, y),
                )
                continue
            off, along = half + _STEP, (past, math.copysign(room, past))
            if any(all(is_metal(x, y, a, side) for a in along) for side in (-off, off)):
                touching.append((x, y))
        if touching:
            yield _warn(
                "relief-touching",
                f"Bend {bend.number} ends flush with what lies beside it: the corner bulges. Take "
                f"the relief about {self.t:.1f} mm deeper than where the bend begins.",
                touching[0],
                Level.NOTE,
            )

    def holes(self) -> Iterator[Finding]:
        t = self.t
        if t <= 0:
            return
        for hole in self.holes_shapes:
            at = (hole.centroid.x, hole.centroid.y)
            for bend, zone in zip(self.blank.bends, self.zones, strict=True):
                need = self.limits.hole_to_bend * t + bend.inside_radius
                apart = hole.distance(zone)
                if apart == 0:
                    yield _warn(
                        "hole-across-bend",
                        f"A hole runs across bend {bend.number}: it is drawn out of shape in "
                        "bending. Cut it after bending, or relieve the bend there.",
                        at,
                        Level.NOTE,
                    )
                elif apart < need:
                    yield _warn(
                        "hole-near-bend",
                        f"A hole lies {apart:.1f} mm from where bend {bend.number} begins, "
                        f"{self.limits.hole_to_bend:g} thicknesses and the radius are {need:.1f}. "
                        "Move it or cut it after bending.",
                        at,
                    )
            edge = hole.distance(self.shape.exterior)
            if edge < self.limits.hole_to_edge * t:
                yield _warn(
                    "hole-near-edge",
                    f"A hole lies {edge:.2f} mm from the edge, {self.limits.hole_to_edge:g} "
                    f"thicknesses are {self.limits.hole_to_edge * t:.1f}. Move it or make it "
                    "smaller.",
                    at,
                )
        tree = shapely.STRtree(self.holes_shapes)
        if self.holes_shapes:
            least = self.limits.hole_to_hole * t
            pairs = tree.query(self.holes_shapes, predicate="dwithin", distance=least)
            for i, j in pairs.T.tolist():
                if i < j:
                    a, b = self.holes_shapes[i], self.holes_shapes[j]
                    yield _warn(
                        "hole-near-hole",
                        f"Two holes are {a.distance(b):.2f} mm apart, "
                        f"{self.limits.hole_to_hole:g} thicknesses are {least:.1f}. Move one.",
                        (a.centroid.x, a.centroid.y),
                    )

    def gaps(self) -> Iterator[Finding]:
        """Look for slots and gaps that are narrower than they may be."""
        for width, code, level, text in (
            (
                self.limits.kerf,
                "gap-under-kerf",
                Level.ERROR,
                "A gap is narrower than the cut itself ({:g} mm): it cannot be cut. Widen it.",
            ),
            (
                self.limits.slot_width * self.t,
                "slot-narrow",
                Level.WARNING,
                "A slot or gap is under {:.2g} mm wide: the cut does not blow out. Widen it.",
            ),
        ):
            if width <= 0:
                continue
            closed = self.shape.buffer(width / 2, join_style="mitre").buffer(
                -width / 2, join_style="mitre"
            )
            lost = closed.difference(self.shape.buffer(CHORD))
            worth = [g for g in getattr(lost, "geoms", [lost]) if g.area > width * width]
            if worth:
                p = max(worth, key=lambda g: g.area).representative_point()
                yield _warn(code, text.format(width), (p.x, p.y), level)
                return

    def corners(self) -> Iterator[Finding]:
        least = self.limits.corner_radius
        if least <= 0:
            return
        segments = self.blank.region.outer.segments
        sharp = [
            b.start
            for a, b in zip((segments[-1], *segments[:-1]), segments, strict=True)
            if a.is_line and b.is_line and _turns_left(a.heading(1), b.heading(0))
        ]
        if sharp:
            are = counted(len(sharp), "outside corner is", "outside corners are")
            yield _warn(
                "corner-sharp",
                f"{are} sharp, a radius of {least:g} mm is wanted. Round them in the slip.",
                sharp[0],
                Level.NOTE,
            )


def _turns_left(u: Point, v: Point) -> bool:
    return u[0] * v[1] - u[1] * v[0] > 0.05


def _names(bends: list[BlankBend]) -> str:
    numbers = [str(b.number) for b in bends]
    if len(numbers) == 1:
        return f"Bend {numbers[0]}"
    return f"Bends {', '.join(numbers[:-1])} and {numbers[-1]}"


def _middle(bend: BlankBend) -> Point:
    (x0, y0), (x1, y1) = bend.line
    return ((x0 + x1) / 2, (y0 + y1) / 2)


def _depth(panel: Polygon, bend: BlankBend) -> float:
    """Return how far a panel reaches from a bend line within the line's span, mm."""
    (x0, y0), (x1, y1) = bend.line
    n = bend.length
    ux, uy = (x1 - x0) / n, (y1 - y0) / n
    # The panel may be wider than its bend: what lies over the span counts, corner there or not.
    far = max(math.dist((x0, y0), p) for p in panel.exterior.coords)
    strip = Polygon(
        [
            (x0 + ux * a - uy * b, y0 + uy * a + ux * b)
            for a, b in ((0.0, -far), (n, -far), (n, far), (0.0, far))
        ]
    )
    over = panel.intersection(strip)
    points = shapely.get_coordinates(panel if over.is_empty else over)
    across = np.abs((points[:, 0] - x0) * uy - (points[:, 1] - y0) * ux)
    return float(across.max())


def _collisions(blank: Blank, part: FoldedPart) -> Iterator[Finding]:
    """Look for panels that run into each other when the part is folded."""
    t = part.thickness
    shapes = [_shape(p) for p in part.panels]
    beside = _neighbours(part)
    clouds = [_cloud(p, s, t) for p, s in zip(part.panels, shapes, strict=True)]
    for i, j in combinations(range(len(part.panels)), 2):
        if j in beside[i]:
            continue
        for one, two in ((i, j), (j, i)):
            frame = part.panels[two].frame
            turn = np.array([frame.x, frame.y, frame.z])
            local = (clouds[one] - np.array(frame.origin)) @ turn.T
            within = (local[:, 2] < -0.02 * t) & (local[:, 2] > -0.98 * t)
            hit = within & shapely.contains_xy(
                shapes[two].buffer(-0.02 * t), local[:, 0], local[:, 1]
            )
            if hit.any():
                at = next((p.at for p in blank.panels if p.number == one + 1), None)
                yield Finding(
                    level=Level.ERROR,
                    code="folded-collision",
                    text=f"Folded, panel {i + 1} and panel {j + 1} run into each other. Shorten "
                    "one, mitre the corner or change a bend.",
                    at=at,
                    panels=(i + 1, j + 1),
                )
                break


def _shape(panel: Panel) -> Polygon:
    runs = [[e.run[0].start, *(p for s in e.run for p in s.flattened(0.05))] for e in panel.edges]
    lines = [LineString(r) for r in runs if len(r) > 1]
    rings = shapely.get_parts(shapely.polygonize([shapely.node(shapely.union_all(lines))]))
    area = max(rings, key=lambda g: g.area, default=Polygon())
    # Where a panel touches itself in a point, rounding parts it there.
    parts = shapely.get_parts(shapely.set_precision(area, AREA))
    return max(parts, key=lambda g: g.area, default=Polygon())


def _cloud(panel: Panel, shape: Polygon, t: float) -> np.ndarray:
    """Return points in the middle of the sheet over a panel and along its edges, (n, 3) mm."""
    x0, y0, x1, y1 = shape.bounds if not shape.is_empty else (0, 0, 0, 0)
    step = max(t, math.sqrt(max(shape.area, t * t) / 400))
    grid = np.array(
        [(x, y) for x in np.arange(x0, x1, step) for y in np.arange(y0, y1, step)]
    ).reshape(-1, 2)
    inner = grid[shapely.contains_xy(shape, grid[:, 0], grid[:, 1])] if len(grid) else grid
    rim = np.array(shapely.segmentize(shape.exterior, step).coords) if not shape.is_empty else grid
    flat = np.vstack([inner, rim])
    frame = panel.frame
    turn = np.array([frame.x, frame.y, frame.z])
    local = np.column_stack([flat, np.full(len(flat), -t / 2)])
    points: np.ndarray = local @ turn + np.array(frame.origin)
    return points


def _neighbours(part: FoldedPart) -> list[set[int]]:
    """Return for each panel those it shares a bend, or a run of bends, with."""
    first = len(part.panels)
    touching: list[set[int]] = [set() for _ in part.pieces]
    for pieces in part.meetings.values():
        for i, _ in pieces:
            touching[i] |= {j for j, _ in pieces if j != i}
    out = []
    for i in range(first):
        reached = set(touching[i])
        for b in list(reached):
            reached |= touching[b]
        out.append({j for j in reached if j < first})
    return out
