"""``./kaigata test``: every kind of test, with what they need."""

from __future__ import annotations

import os
import subprocess
import sys
import time
from pathlib import Path

from kaigata.house.database import Cluster
from kaigata.house.front import build_front, install_front, run_front
from kaigata.house.loops import loops_built
from kaigata.house.machine import ROOT, WEB, require_room, require_system, say

__all__ = ["golden", "lint", "test"]

_BROWSER = {"chromium": "/usr/bin/chromium", "chromium-driver": "/usr/bin/chromedriver"}
# Tests in a browser wait about as long as they work, so one process more has room.
_PROCESSES = min(4, (os.cpu_count() or 1) + 1)
_SIDE_BY_SIDE = (f"--numprocesses={_PROCESSES}", "--no-loadscope-reorder")
SCHEMA = WEB / "src" / "api" / "schema.json"


def _tool(name: str) -> str:
    return str(Path(sys.executable).parent / name)


def lint() -> int:
    """Run the house rules: ruff, mypy, import contracts, eslint, vue-tsc."""
    rules = (
        ("ruff", [_tool("ruff"), "check", "."]),
        ("ruff format", [_tool("ruff"), "format", "--check", "."]),
        ("mypy", [_tool("mypy")]),
        ("import contracts", [_tool("lint-imports")]),
    )
    broken = 0
    for name, words in rules:
        broken += _told(name, words)
    install_front()
    for script in ("lint", "types"):
        say(f"front end: {script}")
        run_front("run", script)
    return 1 if broken else 0


def _told(name: str, words: list[str]) -> int:
    began = time.monotonic()
    done = subprocess.run(words, cwd=ROOT, capture_output=True, text=True, check=False)
    took = time.monotonic() - began
    say(f"{name}: {'broken' if done.returncode else 'kept'} ({took:.1f} s)")
    if done.returncode:
        print(done.stdout + done.stderr)
    return int(done.returncode != 0)


def test(only: list[str]) -> int:
    """Run the house rules, the front end's tests, then core, server and browser tests."""
    require_room()
    require_system(_BROWSER)
    broken = 0
    with loops_built():
        if not only:
            broken += lint()
            say("front end: tests")
            run_front("run", "test")
        build_front()
    cluster = Cluster("test-postgres")
    cluster.start()
    try:
        environment = {**os.environ, "KAIGATA_DATABASE": cluster.address()}
        cluster.make_database("kaigata")
        words = [sys.executable, "-m", "pytest", "-q", "--durations=8", *(only or _SIDE_BY_SIDE)]
        broken += subprocess.run(words, cwd=ROOT, env=environment, check=False).returncode != 0
    finally:
        cluster.stop()
    return 1 if broken else 0


def golden() -> int:
    """Write the API's schema, the client's types and the schemas of posts and recipes again."""
    from kaigata.core.cut.posts import post_schema
    from kaigata.core.part.recipe.document import recipe_schema

    docs = ROOT / "docs"
    (docs / "post.schema.json").write_text(post_schema(), encoding="utf-8")
    (docs / "recipe.schema.json").write_text(recipe_schema(), encoding="utf-8")
    install_front()
    environment = {**os.environ, "DJANGO_SETTINGS_MODULE": "kaigata.shop.settings"}
    words = [sys.executable, "-m", "kaigata.shop", "spectacular", "--format", "openapi-json",
             "--file", str(SCHEMA)]  # fmt: skip
    subprocess.run(words, cwd=ROOT, env=environment, check=True)
    run_front("run", "client")
    say("written: docs/*.schema.json, web/src/api/schema.json and schema.d.ts; read the diff")
    return 0
