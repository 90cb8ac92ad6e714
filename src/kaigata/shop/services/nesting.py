"""Nesting an order in the background: starting, streaming better nests, stopping."""

from __future__ import annotations

import os
import time
from collections.abc import Iterable
from pathlib import Path

from django.db import transaction
from django.utils import timezone

from kaigata.core.errors import InputError, KaigataError, Stopped
from kaigata.core.formats.documents import (
    NestDocument,
    OrderDocument,
    OrderPartDocument,
    OrderSheetDocument,
)
from kaigata.core.formats.nest_files import nest_document, nest_of_document, order_from_document
from kaigata.core.nest import Nest as FoundNest
from kaigata.core.nest import NestOrder, Progress, search
from kaigata.core.nest.order import require_usable
from kaigata.shop.models import Nest, NestRun, Order, OrderLine, Part, StockSheet
from kaigata.shop.services.digests import digest
from kaigata.shop.services.order_inputs import OrderInputs

__all__ = [
    "choose_run",
    "current_run",
    "go_on",
    "nest_parts",
    "open_nest",
    "order_document",
    "rules_of",
    "start_nesting",
    "stop_nesting",
]

DEFAULT_RULES = {
    "spacing": 6.0,
    "margin": 12.0,
    "turns": [0, 90, 180, 270],
    "any_turn": False,
    "seconds": 20.0,
    "sheets": None,
}
_SAME = 1e-3
_LOOK = 0.5
"""Seconds between two looks at whether a stop is wanted."""


def rules_of(order: Order) -> dict[str, object]:
    """Return the nest rules of an order; what was not chosen is as usual."""
    return {**DEFAULT_RULES, **order.nest_rules}


def order_document(order: Order) -> OrderDocument:
    """Return an order as the document the core nests.

    Raises
    ------
    InputError
        No part is ready, or no sheet is chosen.
    """
    rules = rules_of(order)
    lines = [line for line in order.lines.with_blanks() if line.part.state == Part.State.READY]
    if not lines:
        raise InputError("no part of the order is ready", fix="Drop a STEP file onto the rack")
    chosen = rules["sheets"]
    sheets = StockSheet.objects.select_related("material").filter(count__gt=0)
    if isinstance(chosen, list):
        sheets = sheets.filter(pk__in=chosen)
    materials = {line.material_id for line in lines}
    sheets = sheets.filter(material__in=materials)
    if not sheets:
        raise InputError("no stock sheet of the parts' materials is chosen", fix="Choose sheets")
    return OrderDocument.model_validate(
        {
            "name": f"{order.number} {order.title}",
            "spacing": rules["spacing"],
            "margin": rules["margin"],
            "sheets": [_sheet(s).model_dump() for s in sheets],
            "parts": [
                OrderPartDocument.model_validate(
                    {
                        "id": line.part.name,
                        "quantity": line.quantity,
                        "outer": line.part.blank.document["outer"],
                        "holes": line.part.blank.document["holes"],
                        "bends": [
                            {n: b[n] for n in ("lines", "angle", "direction")}
                            for b in line.part.blank.document["bends"]
                        ],
                        "bend_line_marks": line.part.blank.document.get("bend_line_marks", {}),
                        "creases": [
                            (m["at"], m["end"])
                            for m in line.part.blank.document["marks"]
                            if m.get("end")
                        ],
                        "thickness": line.part.blank.document["thickness"],
                        "material": line.material.name if line.material else None,
                        "turns": "any"
                        if rules["any_turn"] and not line.part.blank.grain
                        else _turns(line, rules["turns"], sheets),
                        "mirror": line.may_mirror,
                        "priority": line.priority,
                        "filler": line.is_filler,
                    }
                ).model_dump()
                for line in lines
            ],
        }
    )


