from django.conf import settings
from django.db import models

from .project import Project


class LedgerEntry(models.Model):
    """One act of one person. ``changes``: ``[{"model", "id", "fields": {name: [before, after]}}]``.

    ``state`` is done, undone, or dropped: undone, and since then its author did something else.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="ledger")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    at = models.DateTimeField(auto_now_add=True)
    label = models.CharField(max_length=200)
    changes = models.JSONField(default=list)
    state = models.CharField(max_length=7, default="done")

    class Meta:
        ordering = ["-id"]
