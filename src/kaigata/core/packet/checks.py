"""What is checked before a packet goes to the floor, each check with what it found."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal, TypeAlias

from kaigata.core.findings import counted
from kaigata.core.formats.blank_files import blank_of_document
from kaigata.core.formats.documents import BlankDocument, CutDocument, NestDocument
from kaigata.core.formats.drawing_files import DrawingChoice, title_of
from kaigata.core.markup import MILLIMETRE, differences, draw_blank, left_open, lost_sizes
from kaigata.core.nest import Nest, NestOrder
from kaigata.core.nest.rules import RuleBook

__all__ = [
    "Check",
    "check_drawings",
    "check_findings",
    "check_parts",
    "check_placed",
    "check_programs",
    "check_rules",
    "packet_checks",
    "recounted",
]

State = Literal["passed", "failed", "open"]

_TOLD = 3
"""How many faults a check tells; of more it tells the count."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Check:
    """A check of a packet.

    Attributes
    ----------
    name : str
        What it is called in files.
    title : str
        What must hold.
    state : str
        ``passed``, ``failed``, or ``open`` where there is nothing yet to be checked.
    said : str
        What was found.
    """

    name: str
    title: str
    state: State
    said: str


def recounted(document: BlankDocument, choice: DrawingChoice) -> list[str]:
    """Return how a part's drawing is not as the part, by taking its sizes and counts again.

    Its title block must say what the shop wants said.
    """
    blank = blank_of_document(document)
    title = choice.title or title_of(document)
    drawing = draw_blank(blank, title, lettering=choice.lettering, markup=choice.markup)
    return [
        *differences(drawing, blank, MILLIMETRE),
        *lost_sizes(drawing),
        *left_open(title, choice.lettering, choice.markup),
    ]


Recount: TypeAlias = Callable[[BlankDocument, DrawingChoice], Sequence[str]]
"""As ``recounted``: drawings that did not change need not be drawn for it once more."""


def packet_checks(
    blanks: Sequence[BlankDocument],
    waiting: Mapping[str, str],
    nest: tuple[NestDocument, NestOrder, Nest] | None,
    cut: CutDocument | None,
    *,
    drawn: Mapping[str, DrawingChoice] | None = None,
    recount: Recount = recounted,
) -> list[Check]:
    """Return every check of a packet, in the order of the work.

    Parameters
    ----------
    blanks : sequence of BlankDocument
        The parts that are unfolded.
    waiting : mapping of str to str
        Parts that are not, by name, and why.
    nest : (NestDocument, NestOrder, Nest), optional
        The nest, where there is one.
    cut : CutDocument, optional
        What became of cutting it.
    drawn : mapping of str to DrawingChoice
        How parts are drawn, by name, where that is not the usual way.
    recount : callable
        Tells how a drawing is not as its part.

    Returns
    -------
    list of Check
        Always the same six.
    """
    return [
        check_parts(blanks, waiting),
        check_findings(blanks),
        check_drawings(blanks, drawn or {}, recount),
        check_placed(nest[0] if nest else None),
        check_rules(*nest[1:]) if nest else _open("rules", _RULES),
        check_programs(cut),
    ]


def check_parts(blanks: Sequence[BlankDocument], waiting: Mapping[str, str]) -> Check:
    """Check that every part is unfolded and has its thickness."""
    faults = [f"{name} {why}" for name, why in waiting.items()]
    faults += [f"{b.part} has no thickness" for b in blanks if b.thickness is None]
    return _check("parts", "Every part is unfolded", faults, counted(len(blanks), "part"))


def check_findings(blanks: Sequence[BlankDocument]) -> Check:
    """Check that no part has a finding that keeps it from being made."""
    faults = [f"{b.part}: {f.text}" for b in blanks for f in b.findings if f.level == "error"]
    warnings = sum(1 for b in blanks for f in b.findings if f.level == "warning")
    return _check(
        "findings", "No part has an error",
        faults, f"no errors, {counted(warnings, 'warning')}",
    )  # fmt: skip


def check_drawings(
    blanks: Sequence[BlankDocument],
    drawn: Mapping[str, DrawingChoice],
    recount: Recount = recounted,
) -> Check:
    """Check that every drawing is as its part is."""
    faults = [
        f"{document.part}: {d}"
        for document in blanks
        for d in recount(document, drawn.get(document.part, DrawingChoice()))
    ]
    return _check(
        "drawings", "Drawings agree with their parts",
        faults, f"sizes and counts of {counted(len(blanks), 'drawing')} taken again",
    )  # fmt: skip


def check_placed(nest: NestDocument | None) -> Check:
    """Check that every copy lies on a sheet, but for fillers."""
    title = "Every copy is placed"
    if nest is None:
        return _open("placed", title)
    fillers = {p.id for p in nest.order.parts if p.filler} if nest.order else set()
    faults = [
        f"{u.quantity} × {u.part} left out: {u.why}" for u in nest.unplaced if u.part not in fillers
    ]
    copies = sum(len(s.placements) * s.copies for s in nest.sheets)
    sheets = sum(s.copies for s in nest.sheets)
    said = f"{counted(copies, 'copy', 'copies')} on {counted(sheets, 'sheet')}"
    return _check("placed", title, faults, said)


_RULES = "Sheets keep spacing and margin"


def check_rules(order: NestOrder, nest: Nest) -> Check:
    """Check every sheet by the distances of the true shapes."""
    book = RuleBook(order)
    stock = {s.id: s for s in order.sheets}
    faults = [
        f"sheet {sheet.number}: {rule.text}"
        for sheet in nest.sheets
        for rule in book.broken(stock[sheet.sheet], sheet.placements)
    ]
    return _check("rules", _RULES, faults, f"{counted(len(nest.sheets), 'layout')} measured again")


def check_programs(cut: CutDocument | None) -> Check:
    """Check that every sheet has a program that was read back and found right."""
    title = "Programs read back right"
    if cut is None:
        return _open("programs", title)
    faults = [f.text for f in cut.findings if f.code == "program-withheld"]
    faults += [
        f"sheet {s.number} is off by {s.proof.largest_deviation:.4f} mm"
        for s in cut.sheets
        if not s.proof.ok
    ]
    most = max((s.proof.largest_deviation for s in cut.sheets), default=0.0)
    said = f"{counted(len(cut.sheets), 'program')}, {most:.4f} mm off at most"
    return _check("programs", title, faults, said)


def _open(name: str, title: str) -> Check:
    return Check(name=name, title=title, state="open", said="nothing to check yet")


def _check(name: str, title: str, faults: Iterable[str], said: str) -> Check:
    told = list(faults)
    if not told:
        return Check(name=name, title=title, state="passed", said=said)
    more = len(told) - _TOLD
    text = "; ".join(told[:_TOLD]) + (f"; and {more} more" if more > 0 else "")
    return Check(name=name, title=title, state="failed", said=text)
