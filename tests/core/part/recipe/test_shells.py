"""Shells of solids: where their faces come to lie, their seams, their nets."""

import math
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from OCP.BRepExtrema import BRepExtrema_DistShapeShape

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.blank.judge import judged
from kaigata.core.errors import InputError
from kaigata.core.formats.solid import folded_solid
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.metal.allowance import bend_deduction
from kaigata.core.metal.charts import constant_chart
from kaigata.core.metal.limits import Limits
from kaigata.core.part.recipe import Recipe, built_recipe, folded_recipe
from kaigata.core.part.recipe.nets import nets, usual_net
from kaigata.core.part.recipe.polyhedron import Polyhedron
from kaigata.core.part.recipe.solids import solid_of
from kaigata.core.part.recipe.workbench import Workbench
from tests.solids import _plate, volume

T, K, GAP = 1.5, 0.44, 0.5
BOX = {"base": {"rectangle": [200, 100]}, "height": 60}
HOPPER = {
    "base": {"rectangle": [60, 60]},
    "top": {"rectangle": [200, 160]},
    "height": 120,
    "shift": [20, 0],
}
ELL = {"base": {"outline": [[0, 0], [200, 0], [200, 80], [80, 80], [80, 160], [0, 160]]}}
SOLIDS = {
    "box": BOX,
    "hopper": HOPPER,
    "hexagon": {"base": {"sides": 6, "across": 100}, "height": 60},
    "pyramid": {"base": {"rectangle": [200, 200]}, "tip": [10, -5], "height": 80},
    "ell": {**ELL, "height": 60},
    "octagons": {
        "base": {"sides": 8, "across": 200},
        "top": {"sides": 8, "across": 80},
        "height": 150,
    },
}
RING = [["bottom", "side-1"], ["side-1", "side-2"], ["side-2", "side-3"], ["side-3", "side-4"]]


def shell(solid, *steps, **said):
    return Recipe.model_validate(
        {
            "kind": "fold-recipe",
            "part": "made",
            "thickness": T,
            "steps": [{"do": "shell", "name": "s", "solid": solid, "gap": GAP, **said}, *steps],
        }
    )


def blank(part):
    return unfold(part, takes=chart_takes(part, constant_chart(K, part.thickness)))


def surface(recipe):
    return solid_of(Workbench(recipe), recipe.steps[0].solid)


def panels(recipe):
    built = built_recipe(recipe)
    return {n.name.removeprefix("s-"): built.part.panels[n.panel] for n in built.names}


def seams(recipe):
    """Pairs of faces that meet at no bend."""
    step, solid = recipe.steps[0], surface(recipe)
    faces = [f for f in solid.faces if f not in step.open]
    bent = step.bent
    if bent is None:
        bent = [(r.one, r.two) for r in usual_net(solid, faces, step.anchor or faces[0])]
    joined = {frozenset(pair) for pair in bent}
    return [r.faces for r in solid.ridges if r.faces <= {*faces} and r.faces not in joined]


def gap_between(one, two):
    return BRepExtrema_DistShapeShape(_plate(one, T), _plate(two, T)).Value()


def require_sound(recipe):
    """Every seam has its gap, and the shell's solid unfolds to the same blank."""
    part, made = folded_recipe(recipe), panels(recipe)
    for pair in seams(recipe):
        assert gap_between(*(made[f] for f in pair)) == pytest.approx(GAP, abs=1e-5)
    solid = folded_solid(part)
    assert volume(solid) == pytest.approx(part.volume)
    flat, back = blank(part), blank(folded_part(Solid(solid), "solid"))
    assert edges_of(back) == pytest.approx(edges_of(flat), abs=1e-4)
    lengths = [sorted(b.length for b in made.bends) for made in (back, flat)]
    assert lengths[0] == pytest.approx(lengths[1])
    return flat


def edges_of(flat):
    """Of the outline, by length: a regular shape may be laid straight in more ways than one."""
    return sorted(s.chord for s in flat.region.outer.segments)


