"""The processes that search, or this one alone."""

from __future__ import annotations

import multiprocessing
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import forkserver
from typing import Any

from kaigata.core.errors import LimitError
from kaigata.core.nest.bench import Bench
from kaigata.core.nest.jobs import Job, Outcome, do_job

__all__ = ["Crew", "call_up"]

_LOOK = 0.1
"""Seconds between two looks at whether a stop is wanted while others work."""

_here: dict[str, Any] = {}
"""What a process of the crew was given when it began: the benches, and the event to halt by."""


def _take(benches: list[Bench], halt: Any) -> None:
    _here.update(benches=benches, halt=halt)


def _work(job: Job) -> Outcome:
    return do_job(_here["benches"][job.gauge], job, _here["halt"].is_set)


def call_up() -> None:
    """Begin to make ready for processes, so that they start at once when a crew is made."""
    multiprocessing.set_forkserver_preload([__name__, "kaigata.core.nest.ready"])
    forkserver.ensure_running()


class Crew:
    """Does jobs side by side, each in a process of its own; for one worker, in this one.

    Parameters
    ----------
    benches : sequence of Bench
        One a gauge.
    workers : int
        How many jobs are done at once.
    should_stop : callable
        Asked often while jobs are done.
    """

    def __init__(
        self, benches: Sequence[Bench], workers: int, should_stop: Callable[[], bool]
    ) -> None:
        self.benches = list(benches)
        self.workers = workers
        self._should_stop = should_stop
        self._pool: ProcessPoolExecutor | None = None
        if workers > 1:
            context = multiprocessing.get_context("forkserver")
            self._halt = context.Event()
            self._pool = ProcessPoolExecutor(
                workers, context, initializer=_take, initargs=(self.benches, self._halt)
            )

    def do(self, jobs: Sequence[Job]) -> list[Outcome]:
        """Do jobs and return their outcomes in the same order.

        Raises
        ------
        LimitError
            A search process ended early.
        """
        if self._pool is None:
            return [do_job(self.benches[j.gauge], j, self._should_stop) for j in jobs]
        try:
            waiting: list[Future[Outcome]] = [self._pool.submit(_work, j) for j in jobs]
            while wait(waiting, timeout=_LOOK).not_done:
                if self._should_stop():
                    self._halt.set()
            return [f.result() for f in waiting]
        except BrokenProcessPool:
            raise LimitError(
                "a search process ended early", fix="Free some memory and search again"
            ) from None

    def close(self) -> None:
        """Send the processes home."""
        if self._pool is not None:
            self._halt.set()
            self._pool.shutdown(wait=True, cancel_futures=True)
