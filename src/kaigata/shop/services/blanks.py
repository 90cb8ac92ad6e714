"""Unfolding a part with the shop's bend chart and keeping its blank."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from itertools import zip_longest
from typing import Any

from django.db import transaction
from pydantic import TypeAdapter

from kaigata.core.blank import Blank as FlatBlank
from kaigata.core.blank import FaceUp, unfold
from kaigata.core.blank.carry import carried_points, carried_sequence, motion_between
from kaigata.core.blank.corners import CornerRule, with_corners
from kaigata.core.blank.drawn import missing_bend_data
from kaigata.core.blank.flat_cutouts import FlatCutout, moved_cutout, with_cutouts
from kaigata.core.blank.judge import judged
from kaigata.core.blank.mesh import MeshPiece, fold_mesh
from kaigata.core.errors import InputError
from kaigata.core.findings import Finding, Level
from kaigata.core.formats.blank_files import blank_document, moved_outlines
from kaigata.core.formats.documents import BendLineMarks, BlankDocument
from kaigata.core.metal.charts import BendChart, BendTake, constant_chart, own_take
from kaigata.core.part import FoldedPart
from kaigata.core.part.matching import Matches, matched
from kaigata.core.plane import Motion
from kaigata.core.plane.corners import sharp_corners
from kaigata.shop.models import Blank, Material, Part
from kaigata.shop.services.charts import chart_of_gauge, chart_of_record, limits, record_of
from kaigata.shop.services.chosen_sizes import carried_sizes, places_of, unshifted
from kaigata.shop.services.conflicts import ChangedMeanwhile
from kaigata.shop.services.digests import digest
from kaigata.shop.services.drawn import DRAWN, folded_of, refold

__all__ = [
    "ACROSS",
    "BlankChange",
    "change_blank",
    "chart_has_moved",
    "document_of",
    "face_up_of",
    "flat_of",
    "mass_of",
    "mesh_maker",
    "mesh_of",
    "state_of",
    "unfold_part",
]


_RULES = TypeAdapter(list[CornerRule])
_CUTOUTS = TypeAdapter(list[FlatCutout])

ACROSS = {"along": "across", "across": "along"}
"""What the grain is called when the blank is laid a quarter turn on: the part's own grain stays."""


@dataclass(frozen=True, slots=True, kw_only=True)
class BlankChange:
    """What to change about how a part is unfolded; None leaves a thing as it is.

    ``bend`` names a bend by its number in the table; ``bend_radius`` and ``bend_k`` are its own,
    ``clear_bend`` takes the chart's again. ``take_chart`` takes the chart as it is now.
    ``flat_cutouts`` have their places on the blank as it lies.
    """

    own_k: float | None = None
    clear_own_k: bool = False
    anchor: int | None = None
    is_turned_over: bool | None = None
    turn: float | None = None
    grain: str | None = None
    sequence: list[int] | None = None
    take_chart: bool = False
    bend: int | None = None
    bend_radius: float | None = None
    bend_k: float | None = None
    clear_bend: bool = False
    corners: list[dict[str, Any]] | None = None
    line_marks: dict[str, Any] | None = None
    flat_cutouts: list[dict[str, Any]] | None = None


