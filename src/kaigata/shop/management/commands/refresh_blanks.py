"""Unfold anew what an older Kaigata unfolded, so that its blanks know all that is shown now."""

from __future__ import annotations

from django.core.management.base import BaseCommand

from kaigata.shop.models import Part
from kaigata.shop.services.blanks import unfold_part

__all__ = ["Command"]


class Command(BaseCommand):
    """Unfold parts whose bends do not say their place; the chart they were unfolded with stays."""

    help = "Unfold anew what an older version unfolded."

    def handle(self, **options: object) -> None:
        """Do it."""
        parts = Part.objects.filter(state=Part.State.READY).select_related("line__material")
        for part in parts.select_related("blank"):
            bends = part.blank.document["bends"]
            if any("place" not in bend for bend in bends):
                unfold_part(part)
