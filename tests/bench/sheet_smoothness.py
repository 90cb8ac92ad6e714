"""Frames a second while a sheet of many parts is panned and zoomed: printed, never asserted.

PYTHONPATH=src:. python tests/bench/sheet_smoothness.py [COPIES [cut]]

With ``cut`` the paths of the sheet are planned first and the Cut station is measured.

It brings up a server and a browser without a screen, which draws everything on the processor: a
browser with a graphics card is faster.
"""

import json
import os
import sys
from pathlib import Path

from tests.checks import DATA

from kaigata.core.formats.documents import OrderDocument
from kaigata.core.formats.nest_files import nest_document, order_from_document
from kaigata.core.nest import search
from kaigata.house.database import Cluster, port_is_free
from kaigata.house.shots import open_browser, sign_in
from kaigata.house.stage import Stage, manage

MOVE = """
const [kind, done] = arguments
const svg = document.querySelector('svg.sheet')
const box = svg.getBoundingClientRect()
const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
const at = { clientX: x, clientY: y, bubbles: true, cancelable: true, view: window }
const frames = []
let n = 0
if (kind === 'pan') svg.dispatchEvent(new MouseEvent('mousedown', at))
function next(now) {
  frames.push(now)
  n += 1
  if (kind === 'pan') {
    const to = { ...at, clientX: x + 80 * Math.sin(n / 8) }
    window.dispatchEvent(new MouseEvent('mousemove', to))
  } else {
    const deltaY = n % 60 < 30 ? -30 : 30
    svg.dispatchEvent(new WheelEvent('wheel', { ...at, deltaY }))
  }
  if (n < 120) return requestAnimationFrame(next)
  if (kind === 'pan') window.dispatchEvent(new MouseEvent('mouseup', at))
  done((1000 * (frames.length - 1)) / (frames.at(-1) - frames[0]))
}
requestAnimationFrame(next)
"""


def document_of(copies: int) -> OrderDocument:
    """An order whose copies all lie on one sheet."""
    known = json.loads((DATA / "nest" / "mix-200.json").read_text())
    had = sum(p["quantity"] for p in known["parts"])
    for part in known["parts"]:
        part["quantity"] = max(1, round(part["quantity"] * copies / had))
    side = 1250 * (copies / 60) ** 0.5
    known["sheets"] = [{**known["sheets"][0], "width": 2 * side, "height": side, "count": 1}]
    return OrderDocument.model_validate(known)


def put_into(address: str, copies: int, station: str) -> int:
    """Put a finished nest, and its paths for ``cut``, into the database; return its copies."""
    os.environ["KAIGATA_DATABASE"] = address
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "kaigata.shop.settings")
    os.environ.setdefault("KAIGATA_SECRET", "bench")
    import django

    django.setup()
    from kaigata.shop.models import CutRun, Nest, NestRun, Order
    from kaigata.shop.services.cutting import cut_order
    from kaigata.shop.services.order_inputs import cut_settings

    document = document_of(copies)
    order = order_from_document(document, Path())
    found = search(order, seconds=1.0, seed=7, workers=1)
    run = NestRun.objects.create(
        order=Order.objects.get(pk=1), state="done", settings={"order": document.model_dump()}
    )
    data = nest_document(found, document, order).model_dump(mode="json", by_alias=True)
    nest = Nest.objects.create(
        run=run, document=data, counted_area=found.counted_area, digest="bench"
    )
    if station == "cut":
        # Planned here: the server refuses a nest of other parts than the order's.
        settings = cut_settings(run.order)
        cut_order(CutRun.objects.create(order=run.order, nest=nest, settings=settings).pk)
    return sum(len(s.placements) for s in found.sheets)


def main(copies: int, station: str) -> None:
    """Measure and print."""
    cluster = Cluster("bench-postgres")
    cluster.start()
    stage = Stage(cluster.address("bench"), next(p for p in range(8600, 8700) if port_is_free(p)))
    try:
        cluster.make_database("bench", afresh=True)
        manage(stage.database, "migrate", "--verbosity", "0")
        manage(stage.database, "load_demo")
        placed = put_into(stage.database, copies, station)
        stage.start()
        browser = open_browser()
        try:
            sign_in(browser, stage.address)
            browser.get(f"{stage.address}/orders/1/{station}")
            browser.implicitly_wait(300)
            browser.find_element("css selector", "svg.sheet .part")
            if station == "cut":
                browser.find_element("css selector", "svg.sheet .pass")
            browser.set_script_timeout(120)
            for kind in ("pan", "zoom"):
                rate = browser.execute_async_script(MOVE, kind)
                sys.stdout.write(f"{placed} placements, {kind}: {rate:.0f} frames a second\n")
        finally:
            browser.quit()
    finally:
        stage.stop()
        cluster.stop()


if __name__ == "__main__":
    words = sys.argv[1:] or ["2000"]
    main(int(words[0]), "cut" if "cut" in words else "nest")
