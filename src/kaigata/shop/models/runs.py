"""Long work and what it gives: nests, programs, packets."""

from __future__ import annotations

from django.db import models

from kaigata.shop.models.orders import Order

__all__ = ["AssemblyRun", "CutRun", "Nest", "NestRun", "Packet", "Program", "Release", "Run"]


class Run(models.Model):
    """Work in the background; ``inputs`` says on what it was done."""

    class State(models.TextChoices):
        """How far it has come."""

        QUEUED = "queued"
        RUNNING = "running"
        DONE = "done"
        STOPPED = "stopped"
        FAILED = "failed"

    order = models.ForeignKey(Order, models.CASCADE, related_name="%(class)ss")
    state = models.CharField(max_length=10, choices=State.choices, default=State.QUEUED)
    inputs = models.JSONField(default=dict)
    settings = models.JSONField(default=dict)
    what = models.TextField(blank=True)
    where = models.TextField(blank=True)
    fix = models.TextField(blank=True)
    progress = models.FloatField(default=0)
    stop_wanted = models.BooleanField(default=False)
    attempts = models.PositiveSmallIntegerField(default=0)
    created = models.DateTimeField(auto_now_add=True)
    started = models.DateTimeField(null=True)

    class Meta:
        """Newest first."""

        abstract = True
        ordering = ("-pk",)

    def __str__(self) -> str:
        """Return what it is and how far."""
        return f"{type(self).__name__} {self.pk} {self.state}"

    @property
    def is_open(self) -> bool:
        """Whether it waits or works."""
        return self.state in (self.State.QUEUED, self.State.RUNNING)


class NestRun(Run):
    """A search for a nest; ``history`` has a row for each better answer."""

    history = models.JSONField(default=list)


class Nest(models.Model):
    """The best nest a run has found so far, or what hands made of it: the document of nest.json.

    ``locked`` names the placements that stay, as (part, copy); ``faults`` are the rules that
    placements made by hand break.
    """

    run = models.OneToOneField(NestRun, models.CASCADE, related_name="nest")
    document = models.JSONField()
    locked = models.JSONField(default=list)
    faults = models.JSONField(default=list)
    counted_area = models.FloatField()
    digest = models.CharField(max_length=64)

    def __str__(self) -> str:
        """Return whose nest it is."""
        return f"nest of run {self.run_id}"


class Release(models.Model):
    """A nest released for cutting: the sheets it took off stock, the remnants it gives back.

    ``taken`` are rows (name of the sheet, how many); ``remnants`` the names of the sheets it added.
    """

    nest = models.OneToOneField(Nest, models.CASCADE, related_name="release")
    taken = models.JSONField()
    remnants = models.JSONField(default=list)
    at = models.DateTimeField(auto_now_add=True)

    def __str__(self) -> str:
        """Return what is released."""
        return f"release of {self.nest}"


class CutRun(Run):
    """Cutting of a nest: the document of cut.json once it is done."""

    nest = models.ForeignKey(Nest, models.CASCADE, related_name="cuts")
    document = models.JSONField(null=True)


class Program(models.Model):
    """A proved program of a sheet, and its path as it is drawn.

    ``document`` is its sheet of cut.json with the findings; ``made_from`` a digest of everything it
    rests on, so that it need not be made again for as long as that stays.
    """

    run = models.ForeignKey(CutRun, models.CASCADE, related_name="programs")
    number = models.PositiveIntegerField()
    text = models.TextField()
    path_dxf = models.TextField(default="")
    drawing = models.JSONField()
    document = models.JSONField(default=dict)
    made_from = models.CharField(max_length=64, default="", db_index=True)

    class Meta:
        """Sheet by sheet."""

        ordering = ("number",)

    def __str__(self) -> str:
        """Return the file's name."""
        return f"sheet-{self.number}.nc"


class Packet(Run):
    """Everything for the floor in one zip, with its manifest."""

    manifest = models.JSONField(null=True)
    content = models.BinaryField(null=True)


class AssemblyRun(Run):
    """The drawing of an assembly of an order: the parts that came in the file ``came_in``.

    ``sheets`` are its sheets as SVG and DXF, ``sizes`` their width and height, mm of paper.
    """

    came_in = models.CharField(max_length=64)
    sheets = models.JSONField(default=list)
    sizes = models.JSONField(default=list)
    pdf = models.BinaryField(null=True)
