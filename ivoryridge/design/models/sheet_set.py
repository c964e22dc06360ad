from django.db import models

from .project import Project
from .road import Road
from .row import Row

SECTION_TEXTS = ("slopes", "widths", "names", "layers")  # what is written into cross sections, on demand


class SheetSet(Row):
    """How a road is cut into sheets. Scales are the n of 1:n; stations in m, empty for the whole road."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="sheet_sets")
    road = models.ForeignKey(Road, on_delete=models.CASCADE, related_name="sheet_sets")
    name = models.CharField(max_length=120)
    paper = models.CharField(max_length=2, default="A1")
    scale = models.FloatField(default=1000.0)
    exaggeration = models.FloatField(default=10.0)
    section_scale = models.FloatField(default=200.0)
    section_interval = models.FloatField(default=50.0)
    band_interval = models.FloatField(default=20.0)
    section_texts = models.JSONField(default=list)  # of SECTION_TEXTS
    drawing_number = models.CharField(max_length=40, default="IR-01")
    revision_mark = models.CharField(max_length=8, default="P1")
