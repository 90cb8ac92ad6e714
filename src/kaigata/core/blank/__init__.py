"""The flat blank: ``unfold`` makes one of a folded part, ``pose`` lays it straight.

``blank`` holds the value and what can be asked of it; ``place`` lays the pieces out flat; ``mesh``
gives the triangles that a folded view turns.
"""

from kaigata.core.blank.blank import (
    FLAT_ONLY,
    IN_THE_SHEET,
    Blank,
    BlankBend,
    BlankMark,
    BlankPanel,
)
from kaigata.core.blank.pose import FaceUp
from kaigata.core.blank.unfold import chart_takes, unfold

__all__ = [
    "FLAT_ONLY",
    "IN_THE_SHEET",
    "Blank",
    "BlankBend",
    "BlankMark",
    "BlankPanel",
    "FaceUp",
    "chart_takes",
    "unfold",
]
