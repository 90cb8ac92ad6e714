"""The folded part: what every door in makes and unfolding reads.

``folded`` holds the values: panels and bends, each with its boundary in its own developed frame,
and the joints between them.
"""

from kaigata.core.part.folded import Bend, FoldedPart, Frame, Panel, PieceEdge

__all__ = ["Bend", "FoldedPart", "Frame", "Panel", "PieceEdge"]
