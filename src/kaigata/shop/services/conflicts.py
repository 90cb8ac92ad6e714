"""Two people at one thing: who comes second is told, and overwrites nothing."""

from __future__ import annotations

from kaigata.core.errors import KaigataError

__all__ = ["ChangedMeanwhile"]


class ChangedMeanwhile(KaigataError):  # noqa: N818 - nobody did anything wrong
    """What was to be changed is no longer what its changer saw."""

    code = "changed"
