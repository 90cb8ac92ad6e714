"""The route card: what each station rests on, its stamp, and whether that is still true."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction

from kaigata.core.errors import InputError
from kaigata.shop.models import CutRun, NestRun, Order, Packet, Part, Run, Stamp
from kaigata.shop.services.digests import changes
from kaigata.shop.services.order_inputs import OrderInputs, cut_settings
from kaigata.shop.services.people import initials_of

__all__ = ["STATIONS", "Station", "stamp", "stations_of", "unstamp", "without_program"]

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


_HEAVY_OF_RUN = {
    NestRun: ("settings", "history"),
    CutRun: ("settings", "document"),
    Packet: ("settings", "manifest", "content"),
}
"""Columns of megabytes that no route card needs; it is looked at every few seconds."""


def without_program(run: CutRun) -> str:
    """Return why a sheet of a run has no program, or nothing when each has one."""
    found = (run.document or {"findings": []})["findings"]
    return next((f["text"] for f in found if f["code"] == "program-withheld"), "")


def stations_of(orders: Sequence[Order]) -> list[list[Station]]:
    """Return the six stations of each of some orders, in as few questions as those of one take."""
    return [[card.station(n) for n in STATIONS] for card in _cards_of(orders)]


def _cards_of(orders: Sequence[Order]) -> list[_Card]:
    stamps = defaultdict[int, dict[int, Stamp]](dict)
    for kept in Stamp.objects.filter(order__in=orders).select_related("by"):
        stamps[kept.order_id][kept.station] = kept
    searches, packets = _newest_of(NestRun, orders), _newest_of(Packet, orders)
    newest, done = _cuts_of(orders)
    cuts = CutRun.objects.defer(*_HEAVY_OF_RUN[CutRun]).in_bulk(newest.values())
    return [
        _Card(
            inputs,
            settings=cut_settings(o),
            stamps=stamps[o.pk],
            newest={4: searches.get(o.pk), 5: cuts.get(newest.get(o.pk)), 6: packets.get(o.pk)},
            cut=done.get(o.pk),
        )
        for o, inputs in zip(orders, OrderInputs.each(orders), strict=True)
    ]


def _newest_of(model: type[NestRun] | type[Packet], orders: Sequence[Order]) -> dict[int, Run]:
    """Return the newest run of each order that has one, by its key."""
    runs = model.objects.filter(order__in=orders).defer(*_HEAVY_OF_RUN[model])
    return {r.order_id: r for r in runs.order_by("order_id", "-pk").distinct("order_id")}


def _cuts_of(orders: Sequence[Order]) -> tuple[dict[int, int], dict[int, int]]:
    """Return the newest runs that cut orders as they are cut now, and the newest that are done."""
    wanted = {o.pk: cut_settings(o) for o in orders}
    newest, done = dict[int, int](), dict[int, int]()
    runs = CutRun.objects.filter(order__in=orders)
    for order, pk, state, settings in runs.values_list("order_id", "pk", "state", "settings"):
        if settings == wanted[order]:
            newest.setdefault(order, pk)
            if state == Run.State.DONE:
                done.setdefault(order, pk)
    return newest, done


class _Card:
    """An order's card as it is read: what it rests on, its stamps, and the newest run by station.

    ``cut`` is the newest run that has cut it as it is cut now.
    """

    def __init__(
        self,
        inputs: OrderInputs,
        *,
        settings: dict[str, object],
        stamps: dict[int, Stamp],
        newest: dict[int, Run | None],
        cut: int | None,
    ) -> None:
        self._inputs, self._settings, self._stamps = inputs, settings, stamps
        self._newest, self._cut = newest, cut

    def station(self, number: int) -> Station:
        """Return a station as the card shows it."""
        name, kept = STATIONS[number], self._stamps.get(number)
        if kept is None:
            return Station(number, name, *self._unstamped(number))
        changed = changes(kept.inputs, self.rests_on(number))
        state = "stale" if changed else "stamped"
        return Station(number, name, state, _in_short(changed), initials_of(kept.by), kept.at)

    def rests_on(self, number: int) -> dict[str, str]:
        """Return what a station rests on now."""
        if number == 1:
            return self._inputs.parts
        if number in (2, 3):
            return self._inputs.blanks
        if number == 4:
            return {**self._inputs.nest, "nest": self._inputs.nest_digest}
        on = self._inputs.cut if number == 5 else self._inputs.packet
        return {**on(self._settings), "cutting paths": str(self._cut or "")}

    def missing(self, number: int) -> str:
        """Return why a station cannot be declared done; nothing where it can."""
        lines = self._inputs.lines
        if not lines:
            return "the order has no part yet"
        waiting = [line.part.name for line in lines if line.part.state != Part.State.READY]
        if waiting:
            return f"{waiting[0]} is not ready"
        if number <= 3:
            return ""
        run = self._newest[number]
        if run is None or run.state not in (Run.State.DONE, Run.State.STOPPED):
            return {4: "there is no finished nest", 5: "there is no path", 6: "there is no packet"}[
                number
            ]
        if isinstance(run, CutRun) and without_program(run):
            return without_program(run)
        changed = changes(run.inputs, self._run_rests_on(number))
        return f"{_in_short(changed)} since it was made" if changed else ""

    def _unstamped(self, number: int) -> tuple[str, str]:
        """Return the state of a station without a stamp, and a word about it."""
        if number <= 3:
            lines = self._inputs.lines
            reading = sum(line.part.state == Part.State.READING for line in lines)
            if number == 1 and reading:
                return "in work", f"reading {reading}"
            return ("in work", "") if lines and number == 1 else ("nothing", "")
        run = self._newest[number]
        if run is None:
            return "nothing", ""
        if run.is_open:
            return "in work", {4: "searching", 5: "planning paths", 6: "packing"}[number]
        if run.state == Run.State.FAILED:
            return "in work", "failed"
        changed = changes(run.inputs, self._run_rests_on(number))
        return ("stale", _in_short(changed)) if changed else ("in work", "not yet stamped")

    def _run_rests_on(self, number: int) -> dict[str, str]:
        # A nest does not rest on itself.
        return self._inputs.nest if number == 4 else self.rests_on(number)


def _in_short(changed: list[str]) -> str:
    if len(changed) <= 1:
        return "".join(changed)
    return f"{changed[0]} and {len(changed) - 1} more"


@transaction.atomic
def stamp(order: Order, station: int, by: AbstractBaseUser) -> Stamp:
    """Declare a station done on what it rests on now.

    Raises
    ------
    InputError
        There is nothing at the station to declare done.
    """
    _require_station(station)
    card = _cards_of([order])[0]
    missing = card.missing(station)
    if missing:
        raise InputError(missing, where=f"station {STATIONS[station]}", fix="Do that first")
    kept, _ = Stamp.objects.update_or_create(
        order=order, station=station, defaults={"by": by, "inputs": card.rests_on(station)}
    )
    return kept


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
