"""The route card: what each station rests on, its stamp, and whether that is still true."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import QuerySet

from kaigata.core.errors import InputError
from kaigata.core.formats.documents import CutChoice
from kaigata.shop.models import (
    CutRow,
    CutRun,
    Nest,
    NestRun,
    Order,
    OrderLine,
    Packet,
    Part,
    Post,
    Run,
    ShopLettering,
    Stamp,
)
from kaigata.shop.services.digests import changes, digest
from kaigata.shop.services.people import initials_of

__all__ = [
    "STATIONS",
    "Station",
    "blank_inputs",
    "cut_inputs",
    "cut_runs",
    "cut_settings",
    "nest_inputs",
    "packet_inputs",
    "stamp",
    "stations",
    "unstamp",
    "without_program",
]

_MADE_AT: dict[int, type[NestRun] | type[CutRun] | type[Packet]] = {
    4: NestRun,
    5: CutRun,
    6: Packet,
}
STATIONS = {1: "Part", 2: "Blank", 3: "Bends", 4: "Nest", 5: "Cut", 6: "Packet"}


@dataclass(frozen=True, slots=True)
class Station:
    """A station's state: ``nothing``, ``in work``, ``stamped`` or ``stale``, and what changed."""

    number: int
    name: str
    state: str
    note: str = ""
    initials: str = ""
    at: datetime | None = None


_HEAVY_OF_PART = ("folded", "shell", "drawn", "given")
_HEAVY_OF_BLANK = ("document", "previous", "chart", "bend_rules")
_HEAVY_OF_RUN = {
    NestRun: ("settings", "history"),
    CutRun: ("settings", "document"),
    Packet: ("settings", "manifest", "content"),
}
"""Columns of megabytes that no route card needs; it is looked at every few seconds."""


def _lines(order: Order) -> list[OrderLine]:
    heavy = (
        *(f"part__{n}" for n in _HEAVY_OF_PART),
        *(f"part__blank__{n}" for n in _HEAVY_OF_BLANK),
    )
    return list(order.lines.select_related("part__blank", "material").defer(*heavy))


def _newest(model: type[NestRun] | type[CutRun] | type[Packet], order: Order) -> Run | None:
    runs = model.objects.filter(order=order)
    if model is CutRun:
        runs = cut_runs(order, cut_settings(order))
    found: Run | None = runs.defer(*_HEAVY_OF_RUN[model]).first()
    return found


def cut_settings(order: Order, process: str | None = None) -> dict[str, object]:
    """Return all settings an order is cut by, or would be by another process."""
    given = {"process": "laser", "post": "plain", **order.cut_choice}
    choice = CutChoice.model_validate({**given, "process": process or given["process"]})
    return choice.model_dump(mode="json")


def cut_runs(order: Order, settings: dict[str, object]) -> QuerySet[CutRun]:
    """Return the runs that cut an order by some settings, newest first."""
    return CutRun.objects.filter(order=order, settings=settings)


def without_program(run: CutRun) -> str:
    """Return why a sheet of a run has no program, or nothing when each has one."""
    found = (run.document or {"findings": []})["findings"]
    return next((f["text"] for f in found if f["code"] == "program-withheld"), "")


def cut_inputs(order: Order, settings: dict[str, object]) -> dict[str, str]:
    """Return what the paths of an order rest on, but for the run that made them."""
    chart = [{k: v for k, v in row.items() if k != "id"} for row in CutRow.objects.values()]
    post = Post.objects.filter(name=settings.get("post", "plain")).values("document").first()
    return {
        **nest_inputs(order),
        "nest": _nest_digest(order),
        "cut settings": digest(settings),
        "cut chart": digest([r for r in chart if r["process"] == settings.get("process", "laser")]),
        "post": digest(post),
        "paths by hand": digest(order.cut_by_hand),
    }


def packet_inputs(order: Order, settings: dict[str, object]) -> dict[str, str]:
    """Return what an order's packet rests on: what its paths do, and how drawings are lettered."""
    kept = ShopLettering.objects.first()
    return {
        **cut_inputs(order, settings),
        **({"lettering of drawings": digest(kept.values)} if kept else {}),
        **{
            f"drawing of {line.part.name}": digest(line.part.blank.markup)
            for line in _lines(order)
            if line.part.state == Part.State.READY and line.part.blank.markup
        },
    }


def _nest_digest(order: Order) -> str:
    nests = Nest.objects.filter(run__order=order).order_by("-run_id")
    if order.chosen_run_id:
        nests = nests.filter(run_id=order.chosen_run_id)
    return nests.values_list("digest", flat=True).first() or ""


