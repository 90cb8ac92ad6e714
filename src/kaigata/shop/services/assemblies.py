"""Assemblies: the parts of an order that came in one file, drawn together with a list of them."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

import numpy as np

from kaigata.core.errors import InputError
from kaigata.core.formats.drawing_files import checked_assembly
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.markup import (
    AssemblyDrawing,
    Component,
    Title,
    meshed_bodies,
    placed_bodies,
)
from kaigata.core.part import Frame
from kaigata.shop.models import Order, OrderLine, Part, SourceFile
from kaigata.shop.services.blanks import document_of, mass_of
from kaigata.shop.services.drawings import UNITS, lettering, mass_text
from kaigata.shop.services.drawn import folded_of

__all__ = [
    "assemblies_of",
    "assembly_drawing",
    "assembly_file",
    "assembly_name",
    "assembly_pdf",
    "places_record",
]

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
    lines = order.lines.select_related("part__source", "order")
    for line in lines.defer("part__source__content", "part__folded", "part__shell"):
        first.setdefault(line.part.came_in, line)
    return [line for line in first.values() if _is_assembly(_mates(line))]


def _mates(line: OrderLine) -> list[OrderLine]:
    """Return the lines that came in one file, a part that was revised alone since among them."""
    if not line.part.came_in:
        return []
    lines = line.order.lines.filter(part__came_in=line.part.came_in)
    lines = lines.select_related("order", "part__blank", "part__source", "material")
    return list(lines.defer("part__source__content"))


def _is_assembly(lines: Sequence[OrderLine]) -> bool:
    is_known = any(line.part.places for line in lines)
    return is_known and sum(_count(line) for line in lines) > 1


def _count(line: OrderLine) -> int:
    """Return how many of a part are in one assembly."""
    return len(line.part.places) or line.per_set


def assembly_file(line: OrderLine) -> str:
    """Return the name of the file that a line first came in."""
    kept = SourceFile.objects.filter(sha256=line.part.came_in).values_list("name", flat=True)
    return kept.first() or line.part.source.name


def assembly_name(line: OrderLine) -> str:
    """Return what the assembly that a line came in is called: as its file, without its kind."""
    return Path(assembly_file(line)).stem[:_STEM]


def assembly_drawing(line: OrderLine, *, paper: str = "", units: str = "mm") -> AssemblyDrawing:
    """Return the drawing of the assembly that a line came in.

    Raises
    ------
    InputError
        Its file holds one part once, or it was read before it was kept where parts lie.
    KaigataError
        What was drawn is not what the parts are.
    """
    lines = _mates(line)
    if not _is_assembly(lines):
        raise InputError(
            "it is no assembly: the file holds one part once, or is not known in space",
            where=line.part.source.name,
            fix="Bring in a STEP file of the assembly, or bring this one in again",
        )
    return checked_assembly(
        [_component(mate) for mate in lines],
        _title(lines, units),
        unit=UNITS[units],
        paper=paper,
        lettering=lettering(),
    )


def assembly_pdf(line: OrderLine, *, paper: str = "", units: str = "mm") -> bytes:
    """Return the drawing of the assembly that a line came in as PDF: as ``assembly_drawing``."""
    drawing = assembly_drawing(line, paper=paper, units=units)
    return pages_pdf(drawing.pages, title=assembly_name(line))


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
        part=assembly_name(lines[0]),
        order=f"{order.number} {order.title}".strip(),
        quantity=max(1, min(line.quantity // max(1, line.per_set) for line in lines)),
        source=assembly_file(lines[0]),
        mass=mass_text(sum(known), units) if len(known) == len(lines) else "",
    )


def _is_ready(line: OrderLine) -> bool:
    return line.part.state == Part.State.READY
