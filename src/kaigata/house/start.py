"""``./kaigata start``: everything a person needs to work, and its end."""

from __future__ import annotations

import fcntl
import os
import signal
import sys
import threading
from types import FrameType
from typing import IO

from kaigata.house.database import Cluster, port_is_free
from kaigata.house.front import build_front
from kaigata.house.loops import build_loops, loops_built
from kaigata.house.machine import VAR, require_room, say
from kaigata.house.stage import Stage, manage
from kaigata.house.trouble import Trouble

__all__ = ["run_worker", "start"]


def start(*, port: int, demo: bool, reset: bool) -> int:
    """Set up what is missing, start everything, and stop it together when told to."""
    halt = threading.Event()

    def stop(number: int, frame: FrameType | None) -> None:
        halt.set()

    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, stop)
    require_room()
    if not port_is_free(port):
        raise Trouble(f"port {port} is in use; stop what uses it or give another with --port")
    lock = _only_one()
    with loops_built():
        build_front()
    cluster = Cluster()
    say("starting the database")
    cluster.start()
    (VAR / "address").touch(mode=0o600)
    (VAR / "address").write_text(cluster.address())
    stage = Stage(cluster.address(), port)
    trouble = None
    try:
        cluster.make_database("kaigata")
        manage(cluster.address(), "migrate", "--verbosity", "0")
        manage(cluster.address(), "refresh_blanks")
        words = ["load_demo"] if demo else ["load_demo", "--stores-only"]
        manage(cluster.address(), *words, *(["--reset"] if reset else []))
        say("starting server and worker")
        if not halt.is_set():
            stage.start()
            _greet(stage)
        while not halt.wait(1.0) and trouble is None:
            trouble = stage.watch()
            if not cluster.is_running():
                trouble = "the database ended"
    finally:
        say("stopping")
        stage.stop()
        cluster.stop()
        lock.close()
    if trouble is not None:
        raise Trouble(f"{trouble}; see {VAR / 'log'}")
    return 0


def _greet(stage: Stage) -> None:
    print(
        f"\nKaigata is at {stage.address}\n"
        "Sign in as kestrel with the password repair-stand. Ctrl-C stops everything.\n",
        flush=True,
    )


def _only_one() -> IO[str]:
    """Hold the lock of this folder: two at once would fight over its database."""
    VAR.mkdir(exist_ok=True)
    lock = (VAR / "lock").open("w")
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        raise Trouble("Kaigata runs from this folder already; stop it first") from None
    return lock


def run_worker(database: str | None) -> int:
    """Become a worker on a database."""
    known = VAR / "address"
    if database is None and not known.exists():
        raise Trouble("there is no database here; run ./kaigata start or give --database")
    build_loops()
    stage = Stage(database or known.read_text(), 0)
    os.environ["KAIGATA_DATABASE"] = stage.database
    os.environ["DJANGO_SETTINGS_MODULE"] = "kaigata.shop.settings"
    words = stage.worker_words()
    sys.stdout.flush()
    os.execv(words[0], words)  # noqa: S606
    return 0
