"""``python -m kaigata.core.cut.warm``: build the compiled loops on installation.

A small nest is made and cut that uses every one of them with the types of arrays real orders have;
the machine code is kept beside the sources, so that no user ever waits for it.
"""

from dataclasses import dataclass

from kaigata.core.cut.proof import prove
from kaigata.core.cut.toolpath import placed_on, tool_path
from kaigata.core.metal.stores import cut_row, standard_cut_chart
from kaigata.core.nest import search
from kaigata.core.nest.small import small_order
from kaigata.core.plane import Segment

__all__ = ["warm_up"]


@dataclass(frozen=True, slots=True)
class _Done:
    """A cut that closes and has no leads."""

    segments: tuple[Segment, ...]
    is_mark: bool = False

    @property
    def loop(self) -> tuple[Segment, ...]:
        """All of it."""
        return self.segments


def warm_up() -> None:
    """Compile every loop, or load it from where it is kept."""
    order = small_order()
    nest = search(order, steps=60)
    row = cut_row(standard_cut_chart(), process="laser", material=None, thickness=1.5)
    for sheet in nest.sheets:
        path = tool_path(order, sheet, row)
        done = [_Done(path.passes[r.of].path.segments) for r in path.runs]
        prove(path, done, *placed_on(order, sheet))


if __name__ == "__main__":
    warm_up()
