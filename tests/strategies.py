"""Shapes for the laws, valid by construction."""

import math

from hypothesis import strategies as st

from kaigata.core.plane import Contour, Motion, Segment

lengths = st.floats(0.5, 500, allow_nan=False)
angles = st.floats(-math.pi, math.pi, allow_nan=False)
places = st.floats(-1000, 1000, allow_nan=False)


@st.composite
def motions(draw, may_mirror=True):
    mirrored = draw(st.booleans()) if may_mirror else False
    return Motion.turned(draw(angles), x=draw(places), y=draw(places), mirrored=mirrored)


@st.composite
def segments(draw):
    x, y, turn, size = draw(places), draw(places), draw(angles), draw(lengths)
    bulge = draw(st.one_of(st.just(0.0), st.floats(0.05, 1.5), st.floats(-1.5, -0.05)))
    return Segment((x, y), (x + size * math.cos(turn), y + size * math.sin(turn)), bulge)


@st.composite
def rounded_rectangles(draw):
    """Width, height, corner radius and the contour: lines and arcs with known sums."""
    radius = draw(st.floats(1, 20))
    width = 2 * radius + draw(st.floats(1, 300))
    height = 2 * radius + draw(st.floats(1, 300))
    quarter = math.tan(math.pi / 8)
    r, w, h = radius, width, height
    contour = Contour(
        (
            (r, 0, 0), (w - r, 0, quarter), (w, r, 0), (w, h - r, quarter),
            (w - r, h, 0), (r, h, quarter), (0, h - r, 0), (0, r, quarter),
        )
    )  # fmt: skip
    return width, height, radius, contour


@st.composite
def stars(draw):
    """Contours seen whole from their middle, so that they never cross themselves."""
    n = draw(st.integers(3, 12))
    reach = draw(st.lists(st.floats(20, 200), min_size=n, max_size=n))
    return Contour.through(
        (r * math.cos(2 * math.pi * i / n), r * math.sin(2 * math.pi * i / n))
        for i, r in enumerate(reach)
    )
