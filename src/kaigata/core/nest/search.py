"""The door of the engine: from an order to better and better nests within a time.

What stands behind it may change without anyone in front noticing: an order goes in, complete
nests come out through ``on_better`` as they are found, and the best one is returned.
"""

from __future__ import annotations

import math
import multiprocessing
import random
import time
from collections.abc import Callable
from dataclasses import dataclass, replace
from queue import Empty
from typing import Any

from kaigata.core.errors import InputError, LimitError, Stopped
from kaigata.core.nest.bench_sheet import Shapes
from kaigata.core.nest.build import Plan, build, largest_first, score, standing_sheets
from kaigata.core.nest.figures import Nest
from kaigata.core.nest.order import NestOrder, require_usable

__all__ = ["Progress", "search"]

_SHAKE = 0.35
"""Spread of the noise on the logarithm of a part's area when a sequence is shaken."""


@dataclass(frozen=True, slots=True)
class Progress:
    """A better nest, when it was found and in which attempt."""

    nest: Nest
    seconds: float
    step: int


def search(
    order: NestOrder,
    *,
    seconds: float = 30.0,
    steps: int | None = None,
    seed: int = 7,
    workers: int = 1,
    on_better: Callable[[Progress], None] = lambda progress: None,
    should_stop: Callable[[], bool] = lambda: False,
) -> Nest:
    """Return the best nest found for an order.

    The first attempt lays the largest parts first; later ones shake that sequence and the order
    of the sheets. The first attempt is always finished, whatever the time.

    Parameters
    ----------
    order : NestOrder
        What to place on what.
    seconds : float
        How long to search.
    steps : int, optional
        Attempts to make instead of looking at the clock; then the same seed and the same number
        of workers give the same nest.
    seed : int
        Seed of the shaking.
    workers : int
        Processes to search with.
    on_better : callable
        Called with each better nest, the first one included.
    should_stop : callable
        Asked often; when it says yes the best nest so far is returned.

    Returns
    -------
    Nest
        The best nest; copies that found no place are listed with the reason.

    Raises
    ------
    InputError
        The order cannot be nested as it is.
    Stopped
        It was stopped before the first nest was complete.
    """
    require_usable(order)
    if seconds <= 0 or (steps is not None and steps < 1) or workers < 1:
        raise InputError(
            f"a search of {seconds:g} s, {steps} steps with {workers} workers cannot be",
            fix="Give at least one of each",
        )
    began = time.monotonic()
    shapes = Shapes(order)
    plan = Plan(largest_first(order.parts), standing_sheets(order.sheets))
    first = build(shapes, plan, should_stop=should_stop)
    if first is None:
        raise Stopped("the search was stopped before its first nest was complete")
    best = _Best(began, on_better)
    best.offer(first, 1)
    attempts = None if steps is None else steps - 1
    if attempts == 0 or not _can_gain(order):
        return best.nest
    ends = began + seconds if attempts is None else math.inf
    if workers == 1:
        _improve(shapes, plan, seed, attempts, lambda: should_stop() or time.monotonic() > ends,
                 best.offer)  # fmt: skip
    else:
        _improve_together(order, plan, seed, attempts, workers, ends, should_stop, best)
    return best.nest


class _Best:
    """The best nest so far."""

    def __init__(self, began: float, on_better: Callable[[Progress], None]) -> None:
        self._began, self._on_better = began, on_better
        self._nest: Nest | None = None

    @property
    def nest(self) -> Nest:
        if self._nest is None:
            raise Stopped("no nest was found")
        return self._nest

    def offer(self, nest: Nest, step: int) -> None:
        if self._nest is None or score(nest) < score(self._nest):
            self._nest = nest
            self._on_better(Progress(nest, time.monotonic() - self._began, step))


def _can_gain(order: NestOrder) -> bool:
    return sum(p.quantity for p in order.parts) > 1


def _improve(
    shapes: Shapes,
    plan: Plan,
    seed: int,
    attempts: int | None,
    should_stop: Callable[[], bool],
    offer: Callable[[Nest, int], None],
) -> None:
    """Shake the best plan so far and build it, until stopped or out of attempts."""
    draw = random.Random(seed)
    size = {p.id: math.log(p.region.outer.area) for p in shapes.order.parts}
    keys, best = dict(size), None
    step = 1
    while not should_stop() and (attempts is None or step <= attempts):
        step += 1
        base = keys if draw.random() < 0.7 else size
        shaken = {i: v + draw.gauss(0, _SHAKE) for i, v in base.items()}
        sheets = list(plan.sheets)
        if draw.random() < 0.5:
            draw.shuffle(sheets)
        sequence = tuple(sorted(shaken, key=lambda i: -shaken[i]))
        nest = build(shapes, replace(plan, sequence=sequence, sheets=tuple(sheets)),
                     should_stop=should_stop)  # fmt: skip
        if nest is None:
            return
        if best is None or score(nest) < best:
            best, keys = score(nest), shaken
        offer(nest, step)


def _improve_together(
    order: NestOrder,
    plan: Plan,
    seed: int,
    attempts: int | None,
    workers: int,
    ends: float,
    should_stop: Callable[[], bool],
    best: _Best,
) -> None:
    """Let several processes shake, each with its own seed, and take what they find."""
    context = multiprocessing.get_context("forkserver")
    found: Any = context.Queue()
    halt: Any = context.Event()
    share = None if attempts is None else -(-attempts // workers)
    crew = [
        context.Process(
            target=_crew_member,
            args=(order, plan, seed + 1000 * i, share, halt, found),
            daemon=True,
        )
        for i in range(workers)
    ]
    for process in crew:
        process.start()
    results: list[tuple[int, int, Nest]] = []
    try:
        working = workers
        while working and not halt.is_set():
            if should_stop() or time.monotonic() > ends:
                halt.set()
            try:
                member, step, nest = found.get(timeout=0.1)
            except Empty:
                if not any(p.is_alive() for p in crew) and found.empty():
                    raise LimitError(
                        "every search process ended early",
                        fix="Free some memory and search again",
                    ) from None
                continue
            if nest is None:
                working -= 1
            elif attempts is None:
                best.offer(nest, step)
            else:
                results.append((step, member, nest))
    finally:
        halt.set()
        for process in crew:
            process.terminate()
            process.join()
    # With a count of steps the outcome must not depend on which process was quicker.
    for step, _, nest in sorted(results, key=lambda r: r[:2]):
        best.offer(nest, step)


def _crew_member(
    order: NestOrder, plan: Plan, seed: int, attempts: int | None, halt: Any, found: Any
) -> None:
    member = seed
    best: list[tuple[int, float]] = []

    def offer(nest: Nest, step: int) -> None:
        if not best or score(nest) < best[-1]:
            best.append(score(nest))
            found.put((member, step, nest))

    _improve(Shapes(order), plan, seed, attempts, halt.is_set, offer)
    found.put((member, 0, None))
