"""Cutting a nest in the background: proved programs and their drawings."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import fields

from django.db import transaction
from django.utils import timezone

from kaigata.core.cut import ToolPath, find_post
from kaigata.core.errors import InputError, KaigataError
from kaigata.core.formats.cut_files import Program as ProvedProgram
from kaigata.core.formats.svg import run_path
from kaigata.core.metal.stores import CutChartRow, cut_chart_of
from kaigata.core.packet.cutting import CutOptions, cut_nest
from kaigata.shop.models import CutRow, CutRun, Material, Order, Program
from kaigata.shop.services.digests import changes, digest
from kaigata.shop.services.nesting import current_run, open_nest
from kaigata.shop.services.route_card import nest_inputs

__all__ = [
    "cut_chart",
    "cut_options",
    "cut_order",
    "keep_cut_chart",
    "start_cutting",
    "take_cut_chart",
]


def cut_chart() -> tuple[CutChartRow, ...]:
    """Return the shop's cut chart."""
    return tuple(
        CutChartRow(
            material=r.material.name if r.material else "*",
            **{f.name: getattr(r, f.name) for f in fields(CutChartRow) if f.name != "material"},
        )
        for r in CutRow.objects.select_related("material")
    )


def keep_cut_chart(rows: Iterable[CutChartRow]) -> None:
    """Keep rows as the shop's whole cut chart; the rows of before go."""
    materials = {m.name: m for m in Material.objects.all()}
    CutRow.objects.all().delete()
    CutRow.objects.bulk_create(
        CutRow(
            material=materials.get(r.material),
            **{f.name: getattr(r, f.name) for f in fields(CutChartRow) if f.name != "material"},
        )
        for r in rows
    )


@transaction.atomic
def take_cut_chart(text: str, file: str) -> None:
    """Take a cut chart in from CSV, all of it or nothing.

    Raises
    ------
    InputError
        A line is wrong or names an unknown material; file and line are told.
    """
    known = {"*", *Material.objects.values_list("name", flat=True)}
    rows = cut_chart_of(text, file)
    for line, row in enumerate(rows, start=2):
        if row.material not in known:
            raise InputError(
                f"there is no material {row.material!r}",
                where=f"{file} line {line}",
                fix=f"Write * for every material, or one of {', '.join(sorted(known - {'*'}))}",
            )
    if not rows:
        raise InputError("the cut chart has no row", where=file)
    keep_cut_chart(rows)


def cut_options(order: Order) -> CutOptions:
    """Return how an order is cut: its choice, with the shop's chart."""
    choice = {"process": "laser", "kerf": None, "post": "plain", **order.cut_choice}
    return CutOptions(
        process=choice["process"],
        chart=cut_chart(),
        kerf=choice["kerf"],
        post=find_post(choice["post"]),
    )


def _cut_inputs(order: Order, nest_digest: str, run_id: int) -> dict[str, str]:
    return {
        **nest_inputs(order),
        "nest": nest_digest,
        "cut settings": digest(order.cut_choice),
        "cutting paths": str(run_id),
    }


@transaction.atomic
def start_cutting(order: Order) -> CutRun:
    """Queue the planning of paths for an order's newest nest.

    Raises
    ------
    InputError
        There is no nest, it is still searched for, or something it rests on has changed.
    """
    from kaigata.shop.tasks import cut_task

    run = current_run(order)
    if run is None or run.is_open or not hasattr(run, "nest"):
        raise InputError("there is no finished nest to cut", fix="Nest the order first")
    changed = changes(run.inputs, nest_inputs(order))
    if changed:
        raise InputError(
            f"the nest is stale: {', '.join(changed)}", where="nest", fix="Nest the order again"
        )
    if run.nest.faults:
        raise InputError(
            f"the nest breaks rules: {run.nest.faults[0]['text']}",
            where=f"sheet {run.nest.faults[0]['sheet']}",
            fix="Move or take off what is marked first",
        )
    cut_options(order)
    CutRun.objects.filter(order=order, state=CutRun.State.QUEUED).update(state=CutRun.State.STOPPED)
    cut = CutRun.objects.create(order=order, nest=run.nest, settings=order.cut_choice)
    cut.inputs = _cut_inputs(order, run.nest.digest, cut.pk)
    cut.save()
    cut_task.defer(run_id=cut.pk)
    return cut


def cut_order(run_id: int) -> None:
    """Plan the paths, prove the programs and keep them; the work of a worker."""
    run = CutRun.objects.select_related("order", "nest").filter(pk=run_id).first()
    if run is None or not run.is_open:
        return
    CutRun.objects.filter(pk=run_id).update(
        state=CutRun.State.RUNNING, started=timezone.now(), attempts=run.attempts + 1
    )
    try:
        document, order, nest = open_nest(run.nest)
        result = cut_nest(order, nest, cut_options(run.order), title=document.name)
    except KaigataError as error:
        CutRun.objects.filter(pk=run_id).update(
            state=CutRun.State.FAILED, what=error.what, where=error.where, fix=error.fix
        )
        return
    with transaction.atomic():
        run.programs.all().delete()
        Program.objects.bulk_create(
            Program(run=run, number=p.path.number, text=p.text, drawing=_drawing(p))
            for p in result.programs
        )
        CutRun.objects.filter(pk=run_id).update(
            state=CutRun.State.DONE,
            progress=1.0,
            document=result.document.model_dump(mode="json", by_alias=True),
        )


def _drawing(program: ProvedProgram) -> dict[str, object]:
    """Return a path as it is drawn: a row a pass, in the order of cutting."""
    path: ToolPath = program.path
    return {
        "passes": [
            {
                "part": p.part,
                "copy": p.copy,
                "name": p.name,
                "pierce": p.pierce,
                "end": p.end,
                "path": run_path(p.segments),
                "lead": "".join(run_path([s]) for s in (p.lead, p.out) if s),
                "seconds": [round(s, 4) for s in path.seconds_of(i)],
                "length": round(p.length, 3),
            }
            for i, p in enumerate(path.passes)
        ],
        "rapids": "".join(
            f"M{s.start[0]:.3f} {s.start[1]:.3f}L{s.end[0]:.3f} {s.end[1]:.3f}" for s in path.rapids
        ),
    }
