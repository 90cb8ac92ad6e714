"""Shells round blocks that came as STEP."""

import numpy as np
import pytest
from OCP.BRepPrimAPI import BRepPrimAPI_MakeWedge

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.errors import InputError
from kaigata.core.intake.shelling import shell_of_block
from kaigata.core.metal.charts import constant_chart
from kaigata.core.part.recipe import Recipe, folded_recipe, read_recipe, recipe_text, shell_faces
from tests.solids import beside, box, cone, less, round_bar, turned, write_step

BLOCK = box(10, 20, 30, 200, 100, 60)


def blank(recipe):
    part = folded_recipe(recipe)
    return unfold(part, takes=chart_takes(part, constant_chart(0.44, part.thickness)))


def shell_of(shape, tmp_path, **said):
    write_step(shape, tmp_path / "block.step")
    return shell_of_block(tmp_path / "block.step", thickness=1.5, **said)


def corners(recipe):
    return {f: np.array(c) for f, c in recipe.steps[0].solid.faces.items()}


def test_a_block_is_the_shell_said_by_its_sizes(tmp_path):
    recipe = shell_of(BLOCK, tmp_path)
    said = Recipe.model_validate(
        {
            "kind": "fold-recipe",
            "part": "said",
            "thickness": 1.5,
            "steps": [
                {
                    "do": "shell",
                    "name": "block",
                    "solid": {"base": {"rectangle": [200, 100]}, "height": 60},
                    "gap": 0.5,
                }
            ],
        }
    )
    assert are_alike(blank(recipe), blank(said))
    assert {f.name for f in shell_faces(recipe)} == {f.name for f in shell_faces(said)}


def test_faces_have_names_and_begin_below(tmp_path):
    found = corners(shell_of(BLOCK, tmp_path))
    assert [*found] == ["bottom", "top", "side-1", "side-2", "side-3", "side-4"]
    assert np.vstack([*found.values()]).min(axis=0) == pytest.approx([0, 0, 0])
    # The first side looks to -y, the second to +x; each begins with the edge at the bottom.
    assert found["side-1"][:, 1] == pytest.approx(0)
    assert found["side-2"][:, 0] == pytest.approx(200)
    for n in (1, 2, 3, 4):
        assert found[f"side-{n}"][:2, 2] == pytest.approx(0)
    assert found["top"][:, 2] == pytest.approx(60)


@pytest.mark.parametrize(
    "shape",
    [
        BRepPrimAPI_MakeWedge(200.0, 120.0, 150.0, 60.0, 40.0, 140.0, 110.0).Shape(),
        turned(BLOCK, (1, 2, 3), 40),
        less(BLOCK, box(120, 60, 20, 200, 100, 100)),
    ],
    ids=["frustum", "askew", "stepped"],
)
def test_the_shell_has_the_area_of_its_block(shape, tmp_path):
    recipe = shell_of(shape, tmp_path)
    flat = blank(recipe)
    faces = corners(recipe)
    area = sum(
        np.linalg.norm(np.cross(c, np.roll(c, -1, axis=0)).sum(axis=0)) / 2 for c in faces.values()
    )
    assert len(flat.bends) == len(faces) - 1
    # Seams and bends take a few thicknesses along every edge.
    assert flat.region.area == pytest.approx(area, rel=0.1)
    assert flat.region.area < area


def test_the_recipe_is_a_file_as_any_other(tmp_path):
    recipe = shell_of(BLOCK, tmp_path, metal="outside")
    (tmp_path / "shell.json").write_text(recipe_text(recipe))
    assert read_recipe(tmp_path / "shell.json") == recipe


@pytest.mark.parametrize(
    ("shape", "wrong", "where"),
    [
        (less(BLOCK, round_bar((50, 50, 0), (0, 0, 1), 10, 200)), "curved", "near x "),
        (cone((0, 0, 0), (0, 0, 1), 20, 10, 50), "curved", "near x "),
        (less(BLOCK, box(50, 50, 0, 20, 20, 200)), "a face has a hole", "near x "),
        (box(0, 0, 0, 100, 50, 2.5), "its bend takes 3 mm", "block.step"),
    ],
    ids=["drilled", "cone", "pierced", "thin"],
)
def test_what_is_no_block_is_refused(shape, wrong, where, tmp_path):
    with pytest.raises(InputError, match=wrong) as caught:
        shell_of(shape, tmp_path)
    assert caught.value.where.startswith("block.step")
    assert where in caught.value.where
    assert caught.value.fix


@pytest.mark.parametrize("thickness", [0, -1, float("nan"), float("inf")])
def test_a_thickness_that_is_none_is_refused(thickness, tmp_path):
    with pytest.raises(InputError, match="the thickness is"):
        shell_of_block(tmp_path / "block.step", thickness=thickness)


def test_other_files_are_refused(tmp_path):
    (tmp_path / "block.dxf").write_text("0\nSECTION\n")
    with pytest.raises(InputError, match="no STEP file"):
        shell_of_block(tmp_path / "block.dxf", thickness=1)
    with pytest.raises(InputError, match="holds 2 solids"):
        shell_of(beside(BLOCK, box(500, 0, 0, 10, 20, 30)), tmp_path)
