"""Orders, rules and checked programs for the tests of cutting."""

import json

from kaigata.core.cut import Wishes, find_post, tool_path
from kaigata.core.formats.cut_files import cut_document, proved_program, write_cut
from kaigata.core.formats.documents import OrderDocument
from kaigata.core.formats.nest_files import nest_document, order_from_document
from kaigata.core.metal.stores import cut_row, standard_cut_chart
from kaigata.core.nest import NestedSheet, NestOrder, NestPart, Placement, StockSheet
from kaigata.core.nest.figures import measured
from kaigata.core.plane import Contour, Motion, Region
from tests.checks import checked


def rules(process, thickness=1.5):
    return cut_row(standard_cut_chart(), process=process, material=None, thickness=thickness)


def small_order(spacing=5.0):
    hole = Contour.circle((30, 30), 8).reversed()
    slit = Contour.rectangle(20, 0.15).moved(Motion(x=10, y=70)).reversed()
    region = Region(Contour.rectangle(100, 100), (hole, slit))
    sheet = StockSheet(id="s", width=500, height=300, count=1, thickness=1.5)
    part = NestPart(id="plate", quantity=2, region=region, thickness=1.5)
    return NestOrder(sheets=(sheet,), parts=(part,), spacing=spacing, margin=10.0)


PLATE = {"outer": [[0, 0], [100, 0], [100, 60], [0, 60]], "holes": []}
BENT = [{"lines": [[[40, 0], [40, 60]]], "angle": 90, "direction": "up"}]


class Laid:
    """An order whose parts lie where a test wants them, cut and checked."""

    def __init__(self, parts, placements, sheet=(500, 300)):
        self.document = OrderDocument.model_validate(
            {
                "spacing": 0,
                "margin": 0,
                "sheets": [{"id": "s", "width": sheet[0], "height": sheet[1], "thickness": 1.5}],
                "parts": [{"id": name, "thickness": 1.5, "quantity": 20, **shape}
                          for name, shape in parts.items()],
            }
        )  # fmt: skip
        self.order = order_from_document(self.document, None)
        counts = {}
        laid = []
        for part, x, y, *turn in placements:
            counts[part] = counts.get(part, 0) + 1
            laid.append(Placement(part=part, copy=counts[part], x=x, y=y, turn=sum(turn, 0.0)))
        self.nest = measured(self.order, [("s", tuple(laid))])
        self.sheet: NestedSheet = self.nest.sheets[0]

    def path(self, row, **wishes):
        return tool_path(self.order, self.sheet, row, Wishes(**wishes))

    def program(self, path, post="plain"):
        known = find_post(post) if isinstance(post, str) else post
        return proved_program(path, self.order, self.sheet, known)

    def check(self, path, folder, *words, post="plain"):
        """Write the program and return what the independent checker says of it."""
        programs = [self.program(path, post)]
        folder.mkdir(exist_ok=True)
        write_cut(programs, cut_document("laser", programs), folder)
        (folder / "order.json").write_text(self.document.model_dump_json(by_alias=True))
        text = nest_document(self.nest, self.document, self.order).model_dump_json(by_alias=True)
        (folder / "nest.json").write_text(text)
        for drawing in folder.glob("*.path.dxf"):
            assert checked("dxf_check.py", drawing).startswith("ok")
        return checked(
            "gcode_check.py", folder / "nest.json", folder / "order.json", folder,
            "--kerf", path.rules.kerf, *words,
        )  # fmt: skip

    @staticmethod
    def cut_json(folder):
        return json.loads((folder / "cut.json").read_text())["sheets"][0]
