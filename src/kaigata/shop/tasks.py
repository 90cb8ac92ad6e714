"""What workers do. A task names a record; everything else stands in the record."""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any

from asgiref.sync import sync_to_async
from procrastinate.contrib.django import app
from procrastinate.jobs import Job, Status

from kaigata.shop.services import assemblies, cutting, nesting, packing, reading
from kaigata.shop.services.giving_up import fail_forsaken, give_up

__all__ = [
    "cut_task",
    "draw_assembly_task",
    "nest_task",
    "pack_task",
    "read_part_task",
    "read_revision_task",
    "take_up_again",
]

TRIES = 3
"""How often a job is begun whose worker died."""

SILENT = 20.0
"""Seconds without a sign of life after which a worker counts as dead."""

log = logging.getLogger(__name__)


def _failing_openly(name: str, work: Callable[..., None], **arguments: Any) -> None:
    """Do the work; a fault of our own marks its record failed before it is logged."""
    try:
        work(**arguments)
    except Exception as error:
        give_up(name, arguments, f"the program met a fault of its own ({type(error).__name__})")
        raise


@app.task(queue="quick", name="read part")
def read_part_task(part_id: int, file_name: str) -> None:
    """Read a file into parts."""
    _failing_openly("read part", reading.read_part, part_id=part_id, file_name=file_name)


@app.task(queue="quick", name="read revision")
def read_revision_task(part_id: int, sha256: str, file_name: str) -> None:
    """Read a newer file of a part."""
    _failing_openly(
        "read revision",
        reading.read_revision,
        part_id=part_id,
        sha256=sha256,
        file_name=file_name,
    )


@app.task(queue="long", name="nest")
def nest_task(run_id: int) -> None:
    """Search for a nest."""
    _failing_openly("nest", nesting.nest_parts, run_id=run_id)


@app.task(queue="long", name="cut")
def cut_task(run_id: int) -> None:
    """Plan cutting paths."""
    _failing_openly("cut", cutting.cut_order, run_id=run_id)


@app.task(queue="long", name="pack")
def pack_task(run_id: int) -> None:
    """Pack what the floor needs."""
    _failing_openly("pack", packing.pack_order, run_id=run_id)


@app.task(queue="quick", name="draw assembly")
def draw_assembly_task(run_id: int) -> None:
    """Draw the parts of an assembly together."""
    _failing_openly("draw assembly", assemblies.draw_order_assembly, run_id=run_id)


@app.periodic(cron="* * * * * */10")
@app.task(queue="watch", name="take up again", pass_context=False)
async def take_up_again(timestamp: int) -> None:
    """Queue again what a dead worker left, or give it up with a reason."""
    jobs = await app.job_manager.get_stalled_jobs(seconds_since_heartbeat=SILENT)
    for job in jobs:
        if job.attempts < TRIES:
            log.warning("job %s (%s) lost its worker and is queued again", job.id, job.task_name)
            await app.job_manager.retry_job(job)
        else:
            await _bury(job)
    await sync_to_async(fail_forsaken)()


async def _bury(job: Job) -> None:
    arguments: dict[str, Any] = dict(job.task_kwargs)
    why = f"its worker ended {TRIES} times while it worked on this"
    await sync_to_async(give_up)(job.task_name, arguments, why)
    await app.job_manager.finish_job(job, status=Status.FAILED, delete_job=False)
