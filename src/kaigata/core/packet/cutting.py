"""From a nest to proved programs, with the shop's cut charts."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace
from functools import partial
from pathlib import Path
from typing import TypeAlias

from kaigata.core.cut import Marking, Post, Wishes, find_post, tool_path
from kaigata.core.cut.judge import UNDER_KERF
from kaigata.core.errors import InputError
from kaigata.core.findings import Finding, Level
from kaigata.core.formats.cut_files import Program, cut_document, proved_program
from kaigata.core.formats.documents import CutChoice, CutDocument
from kaigata.core.metal.stores import CutChartRow, cut_row, read_cut_chart, standard_cut_chart
from kaigata.core.nest import Nest, NestedSheet, NestOrder
from kaigata.core.processes import each

__all__ = ["CutOptions", "CutResult", "cut_nest", "cut_sheets", "rules_of", "wishes_of"]


@dataclass(frozen=True, slots=True, kw_only=True)
class CutOptions:
    """How to cut: process, chart, kerf where it is given, post, and what else is asked for."""

    process: str
    chart: tuple[CutChartRow, ...]
    kerf: float | None
    post: Post
    wishes: Wishes = field(default_factory=Wishes)

    @classmethod
    def chosen(
        cls,
        choice: CutChoice | None,
        *,
        process: str | None = None,
        kerf: float | None = None,
        chart: Path | None = None,
        post: str | None = None,
        comp: str | None = None,
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
        if comp is not None:
            known = known.model_copy(update={"compensation": comp})
        wanted = kerf if kerf is not None else choice.kerf
        if wanted is not None and not 0 < wanted < 20:
            raise InputError(f"the kerf is {wanted:g} mm, it must lie between 0 and 20")
        file = chart or (folder / choice.chart if choice.chart else None)
        return cls(
            process=process or choice.process or "laser",
            chart=read_cut_chart(file) if file else standard_cut_chart(),
            kerf=wanted,
            post=known,
            wishes=wishes_of(choice, known),
        )


def wishes_of(choice: CutChoice, post: Post) -> Wishes:
    """Return what a choice and a post ask of the paths."""
    marking = choice.marking
    return Wishes(
        zero=post.zero,
        by_machine=post.compensation == "machine",
        order=choice.order,
        round_freed=choice.round_freed,
        common_cut=choice.common_cut,
        marking=Marking(
            bends=marking.bends, directions=marking.directions, numbers=marking.numbers
        ),
        skeleton=choice.skeleton,
        cut_off=choice.cut_off,
    )


CutSheet: TypeAlias = tuple[Program | None, list[Finding]]
"""A sheet's proved program, or None and what kept it from being given out."""


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

    A sheet whose program fails its proof gets none, and a finding that says why.

    Raises
    ------
    InputError
        The cut chart has no row for a sheet, or parts lie closer than the kerf.
    """
    programs: list[Program] = []
    withheld: list[Finding] = []
    for program, refused in cut_sheets(order, nest.sheets, options, title=title):
        programs += [program] if program else []
        withheld += refused
    document = cut_document(options.process, programs, withheld)
    return CutResult(tuple(programs), document)


def cut_sheets(
    order: NestOrder, sheets: Sequence[NestedSheet], options: CutOptions, *, title: str
) -> Iterator[CutSheet]:
    """Yield each sheet's proved program or what withholds it, several made at a time.

    Raises
    ------
    InputError
        The cut chart has no row for a sheet, or parts lie closer than the kerf.
    LimitError
        A process ended early.
    """
    return each(partial(_cut_sheet, order, options, title), sheets)


def _cut_sheet(order: NestOrder, options: CutOptions, title: str, sheet: NestedSheet) -> CutSheet:
    row = rules_of(order, sheet, options)
    path = tool_path(order, sheet, row, options.wishes)
    clash = next((f for f in path.findings if f.code in UNDER_KERF), None)
    if clash is not None:
        raise InputError(
            clash.text.rstrip("."),
            where=f"sheet {sheet.number}",
            fix="No program was given out",
        )
    try:
        return proved_program(path, order, sheet, options.post, title=title), []
    except InputError as error:
        text = f"{error.what}, {error.where}. {error.fix}."
        refused = Finding(level=Level.ERROR, code="program-withheld", text=text)
        return None, [refused, *path.findings]


def rules_of(order: NestOrder, sheet: NestedSheet, options: CutOptions) -> CutChartRow:
    """Return the row of the chart for a sheet, with the kerf that was given.

    Raises
    ------
    InputError
        The cut chart has no row for it.
    """
    gauge = next(s for s in order.sheets if s.id == sheet.sheet)
    row = cut_row(
        options.chart,
        process=options.process,
        material=gauge.material,
        thickness=gauge.thickness,
    )
    return row if options.kerf is None else replace(row, kerf=options.kerf)
