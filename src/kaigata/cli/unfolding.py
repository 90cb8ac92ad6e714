"""The options of unfolding, which the words ``blank`` and ``packet`` share."""

from __future__ import annotations

from collections.abc import Callable
from functools import wraps
from pathlib import Path

import click

from kaigata.cli.options import PATH
from kaigata.core.blank import FaceUp
from kaigata.core.metal.allowance import check_factor
from kaigata.core.packet.unfolding import UnfoldChoice

__all__ = ["unfold_options"]

_MM_OF_UNIT = {"mm": 1.0, "in": 25.4}

_OPTIONS = (
    click.option("--k", type=float, help="Neutral-axis factor of every bend; 0.44 if not said."),
    click.option("--material", help="Material of the shop data, for its thicknesses and chart."),
    click.option("--bend-chart", type=PATH, help="Bend chart to use instead, as CSV."),
    click.option("--anchor", type=int, default=1, help="Number of the panel that stays put."),
    click.option("--face-up", type=click.Choice([f.value for f in FaceUp]), default="as-modelled"),
    click.option(
        "--units", type=click.Choice(list(_MM_OF_UNIT)), help="One unit of a drawing without."
    ),
)


def unfold_options(function: Callable[..., int]) -> Callable[..., int]:
    """Add the options of unfolding; the command gets them as one ``choice()`` to call.

    It is called where errors are told with the input's name.
    """

    @wraps(function)
    def wrapped(
        *args: object,
        k: float | None,
        material: str | None,
        bend_chart: Path | None,
        anchor: int,
        face_up: str,
        units: str | None,
        **others: object,
    ) -> int:
        def choice() -> UnfoldChoice:
            return UnfoldChoice(
                k=None if k is None else check_factor(k),
                material=material,
                bend_chart=bend_chart,
                anchor=anchor,
                face_up=FaceUp(face_up),
                unit=_MM_OF_UNIT[units] if units else None,
            )

        return function(*args, choice=choice, **others)

    decorated: Callable[..., int] = wrapped
    for option in reversed(_OPTIONS):
        decorated = option(decorated)
    return decorated
