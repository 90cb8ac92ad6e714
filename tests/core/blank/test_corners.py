"""Corners rounded and chamfered in the flat: bends stay whole, gauged from what is outermost."""

import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import LineString

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.corners import CornerRule, with_corners
from kaigata.core.blank.drawn import drawn_blank
from kaigata.core.intake import read_parts
from kaigata.core.metal.charts import constant_chart
from kaigata.core.plane import Contour, Region
from kaigata.core.plane.corners import CornerKind, CornerSide
from tests.checks import PARTS


@pytest.fixture(scope="module", params=["door-panel", "tool-tray", "roof-cap", "hose-clip"])
def flat(request):
    part = read_parts(PARTS / f"{request.param}.step").parts[0].part
    return unfold(part, takes=chart_takes(part, constant_chart(0.44, part.thickness)))


def zone(bend):
    return LineString(bend.line).buffer(bend.allowance / 2, cap_style="flat")


@pytest.mark.parametrize("size", [3.0, 8.0])
@pytest.mark.parametrize("kind", list(CornerKind))
@pytest.mark.parametrize("side", list(CornerSide))
def test_bends_stay_whole(flat, size, kind, side):
    made = with_corners(flat, [CornerRule(kind=kind, size=size, side=side)])

    before, after = (b.region.polygon(0.001) for b in (flat, made))
    apart = before.symmetric_difference(after)
    for bend in made.bends:
        assert apart.intersection(zone(bend)).area < 0.02
        for line in bend.lines:
            assert LineString(line).difference(after.buffer(0.01)).length < 0.02
    assert [b.length for b in made.bends] == [b.length for b in flat.bends]


def gusset(tip=(60.0, 90.0)):
    """A triangle with a level bend line, its tip far from it."""
    region = Region.oriented(Contour.through([(0, 0), (120, 0), tip]))
    ends = [(60 * 20 / 90, 20.0), (120 - 60 * 20 / 90, 20.0)]
    return drawn_blank("gusset", region, [([tuple(ends)], True)], thickness=2.0, k=0.44)


@given(st.floats(1, 6))
def test_without_its_tip_a_bend_is_gauged_from_what_is_outermost(size):
    flat = gusset()
    (bend,) = flat.bends
    # The nearer edge is the base line: nothing of it is taken in the middle.
    assert bend.from_edge == pytest.approx(20)

    upper = replace(bend, line=((50.0, 70.0), (70.0, 70.0)), lines=(((50.0, 70.0), (70.0, 70.0)),))
    rule = CornerRule(kind=CornerKind.ROUND, size=size)
    made = with_corners(replace(flat, bends=(upper,)), [rule])

    # A round of a corner ends nearer by its radius over the sine of half the corner, less itself.
    half = math.atan(60 / 90)
    lost = size * (1 / math.sin(half) - 1)
    assert made.bends[0].from_edge == pytest.approx(20 - lost, abs=1e-6)
    assert made.height == pytest.approx(90 - lost, abs=1e-6)


def test_each_rule_tells_what_it_did_and_what_it_left():
    flat = gusset()
    rules = [
        CornerRule(kind=CornerKind.CHAMFER, size=5, chosen=((60.0, 90.0), (1.0, 1.0))),
        CornerRule(kind=CornerKind.ROUND, size=500),
    ]

    texts = [f.text for f in with_corners(flat, rules).findings if f.code == "corners-treated"]

    done, left = texts
    assert done.startswith("1 corner is chamfered by 5 mm in the flat, not in the model. Chosen, ")
    assert "no such corner there: 1." in done
    assert left.startswith("0 corners are rounded by 500 mm in the flat, not in the model. Left ")
    assert left.endswith("sharp for want of room, or at a bend: 4.")
