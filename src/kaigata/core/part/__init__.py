"""The folded part: what every door in makes and unfolding reads.

``folded`` holds the values: panels and bends, each with its boundary in its own developed frame,
and the joints between them.
"""

from kaigata.core.part.folded import (
    IN_PLACE,
    Bend,
    Feature,
    FoldedPart,
    Frame,
    Panel,
    PieceEdge,
    Remark,
)

__all__ = ["IN_PLACE", "Bend", "Feature", "FoldedPart", "Frame", "Panel", "PieceEdge", "Remark"]
