"""``kaigata packet ORDER.json --out DIR``."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import click

from kaigata.cli.cut import cut_options, cut_summary
from kaigata.cli.nest import nest_summary_of, search_options, searched
from kaigata.cli.options import DONE, DONE_IN_PART, PATH, json_option, named, out_option, tell
from kaigata.cli.unfolding import unfold_options
from kaigata.core.checked import load_document
from kaigata.core.findings import counted
from kaigata.core.formats.documents import OrderDocument
from kaigata.core.formats.nest_files import cut_choice
from kaigata.core.formats.whole import whole_folder
from kaigata.core.packet.cutting import CutOptions
from kaigata.core.packet.gather import files_of_packet, pack
from kaigata.core.packet.unfolding import UnfoldChoice

__all__ = ["command"]


@click.command("packet")
@click.argument("order", type=PATH)
@out_option
@search_options
@click.option("--time", "seconds", type=float, default=20.0, show_default=True)
@cut_options
@unfold_options
@json_option
def command(
    order: Path,
    out: Path,
    seconds: float,
    seed: int,
    steps: int | None,
    workers: int | None,
    process: str | None,
    kerf: float | None,
    chart: Path | None,
    post: str | None,
    comp: str | None,
    choice: Callable[[], UnfoldChoice],
    as_json: bool,
) -> int:
    """Go the whole way for an order: unfold, nest, cut and pack."""
    with named(order):
        document = load_document(order, OrderDocument)
        options = CutOptions.chosen(
            cut_choice(document), process=process, kerf=kerf, chart=chart, post=post, comp=comp,
            folder=order.parent,
        )  # fmt: skip
        with whole_folder(out, earlier=files_of_packet(out)) as folder:
            result = pack(
                document,
                order.parent,
                folder,
                search=lambda known: searched(
                    known, seconds=seconds, seed=seed, steps=steps, workers=workers
                ),
                options=options,
                defaults=choice(),
            )
    summary = [
        counted(len(result.blanks), "blank"),
        *(nest_summary_of(result.nest) if result.nest else []),
        *(cut_summary(result.cut) if result.cut else []),
        f"{counted(len(result.files), 'file')} in {out}",
        *(f"failed: {f['part']}: {f['why']}" for f in result.failed),
    ]
    listing = {
        "files": result.files,
        "failed": result.failed,
        "unplaced": [u.model_dump() for u in result.nest.unplaced] if result.nest else [],
        "utilisation": result.nest.utilisation if result.nest else 0.0,
    }
    tell(summary, listing, as_json=as_json)
    return DONE_IN_PART if result.is_partial else DONE
