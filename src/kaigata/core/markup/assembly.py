"""The drawing of an assembly: its parts together, each with its number, and the list of them."""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt

from kaigata.core.blank.mesh import fold_mesh, mesh_frame
from kaigata.core.errors import InputError, LimitError
from kaigata.core.findings import counted
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
from kaigata.core.markup.ordinates import spread
from kaigata.core.markup.page import PAPERS, Anchor, Box, Face, Fill, Page, Pen, Words
from kaigata.core.markup.tables import Heading, Table
from kaigata.core.markup.title_block import Title, draw_frame
from kaigata.core.metal.charts import BendTake
from kaigata.core.part import FoldedPart, Frame
from kaigata.core.plane import Contour, Point
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
_BALLOON = 3.8
"""Radius of the circle round a number, mm of paper."""
_GAP = 10.0
"""From number to number, mm of paper."""
_ASIDE = 14.0
"""What the numbers take of the room on either side of the view, mm of paper."""
_DOT = 0.7
"""Radius of the dot at which a number's line ends, mm of paper."""
_LONG = 0.4
"""Share of a component's longest edge that one is long to which its number may point."""
_NUMBER = 3.4
"""Size of type of the numbers, mm."""
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
class _Balloon:
    """A component's number, where it stands, and the place of the component that it points at."""

    number: int
    at: Point
    target: Point
    is_seen: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class AssemblyDrawing:
    """A drawing of an assembly: its sheets, the list of its parts, what its numbers point at."""

    pages: tuple[Page, ...]
    table: Table
    targets: dict[int, Point]


def placed_bodies(
    part: FoldedPart, takes: Sequence[BendTake], places: Sequence[Frame]
) -> tuple[Body, ...]:
    """Return a folded part as it is seen in each of its places; none where it has no panel.

    Parameters
    ----------
    part : FoldedPart
        The part.
    takes : sequence of BendTake
        What each bend takes, with the radius that it is drawn with.
    places : sequence of Frame
        Where the frame that the part came in lies in the assembly.
    """
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
        if (high - 40.0) // _GAP * 2 >= len(components):
            return paper
    return unit.papers[-1]


def _draw_view(
    page: Page, room: Box, seen: Seen, components: Sequence[Component]
) -> list[_Balloon]:
    """Draw what is seen as large as its room allows, and beside it a number for each component."""
    inner = room.within(_ASIDE, PAD, _ASIDE, PAD)
    share = min(inner.width / seen.width, inner.height / seen.height)
    x = inner.left + (inner.width - seen.width * share) / 2
    y = inner.bottom + (inner.height - seen.height * share) / 2

    def on_paper(p: Point) -> Point:
        return (x + p[0] * share, y + p[1] * share)

    for lines, pen in ((seen.edges, Pen.EDGE), (seen.tangents, Pen.TANGENT)):
        for a, b in lines:
            page.line(on_paper(a), on_paper(b), pen)
    ends = [
        _Ends(number=n, left=on_paper(low), right=on_paper(high), is_seen=is_seen)
        for n, (low, high, is_seen) in _targets(seen, components).items()
    ]
    balloons = _beside(ends, room)
    for balloon in balloons:
        _draw_balloon(page, balloon)
    return balloons


@dataclass(frozen=True, slots=True, kw_only=True)
class _Ends:
    """Where a component's number may point, when it stands left of the view and right of it."""

    number: int
    left: Point
    right: Point
    is_seen: bool


def _targets(seen: Seen, components: Sequence[Component]) -> dict[int, tuple[Point, Point, bool]]:
    """Return the outermost places of each component that is drawn, and whether it is seen there.

    They are the middles of edges that are seen and long enough to be told from others.
    """
    owner = [n for n, c in enumerate(components, start=1) for _ in c.bodies]
    lines = defaultdict[int, list[tuple[Point, Point]]](list)
    for line, body in zip(seen.edges, seen.owners, strict=True):
        lines[owner[body]].append(line)
    out: dict[int, tuple[Point, Point, bool]] = {}
    for number, component in enumerate(components, start=1):
        if lines[number]:
            longest = max(math.dist(a, b) for a, b in lines[number])
            middles = [
                ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
                for a, b in lines[number]
                if math.dist(a, b) >= _LONG * longest
            ]
            out[number] = (min(middles), max(middles), True)
        elif component.bodies:
            middle = _middle(component.bodies[0], seen)
            out[number] = (middle, middle, False)
    return out


