"""Files in: ``read_parts`` (solids) and ``read_flats`` (drawings) are the doors.

Both read in a process of their own with limits. ``step`` reads a STEP file's
products through the geometry kernel (``kernel`` takes plain values out of it, ``forms`` finds
planes and cylinders behind splines); ``recognise`` makes a folded part of a solid: ``skins`` finds
the two sides of the sheet, ``sides`` judges what is between them, ``pieces`` makes panels and
bends. ``drawing`` reads DXF.
"""

from kaigata.core.intake.read import (
    ReadPart,
    ReadResult,
    RefusedPart,
    is_drawing,
    is_recipe,
    read_flats,
    read_parts,
)

__all__ = [
    "ReadPart",
    "ReadResult",
    "RefusedPart",
    "is_drawing",
    "is_recipe",
    "read_flats",
    "read_parts",
]
