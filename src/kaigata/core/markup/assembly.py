"""The drawing of an assembly: its parts together, each with its number, and the list of them."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kaigata.core.blank import chart_takes
from kaigata.core.blank.mesh import fold_mesh, mesh_frame
from kaigata.core.errors import InputError, LimitError
from kaigata.core.findings import counted
from kaigata.core.markup.assembly_view import (
    Component,
    NumberedView,
    draw_assembled,
    exploded_view,
)
from kaigata.core.markup.balloons import GAP, NUMBER
from kaigata.core.markup.folded_view import ISOMETRIC, Body, folded_bodies, meshed_body
from kaigata.core.markup.layout import halves, with_tables, with_titles
from kaigata.core.markup.lettering import USUAL_LETTERING, Lettering, own_fields
from kaigata.core.markup.measure import MILLIMETRE, Unit
from kaigata.core.markup.page import PAPERS, Page, Pen
from kaigata.core.markup.tables import Heading, Table
from kaigata.core.markup.title_block import Title, draw_frame
from kaigata.core.metal.charts import constant_chart
from kaigata.core.metal.stores import STANDARD_K
from kaigata.core.part import FoldedPart, Frame
from kaigata.core.plane.tolerance import KERNEL

__all__ = [
    "AssemblyDrawing",
    "Component",
    "assembly_differences",
    "draw_assembly",
    "meshed_bodies",
    "placed_bodies",
]

Floats = npt.NDArray[np.float64]

_MOST_TRIANGLES = 1_000_000
_NAME, _MATERIAL = 22, 14
"""Letters of a name and of a material that have room in the list."""


@dataclass(frozen=True, slots=True, kw_only=True)
class AssemblyDrawing:
    """A drawing of an assembly: its sheets, the list of its parts, and its views."""

    pages: tuple[Page, ...]
    table: Table
    views: tuple[NumberedView, ...]


def placed_bodies(part: FoldedPart, places: Sequence[Frame]) -> tuple[Body, ...]:
    """Return a folded part as it is seen in each of its places; none where it has no panel.

    Parameters
    ----------
    part : FoldedPart
        The part.
    places : sequence of Frame
        Where the frame that the part came in lies in the assembly.
    """
    # What its bends take changes the flat alone, not how the part is folded.
    takes = chart_takes(part, constant_chart(STANDARD_K, part.thickness))
    frame = mesh_frame(part, takes=takes)
    if frame is None:
        return ()
    pieces = fold_mesh(part, takes=takes)
    eyes = [_into(frame, _into(place, ISOMETRIC.eye)) for place in places]
    bodies = folded_bodies(pieces, part.thickness, eyes)
    return tuple(b.placed(frame).placed(p) for b, p in zip(bodies, places, strict=True))


def meshed_bodies(triangles: Floats, places: Sequence[Frame]) -> tuple[Body, ...]:
    """Return what is known by its triangles alone as it is seen in each of its places."""
    return tuple(
        meshed_body(triangles, _into(place, ISOMETRIC.eye)).placed(place) for place in places
    )


def _into(frame: Frame, heading: Floats) -> Floats:
    """Return a heading of space in a frame."""
    inside: Floats = np.array([frame.x, frame.y, frame.z]) @ heading
    return inside


def draw_assembly(
    components: Sequence[Component],
    title: Title,
    *,
    unit: Unit = MILLIMETRE,
    paper: str = "",
    lettering: Lettering = USUAL_LETTERING,
) -> AssemblyDrawing:
    """Draw an assembly, and on a second sheet its parts come apart, where any lie on each other.

    Parameters
    ----------
    components : sequence of Component
        Its parts, in the order of their numbers.
    title : Title
        What the title block says.
    unit : Unit
        What lengths are written in.
    paper : str
        A key of ``PAPERS``; where none is given one that is usual with the unit.
    lettering : Lettering
        What the shop says in its title blocks, and whether parts have tones.

    Raises
    ------
    InputError
        There is no such paper, or nothing that can be drawn.
    LimitError
        There is more than can be drawn in a minute.
    """
    if paper and paper not in PAPERS:
        raise InputError(f"there is no paper {paper!r}", fix=f"Take one of {', '.join(PAPERS)}")
    bodies = [b for c in components for b in c.bodies]
    if not bodies:
        raise InputError(
            "none of its parts is known in space",
            where=title.part,
            fix="Bring its file in again, as a STEP assembly",
        )
    triangles = sum(len(b.triangles) for b in bodies)
    if triangles > _MOST_TRIANGLES:
        raise LimitError(
            f"{counted(len(bodies), 'body has', 'bodies have')} {triangles} triangles, at most "
            f"{_MOST_TRIANGLES} are drawn",
            where=title.part,
            fix="Bring in a part of the assembly, and draw that",
        )
    page = Page(*PAPERS[paper or _paper_for(components, unit)])
    frame = draw_frame(page)
    left, right = halves(frame)
    assembled = draw_assembled(page, left, components, is_shaded=lettering.is_shaded)
    table = _parts_list(components, unit)
    first, *further = with_tables(page, right, (table,), _remarks(components, assembled))
    exploded = exploded_view(page.width, page.height, components, is_shaded=lettering.is_shaded)
    views = [assembled] if exploded is None else [assembled, exploded]
    pages = [first, *(v.page for v in views[1:]), *further]
    sizes = np.ptp(np.vstack([b.triangles.reshape(-1, 3) for b in bodies]), axis=0).tolist()
    facts = {
        "called": "Assembly",
        "size_of": "Over all",
        "size": " × ".join(unit.length(v) for v in sizes),
        "thickness": "",
        "scale": "none",
        "unit": unit.name,
        "tolerance": lettering.tolerance,
        "number": "",
        "maker": lettering.maker,
    }
    with_titles(pages, title, facts, own_fields(lettering))
    return AssemblyDrawing(pages=tuple(pages), table=table, views=tuple(views))


def _paper_for(components: Sequence[Component], unit: Unit) -> str:
    """Return the smallest usual paper on which all numbers have room beside the view."""
    for paper in unit.papers:
        _, high = PAPERS[paper]
        if (high - 40.0) // GAP * 2 >= len(components):
            return paper
    return unit.papers[-1]


def _parts_list(components: Sequence[Component], unit: Unit) -> Table:
    return Table(
        title=f"Parts, {unit.name}",
        headings=(
            Heading(words="no", at=5.0),
            Heading(words="part", at=7.0, is_figures=False, begins=True),
            Heading(words="count", at=42.0),
            Heading(words="sheet", at=44.0, is_figures=False, begins=True),
            Heading(words="blank", at=88.0),
        ),
        rows=tuple(
            (str(n), _short(c.name, _NAME), str(c.quantity), _sheet(c, unit), _size(c, unit))
            for n, c in enumerate(components, start=1)
        ),
    )


def _sheet(component: Component, unit: Unit) -> str:
    if not component.thickness:
        return "no folded sheet"
    return _short(f"{unit.short(component.thickness)} {component.material}".strip(), _MATERIAL)


def _size(component: Component, unit: Unit) -> str:
    return "" if component.size is None else " × ".join(unit.length(v) for v in component.size)


def _short(text: str, letters: int) -> str:
    return text if len(text) <= letters else f"{text[: letters - 1].rstrip()}…"


def _remarks(components: Sequence[Component], view: NumberedView) -> tuple[str, ...]:
    out = []
    if view.has_hidden:
        out.append("A dotted line leads to a part that others hide.")
    drawn = view.targets
    lost = [str(n) for n in range(1, len(components) + 1) if n not in drawn]
    if lost:
        out.append(f"Not drawn: {', '.join(lost)}.")
    return tuple(out)


def assembly_differences(
    drawing: AssemblyDrawing, components: Sequence[Component], unit: Unit
) -> list[str]:
    """Return in words what of an assembly's drawing is not as its parts are.

    Parameters
    ----------
    drawing : AssemblyDrawing
        What was drawn.
    components : sequence of Component
        The parts.
    unit : Unit
        What its lengths are written in.
    """
    return [*_listed(drawing, components, unit), *_numbered(drawing, components)]


def _listed(drawing: AssemblyDrawing, components: Sequence[Component], unit: Unit) -> Iterator[str]:
    written = [w.text for page in drawing.pages for w in page.words]
    rows = drawing.table.rows
    if len(rows) != len(components):
        yield f"the list has {len(rows)} parts, the assembly {len(components)}"
    for n, (row, component) in enumerate(zip(rows, components, strict=False), start=1):
        if not any(tuple(written[i : i + len(row)]) == row for i in range(len(written))):
            yield f"row {n} of the list is on no sheet"
        if int(row[2]) != component.quantity:
            yield f"part {n} is listed {row[2]} times, there are {component.quantity}"
        if component.bodies and len(component.bodies) != component.quantity:
            yield f"part {n} is drawn {len(component.bodies)} times of {component.quantity}"
        if row[4] != _size(component, unit):
            yield f"the blank of part {n} is listed as {row[4]}"


def _numbered(drawing: AssemblyDrawing, components: Sequence[Component]) -> Iterator[str]:
    wanted = [n for n, c in enumerate(components, start=1) if c.bodies]
    for view in drawing.views:
        if not any(page is view.page for page in drawing.pages):
            yield f"the view {view.name!r} is on no sheet"
        numbers = sorted(int(w.text) for w in view.page.words if w.size == NUMBER)
        if numbers != wanted:
            yield f"{view.name}: the numbers {numbers} stand there, the parts drawn are {wanted}"
        ends = [s.run[-1].end for s in view.page.strokes if s.pen in (Pen.DIMENSION, Pen.MARK)]
        for number, target in view.targets.items():
            if not any(math.dist(end, target) < KERNEL for end in ends):
                yield f"{view.name}: the number {number} points at nothing"
