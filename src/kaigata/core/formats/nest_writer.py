"""Writing a nest: nest.json, a drawing and a picture of each sheet, and the report."""

from __future__ import annotations

from pathlib import Path

from kaigata.core.formats.documents import NestDocument
from kaigata.core.formats.nest_files import sheet_dxf
from kaigata.core.formats.report import nest_report
from kaigata.core.formats.svg import sheet_svg
from kaigata.core.nest import Nest, NestOrder

__all__ = ["write_nest"]


def write_nest(
    document: NestDocument, nest: Nest, order: NestOrder, folder: Path, *, title: str
) -> list[str]:
    """Write a nest's files into a folder and return their names."""
    files = {"nest.json": document.model_dump_json(by_alias=True, indent=1) + "\n"}
    for sheet in nest.sheets:
        files[f"sheet-{sheet.number}.dxf"] = sheet_dxf(order, sheet).text()
        files[f"sheet-{sheet.number}.svg"] = sheet_svg(order, sheet)
    files["report.html"] = nest_report(order, nest, title=title)
    for name, text in files.items():
        (folder / name).write_text(text, encoding="utf-8")
    return list(files)
