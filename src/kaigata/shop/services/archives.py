"""Many files at once: a zip put onto the rack, each part of it a line of its own."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import PurePosixPath

from django.conf import settings
from django.db import transaction

from kaigata.core.errors import InputError, KaigataError, LimitError
from kaigata.core.intake.read import SUFFIXES
from kaigata.shop.models import Order, OrderLine
from kaigata.shop.services.reading import put_on_rack

__all__ = ["LeftOut", "put_archive"]

MOST_FILES = 1000
"""Files that are taken out of one zip."""


@dataclass(frozen=True, slots=True)
class LeftOut:
    """A file of a zip that came onto no rack, and why."""

    name: str
    why: str


@transaction.atomic
def put_archive(order: Order, name: str, content: bytes) -> tuple[list[OrderLine], list[LeftOut]]:
    """Put every STEP, DXF and recipe file of a zip onto the rack.

    Returns
    -------
    (list of OrderLine, list of LeftOut)
        The new lines, which are read in the background, and the files that are no parts.

    Raises
    ------
    InputError
        It is no zip, or no file in it is a part.
    LimitError
        It holds more files than are taken at once.
    """
    lines: list[OrderLine] = []
    left_out: list[LeftOut] = []
    for member, data in _members(name, content):
        if isinstance(data, LeftOut):
            left_out.append(data)
            continue
        try:
            lines.append(put_on_rack(order, member, data))
        except KaigataError as error:
            left_out.append(LeftOut(member, error.what))
    if not lines:
        raise InputError(
            "there is no STEP, DXF or recipe file in it",
            where=name,
            fix="Zip the files of the parts",
        )
    return lines, left_out


def _members(name: str, content: bytes) -> Iterator[tuple[str, bytes | LeftOut]]:
    """Yield the files of a zip, by their own name without the folder, or why one is left out."""
    try:
        packed = zipfile.ZipFile(io.BytesIO(content))
    except zipfile.BadZipFile as error:
        raise InputError(
            "it is no zip, or damaged", where=name, fix="Zip the files anew"
        ) from error
    with packed:
        infos = [i for i in packed.infolist() if not i.is_dir()]
        if len(infos) > MOST_FILES:
            raise LimitError(
                f"it holds {len(infos)} files, at most {MOST_FILES} are taken at once",
                where=name, fix="Divide it",
            )  # fmt: skip
        for info in infos:
            path = PurePosixPath(info.filename.replace("\\", "/"))
            # What systems put beside the files themselves is nobody's part.
            if path.name.startswith(".") or path.parts[0] == "__MACOSX":
                continue
            yield path.name, _content(packed, info, path)


def _content(
    packed: zipfile.ZipFile, info: zipfile.ZipInfo, path: PurePosixPath
) -> bytes | LeftOut:
    if path.suffix.lower() not in SUFFIXES:
        return LeftOut(str(path), "no STEP, DXF or recipe file")
    try:
        with packed.open(info) as file:
            # One byte more than is taken, whatever the zip says of its size.
            return file.read(settings.FILE_LIMIT + 1)
    except (RuntimeError, NotImplementedError, zipfile.BadZipFile, EOFError) as error:
        return LeftOut(str(path), f"it cannot be unpacked: {error}")
