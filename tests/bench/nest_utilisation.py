"""Utilisation over time on the open instances, beside bounds and plain yardsticks.

Printed, never asserted. The yardsticks: *boxes*, the parts' bounding boxes nested in their place;
*greedy*, true shapes, largest first; *optimum* where ``known_optima.json`` beside the order knows
it.

PYTHONPATH=src:. python tests/bench/nest_utilisation.py [--time 30] [--seeds 7,8,9] [ORDER.json ...]
"""

import argparse
import json
import sys
import tempfile
import time
from collections import Counter
from dataclasses import replace
from pathlib import Path

from tests.checks import NEST, checked

from kaigata.core.checked import load_document
from kaigata.core.formats.documents import OrderDocument
from kaigata.core.formats.nest_files import nest_document, order_from_document
from kaigata.core.nest import search
from kaigata.core.nest.bench import Bench, Layout
from kaigata.core.nest.figures import Unplaced, measured
from kaigata.core.nest.plans import build, first_plan
from kaigata.core.plane import Contour, Motion, Region


def boxed(order):
    """The order with every part as its bounding box."""

    def box(part):
        x0, y0, x1, y1 = part.region.outer.bounds
        corner = Contour.rectangle(x1 - x0, y1 - y0).moved(Motion(x=x0, y=y0))
        return replace(part, region=Region(corner))

    return replace(order, parts=tuple(box(p) for p in order.parts))


def greedy(order):
    """The order filled once, gauge by gauge, by the usual plan: true shapes, largest first."""
    filled, missing = [], []
    for gauge in order.gauges:
        parts = [p for p in order.parts if p.gauge == gauge]
        bench = Bench(order, parts, [s for s in order.sheets if s.gauge == gauge])
        layout = build(bench, first_plan(bench), Layout((), Counter()), lambda: False)
        filled += [(x.sheet, bench.placements(x)) for x in layout.loads]
        missing += [Unplaced(part=bench.parts[k - bench.first].id, quantity=n, why="")
                    for k, n in layout.left_out.items()]  # fmt: skip
    return measured(order, filled, missing)


def net_share(order, nest):
    """Utilisation of a nest of boxes, counted with the true parts' area."""
    area = {p.id: p.region.area for p in order.parts}
    net = sum(area[p.part] for s in nest.sheets for p in s.placements)
    return net / nest.counted_area if nest.counted_area else 0.0


def known_optimum(path):
    known = path.with_name("known_optima.json")
    if not known.exists():
        return ""
    best = json.loads(known.read_text()).get(path.stem)
    return f"  optimum {best['utilisation']:.4f}" if best else ""


def row(path, seconds, workers, seed):
    document = load_document(path, OrderDocument)
    order = order_from_document(document, path.parent)
    seen = []
    began = time.perf_counter()
    nest = search(order, seconds=seconds, seed=seed, workers=workers, on_better=seen.append)
    took = time.perf_counter() - began
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "nest.json"
        out.write_text(nest_document(nest, document, order).model_dump_json(by_alias=True))
        verdict = checked("nest_check.py", path, out).split()[0]
    boxes = net_share(order, search(boxed(order), steps=1))
    plain = greedy(order)
    curve = " ".join(
        f"{s.seconds:.0f}s:{s.nest.utilisation:.3f}" for s in seen[:: max(1, len(seen) // 6)]
    )
    sys.stdout.write(
        f"{path.stem:14} seed {seed}  boxes {boxes:.3f}  greedy {plain.utilisation:.4f}  "
        f"first {seen[0].nest.utilisation:.4f} at {seen[0].seconds:5.2f} s  "
        f"best {nest.utilisation:.4f} after {took:5.1f} s  left out "
        f"{nest.left_out:3}  {verdict}{known_optimum(path)}  {curve}\n"
    )
    sys.stdout.flush()


if __name__ == "__main__":
    words = argparse.ArgumentParser()
    words.add_argument("--time", type=float, default=10.0)
    words.add_argument("--workers", type=int, default=2)
    words.add_argument("--seeds", default="7")
    words.add_argument("orders", nargs="*", type=Path)
    asked = words.parse_args()
    for order_path in asked.orders or sorted(NEST.glob("*.json")):
        for chosen in asked.seeds.split(","):
            row(order_path, asked.time, asked.workers, int(chosen))
