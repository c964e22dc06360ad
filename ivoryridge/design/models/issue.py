from django.conf import settings
from django.db import models

from .project import Project
from .row import Row
from .sheet_set import SheetSet


class Issue(Row):
    """A sheet set as it was given out; its files are never changed. Undoing the act withdraws it.

    ``record`` names the results behind it: keys of line and levels, corridor, surface and sheets, code versions, libraries.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="issues")
    sheet_set = models.ForeignKey(SheetSet, on_delete=models.PROTECT, related_name="issues")
    name = models.CharField(max_length=160)
    revision_mark = models.CharField(max_length=8)
    remark = models.CharField(max_length=300, blank=True)
    record = models.JSONField(default=dict)
    issued_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    issued_at = models.DateTimeField(auto_now_add=True)


class IssuedFile(models.Model):
    """One file of an issue, as it was given out."""

    issue = models.ForeignKey(Issue, on_delete=models.CASCADE, related_name="files")
    name = models.CharField(max_length=200)
    content_type = models.CharField(max_length=80)
    content = models.BinaryField()
    size = models.PositiveBigIntegerField()
    sha256 = models.CharField(max_length=64)
