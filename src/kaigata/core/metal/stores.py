"""The shop's values: materials with density and bend charts, cut charts, and what to use when."""

from __future__ import annotations

import csv
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, fields
from importlib import resources
from pathlib import Path

from kaigata.core.errors import InputError
from kaigata.core.metal.allowance import check_factor

__all__ = [
    "BendChartRow",
    "CutChartRow",
    "Material",
    "Process",
    "chart_factor",
    "cut_row",
    "find_material",
    "read_bend_chart",
    "read_cut_chart",
    "standard_cut_chart",
    "standard_materials",
]

STANDARD_K = 0.44
"""Factor when nothing is said: air bending of mild steel at a radius of about the thickness."""

Process = str
_SAME_THICKNESS = 1e-3


@dataclass(frozen=True, slots=True, kw_only=True)
class BendChartRow:
    """What a bend takes at a thickness: one K, with where it came from."""

    thickness: float
    k: float
    origin: str = "typed"


@dataclass(frozen=True, slots=True, kw_only=True)
class Material:
    """A material: density in kg/m³, price per kg, thicknesses and their bend chart."""

    name: str
    title: str
    density: float
    price: float
    chart: tuple[BendChartRow, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class CutChartRow:
    """How a thickness of a material is cut: mm, mm/min, seconds.

    ``material`` may be ``*`` for every material that has no row of its own.
    """

    process: str
    material: str
    thickness: float
    kerf: float
    feed: float
    pierce_seconds: float
    lead_in: float
    rapid: float


def chart_factor(chart: Sequence[BendChartRow], thickness: float) -> BendChartRow | None:
    """Return the chart's row for a thickness, or None."""
    return next((r for r in chart if abs(r.thickness - thickness) < _SAME_THICKNESS), None)


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


def read_bend_chart(path: Path) -> tuple[BendChartRow, ...]:
    """Read a bend chart from CSV with the columns ``thickness,k`` and, if wanted, ``origin``.

    Raises
    ------
    InputError
        A column is missing or a value is wrong; file and line are told.
    """
    rows = []
    for where, row in _table(path, ("thickness", "k")):
        k = check_factor(_number(row, "k", where), where=where)
        thickness = _positive(row, "thickness", where)
        rows.append(BendChartRow(thickness=thickness, k=k, origin=row.get("origin") or "typed"))
    return tuple(rows)


def read_cut_chart(path: Path) -> tuple[CutChartRow, ...]:
    """Read a cut chart from CSV; the columns are the fields of ``CutChartRow``.

    Raises
    ------
    InputError
        A column is missing or a value is wrong; file and line are told.
    """
    names = tuple(f.name for f in fields(CutChartRow))
    numbers = [n for n in names if n not in ("process", "material")]
    return tuple(
        CutChartRow(
            process=row["process"],
            material=row["material"] or "*",
            **{n: _positive(row, n, where) for n in numbers},
        )
        for where, row in _table(path, names)
    )


def standard_cut_chart() -> tuple[CutChartRow, ...]:
    """Return the cut chart the product comes with; made up but plausible."""
    with resources.as_file(resources.files(__package__) / "cut_chart.csv") as path:
        return read_cut_chart(path)


def standard_materials() -> tuple[Material, ...]:
    """Return the materials the product comes with; made up but plausible."""
    with resources.as_file(resources.files(__package__) / "materials.csv") as path:
        rows = list(_table(path, ("name", "title", "density", "price", "thickness", "k", "origin")))
    materials: dict[str, Material] = {}
    for where, row in rows:
        chart = BendChartRow(
            thickness=_positive(row, "thickness", where),
            k=_number(row, "k", where),
            origin=row["origin"],
        )
        known = materials.get(row["name"])
        materials[row["name"]] = Material(
            name=row["name"],
            title=row["title"],
            density=_positive(row, "density", where),
            price=_positive(row, "price", where),
            chart=(*(known.chart if known else ()), chart),
        )
    return tuple(materials.values())


def _table(path: Path, columns: Sequence[str]) -> Iterator[tuple[str, dict[str, str]]]:
    """Yield each row of a CSV with where it stands."""
    if not path.is_file():
        raise InputError("there is no such file", where=path.name, fix="Check the name and folder")
    try:
        text = path.read_text(encoding="utf-8-sig")
    except UnicodeDecodeError as error:
        raise InputError("it is no text in UTF-8", where=path.name, fix="Save as CSV") from error
    reader = csv.DictReader(text.splitlines())
    missing = [c for c in columns if c not in (reader.fieldnames or ())]
    if missing:
        raise InputError(
            f"the column {missing[0]!r} is missing",
            where=f"{path.name} line 1",
            fix=f"The columns are {','.join(columns)}",
        )
    for row in reader:
        yield f"{path.name} line {reader.line_num}", row


def _number(row: dict[str, str], name: str, where: str) -> float:
    text = row.get(name) or ""
    try:
        return float(text)
    except ValueError as error:
        raise InputError(f"{name} is {text!r}, no number", where=where) from error


def _positive(row: dict[str, str], name: str, where: str) -> float:
    value = _number(row, name, where)
    if not 0 < value < float("inf"):
        raise InputError(f"{name} is {value:g}, it must be above 0", where=where)
    return value
