"""The Django app."""

from django.apps import AppConfig


class ShopConfig(AppConfig):
    """The shop: its records and its work."""

    name = "kaigata.shop"
    label = "shop"
    default_auto_field = "django.db.models.BigAutoField"

    def ready(self) -> None:
        """Make the background tasks known to the queue."""
        from kaigata.shop import tasks  # noqa: F401
