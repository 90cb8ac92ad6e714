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
from kaigata.core.markup.balloons import ASIDE, GAP, NUMBER, Balloon, balloons_of, draw_balloon
from kaigata.core.markup.folded_view import (
    ISOMETRIC,
    Body,
    Seen,
    folded_bodies,
    meshed_body,
    seen_together,
)
from kaigata.core.markup.layout import PAD, halves, with_tables, with_titles
from kaigata.core.markup.lettering import USUAL_LETTERING, Lettering
from kaigata.core.markup.measure import MILLIMETRE, Unit
from kaigata.core.markup.page import PAPERS, Box, Face, Page, Pen, Words
from kaigata.core.markup.tables import Heading, Table
from kaigata.core.markup.title_block import Title, draw_frame
from kaigata.core.metal.charts import constant_chart
from kaigata.core.metal.stores import STANDARD_K
from kaigata.core.part import FoldedPart, Frame
from kaigata.core.plane import Point
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
class Component:
    """A part of an assembly.

    Attributes
    ----------
    name, material : str
        What it is called and made of.
    quantity : int
        How many there are in one assembly.
    thickness : float
        Of its sheet, mm; 0 where it is no folded sheet.
    size : (float, float), optional
        Width and height of its blank, mm.
    bodies : tuple of Body
        Each of them as it is seen; none where they cannot be drawn.
    """

    name: str
    quantity: int
    material: str = ""
    thickness: float = 0.0
    size: tuple[float, float] | None = None
    bodies: tuple[Body, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class AssemblyDrawing:
    """A drawing of an assembly: its sheets, the list of its parts, what its numbers point at."""

    pages: tuple[Page, ...]
    table: Table
    targets: dict[int, Point]


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
    """Draw an assembly.

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
        What the shop says in its title blocks.

    Raises
    ------
    InputError
        There is no such paper, or nothing that can be drawn.
    LimitError
        There is more than can be drawn in half a minute.
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
    seen = seen_together(bodies)
    balloons = _draw_view(page, left.within(top=6.0), seen, components)
    page.words.append(
        Words(text="Assembled, not to scale", at=(left.left + PAD, left.top - 4.5), size=3.2,
              face=Face.STRONG)
    )  # fmt: skip
    table = _parts_list(components, unit)
    pages = with_tables(page, right, (table,), _remarks(components, balloons))
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
    with_titles(pages, title, facts)
    return AssemblyDrawing(
        pages=tuple(pages), table=table, targets={b.number: b.target for b in balloons}
    )


def _paper_for(components: Sequence[Component], unit: Unit) -> str:
    """Return the smallest usual paper on which all numbers have room beside the view."""
    for paper in unit.papers:
        _, high = PAPERS[paper]
        if (high - 40.0) // GAP * 2 >= len(components):
            return paper
    return unit.papers[-1]


def _draw_view(page: Page, room: Box, seen: Seen, components: Sequence[Component]) -> list[Balloon]:
    """Draw what is seen as large as its room allows, and beside it a number for each component."""
    inner = room.within(ASIDE, PAD, ASIDE, PAD)
    share = min(inner.width / seen.width, inner.height / seen.height)
    x = inner.left + (inner.width - seen.width * share) / 2
    y = inner.bottom + (inner.height - seen.height * share) / 2

    def on_paper(p: Point) -> Point:
        return (x + p[0] * share, y + p[1] * share)

    for lines, pen in ((seen.edges, Pen.EDGE), (seen.tangents, Pen.TANGENT)):
        for a, b in lines:
            page.line(on_paper(a), on_paper(b), pen)
    balloons = balloons_of(seen, [c.bodies for c in components], on_paper, room)
    for balloon in balloons:
        draw_balloon(page, balloon)
    return balloons


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


def _remarks(components: Sequence[Component], balloons: Sequence[Balloon]) -> tuple[str, ...]:
    out = []
    if any(not b.is_seen for b in balloons):
        out.append("A dotted line leads to a part that others hide.")
    drawn = {b.number for b in balloons}
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
    page = drawing.pages[0]
    numbers = sorted(int(w.text) for w in page.words if w.size == NUMBER)
    wanted = [n for n, c in enumerate(components, start=1) if c.bodies]
    if numbers != wanted:
        yield f"the numbers {numbers} stand in the view, the parts drawn are {wanted}"
    ends = [s.run[-1].end for s in page.strokes if s.pen in (Pen.DIMENSION, Pen.MARK)]
    for number, target in drawing.targets.items():
        if not any(math.dist(end, target) < KERNEL for end in ends):
            yield f"the number {number} points at nothing"
