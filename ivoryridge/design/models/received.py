from django.conf import settings
from django.db import models

from .project import Project
from .row import Row


class ReceivedFile(models.Model):
    """A file as it came; never changed."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="received_files")
    name = models.CharField(max_length=200)
    format = models.CharField(max_length=20)
    sha256 = models.CharField(max_length=64)
    content = models.BinaryField()
    size = models.PositiveBigIntegerField()
    received_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT)
    received_at = models.DateTimeField(auto_now_add=True)


class SurveySet(Row):
    """What was read from a received file: points, breaklines and perhaps faces, packed by ``kept.packing``.

    ``hash`` is that of ``arrays``, and enters the keys of all that is derived from it. ``inventory`` tells counts,
    extent and level range; ``layers`` its layers; ``reading`` tells how the file was read. ``roles``: layer key -> role,
    as rules or a person sorted them; a layer that is not there has the usual role of its type.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="survey_sets")
    file = models.ForeignKey(ReceivedFile, on_delete=models.PROTECT, related_name="survey_sets")
    name = models.CharField(max_length=200)
    arrays = models.BinaryField()
    hash = models.CharField(max_length=40)
    inventory = models.JSONField(default=dict)
    reading = models.JSONField(default=dict)
    layers = models.JSONField(default=list)
    roles = models.JSONField(default=dict)
