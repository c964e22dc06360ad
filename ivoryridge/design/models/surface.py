from django.db import models

from .project import Project
from .row import Row


class Surface(Row):
    """A recipe: the survey sets it is made from, in order of priority, and how its outside is trimmed."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="surfaces")
    name = models.CharField(max_length=120)
    sources = models.JSONField(default=list)
    greatest_edge = models.FloatField(null=True, blank=True)
