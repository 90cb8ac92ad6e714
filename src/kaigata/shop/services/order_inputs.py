"""What the stations of an order rest on: a digest of each thing by its name.

What was made keeps them as they were then, so that a change shows what it makes stale, and why.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from functools import cached_property

from django.db.models import QuerySet

from kaigata.core.formats.documents import CutChoice
from kaigata.shop.models import CutRow, CutRun, Nest, Order, OrderLine, Part, Post, ShopLettering
from kaigata.shop.services.digests import digest

__all__ = ["OrderInputs", "cut_runs", "cut_settings"]


def cut_settings(order: Order, process: str | None = None) -> dict[str, object]:
    """Return all settings an order is cut by, or would be by another process."""
    given = {"process": "laser", "post": "plain", **order.cut_choice}
    choice = CutChoice.model_validate({**given, "process": process or given["process"]})
    return choice.model_dump(mode="json")


def cut_runs(order: Order, settings: dict[str, object]) -> QuerySet[CutRun]:
    """Return the runs that cut an order by some settings, newest first."""
    return CutRun.objects.filter(order=order, settings=settings)


class _Shop:
    """What the orders of the shop rest on in common, each read once when it is asked for."""

    @cached_property
    def lettering(self) -> str:
        """How drawings are lettered; nothing where the shop has not said."""
        kept = ShopLettering.objects.first()
        return digest(kept.values) if kept else ""

    def chart(self, process: object) -> str:
        """Return the cut chart of a process."""
        return digest([row for row in self._chart if row["process"] == process])

    def post(self, name: object) -> str:
        """Return a post of the shop's own; as nothing where it has none of that name."""
        return digest({"document": self._posts[name]} if name in self._posts else None)

    @cached_property
    def _chart(self) -> list[dict[str, object]]:
        return [{k: v for k, v in row.items() if k != "id"} for row in CutRow.objects.values()]

    @cached_property
    def _posts(self) -> dict[object, object]:
        return dict(Post.objects.values_list("name", "document"))


class OrderInputs:
    """What an order rests on, as it was when this was read: ``of`` one order or ``each`` of some.

    Attributes
    ----------
    lines : list of OrderLine
        Its lines, light.
    nest_digest : str
        The digest of its nest; nothing where there is none.
    """

    def __init__(self, order: Order, lines: list[OrderLine], nest_digest: str, shop: _Shop) -> None:
        self._order, self._shop = order, shop
        self.lines, self.nest_digest = lines, nest_digest

    @classmethod
    def of(cls, order: Order) -> OrderInputs:
        """Read what an order rests on."""
        return cls.each([order])[0]

    @classmethod
    def each(cls, orders: Sequence[Order]) -> list[OrderInputs]:
        """Read what each of some orders rests on, in as few questions as one takes."""
        shop, lines, digests = _Shop(), _lines_of(orders), _nest_digests(orders)
        return [cls(o, lines[o.pk], digests.get(o.pk, ""), shop) for o in orders]

    @property
    def parts(self) -> dict[str, str]:
        """The file and the quantity of each part."""
        return {line.part.name: digest([line.part.source_id, line.quantity]) for line in self.lines}

    @cached_property
    def blanks(self) -> dict[str, str]:
        """The blank of each ready part, its quantity and gauge."""
        return {
            line.part.name: digest([line.part.blank.digest, line.quantity])
            for line in self.lines
            if line.part.state == Part.State.READY
        }

    @cached_property
    def nest(self) -> dict[str, str]:
        """What a nest rests on: the blanks, the rules of the order and of single parts."""
        return {
            **self.blanks,
            "nest rules": digest(self._order.nest_rules),
            **{
                f"nest rules of {line.part.name}": digest(own)
                for line in self.lines
                if any(own := [line.priority, line.is_filler, line.may_mirror])
            },
        }

    def cut(self, settings: dict[str, object]) -> dict[str, str]:
        """Return what the paths rest on, but for the run that made them."""
        return {
            **self.nest,
            "nest": self.nest_digest,
            "cut settings": digest(settings),
            "cut chart": self._shop.chart(settings.get("process", "laser")),
            "post": self._shop.post(settings.get("post", "plain")),
            "paths by hand": digest(self._order.cut_by_hand),
        }

    def packet(self, settings: dict[str, object]) -> dict[str, str]:
        """Return what a packet rests on: what its paths do, and how drawings are lettered."""
        lettering = self._shop.lettering
        return {
            **self.cut(settings),
            **({"lettering of drawings": lettering} if lettering else {}),
            **{
                f"drawing of {line.part.name}": digest(line.part.blank.markup)
                for line in self.lines
                if line.part.state == Part.State.READY and line.part.blank.markup
            },
        }


def _lines_of(orders: Sequence[Order]) -> dict[int, list[OrderLine]]:
    lines = defaultdict[int, list[OrderLine]](list)
    for line in OrderLine.objects.filter(order__in=orders).light():
        lines[line.order_id].append(line)
    return lines


def _nest_digests(orders: Sequence[Order]) -> dict[int, str]:
    """Return the digests of the nests of orders by their keys: of the chosen ones, else newest."""
    chosen = {o.pk: o.chosen_run_id for o in orders}
    nests = Nest.objects.filter(run__order__in=orders).order_by("run_id")
    return {
        order: digest_of
        for order, run, digest_of in nests.values_list("run__order_id", "run_id", "digest")
        if chosen[order] in (None, run)
    }
