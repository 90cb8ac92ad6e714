"""What there is to say of a path: no room for leads, parts too close, webs that are lost."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence

import shapely
from shapely.geometry import Point as ShapelyPoint
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry
from shapely.strtree import STRtree

from kaigata.core.cut.joints import joints_wanted
from kaigata.core.cut.lead import Lead
from kaigata.core.cut.passes import CutRules, Gap, Pass, line_of
from kaigata.core.cut.shared import sharing
from kaigata.core.findings import Finding, Level, counted
from kaigata.core.nest import Placement
from kaigata.core.plane import Point
from kaigata.core.plane.tolerance import SAME

__all__ = [
    "UNDER_KERF",
    "crowding",
    "cut_twice",
    "few_joints",
    "hole_marked",
    "lost_webs",
    "tight_lead",
]

UNDER_KERF = frozenset({"spacing-under-kerf", "margin-under-kerf"})
"""Codes of the findings that parts lie where no path can cut them."""


def tight_lead(name: str, lead: Lead, rules: CutRules, *, is_by_hand: bool) -> Iterator[Finding]:
    """Yield what there is to say of a contour without room for its lead.

    ``is_by_hand`` says that a hand has put its pierce there.
    """
    x, y = lead.pierce
    if lead.lead is None and rules.lead_kind != "none":
        fix = (
            "Move its pierce to where there is room."
            if is_by_hand
            else "Widen the spacing or shorten the lead."
        )
        yield Finding(
            level=Level.WARNING,
            code="no-lead",
            text=f"{name}: there is no scrap for a lead-in, so the beam pierces on the contour at "
            f"{x:.1f}, {y:.1f}. {fix}",
            at=lead.pierce,
        )
    elif lead.lead is not None and lead.is_short:
        yield Finding(
            level=Level.NOTE,
            code="short-lead",
            text=f"{name}: the lead-in is {lead.lead.length:.1f} mm instead of "
            f"{rules.lead_in:g} at {x:.1f}, {y:.1f}: scrap is tight there.",
            at=lead.pierce,
        )


def hole_marked(name: str, at: Point, width: float) -> Finding:
    """Return that a hole is only marked; ``width`` is its smaller side, mm."""
    return Finding(
        level=Level.NOTE,
        code="hole-marked",
        text=f"{name}: {width:.2f} mm is under the chart's smallest hole, so its middle is marked "
        f"at {at[0]:.1f}, {at[1]:.1f} and not cut. Drill it.",
        at=at,
    )


def few_joints(passes: Sequence[Pass], rules: CutRules) -> Iterator[Finding]:
    """Yield a finding for each part of which copies hold by fewer micro-joints than asked for.

    A joint in a common cut holds the parts on both sides.
    """
    joints = [(i, _middle(p, g)) for i, p in enumerate(passes) for g in p.gaps if g.kind == "joint"]
    own = Counter(i for i, _ in joints)
    tree = STRtree([at for _, at in joints])
    short: dict[str, list[tuple[int, Pass]]] = {}
    for i, wanted in enumerate(passes):
        if wanted.name != "outer" or not joints_wanted(wanted.path, rules):
            continue
        shared = [line_of(wanted.left_out(g)) for g in wanted.gaps if g.kind == "shared"]
        held = {int(k) for k in tree.query(shared, "dwithin", SAME)[1]} if shared else set()
        count = len(held) + own[i]
        if count < joints_wanted(wanted.path, rules):
            short.setdefault(wanted.part, []).append((count, wanted))
    for part, found in short.items():
        count, wanted = min(found, key=lambda f: f[0])
        others = counted(len(found) - 1, "other copy", "other copies")
        more = f", and {others} by too few" if len(found) > 1 else ""
        yield Finding(
            level=Level.NOTE if count else Level.WARNING,
            code="few-joints",
            text=f"{part} copy {wanted.copy}, outer, holds by {count} of "
            f"{counted(joints_wanted(wanted.path, rules), 'micro-joint')}{more}: "
            "its own edges have room for no more where metal stays beyond the kerf. Widen the "
            "spacing, make them narrower, let them lie on arcs, or cut no edges in common.",
            at=wanted.nominal.vertices[0][:2],
        )


def _middle(wanted: Pass, gap: Gap) -> ShapelyPoint:
    return line_of(wanted.left_out(gap)).interpolate(0.5, normalized=True)


def lost_webs(
    placements: Sequence[Placement], materials: Sequence[Polygon], kerf: float
) -> Iterator[Finding]:
    """Yield a finding where two kerfs meet, so that no web of skeleton stands between parts."""
    pairs = _near_pairs(materials, 2 * kerf)
    if not pairs:
        return
    i, j = pairs[0]
    (x, y), (u, v) = shapely.shortest_line(materials[i], materials[j]).coords
    at = ((x + u) / 2, (y + v) / 2)
    others = counted(len(pairs) - 1, "other pair")
    more = f", and so between {others} of parts" if len(pairs) > 1 else ""
    yield Finding(
        level=Level.NOTE,
        code="web-vanishes",
        text=f"Between {_said(placements[i])} and {_said(placements[j])} the two kerfs of {kerf:g} "
        f"mm meet at {at[0]:.1f}, {at[1]:.1f}{more}: no skeleton stands there. Widen the spacing "
        "to two kerfs and more if it has to.",
        at=at,
    )


def cut_twice(passes: Sequence[Pass]) -> Iterator[Finding]:
    """Yield a finding where edges lie just the kerf apart and are not cut in common."""
    twice = [(p.left_out(g), g) for p in sharing(passes) for g in p.gaps if g.kind == "shared"]
    if twice:
        length = math.fsum(s.length for segments, _ in twice for s in segments)
        yield Finding(
            level=Level.WARNING,
            code="cut-twice",
            text=f"{length:.0f} mm of edges lie just the kerf apart and are cut twice, the second "
            "time along a kerf that is open. Cut edges a kerf apart once, or widen the spacing.",
            at=twice[0][1].at,
        )


def crowding(
    placements: Sequence[Placement], materials: Sequence[Polygon], edge: Polygon, kerf: float
) -> Iterator[Finding]:
    """Yield a finding for parts closer than the kerf to each other or to the sheet's edge."""
    for i, j in _near_pairs(materials, kerf):
        yield _too_near(
            "spacing", f"{_said(placements[i])} and {_said(placements[j])} lie",
            "apart", "cutting one cuts into the other", materials[i], materials[j], kerf,
        )  # fmt: skip
    inner = edge.buffer(SAME - kerf, join_style="mitre")
    shapely.prepare(inner)
    for placement, material in zip(placements, materials, strict=True):
        if not inner.covers(material):
            yield _too_near(
                "margin", f"{_said(placement)} lies", "from the sheet's edge",
                "the cut leaves the sheet", material, edge.exterior, kerf,
            )  # fmt: skip


def _too_near(
    least: str, who: str, how: str, then: str, one: BaseGeometry, other: BaseGeometry, kerf: float
) -> Finding:
    gap = float(shapely.distance(one, other))
    x, y = shapely.shortest_line(one, other).coords[0]
    return Finding(
        level=Level.ERROR,
        code=f"{least}-under-kerf",
        text=f"{who} {gap:.2f} mm {how}, the kerf is {kerf:g}: {then}. Nest again with a {least} "
        "wider than the kerf.",
        at=(x, y),
    )


def _near_pairs(materials: Sequence[Polygon], distance: float) -> list[tuple[int, int]]:
    """Return each pair of parts that lie nearer to each other than a distance."""
    near = STRtree(materials).query(materials, predicate="dwithin", distance=distance - SAME)
    return [(int(i), int(j)) for i, j in near.T if i < j]


def _said(placement: Placement) -> str:
    return f"{placement.part} copy {placement.copy}"
