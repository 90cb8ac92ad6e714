"""``kaigata shell BLOCK --out DIR --thickness T``."""

from __future__ import annotations

from pathlib import Path

import click

from kaigata.cli.options import DONE, PATH, json_option, named, out_option, tell
from kaigata.core.formats.whole import file_name, whole_folder
from kaigata.core.intake.shelling import shell_of_block
from kaigata.core.part.recipe import recipe_text, sentences
from kaigata.core.part.recipe.document import Metal

__all__ = ["command"]


@click.command("shell")
@click.argument("block", type=PATH)
@out_option
@click.option("--thickness", type=float, required=True, help="Of the sheet, mm.")
@click.option(
    "--metal",
    type=click.Choice(["inside", "outside"]),
    default="inside",
    show_default=True,
    help="Where the sheet lies of the block's faces.",
)
@json_option
def command(block: Path, out: Path, thickness: float, metal: Metal, as_json: bool) -> int:
    """Write the fold recipe of a shell round a block that came as STEP."""
    with named(block):
        recipe = shell_of_block(block, thickness=thickness, metal=metal)
        name = f"{file_name(recipe.part)}.json"
        with whole_folder(out) as folder:
            (folder / name).write_text(recipe_text(recipe), encoding="utf-8")
    listing = {"part": recipe.part, "files": [name]}
    tell([f"{recipe.part}: {' '.join(sentences(recipe))}"], listing, as_json=as_json)
    return DONE
