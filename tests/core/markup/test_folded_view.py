"""What is seen of a folded part: by hand for a plate, by the geometry kernel for real parts."""

import itertools
import math

import numpy as np
import pytest
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp
from OCP.BRepLib import BRepLib
from OCP.gp import gp_Ax2, gp_Dir, gp_Pnt
from OCP.GProp import GProp_GProps
from OCP.HLRAlgo import HLRAlgo_Projector
from OCP.HLRBRep import HLRBRep_Algo, HLRBRep_HLRToShape
from OCP.STEPControl import STEPControl_Reader

from kaigata.core.blank import chart_takes
from kaigata.core.blank.mesh import fold_mesh
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.markup import folded_size, seen_from
from kaigata.core.markup.folded_view import Direction
from kaigata.core.markup.hidden import Hidden
from kaigata.core.metal.charts import constant_chart
from tests.checks import PARTS
from tests.core.markup.given import demo, length
from tests.solids import only_solid, profile

FRONT = Direction(right=(1.0, 0.0, 0.0), up=(0.0, 0.0, 1.0))
ABOVE = Direction(right=(1.0, 0.0, 0.0), up=(0.0, 1.0, 0.0))


def folded(steps, *, thickness=2.0, wide=60.0):
    shape = only_solid(profile(steps, thickness=thickness, wide=wide))
    part = folded_part(Solid(shape), "profile")
    return fold_mesh(part, takes=chart_takes(part, constant_chart(0.44, thickness)))


def model(name):
    reader = STEPControl_Reader()
    reader.ReadFile(str(PARTS / f"{name}.step"))
    reader.TransferRoots()
    return reader.OneShape()


def by_the_kernel(name, eye, right):
    """Return how long the visible lines of a part are, found by the kernel itself."""
    algorithm = HLRBRep_Algo()
    algorithm.Add(model(name))
    axes = gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(*map(float, eye)), gp_Dir(*map(float, right)))
    algorithm.Projector(HLRAlgo_Projector(axes))
    algorithm.Update()
    algorithm.Hide()
    shapes = HLRBRep_HLRToShape(algorithm)
    visible = (shapes.VCompound(), shapes.OutLineVCompound(), shapes.Rg1LineVCompound())
    return math.fsum(_length(s) for s in visible if s is not None and not s.IsNull())


def _length(shape):
    BRepLib.BuildCurves3d_s(shape)
    found = GProp_GProps()
    BRepGProp.LinearProperties_s(shape, found)
    return found.Mass()


def test_of_a_plate_nine_of_twelve_edges_are_seen_shortened_alike():
    seen = seen_from(folded([100.0]), 2.0)

    # Each axis is shortened to the root of two thirds; three edges along each are in front.
    assert length(seen.edges) == pytest.approx(3 * (100 + 60 + 2) * math.sqrt(2 / 3), rel=1e-3)
    assert seen.tangents == ()


def test_from_above_a_plate_is_its_rectangle_drawn_once():
    seen = seen_from(folded([100.0]), 2.0, ABOVE)

    assert (seen.width, seen.height) == pytest.approx((100, 60), abs=1e-6)
    # The lower rim lies right behind the upper one.
    assert length(seen.edges) == pytest.approx(320, rel=1e-3)


def test_a_wall_hides_what_stands_behind_it():
    walls = [(90, 2.0), 30.0]
    channel = folded([30.0, *walls[:1], 80.0, *walls])

    seen = seen_from(channel, 2.0, Direction(right=(0.0, 1.0, 0.0), up=(0.0, 0.0, 1.0)))

    # From its side a channel is one wall: level lines only at the wall's rim and where it turns.
    levels = {round(a[1], 3) for a, b in seen.edges if abs(a[1] - b[1]) < 1e-6}
    assert max(levels) == pytest.approx(seen.height, abs=1e-3)
    assert length(seen.edges) < 2 * (2 * seen.width + 2 * seen.height) + seen.width


def test_a_bend_seen_along_its_sheet_has_its_outline():
    seen = seen_from(
        folded([40.0, (90, 5.0), 40.0]), 2.0, Direction((0.0, 0.8, 0.6), (-1.0, 0.0, 0.0))
    )

    # Half way round it turns away from the eye; without that line the view would be open there.
    right = max(max(a[0], b[0]) for a, b in seen.edges)
    assert right == pytest.approx(seen.width, rel=0.02)


@pytest.mark.parametrize(
    "name", ["tool-tray", "base-foot", "roof-cap", "cable-guard", "post-channel"]
)
def test_as_much_is_seen_of_real_parts_as_the_kernel_finds(name):
    blank, pieces = demo(name)

    seen = seen_from(pieces, blank.thickness)

    # Which of the eight corners the part is seen from depends on how the model lies in its file.
    kernels = [
        by_the_kernel(name, (x, y, z), (-y, x, 0))
        for x, y, z in itertools.product((1, -1), repeat=3)
    ]
    mine = length(seen.edges) + length(seen.tangents)
    assert min(abs(k / mine - 1) for k in kernels) < 0.02


@pytest.mark.parametrize("name", ["tool-tray", "base-foot", "sign-plate"])
def test_the_overall_sizes_are_those_of_the_model(name):
    blank, pieces = demo(name)
    found = Bnd_Box()
    BRepBndLib.AddOptimal_s(model(name), found, False, False)
    x0, y0, z0, x1, y1, z1 = found.Get()

    sizes = folded_size(pieces, blank.thickness)

    assert sorted(sizes) == pytest.approx(sorted([x1 - x0, y1 - y0, z1 - z0]), abs=1e-3)


@pytest.mark.parametrize("seed", range(5))
def test_what_lies_right_under_a_seam_or_a_side_is_hidden_all_along(seed):
    """Two triangles that share a side, and below them lines along it and along another side."""
    a, b, c = np.random.default_rng(seed).uniform(3, 97, (3, 2))
    corners = [np.append(p, 5.0) for p in (a, b, c, a + b - c)]
    triangles = np.array([corners[:3], [corners[1], corners[0], corners[3]]])
    below = np.array([[corners[0], corners[1]], [corners[1], corners[2]]]) - (0, 0, 5)
    low = triangles.reshape(-1, 3).min(axis=0) * (1, 1, 0)

    seen, hidden = Hidden(triangles - low, 0.1).parted(below - low)

    assert seen == []
    assert [n for n, _ in hidden] == [0, 1]
