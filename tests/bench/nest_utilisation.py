"""Utilisation over time on the open instances, beside the area bound: printed, never asserted.

PYTHONPATH=src:. python tests/bench/nest_utilisation.py [--time 10] [ORDER.json ...]
"""

import argparse
import math
import sys
import tempfile
import time
from pathlib import Path

from tests.checks import NEST, checked

from kaigata.core.formats.documents import OrderDocument, load_document
from kaigata.core.formats.nest_files import nest_document, order_from_document
from kaigata.core.nest import search


def row(path, seconds, workers):
    document = load_document(path, OrderDocument)
    order = order_from_document(document, path.parent)
    seen = []
    began = time.perf_counter()
    nest = search(order, seconds=seconds, workers=workers, on_better=seen.append)
    took = time.perf_counter() - began
    net = math.fsum(p.region.area * p.quantity for p in order.parts)
    with tempfile.TemporaryDirectory() as folder:
        out = Path(folder) / "nest.json"
        out.write_text(nest_document(nest, document, order).model_dump_json(by_alias=True))
        verdict = checked("nest_check.py", path, out).split()[0]
    sys.stdout.write(
        f"{path.stem:14} first {seen[0].nest.utilisation:.4f} at {seen[0].seconds:5.1f} s  "
        f"best {nest.utilisation:.4f} after {took:5.1f} s  left out {nest.left_out:3}  "
        f"net {net / 1e6:6.2f} m2  {verdict}\n"
    )
    sys.stdout.flush()


if __name__ == "__main__":
    words = argparse.ArgumentParser()
    words.add_argument("--time", type=float, default=10.0)
    words.add_argument("--workers", type=int, default=2)
    words.add_argument("orders", nargs="*", type=Path)
    asked = words.parse_args()
    for order_path in asked.orders or sorted(NEST.glob("*.json")):
        row(order_path, asked.time, asked.workers)
