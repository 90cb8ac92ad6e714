"""Assemblies: the parts of an order that came in one file, drawn together with a list of them."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np
from django.db import transaction
from django.db.models import QuerySet
from django.utils import timezone

from kaigata.core.errors import InputError, KaigataError
from kaigata.core.formats.drawing_files import SHEETS, checked_assembly
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.markup import (
    AssemblyDrawing,
    Component,
    Title,
    meshed_bodies,
    placed_bodies,
)
from kaigata.core.part import Frame
from kaigata.shop.models import AssemblyRun, Order, OrderLine, Part, SourceFile
from kaigata.shop.services.blanks import document_of, mass_of
from kaigata.shop.services.digests import changes, digest
from kaigata.shop.services.drawings import UNITS, lettering, mass_text
from kaigata.shop.services.drawn import folded_of

__all__ = [
    "assemblies_of",
    "assembly_file",
    "assembly_inputs",
    "assembly_name",
    "assembly_pdf",
    "assembly_runs",
    "draw_order_assembly",
    "places_record",
    "start_drawing",
]

_MADE_BY = "1"
"""Raised when assemblies come to be drawn otherwise, so that none drawn before is shown as new."""
_STEM = 60
"""Letters of a file's name that stand in a title block."""


def places_record(places: Sequence[Frame]) -> list[list[list[float]]]:
    """Return where a part lies in its file as its record keeps that."""
    return [[list(v) for v in (f.origin, f.x, f.y, f.z)] for f in places]


def _places(part: Part) -> list[Frame]:
    return [Frame(*(tuple(v) for v in row)) for row in part.places]


def assemblies_of(order: Order) -> list[OrderLine]:
    """Return of each file that holds several parts, or one several times, a line that it gave."""
    first: dict[str, OrderLine] = {}
    for line in order.lines.light():
        first.setdefault(line.part.came_in, line)
    return [line for line in first.values() if _is_assembly(_mates(line))]


def _mates(line: OrderLine) -> list[OrderLine]:
    """Return the lines that came in one file, a part that was revised alone since among them."""
    if not line.part.came_in:
        return []
    # What is large is only loaded of a part that is drawn.
    return list(line.order.lines.filter(part__came_in=line.part.came_in).light())


def _is_assembly(lines: Sequence[OrderLine]) -> bool:
    is_known = any(line.part.places for line in lines)
    return is_known and sum(_count(line) for line in lines) > 1


def _count(line: OrderLine) -> int:
    """Return how many of a part are in one assembly."""
    return len(line.part.places) or line.per_set


def assembly_file(came_in: str) -> str:
    """Return the name of the file that an assembly came in, known by its hash."""
    return SourceFile.objects.values_list("name", flat=True).get(pk=came_in)


def assembly_name(came_in: str) -> str:
    """Return what the assembly that came in a file is called: as that, without its kind."""
    return Path(assembly_file(came_in)).stem[:_STEM]


def assembly_runs(line: OrderLine, settings: dict[str, str]) -> QuerySet[AssemblyRun]:
    """Return the runs that draw the assembly a line came in by some settings, newest first."""
    runs = AssemblyRun.objects.filter(order=line.order, settings=settings)
    return runs.filter(came_in=line.part.came_in)


