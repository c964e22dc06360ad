from django.conf import settings
from django.db import models

from .project import Project


class Job(models.Model):
    """Long work: what it is, how far it is, and a heartbeat by which a dead worker is noticed."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="jobs")
    user = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.PROTECT, related_name="+")
    title = models.CharField(max_length=200)
    state = models.CharField(max_length=9, default="waiting")  # waiting, running, done, failed, cancelled
    done = models.PositiveBigIntegerField(default=0)
    total = models.PositiveBigIntegerField(default=0)
    message = models.CharField(max_length=500, default="", blank=True)
    cancel_wanted = models.BooleanField(default=False)
    started_at = models.DateTimeField(auto_now_add=True)
    heartbeat = models.DateTimeField(auto_now=True)
    request = models.JSONField(default=dict)
    upload = models.BinaryField(null=True)
    result = models.JSONField(default=dict)
