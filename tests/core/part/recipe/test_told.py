"""What a recipe says: its amounts, its sentences, and files that say something else."""

import json

import pytest
from hypothesis import given
from hypothesis import strategies as st

from kaigata.core.errors import InputError
from kaigata.core.part.recipe import Recipe, read_recipe, sentences
from kaigata.core.part.recipe.formulas import Dimensions

SIZES = {"width": 100, "depth": "width / 2", "lip": "1/2 in", "deep": "2 * (depth - lip)"}


@pytest.mark.parametrize(
    ("formula", "value"),
    [
        ("depth + 0.5", 50.5),
        ("12.7 mm", 12.7),
        ('1 7/16"', 36.5125),
        ("1in + 1 mm", 26.4),
        ("-width + 3 * -2", -106),
        ("min(depth, lip) * 2", 25.4),
        ("sqrt(width * 4)", 20),
        ("width * sin(30) + cos(60)", 50.5),
        (" deep ", 74.6),
    ],
)
def test_formulas(formula, value):
    assert Dimensions(SIZES, unit="mm").value(formula) == pytest.approx(value)


@given(st.floats(0.01, 1e4), st.floats(0.01, 1e4))
def test_units_do_not_change_a_length(a, b):
    inches = Dimensions({"a": a}, unit="in")
    assert inches.length(f"a + {b:.6f} mm") == pytest.approx(a * 25.4 + b, abs=1e-6)
    assert Dimensions({"a": f"{a:.6f} in"}, unit="mm").value("a") == pytest.approx(
        a * 25.4, abs=1e-4
    )


@pytest.mark.parametrize(
    ("formula", "said"),
    [
        ("depth +", "'depth +' cannot be read"),
        ("wide", "names 'wide', which is no dimension; Known are width, depth"),
        ("width / (lip - lip)", "divides by 0"),
        ("__import__('os')", "cannot be read"),
        ("width.real", "cannot be read"),
        ("sqrt(-1)", "cannot be read"),
        ("min()", "cannot be read"),
        ("width ** 9", "cannot be read"),
        ("1e308 * 10", "no finite number"),
        ("1 + " * 60 + "1", "longer than 200 characters"),
        ("", "cannot be read"),
    ],
)
def test_bad_formulas(formula, said):
    with pytest.raises(InputError, match=said.replace("+", r"\+").replace("(", r"\(")):
        Dimensions(SIZES, unit="mm").value(formula)


def test_dimension_that_rests_on_itself():
    with pytest.raises(InputError, match=r"'a' rests on itself: a -> b -> a"):
        Dimensions({"a": "b + 1", "b": "a * 2"}, unit="mm")


def recipe(*steps, **more):
    first = {"do": "panel", "name": "base", "rectangle": ["width", 60]}
    return Recipe.model_validate(
        {"kind": "fold-recipe", "part": "told", "thickness": 2, "dimensions": {"width": 100},
         "steps": [first, *steps], **more}
    )  # fmt: skip


@pytest.mark.parametrize(
    ("metal", "said"), [("left", "the left"), ("right", "the right"), ("both", "both sides")]
)
def test_a_profile_is_a_sentence(metal, said):
    step = {"do": "profile", "name": "rail", "section": [[0, 0], [50, 0], [50, 20]],
            "width": "width * 2", "metal": metal}  # fmt: skip
    whole = recipe().model_dump()
    (told,) = sentences(Recipe.model_validate({**whole, "steps": [step]}))
    assert told == (
        f"Begin with the folded profile rail, a section of 3 corners with the metal to {said} of "
        "the line, 200 mm (width * 2) wide."
    )


