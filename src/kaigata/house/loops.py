"""Building the compiled loops when their sources have changed."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from kaigata.house.machine import ROOT, say
from kaigata.house.trouble import Trouble

__all__ = ["build_loops", "loops_built"]

_CORE = ROOT / "src" / "kaigata" / "core"
_STAMP = Path(sys.prefix) / "loops"
_WARM = (sys.executable, "-m", "kaigata.core.cut.warm")


def build_loops() -> None:
    """Build the compiled loops, unless they are; raises as ``loops_built``."""
    with loops_built():
        pass


@contextmanager
def loops_built() -> Iterator[None]:
    """Build the compiled loops, unless they are, beside what is done within.

    Which sources they were built from is told by the sum that ``./kaigata`` makes of them.

    Raises
    ------
    Trouble
        They could not be built.
    """
    sources = os.environ.get("KAIGATA_LOOPS", "")
    made_from = _STAMP.read_text().strip() if _STAMP.is_file() else ""
    if sources == made_from:
        yield
        return
    say("building the compiled loops, once")
    # Broken off, it is known not to be built, even if the sources become what they were.
    _STAMP.unlink(missing_ok=True)
    # A loop takes over constants of its neighbours, but is only built anew when its own file
    # changes: so when any of them has changed, all are.
    for kept in _CORE.glob("*/__pycache__/*.nb[ic]"):
        kept.unlink()
    building = subprocess.Popen(_WARM, cwd=ROOT)
    try:
        yield
        if building.wait():
            raise Trouble("the compiled loops could not be built; what is said above tells why")
        _STAMP.write_text(sources)
    finally:
        building.kill()
        building.wait()
