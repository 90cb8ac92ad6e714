"""Where the figures of ordinates stand, so that none lies on another."""

from __future__ import annotations

from collections.abc import Sequence

__all__ = ["has_room", "merged", "spread"]


def merged(values: Sequence[float], apart: float) -> list[float]:
    """Return sorted values without those that are the same as the one before.

    Examples
    --------
    >>> merged([20.0, 10.0, 10.004], 0.01)
    [10.0, 20.0]
    """
    out: list[float] = []
    for v in sorted(values):
        if not out or v - out[-1] > apart:
            out.append(v)
    return out


def has_room(places: Sequence[float], side: float) -> bool:
    """Whether figures of so many places stand beside a side of so many mm of paper."""
    return len(places) * 3.2 <= max(side, 12.0) + 14.0


def spread(places: Sequence[float], gap: float) -> list[float]:
    """Return where labels stand that want to be at some places and need a gap between them.

    Of all ways to keep the gap it is the one with the least sum of squared moves: labels that
    would meet become a block around the mean of where they want to be (pool adjacent violators).

    Parameters
    ----------
    places : sequence of float
        Where they want to be, in rising order.
    gap : float
        The least distance from one to the next.

    Returns
    -------
    list of float
        As many, in the same order.

    Examples
    --------
    >>> spread([0.0, 1.0, 20.0], 3.0)
    [-1.0, 2.0, 20.0]
    """
    blocks: list[tuple[float, int]] = []
    for i, place in enumerate(places):
        mean, count = place - i * gap, 1
        while blocks and blocks[-1][0] > mean:
            before, n = blocks.pop()
            mean, count = (before * n + mean * count) / (n + count), n + count
        blocks.append((mean, count))
    wanted = [mean for mean, count in blocks for _ in range(count)]
    return [w + i * gap for i, w in enumerate(wanted)]
