"""Running the independent checkers, and the data they check against."""

import io
import runpy
import sys
import warnings
from contextlib import redirect_stderr, redirect_stdout, suppress
from pathlib import Path
from unittest.mock import patch

TESTS = Path(__file__).parent
DATA = TESTS / "data"
PARTS = DATA / "parts"
NEST = DATA / "nest"


def checked(program: str, *words: object) -> str:
    """Run a checker as a program and return its last line, which begins with ``ok`` or ``off``.

    It runs in this process: starting one for each would take longer than most checks.
    """
    path = str(TESTS / "check" / program)
    said, faults = io.StringIO(), io.StringIO()
    with (
        # The checkers leave closing their files to the end of the program.
        warnings.catch_warnings(action="ignore", category=ResourceWarning),
        patch.object(sys, "argv", [path, *map(str, words)]),
        # As for a program: its own folder comes first, one checker takes from another.
        patch.object(sys, "path", [str(TESTS / "check"), *sys.path]),
        redirect_stdout(said),
        redirect_stderr(faults),
        suppress(SystemExit),
    ):
        runpy.run_path(path, run_name="__main__")
    return (said.getvalue() or faults.getvalue()).strip().splitlines()[-1]
