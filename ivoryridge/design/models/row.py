"""What every editable row has: an identity that stays, a revision, and a mark instead of deletion.

A removed row keeps its id, so that undoing a deletion, or doing an act again, restores every link.
"""

from __future__ import annotations

from typing import Any

from django.db import models


class PresentRows(models.Manager[Any]):
    def get_queryset(self) -> models.QuerySet[Any]:
        return super().get_queryset().filter(removed=False)


class Row(models.Model):
    revision = models.PositiveIntegerField(default=1)
    removed = models.BooleanField(default=False)

    objects = models.Manager()
    present = PresentRows()

    class Meta:
        abstract = True
