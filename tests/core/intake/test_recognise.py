"""Solids made with the kernel's own tools: what is a folded sheet and what is none."""

import math

import pytest
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere
from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.TopAbs import TopAbs_EDGE, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS

from kaigata.core.blank import unfold
from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part


def box(x, y, z, dx, dy, dz):
    return BRepPrimAPI_MakeBox(gp_Pnt(x, y, z), dx, dy, dz).Shape()


def solid_of(shape):
    return TopExp_Explorer(shape, TopAbs_SOLID).Current()


def angle_bracket(inside=2.0, thickness=2.0):
    """Two 50 mm legs, 30 wide, bent by fillets on the inner and outer edge."""
    legs = BRepAlgoAPI_Fuse(box(0, 0, 0, 50, 30, thickness), box(0, 0, 0, thickness, 30, 50))
    legs.SimplifyResult()
    fillet = BRepFilletAPI_MakeFillet(legs.Shape())
    walk = TopExp_Explorer(legs.Shape(), TopAbs_EDGE)
    from OCP.BRepAdaptor import BRepAdaptor_Curve

    done = set()
    while walk.More():
        edge = TopoDS.Edge_s(walk.Current())
        p = BRepAdaptor_Curve(edge).Value(15.0)
        for x, radius in ((0.0, inside + thickness), (thickness, inside)):
            at_corner = abs(p.X() - x) < 1e-6 and abs(p.Z() - x) < 1e-6 and 1 < p.Y() < 29
            if at_corner and radius not in done:
                fillet.Add(radius, edge)
                done.add(radius)
        walk.Next()
    return solid_of(fillet.Shape())


def test_an_angle_unfolds_to_the_hand_sum():
    blank = unfold(folded_part(Solid(angle_bracket()), "angle"), k=0.44)

    # By hand: two legs of 50 less radius and thickness each, and the allowance pi/2 * 2.88.
    assert blank.width == pytest.approx(2 * (50 - 4) + math.pi / 2 * 2.88, abs=1e-6)
    assert blank.height == pytest.approx(30, abs=1e-6)
    assert [b.inside_radius for b in blank.bends] == pytest.approx([2.0], abs=1e-6)


@pytest.mark.parametrize("turn", [0.3, 1.1, 2.9])
def test_the_blank_does_not_depend_on_how_the_part_lies(turn):
    move = gp_Trsf()
    move.SetRotation(gp_Ax1(gp_Pnt(3, 5, 7), gp_Dir(1, 2, 3)), turn)
    lift = gp_Trsf()
    lift.SetTranslation(gp_Vec(100, -40, 12))
    move.PreMultiply(lift)
    lying = solid_of(BRepBuilderAPI_Transform(angle_bracket(), move, True).Shape())

    blank = unfold(folded_part(Solid(lying), "angle"), k=0.44)

    assert (blank.width, blank.height) == pytest.approx((96.523893421, 30), abs=1e-6)


@pytest.mark.parametrize(
    ("shape", "text"),
    [
        (BRepPrimAPI_MakeSphere(20).Shape(), "no two parallel faces"),
        (box(0, 0, 0, 100, 100, 90), "block"),
        (
            BRepAlgoAPI_Fuse(box(0, 0, 0, 100, 60, 2), box(0, 0, 0, 40, 60, 5)).Shape(),
            "not constant",
        ),
        (
            BRepAlgoAPI_Cut(
                BRepPrimAPI_MakeCylinder(20, 80).Shape(), BRepPrimAPI_MakeCylinder(18, 80).Shape()
            ).Shape(),
            "no flat panel",
        ),
    ],
)
def test_what_is_no_folded_sheet_is_refused_with_the_reason(shape, text):
    with pytest.raises(InputError, match=text):
        folded_part(Solid(solid_of(shape)), "thing")