@transaction.atomic
def unfold_part(
    part: Part, change: BlankChange | None = None, *, was: FoldedPart | None = None
) -> Blank:
    """Unfold a part with its chart and keep the blank.

    After a revision ``was`` is the part before it: the blank lies as it lay, and what was settled
    for panels and bends that are still there stays settled.

    Raises
    ------
    InputError
        Something asked for is unusable; nothing is changed then.
    """
    change = change or BlankChange()
    kept = Blank.objects.select_for_update().filter(part=part).first() or Blank(part=part)
    folded = folded_of(part)
    shown = flat_of(kept, was or folded) if kept.document else None
    same = matched(was, folded) if was else Matches.all_of(folded)
    _apply(kept, part, change)
    if part.drawn is not None:
        folded = refold(part, _chart(kept, folded))
    if change.bend is not None:
        _apply_to_bend(kept, folded, change)
    if was and shown:
        _lay_as_before(kept, shown, folded, same)
    flat = flat_of(kept, folded)
    to_flat = motion_between(shown, flat, same) if shown else None
    if shown:
        kept.corners = [
            {**rule, "chosen": carried_points(rule.get("chosen", []), shown, flat, same)}
            for rule in kept.corners
        ]
    if shown and to_flat:
        kept.flat_cutouts = _carried_cutouts(kept, to_flat, shown, flat, same)
    if to_flat and abs(to_flat.sin) > abs(to_flat.cos):
        kept.grain = ACROSS.get(kept.grain, kept.grain)
    kept.sequence = _sequence(flat, kept, same)
    shift_before, places = kept.shift, places_of(kept) if shown else []
    bare, flat = flat, _finished(flat, kept, part, folded)
    if shown and to_flat and places:
        kept.markup["sizes"] = carried_sizes(
            kept, places, unshifted(flat, kept), shown, bare, same, to_flat,
            is_revised=was is not None,
        )  # fmt: skip
    if change.flat_cutouts is not None:
        _require_cut(flat)
    if to_flat and kept.previous:
        _carry_previous(kept, shift_before, to_flat)
    turn_of = {n: i for i, n in enumerate(kept.sequence, start=1)}
    flat = replace(flat, bends=tuple(replace(b, sequence=turn_of[b.number]) for b in flat.bends))
    material: Material | None = part.line.material
    document = blank_document(
        flat,
        quantity=part.line.quantity,
        material=material.name if material else None,
        line_marks=BendLineMarks.model_validate(kept.line_marks),
    )
    kept.document = document.model_dump(mode="json")
    rests_on = ("outer", "holes", "bends", "thickness", "material", "bend_line_marks")
    kept.digest = digest({**{n: kept.document[n] for n in rests_on}, "grain": kept.grain})
    kept.save()
    return kept


def _carried_cutouts(
    kept: Blank, to_flat: Motion, shown: FlatBlank, flat: FlatBlank, same: Matches
) -> list[dict[str, Any]]:
    """Return the cutouts of the flat where they lie now: each goes along with its panel."""
    cutouts = _CUTOUTS.validate_python(kept.flat_cutouts)
    places = carried_points([c.at for c in cutouts], shown, flat, same)
    moved = [moved_cutout(c, at, to_flat) for c, at in zip(cutouts, places, strict=True)]
    return list(_CUTOUTS.dump_python(moved, mode="json"))


def _require_cut(flat: FlatBlank) -> None:
    lost = next((f for f in flat.findings if f.code == "flat-cutout-lost"), None)
    if lost is not None:
        what, _, fix = lost.text.partition(". ")
        raise InputError(what, where=flat.name, fix=fix.removesuffix("."))


def _lay_as_before(kept: Blank, shown: FlatBlank, folded: FoldedPart, same: Matches) -> None:
    """Settle for a revised part what was settled for it before: anchor, side, turn, own bends."""
    kept.bend_rules = {
        str(same.bends[int(place)]): rule
        for place, rule in kept.bend_rules.items()
        if int(place) in same.bends
    }
    moved = kept.markup.get("moved", {})
    kept.markup = {
        **kept.markup,
        "moved": {
            str(same.bends[int(place)]): note
            for place, note in moved.items()
            if int(place) in same.bends
        },
    }
    anchor = same.panels.get(kept.anchor - 1)
    kept.anchor = anchor.place + 1 if anchor else 1
    if any(match.motion.mirrored for match in same.panels.values()):
        kept.is_turned_over = not kept.is_turned_over
    laid = motion_between(shown, flat_of(kept, folded), same)
    if laid:
        kept.turn = round(kept.turn - math.degrees(math.atan2(laid.sin, laid.cos)), 6) % 360


def _carry_previous(kept: Blank, shift_before: list[float], to_flat: Motion) -> None:
    """Lay the revision before on the blank as it lies now, both shifted to 0,0 by their corners."""
    (bx, by), (x, y) = shift_before or (0.0, 0.0), kept.shift
    before = BlankDocument.model_validate(kept.previous)
    moved = moved_outlines(before, Motion(x=-bx, y=-by).then(to_flat).then(Motion(x=x, y=y)))
    kept.previous = moved.model_dump(mode="json")


