"""``kaigata blank FILE --out DIR``."""

from __future__ import annotations

from pathlib import Path

import click

from kaigata.cli.options import DONE, DONE_IN_PART, PATH, json_option, named, out_option, tell
from kaigata.core.blank import FaceUp
from kaigata.core.formats.blank_files import write_blank
from kaigata.core.formats.whole import whole_folder
from kaigata.core.packet.unfolding import unfold_file

__all__ = ["command"]


@click.command("blank")
@click.argument("file", type=PATH)
@out_option
@click.option(
    "--k", type=float, help="Neutral-axis factor of every bend (0.44 if nothing is said)."
)
@click.option("--material", help="Material of the shop data, for its thicknesses and bend chart.")
@click.option("--bend-chart", type=PATH, help="Bend chart to use instead (CSV: thickness,k).")
@click.option("--anchor", type=int, default=1, help="Number of the panel that stays put.")
@click.option("--face-up", type=click.Choice([f.value for f in FaceUp]), default="as-modelled")
@click.option("--units", type=click.Choice(["mm", "in"]), help="One unit of a drawing without.")
@json_option
def command(
    file: Path,
    out: Path,
    k: float | None,
    material: str | None,
    bend_chart: Path | None,
    anchor: int,
    face_up: str,
    units: str | None,
    as_json: bool,
) -> int:
    """Unfold a finished bent part to its flat blank."""
    with named(file):
        result = unfold_file(
            file,
            k=k,
            material=material,
            bend_chart=bend_chart,
            anchor=anchor,
            face_up=FaceUp(face_up),
        )
        with whole_folder(out) as folder:
            files = [name for b in result.blanks for name in write_blank(b, folder)]
    summary = [
        f"{b.part}: {b.width:.2f} x {b.height:.2f} mm, {b.thickness:g} thick, "
        f"{len(b.bends)} bends, {len(b.holes)} holes, quantity {b.quantity}"
        for b in result.blanks
    ]
    findings = [f"{b.part}: {f.level}: {f.text}" for b in result.blanks for f in b.findings]
    refused = [f"refused: {e}" for e in result.refused]
    listing = {
        "parts": [b.model_dump(mode="json") for b in result.blanks],
        "refused": [{"what": e.what, "where": e.where, "fix": e.fix} for e in result.refused],
        "files": files,
    }
    tell([*summary, *findings, *refused], listing, as_json=as_json)
    return DONE_IN_PART if refused else DONE
