"""The checks of a packet: each finds its own fault, and nothing where all is well."""

from dataclasses import replace
from pathlib import Path

import pytest

from kaigata.core.formats.blank_files import blank_document
from kaigata.core.formats.documents import FindingDocument, OrderDocument, UnplacedDocument
from kaigata.core.formats.drawing_files import DrawingChoice
from kaigata.core.formats.nest_files import nest_document, order_from_document
from kaigata.core.markup import Lettering, Markup, Title
from kaigata.core.nest import search
from kaigata.core.packet import checks
from kaigata.core.packet.checks import packet_checks
from kaigata.core.packet.cutting import CutOptions, cut_nest
from tests.core.markup.given import plate


@pytest.fixture(scope="module")
def work():
    """Six plates on a sheet, cut."""
    document = OrderDocument.model_validate({
        "spacing": 5, "margin": 10,
        "sheets": [{"id": "s", "width": 1000, "height": 500, "count": 1, "thickness": 1.5}],
        "parts": [{"id": "plate", "quantity": 6, "thickness": 1.5,
                   "outer": [[0, 0], [200, 0], [200, 100], [0, 100]]}],
    })  # fmt: skip
    order = order_from_document(document, Path())
    nest = search(order, seconds=0.2)
    cut = cut_nest(order, nest, CutOptions.chosen(None, process="laser"), title="T")
    return nest_document(nest, document, order), order, nest, cut.document


def blanks(**changes):
    return [blank_document(plate(bends=[(50, True)])).model_copy(update=changes)]


def state_of(found, name):
    (check,) = [c for c in found if c.name == name]
    return check.state, check.said


def test_where_all_is_well_every_check_passes(work):
    document, order, nest, cut = work

    found = packet_checks(blanks(), {}, (document, order, nest), cut)

    assert [c.state for c in found] == ["passed"] * 6
    assert state_of(found, "placed")[1] == "6 copies on 1 sheet"
    assert state_of(found, "programs")[1].startswith("1 program, 0.00")


def test_before_there_is_a_nest_its_checks_are_open():
    found = packet_checks(blanks(), {}, None, None)

    assert {c.name: c.state for c in found if c.state != "passed"} == {
        "placed": "open", "rules": "open", "programs": "open",
    }  # fmt: skip


def test_a_part_that_is_not_unfolded_is_named():
    found = packet_checks(blanks(thickness=None), {"Lid": "was refused: no sheet"}, None, None)

    assert state_of(found, "parts") == (
        "failed", "Lid was refused: no sheet; Plate has no thickness",
    )  # fmt: skip


def test_an_error_fails_and_a_warning_is_counted():
    def finding(level):
        return FindingDocument(level=level, code="x", text=f"An {level}.")

    error = packet_checks(blanks(findings=[finding("error")]), {}, None, None)
    warning = packet_checks(blanks(findings=[finding("warning")]), {}, None, None)

    assert state_of(error, "findings") == ("failed", "Plate: An error.")
    assert state_of(warning, "findings") == ("passed", "no errors, 1 warning")


def test_a_drawing_that_is_not_as_its_part_is_told(monkeypatch):
    monkeypatch.setattr(checks, "differences", lambda *a: ["2 contours are drawn"])

    found = packet_checks(blanks(), {}, None, None)

    assert state_of(found, "drawings") == ("failed", "Plate: 2 contours are drawn")


def test_a_copy_that_lies_nowhere_is_told_unless_it_is_a_filler(work):
    document, order, nest, cut = work
    left = document.model_copy(
        update={"unplaced": [UnplacedDocument(part="plate", quantity=2, why="sheets used up")]}
    )
    fillers = [p.model_copy(update={"filler": True}) for p in document.order.parts]
    of_fillers = left.model_copy(
        update={"order": document.order.model_copy(update={"parts": fillers})}
    )

    missing = packet_checks(blanks(), {}, (left, order, nest), cut)
    filled = packet_checks(blanks(), {}, (of_fillers, order, nest), cut)

    assert state_of(missing, "placed") == ("failed", "2 × plate left out: sheets used up")
    assert state_of(filled, "placed")[0] == "passed"


def test_a_sheet_that_breaks_a_rule_is_told(work):
    document, order, nest, cut = work
    (sheet,) = nest.sheets
    first = replace(sheet.placements[0], x=sheet.placements[1].x, y=sheet.placements[1].y)
    broken = replace(nest, sheets=(replace(sheet, placements=(first, *sheet.placements[1:])),))

    state, said = state_of(packet_checks(blanks(), {}, (document, order, broken), cut), "rules")

    assert state == "failed"
    assert said.startswith("sheet 1: ")


def test_a_program_withheld_or_off_is_told(work):
    document, order, nest, cut = work
    off = cut.sheets[0].proof.model_copy(update={"ok": False, "largest_deviation": 0.2})
    bad = cut.model_copy(update={
        "sheets": [cut.sheets[0].model_copy(update={"proof": off})],
        "findings": [FindingDocument(level="error", code="program-withheld", text="No program.")],
    })  # fmt: skip

    found = packet_checks(blanks(), {}, (document, order, nest), bad)

    assert state_of(found, "programs") == ("failed", "No program.; sheet 1 is off by 0.2000 mm")


def test_of_many_faults_three_are_told_and_the_others_counted():
    found = packet_checks(blanks(), {f"P{i}": "is missing" for i in range(5)}, None, None)

    assert state_of(found, "parts")[1] == (
        "P0 is missing; P1 is missing; P2 is missing; and 2 more"
    )


def test_a_title_block_that_does_not_say_what_the_shop_wants_stops_the_packet():
    (blank,) = blanks()
    strict = Lettering.model_validate({"required": ["material", "number"]})

    def drawings(**choice):
        choice = {blank.part: DrawingChoice(lettering=strict, **choice)}
        found = packet_checks([blank], {}, None, None, drawn=choice)
        return next(c for c in found if c.name == "drawings")

    bare = drawings()
    assert (bare.state, "the title block says no drawing number" in bare.said) == ("failed", True)
    full = drawings(title=Title(part="Plate", material="steel"), markup=Markup(number="K-1"))
    assert full.state == "passed"
