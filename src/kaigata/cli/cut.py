"""``kaigata cut NEST.json --out DIR``."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click

from kaigata.cli.options import DONE, DONE_IN_PART, PATH, json_option, named, out_option, tell
from kaigata.core.checked import load_document
from kaigata.core.errors import InputError
from kaigata.core.findings import counted
from kaigata.core.formats.cut_files import write_cut
from kaigata.core.formats.documents import CutDocument, NestDocument
from kaigata.core.formats.nest_files import cut_choice, nest_of_document, order_from_document
from kaigata.core.formats.whole import sheet_files_of, whole_folder
from kaigata.core.metal.stores import PROCESSES
from kaigata.core.packet.cutting import CutOptions, cut_nest

__all__ = ["command", "cut_options", "cut_summary"]


Command = TypeVar("Command", bound=Callable[..., Any])


def cut_options(function: Command) -> Command:
    """Add the options of cutting."""
    for option in (
        click.option("--comp", type=click.Choice(["path", "machine"])),
        click.option("--post", help="The machine's dialect of G-code."),
        click.option("--chart", type=PATH, help="Cut chart to use instead (CSV)."),
        click.option("--kerf", type=float, help="Width of the cut, mm; otherwise from the chart."),
        click.option("--process", type=click.Choice(PROCESSES)),
    ):
        function = option(function)
    return function


@click.command("cut")
@click.argument("nest", type=PATH)
@out_option
@cut_options
@json_option
def command(
    nest: Path,
    out: Path,
    process: str | None,
    kerf: float | None,
    chart: Path | None,
    post: str | None,
    comp: str | None,
    as_json: bool,
) -> int:
    """Plan the cutting paths of a nest and write its programs."""
    with named(nest):
        document = load_document(nest, NestDocument)
        if document.order is None:
            raise InputError(
                "it does not hold the order it nests",
                where=nest.name,
                fix="Give the nest.json that kaigata nest wrote",
            )
        order = order_from_document(document.order, nest.parent)
        known = nest_of_document(document, order, units=document.order.units)
        options = CutOptions.chosen(
            cut_choice(document.order), process=process, kerf=kerf, chart=chart, post=post,
            comp=comp, folder=nest.parent,
        )  # fmt: skip
        result = cut_nest(order, known, options, title=document.order.name or nest.stem)
        earlier = sheet_files_of(out / "cut.json", ".nc", ".path.dxf")
        with whole_folder(out, earlier=earlier) as folder:
            write_cut(result.programs, result.document, folder)
    tell(cut_summary(result.document), result.document.model_dump(mode="json", by_alias=True),
         as_json=as_json)  # fmt: skip
    return DONE_IN_PART if result.is_partial else DONE


def cut_summary(document: CutDocument) -> list[str]:
    """Return what cutting gave, for people."""
    lines = [
        f"sheet {s.number}: {counted(s.contours, 'contour')}, cut {s.cut_length:.0f} mm, rapid "
        f"{s.rapid_length:.0f} mm, {s.seconds / 60:.1f} min, kerf {s.kerf:g}, proved to "
        f"{s.proof.largest_deviation:.4f} mm"
        for s in document.sheets
    ]
    return lines + [f"{f.level}: {f.text}" for f in document.findings]
