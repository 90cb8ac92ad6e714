"""Building the front end when its sources have changed."""

from __future__ import annotations

import hashlib
import os
import subprocess
from pathlib import Path

from kaigata.house.machine import LOG, WEB, node_tool, say
from kaigata.house.trouble import Trouble

__all__ = ["build_front", "install_front", "run_front"]

_SOURCES = ("index.html", "package-lock.json", "vite.config.ts", "tsconfig.json")


def build_front() -> None:
    """Build ``web/dist`` unless it was made from these very sources."""
    made_from = WEB / "dist" / ".made-from"
    now = _digest([WEB / n for n in _SOURCES] + sorted((WEB / "src").rglob("*")))
    if made_from.is_file() and made_from.read_text() == now:
        return
    install_front()
    say("building the front end")
    run_front("run", "build")
    made_from.write_text(now)


def install_front() -> None:
    """Install the locked packages unless they are there."""
    stamp = WEB / "node_modules" / ".made-from"
    now = _digest([WEB / "package-lock.json"])
    if stamp.is_file() and stamp.read_text() == now:
        return
    say("installing the front end's packages")
    run_front("ci", "--no-audit", "--no-fund", "--ignore-scripts")
    stamp.write_text(now)


def run_front(*words: str) -> None:
    """Run npm in ``web/``; its output goes to the log."""
    LOG.mkdir(parents=True, exist_ok=True)
    log = LOG / "front.log"
    npm = node_tool("npm")
    environment = dict(os.environ)
    if Path(npm[0]).is_absolute():
        environment["PATH"] = f"{Path(npm[0]).parent}{os.pathsep}{environment['PATH']}"
    with log.open("w") as out:
        done = subprocess.run([*npm, *words], cwd=WEB, stdout=out, stderr=out, check=False,
                              env=environment)  # fmt: skip
    if done.returncode:
        tail = log.read_text().strip().splitlines()[-30:]
        raise Trouble(f"npm {' '.join(words)} failed:\n" + "\n".join(tail))


def _digest(files: list[Path]) -> str:
    total = hashlib.sha256()
    for file in files:
        if file.is_file():
            total.update(str(file.relative_to(WEB)).encode())
            total.update(file.read_bytes())
    return total.hexdigest()
