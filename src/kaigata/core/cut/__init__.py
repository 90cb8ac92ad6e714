"""From a nest to the tool's path.

``kerf`` moves contours by half a kerf; ``lead`` places lead-ins in scrap; ``sequence`` puts
contours in order; ``toolpath`` does all of it for a sheet; ``proof`` compares what a program does
with the nominal parts; ``posts`` describes the dialects.
"""

from kaigata.core.cut.posts import POSTS, Post, find_post
from kaigata.core.cut.toolpath import CutRules, Pass, ToolPath, tool_path

__all__ = ["POSTS", "CutRules", "Pass", "Post", "ToolPath", "find_post", "tool_path"]
