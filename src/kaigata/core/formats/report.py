"""The nest report: one HTML file that works on its own and prints."""

from __future__ import annotations

import csv
import io
import math
from collections import Counter
from html import escape

from kaigata.core.findings import counted
from kaigata.core.formats.documents import CutDocument
from kaigata.core.formats.svg import sheet_svg
from kaigata.core.nest import Nest, NestOrder, remnants_of

__all__ = ["nest_csv", "nest_report"]

_STYLE = """
body{font:14px/1.45 Barlow,"Segoe UI",Arial,sans-serif;color:#1F272B;background:#FCFBF7;
max-width:1000px;margin:24px auto;padding:0 16px}
h1{font-size:22px;margin:0 0 2px}h2{font-size:16px;margin:24px 0 6px;
border-top:1px solid #C9CFCC;padding-top:10px}
p{margin:2px 0;color:#5E6B70}table{border-collapse:collapse;margin:8px 0}
th{font-weight:500;color:#5E6B70;text-align:left}th,td{padding:3px 18px 3px 0;
border-bottom:1px solid #C9CFCC}td.n,th.n{text-align:right;
font-family:"IBM Plex Mono",Consolas,monospace;font-variant-numeric:tabular-nums}
svg{width:100%;border:1px solid #C9CFCC}.bad{color:#A3262A}
@media print{h2{break-before:auto}section{break-inside:avoid}}
"""


def nest_csv(order: NestOrder, nest: Nest) -> str:
    """Return every placement as CSV: sheet, part, copy, place in mm, turn in degrees."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(["sheet", "stock sheet", "part", "copy", "x", "y", "turn", "mirrored"])
    for sheet in nest.sheets:
        for p in sheet.placements:
            rows.writerow(
                [
                    sheet.number,
                    sheet.sheet,
                    p.part,
                    p.copy,
                    round(p.x, 4),
                    round(p.y, 4),
                    round(math.degrees(p.turn) % 360, 4),
                    "yes" if p.mirrored else "no",
                ]
            )
    for u in nest.unplaced:
        rows.writerow(["", "", u.part, f"{u.quantity} did not fit", "", "", "", u.why])
    return out.getvalue()


def nest_report(order: NestOrder, nest: Nest, *, title: str, cut: CutDocument | None = None) -> str:
    """Return the report of a nest: figures, stock used, parts, every sheet's picture."""
    parts = [
        _heading(nest, title),
        _left_out(nest),
        _parts(order, nest),
        _stock(order, nest),
        _remnants(order, nest),
        *(_sheet(order, nest, i, cut) for i in range(len(nest.sheets))),
    ]
    return (
        f'<!doctype html><html lang="en"><head><meta charset="utf-8"><title>{escape(title)}</title>'
        f"<style>{_STYLE}</style></head><body>{''.join(parts)}</body></html>\n"
    )


def _heading(nest: Nest, title: str) -> str:
    n = len(nest.sheets)
    return (
        f"<h1>{escape(title)}</h1><p>{nest.utilisation:.1%} of the metal used on {n} "
        f"sheet{'s' if n != 1 else ''}, {nest.counted_area / 1e6:.3f} m² counted</p>"
    )


def _left_out(nest: Nest) -> str:
    if not nest.unplaced:
        return ""
    rows = "".join(
        f'<tr><td>{escape(u.part)}</td><td class="n">{u.quantity}</td><td>{escape(u.why)}</td></tr>'
        for u in nest.unplaced
    )
    return (
        '<h2 class="bad">Did not fit</h2><table><tr><th>Part</th><th class="n">Copies</th>'
        f"<th>Why</th></tr>{rows}</table>"
    )


def _parts(order: NestOrder, nest: Nest) -> str:
    placed = Counter(p.part for s in nest.sheets for p in s.placements)
    rows = "".join(
        f'<tr><td>{escape(p.id)}</td><td class="n">{p.quantity}</td>'
        f'<td class="n">{placed[p.id]}</td><td class="n">{p.region.area / 1e6:.4f}</td></tr>'
        for p in order.parts
    )
    return (
        '<h2>Parts</h2><table><tr><th>Part</th><th class="n">Ordered</th><th class="n">Placed</th>'
        f'<th class="n">Net area, m²</th></tr>{rows}</table>'
    )


def _stock(order: NestOrder, nest: Nest) -> str:
    used = Counter(s.sheet for s in nest.sheets)
    rows = "".join(
        f'<tr><td>{escape(s.id)}</td><td class="n">{s.width:g} × {s.height:g}</td>'
        f'<td class="n">{used[s.id]}</td><td class="n">'
        f"{'any' if s.count is None else s.count - used[s.id]}</td></tr>"
        for s in order.sheets
        if used[s.id]
    )
    return (
        '<h2>Stock used</h2><table><tr><th>Sheet</th><th class="n">Size, mm</th>'
        f'<th class="n">Used</th><th class="n">Left</th></tr>{rows}</table>'
    )


def _remnants(order: NestOrder, nest: Nest) -> str:
    left = remnants_of(order, nest)
    if not left:
        return ""
    rows = "".join(
        f'<tr><td>{escape(r.sheet)}</td><td class="n">{r.number}</td>'
        f'<td class="n">{r.width:g} × {r.height:g}</td></tr>'
        for r in left
    )
    return (
        '<h2>Remnants left</h2><table><tr><th>Of sheet</th><th class="n">No.</th>'
        f'<th class="n">Size, mm</th></tr>{rows}</table>'
    )


def _sheet(order: NestOrder, nest: Nest, index: int, cut: CutDocument | None) -> str:
    sheet = nest.sheets[index]
    done = next((c for c in cut.sheets if c.number == sheet.number), None) if cut else None
    times = (
        f" · cut {done.cut_length:.0f} mm, {counted(done.pierces, 'pierce')}, "
        f"{done.seconds / 60:.1f} min"
        if done
        else ""
    )
    return (
        f"<section><h2>Sheet {sheet.number} · {escape(sheet.sheet)}</h2>"
        f"<p>{counted(len(sheet.placements), 'part')}, {sheet.utilisation:.1%} of the sheet, "
        f"used length {sheet.used_length:.1f} mm{times}</p>{sheet_svg(order, sheet)}</section>"
    )
