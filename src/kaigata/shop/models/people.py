"""What people may do, and the trail of what they did."""

from django.conf import settings
from django.db import models

from kaigata.shop.models.orders import Order


class Deed(models.Model):
    """Something a person did: in words, what it was done to, and the order it belongs to.

    ``about`` and ``order_number`` stay when the thing itself is gone.
    """

    at = models.DateTimeField(auto_now_add=True, db_index=True)
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT, related_name="deeds")
    what = models.CharField(max_length=200)
    about = models.CharField(max_length=200, blank=True)
    order = models.ForeignKey(Order, models.SET_NULL, null=True, related_name="deeds")
    order_number = models.CharField(max_length=60, blank=True)

    class Meta:
        """The newest first."""

        ordering = ("-pk",)

    def __str__(self) -> str:
        """Return what was done to what."""
        return f"{self.what} {self.about}".strip()