def flat_of(kept: Blank, folded: FoldedPart) -> FlatBlank:
    """Return the flat as a part is unfolded now, before its corners are treated."""
    return unfold(
        folded,
        takes=takes_of(kept, folded),
        anchor=kept.anchor,
        face_up=face_up_of(kept),
        turn=math.radians(kept.turn),
    )


def _finished(flat: FlatBlank, kept: Blank, part: Part, folded: FoldedPart) -> FlatBlank:
    """Return a flat with its name, its corners treated and its findings."""
    flat = replace(flat, name=part.name, findings=(*flat.findings, *_read_findings(part)))
    flat = with_cutouts(flat, _CUTOUTS.validate_python(kept.flat_cutouts))
    kept.sharp_corners = sharp_corners(flat.region)
    flat = with_corners(flat, _RULES.validate_python(kept.corners))
    x0, y0, _, _ = flat.region.outer.bounds
    kept.shift = [-x0, -y0]
    flat = flat.moved(Motion(x=-x0, y=-y0))
    return replace(
        flat, findings=judged(flat, limits(part.line.material, folded.thickness), part=folded)
    )


def takes_of(kept: Blank, folded: FoldedPart) -> tuple[BendTake, ...]:
    """Return what each bend takes: by its own rule, the part's own K, or the kept chart."""
    chart = _chart(kept, folded)
    out = []
    for i, bend in enumerate(folded.bends):
        rule = kept.bend_rules.get(str(i))
        take = chart.take(bend.angle, bend.inside_radius)
        if rule:
            radius, k = rule.get("radius"), rule.get("k")
            take = own_take(
                bend.angle,
                modelled_radius=bend.inside_radius,
                inside_radius=bend.inside_radius if radius is None else radius,
                k=take.k if k is None else k,
                thickness=folded.thickness,
            )
        out.append(take)
    return tuple(out)


def _chart(kept: Blank, folded: FoldedPart) -> BendChart:
    if kept.own_k is not None:
        return constant_chart(kept.own_k, folded.thickness, name="this part")
    return chart_of_record(kept.chart)


def chart_has_moved(blank: Blank) -> bool:
    """Return whether the shop's chart is another one than the part was unfolded with."""
    part = blank.part
    now = record_of(chart_of_gauge(part.line.material, part.thickness or 0.0))
    return blank.own_k is None and digest(now) != digest(blank.chart)


def _read_findings(part: Part) -> list[Finding]:
    kept = part.given.get("findings", [])
    found = [Finding(level=Level(f["level"]), code=f["code"], text=f["text"]) for f in kept]
    if part.drawn is not None:
        bends = DRAWN.validate_python(part.drawn).bends
        rows = part.given.get("bends") or []
        untold = [b.is_up for b, row in zip_longest(bends, rows[: len(bends)]) if not row]
        found += missing_bend_data(len(untold), untold.count(None), of=len(bends))
    return found


def _apply(blank: Blank, part: Part, change: BlankChange) -> None:
    if change.clear_own_k:
        blank.own_k = None
    for name in ("own_k", "anchor", "is_turned_over", "sequence", "corners", "line_marks", "grain"):
        value = getattr(change, name)
        if value is not None:
            setattr(blank, name, value)
    if change.flat_cutouts is not None:
        x, y = blank.shift or (0.0, 0.0)
        blank.flat_cutouts = [
            {**c, "at": [c["at"][0] - x, c["at"][1] - y]} for c in change.flat_cutouts
        ]
    if change.turn is not None:
        blank.turn = change.turn % 360
    material, thickness = part.line.material, part.thickness or 0.0
    now = record_of(chart_of_gauge(material, thickness))
    # A part whose gauge is another now takes that gauge's chart; a chart that was only edited
    # waits until it is asked for.
    if not blank.chart or change.take_chart or blank.chart["name"] != now["name"]:
        blank.chart = now


