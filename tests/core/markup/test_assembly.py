"""Drawings of assemblies: every part where its file has it, numbered, listed and counted again."""

import math
import re
from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from OCP.Bnd import Bnd_Box
from OCP.BRepBndLib import BRepBndLib
from OCP.STEPControl import STEPControl_Reader

from kaigata.core.blank import chart_takes, unfold
from kaigata.core.errors import InputError, LimitError
from kaigata.core.intake import read_parts
from kaigata.core.intake.kernel import triangles_of
from kaigata.core.markup import (
    INCH,
    MILLIMETRE,
    Component,
    Title,
    assembly_differences,
    draw_assembly,
    meshed_bodies,
    placed_bodies,
)
from kaigata.core.markup.folded_view import ISOMETRIC, seen_together
from kaigata.core.metal.charts import constant_chart
from kaigata.core.part import IN_PLACE
from tests.checks import PARTS
from tests.solids import box, round_bar

STAND = PARTS / "stand.step"


@cache
def stand():
    """Return the parts of the demo's assembly as components."""
    out = []
    for read in read_parts(STAND).parts:
        takes = chart_takes(read.part, constant_chart(0.44, read.part.thickness))
        blank = unfold(read.part, takes=takes)
        out.append(
            Component(
                name=read.part.name,
                quantity=read.quantity,
                material="steel",
                thickness=read.part.thickness,
                size=(blank.width, blank.height),
                bodies=placed_bodies(read.part, read.places),
            )
        )
    return tuple(out)


def points(components):
    return np.vstack([b.triangles.reshape(-1, 3) for c in components for b in c.bodies])


def at(x, y, z):
    return replace(IN_PLACE, origin=(x, y, z))


def blocks(*places, size=(20, 30, 10)):
    return meshed_bodies(triangles_of(box(0, 0, 0, *size)), places)


def test_every_part_lies_where_the_assembly_has_it():
    reader = STEPControl_Reader()
    reader.ReadFile(str(STAND))
    reader.TransferRoots()
    bounds = Bnd_Box()
    BRepBndLib.AddOptimal_s(reader.OneShape(), bounds, False, False)
    x0, y0, z0, x1, y1, z1 = bounds.Get()

    all_points = points(stand())

    # As near as chords lie to the arcs of the bends.
    assert all_points.min(axis=0) == pytest.approx([x0, y0, z0], abs=0.06)
    assert all_points.max(axis=0) == pytest.approx([x1, y1, z1], abs=0.06)
    assert [(c.name, c.quantity) for c in stand()] == [
        ("base-foot", 4), ("hanger-arm", 2), ("tool-tray", 1)
    ]  # fmt: skip


@pytest.mark.parametrize("unit", [MILLIMETRE, INCH], ids=lambda u: u.name)
@pytest.mark.parametrize("paper", ["", "A4", "A2"])
def test_the_assembly_is_drawn_with_its_list_and_numbers(unit, paper):
    drawing = draw_assembly(stand(), Title(part="stand"), unit=unit, paper=paper)

    assert assembly_differences(drawing, stand(), unit) == []
    assert [row[:3] for row in drawing.table.rows] == [
        ("1", "base-foot", "4"), ("2", "hanger-arm", "2"), ("3", "tool-tray", "1")
    ]  # fmt: skip
    page = drawing.pages[0]
    assert {"Assembly", "stand", "4 steel" if unit is MILLIMETRE else "0.157 steel"} <= {
        w.text for w in page.words
    }
    inside = [p for s in page.strokes for x in s.run for p in (x.start, x.end)]
    assert all(20 <= x <= page.width - 10 and 10 <= y <= page.height - 10 for x, y in inside)


