"""Trees of panels drawn at random: outline, holes and bends of the flat are those it grew from."""

import math
from itertools import pairwise
from random import Random

import numpy as np
import pytest
import shapely
from shapely import affinity
from shapely.geometry import Polygon
from shapely.geometry.polygon import orient

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.metal.charts import constant_chart
from tests.solids import turned
from tests.trees import grown

K = 0.44
SEEDS = range(30)


def unfolded(shape):
    part = folded_part(Solid(shape), "tree")
    return unfold(part, takes=chart_takes(part, constant_chart(K, part.thickness)))


def clear_of_itself(random):
    """Return a tree with a bend whose panels do not run into each other, its flat and its solid."""
    while True:
        tree = grown(random, thickness=random.choice([0.8, 1.0, 1.5, 2.0, 3.0]), k=K)
        flat = tree.flat() if tree.bends else None
        solid = tree.solid() if flat else None
        if solid is not None:
            return tree, flat, solid


def laid_on(flat, region):
    """Return how to lay a region on a polygon: whether turned over, and the 2x3 matrix.

    Its longest side goes to each side that is as long, and where least is left over it lies.
    """
    have = np.array(flat.exterior.coords)
    sides = np.diff(have, axis=0)
    longest = int(np.argmax(np.hypot(*sides.T)))
    found = []
    for over in (False, True):
        shape = affinity.scale(region, -1 if over else 1, origin=(0, 0))
        points = np.array(orient(shape.simplify(1e-5)).exterior.coords)
        for a, b in pairwise(points):
            if abs(math.dist(a, b) - np.hypot(*sides[longest])) > 0.01:
                continue
            turn = complex(*sides[longest]) / complex(*(b - a))
            turn /= abs(turn)
            c, s, sign = turn.real, turn.imag, -1 if over else 1
            x, y = have[longest] - np.array([c * a[0] - s * a[1], s * a[0] + c * a[1]])
            matrix = (c * sign, -s, s * sign, c, x, y)
            left = flat.symmetric_difference(affinity.affine_transform(region, matrix)).area
            found.append((left, over, matrix))
    return min(found)


@pytest.mark.parametrize("seed", SEEDS)
def test_a_tree_of_panels_is_laid_flat_as_it_was_grown(seed):
    tree, flat, solid = clear_of_itself(Random(seed))
    askew = turned(solid, (1, -2, 3), 50 * seed, by=(10 * seed, 5, -7))

    blank = unfolded(askew)

    region = Polygon(
        blank.region.outer.flattened(0.001), [h.flattened(0.001) for h in blank.region.holes]
    )
    left, over, matrix = laid_on(flat, region)
    # Circles are compared as polygons, which differ by some hundredths of a square millimetre.
    assert left < 0.02 + 0.02 * len(region.interiors)
    assert len(blank.bends) == len(tree.bends)
    for degrees, up, radius, middle in tree.bends:
        places = [affinity.affine_transform(shapely.LineString(b.line), matrix).centroid
                  for b in blank.bends]  # fmt: skip
        apart, at = min((math.dist(middle, (p.x, p.y)), i) for i, p in enumerate(places))
        bend = blank.bends[at]
        assert apart < 0.005
        assert math.degrees(bend.angle) == pytest.approx(degrees, abs=1e-3)
        assert bend.inside_radius == pytest.approx(radius, abs=1e-5)
        assert bend.is_up == (up != over)
