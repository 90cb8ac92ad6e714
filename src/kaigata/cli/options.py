"""What the words share: option types, the summary, and how an input file is named in errors."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import click

from kaigata.core.errors import KaigataError

__all__ = ["DONE", "DONE_IN_PART", "PATH", "json_option", "named", "out_option", "tell"]

DONE = 0
DONE_IN_PART = 3

PATH = click.Path(path_type=Path)

out_option = click.option(
    "--out", required=True, type=PATH, metavar="DIR", help="Folder to write into; made if missing."
)
json_option = click.option("--json", "as_json", is_flag=True, help="Print the result's JSON.")


@contextmanager
def named(path: Path) -> Iterator[None]:
    """Put the input's name in front of every error that does not begin with it."""
    try:
        yield
    except KaigataError as error:
        if error.where.startswith(path.name):
            raise
        raise error.at(path.name) from error


def tell(summary: list[str], result: object, *, as_json: bool) -> None:
    """Print the summary for people, or the result as JSON."""
    click.echo(json.dumps(result, indent=1) if as_json else "\n".join(summary))
