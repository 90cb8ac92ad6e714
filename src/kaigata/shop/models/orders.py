"""Orders and what is on them: lines, parts, their blanks, and the route card's stamps."""

from __future__ import annotations

from pathlib import Path

from django.conf import settings
from django.db import models

from kaigata.core.intake import is_recipe
from kaigata.shop.models.stores import Material

__all__ = ["Blank", "Order", "OrderLine", "Part", "SourceFile", "Stamp"]


class SourceFile(models.Model):
    """A file as it was uploaded, kept once by the hash of its content."""

    sha256 = models.CharField(max_length=64, primary_key=True)
    name = models.CharField(max_length=200)
    size = models.PositiveIntegerField()
    content = models.BinaryField()

    def __str__(self) -> str:
        """Return the name it came with."""
        return self.name

    @property
    def is_recipe(self) -> bool:
        """Whether it is a fold recipe."""
        return is_recipe(Path(self.name))


class Order(models.Model):
    """An order: what travels with one route card.

    ``cut_by_hand`` is what hands have settled of a nest's paths: its digest under ``nest``, and by
    the number of a sheet under ``sheets`` the order of its contours and their pierces.
    """

    number = models.CharField(max_length=40, unique=True)
    title = models.CharField(max_length=120)
    customer = models.CharField(max_length=120, blank=True)
    yard = models.CharField(max_length=120, blank=True)
    due = models.DateField(null=True, blank=True)
    note = models.TextField(blank=True)
    nest_rules = models.JSONField(default=dict)
    cut_choice = models.JSONField(default=dict)
    cut_by_hand = models.JSONField(default=dict)
    chosen_run = models.ForeignKey(
        "NestRun", models.SET_NULL, null=True, blank=True, related_name="chosen_by"
    )
    created = models.DateTimeField(auto_now_add=True)

    class Meta:
        """Newest first."""

        ordering = ("-created", "-pk")

    def __str__(self) -> str:
        """Return number and title."""
        return f"{self.number} {self.title}"


class Part(models.Model):
    """A part read, or being read, from a file.

    ``shell`` holds the triangles of a refused solid and ``spot`` the place it was refused for.
    ``drawn`` is a drawing's flat, and ``given`` what people said of it: its unit, thickness and
    bends; such a part is ``asking`` until that is enough to unfold it. ``places`` has for each time
    that an assembly holds it where its frame lies there: its origin and three unit vectors; once it
    is revised alone that is not known any more. ``came_in`` is the file it first came in.
    """

    class State(models.TextChoices):
        """How far reading has come."""

        READING = "reading"
        ASKING = "asking"
        READY = "ready"
        REFUSED = "refused"

    name = models.CharField(max_length=120)
    source = models.ForeignKey(SourceFile, models.PROTECT)
    state = models.CharField(max_length=10, choices=State.choices, default=State.READING)
    what = models.TextField(blank=True)
    where = models.TextField(blank=True)
    fix = models.TextField(blank=True)
    spot = models.JSONField(null=True)
    shell = models.JSONField(null=True)
    folded = models.JSONField(null=True)
    drawn = models.JSONField(null=True)
    given = models.JSONField(default=dict)
    places = models.JSONField(default=list)
    came_in = models.CharField(max_length=64, default="")
    thickness = models.FloatField(null=True)
    attempts = models.PositiveSmallIntegerField(default=0)
    revision = models.PositiveSmallIntegerField(default=1)
    revision_fault = models.TextField(blank=True)

    def __str__(self) -> str:
        """Return the name."""
        return self.name


_LARGE = (
    "part__source__content",
    "part__folded",
    "part__shell",
    "part__blank__previous",
    "part__blank__chart",
    "part__blank__bend_rules",
)
_LESS_SO = ("part__drawn", "part__given", "part__blank__document")
"""Columns that may be megabytes; what is left out is read when it is asked for, part by part."""


class OrderLines(models.QuerySet["OrderLine"]):
    """Lines of orders, with all that is asked of many at once."""

    def light(self) -> OrderLines:
        """Return lines with their parts, blanks, files and materials, what is large left out."""
        return self.with_blanks().defer(*_LESS_SO)

    def with_blanks(self) -> OrderLines:
        """Return lines as ``light`` does, with the documents of blanks and what a drawing holds."""
        return self.select_related("part__blank", "part__source", "material").defer(*_LARGE)


