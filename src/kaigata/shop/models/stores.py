"""Stores: the shop's own data."""

from __future__ import annotations

from django.db import models

__all__ = ["CutRow", "Gauge", "Machine", "Material", "Post", "ShopLimits", "StockSheet"]


class Material(models.Model):
    """A material; density in kg/m³, price per kg, tensile strength in MPa."""

    name = models.SlugField(unique=True)
    title = models.CharField(max_length=80)
    density = models.FloatField()
    price = models.FloatField()
    tensile = models.FloatField(default=400)
    note = models.CharField(max_length=200, blank=True)

    class Meta:
        """Order of listings."""

        ordering = ("title",)

    def __str__(self) -> str:
        """Return the title."""
        return self.title


class Gauge(models.Model):
    """A thickness of a material, mm: its gauge number, the radii it is bent with, its bend chart.

    ``points`` holds the chart's rows as ``chart_files`` has them, angles in degrees.
    """

    material = models.ForeignKey(Material, models.CASCADE, related_name="gauges")
    thickness = models.FloatField()
    number = models.CharField(max_length=10, blank=True)
    radii = models.JSONField(default=list)
    method = models.CharField(max_length=12, default="k")
    points = models.JSONField(default=list)

    class Meta:
        """A thickness once a material."""

        ordering = ("material", "thickness")
        constraints = (
            models.UniqueConstraint(fields=("material", "thickness"), name="one_gauge"),
            models.CheckConstraint(condition=models.Q(thickness__gt=0), name="thick"),
        )

    def __str__(self) -> str:
        """Return the gauge as the trade says it."""
        return f"{self.thickness:g} {self.material.name}"


class ShopLimits(models.Model):
    """The thresholds of the findings: one record, named as the core's ``Limits``."""

    values = models.JSONField(default=dict)

    def __str__(self) -> str:
        """Return what it is."""
        return "the shop's limits"


class ShopLettering(models.Model):
    """How drawings are lettered: one record, as the core's ``Lettering``."""

    values = models.JSONField(default=dict)

    def __str__(self) -> str:
        """Return what it is."""
        return "the lettering of drawings"


class CutRow(models.Model):
    """A row of a cut chart: mm, mm/min, seconds; no material means every material."""

    process = models.CharField(max_length=20)
    material = models.ForeignKey(Material, models.CASCADE, null=True, blank=True)
    thickness = models.FloatField()
    kerf = models.FloatField()
    kerf_origin = models.CharField(max_length=120, blank=True)
    feed = models.FloatField()
    pierce_seconds = models.FloatField()
    lead_in = models.FloatField()
    rapid = models.FloatField()
    lead_kind = models.CharField(max_length=8, default="line")
    lead_angle = models.FloatField(default=60)
    lead_out = models.FloatField(default=0)
    over_cut = models.FloatField(default=0)
    smallest_hole = models.FloatField(default=0)
    acceleration = models.FloatField(default=8000)
    hourly_rate = models.FloatField(default=90)
    corner = models.CharField(max_length=8, default="sharp")
    small_holes = models.CharField(max_length=8, default="slow")
    mark_feed = models.FloatField(default=6000)
    joint_width = models.FloatField(default=0)
    joint_count = models.FloatField(default=0)
    joint_spacing = models.FloatField(default=0)
    joint_arcs = models.CharField(max_length=4, default="no")

    class Meta:
        """Order of listings."""

        ordering = ("process", "thickness", "material")

    def __str__(self) -> str:
        """Return what the row is for."""
        return f"{self.process} {self.thickness:g}"


class StockSheet(models.Model):
    """A stock sheet or remnant, mm; ``outline`` holds a remnant's contour.

    The database keeps the count from going below nothing, so two nests never take one sheet.
    """

    name = models.CharField(max_length=80, unique=True)
    material = models.ForeignKey(Material, models.CASCADE, related_name="sheets")
    thickness = models.FloatField()
    width = models.FloatField()
    height = models.FloatField()
    outline = models.JSONField(null=True, blank=True)
    count = models.PositiveIntegerField()
    grain = models.FloatField(default=0)
    cost = models.FloatField(null=True, blank=True)

    class Meta:
        """Order of listings; sizes are above nothing."""

        ordering = ("material", "thickness", "-width", "name")
        constraints = (
            models.CheckConstraint(
                condition=models.Q(width__gt=0, height__gt=0, thickness__gt=0), name="sized"
            ),
        )

    def __str__(self) -> str:
        """Return the name."""
        return self.name


class Pressing(models.Model):
    """Something pressed into the sheet or out of it, as its maker or its tool wants it.

    ``hole`` is the diameter of the hole cut for it, mm, None for none; ``clear`` how far its
    middle must be from edges and bends: of what is pressed out, half of its footprint.
    """

    name = models.CharField(max_length=60, unique=True)
    kind = models.CharField(max_length=8, choices=[("in", "pressed in"), ("out", "pressed out")])
    hole = models.FloatField(null=True)
    clear = models.FloatField()

    class Meta:
        """Order of listings."""

        ordering = ("kind", "name")

    def __str__(self) -> str:
        """Return the name."""
        return self.name


class Machine(models.Model):
    """A cutting machine and the post that writes its programs."""

    name = models.CharField(max_length=80, unique=True)
    process = models.CharField(max_length=20)
    post = models.CharField(max_length=40)
    width = models.FloatField()
    height = models.FloatField()

    class Meta:
        """Order of listings."""

        ordering = ("name",)

    def __str__(self) -> str:
        """Return the name."""
        return self.name


class Post(models.Model):
    """A post of the shop's own, or its change of a standard one: the document of the core's."""

    name = models.SlugField(unique=True)
    document = models.JSONField()

    class Meta:
        """Order of listings."""

        ordering = ("name",)

    def __str__(self) -> str:
        """Return the name."""
        return self.name
