"""The tones of what is seen: whose they are, how light, and that they come into the files."""

import base64
import io
import re

import numpy as np
import pytest
import shapely
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays
from PIL import Image

from kaigata.core.formats.page_dxf import page_dxf
from kaigata.core.formats.page_svg import page_svg
from kaigata.core.formats.pdf import pages_pdf
from kaigata.core.markup import folded_size, seen_from, shading
from kaigata.core.markup.folded_view import Seen, meshed_body, seen_together
from kaigata.core.markup.page import Page, Pen
from kaigata.core.markup.shading import draw_shaded
from kaigata.core.markup.stage import Stage, draw_lines
from tests.core.markup.given import DEMO, demo

PAPER = 255


def shaded(seen, scale=1.0):
    page = Page(200, 200)
    stage = Stage(at=(10, 20), scale=scale, width=seen.width * scale, height=seen.height * scale)
    draw_shaded(page, stage, seen)
    draw_lines(page, stage, seen.edges, Pen.EDGE)
    return page


def surface(triangles, size=10.0):
    return Seen(edges=(), tangents=(), width=size, height=size,
                triangles=np.array(triangles, dtype=float))  # fmt: skip


def block(x, y, z):
    """The twelve triangles of a block."""
    corners = np.array([[i, j, k] for i in (0, x) for j in (0, y) for k in (0, z)], dtype=float)
    sides = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    return np.array([corners[[a, *two]] for a, b, c, d in sides for two in ((b, c), (c, d))])


def middles(page):
    """The middle of every dot, mm from the lower left, and their tones, the lowest row first."""
    (picture,) = page.pictures
    tones = picture.tones[::-1]
    x = (np.arange(tones.shape[1]) + 0.5) / tones.shape[1] * picture.box.width
    y = (np.arange(tones.shape[0]) + 0.5) / tones.shape[0] * picture.box.height
    return *np.meshgrid(x, y), tones


def test_each_of_the_three_sides_of_a_block_has_its_tone_the_top_the_lightest():
    body = meshed_body(block(30, 30, 30), np.array([1, -1, 1]) / np.sqrt(3))
    seen = seen_together([body])
    x, y, tones = middles(shaded(seen))

    kinds, counts = np.unique(tones[tones < PAPER], return_counts=True)
    assert len(kinds) == 3
    # An isometric cube shows its sides alike: 30 x 30 mm shortened by the root of three each.
    assert counts / 36 == pytest.approx([900 / np.sqrt(3)] * 3, rel=0.01)
    assert min(kinds) > 140
    lightest = tones == kinds[-1]
    assert y[lightest].min() > seen.height * 0.5 - 0.2
    assert x[tones == kinds[0]].mean() != pytest.approx(x[tones == kinds[1]].mean(), abs=5)
    corners = (tones[0, 0], tones[0, -1], tones[-1, 0], tones[-1, -1])
    assert corners == (PAPER,) * 4


@given(
    arrays(float, st.tuples(st.integers(1, 8), st.just(3), st.just(3)),
           elements=st.floats(0, 10).map(lambda v: round(v, 3)))
)  # fmt: skip
def test_every_dot_shows_the_nearest_triangle_there(triangles):
    page = shaded(surface(triangles))
    shapes = [shapely.Polygon(t[:, :2]) for t in triangles]
    broad = [i for i, s in enumerate(shapes) if s.area > 0.1]
    if not page.pictures:
        assert not broad
        return
    x, y, tones = middles(page)
    normals = [np.cross(t[1] - t[0], t[2] - t[0]) for t in triangles]
    own = {i: int(shading._tone_of(normals[i][None])[0]) for i in broad}
    # Where a side is near, or a sliver or another triangle about as near, either is right.
    sides = shapely.union_all([s.exterior for s in shapes])
    for px, py, tone in zip(x.flat[::7], y.flat[::7], tones.flat[::7], strict=True):
        if sides.distance(shapely.Point(px, py)) < 0.01:
            continue
        there = [i for i in broad if shapes[i].contains(shapely.Point(px, py))]
        if not there:
            assert tone == PAPER
            continue
        deep = {i: triangles[i][0, 2] - (normals[i][:2] @ ((px, py) - triangles[i][0, :2]))
                / normals[i][2] for i in there}  # fmt: skip
        first, *others = sorted(there, key=lambda i: -deep[i])
        if not others or deep[first] - deep[others[0]] > 1e-6:
            assert tone == own[first]


@given(st.floats(0.2, 9.8), st.floats(0.2, 9.8))
def test_triangles_that_share_sides_leave_no_dot_between_them(x, y):
    corners = [(0, 0, 0), (10, 0, 0), (10, 10, 0), (0, 10, 0)]
    fan = [(a, b, (x, y, 0)) for a, b in zip(corners, [*corners[1:], corners[0]], strict=True)]
    _, _, tones = middles(shaded(surface(fan)))
    assert tones.shape == (60, 60)
    assert np.all(tones < PAPER)


def test_few_dots_at_a_time_give_the_same(monkeypatch):
    blank, pieces = demo("tool-tray")
    seen = seen_from(pieces, blank.thickness)
    (whole,) = shaded(seen, 0.3).pictures
    monkeypatch.setattr(shading, "_AT_ONCE", 500)
    (parts,) = shaded(seen, 0.3).pictures
    assert np.array_equal(whole.tones, parts.tones)


@pytest.mark.parametrize("name", DEMO)
def test_the_tones_of_a_part_end_where_its_edges_do(name):
    blank, pieces = demo(name)
    seen = seen_from(pieces, blank.thickness)
    scale = 100 / max(folded_size(pieces, blank.thickness))
    page = shaded(seen, scale)
    x, y, tones = middles(page)
    points = np.array([p for s in page.strokes for e in s.run for p in (e.start, e.end)])
    low, high = points.min(axis=0) - (10, 20), points.max(axis=0) - (10, 20)

    covered = tones < PAPER
    for at, first, last in ((x, low[0], high[0]), (y, low[1], high[1])):
        assert at[covered].min() == pytest.approx(first, abs=0.3)
        assert at[covered].max() == pytest.approx(last, abs=0.3)


def test_nothing_is_laid_where_there_is_no_surface():
    assert shaded(surface(np.zeros((0, 3, 3)))).pictures == []
    edgewise = [[(0, 0, 0), (10, 0, 0), (10, 0, 5)]]
    assert shaded(surface(edgewise)).pictures == []


def test_files_have_the_tones_under_the_lines_but_dxf_has_lines_alone():
    blank, pieces = demo("hose-clip")
    page = shaded(seen_from(pieces, blank.thickness))
    (picture,) = page.pictures

    svg = page_svg(page)
    data = re.search(r'<image [^>]*href="data:image/png;base64,([^"]+)"', svg)
    image = Image.open(io.BytesIO(base64.b64decode(data[1])))
    assert np.array_equal(np.asarray(image), picture.tones)
    assert data.start() < svg.index("<path")
    pdf = pages_pdf([page], title="hose-clip")
    assert b"/Subtype /Image" in pdf
    assert pages_pdf([page], title="hose-clip") == pdf
    assert "IMAGE" not in page_dxf(page)
