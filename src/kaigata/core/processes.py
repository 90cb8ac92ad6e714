"""Work done in several processes at once, which end with the one that gave it."""

from __future__ import annotations

import multiprocessing
import os
import sys
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from contextlib import contextmanager
from multiprocessing import forkserver
from multiprocessing.context import ForkServerContext
from threading import Thread
from typing import TypeVar

from kaigata.core.errors import LimitError

__all__ = [
    "CUTTING",
    "NESTING",
    "READING",
    "begin_loading",
    "each",
    "end_with_parent",
    "forked_with",
]

Item = TypeVar("Item")
Result = TypeVar("Result")

READING, NESTING, CUTTING = (
    "kaigata.core.intake.step",
    "kaigata.core.nest.ready",
    "kaigata.core.packet.cutting",
)
"""Modules that take long to load, by what they are for: the geometry kernel and compiled loops."""

_loaded: set[str] = set()
"""What the process that all others are forked from loads before it forks the first."""


def forked_with(*modules: str) -> ForkServerContext:
    """Return how processes are begun, once for all with these modules among those they have.

    They are forked from one process that loads such modules only once. What is asked for after
    that has begun each process loads for itself.
    """
    _loaded.update(modules)
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(sorted(_loaded))
    return context


def begin_loading(*modules: str) -> None:
    """Begin loading modules for processes to come, beside what the caller does next."""
    forked_with(*modules)
    with _quiet():
        forkserver.ensure_running()


@contextmanager
def _quiet() -> Iterator[None]:
    """Keep a process started here from holding, or writing to, our own output."""
    sys.stdout.flush()
    sys.stderr.flush()
    kept = [os.dup(1), os.dup(2)]
    nowhere = os.open(os.devnull, os.O_WRONLY)
    try:
        os.dup2(nowhere, 1)
        os.dup2(nowhere, 2)
        yield
    finally:
        for at, was in enumerate(kept, start=1):
            os.dup2(was, at)
            os.close(was)
        os.close(nowhere)


def end_with_parent() -> None:
    """Have this process end when the one that began it is gone, killed perhaps."""
    Thread(target=_wait_for_the_end, daemon=True).start()


def _wait_for_the_end() -> None:
    parent = multiprocessing.parent_process()
    if parent is not None:
        parent.join()
        os._exit(1)


def each(
    function: Callable[[Item], Result], items: Sequence[Item], *, workers: int | None = None
) -> Iterator[Result]:
    """Yield what a function returns for each item, in their order, several made at a time.

    Parameters
    ----------
    function : callable
        A function of a module, or a partial of one (it is sent by name).
    items : sequence
        What it is called with; they must survive pickling.
    workers : int, optional
        How many processes; as many as there are cores where it is not given. For one item or one
        worker all is done in this process.

    Raises
    ------
    LimitError
        A process ended early.
    """
    workers = min(workers or os.cpu_count() or 1, len(items))
    if workers < 2:
        yield from map(function, items)
        return
    pool = ProcessPoolExecutor(workers, forked_with(), initializer=end_with_parent)
    try:
        waiting: list[Future[Result]] = [pool.submit(function, i) for i in items]
        for one in waiting:
            yield one.result()
    except BrokenProcessPool:
        raise LimitError("a process ended early", fix="Free some memory and try again") from None
    finally:
        pool.shutdown(wait=False, cancel_futures=True)
