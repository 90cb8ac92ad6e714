"""The flat at 1:1 over a printer's pages."""

import math

import pytest

from kaigata.core.errors import InputError, LimitError
from kaigata.core.markup.page import Pen
from kaigata.core.markup.template import CHECK_LENGTH, template_pages
from tests.core.markup.given import plate, stood, windows_union_covers


def cuts(page):
    return [s for s in page.strokes if s.pen == Pen.CUT]


def shown(page):
    """Return what of the flat a page shows between its crop marks: its corner's place is 0,0."""
    x0, y0, _, _ = _bounds(page)
    return (10 - x0, 10 - y0, page.width - 10 - x0, page.height - 10 - y0)


def _bounds(page):
    boxes = [s.bounds() for stroke in cuts(page) for s in stroke.run]
    return (min(b[0] for b in boxes), min(b[1] for b in boxes),
            max(b[2] for b in boxes), max(b[3] for b in boxes))  # fmt: skip


@pytest.mark.parametrize("paper", ["A4", "letter", "A2"])
@pytest.mark.parametrize(
    "blank", [plate(150, 90), plate(700, 260, bends=[(50, True)]), stood(plate(900, 260))]
)
def test_the_pages_show_all_of_the_flat_at_its_true_size(blank, paper):
    pages = template_pages(blank, paper)

    for page in pages:
        x0, y0, x1, y1 = _bounds(page)
        assert (x1 - x0, y1 - y0) == pytest.approx((blank.width, blank.height))
    assert windows_union_covers([shown(p) for p in pages], blank.width, blank.height)


def test_what_fits_one_page_takes_one_lying_or_standing():
    (lying,) = template_pages(plate(240, 170))
    (standing,) = template_pages(stood(plate(240, 170)))

    assert lying.width > lying.height
    assert standing.width < standing.height


def test_neighbouring_pages_show_a_strip_twice_between_their_crop_marks():
    first, second = template_pages(plate(400, 150))

    assert shown(first)[2] - shown(second)[0] == pytest.approx(10)


def test_every_page_has_a_line_to_check_the_print_by_and_its_place():
    pages = template_pages(plate(400, 150))

    for column, page in enumerate(pages, 1):
        longest = max(
            (s.run[0] for s in page.strokes if s.pen == Pen.DIMENSION), key=lambda s: s.chord
        )
        assert longest.chord == pytest.approx(CHECK_LENGTH)
        # What lies outside of the window is not printed.
        assert page.window.bottom < longest.start[1] < page.window.top
        assert any(f"column {column} of 2, row 1 of 1" in w.text for w in page.words)
        assert any("100 mm" in w.text for w in page.words)


def test_pages_on_which_nothing_lies_are_left_out():
    ring = plate(900, 900, holes=[(450, 450, 440)])

    full = len(template_pages(plate(900, 900)))

    assert len(template_pages(ring)) < full


def test_a_bends_note_stands_on_the_page_its_middle_lies_on():
    pages = template_pages(plate(400, 150, bends=[(350, False)]))

    noted = [i for i, p in enumerate(pages) if any("1 down 90°" in w.text for w in p.words)]
    assert noted == [1]
    assert all(math.isfinite(w.at[0]) for p in pages for w in p.words)


def test_more_pages_than_can_be_laid_together_are_refused():
    with pytest.raises(LimitError, match=r"at 1:1 it takes \d+ pages, more than 200; Take larger"):
        template_pages(plate(6000, 3000))


def test_a_paper_that_is_none_is_refused():
    with pytest.raises(InputError, match="no paper 'B5'"):
        template_pages(plate(), "B5")