def _apply_to_bend(blank: Blank, folded: FoldedPart, change: BlankChange) -> None:
    if blank.part.drawn is not None:
        raise InputError(
            "the bends of a drawn flat are given at the part",
            where=folded.name,
            fix="Give angle, radius and direction at station 1",
        )
    rows = BlankDocument.model_validate(blank.document).bends
    row = next((b for b in rows if b.id == change.bend), None)
    if row is None:
        raise InputError(
            f"there is no bend {change.bend}; the part has {len(rows)}",
            where=folded.name,
            fix="Name a bend by its number in the table",
        )
    key = str(row.place)
    rules = dict(blank.bend_rules)
    if change.clear_bend:
        rules.pop(key, None)
    else:
        rule = {"radius": change.bend_radius, "k": change.bend_k}
        rules[key] = {**rules.get(key, {}), **{n: v for n, v in rule.items() if v is not None}}
    blank.bend_rules = rules


def face_up_of(blank: Blank) -> FaceUp:
    """Return which side of a part lies up."""
    return FaceUp.OTHER if blank.is_turned_over else FaceUp.AS_MODELLED


def _sequence(flat: FlatBlank, kept: Blank, same: Matches) -> list[int]:
    """Return the wanted sequence, given by the numbers of the blank that was shown."""
    numbers = [b.number for b in flat.bends]
    if not kept.document:
        return kept.sequence if sorted(kept.sequence) == numbers else numbers
    shown = BlankDocument.model_validate(kept.document).bends
    return carried_sequence(kept.sequence, {row.id: row.place for row in shown}, flat, same)


def state_of(blank: Blank) -> str:
    """Return a digest of how a blank lies and what is chosen for it.

    A change names bends and corners by how the blank lies and takes the place of what was chosen,
    so it is right only for the state that it was made on.
    """
    rows = BlankDocument.model_validate(blank.document).bends
    # Corners go along when a blank is turned, and come back with other last digits.
    corners = [
        {**rule, "chosen": [[round(c, 3) for c in point] for point in rule.get("chosen", [])]}
        for rule in blank.corners
    ]
    return digest(
        {
            "bends": sorted((b.id, b.place, b.sequence) for b in rows),
            "lies": (blank.anchor, blank.is_turned_over, blank.turn),
            "chosen": (blank.own_k, blank.bend_rules, corners, blank.line_marks, blank.grain),
            "cut": [
                {n: [round(c, 3) for c in v] if n == "at" else v for n, v in cutout.items()}
                for cutout in blank.flat_cutouts
            ],
        }
    )


@transaction.atomic
def change_blank(part: Part, change: BlankChange, *, seen: str) -> Blank:
    """Change how a part is unfolded; ``seen`` is the state of the blank that the change is made on.

    Raises
    ------
    InputError
        The panel, K, bend or sequence is unusable; nothing is changed then.
    ChangedMeanwhile
        The blank is no longer as it was seen.
    """
    if seen != state_of(Blank.objects.select_for_update().get(part=part)):
        raise ChangedMeanwhile(
            f"the blank of {part.name} was changed meanwhile by somebody else or in another window",
            where=part.name,
            fix="Look at it as it is now, and change it again where that is still right",
        )
    if change.sequence is not None:
        bends = len(folded_of(part).bends)
        if sorted(change.sequence) != list(range(1, bends + 1)):
            raise InputError(
                f"the sequence {change.sequence} is not each of the {bends} bends once",
                where=part.name,
                fix="Name every bend once",
            )
    return unfold_part(part, change)


def document_of(blank: Blank) -> BlankDocument:
    """Return a blank's document as it is now called and counted."""
    document: BlankDocument = BlankDocument.model_validate(blank.document)
    line = blank.part.line
    return document.model_copy(update={"part": blank.part.name, "quantity": line.quantity})


def mass_of(blank: Blank) -> float | None:
    """Return the mass of one piece in kg, None where its material is not known."""
    material, document = blank.part.line.material, document_of(blank)
    if not (material and material.density and document.thickness):
        return None
    mass: float = document.area * document.thickness * material.density / 1e9
    return mass


def mesh_of(blank: Blank) -> list[MeshPiece]:
    """Return the triangles a folded view turns."""
    return mesh_maker(blank)()


def mesh_maker(blank: Blank) -> Callable[[], list[MeshPiece]]:
    """Return what makes these triangles, perhaps in another process."""
    folded = folded_of(blank.part)
    return partial(
        fold_mesh,
        folded,
        takes=takes_of(blank, folded),
        anchor=blank.anchor,
        face_up=face_up_of(blank),
        turn=math.radians(blank.turn),
    )
