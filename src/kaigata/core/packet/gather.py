"""Everything the floor needs for an order, in one folder with a manifest."""

from __future__ import annotations

import hashlib
import json
import zipfile
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field, replace
from functools import partial
from pathlib import Path

from kaigata.core.blank import FaceUp
from kaigata.core.blank.mesh import MeshPiece
from kaigata.core.errors import InputError, KaigataError
from kaigata.core.formats.cut_files import write_cut
from kaigata.core.formats.documents import (
    BlankDocument,
    CutDocument,
    NestDocument,
    OrderDocument,
    OrderPartDocument,
)
from kaigata.core.formats.drawing_files import DrawingChoice, title_of
from kaigata.core.formats.nest_files import (
    nest_document,
    order_bends,
    order_creases,
    order_from_document,
)
from kaigata.core.formats.nest_writer import write_nest
from kaigata.core.formats.report import nest_report
from kaigata.core.formats.whole import file_name
from kaigata.core.nest import Nest, NestOrder
from kaigata.core.packet.checks import packet_checks
from kaigata.core.packet.cutting import CutOptions, cut_nest
from kaigata.core.packet.part_files import PartToWrite, write_parts
from kaigata.core.packet.unfolding import UnfoldChoice, unfold_file

__all__ = ["PacketResult", "files_of_packet", "pack", "unfolded_order", "write_packet"]

ZIP_DATE = (1980, 1, 1, 0, 0, 0)
"""The same content gives the same zip, byte for byte."""


@dataclass(slots=True)
class PacketResult:
    """What a packet holds and what is missing from it.

    ``sources`` tells of each blank by its part's name which file it was unfolded from, ``meshes``
    which pieces it is folded of.
    """

    blanks: list[BlankDocument] = field(default_factory=list)
    sources: dict[str, str] = field(default_factory=dict)
    meshes: dict[str, tuple[MeshPiece, ...]] = field(default_factory=dict)
    failed: list[dict[str, str]] = field(default_factory=list)
    nest: NestDocument | None = None
    cut: CutDocument | None = None
    files: list[str] = field(default_factory=list)

    @property
    def is_partial(self) -> bool:
        """Whether something of the order is not in it."""
        return bool(self.failed or (self.nest and self.nest.missed))


def unfolded_order(
    order: OrderDocument, folder: Path, result: PacketResult, *, defaults: UnfoldChoice
) -> OrderDocument:
    """Return the order with its files unfolded; parts that fail are left out and listed.

    An assembly's file gives a part a solid, each as often as the order says times the assembly
    has it.

    Raises
    ------
    InputError
        Two parts would be written to the same files.
    """
    _require_own_files((p.id, f"$.parts[{i}].id") for i, p in enumerate(order.parts))
    parts: list[OrderPartDocument] = []
    for part in order.parts:
        if part.file is None:
            parts.append(part)
            continue
        try:
            parts += _unfolded(part, folder, result, defaults)
        except KaigataError as error:
            result.failed.append({"part": part.id, "why": str(error)})
    # A part of an assembly may be called as another part of the order is.
    _require_own_files((p.id, result.sources.get(p.id, "the order")) for p in parts)
    return order.model_copy(update={"parts": parts})


def _require_own_files(parts: Iterable[tuple[str, str]]) -> None:
    """Refuse two parts whose files would have one name: one would be written over the other.

    Parts are given by their id and where it comes from.
    """
    seen: dict[str, str] = {}
    for part, where in parts:
        name = file_name(part).lower()
        if name in seen:
            raise InputError(
                f"the parts {seen[name]!r} and {part!r} would be written to the same files",
                where=where,
                fix="Give one of them another id",
            )
        seen[name] = part


def _unfolded(
    part: OrderPartDocument, folder: Path, result: PacketResult, defaults: UnfoldChoice
) -> list[OrderPartDocument]:
    given = {
        "k": part.k,
        "material": part.material,
        "anchor": part.anchor,
        "thickness": part.thickness,
        "face_up": FaceUp(part.face_up) if part.face_up else None,
    }
    choice = replace(defaults, **{n: v for n, v in given.items() if v is not None})  # type: ignore[arg-type]
    unfolded = unfold_file(folder / str(part.file), choice)
    result.failed += [{"part": part.id, "why": str(e)} for e in unfolded.refused]
    several = len(unfolded.blanks) > 1
    out = []
    for blank in unfolded.blanks:
        name = f"{part.id}-{blank.part}" if several else part.id
        if blank.thickness is None:
            raise InputError(
                "the drawing does not say how thick the part is",
                where=str(part.file),
                fix="Give thickness at the part in the order",
            )
        if part.thickness is not None and abs(part.thickness - blank.thickness) > 1e-3:
            raise InputError(
                f"the order says {part.thickness:g} mm, the part is {blank.thickness:g} mm thick",
                where=str(part.file),
                fix="Mend the order or send the right file",
            )
        quantity = part.quantity * blank.quantity
        named = blank.model_copy(
            update={"part": name, "quantity": quantity, "material": part.material}
        )
        result.blanks.append(named)
        result.sources[name] = str(part.file)
        result.meshes[name] = unfolded.meshes[blank.part]
        out.append(
            part.model_copy(
                update={
                    "id": name,
                    "quantity": quantity,
                    "outer": blank.outer,
                    "holes": blank.holes,
                    "thickness": blank.thickness,
                    "bends": order_bends(blank),
                    "bend_line_marks": blank.bend_line_marks,
                    "creases": order_creases(blank),
                    "file": None,
                }
            )
        )
    return out


