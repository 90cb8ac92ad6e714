"""Trying a post out before it is kept."""

from __future__ import annotations

from kaigata.core.cut import Marking, Post, Wishes, tool_path
from kaigata.core.errors import InputError
from kaigata.core.formats.cut_files import proved_program
from kaigata.core.metal.stores import CutChartRow
from kaigata.core.nest import NestOrder, NestPart, Placement, StockSheet
from kaigata.core.nest.figures import measured
from kaigata.core.plane import Contour, Region

__all__ = ["trial_program"]


def trial_program(post: Post) -> str:
    """Return the proved program of a small plate with a hole and a part number, in a post.

    Raises
    ------
    InputError
        What the post writes cannot be read back, or is not what was to be cut.
    """
    corner = Contour.from_rows([[0, 0], [60, 0], [60, 30, 0.41421356], [50, 40], [0, 40]])
    part = NestPart(
        id="TRIAL",
        quantity=1,
        region=Region(corner, (Contour.circle((15, 20), 6).reversed(),)),
        thickness=1.5,
    )
    sheet = StockSheet(id="trial", width=100, height=80, thickness=1.5, material="galvanised")
    order = NestOrder(sheets=(sheet,), parts=(part,), spacing=5.0, margin=10.0)
    placement = Placement(part="TRIAL", copy=1, x=20.0, y=20.0, turn=0.0, mirrored=False)
    (laid,) = measured(order, [("trial", (placement,))]).sheets
    row = CutChartRow(
        process="laser", material="*", thickness=1.5, kerf=0.2, feed=4000.0, pierce_seconds=0.4,
        lead_in=3.0, rapid=60000.0,
    )  # fmt: skip
    wishes = Wishes(
        zero=post.zero,
        by_machine=post.compensation == "machine",
        marking=Marking(numbers=post.can_mark),
    )
    try:
        path = tool_path(order, laid, row, wishes)
        return proved_program(path, order, laid, post, title="trial").text
    except InputError as error:
        raise InputError(
            f"a trial program in this post fails: {error.what}",
            where=error.where,
            fix="Mend the post's words; it is not kept",
        ) from error
