"""STEP files: products, instances and their solids, through the geometry kernel."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any

from OCP.BRep import BRep_Builder
from OCP.BRepAdaptor import BRepAdaptor_Curve
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
from OCP.BRepLib import BRepLib
from OCP.IFSelect import IFSelect_RetDone
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_LabelSequence
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_FACE, TopAbs_SHELL, TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Compound
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from kaigata.core.errors import InputError
from kaigata.core.findings import counted
from kaigata.core.intake.kernel import Solid, Vec, triangles_of
from kaigata.core.intake.recognise import folded_part
from kaigata.core.part import IN_PLACE, FoldedPart, Frame

__all__ = ["Product", "Refusal", "closed_solid", "read_step", "read_step_parts"]

_SEW = 1e-3
"""Gap up to which surfaces are sewn together, mm."""


@dataclass(frozen=True, slots=True)
class Product:
    """A solid of a file with its name, and where it lies each time that it occurs there."""

    name: str
    places: tuple[Frame, ...]
    shape: Any

    @property
    def quantity(self) -> int:
        """How often it occurs."""
        return len(self.places)


def read_step(path: Path) -> list[Product]:
    """Return the distinct solids of a STEP file, with names and quantities, lengths in mm.

    Raises
    ------
    InputError
        The file is no readable STEP, or holds no solid.
    """
    document = TDocStd_Document(TCollection_ExtendedString("XmlOcaf"))
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    if reader.ReadFile(str(path)) != IFSelect_RetDone or not reader.Transfer(document):
        raise InputError(
            "it cannot be read as STEP",
            where=path.name,
            fix="Export the part again as STEP AP203, AP214 or AP242",
        )
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    free = TDF_LabelSequence()
    tool.GetFreeShapes(free)
    leaves: dict[str, list[Frame]] = {}
    labels: dict[str, Any] = {}
    for i in range(free.Length()):
        _find_leaves(free.Value(i + 1), TopLoc_Location(), leaves, labels)
    products = [
        product
        for key, places in leaves.items()
        for product in _solids(labels[key], tuple(places), fallback=path.stem)
    ] or _surfaces([free.Value(i + 1) for i in range(free.Length())], path.stem)
    if not products:
        raise InputError(
            "it holds no solid and no surface",
            where=path.name,
            fix="Export the part as a solid body",
        )
    if len(products) == 1:
        only = products[0]
        return [Product(path.stem, only.places, only.shape)]
    return products


@dataclass(frozen=True, slots=True)
class Refusal:
    """A solid that is no folded sheet: why, and its triangles, (n, 3, 3) mm, to show where."""

    name: str
    error: InputError
    triangles: Vec


def read_step_parts(path: Path) -> list[tuple[tuple[Frame, ...], FoldedPart | Refusal]]:
    """Return for each distinct solid its places and the folded part, or why it is none.

    Raises
    ------
    InputError
        The file as a whole cannot be used.
    """
    out: list[tuple[tuple[Frame, ...], FoldedPart | Refusal]] = []
    for product in read_step(path):
        try:
            found: FoldedPart | Refusal = folded_part(Solid(closed_solid(product)), product.name)
        except InputError as error:
            found = Refusal(product.name, error, triangles_of(product.shape))
        out.append((product.places, found))
    return out


def closed_solid(product: Product) -> Any:
    """Return the product's solid; surfaces that close are sewn into one.

    Raises
    ------
    InputError
        The surfaces leave an opening; the text says where.
    """
    if product.shape.ShapeType() == TopAbs_SOLID:
        return product.shape
    sewing = BRepBuilderAPI_Sewing(_SEW)
    sewing.Add(product.shape)
    sewing.Perform()
    if sewing.NbFreeEdges():
        middle = BRepAdaptor_Curve(TopoDS.Edge_s(sewing.FreeEdge(1)))
        p = middle.Value((middle.FirstParameter() + middle.LastParameter()) / 2)
        spot = (p.X(), p.Y(), p.Z())
        raise InputError(
            f"it is an open shell: {counted(sewing.NbFreeEdges(), 'edge has', 'edges have')} a "
            "face on one side only",
            where="near x {:.2f}, y {:.2f}, z {:.2f}".format(*spot),
            fix="Export the part as a closed solid body",
            spot=spot,
        )
    walk = TopExp_Explorer(sewing.SewedShape(), TopAbs_SHELL)
    solid = BRepBuilderAPI_MakeSolid(TopoDS.Shell_s(walk.Current())).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def _entry(label: Any) -> str:
    from OCP.TCollection import TCollection_AsciiString
    from OCP.TDF import TDF_Tool

    text = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, text)
    return str(text.ToCString())


def _find_leaves(
    label: Any, at: TopLoc_Location, leaves: dict[str, list[Frame]], labels: dict[str, Any]
) -> None:
    """Find what a label holds that is no assembly, and where each lies in the file's space."""
    if XCAFDoc_ShapeTool.IsReference_s(label):
        referred = TDF_Label()
        XCAFDoc_ShapeTool.GetReferredShape_s(label, referred)
        there = at.Multiplied(XCAFDoc_ShapeTool.GetLocation_s(label))
        _find_leaves(referred, there, leaves, labels)
        return
    if XCAFDoc_ShapeTool.IsAssembly_s(label):
        components = TDF_LabelSequence()
        XCAFDoc_ShapeTool.GetComponents_s(label, components)
        for i in range(components.Length()):
            _find_leaves(components.Value(i + 1), at, leaves, labels)
        return
    key = _entry(label)
    labels[key] = label
    leaves.setdefault(key, []).append(_frame(at))


def _frame(at: TopLoc_Location) -> Frame:
    moved = at.Transformation()
    rows = [[moved.Value(row, column) for column in (1, 2, 3, 4)] for row in (1, 2, 3)]
    x, y, z, origin = ((a, b, c) for a, b, c in zip(*rows, strict=True))
    return Frame(origin=origin, x=x, y=y, z=z)


def _solids(label: Any, places: tuple[Frame, ...], *, fallback: str) -> list[Product]:
    """Return the solids of a label."""
    name = _name(label) or fallback
    shapes = _explored(XCAFDoc_ShapeTool.GetShape_s(label), TopAbs_SOLID)
    if len(shapes) == 1:
        return [Product(name, places, shapes[0])]
    return [Product(f"{name}-{i}", places, s) for i, s in enumerate(shapes, start=1)]


def _surfaces(labels: list[Any], name: str) -> list[Product]:
    """Return all surfaces of a file without solids as one product: its skin may be in pieces."""
    skin, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(skin)
    for label in labels:
        for face in _explored(XCAFDoc_ShapeTool.GetShape_s(label), TopAbs_FACE):
            builder.Add(skin, face)
    return [Product(name, (IN_PLACE,), skin)] if _explored(skin, TopAbs_FACE) else []


def _explored(shape: Any, kind: Any) -> list[Any]:
    walk, out = TopExp_Explorer(shape, kind), []
    while walk.More():
        out.append(walk.Current())
        walk.Next()
    return out


def _name(label: Any) -> str:
    attribute = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), attribute):
        return ""
    return str(attribute.Get().ToExtString()).strip()
