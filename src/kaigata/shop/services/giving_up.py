"""What becomes of a record whose job cannot be finished."""

from __future__ import annotations

from kaigata.shop.models import CutRun, NestRun, Packet, Run
from kaigata.shop.services.reading import give_up_reading

__all__ = ["give_up"]

_RUNS: dict[str, type[Run]] = {"nest": NestRun, "cut": CutRun, "pack": Packet}


def give_up(task: str, arguments: dict[str, int], why: str) -> None:
    """Mark the record of a job failed, with the reason, so that nothing stays ``running``."""
    if task == "read part":
        give_up_reading(arguments["part_id"], why)
        return
    model = _RUNS.get(task)
    if model is None:
        return
    key = next(iter(arguments.values()))
    model.objects.filter(pk=key, state__in=(Run.State.QUEUED, Run.State.RUNNING)).update(
        state=Run.State.FAILED,
        what=why,
        fix="Start it again; if it fails again look into var/log/worker.log",
    )
