"""Cutting a nest in the background: proved programs and their drawings."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import fields, replace

from django.db import transaction
from django.utils import timezone

from kaigata.core.cut import Run, ToolPath, find_post
from kaigata.core.errors import InputError, KaigataError
from kaigata.core.formats.blank_files import finding_document
from kaigata.core.formats.cut_files import Program as ProvedProgram
from kaigata.core.formats.cut_files import cut_document
from kaigata.core.formats.documents import CutChoice, CutDocument, FindingDocument
from kaigata.core.formats.svg import run_path
from kaigata.core.metal.stores import PROCESSES, CutChartRow, cut_chart_of
from kaigata.core.nest import NestedSheet, NestOrder
from kaigata.core.packet.cutting import CutOptions, cut_sheets, rules_of, wishes_of
from kaigata.shop.models import CutRow, CutRun, Material, Order, Program
from kaigata.shop.services.cut_by_hand import hand_of
from kaigata.shop.services.digests import changes, digest
from kaigata.shop.services.machines import known_posts
from kaigata.shop.services.nesting import current_run, open_nest
from kaigata.shop.services.order_inputs import OrderInputs, cut_runs, cut_settings

__all__ = [
    "compare_processes",
    "cut_chart",
    "cut_options",
    "cut_order",
    "keep_cut_chart",
    "start_cutting",
    "take_cut_chart",
]

_MADE_BY = 4
"""Raised when the way programs are made changes, so that none made before is used again."""


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
    rows = cut_chart_of(text, file, set(Material.objects.values_list("name", flat=True)))
    if not rows:
        raise InputError("the cut chart has no row", where=file)
    keep_cut_chart(rows)


def cut_options(order: Order, settings: dict[str, object]) -> CutOptions:
    """Return how an order is cut by some settings, with the shop's chart and posts.

    Raises
    ------
    InputError
        The post is not known.
    """
    choice = CutChoice.model_validate(settings)
    post = find_post(choice.post, known_posts())
    wishes = replace(wishes_of(choice, post), by_hand=hand_of(order))
    return CutOptions(
        process=choice.process or "laser",
        chart=cut_chart(),
        kerf=choice.kerf,
        post=post,
        wishes=wishes,
    )


@transaction.atomic
def start_cutting(order: Order, process: str | None = None) -> CutRun:
    """Queue the planning of paths for an order's newest nest, by its process or another.

    Raises
    ------
    InputError
        There is no nest, it is still searched for, or something it rests on has changed.
    """
    from kaigata.shop.tasks import cut_task

    run = current_run(order)
    if run is None or run.is_open or not hasattr(run, "nest"):
        raise InputError("there is no finished nest to cut", fix="Nest the order first")
    changed = changes(run.inputs, OrderInputs.of(order).nest)
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
    settings = cut_settings(order, process)
    cut_options(order, settings)
    cut_runs(order, settings).filter(state=CutRun.State.QUEUED).update(state=CutRun.State.STOPPED)
    cut = CutRun.objects.create(order=order, nest=run.nest, settings=settings)
    cut.inputs = {**OrderInputs.of(order).cut(settings), "cutting paths": str(cut.pk)}
    cut.save()
    cut_task.defer(run_id=cut.pk)
    return cut


@transaction.atomic
def compare_processes(order: Order) -> None:
    """Queue paths by the other processes, with everything else as the order is to be cut.

    Raises
    ------
    InputError
        There is no nest that can be cut.
    """
    charted = {r.process for r in cut_chart()}
    for process in PROCESSES:
        if process != cut_settings(order)["process"] and process in charted:
            start_cutting(order, process)


def cut_order(run_id: int) -> None:
    """Plan the paths, prove the programs and keep them; the work of a worker.

    A sheet whose program was made before from just the same is not planned again.
    """
    run = CutRun.objects.select_related("order", "nest").filter(pk=run_id).first()
    if run is None or not run.is_open:
        return
    mine = CutRun.objects.filter(pk=run_id)
    mine.update(state=CutRun.State.RUNNING, started=timezone.now(), attempts=run.attempts + 1)
    try:
        kept, withheld = _cut_sheets(run)
    except KaigataError as error:
        mine.update(state=CutRun.State.FAILED, what=error.what, where=error.where, fix=error.fix)
        return
    document = CutDocument(
        process=str(run.settings["process"]),
        sheets=[p.document["sheet"] for p in kept],
        findings=[*withheld, *(f for p in kept for f in p.document["findings"])],
    )
    with transaction.atomic():
        run.programs.all().delete()
        Program.objects.bulk_create(kept)
        mine.update(
            state=CutRun.State.DONE,
            progress=1.0,
            document=document.model_dump(mode="json", by_alias=True),
        )


def _cut_sheets(run: CutRun) -> tuple[list[Program], list[FindingDocument]]:
    """Return a program for each sheet, made anew or as it was, and what withheld others."""
    document, order, nest = open_nest(run.nest)
    options = cut_options(run.order, run.settings)
    made_from = {s.number: _made_from(order, s, options) for s in nest.sheets}
    kept: dict[int, Program] = {}
    for number, digested in made_from.items():
        same = Program.objects.filter(run__order=run.order, made_from=digested).first()
        if same is not None:
            same.pk = None
            kept[number] = same
    missing = [s for s in nest.sheets if s.number not in kept]
    withheld: list[FindingDocument] = []
    for done, (program, refused) in enumerate(
        cut_sheets(order, missing, options, title=document.name), start=len(kept) + 1
    ):
        withheld += [finding_document(f) for f in refused]
        if program:
            kept[program.path.number] = _record(program, options.process)
        CutRun.objects.filter(pk=run.pk).update(progress=done / len(nest.sheets))
    for number, program in kept.items():
        program.run, program.made_from = run, made_from[number]
    return [kept[n] for n in sorted(kept)], withheld


def _made_from(order: NestOrder, sheet: NestedSheet, options: CutOptions) -> str:
    """Return a digest of all that a sheet's program rests on."""
    names = {p.part for p in sheet.placements}
    return digest(
        [
            _MADE_BY,
            repr(sheet),
            repr([p for p in order.parts if p.id in names]),
            repr([s for s in order.sheets if s.id == sheet.sheet]),
            repr(rules_of(order, sheet, options)),
            repr(replace(options.wishes, by_hand={})),
            repr(options.wishes.by_hand.get(sheet.number)),
            options.post.model_dump_json(),
        ]
    )