@pytest.mark.parametrize("metal", ["inside", "outside"])
@pytest.mark.parametrize("kind", SOLIDS)
def test_a_face_of_the_solid_is_a_face_of_the_metal(kind, metal):
    recipe = shell(SOLIDS[kind], metal=metal)
    solid, made = surface(recipe), panels(recipe)
    level = -T if metal == "inside" else 0.0
    planes = {
        f: (np.array(p.frame.z), np.array(p.frame.place(0, 0, level))) for f, p in made.items()
    }
    # Seen from inside the sheet's faces turn as the solid's do, and meet in its corners.
    for ridge in solid.ridges:
        one, two = (solid.normal(f) @ solid.normal(g) for f, g in [(ridge.one, ridge.two)] * 2)
        assert planes[ridge.one][0] @ planes[ridge.two][0] == pytest.approx(one) == two
    corners = {}
    for face, points in solid.faces.items():
        for p in points:
            corners.setdefault(tuple(np.round(p, 6)), []).append(face)
    met = []
    for faces in corners.values():
        normals = np.array([planes[f][0] for f in faces])
        levels = np.array([planes[f][0] @ planes[f][1] for f in faces])
        at, *_ = np.linalg.lstsq(normals, levels, rcond=None)
        assert normals @ at == pytest.approx(levels)
        met.append(at)
    said = np.array([*corners])
    assert distances(np.array(met)) == pytest.approx(distances(said))


def distances(points):
    return np.linalg.norm(points[:, None] - points[None], axis=2)


@pytest.mark.parametrize("metal", ["inside", "outside"])
@pytest.mark.parametrize("kind", SOLIDS)
def test_seams_keep_their_gap_and_the_solid_unfolds_alike(kind, metal):
    require_sound(shell(SOLIDS[kind], metal=metal))


@pytest.mark.parametrize("relief", ["round", "square", "none"])
def test_faces_in_a_row(relief):
    require_sound(shell(BOX, bent=[*RING, ["side-3", "top"]], relief=relief))


def test_sums_on_paper():
    # Two walls of 60, each bend at its outside: what it takes comes off.
    takes = bend_deduction(math.pi / 2, inside_radius=T, thickness=T, k=K)
    flat = blank(folded_recipe(shell(BOX, open=["top"])))
    assert sorted([flat.width, flat.height]) == pytest.approx(
        [100 + 2 * 60 - 2 * takes, 200 + 2 * 60 - 2 * takes]
    )
    # Metal outside of it: the same faces are inside sizes.
    flat = blank(folded_recipe(shell(BOX, open=["top"], metal="outside")))
    assert sorted([flat.width, flat.height]) == pytest.approx(
        [100 + 2 * 60 - 2 * takes + 4 * T, 200 + 2 * 60 - 2 * takes + 4 * T]
    )


def test_an_open_box_is_a_mitred_tray():
    tray = Recipe.model_validate(
        {
            "kind": "fold-recipe",
            "part": "made",
            "thickness": T,
            "steps": [
                {"do": "panel", "name": "base", "rectangle": [200, 100]},
                {
                    "do": "flange",
                    "name": "w",
                    "length": 60,
                    "on": [f"base.{i}" for i in (1, 2, 3, 4)],
                },
                {"do": "corners", "of": "base", "how": "mitred", "gap": GAP},
            ],
        }
    )
    assert are_alike(blank(folded_recipe(shell(BOX, open=["top"]))), blank(folded_recipe(tray)))


def test_a_place_on_a_face_is_the_same_whatever_is_bent():
    holes = [
        {"do": "hole", "panel": f"s-{face}", "at": [30, 20], "thread": "M5"}
        for face in ("bottom", "side-1", "side-2", "side-3", "side-4", "top")
    ]
    places = []
    for bent in (
        None,
        [*RING, ["side-3", "top"]],
        [*RING[1:], ["bottom", "side-3"], ["top", "side-1"]],
    ):
        part = folded_recipe(shell(BOX, *holes, bent=bent))
        places.append(sorted(tuple(part.panels[f.piece].space(f.at)) for f in part.features))
    for one, two in pairwise(places):
        assert np.array(one) == pytest.approx(np.array(two))


def test_edges_keep_their_numbers():
    for bent in (None, [*RING[1:], ["bottom", "side-3"]]):
        built = built_recipe(shell(BOX, open=["top"], bent=bent))
        # The third edge of a wall is its rim.
        free = {n.name: [e.number for e in n.edges] for n in built.names}
        assert all(3 in free[f"s-side-{i}"] for i in (1, 2, 3, 4))


def test_flanges_and_folds_on_a_shell():
    lip = {"do": "flange", "name": "lip", "on": ["s-side-1.3", "s-side-3.3"], "length": 15}
    fold = {"do": "fold", "panel": "s-side-2", "name": "top-edge", "line": [[100, 40], [0, 40]]}
    part = folded_recipe(
        shell(BOX, {**lip, "direction": "down"}, {**fold, "angle": 20}, open=["top"])
    )
    assert len(part.bends) == 4 + 2 + 1
    solid = folded_solid(part)
    assert volume(solid) == pytest.approx(part.volume)
    assert are_alike(blank(folded_part(Solid(solid), "solid")), blank(part))