def _turns(line: OrderLine, allowed: list[int], sheets: Iterable[StockSheet]) -> list[int]:
    """Return the allowed turns of a part: where its grain matters, those that lay it so.

    Raises
    ------
    InputError
        Its sheets have grain in different directions, so no turn is right on all of them.
    """
    grain = line.part.blank.grain
    if not grain:
        return allowed
    thickness = line.part.blank.document["thickness"]
    ways = {
        s.grain % 180
        for s in sheets
        if s.material_id == line.material_id and abs(s.thickness - thickness) < _SAME
    }
    if len(ways) > 1:
        raise InputError(
            f"the grain of {line.part.name} matters, and its sheets have grain in different "
            "directions",
            where=f"{thickness:g} {line.material}",
            fix="Choose sheets with grain one way",
        )
    is_along_x = (grain == "along") == (next(iter(ways), 0.0) == 0)
    own = (0, 180) if is_along_x else (90, 270)
    return [t for t in allowed if t in own] or [own[0]]


def _sheet(sheet: StockSheet) -> OrderSheetDocument:
    return OrderSheetDocument(
        id=sheet.name,
        width=sheet.width,
        height=sheet.height,
        count=sheet.count,
        thickness=sheet.thickness,
        material=sheet.material.name,
        outline=sheet.outline,
        grain=sheet.grain,
        cost=sheet.cost,
    )


@transaction.atomic
def start_nesting(order: Order) -> NestRun:
    """Queue a search with the order's rules; one that still runs is asked to stop.

    Raises
    ------
    InputError
        The order cannot be nested as it is.
    """
    from kaigata.shop.tasks import nest_task

    document = order_document(order)
    require_usable(order_from_document(document, Path()))
    stop_nesting(order)
    run = NestRun.objects.create(
        order=order, inputs=OrderInputs.of(order).nest, settings={"order": document.model_dump()}
    )
    _choose(order, None)
    nest_task.defer(run_id=run.pk)
    return run


def _choose(order: Order, run: NestRun | None) -> None:
    order.chosen_run = run
    order.save(update_fields=["chosen_run"])


def current_run(order: Order) -> NestRun | None:
    """Return the search an order shows: the alternative that was chosen, else the newest."""
    return order.chosen_run or order.nestruns.select_related("nest").first()


def choose_run(order: Order, run: NestRun) -> None:
    """Choose one of an order's alternatives.

    Raises
    ------
    InputError
        It has found no nest.
    """
    if not hasattr(run, "nest"):
        raise InputError("that search has found no nest", fix="Choose another")
    _choose(order, run)


@transaction.atomic
def go_on(order: Order, seconds: float | None = None) -> NestRun:
    """Queue a search that goes on from the nest an order shows: what is locked stays.

    Copies that lie nowhere are placed first. The nest it starts from stays as an alternative.
    It searches for ``seconds``, or as long as the order's rules say.

    Raises
    ------
    InputError
        There is no nest, it is still searched for, or it breaks rules.
    """
    from kaigata.shop.tasks import nest_task

    before = current_run(order)
    if before is None or before.is_open or not hasattr(before, "nest"):
        raise InputError("there is no finished nest to go on from", fix="Nest the order first")
    if before.nest.faults:
        raise InputError(
            f"the nest breaks rules: {before.nest.faults[0]['text']}",
            where=f"sheet {before.nest.faults[0]['sheet']}",
            fix="Move or take off what is marked first",
        )
    run = NestRun.objects.create(
        order=order,
        inputs=before.inputs,
        settings={
            "order": before.settings["order"],
            "start": {k: v for k, v in before.nest.document.items() if k != "order"},
            "locked": before.nest.locked,
            "seconds": seconds,
        },
    )
    _choose(order, None)
    nest_task.defer(run_id=run.pk)
    return run


def stop_nesting(order: Order) -> None:
    """Ask every open search of an order to stop; what it has found stays."""
    NestRun.objects.filter(order=order, state=NestRun.State.QUEUED).update(
        state=NestRun.State.STOPPED
    )
    NestRun.objects.filter(order=order, state=NestRun.State.RUNNING).update(stop_wanted=True)


