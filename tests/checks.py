"""Running the independent checkers, and the data they check against."""

import subprocess
import sys
from pathlib import Path

TESTS = Path(__file__).parent
DATA = TESTS / "data"
PARTS = DATA / "parts"
NEST = DATA / "nest"


def checked(program: str, *words: object) -> str:
    """Run a checker and return its last line, which begins with ``ok`` or ``off``."""
    done = subprocess.run(
        [sys.executable, str(TESTS / "check" / program), *map(str, words)],
        capture_output=True,
        text=True,
        check=False,
    )
    return (done.stdout or done.stderr).strip().splitlines()[-1]
