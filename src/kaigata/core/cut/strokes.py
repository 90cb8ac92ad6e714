"""A single-stroke typeface of our own for marking: every letter is a few open lines."""

from __future__ import annotations

from kaigata.core.plane import Point

__all__ = ["lettering", "width_of"]

_HIGH, _WIDE, _APART = 6, 4, 2
"""Size of the grid letters are drawn on, and the room between them."""

_LETTERS = {
    "A": "0004264440 0242", "B": "00063645443303 3342413000", "C": "4536160501103041",
    "D": "00062644422000", "E": "46060040 0333", "F": "460600 0333",
    "G": "45361605011030414323", "H": "0006 4640 0343", "I": "2026", "J": "4641301001",
    "K": "0006 460340", "L": "060040", "M": "0006234640", "N": "00064046",
    "O": "103041453616050110", "P": "00063645443303", "Q": "103041453616050110 2240",
    "R": "00063645443303 2340", "S": "453616050413334241301001", "T": "0646 2620",
    "U": "060110304146", "V": "062046", "W": "0610233046", "X": "0046 0640",
    "Y": "062346 2320", "Z": "06460040",
    "0": "103041453616050110 1135", "1": "142620 1030", "2": "05163645440040",
    "3": "051636454433 13334241301001", "4": "30360242", "5": "460603334241301001",
    "6": "4536160501103041423303", "7": "064610", "8": "13040516364544331302011030414233",
    "9": "4313040516364541301001",
    "-": "1333", ".": "2021", "_": "0040", "/": "0046", "+": "1333 2224", " ": "",
}  # fmt: skip
"""Lines of each letter as pairs of digits, x then y, on the grid."""

_UNKNOWN = "0006464000"


def lettering(text: str, height: float) -> list[list[Point]]:
    """Return the lines of a text, its lower left corner at 0,0; what has no letter is a box.

    Parameters
    ----------
    text : str
        Small letters are drawn as capitals.
    height : float
        Of its capitals, mm.

    Examples
    --------
    >>> lettering("l-", 6)
    [[(0.0, 6.0), (0.0, 0.0), (4.0, 0.0)], [(7.0, 3.0), (9.0, 3.0)]]
    """
    unit = height / _HIGH
    lines = []
    for place, letter in enumerate(text.upper()):
        left = place * (_WIDE + _APART)
        for line in _LETTERS.get(letter, _UNKNOWN).split():
            pairs = zip(line[::2], line[1::2], strict=True)
            lines.append([((left + int(x)) * unit, int(y) * unit) for x, y in pairs])
    return lines


def width_of(text: str, height: float) -> float:
    """Return how wide a text is, mm.

    Examples
    --------
    >>> width_of("AB", 6)
    10.0
    """
    return (len(text) * (_WIDE + _APART) - _APART) * height / _HIGH if text else 0.0
