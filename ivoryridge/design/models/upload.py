from django.conf import settings
from django.db import models

from .project import Project


class Upload(models.Model):
    """A file that is being looked at: sent once, looked at by its id as often as its reading changes, then brought in or let go."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="uploads")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.CASCADE, related_name="+")
    name = models.CharField(max_length=200)
    content = models.BinaryField()
    size = models.PositiveBigIntegerField()
    at = models.DateTimeField(auto_now_add=True)