def test_each_step_is_a_sentence():
    told = sentences(
        recipe(
            {"do": "flange", "name": "wall", "on": ["base.1", "base.3"], "length": "width / 4",
             "angle": 60, "measured": "inside", "bend": "beside", "offset": 2, "ends": [5, 0],
             "radius": 3, "direction": "down"},
            {"do": "flange", "name": "tab", "on": ["wall-1.3", "wall-2.3"], "length": 10,
             "angle": 0},
            {"do": "flange", "name": "ear", "on": ["base.2"],
             "outline": [[0, 0], [20, 0], ["width / 10", 15]]},
            {"do": "fold", "name": "wing", "panel": "base", "line": [["width / 2", 0], [50, 60]],
             "angle": 45, "direction": "down", "measured": "tangent", "radius": 3},
            {"do": "jog", "name": "ledge", "panel": "base", "line": [[50, 0], [50, 60]],
             "height": 10},
            {"do": "jog", "name": "sill", "panel": "base", "line": [[50, 0], [50, 60]],
             "height": 10, "angle": 60, "stays": "right"},
            {"do": "hem", "name": "hem", "on": ["base.2"], "length": 8},
            {"do": "hem", "name": "rim", "on": ["base.4"], "length": 8, "gap": 1},
            {"do": "hole", "panel": "base", "at": [10, 20], "thread": "M5",
             "repeat": {"columns": 3, "rows": 2, "pitch": [20, 15]}},
            {"do": "hole", "panel": "base", "at": [10, 20], "diameter": "width / 10",
             "countersink": 16, "side": "far"},
            {"do": "slot", "panel": "base", "at": [10, 20], "length": 20, "width": 6, "turn": 45},
            {"do": "opening", "panel": "base", "at": [1, 2], "rectangle": [9, 8], "corner": 2},
            {"do": "corners", "of": "base", "how": "mitred", "gap": 0.4},
            {"do": "corners", "of": "base", "how": "open", "relief": "none"},
            {"do": "round", "panel": "tab", "corners": [2, 3], "radius": 4},
            {"do": "round", "panel": "base", "radius": 4, "kind": "chamfer"},
        )
    )  # fmt: skip
    assert told == [
        "Begin with the panel base, 100 (width) x 60 mm.",
        (
            "Fold the flange wall down on edges 1 and 3 of base by 60 degrees, 25 mm "
            "(width / 4) long measured inside, the bend beside the edge and 2 mm further out, "
            "inside radius 3 mm, 5 and 0 mm of the edge left free."
        ),
        "Let the panel tab go on from edge 3 of wall-1 and wall-2 by 10 mm.",
        (
            "Fold the flange ear up on edge 2 of base by 90 degrees, an outline of 3 corners, the "
            "bend inside the edge."
        ),
        (
            "Fold base down by 45 degrees across the line from 50 (width / 2), 0 mm to 50, 60 mm: "
            "what lies right of it is wing, measured from the end of the bend, inside radius 3 mm."
        ),
        (
            "Step base up by 10 mm across the line from 50, 0 mm to 50, 60 mm: what lies right of "
            "it is ledge."
        ),
        (
            "Step base up by 10 mm at 60 degrees across the line from 50, 0 mm to 50, 60 mm: what "
            "lies left of it is sill."
        ),
        "Turn the hem hem up on edge 2 of base, 8 mm long, closed.",
        "Turn the hem rim up on edge 4 of base, 8 mm long, open by 1 mm.",
        "Cut a hole tapped M5 in base at 10, 20 mm, 3 across by 2 up, 20 and 15 mm apart.",
        (
            "Cut a hole 10 mm (width / 10) across, countersunk 16 mm from the far side, in base at "
            "10, 20 mm."
        ),
        "Cut a slot 20 x 6 mm turned by 45 degrees in base at 10, 20 mm.",
        "Cut an opening, 9 x 8 mm with corners of radius 2 mm, in base at 1, 2 mm.",
        (
            "Mitre the corners between the flanges of base with a gap of 0.4 mm, a round relief of "
            "2 mm where the bends meet."
        ),
        "Leave the corners between the flanges of base open, without a relief.",
        "Round corners 2 and 3 of tab by 4 mm.",
        "Chamfer all free corners of base by 4 mm.",
    ]


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("{", "it is no JSON"),
        ("[]", "must be an object"),
        ('{"spacing": 5, "parts": []}', r"\$\.kind is missing"),
        (json.dumps({"kind": "fold-recipe", "part": "p", "thickness": 1, "steps": []}),
         r"\$\.steps must not be empty"),
        (json.dumps({"kind": "fold-recipe", "part": "p", "thickness": 1, "steps": [
            {"do": "panel", "name": "base", "rectangle": [1, 2], "colour": "red"}]}),
         r"colour is not known here"),
        (json.dumps({"kind": "fold-recipe", "part": "p", "thickness": 1,
                     "steps": [{"do": "weld"}]}),
         r"\$\.steps\[0\] must say 'do' as one of 'panel', 'profile', 'shell', 'flange'"),
    ],
)  # fmt: skip
def test_files_that_are_no_recipe(tmp_path, text, said):
    path = tmp_path / "made.json"
    path.write_text(text)
    with pytest.raises(InputError, match=said) as caught:
        read_recipe(path)
    assert caught.value.where == "made.json"
