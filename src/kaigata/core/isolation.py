"""Running a reader in a child process, where a crash, a hang or a flood of memory stays.

The children are forked from one server process that has the geometry kernel loaded, so the
kernel's own start is paid once and each file costs only its reading.
"""

from __future__ import annotations

import multiprocessing
import os
import resource
import signal
import sys
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from multiprocessing import forkserver
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from kaigata.core.errors import KaigataError, LimitError

__all__ = ["run_isolated", "warm_up"]

Result = TypeVar("Result")

_PRELOAD = ["kaigata.core.intake.step"]


def warm_up() -> None:
    """Begin loading the geometry kernel beside what the caller does next.

    The children are forked from a server process that loads it once; started early it loads while
    the caller imports its own.
    """
    multiprocessing.get_context("forkserver").set_forkserver_preload(_PRELOAD)
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


def run_isolated(
    function: Callable[..., Result],
    *args: object,
    seconds: float,
    memory: int,
    where: str,
) -> Result:
    """Call a function in a child process and return what it returns.

    Parameters
    ----------
    function : callable
        A function of a module (it is sent by name).
    *args : object
        Its arguments; they must survive pickling.
    seconds : float
        How long it may take.
    memory : int
        How much address space it may take, bytes.
    where : str
        The file it is about, for messages.

    Raises
    ------
    LimitError
        The child took too long or died.
    KaigataError
        Whatever the function raised of that kind.
    """
    context = multiprocessing.get_context("forkserver")
    context.set_forkserver_preload(_PRELOAD)
    ours, theirs = context.Pipe(duplex=False)
    child = context.Process(target=_child, args=(theirs, memory, function, args), daemon=True)
    child.start()
    theirs.close()
    try:
        if not ours.poll(seconds):
            raise LimitError(
                f"reading it took over {seconds:g} s and was stopped",
                where=where,
                fix="Export the part again, alone and healed",
            )
        answer = ours.recv()
    except EOFError:
        child.join(5)
        raise LimitError(
            f"reading it ended {_how(child.exitcode)}",
            where=where,
            fix="The file is damaged or too large to read; export the part again",
        ) from None
    finally:
        child.kill()
        child.join()
        ours.close()
    if isinstance(answer, KaigataError):
        raise answer
    return answer  # type: ignore[no-any-return]


def _how(code: int | None) -> str:
    if code is not None and code < 0:
        return f"with a crash of the geometry kernel ({signal.Signals(-code).name})"
    return f"without an answer (exit {code})"


def _child(
    pipe: Connection, memory: int, function: Callable[..., Any], args: tuple[object, ...]
) -> None:
    # The kernel writes its own remarks to standard output, where JSON may be expected.
    quiet = os.open(os.devnull, os.O_WRONLY)
    os.dup2(quiet, 1)
    os.dup2(quiet, 2)
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    try:
        pipe.send(function(*args))
    except KaigataError as error:
        pipe.send(error)
    except MemoryError:
        pipe.send(
            LimitError(
                f"reading it took over {memory / 2**30:.0f} GB of memory and was stopped",
                where=str(args[0]),
                fix="Export the part alone",
            )
        )
