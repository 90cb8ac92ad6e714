"""``kaigata blank FILE --out DIR``."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import click

from kaigata.cli.options import DONE, DONE_IN_PART, PATH, json_option, named, out_option, tell
from kaigata.cli.unfolding import unfold_options
from kaigata.core.errors import InputError, KaigataError
from kaigata.core.findings import counted
from kaigata.core.formats.blank_files import write_blank
from kaigata.core.formats.drawing_files import (
    DrawingChoice,
    checked_assembly,
    title_of,
    write_drawing,
)
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.formats.solid_files import solid_file
from kaigata.core.formats.whole import file_name, whole_folder
from kaigata.core.markup import Component, Lettering, Title, placed_bodies
from kaigata.core.packet.unfolding import UnfoldChoice, UnfoldedFile, unfold_file

__all__ = ["command"]


@click.command("blank")
@click.argument("file", type=PATH)
@out_option
@unfold_options
@click.option(
    "--sheets",
    type=click.Choice(["svg", "dxf"]),
    multiple=True,
    help="Also write each sheet of the drawings so.",
)
@click.option(
    "--views", is_flag=True, help="Draw folded parts from the front, the top and a side too."
)
@click.option("--lines", is_flag=True, help="Draw folded parts in lines alone, without tones.")
@click.option(
    "--assembly", is_flag=True, help="Also draw all parts together, as FILE-assembly.pdf."
)
@click.option("--solid", is_flag=True, help="Also write each folded part as PART.step.")
@json_option
def command(
    file: Path,
    out: Path,
    choice: Callable[[], UnfoldChoice],
    sheets: tuple[str, ...],
    views: bool,
    lines: bool,
    assembly: bool,
    solid: bool,
    as_json: bool,
) -> int:
    """Unfold a finished bent part to its flat blank."""
    lettering = Lettering(folded="views" if views else "isometric", is_shaded=not lines)
    drawn = DrawingChoice(lettering=lettering)
    with named(file):
        result = unfold_file(file, choice())
        if assembly and sum(len(places) for places in result.places.values()) < 2:
            raise InputError(
                "it is no assembly: it holds one part once", fix="Leave out --assembly"
            )
        with whole_folder(out) as folder:
            files, refused = [], list(result.refused)
            for b in result.blanks:
                files += write_blank(b, folder)
                title = title_of(b, source=file.name)
                try:
                    pieces = result.meshes[b.part]
                    files += write_drawing(
                        b, title, folder, pieces=pieces, choice=drawn, sheets=sheets
                    )
                    if solid:
                        files.append(_write_solid(result, b.part, folder))
                except KaigataError as error:
                    refused.append(error)
            if assembly:
                try:
                    files.append(_write_assembly(result, file, folder, lettering))
                except KaigataError as error:
                    refused.append(error)
    summary = [
        f"{b.part}: {b.width:.2f} x {b.height:.2f} mm, "
        f"{f'{b.thickness:g} thick' if b.thickness else 'thickness not said'}, "
        f"{counted(len(b.bends), 'bend')}, {counted(len(b.holes), 'hole')}, quantity {b.quantity}"
        for b in result.blanks
    ]
    findings = [f"{b.part}: {f.level}: {f.text}" for b in result.blanks for f in b.findings]
    left_out = [f"refused: {e}" for e in refused]
    listing = {
        "parts": [b.model_dump(mode="json") for b in result.blanks],
        "refused": [{"what": e.what, "where": e.where, "fix": e.fix} for e in refused],
        "files": files,
    }
    tell([*summary, *findings, *left_out], listing, as_json=as_json)
    return DONE_IN_PART if refused else DONE


def _write_assembly(result: UnfoldedFile, file: Path, folder: Path, lettering: Lettering) -> str:
    """Draw what of a file was unfolded, each part where the file has it."""
    components = [
        Component(
            name=b.part,
            quantity=b.quantity,
            material=b.material or "",
            thickness=b.thickness or 0.0,
            size=(b.width, b.height),
            bodies=placed_bodies(part, places),
        )
        for b, part, places in (
            (b, result.folded[b.part], result.places[b.part])
            for b in result.blanks
            if b.part in result.folded
        )
    ]
    drawing = checked_assembly(
        components, Title(part=file.stem, source=file.name), lettering=lettering
    )
    name = f"{file_name(f'{file.stem} assembly')}.pdf"
    (folder / name).write_bytes(pages_pdf(drawing.pages, title=file.stem))
    return name


def _write_solid(result: UnfoldedFile, part: str, folder: Path) -> str:
    if part not in result.folded:
        raise InputError(
            "a drawing of a flat does not say how it is folded",
            where=part,
            fix="Leave out --solid, or give its bends in the browser and take the solid there",
        )
    name = f"{file_name(part)}.step"
    (folder / name).write_bytes(solid_file(result.folded[part]))
    return name