def test_the_numbers_stand_apart_and_their_lines_do_not_cross():
    components = [
        Component(name=f"block {n}", quantity=1, bodies=blocks(place))
        for n, place in enumerate(at(40 * (n % 5), 60 * (n // 5), 7 * n) for n in range(25))
    ]
    drawing = draw_assembly(components, Title(part="blocks"))

    assert assembly_differences(drawing, components, MILLIMETRE) == []
    spots = [w.at for w in drawing.pages[0].words if w.size == 3.4]
    assert len(spots) == 25
    assert all(math.dist(p, q) > 7.6 for i, p in enumerate(spots) for q in spots[:i])
    for x in {round(p[0], 6) for p in spots}:
        numbers = [w for w in drawing.pages[0].words if w.size == 3.4]
        column = sorted((w for w in numbers if round(w.at[0], 6) == x), key=lambda w: w.at[1])
        aimed = [drawing.views[0].targets[int(w.text)][1] for w in column]
        assert aimed == sorted(aimed)


def test_more_parts_than_a_small_sheet_has_room_for_take_larger_paper():
    many = [Component(name=f"b{n}", quantity=1, bodies=blocks(at(50 * n, 0, 0))) for n in range(60)]

    assert draw_assembly(many, Title(part="row")).pages[0].width > 297


def test_what_is_no_folded_sheet_is_drawn_by_its_edges_and_listed_as_that():
    (body,) = blocks(IN_PLACE)
    seen = seen_together([body])
    # Of the twelve edges of a block nine are seen from a corner.
    edges = [e for e in seen.edges if math.dist(*e) > 1]
    assert len(edges) == 9
    assert sum(math.dist(*e) for e in edges) == pytest.approx(
        3 * (20 + 30 + 10) * math.sqrt(2 / 3), rel=0.02
    )

    components = [*stand(), Component(name="foot plate", quantity=1, bodies=(body,))]
    drawing = draw_assembly(components, Title(part="stand"))
    assert drawing.table.rows[3] == ("4", "foot plate", "1", "no folded sheet", "")
    assert assembly_differences(drawing, components, MILLIMETRE) == []


def test_a_round_bar_is_seen_as_its_ends_and_the_two_lines_where_it_turns_away():
    bar = triangles_of(round_bar((0, 0, 0), (0, 0, 1), 10, 60))
    (body,) = meshed_bodies(bar, [IN_PLACE])
    upright = [e for e in body.edges if abs(e[0, 2] - e[1, 2]) > 59]
    assert len(upright) == 2
    # They lie square to the eye, to the width of a facet.
    for edge in upright:
        assert abs(edge[0, :2] @ ISOMETRIC.eye[:2]) / 10 / math.hypot(*ISOMETRIC.eye[:2]) < 0.3


def test_a_part_that_others_hide_has_a_dotted_line_and_that_is_said():
    inner = Component(name="inner", quantity=1, bodies=blocks(at(5, 5, 5), size=(5, 5, 5)))
    outer = Component(name="outer", quantity=1, bodies=blocks(IN_PLACE, size=(40, 40, 40)))
    drawing = draw_assembly([inner, outer], Title(part="box"))

    assert assembly_differences(drawing, [inner, outer], MILLIMETRE) == []
    assert any("dotted line" in w.text for w in drawing.pages[0].words)
    assert [s.pen for s in drawing.pages[0].strokes].count("mark") == 1


def test_a_part_of_unknown_place_is_listed_and_said_not_to_be_drawn():
    components = [*stand(), Component(name="cable", quantity=2)]
    drawing = draw_assembly(components, Title(part="stand"))

    assert any(w.text == "Not drawn: 4." for w in drawing.pages[0].words)
    assert assembly_differences(drawing, components, MILLIMETRE) == []
    with pytest.raises(InputError, match="none of its parts is known in space"):
        draw_assembly(components[-1:], Title(part="stand"))
    with pytest.raises(InputError, match="no paper 'A9'"):
        draw_assembly(components, Title(part="stand"), paper="A9")


def test_more_than_can_be_drawn_is_refused():
    (body,) = blocks(IN_PLACE)
    many = replace(body, triangles=np.tile(body.triangles, (90_000, 1, 1)))
    with pytest.raises(LimitError, match="1 body has 1080000 triangles, at most 1000000"):
        draw_assembly([Component(name="b", quantity=1, bodies=(many,))], Title(part="x"))


@pytest.mark.parametrize(
    ("other", "told"),
    [
        (lambda c: c[:2], "the list has 3 parts, the assembly 2"),
        (lambda c: (replace(c[0], quantity=3), *c[1:]), "part 1 is listed 4 times, there are 3"),
        (lambda c: (replace(c[0], bodies=c[0].bodies[:3]), *c[1:]), "part 1 is drawn 3 times of 4"),
        (lambda c: (replace(c[0], size=(1.0, 2.0)), *c[1:]), "the blank of part 1 is listed as"),
        (lambda c: (*c[:2], replace(c[2], bodies=())), r"the numbers \[1, 2, 3\] stand there"),
    ],
)  # fmt: skip
def test_a_drawing_of_another_assembly_is_found_out(other, told):
    drawing = draw_assembly(stand(), Title(part="stand"))

    differences = assembly_differences(drawing, other(stand()), MILLIMETRE)

    assert any(re.search(told, d) for d in differences)


@pytest.mark.parametrize("spoilt", ["row", "number", "line"])
def test_what_is_lost_on_the_sheet_is_told(spoilt):
    drawing = draw_assembly(stand(), Title(part="stand"))
    page = drawing.pages[0]
    if spoilt == "row":
        page.words[:] = [w for w in page.words if w.text != "hanger-arm"]
        told = "row 2 of the list is on no sheet"
    elif spoilt == "number":
        page.words[:] = [w for w in page.words if not (w.size == 3.4 and w.text == "2")]
        told = "Assembled: the numbers [1, 3] stand there, the parts drawn are [1, 2, 3]"
    else:
        page.strokes[:] = [s for s in page.strokes if s.pen != "dimension"]
        told = "Assembled: the number 1 points at nothing"

    assert told in assembly_differences(drawing, stand(), MILLIMETRE)
