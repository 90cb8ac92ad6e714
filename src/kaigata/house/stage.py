"""Server and worker over a database, supervised together."""

from __future__ import annotations

import os
import secrets
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path

from kaigata.house.machine import LOG, ROOT, VAR
from kaigata.house.trouble import Trouble

__all__ = ["Stage", "manage"]

_PATIENCE = 120.0
"""s; a server that cannot start ends long before, but a busy machine is slow to start one."""
_GRACE = 15.0
_WITH_PARENT = ("setpriv", "--pdeathsig", "TERM")
"""Ends a child with its parent, so that a house that was killed keeps no port taken."""


def _environment(database: str) -> dict[str, str]:
    secret = VAR / "secret"
    if not secret.exists():
        VAR.mkdir(exist_ok=True)
        secret.touch(mode=0o600)
        secret.write_text(secrets.token_hex(32))
    return {
        **os.environ,
        "KAIGATA_DATABASE": database,
        "KAIGATA_SECRET": secret.read_text(),
        "DJANGO_SETTINGS_MODULE": "kaigata.shop.settings",
        "PYTHONPATH": str(ROOT / "src"),
        "PYTHONUNBUFFERED": "1",
    }


def manage(database: str, *words: str) -> None:
    """Run one of Django's commands on a database."""
    done = subprocess.run(
        [sys.executable, "-m", "kaigata.shop", *words],
        env=_environment(database), capture_output=True, text=True, check=False,
    )  # fmt: skip
    if done.returncode:
        last = (done.stderr.strip() or done.stdout.strip()).splitlines()[-1:]
        raise Trouble(f"{words[0]} failed: {''.join(last)}")


@dataclass
class Stage:
    """A web server and a worker; the worker is begun again when it dies."""

    database: str
    port: int
    log: Path = LOG
    _children: dict[str, subprocess.Popen[bytes]] = field(default_factory=dict)
    _deaths: list[float] = field(default_factory=list)

    @property
    def address(self) -> str:
        """Where a browser finds it."""
        return f"http://127.0.0.1:{self.port}"

    def worker_words(self) -> list[str]:
        """Return the command of a worker."""
        return [sys.executable, "-m", "kaigata.shop", "work"]

    def start(self) -> None:
        """Start both and wait until the server answers."""
        self._run(
            "web",
            [sys.executable, "-m", "gunicorn", "kaigata.shop.wsgi:application", "--bind",
             f"127.0.0.1:{self.port}", "--workers", "2", "--threads", "4", "--timeout", "120",
             "--graceful-timeout", "5"],
        )  # fmt: skip
        self.start_worker()
        self._wait()

    def start_worker(self) -> None:
        """Start the worker."""
        self._run("worker", self.worker_words())

    def worker_pid(self) -> int:
        """Return the worker's process."""
        return self._children["worker"].pid

    def watch(self) -> str | None:
        """Begin a dead worker again; return what keeps the stage from going on, or None."""
        if self._children["web"].poll() is not None:
            return "the web server ended"
        if self._children["worker"].poll() is not None:
            self._deaths = [t for t in self._deaths if time.monotonic() - t < 60]
            self._deaths.append(time.monotonic())
            if len(self._deaths) > 5:
                return "the worker ends again and again"
            self.start_worker()
        return None

    def stop(self) -> None:
        """Stop both, gently at first."""
        for child in self._children.values():
            if child.poll() is None:
                child.send_signal(signal.SIGTERM)
        end = time.monotonic() + _GRACE
        for child in self._children.values():
            try:
                child.wait(max(0.1, end - time.monotonic()))
            except subprocess.TimeoutExpired:
                _kill_all(child)
        for child in self._children.values():
            _kill_all(child)

    def _run(self, name: str, words: Sequence[str]) -> None:
        self.log.mkdir(parents=True, exist_ok=True)
        with (self.log / f"{name}.log").open("ab") as log:
            self._children[name] = subprocess.Popen(
                [*_WITH_PARENT, *words], env=_environment(self.database), stdout=log, stderr=log,
                start_new_session=True,
            )  # fmt: skip

    def _wait(self) -> None:
        end = time.monotonic() + _PATIENCE
        while time.monotonic() < end and self._children["web"].poll() is None:
            try:
                urllib.request.urlopen(f"{self.address}/api/session", timeout=2).close()  # noqa: S310
            except (urllib.error.URLError, OSError):
                time.sleep(0.1)
            else:
                return
        log = self.log / "web.log"
        last = log.read_text(errors="replace").strip().splitlines()[-1:]
        self.stop()
        raise Trouble(f"the web server did not come up: {''.join(last)} (see {log})")


def _kill_all(child: subprocess.Popen[bytes]) -> None:
    """Kill what is left of a child's session: its own children hold the kernel and searches."""
    try:
        os.killpg(child.pid, signal.SIGKILL)
    except ProcessLookupError:
        return
