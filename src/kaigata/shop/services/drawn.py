"""Drawn flats: what people give of them, and the folded part that makes."""

from __future__ import annotations

import math
from typing import Any

from pydantic import TypeAdapter

from kaigata.core.errors import InputError
from kaigata.core.intake.drawing import BendGiven, DrawnFlat, folded_drawn, matched_lines
from kaigata.core.metal.charts import BendChart
from kaigata.core.part import FoldedPart
from kaigata.shop.models import Part
from kaigata.shop.services.charts import chart_of_gauge

__all__ = [
    "DRAWN",
    "FOLDED",
    "complete_given",
    "folded_of",
    "give",
    "given_anew",
    "missing",
    "refold",
]

FOLDED = TypeAdapter(FoldedPart)
DRAWN = TypeAdapter(DrawnFlat)


def folded_of(part: Part) -> FoldedPart:
    """Return the folded part that was read, or that a drawn flat and what is given of it make.

    Raises
    ------
    InputError
        The part is not ready.
    """
    if part.state != Part.State.READY:
        raise InputError(
            f"the part is {part.state}", where=part.name, fix=part.fix or "Wait until it is read"
        )
    folded: FoldedPart = FOLDED.validate_python(part.folded)
    return folded


def missing(part: Part) -> list[str]:
    """Return in words what a drawn part still needs before it can be unfolded."""
    out = []
    if not part.given.get("unit"):
        out.append("its unit")
    if not part.given.get("thickness"):
        out.append("its thickness")
    return out


def give(part: Part, values: dict[str, Any]) -> None:
    """Keep what is given of a drawn part, and make its folded part once that is enough.

    ``values`` has ``unit`` (mm a unit), ``thickness`` (mm) and ``bends``: for each bend line its
    ``angle`` in degrees, ``radius`` in mm (None: the thickness) and ``up``.

    Raises
    ------
    InputError
        The bends do not fit into the flat; nothing is kept then.
    """
    given = {**part.given, **values}
    part.given = given
    if given.get("unit") and not given.get("read_with_unit"):
        # Until it is read again its lengths are in no known unit: nothing may be folded of them.
        _read_again(part)
        return
    if missing(part):
        part.state = Part.State.ASKING
        part.what = f"the drawing does not say {' nor '.join(missing(part))}"
        part.fix = "Give it in the slip"
        part.save()
        return
    part.thickness = float(given["thickness"])
    refold(part, chart_of_gauge(part.line.material, part.thickness))
    part.state, part.what, part.fix = Part.State.READY, "", ""
    part.save()


def refold(part: Part, chart: BendChart) -> FoldedPart:
    """Fold a drawn part anew with a chart and keep it: its flat stays, its folded sizes follow.

    Raises
    ------
    InputError
        The bends do not fit into the flat.
    """
    flat: DrawnFlat = DRAWN.validate_python(part.drawn)
    thickness = float(part.given["thickness"])
    bends = []
    for row in complete_given(flat, part.given):
        angle, radius = math.radians(row["angle"]), row["radius"]
        take = chart.take(angle, thickness if radius is None else radius)
        bends.append(BendGiven(angle=angle, is_up=row["up"], take=take))
    folded = folded_drawn(flat, bends, thickness=thickness)
    part.folded = FOLDED.dump_python(folded, mode="json")
    part.save(update_fields=["folded"])
    return folded


def _read_again(part: Part) -> None:
    """Read the drawing again now that its unit is known: what belongs together is told in mm."""
    from kaigata.shop.tasks import read_part_task

    part.state = Part.State.READING
    part.save()
    read_part_task.defer(part_id=part.pk, file_name=part.source.name)


def given_anew(part: Part, flat: DrawnFlat) -> list[dict[str, Any] | None]:
    """Return what was given of a part's bends for the bend lines of a newer drawing of it.

    A line that was not there before has None.
    """
    if part.drawn is None:
        return []
    rows = dict(enumerate(part.given.get("bends") or []))
    before = {
        now: was for was, now in matched_lines(DRAWN.validate_python(part.drawn), flat).items()
    }
    return [rows.get(before.get(i, -1)) for i in range(len(flat.bends))]


def complete_given(flat: DrawnFlat, given: dict[str, Any]) -> list[dict[str, Any]]:
    """Return a row for each bend line.

    What is not given is taken as 90 degrees up, and the radius is None: as the sheet is thick.
    """
    rows = given.get("bends") or []
    out = []
    for i, bend in enumerate(flat.bends):
        own = (rows[i] if i < len(rows) else None) or {}
        out.append(
            {
                "angle": own.get("angle", 90.0),
                "radius": own.get("radius"),
                "up": own.get("up", bend.is_up is not False),
            }
        )
    return out
