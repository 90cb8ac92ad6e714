"""Work off the queue: read parts, nest, cut and pack until told to stop."""

from __future__ import annotations

from django.core.management import call_command
from django.core.management.base import BaseCommand

from kaigata.core.processes import CUTTING, NESTING, READING, begin_loading

__all__ = ["Command"]

_AT_ONCE = 4
"""Jobs: reading a file need not wait for a long search."""


class Command(BaseCommand):
    """Be a worker; what its processes need is loaded before the first job comes."""

    help = "Work off the queue."

    def handle(self, **options: object) -> None:
        """Do it."""
        begin_loading(READING, NESTING, CUTTING)
        call_command(
            "procrastinate", "worker", concurrency=_AT_ONCE, fetch_job_polling_interval=1.0
        )
