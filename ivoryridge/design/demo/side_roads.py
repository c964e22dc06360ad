"""The demo's side roads: Tarn Lane laid over as it lies, and a slip road for the quarry's lorries in the plane of Link."""

from __future__ import annotations

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.alignment.horizontal import grid_from_station_offset
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.corridor.carried_plane import CarriedPlane

from ..actions.edit_along import add_variation
from ..actions.edit_profile import set_profile
from ..actions.edit_road import accept_departure, change_road, create_road, set_speeds
from ..actions.propose_profile import propose_profile
from ..inputs.network import assemble_road
from ..models import Road, Template
from ..results.against import design_findings
from ..results.crossfall import crossfall_of
from ..results.levels import profile_of
from ..results.line import ground_under, line_of
from .landscape import LANE_LAID

__all__ = ["lay_over", "quarry_slip"]

SLIP_STARTS = 1500.0  # station on Link, in its second bend
SLIP_OFFSET = 3.65  # m right of Link: the edge of its lane
SLIP_RADIUS, SLIP_TURN = 380.0, np.radians(30.0)
SLIP_STRAIGHTS = (2.0, 178.0)  # m before and behind the bend
SLIP_PARTS = 150.0  # m along the slip road, where it leaves Link's plane


def lay_over(lane: Road, designer: User) -> None:
    """Tarn Lane gets new surfacing on what is there; it stays as steep and as short of curves as it is, which its council accepts."""
    overlay = Template.present.get(project=lane.project, name="Overlay of the lane")
    values = {"kind": "stretch", "station_from": LANE_LAID[0], "station_to": LANE_LAID[1], "template_id": overlay.pk}
    change_road(lane, designer, revision=lane.revision, values={"template_id": None, "interval": 5.0})
    add_variation(Road.objects.get(pk=lane.pk), designer, values=values)
    propose_profile(Road.objects.get(pk=lane.pk), designer, overlay=True)
    for found in design_findings(assemble_road(Road.objects.get(pk=lane.pk))):
        lane = Road.objects.get(pk=lane.pk)
        accept_departure(lane, designer, revision=lane.revision, key=found.key, remark="the lane stays as it lies")


def quarry_slip(link: Road, designer: User) -> None:
    """Lorries from the quarry's new face join Link towards the gate: on its right, in its plane until the slip road parts."""
    inputs = assemble_road(link)
    line = line_of(inputs)
    start, azimuth = (v[0] for v in grid_from_station_offset(line, [SLIP_STARTS], [SLIP_OFFSET]))
    tangent = SLIP_RADIUS * np.tan(SLIP_TURN / 2)

    def ahead(place: np.ndarray, way: float, length: float) -> np.ndarray:
        return np.asarray(place + length * np.array([np.sin(way), np.cos(way)]))

    corner = ahead(start, azimuth, SLIP_STRAIGHTS[0] + tangent)
    end = ahead(corner, azimuth + SLIP_TURN, tangent + SLIP_STRAIGHTS[1])
    places = [(start, 0.0), (corner, SLIP_RADIUS), (end, 0.0)]
    pis = [{"easting": round(float(e), 3), "northing": round(float(n), 3), "radius": r} for (e, n), r in places]
    _, slip = create_road(link.project, designer, name="Quarry slip", pis=pis)
    slip = Road.objects.get(pk=slip.pk)
    template = Template.present.get(project=link.project, name="Slip road")
    change_road(slip, designer, revision=slip.revision, values={"template_id": template.pk, "surface_id": link.surface_id})
    slip = Road.objects.get(pk=slip.pk)
    set_speeds(slip, designer, revision=slip.revision, speeds=[[0.0, 50.0]])
    own = line_of(assemble_road(Road.objects.get(pk=slip.pk)))
    turning = crossfall_of(inputs)
    assert turning is not None
    plane = CarriedPlane(line, profile_of(inputs), turning)
    level = plane.at(own.evaluate([0.0, SLIP_PARTS])[0])[2]
    ground = ground_under(assemble_road(Road.objects.get(pk=slip.pk)))
    last = float(np.interp(own.end_station, ground[:, 0], ground[:, 1]))
    pvis = [
        PVI(0.0, float(level[0])),
        PVI.symmetric(SLIP_PARTS, float(level[1]), 60.0),
        PVI.symmetric(SLIP_PARTS + 85.0, float(level[1]) - 0.052 * 85.0, 95.0),
        PVI(own.end_station, last),
    ]
    set_profile(Road.objects.get(pk=slip.pk), designer, pvis, label="Let the slip road run into the ground")
    add_variation(
        Road.objects.get(pk=slip.pk), designer,
        values={"kind": "follow", "station_from": None, "station_to": SLIP_PARTS, "road": link.pk, "level": True, "release": 40.0},
    )  # fmt: skip
    add_variation(Road.objects.get(pk=slip.pk), designer, values={"kind": "meet", "end": "end", "over": 90.0})