def nest_parts(run_id: int) -> None:
    """Search, keeping each better nest as it comes; the work of a worker."""
    run = NestRun.objects.filter(pk=run_id).first()
    if run is None or not run.is_open:
        return
    run.state, run.started = NestRun.State.RUNNING, timezone.now()
    run.attempts += 1
    run.save()
    document = OrderDocument.model_validate(run.settings["order"])
    order = order_from_document(document, Path())
    seconds = float(run.settings.get("seconds") or rules_of(run.order)["seconds"])
    start, spent = _start_of(run, order), run.history[-1]["seconds"] if run.history else 0.0
    locked = {(part, copy) for part, copy in run.settings.get("locked", [])}
    watch = _Watch(run_id, seconds, spent)
    try:
        search(
            order,
            seconds=max(1.0, seconds - spent),
            seed=7 + run.attempts,
            workers=os.cpu_count() or 1,
            start=start,
            locked=locked,
            on_better=lambda progress: _keep(run, progress, document, order, start, spent),
            should_stop=watch.stop_wanted,
        )
        state = NestRun.State.STOPPED if watch.stopped else NestRun.State.DONE
        NestRun.objects.filter(pk=run_id).update(state=state, progress=1.0)
    except Stopped:
        NestRun.objects.filter(pk=run_id).update(state=NestRun.State.STOPPED)
    except KaigataError as error:
        NestRun.objects.filter(pk=run_id).update(
            state=NestRun.State.FAILED, what=error.what, where=error.where, fix=error.fix
        )


def _start_of(run: NestRun, order: NestOrder) -> FoundNest | None:
    """Return the nest a search starts from: its own best when a worker died over it."""
    kept = run.nest.document if hasattr(run, "nest") else run.settings.get("start")
    if kept is None:
        return None
    return nest_of_document(NestDocument.model_validate(kept), order, units="mm")


class _Watch:
    """Looks now and then whether a stop is wanted, and tells how far the time has run."""

    def __init__(self, run_id: int, seconds: float, spent: float) -> None:
        self._run_id, self._seconds = run_id, seconds
        self._looked = time.monotonic()
        self._began = self._looked - spent
        self.stopped = False

    def stop_wanted(self) -> bool:
        now = time.monotonic()
        if not self.stopped and now - self._looked > _LOOK:
            self._looked = now
            row = NestRun.objects.filter(pk=self._run_id)
            row.update(progress=min(1.0, (now - self._began) / self._seconds))
            self.stopped = not row.filter(stop_wanted=False).exists()
        return self.stopped


@transaction.atomic
def _keep(
    run: NestRun,
    progress: Progress,
    document: OrderDocument,
    order: NestOrder,
    start: FoundNest | None,
    spent: float,
) -> None:
    found = progress.nest
    nested = nest_document(found, document, order)
    data = nested.model_dump(mode="json", by_alias=True)
    kept = {tuple(pair) for pair in run.settings.get("locked", [])}
    Nest.objects.update_or_create(
        run=run,
        defaults={
            "document": data,
            "locked": _still_locked(found, start, kept),
            "faults": [],
            "counted_area": found.counted_area,
            "digest": digest(data["sheets"]),
        },
    )
    run.history = [
        *run.history,
        {
            "seconds": round(spent + progress.seconds, 2),
            "utilisation": round(found.utilisation, 5),
            "sheets": len(found.sheets),
            "left_out": nested.missed,
        },
    ]
    NestRun.objects.filter(pk=run.pk).update(history=run.history)


def _still_locked(
    found: FoundNest, start: FoundNest | None, locked: set[tuple[object, ...]]
) -> list[list[object]]:
    """Return the locked placements by the copy numbers a nest gives them: they lie as they did."""
    if start is None or not locked:
        return []
    stay = {
        (s.sheet, p.part, round(p.x, 6), round(p.y, 6), p.mirrored)
        for s in start.sheets
        for p in s.placements
        if (p.part, p.copy) in locked
    }
    return [
        [p.part, p.copy]
        for s in found.sheets
        for p in s.placements
        if (s.sheet, p.part, round(p.x, 6), round(p.y, 6), p.mirrored) in stay
    ]


def open_nest(nest: Nest) -> tuple[OrderDocument, NestOrder, FoundNest]:
    """Return a kept nest as the core's values."""
    document = NestDocument.model_validate(nest.document)
    if document.order is None:
        raise InputError("the nest does not hold its order", fix="Nest again")
    order = order_from_document(document.order, Path())
    return document.order, order, nest_of_document(document, order, units="mm")
