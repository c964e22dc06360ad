from django.db import models

from .project import Project
from .row import Row
from .section import Template
from .surface import Surface

FIRST_PROFILE = "First"  # name of the candidate that every road has, whose id is ""


class Road(Row):
    """A road: its template and ground, section interval (m) and the station at its start (m).

    ``fineness``: m by which an edge may lie off its straight between two sections before they stand closer; none: as the interval says.
    ``speeds``: [[station m, km/h], ...], design speeds that differ from the project's, each from its station on.
    ``departures``: key of a finding against the standard -> why it is accepted, by whom, and what it said.
    ``crossfall``: what a person has decided of it: {"off": bool, "axis": ..., "share": ratio, "bends": {PI id: {rate, level_in,
    full_in, full_out, level_out}}}, as ``core.standards.crossfall.BendPin``; all else follows from the standard.
    ``course``: a line without PIs of its own: {"kind": "elements", "elements": rows of core.alignment.course} kept as they came, or
    {"kind": "offset", "road": id, "offset": m, + right} parallel to another road's line, or
    {"kind": "existing", "points": [[E, N] m]}, the edge of a road that is there and is not rebuilt; its levels are the ground's;
    {"kind": "return", "junction": id, "arm", "hand", "shape"}, a corner of a junction; without PVIs its levels follow from both roads.
    ``ties``: "start" or "end" -> {"road": id, "station": m}: that end lies on another road's line.
    ``mirrored``: its template's sides are changed over; a road that was reversed once.
    ``sight_clearance``: m from the line within which nothing stands in the view along bends, beside the road's own cut slopes.
    ``equations``: [[station m, jump m], ...]: from that station on the count of chainage is ahead by so much.
    ``fixed_points``: [{"station", "level", "kind": exact, above or below, "name"}], held against the profile.
    ``candidates``: [{"id", "name"}] of other profiles for this line; ``candidate`` is the one in use, "" the first.
    ``guides``: lines on the long section, as ``core.alignment.guides`` reads them, with ``hidden`` and a ``name``.
    """

    project = models.ForeignKey(Project, on_delete=models.CASCADE, related_name="roads")
    name = models.CharField(max_length=120)
    template = models.ForeignKey(Template, null=True, on_delete=models.PROTECT, related_name="roads")
    surface = models.ForeignKey(Surface, null=True, on_delete=models.PROTECT, related_name="roads")
    interval = models.FloatField(default=10.0)
    fineness = models.FloatField(null=True)
    start_station = models.FloatField(default=0.0)
    speeds = models.JSONField(default=list)
    departures = models.JSONField(default=dict)
    guides = models.JSONField(default=list)
    crossfall = models.JSONField(default=dict)
    course = models.JSONField(default=dict)
    ties = models.JSONField(default=dict)
    mirrored = models.BooleanField(default=False)
    equations = models.JSONField(default=list)
    sight_clearance = models.FloatField(null=True)
    fixed_points = models.JSONField(default=list)
    candidates = models.JSONField(default=list)
    candidate = models.CharField(max_length=12, default="", blank=True)


class RoadPI(Row):
    """A point of intersection. ``position`` orders the PIs of a road; lengths in m; a ``held`` one is not changed by accident,
    and with ``straight_held`` the straight from it to the next PI stays on its line: both slide along it."""

    road = models.ForeignKey(Road, on_delete=models.CASCADE, related_name="pis")
    position = models.FloatField()
    held = models.BooleanField(default=False)
    straight_held = models.BooleanField(default=False)
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

    ``circular``: its curve is an arc of a circle, as a received profile had it; else a parabola.
    """

    ANCHORS = ("station", "place", "tangent", "start", "end")

    road = models.ForeignKey(Road, on_delete=models.CASCADE, related_name="pvis")
    candidate = models.CharField(max_length=12, default="", blank=True)
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
    circular = models.BooleanField(default=False)

    class Meta:
        ordering = ["id"]


class Variation(Row):
    """Something that varies along a road over a range.

    kind          what holds in the range                         uses
    stretch       another template                                template, data: blend_from, blend_to {length, form, lies}
    adjustment    another value of a part's parameter             data: part, parameter, form, value, value_to, rows
    change        a part off, another in its place, one more      data: do, part, with, values
    bare          no earthwork
    follow        the lanes take another road's plane             data: road, level, ease, release
    led           a node takes its place from lines               data: node, takes, road, edge, edge_side, survey, layer, surface,
                                                                  reach, reach_level, ease, release
    meet          level, grade and edges come from the ground     data: end

    ``side``: left, right or both. ``start``, ``end``: what holds the range, as a PVI is held: {"anchor", "station", "easting",
    "northing", "pi_id", "tangent_point", "ahead"}, lengths in m.
    """

    KINDS = ("stretch", "adjustment", "change", "bare", "follow", "led", "meet")

    road = models.ForeignKey(Road, on_delete=models.CASCADE, related_name="variations")
    kind = models.CharField(max_length=12, choices=[(k, k) for k in KINDS])
    side = models.CharField(max_length=5, default="both")
    start = models.JSONField(default=dict)
    end = models.JSONField(default=dict)
    template = models.ForeignKey(Template, null=True, on_delete=models.PROTECT, related_name="variations")
    data = models.JSONField(default=dict)

    class Meta:
        ordering = ["id"]
