"""How long planning and proving the paths of a nest takes, and how short its ways are.

PYTHONPATH=src:. python tests/bench/cut_planning.py [COPIES ...]

The ways are set beside a bound that no order can beat: the longer of a spanning tree and an
assignment of the pierces, as the checker reckons it. Printed, never asserted.
"""

import json
import sys
import time
from pathlib import Path

from tests.checks import DATA

from kaigata.core.cut import find_post, tool_path
from kaigata.core.formats.cut_files import proved_program
from kaigata.core.formats.documents import OrderDocument
from kaigata.core.formats.nest_files import order_from_document
from kaigata.core.metal.stores import cut_row, standard_cut_chart
from kaigata.core.nest import search
from kaigata.core.packet.cutting import CutOptions, cut_sheets
from kaigata.core.processes import CUTTING, begin_loading


def main(sizes: list[int]) -> None:
    """Measure and print."""
    row = cut_row(standard_cut_chart(), process="laser", material=None, thickness=1.5)
    known = json.loads((DATA / "nest" / "mix-200.json").read_text())
    quantities = [p["quantity"] for p in known["parts"]]
    for copies in sizes:
        for part, had in zip(known["parts"], quantities, strict=True):
            part["quantity"] = max(1, round(had * copies / sum(quantities)))
        known["sheets"] = [{**known["sheets"][0], "count": None}]
        order = order_from_document(OrderDocument.model_validate(known), Path())
        nest = search(order, seconds=0.1, seed=7)
        began = time.perf_counter()
        sheets = {s.number: s for s in nest.sheets}
        paths = [tool_path(order, s, row) for s in nest.sheets]
        planned = time.perf_counter() - began
        for path in paths:
            proved_program(path, order, sheets[path.number], find_post("plain"))
        proved = time.perf_counter() - began - planned
        began = time.perf_counter()
        list(cut_sheets(order, nest.sheets, CutOptions.chosen(None), title="bench"))
        whole = time.perf_counter() - began
        contours = sum(len(p.passes) for p in paths)
        rapid = sum(p.rapid_length for p in paths)
        sys.stdout.write(
            f"{contours} contours on {len(paths)} sheets: planned {planned:.1f} s, "
            f"proved {proved:.1f} s, both on all cores {whole:.1f} s, "
            f"rapid {rapid / contours:.1f} mm a contour\n"
        )


if __name__ == "__main__":
    begin_loading(CUTTING)
    main([int(a) for a in sys.argv[1:]] or [60, 270, 2700])
