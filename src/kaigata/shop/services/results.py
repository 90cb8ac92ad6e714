"""How reading an order's files went: a row for each part, for the morning after many were given."""

from __future__ import annotations

from kaigata.core.metal.tables import csv_text
from kaigata.shop.models import Order, OrderLine, Part
from kaigata.shop.services.blanks import document_of

__all__ = ["results_table"]

_COLUMNS = (
    "part", "file", "result", "pieces", "material", "thickness", "width", "height", "bends",
    "holes", "findings", "why", "where", "what_to_do",
)  # fmt: skip
_RESULTS = {
    Part.State.READING: "being read",
    Part.State.ASKING: "left open",
    Part.State.REFUSED: "failed",
}


def results_table(order: Order) -> str:
    """Return a row for each part as CSV, mm: done, done with findings, or failed and why."""
    return csv_text(_COLUMNS, (_row(line) for line in order.lines.with_blanks()))


def _row(line: OrderLine) -> list[object]:
    part = line.part
    head = [part.name, part.source.name]
    wanted = [line.quantity, line.material.name if line.material else ""]
    thick = f"{part.thickness:g}" if part.thickness else ""
    if part.state != Part.State.READY:
        blank = [thick, "", "", "", "", ""]
        return [*head, _RESULTS[part.state], *wanted, *blank, part.what, part.where, part.fix]
    document = document_of(part.blank)
    texts = "; ".join(f.text for f in document.findings)
    sizes = [f"{document.width:.2f}", f"{document.height:.2f}"]
    counts = [len(document.bends), len(document.holes)]
    result = "done with findings" if texts else "done"
    return [*head, result, *wanted, thick, *sizes, *counts, texts, "", "", ""]
