"""The quick sum of overlaps against the plain one."""

import numpy as np
import pytest

from kaigata.core.nest import cells
from kaigata.core.nest.nofit import FEW_EDGES
from kaigata.core.nest.overlap import (
    cost_at,
    depth_between,
    lying_of,
    make_near,
    measure_depths,
)
from tests.core.nest.given import bench_of, filled, order_of


@pytest.mark.parametrize("most", [20_000, 20])
@pytest.mark.parametrize("name", ["mix-60", "jigsaw-gap-16"])
@pytest.mark.parametrize("spread", [0.01, 5.0, 80.0])
def test_overlap_by_cells_is_the_plain_sum(name, spread, most, monkeypatch):
    monkeypatch.setattr(cells, "_MOST", most)
    bench = bench_of(order_of(name))
    load = filled(bench).loads[0]
    n, draw = len(load), np.random.default_rng(1)
    lying = lying_of(bench.table, load.way, load.at, load.fixed)
    lying.weight[:] = draw.uniform(1, 3, (n, n))
    measure_depths(bench.table, lying)
    rows = draw.integers(n, size=600)
    places = load.at[rows] + draw.normal(0, spread, (600, 2))

    def quick_at(i, x, y):
        cost = cost_at(bench.table, lying, i, load.way[i], x, y, 1e30)
        if cost < 0:
            make_near(bench.table, lying, i, load.way[i], x, y)
            cost = cost_at(bench.table, lying, i, load.way[i], x, y, 1e30)
        return cost

    quick = [quick_at(i, x, y) for i, (x, y) in zip(rows, places, strict=True)]
    plain = [
        sum(
            lying.weight[i, j]
            * depth_between(bench.table, load.way[i], x, y, load.way[j], *load.at[j])
            for j in range(n)
            if j != i
        )
        for i, (x, y) in zip(rows, places, strict=True)
    ]

    assert quick == pytest.approx(plain, rel=1e-9, abs=1e-9)
    assert max(plain) > 0
    fits = bench.table.fits
    made = fits.polygon[: fits.used[0]]
    own = made[:, 6] >= 0
    assert own.sum() <= most
    assert own.any() == (name == "mix-60")
    assert np.all((made[own, 5] - made[own, 4]) > FEW_EDGES)
