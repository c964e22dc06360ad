from django.db import models


class DerivedResult(models.Model):
    """A part (at most 4 MB) of a derived result, by key. Never edited; may be deleted at any time."""

    key = models.CharField(max_length=64)
    part = models.PositiveIntegerField()
    kind = models.CharField(max_length=20)
    blob = models.BinaryField()
    used_at = models.DateTimeField(auto_now=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["key", "part"], name="one_blob_a_part")]
