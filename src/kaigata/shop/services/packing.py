"""The packet: everything the floor needs, in one zip with a manifest of hashes."""

from __future__ import annotations

import json
import tempfile
from contextlib import suppress
from pathlib import Path

from django.db import transaction
from django.utils import timezone

from kaigata.core.errors import InputError, KaigataError, LimitError
from kaigata.core.formats.documents import CutDocument
from kaigata.core.formats.nest_files import sheet_dxf
from kaigata.core.formats.report import nest_report
from kaigata.core.formats.svg import sheet_svg
from kaigata.core.formats.whole import file_name, free_name
from kaigata.core.packet.gather import write_packet
from kaigata.core.packet.part_files import PartToWrite, write_parts
from kaigata.shop.models import CutRun, Order, Packet, Part
from kaigata.shop.services.assemblies import (
    assemblies_of,
    assembly_file,
    assembly_name,
    assembly_pdf,
)
from kaigata.shop.services.blanks import document_of, mesh_maker
from kaigata.shop.services.checks import require_checked
from kaigata.shop.services.digests import changes
from kaigata.shop.services.drawings import choices_of
from kaigata.shop.services.nesting import open_nest
from kaigata.shop.services.order_inputs import OrderInputs, cut_runs, cut_settings
from kaigata.shop.services.route_card import without_program

__all__ = ["pack_order", "start_packing"]

_DRAWN = 0.9
"""How far a packet is once the files of all parts are written."""


@transaction.atomic
def start_packing(order: Order) -> Packet:
    """Queue the packing of an order's newest programs.

    Raises
    ------
    InputError
        There are no programs, something they rest on has changed, or a check fails that nobody
        lets pass.
    """
    from kaigata.shop.tasks import pack_task

    settings = cut_settings(order)
    run = cut_runs(order, settings).first()
    if run is None or run.state != CutRun.State.DONE:
        raise InputError("there are no programs to pack", fix="Cut the nest first")
    if without_program(run):
        raise InputError(without_program(run).rstrip("."), where="cut", fix="Cut it otherwise")
    rests_on = OrderInputs.of(order)
    changed = changes(run.inputs, {**run.inputs, **rests_on.cut(settings)})
    if changed:
        raise InputError(
            f"the programs are stale: {', '.join(changed)}",
            where="cut",
            fix="Nest and cut again what has changed",
        )
    checks = require_checked(order)
    packet = Packet.objects.create(
        order=order,
        inputs={**run.inputs, **rests_on.packet(settings)},
        settings={"cut": run.pk, "checks": checks},
    )
    pack_task.defer(run_id=packet.pk)
    return packet


def pack_order(run_id: int) -> None:
    """Write every file of the packet and keep the zip; the work of a worker."""
    packet = Packet.objects.select_related("order").filter(pk=run_id).first()
    if packet is None or not packet.is_open:
        return
    Packet.objects.filter(pk=run_id).update(
        state=Packet.State.RUNNING, started=timezone.now(), attempts=packet.attempts + 1
    )
    try:
        with tempfile.TemporaryDirectory(prefix="kaigata-") as folder:
            out = Path(folder)
            _write(packet, out)
            content = (out / "packet.zip").read_bytes()
            manifest = json.loads((out / "manifest.json").read_text(encoding="utf-8"))
    except KaigataError as error:
        Packet.objects.filter(pk=run_id).update(
            state=Packet.State.FAILED, what=error.what, where=error.where, fix=error.fix
        )
        return
    Packet.objects.filter(pk=run_id).update(
        state=Packet.State.DONE, progress=1.0, manifest=manifest, content=content
    )


def _write(packet: Packet, out: Path) -> None:
    run = CutRun.objects.select_related("nest").get(pk=packet.settings["cut"])
    document, order, nest = open_nest(run.nest)
    cut = CutDocument.model_validate(run.document)
    for name in ("blanks", "nest", "cut"):
        (out / name).mkdir()
    made_from: dict[str, str] = {}
    lines = packet.order.lines.select_related("part__blank", "part__source", "material")
    ready = list(lines.filter(part__state=Part.State.READY))
    blanks = [line.part.blank for line in ready]
    parts = [
        PartToWrite(document=document_of(blank), choice=choice, mesh=mesh_maker(blank))
        for blank, choice in zip(blanks, choices_of(packet.order, blanks), strict=True)
    ]
    for done, written in enumerate(write_parts(parts, out / "blanks"), start=1):
        source = ready[done - 1].part.source.name
        made_from |= {f"blanks/{name}": source for name in written.names}
        Packet.objects.filter(pk=packet.pk).update(progress=_DRAWN * done / len(ready))
    for line in assemblies_of(packet.order):
        stem = file_name(f"{assembly_name(line.part.came_in)} assembly")
        name = free_name(stem, [p.stem for p in (out / "blanks").glob("*.pdf")])
        # One too large to be drawn is left out; its page says so when it is asked for.
        with suppress(LimitError):
            (out / "blanks" / f"{name}.pdf").write_bytes(assembly_pdf(line))
            made_from[f"blanks/{name}.pdf"] = assembly_file(line.part.came_in)
    _write_json(out / "nest" / "nest.json", run.nest.document)
    _write_json(out / "nest" / "order.json", document.model_dump(mode="json"))
    for sheet in nest.sheets:
        stem = f"sheet-{sheet.number}"
        sheet_dxf(order, sheet).write(out / "nest" / f"{stem}.dxf")
        (out / "nest" / f"{stem}.svg").write_text(sheet_svg(order, sheet), encoding="utf-8")
    _write_json(out / "cut" / "cut.json", run.document)
    for program in run.programs.all():
        (out / "cut" / f"sheet-{program.number}.nc").write_text(program.text, encoding="ascii")
        made_from[f"cut/sheet-{program.number}.nc"] = f"nest/sheet-{program.number}"
        drawing = out / "cut" / f"sheet-{program.number}.path.dxf"
        drawing.write_text(program.path_dxf, encoding="utf-8")
    report = nest_report(order, nest, title=document.name, cut=cut)
    (out / "report.html").write_text(report, encoding="utf-8")
    write_packet(
        out,
        made_from=lambda name: made_from.get(name, "the order"),
        checks=packet.settings["checks"],
    )


def _write_json(path: Path, data: object) -> None:
    path.write_text(json.dumps(data, indent=1) + "\n", encoding="utf-8")
