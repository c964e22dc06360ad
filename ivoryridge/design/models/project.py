from dataclasses import replace

from django.conf import settings
from django.db import models

from ivoryridge.core.wording import UNITS, Units

from .row import Row


class Project(Row):
    """A design: its conventions and limits. Speeds in km/h, grades as ratios, K in m per percent."""

    name = models.CharField(max_length=120)
    coordinate_reference = models.CharField(max_length=120, default="local grid")
    length_unit = models.CharField(max_length=5, default="m")  # what people read and type in; kept are metres, see core.wording
    chainage_group = models.PositiveIntegerField(default=1000)
    chainage_word = models.CharField(max_length=10, default="Chainage")
    traffic_side = models.CharField(max_length=5, default="left")
    standard = models.CharField(max_length=60, default="british_metric")  # the id of a data file of limits
    design_speed = models.FloatField(default=85.0)
    greatest_grade = models.FloatField(default=0.06)
    least_k = models.FloatField(default=30.0)
    # in order: {"pattern": "GRD*", "type": "CAD point" or "", "role": one of core.terrain.recipe.ROLES}
    annotations = models.JSONField(default=list)  # named styles for lines on the plan; sizes in paper mm
    land = models.JSONField(default=dict)  # its boundary {"survey", "layer"}, and the margin beyond toes {"margin"}, m
    sorting_rules = models.JSONField(default=list)
    head = models.PositiveBigIntegerField(default=0)  # acts, undone and done again ones too; another number, another state

    def __str__(self) -> str:
        return self.name

    @property
    def speaks(self) -> Units:
        """The units and chainages that its sentences are worded in."""
        return replace(UNITS[self.length_unit], group=self.chainage_group)


class Membership(Row):
    """Who may do what in a project: a viewer reads, an editor changes the design, an owner also names members. One that is removed
    stays, marked, and is taken up again when the person comes back."""

    ROLES = ("viewer", "editor", "owner")

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="memberships")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="memberships")
    role = models.CharField(max_length=6, choices=[(r, r) for r in ROLES])

    class Meta:
        constraints = [models.UniqueConstraint(fields=["project", "user"], name="one_role_each")]
