"""``kaigata packet ORDER.json --out DIR``."""

from __future__ import annotations

from pathlib import Path

import click

from kaigata.cli.cut import cut_options, cut_summary
from kaigata.cli.nest import nest_summary_of, search_options, searched
from kaigata.cli.options import DONE, DONE_IN_PART, PATH, json_option, named, out_option, tell
from kaigata.core.blank import FaceUp
from kaigata.core.formats.documents import OrderDocument, load_document
from kaigata.core.formats.whole import whole_folder
from kaigata.core.packet.cutting import CutOptions
from kaigata.core.packet.gather import pack

__all__ = ["command"]


@click.command("packet")
@click.argument("order", type=PATH)
@out_option
@search_options
@click.option("--time", "seconds", type=float, default=20.0, show_default=True)
@cut_options
@click.option("--k", type=float, help="Neutral-axis factor for parts that do not say theirs.")
@click.option("--material", help="Material for parts that do not say theirs.")
@click.option("--bend-chart", type=PATH, help="Bend chart to use instead (CSV: thickness,k).")
@click.option("--anchor", type=int, default=1)
@click.option("--face-up", type=click.Choice([f.value for f in FaceUp]), default="as-modelled")
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
    comp: str,
    k: float | None,
    material: str | None,
    bend_chart: Path | None,
    anchor: int,
    face_up: str,
    as_json: bool,
) -> int:
    """Go the whole way for an order: unfold, nest, cut and pack."""
    with named(order):
        document = load_document(order, OrderDocument)
        options = CutOptions.chosen(
            document.cut, process=process, kerf=kerf, chart=chart, post=post, comp=comp,
            folder=order.parent,
        )  # fmt: skip
        with whole_folder(out) as folder:
            result = pack(
                document,
                order.parent,
                folder,
                search=lambda known: searched(
                    known, seconds=seconds, seed=seed, steps=steps, workers=workers
                ),
                options=options,
                defaults={
                    "k": k,
                    "material": material,
                    "bend_chart": bend_chart,
                    "anchor": anchor,
                    "face_up": FaceUp(face_up),
                },
            )
    summary = [
        f"{len(result.blanks)} blanks",
        *(nest_summary_of(result.nest) if result.nest else []),
        *(cut_summary(result.cut) if result.cut else []),
        f"{len(result.files)} files in {out}",
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
