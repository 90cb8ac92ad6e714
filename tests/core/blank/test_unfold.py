import math

import numpy as np
import pytest

from kaigata.core.blank import FaceUp, chart_takes, unfold
from kaigata.core.blank.mesh import fold_mesh, folded_points
from kaigata.core.blank.place import lay_out
from kaigata.core.blank.pose import flat_pose
from kaigata.core.errors import InputError
from kaigata.core.intake import read_parts
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.metal.charts import constant_chart
from tests.checks import PARTS
from tests.solids import profile

NAMES = ["tool-tray", "hanger-arm", "roof-cap", "hose-clip", "cable-guard", "door-panel"]


def takes(part, k=0.44):
    return chart_takes(part, constant_chart(k, part.thickness))


def flat(part, k=0.44, **options):
    return unfold(part, takes=takes(part, k), **options)


@pytest.fixture(scope="module")
def parts():
    return {n: read_parts(PARTS / f"{n}.step").parts[0].part for n in NAMES}


@pytest.mark.parametrize("name", NAMES)
def test_turning_over_swaps_every_direction_and_changes_no_length(parts, name):
    one = flat(parts[name], k=0.44)
    other = flat(parts[name], k=0.44, face_up=FaceUp.OTHER)

    assert sorted((not b.is_up, round(b.length, 6)) for b in one.bends) == sorted(
        (b.is_up, round(b.length, 6)) for b in other.bends
    )
    assert other.region.area == pytest.approx(one.region.area, rel=1e-9)
    assert other.region.length == pytest.approx(one.region.length, rel=1e-9)


@pytest.mark.parametrize("name", NAMES)
def test_any_anchor_gives_the_same_blank(parts, name):
    blanks = [flat(parts[name], k=0.4, anchor=a + 1) for a in range(len(parts[name].panels))]

    sizes = {tuple(sorted((round(b.width, 5), round(b.height, 5)))) for b in blanks}
    assert len({round(b.region.area, 5) for b in blanks}) == 1
    assert len(sizes) == 1


def off_after_folding(part, k=0.44):
    """How far the corners of the folded blank are from those of the part, one to another, mm."""
    layout, mesh = lay_out(part, takes=takes(part, k)), fold_mesh(part, takes=takes(part, k))
    pose = flat_pose(layout.region(), face_up=FaceUp.AS_MODELLED)

    modelled, folded = [], []
    for i, step in enumerate(layout.steps):
        if step.piece >= len(part.panels) and not layout.take(step.piece).spread:
            # A bend that takes nothing has no place of its own in the flat.
            continue
        for edge in part.pieces[step.piece].edges:
            x, y = pose.point(layout.run(step.piece, edge)[0].start)
            modelled.append(part.pieces[step.piece].space(edge.run[0].start))
            folded.append(folded_points(mesh, i, np.array([[x, y, 0.0]]))[0])
    apart = [
        np.linalg.norm(np.array(p)[:, None] - np.array(p)[None], axis=2) for p in (modelled, folded)
    ]
    return np.abs(apart[0] - apart[1]).max()


@pytest.mark.parametrize("name", NAMES)
def test_folding_the_blank_gives_the_part_back(parts, name):
    assert off_after_folding(parts[name]) < 1e-6


def test_a_sharp_fold_of_card_that_takes_nothing_is_folded_back():
    steps = [40, (90, 0), 60, (-90, 0), 30]
    part = folded_part(Solid(profile(steps, thickness=2.0, wide=80)), "card")

    assert sorted((flat(part, k=0).width, flat(part, k=0).height)) == pytest.approx([80, 130])
    assert all(bend.allowance == 0 for bend in flat(part, k=0).bends)
    assert off_after_folding(part, k=0) < 1e-6


@pytest.mark.parametrize("name", NAMES)
def test_skin_and_thickness_give_the_volume_of_the_mesh(parts, name):
    part = parts[name]
    mesh = fold_mesh(part, takes=takes(part, 0.5))
    area = sum(
        abs(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])).sum() / 2
        for t in (np.dstack([p.triangles, np.zeros(p.triangles.shape[:2])]) for p in mesh)
    )

    # With K 0.5 the flat's area times the thickness is the part's volume; round holes are
    # flattened to 0.1 mm in the mesh.
    assert area * part.thickness == pytest.approx(part.volume, rel=2e-3)


def test_quarter_turns_swap_width_and_height(parts):
    lying = flat(parts["tool-tray"], k=0.44)
    standing = flat(parts["tool-tray"], k=0.44, turn=math.pi / 2)

    assert (standing.width, standing.height) == pytest.approx((lying.height, lying.width))


def test_an_opening_across_a_bend_gives_two_pieces_of_one_bend(parts):
    pieces = sorted(len(b.lines) for b in flat(parts["cable-guard"]).bends)

    assert pieces == [1, 2]


@pytest.mark.parametrize(
    ("options", "text"), [({"k": 1.5}, "K is 1.5"), ({"k": 0.4, "anchor": 9}, "no panel 9")]
)
def test_unusable_options_are_refused(parts, options, text):
    with pytest.raises(InputError, match=text):
        flat(parts["tool-tray"], **options)