def blank_inputs(order: Order) -> dict[str, str]:
    """Return for each ready part a digest of its blank, quantity and gauge."""
    return {
        line.part.name: digest([line.part.blank.digest, line.quantity])
        for line in _lines(order)
        if line.part.state == Part.State.READY
    }


def nest_inputs(order: Order) -> dict[str, str]:
    """Return what a nest rests on: the blanks, the rules of the order and of single parts."""
    return {
        **blank_inputs(order),
        "nest rules": digest(order.nest_rules),
        **{
            f"nest rules of {line.part.name}": digest(own)
            for line in _lines(order)
            if any(own := [line.priority, line.is_filler, line.may_mirror])
        },
    }


def _inputs(order: Order, station: int) -> dict[str, str]:
    """Return what a station rests on now."""
    if station == 1:
        return {
            line.part.name: digest([line.part.source_id, line.quantity]) for line in _lines(order)
        }
    if station in (2, 3):
        return blank_inputs(order)
    if station == 4:
        return {**nest_inputs(order), "nest": _nest_digest(order)}
    done = cut_runs(order, cut_settings(order)).filter(state=Run.State.DONE)
    newest = done.values_list("pk", flat=True).first()
    rests_on = cut_inputs if station == 5 else packet_inputs
    return {**rests_on(order, cut_settings(order)), "cutting paths": str(newest or "")}


def stations(order: Order) -> list[Station]:
    """Return the six stations of an order as its route card shows them."""
    stamps = {s.station: s for s in order.stamps.select_related("by")}
    return [_station(order, n, stamps.get(n)) for n in STATIONS]


def _station(order: Order, number: int, kept: Stamp | None) -> Station:
    name = STATIONS[number]
    if kept is None:
        state, note = _unstamped(order, number)
        return Station(number, name, state, note)
    changed = changes(kept.inputs, _inputs(order, number))
    state = "stale" if changed else "stamped"
    return Station(number, name, state, _in_short(changed), initials_of(kept.by), kept.at)


def _in_short(changed: list[str]) -> str:
    if len(changed) <= 1:
        return "".join(changed)
    return f"{changed[0]} and {len(changed) - 1} more"


def _unstamped(order: Order, number: int) -> tuple[str, str]:
    """Return the state of a station without a stamp, and a word about it."""
    if number <= 3:
        lines = _lines(order)
        reading = sum(line.part.state == Part.State.READING for line in lines)
        if number == 1 and reading:
            return "in work", f"reading {reading}"
        return ("in work", "") if lines and number == 1 else ("nothing", "")
    run = _newest(_MADE_AT[number], order)
    if run is None:
        return "nothing", ""
    if run.is_open:
        return "in work", {4: "searching", 5: "planning paths", 6: "packing"}[number]
    if run.state == Run.State.FAILED:
        return "in work", "failed"
    changed = changes(run.inputs, _run_inputs(order, number))
    return ("stale", _in_short(changed)) if changed else ("in work", "not yet stamped")


def _run_inputs(order: Order, number: int) -> dict[str, str]:
    return nest_inputs(order) if number == 4 else _inputs(order, number)


@transaction.atomic
def stamp(order: Order, station: int, by: AbstractBaseUser) -> Stamp:
    """Declare a station done on what it rests on now.

    Raises
    ------
    InputError
        There is nothing at the station to declare done.
    """
    _require_station(station)
    missing = _missing(order, station)
    if missing:
        raise InputError(missing, where=f"station {STATIONS[station]}", fix="Do that first")
    kept, _ = Stamp.objects.update_or_create(
        order=order, station=station, defaults={"by": by, "inputs": _inputs(order, station)}
    )
    return kept


def _missing(order: Order, station: int) -> str:
    lines = _lines(order)
    if not lines:
        return "the order has no part yet"
    waiting = [line.part.name for line in lines if line.part.state != Part.State.READY]
    if waiting:
        return f"{waiting[0]} is not ready"
    if station <= 3:
        return ""
    run = _newest(_MADE_AT[station], order)
    if run is None or run.state not in (Run.State.DONE, Run.State.STOPPED):
        return {4: "there is no finished nest", 5: "there is no path", 6: "there is no packet"}[
            station
        ]
    if isinstance(run, CutRun) and without_program(run):
        return without_program(run)
    changed = changes(run.inputs, _run_inputs(order, station))
    return f"{_in_short(changed)} since it was made" if changed else ""


def _require_station(station: int) -> None:
    if station not in STATIONS:
        raise InputError(f"there is no station {station}", fix="Stations are 1 to 6")


def unstamp(order: Order, station: int) -> None:
    """Take a station's stamp away.

    Raises
    ------
    InputError
        There is no such station.
    """
    _require_station(station)
    Stamp.objects.filter(order=order, station=station).delete()
