from __future__ import annotations

from django.db import models

from .project import Project
from .row import Row


class Part(Row):
    """A project's own part, in the data form of ``core.section.part``; lengths in m."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="parts")
    data = models.JSONField(default=dict)

    @property
    def name(self) -> str:
        return str(self.data.get("label", "Part"))


class Structure(Row):
    """A pavement structure: ``[{"material", "thickness", "least", "greatest", "step_out"}]`` from the top, m."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="structures")
    name = models.CharField(max_length=120)
    layers = models.JSONField(default=list)


class Template(Row):
    """Left and right rows of parts, from the centre outward: ``[{"id", "part", "values", "targets"}]``.

    ``part`` is the name of a part of the library, or the id of one of the project's; a value of kind "structure" is the id of a
    structure as text, empty for the usual one; ``targets``: name -> {"surface": id} or {"level": m}.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="templates")
    name = models.CharField(max_length=120)
    left = models.JSONField(default=list)
    right = models.JSONField(default=list)
