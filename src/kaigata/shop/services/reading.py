"""Files onto the rack: keeping them, reading them in a worker, making parts of them."""

from __future__ import annotations

import hashlib
import tempfile
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import numpy.typing as npt
from django.conf import settings
from django.db import transaction

from kaigata.core.errors import InputError, KaigataError, LimitError
from kaigata.core.formats.whole import free_name
from kaigata.core.intake import ReadResult, is_drawing, read_flats, read_parts
from kaigata.core.intake.drawing import Drawing
from kaigata.core.part import FoldedPart
from kaigata.shop.models import Gauge, Material, Order, OrderLine, Part, SourceFile, StockSheet
from kaigata.shop.services.assemblies import places_record
from kaigata.shop.services.blanks import unfold_part
from kaigata.shop.services.drawn import DRAWN, FOLDED, folded_of, give, given_anew

__all__ = [
    "give_drawn",
    "give_up_reading",
    "kept",
    "put_on_rack",
    "put_revision",
    "read_instead",
    "read_part",
    "read_revision",
    "revise",
]


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

    source = kept(name, content)
    title = free_name(Path(name).stem[:100] or "part", _names(order))
    part = Part.objects.create(name=title, source=source)
    line = OrderLine.objects.create(order=order, part=part)
    read_part_task.defer(part_id=part.pk, file_name=name)
    return line


def kept(name: str, content: bytes) -> SourceFile:
    """Keep a file once by its content."""
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
    return source


def read_instead(part: Part, name: str, content: bytes) -> None:
    """Keep a file that stands for one that was refused, and queue its reading."""
    from kaigata.shop.tasks import read_part_task

    part.source = kept(name, content)
    part.state, part.attempts = Part.State.READING, 0
    part.what = part.where = part.fix = ""
    part.shell = part.spot = None
    part.save()
    read_part_task.defer(part_id=part.pk, file_name=name)


@transaction.atomic
def put_revision(part: Part, name: str, content: bytes) -> None:
    """Keep a newer file of a part and queue its reading; the part stays as it is until then.

    Raises
    ------
    InputError
        The part is not ready, or the file is empty.
    LimitError
        The file is too large.
    """
    from kaigata.shop.tasks import read_revision_task

    if part.state != Part.State.READY:
        raise InputError(f"the part is {part.state}", where=part.name, fix="Wait until it is read")
    source = kept(name, content)
    Part.objects.filter(pk=part.pk).update(revision_fault="reading")
    read_revision_task.defer(part_id=part.pk, sha256=source.sha256, file_name=name)


def read_revision(part_id: int, sha256: str, file_name: str) -> None:
    """Read a newer file of a part; a file that cannot be used leaves the part as it was."""
    part = Part.objects.select_related("line__material", "blank").get(pk=part_id)
    source = SourceFile.objects.get(pk=sha256)
    with tempfile.TemporaryDirectory(prefix="kaigata-") as folder:
        path = Path(folder) / Path(file_name).name
        path.write_bytes(bytes(source.content))
        try:
            _revise(part, source, path)
        except KaigataError as error:
            Part.objects.filter(pk=part_id).update(revision_fault=str(error))


@transaction.atomic
def _revise(part: Part, source: SourceFile, path: Path) -> None:
    if is_drawing(path):
        before, was = part.blank.document, folded_of(part)
        _revise_drawing(part, path)
        _keep_revision(part, source, before, was)
        return
    found = read_parts(path)
    if found.refused:
        raise found.refused[0].error
    _require_one(path, len(found.parts))
    revise(part, source, found.parts[0].part)


def revise(part: Part, source: SourceFile, folded: FoldedPart) -> None:
    """Make another folded part of a part, its next revision.

    Raises
    ------
    InputError
        The part is not ready, or it cannot be unfolded; the caller's transaction undoes it then.
    """
    was, before = folded_of(part), part.blank.document
    part.drawn, part.given = None, {}
    part.folded = FOLDED.dump_python(folded, mode="json")
    part.thickness = round(folded.thickness, 6)
    _keep_revision(part, source, before, was)


def _keep_revision(
    part: Part, source: SourceFile, before: dict[str, object], was: FoldedPart
) -> None:
    """Save a revised part with the blank it had before, and unfold it anew."""
    part.source, part.revision_fault, part.places = source, "", []
    part.revision += 1
    part.save()
    part.blank.previous = before
    part.blank.save()
    unfold_part(part, was=was)


def _revise_drawing(part: Part, path: Path) -> None:
    drawing = read_flats(path, unit=part.given.get("unit"))
    _require_one(path, len(drawing.flats))
    if drawing.unit is None:
        raise InputError(
            "the drawing does not say its unit",
            where=path.name,
            fix="Save it with its unit, or put it on the rack as a part of its own",
        )
    bends = given_anew(part, drawing.flats[0])
    part.drawn = DRAWN.dump_python(drawing.flats[0], mode="json")
    given = _read_of(drawing, 0)
    give(part, {**given, "thickness": part.thickness, "bends": bends})