def _middle(body: Body, seen: Seen) -> Point:
    """Return where the middle of a body that is hidden lies in the view."""
    right, up = np.array(seen.direction.right), np.array(seen.direction.up)
    at = body.triangles.reshape(-1, 3).mean(axis=0)
    return (float(at @ right) - seen.low[0], float(at @ up) - seen.low[1])


def _beside(ends: Sequence[_Ends], room: Box) -> list[_Balloon]:
    """Return the numbers in two columns beside the view, each at the side it is nearer to.

    What a column has no room for goes to the other, those first that are hardly farther from it.
    In a column they stand in the order of what they point at, so that no line crosses another's.
    """

    def to_right(e: _Ends) -> float:
        return (room.right - e.right[0]) - (e.left[0] - room.left)

    by_side = sorted(ends, key=to_right)
    most = max(int(room.height // _GAP), (len(by_side) + 1) // 2)
    on_right = sum(to_right(e) < 0 for e in by_side)
    on_right = min(max(on_right, len(by_side) - most), most)
    columns = (
        (room.right - _BALLOON - 2, [(e, e.right) for e in by_side[:on_right]]),
        (room.left + _BALLOON + 2, [(e, e.left) for e in by_side[on_right:]]),
    )
    out = []
    for x, column in columns:
        rising = sorted(column, key=lambda c: c[1][1])
        for (e, target), y in zip(rising, _heights(rising, room), strict=True):
            out.append(_Balloon(number=e.number, at=(x, y), target=target, is_seen=e.is_seen))
    return sorted(out, key=lambda b: b.number)


def _heights(rising: Sequence[tuple[_Ends, Point]], room: Box) -> list[float]:
    """Return how high the numbers of a column stand: as near to what they point at as they can."""
    if not rising:
        return []
    gap = min(_GAP, room.height / len(rising))
    low, high = room.bottom + _BALLOON, room.top - _BALLOON
    stands = spread([target[1] for _, target in rising], gap)
    down = max(0.0, stands[-1] - high)
    return [max(s - down, low + n * gap) for n, s in enumerate(stands)]


def _draw_balloon(page: Page, balloon: _Balloon) -> None:
    (x, y), (tx, ty) = balloon.at, balloon.target
    long = math.dist(balloon.at, balloon.target)
    rim = (x + (tx - x) / long * _BALLOON, y + (ty - y) / long * _BALLOON)
    page.line(rim, balloon.target, Pen.DIMENSION if balloon.is_seen else Pen.MARK)
    page.run(Contour.circle(balloon.at, _BALLOON).segments, Pen.DIMENSION)
    dot = [
        (tx + _DOT * math.cos(k * math.pi / 4), ty + _DOT * math.sin(k * math.pi / 4))
        for k in range(8)
    ]
    page.fills.append(Fill(points=tuple(dot)))
    page.words.append(
        Words(text=str(balloon.number), at=balloon.at, size=_NUMBER, face=Face.STRONG_FIGURES,
              anchor=Anchor.MIDDLE)
    )  # fmt: skip


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


def _remarks(components: Sequence[Component], balloons: Sequence[_Balloon]) -> tuple[str, ...]:
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
    numbers = sorted(int(w.text) for w in page.words if w.size == _NUMBER)
    wanted = [n for n, c in enumerate(components, start=1) if c.bodies]
    if numbers != wanted:
        yield f"the numbers {numbers} stand in the view, the parts drawn are {wanted}"
    ends = [s.run[-1].end for s in page.strokes if s.pen in (Pen.DIMENSION, Pen.MARK)]
    for number, target in drawing.targets.items():
        if not any(math.dist(end, target) < KERNEL for end in ends):
            yield f"the number {number} points at nothing"