LIP = {
    "do": "flange", "name": "lip", "on": [f"s-side-{n}.3" for n in (1, 2, 3, 4)], "length": 20,
}  # fmt: skip
BACK = {
    "do": "flange", "name": "back", "on": [f"lip-{n}.3" for n in (1, 2, 3, 4)], "length": 12,
}  # fmt: skip


@pytest.mark.parametrize("bent", [None, RING])
@pytest.mark.parametrize("steps", [[LIP], [LIP, BACK]], ids=["lips", "and returns"])
def test_lips_of_faces_that_meet_are_mitred_too(steps, bent):
    recipe = shell(BOX, *steps, open=["top"], bent=bent)
    part, made = folded_recipe(recipe), panels(recipe)
    flat = blank(part)
    for name in [s["name"] for s in steps]:
        for one, two in ((1, 2), (2, 3), (3, 4), (4, 1)):
            gap = gap_between(made[f"{name}-{one}"], made[f"{name}-{two}"])
            assert gap == pytest.approx(GAP, abs=1e-5)
    found = {f.code for f in judged(flat, Limits(), part=part)}
    assert not found & {"folded-collision", "flat-overlap", "relief-missing"}
    solid = folded_solid(part)
    assert volume(solid) == pytest.approx(part.volume)
    assert are_alike(blank(folded_part(Solid(solid), "solid")), flat)


def test_a_lip_that_stays_clear_of_a_corner_takes_nothing_from_the_bend_there():
    bare = blank(folded_recipe(shell(BOX, open=["top"], bent=RING)))
    clear = {**LIP, "length": 10, "ends": [15, 15]}
    lipped = blank(folded_recipe(shell(BOX, clear, open=["top"], bent=RING)))
    # The walls' bends go to the rim as they do without lips; the others are the lips' own.
    lengths = sorted(round(b.length, 6) for b in lipped.bends)
    assert lengths == sorted(
        [*(round(b.length, 6) for b in bare.bends), *(170.0, 170.0, 70.0, 70.0)]
    )


@pytest.mark.parametrize(("solid", "angle"), [(BOX, 90), (HOPPER, 55)], ids=["box", "hopper"])
def test_rims_turned_outwards_become_no_wider(solid, angle):
    rim = {**LIP, "direction": "down", "angle": angle}
    part = folded_recipe(shell(solid, rim, open=["top", "bottom"]))
    flat = blank(part)
    assert len(flat.bends) == 3 + 4
    found = {f.code for f in judged(flat, Limits(), part=part)}
    assert not found & {"folded-collision", "flat-overlap", "relief-missing"}
    solid = folded_solid(part)
    assert volume(solid) == pytest.approx(part.volume)


def test_a_solid_of_given_faces():
    faces = {
        "floor": [[0, 0, 0], [0, 80, 0], [100, 80, 0], [100, 0, 0]],
        "back": [[0, 0, 0], [0, 0, 50], [0, 80, 50], [0, 80, 0]],
        "ramp": [[100, 0, 0], [100, 80, 0], [0, 80, 50], [0, 0, 50]],
        "left": [[0, 0, 0], [100, 0, 0], [0, 0, 50]],
        "right": [[0, 80, 0], [0, 80, 50], [100, 80, 0]],
    }
    flat = require_sound(shell({"faces": faces}, anchor="ramp"))
    assert len(flat.bends) == 4


def test_a_star_that_lies_on_itself_is_not_chosen():
    recipe = shell({**ELL, "height": 60}, open=["top"])
    part = folded_recipe(recipe)
    found = judged(blank(part), Limits(), part=part)
    assert [f.code for f in found if f.code in ("flat-overlap", "collision")] == []


def test_nets_of_a_cube():
    solid = surface(shell({"base": {"rectangle": [10, 10]}, "height": 10}))
    found = nets(solid, [*solid.faces])
    # Of its eleven nets nine lie best in 3 x 4 or askew, one in 2 x 5; all have five bends.
    assert {round(n.bends) for n in found} == {50}
    assert (50.0, 20.0) in {(round(a, 6), round(b, 6)) for a, b in (n.size for n in found)}
    assert found == sorted(found, key=lambda n: n.size[0] * n.size[1])


