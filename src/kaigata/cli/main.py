"""The words of the command line, their exit codes and their one-line errors."""

from __future__ import annotations

import importlib

import click

from kaigata.core.errors import KaigataError
from kaigata.core.processes import CUTTING, NESTING, READING, begin_loading

__all__ = ["run"]

_WORDS = {
    "blank": "From a finished bent part to a flat blank.",
    "shell": "A fold recipe for the shell of a block.",
    "nest": "Place an order's parts on its sheets.",
    "cut": "From a nest to cutting paths and programs.",
    "packet": "The whole way for an order in one go.",
}

_PROCESSES = {
    "blank": [READING],
    "cut": [CUTTING],
    "nest": [NESTING],
    "packet": [READING, NESTING, CUTTING],
    "shell": [READING],
}
"""What the processes of a word begin with; it is loaded beside the word's own start."""

EXIT_UNUSABLE = 2


class _Words(click.Group):
    """The words, each imported only when it is used: starting must stay quick."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the words in the order of the work."""
        return list(_WORDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Return the command of a word."""
        if cmd_name not in _WORDS:
            return None
        begin_loading(*_PROCESSES[cmd_name])
        module = importlib.import_module(f"kaigata.cli.{cmd_name}")
        command: click.Command = module.command
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """List the words without importing them."""
        with formatter.section("Words"):
            formatter.write_dl(list(_WORDS.items()))


@click.group(cls=_Words, context_settings={"help_option_names": ["-h", "--help"]})
def _kaigata() -> None:
    """Finished bent sheet-metal parts made ready for the shop floor."""


def run(arguments: list[str]) -> int:
    """Run a command line and return its exit code."""
    try:
        answer = _kaigata.main(arguments, prog_name="kaigata", standalone_mode=False)
    except KaigataError as error:
        click.echo(f"kaigata: {error}", err=True)
        return EXIT_UNUSABLE
    except click.ClickException as error:
        click.echo("kaigata: " + " ".join(error.format_message().split()), err=True)
        return EXIT_UNUSABLE
    except click.Abort:
        click.echo("kaigata: stopped", err=True)
        return EXIT_UNUSABLE
    return answer if isinstance(answer, int) else 0