def pack(
    order: OrderDocument,
    folder: Path,
    out: Path,
    *,
    search: Callable[[NestOrder], Nest],
    options: CutOptions,
    defaults: UnfoldChoice,
) -> PacketResult:
    """Unfold, nest, cut, check and write everything for an order.

    Parameters
    ----------
    order : OrderDocument
        The order; its parts name files, blanks or contours.
    folder : Path
        Where the files it names lie.
    out : Path
        An empty folder to write into.
    search : callable
        How to nest.
    options : CutOptions
        How to cut.
    defaults : UnfoldChoice
        How parts that do not say their own are unfolded.

    Returns
    -------
    PacketResult
        What was written, what failed and why.

    Raises
    ------
    InputError
        Nothing of the order can be used, or it cannot be nested or cut.
    """
    result = PacketResult()
    flat = unfolded_order(order, folder, result, defaults=defaults)
    if not flat.parts:
        raise InputError(f"none of its parts can be used: {result.failed[0]['why']}")
    known = order_from_document(flat, folder)
    nest = search(known)
    cut = cut_nest(known, nest, options, title=order.name)
    result.nest = nest_document(nest, flat, known)
    result.cut = cut.document
    title = order.name or "Order"
    made_from = _write_blanks(out / "blanks", result, order.name or "")
    made_from |= _within(
        out, "nest", "blanks and the order",
        lambda at: write_nest(result.nest, nest, known, at, title=title),  # type: ignore[arg-type]
    )  # fmt: skip
    made_from |= _within(
        out, "cut", "nest/nest.json",
        lambda at: write_cut(cut.programs, cut.document, at),
    )  # fmt: skip
    report = nest_report(known, nest, title=title, cut=cut.document)
    (out / "report.html").write_text(report, encoding="utf-8")
    made_from["report.html"] = "nest and cut"
    checks = packet_checks(
        result.blanks,
        {f["part"]: f"failed: {f['why']}" for f in result.failed},
        (result.nest, known, nest),
        result.cut,
    )
    rows = [asdict(check) for check in checks]
    result.files = write_packet(out, made_from=made_from.__getitem__, checks=rows)
    return result


def _write_blanks(folder: Path, result: PacketResult, order: str) -> dict[str, str]:
    """Write the files of all blanks; return what each was made from. Drawings may be left out."""
    folder.mkdir()
    parts = [
        PartToWrite(
            document=b,
            choice=DrawingChoice(title=title_of(b, order=order, source=result.sources[b.part])),
            mesh=partial(list, result.meshes[b.part]),
        )
        for b in result.blanks
    ]
    made_from: dict[str, str] = {}
    for part, written in zip(parts, write_parts(parts, folder), strict=True):
        name = part.document.part
        made_from |= {f"blanks/{file}": result.sources[name] for file in written.names}
        if written.fault is not None:
            result.failed.append({"part": name, "why": str(written.fault)})
    return made_from


def _within(
    out: Path, name: str, source: str, write: Callable[[Path], list[str]]
) -> dict[str, str]:
    """Write files into a folder of the packet; return what each of them was made from."""
    (out / name).mkdir(exist_ok=True)
    return {f"{name}/{file}": source for file in write(out / name)}


def files_of_packet(out: Path) -> set[str]:
    """Return the files that the packet in a folder was written with and that are as they were."""
    try:
        rows = json.loads((out / "manifest.json").read_text(encoding="utf-8"))["files"]
        return {
            r["name"]
            for r in rows
            if (out / r["name"]).is_file()
            and hashlib.sha256((out / r["name"]).read_bytes()).hexdigest() == r["sha256"]
        }
    except (OSError, ValueError, KeyError, TypeError):
        return set()


def write_packet(
    out: Path, *, made_from: Callable[[str], str], checks: Sequence[Mapping[str, object]] = ()
) -> list[str]:
    """Write the manifest of everything in a folder and the zip that holds it all.

    ``checks`` are what was checked, as the manifest shall hold it. Returns the names of all files,
    the manifest and the zip among them.
    """
    files = sorted(p for p in out.rglob("*") if p.is_file())
    rows: list[dict[str, str | int]] = []
    for path in files:
        data, name = path.read_bytes(), path.relative_to(out).as_posix()
        rows.append(
            {
                "name": name,
                "size": len(data),
                "sha256": hashlib.sha256(data).hexdigest(),
                "made_from": made_from(name),
            }
        )
    manifest = out / "manifest.json"
    listing = {"files": rows, "checks": list(checks)}
    manifest.write_text(json.dumps(listing, indent=1) + "\n", encoding="utf-8")
    with zipfile.ZipFile(out / "packet.zip", "w", zipfile.ZIP_DEFLATED) as packet:
        for path in [*files, manifest]:
            entry = zipfile.ZipInfo(path.relative_to(out).as_posix(), ZIP_DATE)
            entry.compress_type = zipfile.ZIP_DEFLATED
            packet.writestr(entry, path.read_bytes())
    names = [p.relative_to(out).as_posix() for p in files]
    return [*names, "manifest.json", "packet.zip"]
