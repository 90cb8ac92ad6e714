"""Unfold anew what an older Kaigata unfolded, so that its blanks know all that is shown now."""

from __future__ import annotations

from django.core.management.base import BaseCommand

from kaigata.shop.models import Part
from kaigata.shop.services.blanks import unfold_part

__all__ = ["Command"]


class Command(BaseCommand):
    """Unfold parts whose bends do not say their place, or run on over what the flat alone is cut.

    The chart they were unfolded with stays.
    """

    help = "Unfold anew what an older version unfolded."

    def handle(self, **options: object) -> None:
        """Do it."""
        parts = Part.objects.filter(state=Part.State.READY).select_related("line__material")
        for part in parts.select_related("blank"):
            document = part.blank.document
            is_uncut = part.blank.flat_cutouts and "flat_only" not in document
            if is_uncut or any("place" not in bend for bend in document["bends"]):
                unfold_part(part)
