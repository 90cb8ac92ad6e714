"""Who may do what over HTTP: whoever is signed in may look, the rest needs a right."""

from __future__ import annotations

from rest_framework.permissions import SAFE_METHODS, IsAuthenticated
from rest_framework.request import Request

from kaigata.shop.services.people import require

__all__ = ["MayDo"]


class MayDo(IsAuthenticated):
    """A view names the right its changes need as ``right``; else it is that to plan.

    One whose ``right`` is None only has something made to be looked at.
    """

    def has_permission(self, request: Request, view: object) -> bool:
        """Whether the request may be done; one that needs a right nobody gave is told which."""
        if not super().has_permission(request, view):
            return False
        right = getattr(view, "right", "plan")
        if request.method not in SAFE_METHODS and right is not None:
            require(request.user, right)
        return True
