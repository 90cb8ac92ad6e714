"""Running the geometry kernel in a child process, where a crash, a hang or a flood of memory stays.

The children are forked from one process that has the geometry kernel loaded, so the kernel's own
start is paid once and each file costs only its reading.
"""

from __future__ import annotations

import os
import resource
import signal
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, TypeVar

from kaigata.core.errors import KaigataError, LimitError
from kaigata.core.processes import READING, forked_with

__all__ = ["run_isolated"]

Result = TypeVar("Result")


def run_isolated(
    function: Callable[..., Result],
    *args: object,
    seconds: float,
    memory: int,
    where: str,
    doing: str = "reading it",
    fix: str = "Export the part again, alone and healed",
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
        The file or part it is about, for messages.
    doing, fix : str
        What is done, and what to do when it fails, for messages.

    Raises
    ------
    LimitError
        The child took too long or died.
    KaigataError
        Whatever the function raised of that kind.
    """
    context = forked_with(READING)
    ours, theirs = context.Pipe(duplex=False)
    child = context.Process(
        target=_child, args=(theirs, memory, function, args, (doing, where, fix)), daemon=True
    )
    child.start()
    theirs.close()
    try:
        if not ours.poll(seconds):
            raise LimitError(
                f"{doing} took over {seconds:g} s and was stopped", where=where, fix=fix
            )
        answer = ours.recv()
    except EOFError:
        child.join(5)
        raise LimitError(f"{doing} ended {_how(child.exitcode)}", where=where, fix=fix) from None
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
    pipe: Connection,
    memory: int,
    function: Callable[..., Any],
    args: tuple[object, ...],
    said: tuple[str, str, str],
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
        doing, where, fix = said
        limit = f"{memory / 2**30:.0f} GB"
        pipe.send(
            LimitError(f"{doing} took over {limit} of memory and was stopped", where=where, fix=fix)
        )
