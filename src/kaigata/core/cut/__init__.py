"""From a nest to the tool's path.

``kerf`` moves contours by half a kerf; ``lead`` places leads in scrap; ``sequence`` puts contours
in order and ``shorten`` makes the way between them short; ``toolpath`` does all of it for a sheet;
``proof`` compares what a program does with the nominal parts; ``posts`` describes the dialects;
``warm`` builds the compiled loops of nesting and cutting.
"""

from kaigata.core.cut.posts import POSTS, Post, find_post
from kaigata.core.cut.toolpath import CutRules, Pass, ToolPath, tool_path

__all__ = ["POSTS", "CutRules", "Pass", "Post", "ToolPath", "find_post", "tool_path"]
