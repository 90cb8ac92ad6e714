"""``kaigata nest ORDER.json --out DIR``."""

from __future__ import annotations

import os
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

import click
from tqdm import tqdm

from kaigata.cli.options import DONE, DONE_IN_PART, PATH, json_option, named, out_option, tell
from kaigata.core.checked import load_document
from kaigata.core.findings import counted
from kaigata.core.formats.documents import NestDocument, OrderDocument
from kaigata.core.formats.nest_files import nest_document, order_from_document
from kaigata.core.formats.nest_writer import write_nest
from kaigata.core.formats.whole import sheet_files_of, whole_folder
from kaigata.core.nest import Nest, NestOrder, Progress, search

__all__ = ["command", "nest_summary_of", "search_options", "searched"]


Command = TypeVar("Command", bound=Callable[..., Any])


def search_options(function: Command) -> Command:
    """Add the options of a search, but for its time: each word has its own usual one."""
    for option in (
        click.option("--workers", type=int, help="Processes to search with; default the cores."),
        click.option("--steps", type=int, help="Attempts to make instead of looking at the clock."),
        click.option("--seed", type=int, default=7, show_default=True),
    ):
        function = option(function)
    return function


@click.command("nest")
@click.argument("order", type=PATH)
@out_option
@search_options
@click.option("--time", "seconds", type=float, default=30.0, show_default=True)
@json_option
def command(
    order: Path,
    out: Path,
    seconds: float,
    seed: int,
    steps: int | None,
    workers: int | None,
    as_json: bool,
) -> int:
    """Place an order's parts on its sheets."""
    with named(order):
        document = load_document(order, OrderDocument)
        known = order_from_document(document, order.parent)
        nest = searched(known, seconds=seconds, seed=seed, steps=steps, workers=workers)
        result = nest_document(nest, document, known)
        earlier = sheet_files_of(out / "nest.json", ".dxf", ".svg")
        # The programs of an earlier nest fit this one no longer.
        programs = sheet_files_of(out / "cut.json", ".nc", ".path.dxf")
        earlier |= programs | ({"cut.json"} if programs else set())
        with whole_folder(out, earlier=earlier) as folder:
            write_nest(result, nest, known, folder, title=document.name or order.stem)
    tell(nest_summary_of(result), result.model_dump(mode="json", by_alias=True), as_json=as_json)
    return DONE_IN_PART if result.missed else DONE


def searched(
    order: NestOrder, *, seconds: float, seed: int, steps: int | None, workers: int | None
) -> Nest:
    """Search with a progress bar when a person watches."""
    shown = sys.stderr.isatty()
    with tqdm(
        total=round(seconds, 1), disable=not shown, unit="s", desc="nesting", leave=False
    ) as bar:

        def better(progress: Progress) -> None:
            bar.set_postfix_str(f"{progress.nest.utilisation:.1%}")
            bar.update(min(round(progress.seconds, 1), bar.total or 0) - bar.n)

        return search(
            order,
            seconds=seconds,
            seed=seed,
            steps=steps,
            workers=workers if workers is not None else os.cpu_count() or 1,
            on_better=better,
        )


def nest_summary_of(nest: NestDocument) -> list[str]:
    """Return what a nest is, for people."""
    lines = [
        f"{nest.utilisation:.1%} of the metal used on {counted(len(nest.sheets), 'sheet')}",
        *(
            f"sheet {s.number} {s.sheet}: {counted(len(s.placements), 'part')}, "
            f"used length {s.used_length:.1f}"
            for s in nest.sheets
        ),
    ]
    return lines + [f"did not fit: {u.quantity} x {u.part}: {u.why}" for u in nest.unplaced]
