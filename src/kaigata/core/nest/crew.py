"""The processes that search, or this one alone."""

from __future__ import annotations

import mmap
import pickle
import tempfile
from collections.abc import Callable, Sequence
from concurrent.futures import Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from contextlib import suppress
from pathlib import Path
from threading import BrokenBarrierError, Thread
from types import TracebackType
from typing import IO, Any, Self

from kaigata.core.errors import LimitError
from kaigata.core.nest.bench import Bench
from kaigata.core.nest.jobs import Job, Outcome, do_job
from kaigata.core.processes import NESTING, end_with_parent, forked_with

__all__ = ["Crew"]

_LOOK = 0.1
"""Seconds between two looks at whether a stop is wanted while others work."""
_LATE = 60.0
"""Seconds after which a process no longer waits for the others to begin."""

_ALIGNED = 64
"""Bytes whose multiples arrays begin at, for the processor's sake."""

_here: dict[str, Any] = {"place": None}
"""What a process of the crew has: the event to halt by, and the benches and where it read them."""


def _take(halt: Any, all_here: Any) -> None:
    _here.update(halt=halt, all_here=all_here)
    end_with_parent()


def _arrive() -> None:
    with suppress(BrokenBarrierError):
        _here["all_here"].wait(_LATE)


def _work(place: str, job: Job) -> Outcome:
    if _here["place"] != place:
        _here.update(place=place, benches=_read(Path(place)))
    return do_job(_here["benches"][job.gauge], job, _here["halt"].is_set)


def _write(benches: Sequence[Bench], file: IO[bytes]) -> None:
    """Write benches so that all processes can have their arrays in the same memory."""
    buffers: list[pickle.PickleBuffer] = []
    data = pickle.dumps(benches, protocol=5, buffer_callback=buffers.append)
    arrays = [b.raw() for b in buffers]
    pickle.dump((data, [len(a) for a in arrays]), file)
    for array in arrays:
        file.write(bytes(-file.tell() % _ALIGNED))
        file.write(array)


def _read(place: Path) -> Any:
    with place.open("rb") as file:
        data, lengths = pickle.load(file)  # noqa: S301 - written by this program
        at = file.tell()
        # What a process would write stays its own; none does.
        memory = memoryview(mmap.mmap(file.fileno(), 0, access=mmap.ACCESS_COPY))
    arrays = []
    for length in lengths:
        at += -at % _ALIGNED
        arrays.append(memory[at : at + length])
        at += length
    return pickle.loads(data, buffers=arrays)  # noqa: S301 - as above


class Crew:
    """Does jobs side by side, each in a process of its own; for one worker, in this one.

    The processes begin at once, beside whatever is done until there are jobs.

    Parameters
    ----------
    workers : int
        How many jobs are done at once.
    should_stop : callable
        Asked often while jobs are done.
    """

    def __init__(self, workers: int, should_stop: Callable[[], bool]) -> None:
        self.workers = workers
        self._should_stop = should_stop
        self._benches: list[Bench] = []
        self._place: Path | None = None
        self._pool: ProcessPoolExecutor | None = None
        if workers > 1:
            context = forked_with(NESTING)
            self._halt = context.Event()
            self._pool = ProcessPoolExecutor(
                workers, context, initializer=_take, initargs=(self._halt, context.Barrier(workers))
            )
            # Starting a process waits until the server it is forked from has loaded all loops.
            self._starting = Thread(target=self._start, args=(self._pool,), daemon=True)
            self._starting.start()

    def _start(self, pool: ProcessPoolExecutor) -> None:
        # Whoever has begun waits for the others, so that none is thought idle and not begun.
        with suppress(BrokenProcessPool):
            for _ in range(self.workers):
                pool.submit(_arrive)

    def __enter__(self) -> Self:
        """Return the crew."""
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        """Send the processes home."""
        if self._pool is not None:
            self._halt.set()
            self._starting.join()
            self._pool.shutdown(wait=True, cancel_futures=True)
        self._forget()

    def give(self, benches: Sequence[Bench]) -> None:
        """Tell which benches the next jobs are about, one a gauge."""
        self._forget()
        self._benches = list(benches)
        if self._pool is not None:
            with tempfile.NamedTemporaryFile(prefix="kaigata-", delete=False) as file:
                self._place = Path(file.name)
                _write(self._benches, file)

    def _forget(self) -> None:
        if self._place is not None:
            self._place.unlink(missing_ok=True)
            self._place = None

    def do(self, jobs: Sequence[Job]) -> list[Outcome]:
        """Do jobs and return their outcomes in the same order.

        Raises
        ------
        LimitError
            A search process ended early.
        """
        if self._pool is None:
            return [do_job(self._benches[j.gauge], j, self._should_stop) for j in jobs]
        try:
            self._starting.join()
            place = str(self._place)
            waiting: list[Future[Outcome]] = [self._pool.submit(_work, place, j) for j in jobs]
            while wait(waiting, timeout=_LOOK).not_done:
                if self._should_stop():
                    self._halt.set()
            return [f.result() for f in waiting]
        except BrokenProcessPool:
            raise LimitError(
                "a search process ended early", fix="Free some memory and search again"
            ) from None