def _record(program: ProvedProgram, process: str) -> Program:
    document = cut_document(process, [program])
    return Program(
        number=program.path.number,
        text=program.text,
        path_dxf=program.path_dxf,
        drawing=_drawing(program),
        document={
            "sheet": document.sheets[0].model_dump(mode="json", by_alias=True),
            "findings": [f.model_dump(mode="json") for f in document.findings],
        },
    )


def _drawing(program: ProvedProgram) -> dict[str, object]:
    """Return a path as it is drawn: a row a run, in the order of the program."""
    path: ToolPath = program.path
    return {
        "passes": [_run_drawing(path, run, i) for i, run in enumerate(path.runs)],
        "rapids": "".join(
            f"M{s.start[0]:.3f} {s.start[1]:.3f}L{s.end[0]:.3f} {s.end[1]:.3f}" for s in path.rapids
        ),
    }


def _run_drawing(path: ToolPath, run: Run, index: int) -> dict[str, object]:
    part, copy, name, leads, entry = "", 0, "", (), run.segments[0].start
    if run.kind == "cut":
        wanted = path.passes[run.of]
        part, copy, name = wanted.part, wanted.copy, wanted.name
        entry = wanted.path.segments[0].start
        leads = tuple(s for s in (wanted.lead, wanted.out) if s in run.segments)
    else:
        name = (path.marks if run.kind == "mark" else path.scrap)[run.of].name
    before = path.runs[index - 1] if index else None
    return {
        "kind": run.kind,
        "goes_on": before is not None and (before.kind, before.of) == (run.kind, run.of),
        "part": part,
        "copy": copy,
        "name": name,
        "way": [s.end for s in run.way],
        "pierce": run.segments[0].start,
        "entry": entry,
        "end": run.segments[-1].end,
        "path": run_path(run.segments),
        "lead": "".join(run_path([s]) for s in leads if s),
        "seconds": [round(s, 6) for s in path.seconds_of(run)],
        "length": round(run.length, 3),
    }
