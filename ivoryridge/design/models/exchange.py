from django.db import models

from .project import Project


class ExchangeDocument(models.Model):
    """A version of a document in the simulated document exchange: a stand-in for an online store outside the program.

    Others put documents there; the program only reads them. One name has many versions, counted from 1.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="exchange_documents")
    name = models.CharField(max_length=200)
    version = models.PositiveIntegerField()
    content = models.BinaryField()
    sha256 = models.CharField(max_length=64)
    size = models.PositiveBigIntegerField()
    put_by = models.CharField(max_length=120)
    put_at = models.DateTimeField()
    remark = models.CharField(max_length=200, blank=True)

    class Meta:
        constraints = [models.UniqueConstraint(fields=["project", "name", "version"], name="one_document_a_version")]
