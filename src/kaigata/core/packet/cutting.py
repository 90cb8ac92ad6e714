"""From a nest to proved programs, with the shop's cut charts."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from kaigata.core.cut import Post, find_post, tool_path
from kaigata.core.errors import InputError
from kaigata.core.findings import Level
from kaigata.core.formats.cut_files import Program, cut_document, proved_program
from kaigata.core.formats.documents import CutChoice, CutDocument
from kaigata.core.metal.stores import CutChartRow, cut_row, read_cut_chart, standard_cut_chart
from kaigata.core.nest import Nest, NestOrder

__all__ = ["CutOptions", "CutResult", "cut_nest"]


@dataclass(frozen=True, slots=True, kw_only=True)
class CutOptions:
    """How to cut: process, chart, kerf where it is given, and post."""

    process: str
    chart: tuple[CutChartRow, ...]
    kerf: float | None
    post: Post

    @classmethod
    def chosen(
        cls,
        choice: CutChoice | None,
        *,
        process: str | None = None,
        kerf: float | None = None,
        chart: Path | None = None,
        post: str | None = None,
        comp: str = "path",
        folder: Path = Path(),
    ) -> CutOptions:
        """Return the options given, then those of the order's ``cut`` key, then the usual ones.

        Raises
        ------
        InputError
            The kerf, chart, post or compensation is unusable.
        """
        choice = choice or CutChoice()
        known = find_post(post or choice.post)
        if comp != "path":
            raise InputError(
                f"the post {known.name!r} does not know compensation by the machine (G41/G42)",
                fix="Use --comp path",
            )
        wanted = kerf if kerf is not None else choice.kerf
        if wanted is not None and not 0 < wanted < 20:
            raise InputError(f"the kerf is {wanted:g} mm, it must lie between 0 and 20")
        file = chart or (folder / choice.chart if choice.chart else None)
        return cls(
            process=process or choice.process or "laser",
            chart=read_cut_chart(file) if file else standard_cut_chart(),
            kerf=wanted,
            post=known,
        )


@dataclass(frozen=True, slots=True)
class CutResult:
    """Proved programs and ``cut.json``."""

    programs: tuple[Program, ...]
    document: CutDocument

    @property
    def is_partial(self) -> bool:
        """Whether something of the nest is not cut as drawn."""
        return any(f.level == Level.ERROR.value for f in self.document.findings)


def cut_nest(order: NestOrder, nest: Nest, options: CutOptions, *, title: str) -> CutResult:
    """Return the proved programs of every sheet of a nest.

    Raises
    ------
    InputError
        The cut chart has no row for a sheet, two parts lie closer than the kerf, or a program's
        proof fails.
    """
    stock = {s.id: s for s in order.sheets}
    programs = []
    for sheet in nest.sheets:
        gauge = stock[sheet.sheet]
        row = cut_row(
            options.chart,
            process=options.process,
            material=gauge.material,
            thickness=gauge.thickness,
        )
        if options.kerf is not None:
            row = replace(row, kerf=options.kerf)
        path = tool_path(order, sheet, row)
        clash = next((f for f in path.findings if f.code == "spacing-under-kerf"), None)
        if clash is not None:
            raise InputError(
                clash.text.rstrip("."),
                where=f"sheet {sheet.number}",
                fix="No program was given out",
            )
        programs.append(proved_program(path, options.post, title=title))
    return CutResult(tuple(programs), cut_document(options.process, programs))
