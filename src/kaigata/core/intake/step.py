"""STEP files: products, instances and their solids, through the geometry kernel."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from OCP.IFSelect import IFSelect_RetDone
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_LabelSequence
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_SOLID
from OCP.TopExp import TopExp_Explorer
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from kaigata.core.errors import InputError
from kaigata.core.intake.kernel import Solid
from kaigata.core.intake.recognise import folded_part
from kaigata.core.part import FoldedPart

__all__ = ["Product", "read_step", "read_step_parts"]


@dataclass(frozen=True, slots=True)
class Product:
    """A solid of a file with its name and how often it occurs."""

    name: str
    quantity: int
    shape: Any


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
    leaves: Counter[str] = Counter()
    labels: dict[str, Any] = {}
    for i in range(free.Length()):
        _count_leaves(free.Value(i + 1), leaves, labels)
    products = [
        product
        for key, quantity in leaves.items()
        for product in _solids(labels[key], quantity, fallback=path.stem)
    ]
    if not products:
        raise InputError(
            "it holds no solid, only open surfaces or nothing",
            where=path.name,
            fix="Export the part as a solid body",
        )
    if len(products) == 1:
        only = products[0]
        return [Product(path.stem, only.quantity, only.shape)]
    return products


def read_step_parts(path: Path) -> list[tuple[str, int, FoldedPart | InputError]]:
    """Return for each distinct solid its name, quantity, and the folded part or why it is none.

    Raises
    ------
    InputError
        The file as a whole cannot be used.
    """
    out: list[tuple[str, int, FoldedPart | InputError]] = []
    for product in read_step(path):
        try:
            part: FoldedPart | InputError = folded_part(Solid(product.shape), product.name)
        except InputError as error:
            part = error
        out.append((product.name, product.quantity, part))
    return out


def _entry(label: Any) -> str:
    from OCP.TCollection import TCollection_AsciiString
    from OCP.TDF import TDF_Tool

    text = TCollection_AsciiString()
    TDF_Tool.Entry_s(label, text)
    return str(text.ToCString())


def _count_leaves(label: Any, leaves: Counter[str], labels: dict[str, Any]) -> None:
    if XCAFDoc_ShapeTool.IsReference_s(label):
        referred = TDF_Label()
        XCAFDoc_ShapeTool.GetReferredShape_s(label, referred)
        _count_leaves(referred, leaves, labels)
        return
    if XCAFDoc_ShapeTool.IsAssembly_s(label):
        components = TDF_LabelSequence()
        XCAFDoc_ShapeTool.GetComponents_s(label, components)
        for i in range(components.Length()):
            _count_leaves(components.Value(i + 1), leaves, labels)
        return
    key = _entry(label)
    labels[key] = label
    leaves[key] += 1


def _solids(label: Any, quantity: int, *, fallback: str) -> list[Product]:
    name = _name(label) or fallback
    walk = TopExp_Explorer(XCAFDoc_ShapeTool.GetShape_s(label), TopAbs_SOLID)
    shapes = []
    while walk.More():
        shapes.append(walk.Current())
        walk.Next()
    if len(shapes) == 1:
        return [Product(name, quantity, shapes[0])]
    return [Product(f"{name}-{i}", quantity, s) for i, s in enumerate(shapes, start=1)]


def _name(label: Any) -> str:
    attribute = TDataStd_Name()
    if not label.FindAttribute(TDataStd_Name.GetID_s(), attribute):
        return ""
    return str(attribute.Get().ToExtString()).strip()
