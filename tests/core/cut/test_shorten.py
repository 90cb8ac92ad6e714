"""Short ways: precedence is held, and what it costs is little where parts lie in parts."""

import math

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.cut.sequence import Stop, nearest_next
from kaigata.core.cut.shorten import best_entries, shortened

START = (0.0, 0.0)


def nested_plates(count, seed):
    """Plates of 90 mm with two holes each, in one of which lies a washer with a hole of its own."""
    draw = np.random.default_rng(seed)
    stops = []
    for i in range(count):
        corner = np.array([i % 6, i // 6]) * 100.0 + draw.uniform(0, 5, 2)

        def around(x, y, radius, corner=corner):
            middle = corner + np.array([x, y])
            turns = draw.uniform(0, 2 * math.pi) + np.arange(4) * math.pi / 2
            places = middle + radius * np.stack([np.cos(turns), np.sin(turns)], axis=1)
            return tuple((tuple(p), tuple(p + draw.normal(0, 1, 2))) for p in places.tolist())

        n = len(stops)
        stops += [
            Stop(around(45, 45, 45), frozenset({n + 1, n + 2})),
            Stop(around(20, 20, 8), frozenset()),
            Stop(around(60, 60, 25), frozenset({n + 3})),
            Stop(around(60, 60, 15), frozenset({n + 4})),
            Stop(around(60, 60, 5), frozenset()),
        ]
    return stops


def way(stops, found):
    total, at = 0.0, START
    for i, entry in found:
        begin, end = stops[i].entries[entry]
        total += math.dist(at, begin)
        at = end
    return total


def holds(stops, order):
    place = {i: n for n, i in enumerate(order)}
    return all(place[j] < place[i] for i, s in enumerate(stops) for j in s.after)


def test_what_must_come_first_makes_the_ways_little_longer():
    stops = nested_plates(30, seed=1)
    free = [Stop(s.entries, frozenset()) for s in stops]
    greedy = nearest_next(stops, start=START)

    found = shortened(stops, start=START)

    assert sorted(i for i, _ in found) == list(range(len(stops)))
    assert holds(stops, [i for i, _ in found])
    assert way(stops, found) < 1.06 * way(free, shortened(free, start=START))
    assert way(stops, found) < 0.9 * way(stops, best_entries(stops, greedy, start=START))
    assert found == shortened(stops, start=START)


@given(count=st.integers(0, 14), seed=st.integers(0, 999))
def test_any_precedence_without_a_ring_is_held(count, seed):
    draw = np.random.default_rng(seed)
    places = draw.uniform(0, 500, (count, 2)).tolist()
    hidden = draw.permutation(count)
    stops = [
        Stop(
            ((tuple(places[i]), tuple(places[i])),),
            frozenset(j for j in range(count) if hidden[j] < hidden[i] and draw.random() < 0.3),
        )
        for i in range(count)
    ]

    found = shortened(stops, start=START)

    assert sorted(i for i, _ in found) == list(range(count))
    assert holds(stops, [i for i, _ in found])
