"""Files onto the rack: keeping them, reading them in a worker, making parts of them."""

from __future__ import annotations

import hashlib
import tempfile
from pathlib import Path

from django.conf import settings
from django.db import transaction
from pydantic import TypeAdapter

from kaigata.core.errors import InputError, KaigataError, LimitError
from kaigata.core.formats.whole import free_name
from kaigata.core.intake import ReadResult, read_parts
from kaigata.core.part import FoldedPart
from kaigata.shop.models import Gauge, Material, Order, OrderLine, Part, SourceFile, StockSheet
from kaigata.shop.services.blanks import unfold_part

__all__ = ["FOLDED", "give_up_reading", "put_on_rack", "read_part"]

FOLDED = TypeAdapter(FoldedPart)


@transaction.atomic
def put_on_rack(order: Order, name: str, content: bytes) -> OrderLine:
    """Keep an uploaded file and queue its reading; the line shows it from the first moment.

    Raises
    ------
    LimitError
        The file is too large.
    InputError
        The file is empty.
    """
    from kaigata.shop.tasks import read_part_task

    if len(content) > settings.FILE_LIMIT:
        raise LimitError(
            f"the file has {len(content) / 2**20:.0f} MB, at most "
            f"{settings.FILE_LIMIT / 2**20:.0f} are taken",
            where=name,
            fix="Export the part alone",
        )
    if not content:
        raise InputError("the file is empty (0 bytes)", where=name, fix="Export it again")
    source, _ = SourceFile.objects.get_or_create(
        sha256=hashlib.sha256(content).hexdigest(),
        defaults={"name": name[-200:], "size": len(content), "content": content},
    )
    title = free_name(Path(name).stem[:100] or "part", _names(order))
    part = Part.objects.create(name=title, source=source)
    line = OrderLine.objects.create(order=order, part=part)
    read_part_task.defer(part_id=part.pk, file_name=name)
    return line


def read_part(part_id: int, file_name: str) -> None:
    """Read a part's file and make parts and blanks of what it holds."""
    part = Part.objects.select_related("source", "line").filter(pk=part_id).first()
    if part is None or part.state != Part.State.READING:
        return
    Part.objects.filter(pk=part_id).update(attempts=part.attempts + 1)
    with tempfile.TemporaryDirectory(prefix="kaigata-") as folder:
        path = Path(folder) / Path(file_name).name
        path.write_bytes(bytes(part.source.content))
        try:
            result = read_parts(path)
        except KaigataError as error:
            _refuse(part, error)
            return
    _make_parts(part, result)


@transaction.atomic
def _make_parts(part: Part, result: ReadResult) -> None:
    line = OrderLine.objects.select_for_update().filter(part=part).first()
    if line is None:
        return
    several = len(result.parts) + len(result.refused) > 1
    for i, read in enumerate(result.parts):
        if i > 0:
            part = Part.objects.create(name="", source=part.source)
            line = OrderLine.objects.create(order=line.order, part=part)
        if several:
            others = [n for n in _names(line.order) if n != part.name]
            part.name = free_name(read.part.name[:100], others)
        part.state = Part.State.READY
        part.folded = FOLDED.dump_python(read.part, mode="json")
        part.thickness = round(read.part.thickness, 6)
        part.save()
        line.quantity = read.quantity if line.quantity == 1 else line.quantity
        line.material = line.material or _likely_material(part.thickness)
        line.part = part
        line.save()
        unfold_part(part)
    for error in result.refused:
        failed = Part.objects.create(name=error.where.split(" ")[0][:120], source=part.source)
        OrderLine.objects.create(order=line.order, part=failed)
        _refuse(failed, error)


def _names(order: Order) -> list[str]:
    return list(order.lines.values_list("part__name", flat=True))


def _likely_material(thickness: float) -> Material | None:
    """Return the material the shop has most sheets of in this thickness, or any it bends."""
    same = {"thickness__range": (thickness - 1e-3, thickness + 1e-3)}
    sheet = StockSheet.objects.filter(**same).order_by("-count").first()
    known = sheet or Gauge.objects.filter(**same).first()
    return known.material if known else None


def _refuse(part: Part, error: KaigataError) -> None:
    Part.objects.filter(pk=part.pk).update(
        state=Part.State.REFUSED, what=error.what, where=error.where, fix=error.fix
    )


def give_up_reading(part_id: int, why: str) -> None:
    """Mark a part refused whose reading could not be brought to an end."""
    part = Part.objects.filter(pk=part_id, state=Part.State.READING).first()
    if part is not None:
        _refuse(
            part,
            LimitError(
                why,
                where=part.source.name,
                fix="Take it out and export the part again",
            ),
        )
