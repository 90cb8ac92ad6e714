"""Files in: ``read_parts`` is the door, in a process of its own with limits.

``step`` reads a STEP file's products through the geometry kernel (``kernel`` takes plain values
out of it); ``recognise`` makes a folded part of a solid's faces; ``isolation`` runs a reader where
a crash, a hang or a flood of memory cannot hurt the caller.
"""

from kaigata.core.intake.read import ReadPart, ReadResult, read_parts

__all__ = ["ReadPart", "ReadResult", "read_parts"]
