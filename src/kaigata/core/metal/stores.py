"""The shop's values: materials with density and bend charts, cut charts, and what to use when."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Sequence
from dataclasses import MISSING, dataclass, fields
from functools import cache
from importlib import resources
from pathlib import Path
from typing import Any

from kaigata.core.errors import InputError
from kaigata.core.metal.chart_files import bend_charts_of, read_bend_charts
from kaigata.core.metal.charts import BendChart
from kaigata.core.metal.tables import Row, csv_text, number_text, rows_of, text_of_file

__all__ = [
    "PROCESSES",
    "CutChartRow",
    "Gauge",
    "Material",
    "chart_of",
    "cut_chart_csv",
    "cut_chart_of",
    "cut_row",
    "find_material",
    "read_bend_charts",
    "read_cut_chart",
    "standard_cut_chart",
    "standard_materials",
]

STANDARD_K = 0.44
"""Factor when nothing is said: air bending of mild steel at a radius of about the thickness."""

PROCESSES = ("laser", "plasma", "waterjet")
"""How sheets are cut."""

_SAME_THICKNESS = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True)
class Gauge:
    """A thickness of a material.

    Attributes
    ----------
    thickness : float
        mm.
    number : str
        Its gauge number where the trade uses one; they differ between metals.
    radii : tuple of float
        Inside radii the shop bends it with, mm.
    chart : BendChart
        What its bends take.
    """

    thickness: float
    number: str
    radii: tuple[float, ...]
    chart: BendChart


@dataclass(frozen=True, slots=True, kw_only=True)
class Material:
    """A material: density in kg/m³, price per kg, tensile strength in MPa, thicknesses."""

    name: str
    title: str
    density: float
    price: float
    tensile: float
    gauges: tuple[Gauge, ...]

    @property
    def charts(self) -> tuple[BendChart, ...]:
        """The bend charts of its thicknesses."""
        return tuple(g.chart for g in self.gauges)


@dataclass(frozen=True, slots=True, kw_only=True)
class CutChartRow:
    """How a thickness of a material is cut: mm, mm/min, seconds.

    ``material`` may be ``*`` for every material that has no row of its own. ``lead_kind`` is
    ``line``, ``arc`` or ``none``, ``lead_angle`` in degrees. Holes whose smaller side is under
    ``smallest_hole`` are cut slowly, or only marked where ``small_holes`` is ``mark``.
    ``acceleration`` of the head is in mm/s²; ``hourly_rate`` is what the machine costs an hour.
    Outside corners are ``round``, ``sharp`` or ``loop``. Micro-joints are ``joint_width`` wide
    along the edge (0: none), ``joint_count`` to an outline or, where that is 0, one each
    ``joint_spacing``; on arcs only where ``joint_arcs`` is ``yes``.
    """

    process: str
    material: str
    thickness: float
    kerf: float
    feed: float
    pierce_seconds: float
    lead_in: float
    rapid: float
    lead_kind: str = "line"
    lead_angle: float = 60.0
    lead_out: float = 0.0
    over_cut: float = 0.0
    smallest_hole: float = 0.0
    acceleration: float = 8000.0
    hourly_rate: float = 90.0
    corner: str = "sharp"
    small_holes: str = "slow"
    mark_feed: float = 6000.0
    joint_width: float = 0.0
    joint_count: float = 0.0
    joint_spacing: float = 0.0
    joint_arcs: str = "no"

    @property
    def has_joints(self) -> bool:
        """Whether outlines keep micro-joints."""
        return self.joint_width > 0 and (self.joint_count > 0 or self.joint_spacing > 0)


def chart_of(charts: Sequence[BendChart], thickness: float) -> BendChart:
    """Return the chart of a thickness.

    Raises
    ------
    InputError
        There is none.
    """
    found = next((c for c in charts if abs(c.thickness - thickness) < _SAME_THICKNESS), None)
    if found is None:
        have = ", ".join(f"{c.thickness:g}" for c in charts)
        raise InputError(
            f"the part is {thickness:.4g} mm thick, the bend chart has {have}",
            fix="Add the thickness to the chart or give K",
        )
    return found


def find_material(materials: Sequence[Material], name: str) -> Material:
    """Return a material by its name.

    Raises
    ------
    InputError
        There is none of that name.
    """
    found = next((m for m in materials if name.lower() in (m.name.lower(), m.title.lower())), None)
    if found is None:
        names = ", ".join(m.name for m in materials)
        raise InputError(f"there is no material {name!r}", fix=f"The shop data has {names}")
    return found


def cut_row(
    chart: Sequence[CutChartRow], *, process: str, material: str | None, thickness: float | None
) -> CutChartRow:
    """Return the row of a cut chart for a sheet.

    A row of the sheet's own material goes before a row for every material (``*``); a sheet
    without a thickness takes the process's first row.

    Raises
    ------
    InputError
        The chart has no row for it.
    """
    rows = [r for r in chart if r.process == process]
    fit = [r for r in rows if thickness is None or abs(r.thickness - thickness) < _SAME_THICKNESS]
    own = [r for r in fit if r.material == material] or [r for r in fit if r.material == "*"]
    if not own:
        have = ", ".join(sorted({f"{r.thickness:g} {r.material}" for r in rows})) or "nothing"
        raise InputError(
            f"the cut chart for {process} has no row for {thickness} mm {material or 'material'}",
            where="cut chart",
            fix=f"It has {have}; add a row or give the kerf",
        )
    return own[0]


_WORDS = {
    "process": PROCESSES,
    "lead_kind": ("line", "arc", "none"),
    "corner": ("round", "sharp", "loop"),
    "small_holes": ("slow", "mark"),
    "joint_arcs": ("no", "yes"),
}
_MAY_BE_NOTHING = (
    "lead_out",
    "over_cut",
    "smallest_hole",
    "hourly_rate",
    "pierce_seconds",
    "joint_width",
    "joint_count",
    "joint_spacing",
)


def cut_chart_of(
    text: str, name: str, materials: Collection[str] | None = None
) -> tuple[CutChartRow, ...]:
    """Return the cut chart in a CSV; the columns are the fields of ``CutChartRow``.

    Columns from ``lead_kind`` on may be left out or empty. Where ``materials`` are given, rows
    are for one of them or for every material (``*``).

    Raises
    ------
    InputError
        A column is missing, a value is wrong, a material is none of those given, or a row stands
        for what another stands for; file and line are told.
    """
    needed = tuple(f.name for f in fields(CutChartRow) if f.default is MISSING)
    seen: dict[tuple[str, str, float], str] = {}
    out = []
    for row in rows_of(text, name, needed):
        made = _cut_row(row)
        if materials is not None and made.material not in {"*", *materials}:
            raise InputError(
                f"there is no material {made.material!r}",
                where=row.where,
                fix=f"Write * for every material, or one of {', '.join(sorted(materials))}",
            )
        key = (made.process, made.material, round(made.thickness, 3))
        if key in seen:
            raise InputError(
                f"{made.thickness:g} mm {made.material} by {made.process} stands in {seen[key]} "
                "already",
                where=row.where,
                fix="Leave one of the rows out",
            )
        seen[key] = row.where
        out.append(made)
    return tuple(out)


def _cut_row(row: Row) -> CutChartRow:
    values: dict[str, Any] = {"material": row["material"].strip() or "*"}
    for field in fields(CutChartRow):
        if field.name == "material":
            continue
        usual = None if field.default is MISSING else field.default
        if field.name in _WORDS:
            values[field.name] = row.one_of(field.name, _WORDS[field.name], usual or "")
            continue
        values[field.name] = value = row.number(field.name, usual)
        least_is_nothing = field.name in _MAY_BE_NOTHING
        if value < 0 or (value == 0 and not least_is_nothing):
            raise InputError(
                f"{field.name} is {value:g}, it must be "
                f"{'0 or more' if least_is_nothing else 'above 0'}",
                where=row.where,
            )
    if not 0 < values["lead_angle"] <= 90:
        raise InputError(
            f"lead_angle is {values['lead_angle']:g}",
            where=row.where,
            fix="Give more than 0 and at most 90 degrees",
        )
    return CutChartRow(**values)


def read_cut_chart(path: Path) -> tuple[CutChartRow, ...]:
    """Read a cut chart from a CSV file; see ``cut_chart_of``."""
    return cut_chart_of(text_of_file(path), path.name)


def cut_chart_csv(rows: Iterable[CutChartRow]) -> str:
    """Return a cut chart as CSV."""
    names = [f.name for f in fields(CutChartRow)]
    return csv_text(
        names,
        (
            [number_text(v) if isinstance(v, float) else v for v in (getattr(r, n) for n in names)]
            for r in rows
        ),
    )


def standard_cut_chart() -> tuple[CutChartRow, ...]:
    """Return the cut chart the product comes with; made up but plausible."""
    with resources.as_file(resources.files(__package__) / "cut_chart.csv") as path:
        return read_cut_chart(path)


def standard_materials() -> tuple[Material, ...]:
    """Return the materials the product comes with; made up but plausible."""
    folder = resources.files(__package__)
    materials: dict[str, Material] = {}
    columns = ("name", "title", "density", "price", "tensile", "thickness", "number", "radii")
    for row in rows_of((folder / "materials.csv").read_text("utf-8"), "materials.csv", columns):
        known = materials.get(row["name"])
        materials[row["name"]] = Material(
            name=row["name"],
            title=row["title"],
            density=row.positive("density"),
            price=row.positive("price"),
            tensile=row.positive("tensile"),
            gauges=(*(known.gauges if known else ()), _gauge(row)),
        )
    return tuple(materials.values())


@cache
def _standard_charts(material: str) -> tuple[BendChart, ...]:
    text = (resources.files(__package__) / "bend_charts.csv").read_text("utf-8")
    heading, *lines = text.splitlines()
    own = [line.partition(",")[2] for line in lines if line.startswith(f"{material},")]
    return bend_charts_of("\n".join([heading.partition(",")[2], *own]), f"{material} chart")


def _gauge(row: Row) -> Gauge:
    thickness = row.positive("thickness")
    radii = tuple(float(r) for r in row["radii"].split())
    chart = chart_of(_standard_charts(row["name"]), thickness)
    return Gauge(thickness=thickness, number=row["number"], radii=radii, chart=chart)