@pytest.mark.parametrize("kind", ["box", "hopper", "pyramid"])
def test_every_net_offered_can_be_folded(kind):
    recipe = shell(SOLIDS[kind])
    solid = surface(recipe)
    for net in nets(solid, [*solid.faces])[:12]:
        made = shell(SOLIDS[kind], bent=[[r.one, r.two] for r in net.bent])
        flat = blank(folded_recipe(made))
        assert len(flat.bends) == len(solid.faces) - 1
        assert not [f for f in judged(flat, Limits()) if f.code == "flat-overlap"]


LENGTHS = st.floats(50, 200)


@st.composite
def solids(draw):
    base = draw(
        st.one_of(
            st.builds(lambda a, b: {"rectangle": [a, b]}, LENGTHS, LENGTHS),
            st.builds(lambda n, a: {"sides": n, "across": a}, st.sampled_from([3, 5, 6]), LENGTHS),
        )
    )
    made = {"base": base, "height": draw(st.floats(40, 150))}
    if "sides" in base and draw(st.booleans()):
        made["top"] = {"sides": base["sides"], "across": draw(LENGTHS)}
    elif draw(st.booleans()):
        made["tip"] = [draw(st.floats(-20, 20)), draw(st.floats(-20, 20))]
    return made


@settings(max_examples=15)
@given(solids(), st.data())
def test_any_shell_unfolds_as_its_solid(said, data):
    recipe = shell(said)
    solid = surface(recipe)
    net = data.draw(st.sampled_from(nets(solid, [*solid.faces])))
    recipe = shell(
        said,
        bent=[[r.one, r.two] for r in net.bent],
        anchor=data.draw(st.sampled_from([*solid.faces])),
        metal=data.draw(st.sampled_from(["inside", "outside"])),
    )
    try:
        folded_recipe(recipe)
    except InputError as error:
        # A face may be too narrow for its bends.
        assume("has no room" not in str(error) and "its bend takes" not in str(error))
        raise
    require_sound(recipe)


@pytest.mark.parametrize(
    ("solid", "said", "wrong"),
    [
        (BOX, {"open": ["lid"]}, "there is no face 'lid'"),
        (BOX, {"open": ["top"], "anchor": "top"}, "there is no face 'top'"),
        (BOX, {"bent": RING[1:]}, "no bend joins side-1 to bottom"),
        (BOX, {"bent": [*RING, ["side-4", "bottom"], ["top", "side-1"]]}, "some close a ring"),
        (BOX, {"bent": [["bottom", "top"]]}, "bottom and top are not neighbours"),
        (BOX, {"open": ["bottom", "top", *(f"side-{i}" for i in (1, 2, 3, 4))]}, "every face"),
        ({"base": {"rectangle": [9, 9]}}, {}, "no one shape"),
        ({**BOX, "faces": {}}, {}, "at least 4"),
        ({"base": {"sides": 5}, "height": 9}, {}, "without a size"),
        (
            {"base": {"sides": 5, "across": 50, "rectangle": [9, 9]}, "height": 9},
            {},
            "no one shape",
        ),
        ({**BOX, "top": {"sides": 6, "across": 50}}, {}, "the base has 4 corners, the top 6"),
        ({**BOX, "top": {"outline": [[0, 0], [9, 3], [8, 9], [0, 9]]}}, {}, "is not flat"),
        ({"base": {"outline": [[0, 0, 1], [50, 0], [50, 50]]}, "height": 9}, {}, "with arcs"),
        ({"base": {"rectangle": [4, 4]}, "height": 60}, {}, "has no room"),
    ],
)
def test_what_is_refused(solid, said, wrong):
    with pytest.raises((InputError, ValueError), match=wrong):
        folded_recipe(shell(solid, **said))


@pytest.mark.parametrize(
    ("change", "wrong"),
    [
        (lambda f: f.pop("top"), "not where it meets just one other face"),
        (lambda f: f.update(top=f["top"][::-1]), "not where it meets just one other face"),
        (lambda f: f.update({k: v[::-1] for k, v in f.items()}), "seen from inside"),
        (
            lambda f: f.update(top=f["top"] + [[0, 0, 1], [0, 0, 0], [0, 0, 0], [0, 0, 0]]),
            "not flat",
        ),
    ],
)
def test_faces_that_are_no_solid(change, wrong):
    faces = {name: np.array(f) for name, f in surface(shell(BOX)).faces.items()}
    change(faces)
    with pytest.raises(InputError, match=wrong):
        Polyhedron(faces)
