"""What becomes of a record whose job cannot be finished."""

from __future__ import annotations

from procrastinate.contrib.django.models import ProcrastinateJob

from kaigata.shop.models import AssemblyRun, CutRun, NestRun, Packet, Part, Run
from kaigata.shop.services.reading import give_up_reading

__all__ = ["fail_forsaken", "give_up"]

_ENDED = ("succeeded", "failed", "cancelled", "aborting", "aborted")
"""What the queue's table calls jobs that nobody will finish any more."""

_RUNS: dict[str, type[Run]] = {
    "nest": NestRun,
    "cut": CutRun,
    "pack": Packet,
    "draw assembly": AssemblyRun,
}


def give_up(task: str, arguments: dict[str, int], why: str) -> None:
    """Mark the record of a job failed, with the reason, so that nothing stays ``running``."""
    if task == "read part":
        give_up_reading(arguments["part_id"], why)
        return
    if task == "read revision":
        Part.objects.filter(pk=arguments["part_id"]).update(revision_fault=why)
        return
    model = _RUNS.get(task)
    if model is None:
        return
    open_run = model.objects.filter(
        pk=arguments["run_id"], state__in=(Run.State.QUEUED, Run.State.RUNNING)
    )
    open_run.update(
        state=Run.State.FAILED,
        what=why,
        fix="Start it again; if it fails again look into var/log/worker.log",
    )


def fail_forsaken() -> None:
    """Give up every open record that no job in the queue will ever finish."""
    for task, model in _RUNS.items():
        states = (Run.State.QUEUED, Run.State.RUNNING)
        for key in model.objects.filter(state__in=states).values_list("pk", flat=True):
            if not _has_job(task, {"run_id": key}):
                give_up(task, {"run_id": key}, "its job is no longer in the queue")
    for key in Part.objects.filter(state=Part.State.READING).values_list("pk", flat=True):
        if not _has_job("read part", {"part_id": key}):
            give_up("read part", {"part_id": key}, "its job is no longer in the queue")


def _has_job(task: str, arguments: dict[str, int]) -> bool:
    jobs = ProcrastinateJob.objects.filter(task_name=task, args__contains=arguments)
    return jobs.exclude(status__in=_ENDED).exists()
