from django.db import models

from .project import Project
from .road import Road
from .row import Row


class Junction(Row):
    """A side road that joins a main one. Its returns are roads whose ``course`` is {"kind": "return", "junction": id, "arm", "hand",
    "shape": {fields of core.junction.corner.CornerShape}}.

    ``easting``, ``northing``: m, where the roads met when it was made; of several meetings the nearest counts.
    ``structure``: what its pavement is built of: "main" or "side" as on that road, or the id of a pavement structure as text.
    ``run_out``: m along the side road from the main road's edge over which its halves turn from the main road's plane to their own fall.
    ``edge_fall``: ratio, of an existing main road towards its edge; None: as the ground says.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="junctions")
    name = models.CharField(max_length=120)
    main = models.ForeignKey(Road, on_delete=models.PROTECT, related_name="junctions")
    side = models.ForeignKey(Road, on_delete=models.PROTECT, related_name="joins")
    easting = models.FloatField()
    northing = models.FloatField()
    run_out = models.FloatField(default=20.0)
    structure = models.CharField(max_length=20, default="main")
    edge_fall = models.FloatField(null=True, blank=True)

    class Meta:
        ordering = ["id"]
