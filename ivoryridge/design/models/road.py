from django.db import models

from .project import Project
from .row import Row
from .surface import Surface


class Template(Row):
    """Left and right rows of parts, from the centre outward: ``[{"id", "part", "values"}]``."""

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="templates")
    name = models.CharField(max_length=120)
    left = models.JSONField(default=list)
    right = models.JSONField(default=list)


class Road(Row):
    """A road: its template and ground, section interval (m) and the station at its start (m).

    ``speeds``: [[station m, km/h], ...], design speeds that differ from the project's, each from its station on.
    ``departures``: key of a finding against the standard -> why it is accepted, by whom, and what it said.
    ``crossfall``: what a person has decided of it: {"off": bool, "axis": ..., "share": ratio, "bends": {PI id: {rate, level_in,
    full_in, full_out, level_out}}}, as ``core.standards.crossfall.BendPin``; all else follows from the standard.
    ``guides``: lines on the long section, as ``core.alignment.guides`` reads them, with ``hidden`` and a ``name``.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="roads")
    name = models.CharField(max_length=120)
    template = models.ForeignKey(Template, null=True, on_delete=models.PROTECT, related_name="roads")
    surface = models.ForeignKey(Surface, null=True, on_delete=models.PROTECT, related_name="roads")
    interval = models.FloatField(default=10.0)
    start_station = models.FloatField(default=0.0)
    speeds = models.JSONField(default=list)
    departures = models.JSONField(default=dict)
    guides = models.JSONField(default=list)
    crossfall = models.JSONField(default=dict)


class RoadPI(Row):
    """A point of intersection. ``position`` orders the PIs of a road; lengths in m."""

    road = models.ForeignKey(Road, on_delete=models.CASCADE, related_name="pis")
    position = models.FloatField()
    easting = models.FloatField()
    northing = models.FloatField()
    radius = models.FloatField(default=0.0)
    spiral_in = models.FloatField(default=0.0)
    spiral_out = models.FloatField(default=0.0)

    class Meta:
        ordering = ["position", "id"]


class RoadPVI(Row):
    """A point of vertical intersection, and what holds its station when the line changes (see ``anchors``).

    anchor        holds                             uses
    station       its station                       station
    place         the place on the line nearest     easting, northing
    tangent       a tangent point of a PI           anchor_pi, tangent_point (TS SC CS ST), ahead (m)
    start, end    an end of the line                ahead (m)
    """

    ANCHORS = ("station", "place", "tangent", "start", "end")

    road = models.ForeignKey(Road, on_delete=models.CASCADE, related_name="pvis")
    anchor = models.CharField(max_length=8, default="station", choices=[(a, a) for a in ANCHORS])
    station = models.FloatField(null=True)
    easting = models.FloatField(null=True)
    northing = models.FloatField(null=True)
    anchor_pi = models.ForeignKey(RoadPI, null=True, on_delete=models.PROTECT, related_name="anchored_pvis")
    tangent_point = models.CharField(max_length=2, default="", blank=True)
    ahead = models.FloatField(default=0.0)
    elevation = models.FloatField()
    half_in = models.FloatField(default=0.0)
    half_out = models.FloatField(default=0.0)

    class Meta:
        ordering = ["id"]