def _require_one(path: Path, count: int) -> None:
    if count != 1:
        raise InputError(f"it holds {count} parts", where=path.name, fix="Send one part")


def _read_of(drawing: Drawing, index: int) -> dict[str, object]:
    """Return what the file itself says of one of its flats."""
    return {
        "unit": drawing.unit,
        "read_with_unit": drawing.unit is not None,
        "index": index,
        "findings": [
            {"level": f.level.value, "code": f.code, "text": f.text}
            for f in drawing.flats[index].findings
        ],
    }


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
            if is_drawing(path):
                _make_drawn(part, read_flats(path, unit=part.given.get("unit")))
            else:
                _make_parts(part, read_parts(path))
        except KaigataError as error:
            _refuse(part, error)


@transaction.atomic
def _make_parts(part: Part, result: ReadResult) -> None:
    line = OrderLine.objects.select_for_update().filter(part=part).first()
    if line is None:
        return
    several = len(result.parts) + len(result.refused) > 1
    places = _places(part, line, len(result.parts) + len(result.refused))
    for read in result.parts:
        part, line = next(places)
        if several:
            _name(part, line, read.part.name)
        part.state = Part.State.READY
        part.folded = FOLDED.dump_python(read.part, mode="json")
        part.thickness = round(read.part.thickness, 6)
        part.places, part.came_in = places_record(read.places), part.source_id
        part.save()
        line.per_set = read.quantity
        line.quantity = read.quantity if line.quantity == 1 else line.quantity
        line.material = line.material or _likely_material(part.thickness)
        line.save()
        try:
            unfold_part(part)
        except InputError as error:
            # Of an assembly the other parts are sound.
            _refuse(part, error)
    for refused in result.refused:
        part, line = next(places)
        if several:
            _name(part, line, refused.name)
            part.places, part.came_in = places_record(refused.places), part.source_id
            part.save()
        _refuse(part, refused.error, shell=refused.triangles)


@transaction.atomic
def _make_drawn(part: Part, drawing: Drawing) -> None:
    line = OrderLine.objects.select_for_update().filter(part=part).first()
    if line is None:
        return
    part = Part.objects.select_for_update().get(pk=part.pk)
    if part.state != Part.State.READING or part.given.get("unit", drawing.unit) != drawing.unit:
        return
    again = part.given.get("index")
    wanted = range(len(drawing.flats)) if again is None else [again]
    places = _places(part, line, len(wanted))
    for i in wanted:
        part, line = next(places)
        if len(wanted) > 1:
            _name(part, line, drawing.flats[i].name)
        part.drawn = DRAWN.dump_python(drawing.flats[i], mode="json")
        give(part, {**part.given, **_read_of(drawing, i)})
        if part.state == Part.State.READY:
            unfold_part(part)


def give_drawn(part: Part, values: dict[str, object]) -> None:
    """Keep what people give of a drawing; its blank follows when that is enough.

    Raises
    ------
    InputError
        The part is no drawing, or the bends do not fit into the flat; nothing is changed then.
    """
    if part.drawn is None:
        raise InputError("the part came as a solid", where=part.name, fix="Change its bends there")
    with transaction.atomic():
        # A worker may be reading the drawing just now: neither may write over the other's part.
        part = Part.objects.select_for_update().get(pk=part.pk)
        give(part, values)
        if part.state == Part.State.READY:
            unfold_part(part)


def _places(part: Part, line: OrderLine, count: int) -> Iterator[tuple[Part, OrderLine]]:
    """Yield the part and line a file came in as, then new ones beside it."""
    line.part = part
    yield part, line
    for _ in range(count - 1):
        made = Part.objects.create(name="", source=part.source)
        yield made, OrderLine.objects.create(order=line.order, part=made)


def _name(part: Part, line: OrderLine, title: str) -> None:
    others = [n for n in _names(line.order) if n != part.name]
    part.name = free_name(title[:100] or "part", others)


def _names(order: Order) -> list[str]:
    return list(order.lines.values_list("part__name", flat=True))


def _likely_material(thickness: float) -> Material | None:
    """Return the material the shop has most sheets of in this thickness, or any it bends."""
    same = {"thickness__range": (thickness - 1e-3, thickness + 1e-3)}
    sheet = StockSheet.objects.filter(**same).order_by("-count").first()
    known = sheet or Gauge.objects.filter(**same).first()
    return known.material if known else None


def _refuse(
    part: Part, error: KaigataError, *, shell: npt.NDArray[np.float64] | None = None
) -> None:
    Part.objects.filter(pk=part.pk).update(
        state=Part.State.REFUSED,
        what=error.what,
        where=error.where,
        fix=error.fix,
        spot=list(error.spot) if error.spot else None,
        shell=None if shell is None else np.round(shell, 3).ravel().tolist(),
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
