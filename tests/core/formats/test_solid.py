"""A folded part as STEP: what is written is read back as the part it was."""

from dataclasses import replace

import pytest
from OCP.BRepCheck import BRepCheck_Analyzer

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.blank.alike import are_alike
from kaigata.core.errors import InputError
from kaigata.core.formats.solid import folded_solid, write_solid
from kaigata.core.intake import read_parts
from kaigata.core.metal.charts import constant_chart
from kaigata.core.part.recipe import Recipe, folded_recipe, starter, starters
from tests import solids
from tests.checks import PARTS

SHEETS = ["base-foot", "cable-guard", "hanger-arm", "hose-clip", "roof-cap", "sign-plate"]
"""Square, jogged and sharp bends, a cutout that divides one, half rounds, and none at all."""


def blank(part):
    return unfold(part, takes=chart_takes(part, constant_chart(0.44, part.thickness)))


def only_part(path):
    return read_parts(path).parts[0].part


@pytest.mark.parametrize("name", SHEETS)
def test_a_part_comes_back_as_it_was(name, tmp_path):
    part = only_part(PARTS / f"{name}.step")
    write_solid(part, tmp_path / f"{name}.step")
    back = only_part(tmp_path / f"{name}.step")
    assert back.volume == pytest.approx(part.volume, abs=0.01)
    assert len(back.bends) == len(part.bends)
    assert are_alike(blank(back), blank(part))


@pytest.mark.parametrize("name", starters())
def test_a_recipes_solid_is_sound(name):
    part = folded_recipe(starter(name))
    solid = folded_solid(part)
    assert BRepCheck_Analyzer(solid).IsValid()
    # Made otherwise: every piece pulled or swept by itself, and all joined; or, where ends of
    # bends are slanted, which no sweep gives, summed.
    is_square = all(len({s.start[1] for e in b.edges for s in e.run}) == 2 for b in part.bends)
    made = solids.volume(solids.folded_solid(part)) if is_square else part.volume
    assert solids.volume(solid) == pytest.approx(made)


def test_a_file_that_cannot_be_written_says_so(tmp_path):
    part = folded_recipe(starter("angle"))
    with pytest.raises(InputError, match=r"part\.step: the solid cannot be written; Look whether"):
        write_solid(part, tmp_path / "none" / "part.step")


@pytest.mark.parametrize("gap", [0, 0.02])
def test_a_closed_hem_is_refused_and_one_with_a_little_gap_is_not(gap):
    said = starter("plate").model_dump()
    said["steps"][1:] = [{"do": "hem", "name": "hem", "on": ["base.2"], "length": 12, "gap": gap}]
    part = folded_recipe(Recipe.model_validate(said))
    if gap:
        assert solids.volume(folded_solid(part)) == pytest.approx(part.volume)
        return
    with pytest.raises(InputError, match=r"touch or run into each other.*Give closed hems a gap"):
        folded_solid(part)


def test_a_part_that_does_not_hold_together_is_no_solid():
    part = folded_recipe(starter("angle"))
    last = part.panels[-1]
    apart = replace(last, frame=replace(last.frame, origin=last.frame.place(0, 1, 0)))
    with pytest.raises(InputError, match=r"close to no solid: \d+ edges have a face on one side"):
        folded_solid(replace(part, panels=(*part.panels[:-1], apart)))
