"""Orders: what they say of themselves, how many of each part, and how far each gauge has come."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass
from itertools import groupby
from typing import Any

from django.db import transaction

from kaigata.core.errors import InputError
from kaigata.core.findings import counted
from kaigata.core.metal.tables import Row, csv_text, rows_of
from kaigata.core.nest.figures import measured_as_numbered
from kaigata.shop.models import Material, Order, OrderLine, Part
from kaigata.shop.services.blanks import unfold_part
from kaigata.shop.services.digests import changes
from kaigata.shop.services.nesting import current_run, open_nest
from kaigata.shop.services.order_inputs import OrderInputs

__all__ = [
    "MOST_PIECES",
    "MOST_PRIORITY",
    "GaugeState",
    "change_line",
    "change_order",
    "gauge_states",
    "lines_table",
    "make_sets",
    "take_lines",
]

MOST_PIECES = 100_000
"""Pieces of one part an order may want."""

MOST_PRIORITY = 9
"""Levels of priority above none; nothing is won by more."""

_COLUMNS = (
    "part", "quantity", "material", "priority", "filler", "mirror", "thickness", "file",
)  # fmt: skip
_WORD = {True: "yes", False: "no"}


def change_order(order: Order, values: dict[str, Any]) -> None:
    """Change what an order says of itself.

    Raises
    ------
    InputError
        Another order has the number.
    """
    number = values.get("number")
    if number is not None and Order.objects.exclude(pk=order.pk).filter(number=number).exists():
        raise InputError(f"there is an order {number} already", fix="Give another number")
    for name, value in values.items():
        setattr(order, name, value)
    order.save(update_fields=list(values))


def change_line(line: OrderLine, **values: object) -> None:
    """Change what an order wants of a part, by the columns of its line; its blank follows."""
    for name, value in values.items():
        setattr(line, name, value)
    line.save(update_fields=list(values))
    if line.part.state == Part.State.READY:
        unfold_part(line.part)


@transaction.atomic
def make_sets(line: OrderLine, sets: int) -> None:
    """Want so many sets of the file a line came with: of each of its parts what a set holds.

    Raises
    ------
    InputError
        A part would be wanted more often than an order may want one.
    """
    lines = line.order.lines.filter(part__source=line.part.source_id)
    for one in lines.light():
        wanted = one.per_set * sets
        if wanted > MOST_PIECES:
            raise InputError(
                f"{counted(sets, 'set is', 'sets are')} {wanted} pieces of "
                f"{one.part.name}, at most {MOST_PIECES} go",
                fix="Divide the order",
            )
        change_line(one, quantity=wanted)


def lines_table(order: Order) -> str:
    """Return the lines of an order as CSV."""
    lines = order.lines.light()
    return csv_text(
        _COLUMNS,
        (
            [
                line.part.name,
                line.quantity,
                line.material.name if line.material else "",
                line.priority,
                _WORD[line.is_filler],
                _WORD[line.may_mirror],
                f"{line.part.thickness:g}" if line.part.thickness else "",
                line.part.source.name,
            ]
            for line in lines
        ),
    )


@transaction.atomic
def take_lines(order: Order, text: str, file: str) -> int:
    """Take quantities, materials and nest rules from a CSV, all of it or nothing.

    Parts are told by their name; those the table does not name stay as they are, and so does what
    a cell leaves open. Returns the lines changed.

    Raises
    ------
    InputError
        A line is wrong; file and line are told.
    """
    known = {line.part.name.casefold(): line for line in order.lines.light()}
    metals = {m.name.casefold(): m for m in Material.objects.all()}
    seen: dict[str, str] = {}
    changed = 0
    for row in rows_of(text, file, ("part", "quantity")):
        name = row["part"].strip().casefold()
        line = known.get(name)
        if line is None:
            raise InputError(
                f"there is no part {row['part']!r} on the rack",
                where=row.where,
                fix="Drop its file onto the rack first, or take the line out",
            )
        if name in seen:
            raise InputError(f"{row['part']!r} stands in {seen[name]} already", where=row.where)
        seen[name] = row.where
        wanted = {
            "quantity": _whole(row, "quantity", 1, MOST_PIECES),
            "material": _metal(row, metals) or line.material,
            "priority": _whole(row, "priority", 0, MOST_PRIORITY, default=line.priority),
            "is_filler": _yes(row, "filler", default=line.is_filler),
            "may_mirror": _yes(row, "mirror", default=line.may_mirror),
        }
        values = {n: v for n, v in wanted.items() if v != getattr(line, n)}
        if values:
            change_line(line, **values)
            changed += 1
    return changed


def _whole(row: Row, name: str, least: int, most: int, default: int | None = None) -> int:
    value = row.number(name, default)
    if value != int(value) or not least <= value <= most:
        raise InputError(
            f"{name} is {row[name]!r}",
            where=row.where,
            fix=f"Write a whole number from {least} to {most}",
        )
    return int(value)


def _yes(row: Row, name: str, *, default: bool) -> bool:
    return row.one_of(name, tuple(_WORD.values()), _WORD[default]) == _WORD[True]


def _metal(row: Row, metals: dict[str, Material]) -> Material | None:
    word = row.get("material", "").strip()
    if not word:
        return None
    if word.casefold() not in metals:
        raise InputError(
            f"there is no material {word!r}",
            where=row.where,
            fix=f"Stores has {', '.join(m.name for m in metals.values())}",
        )
    return metals[word.casefold()]


@dataclass(frozen=True, slots=True, kw_only=True)
class GaugeState:
    """How far the parts of one gauge have come.

    ``state`` is ``open`` when something is not ready or not nested yet, ``searching``, ``stale``
    when the nest rests on what has changed since, ``short`` when copies that are no
    fillers fit nowhere, else ``nested``. ``utilisation`` is that of the gauge's sheets alone.
    """

    material: str
    thickness: float | None
    parts: int
    pieces: int
    placed: int
    sheets: int
    utilisation: float | None
    state: str


def gauge_states(order: Order) -> list[GaugeState]:
    """Return the state of each gauge of an order, thin ones first."""
    lines = sorted(order.lines.light(), key=_gauge_of)
    run = current_run(order)
    kept = getattr(run, "nest", None) if run else None
    found = open_nest(kept) if kept else None
    is_stale = bool(run and kept and changes(run.inputs, OrderInputs.of(order).nest))
    states = []
    for (_, material), group in groupby(lines, key=_gauge_of):
        own = list(group)
        thickness = own[0].part.thickness
        wanted = {line.part.name: line.quantity for line in own}
        sheets = [
            s for s in (found[2].sheets if found else ())
            if any(p.part in wanted for p in s.placements)
        ]  # fmt: skip
        lying = Counter(p.part for s in sheets for p in s.placements)
        fillers = {line.part.name for line in own if line.is_filler}
        states.append(
            GaugeState(
                material=material,
                thickness=thickness,
                parts=len(own),
                pieces=sum(wanted.values()),
                placed=lying.total(),
                sheets=len(sheets),
                utilisation=measured_as_numbered(found[1], sheets).utilisation
                if found and sheets
                else None,
                state=_word(
                    own,
                    is_searching=bool(run and run.is_open),
                    is_stale=is_stale,
                    is_nested=bool(lying),
                    is_short=any(lying[n] < wanted[n] for n in wanted.keys() - fillers),
                ),
            )
        )
    return states


def _gauge_of(line: OrderLine) -> tuple[float, str]:
    return (line.part.thickness or 0.0, line.material.title if line.material else "")


def _word(
    lines: Iterable[OrderLine],
    *,
    is_searching: bool,
    is_stale: bool,
    is_nested: bool,
    is_short: bool,
) -> str:
    if is_searching:
        return "searching"
    if not is_nested or any(line.part.state != Part.State.READY for line in lines):
        return "open"
    if is_stale:
        return "stale"
    return "short" if is_short else "nested"
