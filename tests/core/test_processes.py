"""Work spread over processes: the same as in this one, in order, and a lost one is said."""

import os
import time
from functools import partial

import pytest

from kaigata.core.errors import InputError, LimitError
from kaigata.core.processes import each


def squared(number):
    time.sleep(0.3 / (1 + number))
    return number * number, os.getpid()


def refused_from(limit, number):
    if number >= limit:
        raise InputError(f"{number} is too much", where=f"item {number}", fix="Give less")
    return number


def lost(number):
    os._exit(number)


def test_what_is_made_comes_in_the_order_of_what_was_given():
    made = list(each(squared, range(6), workers=2))

    assert [square for square, _ in made] == [0, 1, 4, 9, 16, 25]
    processes = {process for _, process in made}
    assert len(processes) == 2
    assert os.getpid() not in processes


@pytest.mark.parametrize(("items", "workers"), [([3], 2), ([3, 4], 1), ([], 2)])
def test_what_needs_no_second_process_is_done_in_this_one(items, workers):
    made = list(each(squared, items, workers=workers))

    assert made == [(number * number, os.getpid()) for number in items]


def test_what_is_refused_in_a_process_is_refused_here_with_its_place_and_remedy():
    made = each(partial(refused_from, 2), range(4), workers=2)

    assert [next(made), next(made)] == [0, 1]
    with pytest.raises(InputError) as refused:
        next(made)
    assert (refused.value.what, refused.value.where) == ("2 is too much", "item 2")
    assert refused.value.fix == "Give less"


def test_a_process_that_ends_early_is_said():
    with pytest.raises(LimitError, match="a process ended early"):
        list(each(lost, [1, 2], workers=2))