class OrderLine(models.Model):
    """A part and how many of it an order wants; ``per_set`` of them are in one set of its file.

    How it is nested: of a higher ``priority`` nothing stays out for a part of a lower one; a
    ``is_filler`` part goes only where there is room left; ``may_mirror`` where it may be cut with
    its other face up.
    """

    order = models.ForeignKey(Order, models.CASCADE, related_name="lines")
    part = models.OneToOneField(Part, models.CASCADE, related_name="line")
    quantity = models.PositiveIntegerField(default=1)
    per_set = models.PositiveIntegerField(default=1)
    material = models.ForeignKey(Material, models.SET_NULL, null=True, blank=True)
    priority = models.SmallIntegerField(default=0)
    is_filler = models.BooleanField(default=False)
    may_mirror = models.BooleanField(default=False)

    objects = OrderLines.as_manager()

    class Meta:
        """In the order they came; at least one piece."""

        ordering = ("pk",)
        constraints = (
            models.CheckConstraint(condition=models.Q(quantity__gte=1), name="some_pieces"),
        )

    def __str__(self) -> str:
        """Return quantity and part."""
        return f"{self.quantity} x {self.part}"


class Blank(models.Model):
    """How a part is unfolded, and the blank that gives.

    ``chart`` is the bend chart as it was when the part was unfolded with it, so that a chart that
    moves on changes no blank behind anybody's back. ``turn`` is in degrees; ``grain`` is ``along``
    x, ``across`` it, or nothing. ``bend_rules`` holds the radius and K of single
    bends by their place in the part; ``previous`` the document of the revision before.
    ``corners`` and ``sharp_corners`` have their places on the blank as it lay before its corners
    were treated, and so have ``flat_cutouts``; ``shift`` moves them to where it lies now.
    ``markup`` is what is added to its drawing by hand, notes that were moved by the places of
    their bends in the part.
    """

    part = models.OneToOneField(Part, models.CASCADE, related_name="blank")
    own_k = models.FloatField(null=True)
    anchor = models.PositiveIntegerField(default=1)
    is_turned_over = models.BooleanField(default=False)
    turn = models.FloatField(default=0)
    grain = models.CharField(max_length=6, blank=True)
    sequence = models.JSONField(default=list)
    chart = models.JSONField(default=dict)
    bend_rules = models.JSONField(default=dict)
    corners = models.JSONField(default=list)
    sharp_corners = models.JSONField(default=list)
    shift = models.JSONField(default=list)
    line_marks = models.JSONField(default=dict)
    flat_cutouts = models.JSONField(default=list)
    markup = models.JSONField(default=dict)
    document = models.JSONField()
    previous = models.JSONField(null=True)
    digest = models.CharField(max_length=64)

    def __str__(self) -> str:
        """Return whose blank it is."""
        return f"blank of {self.part}"


class Stamp(models.Model):
    """A station of an order declared done, with what it was done on."""

    order = models.ForeignKey(Order, models.CASCADE, related_name="stamps")
    station = models.PositiveSmallIntegerField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField(auto_now=True)
    inputs = models.JSONField()

    class Meta:
        """One stamp a station."""

        constraints = (models.UniqueConstraint(fields=("order", "station"), name="one_stamp"),)

    def __str__(self) -> str:
        """Return the station and its order."""
        return f"station {self.station} of {self.order}"


class Override(models.Model):
    """Why a check that fails shall not stop an order's packet, and what it had found then."""

    order = models.ForeignKey(Order, models.CASCADE, related_name="overrides")
    check_name = models.CharField(max_length=40)
    said = models.TextField()
    reason = models.TextField()
    by = models.ForeignKey(settings.AUTH_USER_MODEL, models.PROTECT)
    at = models.DateTimeField(auto_now_add=True)

    class Meta:
        """One word a check."""

        constraints = (
            models.UniqueConstraint(fields=("order", "check_name"), name="one_word_a_check"),
        )

    def __str__(self) -> str:
        """Return the check and its order."""
        return f"{self.check_name} of {self.order}"