def assembly_inputs(line: OrderLine) -> dict[str, str]:
    """Return what the drawing of the assembly that a line came in rests on."""
    order, mates = line.order, _mates(line)
    of_parts: dict[str, list[object]] = {}
    for mate in mates:
        blank = mate.part.blank.digest if _is_ready(mate) else ""
        gauge = mate.material.name if mate.material else ""
        of_parts.setdefault(mate.part.name, []).append(
            [mate.part.state, mate.part.revision, mate.part.places, _count(mate), gauge, blank]
        )
    sets = [mate.quantity // max(1, mate.per_set) for mate in mates]
    return {
        **{name: digest(parts) for name, parts in of_parts.items()},
        "order": digest([order.number, order.title, min(sets, default=0)]),
        "lettering of drawings": digest(lettering().model_dump(mode="json")),
        "way of drawing": _MADE_BY,
    }


@transaction.atomic
def start_drawing(line: OrderLine, settings: dict[str, str]) -> AssemblyRun:
    """Queue the drawing of the assembly that a line came in, unless it is drawn or waits already.

    Raises
    ------
    InputError
        Its file holds one part once, or it was read before it was kept where parts lie.
    """
    from kaigata.shop.tasks import draw_assembly_task

    _require_assembly(line, _mates(line))
    newest, inputs = assembly_runs(line, settings).first(), assembly_inputs(line)
    # One that waits or is at work may have begun before the last change.
    if newest and newest.state != AssemblyRun.State.FAILED and not changes(newest.inputs, inputs):
        return newest
    run = AssemblyRun.objects.create(
        order=line.order, came_in=line.part.came_in, settings=settings, inputs=inputs
    )
    draw_assembly_task.defer(run_id=run.pk)
    return run


def draw_order_assembly(run_id: int) -> None:
    """Draw an assembly and keep its sheets in place of those of before; the work of a worker."""
    runs = AssemblyRun.objects.filter(pk=run_id)
    run = runs.select_related("order").first()
    if run is None or not run.is_open:
        return
    runs.update(state=AssemblyRun.State.RUNNING, started=timezone.now(), attempts=run.attempts + 1)
    line = run.order.lines.filter(part__came_in=run.came_in).first()
    try:
        if line is None:
            raise InputError("its parts were taken out of the order", fix="Bring its file in again")
        drawing = _drawing(line, **run.settings)
    except KaigataError as error:
        runs.update(
            state=AssemblyRun.State.FAILED, what=error.what, where=error.where, fix=error.fix
        )
        return
    sheets = [{kind: write(page) for kind, write in SHEETS.items()} for page in drawing.pages]
    sizes = [(page.width, page.height) for page in drawing.pages]
    pdf = pages_pdf(drawing.pages, title=assembly_name(line.part.came_in))
    with transaction.atomic():
        runs.update(state=AssemblyRun.State.DONE, progress=1.0, sheets=sheets, sizes=sizes, pdf=pdf)
        assembly_runs(line, run.settings).filter(pk__lt=run_id).delete()


def assembly_pdf(line: OrderLine) -> bytes:
    """Return the drawing of the assembly that a line came in as PDF.

    Raises
    ------
    InputError
        It is no assembly.
    LimitError
        There is more than can be drawn.
    KaigataError
        What was drawn is not what the parts are.
    """
    return pages_pdf(_drawing(line).pages, title=assembly_name(line.part.came_in))


def _drawing(line: OrderLine, *, paper: str = "", units: str = "mm") -> AssemblyDrawing:
    lines = _mates(line)
    _require_assembly(line, lines)
    return checked_assembly(
        [_component(mate) for mate in lines],
        _title(lines, units),
        unit=UNITS[units],
        paper=paper,
        lettering=lettering(),
    )


def _require_assembly(line: OrderLine, mates: Sequence[OrderLine]) -> None:
    if not _is_assembly(mates):
        raise InputError(
            "it is no assembly: the file holds one part once, or is not known in space",
            where=line.part.source.name,
            fix="Bring in a STEP file of the assembly, or bring this one in again",
        )


def _component(line: OrderLine) -> Component:
    part, places = line.part, _places(line.part)
    if part.state != Part.State.READY:
        shell = part.shell or []
        triangles = np.array(shell, dtype=float).reshape(-1, 3, 3)
        bodies = meshed_bodies(triangles, places) if len(triangles) else ()
        return Component(name=part.name, quantity=_count(line), bodies=bodies)
    folded, document = folded_of(part), document_of(part.blank)
    return Component(
        name=part.name,
        quantity=_count(line),
        material=line.material.name if line.material else "",
        thickness=folded.thickness,
        size=(document.width, document.height),
        bodies=placed_bodies(folded, places),
    )


def _title(lines: Sequence[OrderLine], units: str) -> Title:
    order = lines[0].order
    masses = [mass_of(line.part.blank) if _is_ready(line) else None for line in lines]
    known = [m * _count(line) for m, line in zip(masses, lines, strict=True) if m]
    return Title(
        part=assembly_name(lines[0].part.came_in),
        order=f"{order.number} {order.title}".strip(),
        quantity=max(1, min(line.quantity // max(1, line.per_set) for line in lines)),
        source=assembly_file(lines[0].part.came_in),
        mass=mass_text(sum(known), units) if len(known) == len(lines) else "",
    )


def _is_ready(line: OrderLine) -> bool:
    return line.part.state == Part.State.READY
