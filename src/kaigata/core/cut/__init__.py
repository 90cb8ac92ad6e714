"""From a nest to the tool's path.

``kerf`` moves contours by half a kerf and ``corners`` runs them out at corners; ``lead`` places
leads in scrap; ``sequence`` puts contours in order and ``shorten`` makes the way between them
short; ``shared`` leaves out what another cut serves, ``joints`` what holds a part, ``detour`` goes
round what is free; ``marking`` (lettered by ``strokes``) and ``scrap`` add what is marked before
and cut after; ``toolpath`` does all of it for a sheet as ``wishes`` ask, ``passes`` is what it
gives and ``judge`` what there is to say of it. ``proof`` compares what a program does with the
nominal parts; ``posts`` describes machines' dialects; ``warm`` builds the compiled loops of nesting
and cutting.
"""

from kaigata.core.cut.marking import Marking
from kaigata.core.cut.passes import CutRules, Pass, Run, ToolPath
from kaigata.core.cut.posts import Post, find_post, standard_posts
from kaigata.core.cut.toolpath import tool_path
from kaigata.core.cut.wishes import ByHand, Wishes

__all__ = [
    "ByHand",
    "CutRules",
    "Marking",
    "Pass",
    "Post",
    "Run",
    "ToolPath",
    "Wishes",
    "find_post",
    "standard_posts",
    "tool_path",
]
