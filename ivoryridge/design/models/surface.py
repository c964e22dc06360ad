from django.db import models

from .project import Project
from .row import Row


class Surface(Row):
    """A recipe: the survey sets it is made from, in order of priority, its settings, and a list of edits.

    Lengths in m, areas in m2; null switches a setting off. ``edits`` are as in ``core.terrain.recipe.EDITS`` with the ids
    of survey sets; ``answers`` are findings that are kept: key -> {remark, by}; ``label_paths`` are rows of [E, N].
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="surfaces")
    name = models.CharField(max_length=120)
    sources = models.JSONField(default=list)
    greatest_edge = models.FloatField(null=True, blank=True)
    live_spacing = models.FloatField(null=True, blank=True)
    weed_plan = models.FloatField(null=True, blank=True)
    weed_level = models.FloatField(null=True, blank=True)
    fill_area = models.FloatField(null=True, blank=True)
    edits = models.JSONField(default=list)
    answers = models.JSONField(default=dict)
    label_paths = models.JSONField(default=list)
