"""The demo's junctions: Tarn Lane joined to Link, and Ferry Road across it."""

from __future__ import annotations

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.alignment.horizontal import grid_from_station_offset
from ivoryridge.core.alignment.vertical import PVI

from ..actions.edit_course import tie_end
from ..actions.edit_junction import change_corners, join_edge, make_junction
from ..actions.edit_profile import set_profile
from ..actions.edit_road import change_road, create_road, set_speeds
from ..actions.edit_template import create_template, set_rows
from ..inputs.network import assemble_road
from ..models import Road, Template
from ..results.levels import profile_of
from ..results.line import ground_under, line_of
from .landscape import LANE_LAID

__all__ = ["cross_ferry_road", "join_lane", "make_access"]

JOINED_AT = 820.0  # station of Link
LANE_RADII = (8.0, 12.0)  # m
ACCESS_AT, ACCESS_LENGTH = 80.0, 40.0  # station of Tarn Lane, m
FERRY_AT = 2150.0  # station of Link
FERRY_ANGLE = np.radians(76.0)
FERRY_LENGTHS = (95.0, 120.0)  # m either way of Link


def _made(road: Road, designer: User, link: Road, template: str, *, speed: float) -> Road:
    chosen = Template.present.get(project=link.project, name=template)
    change_road(
        road, designer, revision=road.revision, values={"template_id": chosen.pk, "surface_id": link.surface_id, "interval": 5.0}
    )
    road = Road.objects.get(pk=road.pk)
    set_speeds(road, designer, revision=road.revision, speeds=[[0.0, speed]])
    return Road.objects.get(pk=road.pk)


def join_lane(link: Road, lane: Road, designer: User) -> None:
    """A new piece from Link to Tarn Lane, where that goes on as it lies; its corners have 8 and 12 m."""
    rows = [
        {"id": "carriageway", "part": "carriageway", "values": {"lane_width": 2.5, "shoulder_width": 0.0}},
        {"id": "verge", "part": "verge", "values": {"width": 1.0}},
        {"id": "slope", "part": "side_slopes", "values": {}},
    ]
    _, template = create_template(link.project, designer, name="Lane")
    set_rows(template, designer, revision=template.revision, left=rows, right=rows, what="Lay out the parts")
    main, other = line_of(assemble_road(link)), line_of(assemble_road(lane))
    (start,), (azimuth,) = grid_from_station_offset(main, [JOINED_AT], [0.0])
    (end,), (heading,) = grid_from_station_offset(other, [LANE_LAID[0]], [0.0])
    away = azimuth - np.pi / 2
    corner = start + 34.0 * np.array([np.sin(away), np.cos(away)])
    before = end - 22.0 * np.array([np.sin(heading), np.cos(heading)])
    places = [(start, 0.0), (corner, 40.0), (before, 45.0), (end, 0.0)]
    pis = [{"easting": round(float(e), 3), "northing": round(float(n), 3), "radius": r} for (e, n), r in places]
    _, road = create_road(link.project, designer, name="Tarn Lane, new piece", pis=pis)
    road = _made(Road.objects.get(pk=road.pk), designer, link, "Lane", speed=30.0)
    own = line_of(assemble_road(road))
    first = float(profile_of(assemble_road(link)).evaluate(JOINED_AT)[0][0])
    last = float(profile_of(assemble_road(lane)).evaluate(LANE_LAID[0])[0][0])
    there = own.end_station
    pvis = [
        PVI(0.0, first - 0.1),
        PVI.symmetric(28.0, first - 0.1 + 0.02 * 28.0 * np.sign(last - first), 16.0),
        PVI(there, last),
    ]
    set_profile(road, designer, pvis, label="Run into the lane")
    road = Road.objects.get(pk=road.pk)
    tie_end(
        road,
        designer,
        revision=road.revision,
        end="end",
        other=Road.objects.get(pk=lane.pk),
        station=LANE_LAID[0],
        level="centre",
    )
    make_junction(link.project, designer, main=Road.objects.get(pk=link.pk), side=Road.objects.get(pk=road.pk), radii=LANE_RADII)


def cross_ferry_road(link: Road, designer: User) -> None:
    """Ferry Road crosses Link as a plain crossroads until its roundabout comes."""
    main = line_of(assemble_road(link))
    (centre,), (azimuth,) = grid_from_station_offset(main, [FERRY_AT], [0.0])
    way = azimuth + FERRY_ANGLE
    u = np.array([np.sin(way), np.cos(way)])
    ends = centre - FERRY_LENGTHS[0] * u, centre + FERRY_LENGTHS[1] * u
    pis = [{"easting": round(float(e), 3), "northing": round(float(n), 3), "radius": 0.0} for e, n in ends]
    _, road = create_road(link.project, designer, name="Ferry Road", pis=pis)
    road = _made(Road.objects.get(pk=road.pk), designer, link, "Kerbed with footway", speed=50.0)
    inputs = assemble_road(road)
    own, ground = line_of(inputs), ground_under(inputs)
    level = float(profile_of(assemble_road(link)).evaluate(FERRY_AT)[0][0])
    at = FERRY_LENGTHS[0]
    first, last = (float(np.interp(s, ground[:, 0], ground[:, 1])) for s in (own.start_station, own.end_station))
    pvis = [
        PVI(own.start_station, first),
        PVI.symmetric(at - 40.0, level - 0.75, 24.0),
        PVI.symmetric(at - 6.0, level - 0.12, 10.0),
        PVI.symmetric(at + 6.0, level - 0.12, 10.0),
        PVI.symmetric(at + 40.0, level - 0.75, 24.0),
        PVI(own.end_station, last),
    ]
    set_profile(road, designer, pvis, label="Level with Link")
    make_junction(link.project, designer, main=Road.objects.get(pk=link.pk), side=Road.objects.get(pk=road.pk))


def make_access(link: Road, lane: Road, designer: User) -> None:
    """A field access joins the lane where that lies as it is: its edge is a measured line."""
    other = line_of(assemble_road(lane))
    (edge,), (heading,) = grid_from_station_offset(other, [ACCESS_AT], [2.0])
    way = heading + np.pi / 2
    end = edge + ACCESS_LENGTH * np.array([np.sin(way), np.cos(way)])
    pis = [{"easting": round(float(e), 3), "northing": round(float(n), 3), "radius": 0.0} for e, n in (edge, end)]
    _, road = create_road(link.project, designer, name="Field access", pis=pis)
    road = _made(Road.objects.get(pk=road.pk), designer, link, "Lane", speed=20.0)
    inputs = assemble_road(road)
    own, ground = line_of(inputs), ground_under(inputs)
    levels = [float(np.interp(s, ground[:, 0], ground[:, 1])) for s in (own.start_station, own.end_station)]
    set_profile(road, designer, [PVI(own.start_station, levels[0]), PVI(own.end_station, levels[1])], label="On the ground")
    place = (float(edge[0]), float(edge[1]))
    _, junction, _ = join_edge(link.project, designer, side=Road.objects.get(pk=road.pk), place=place)
    corners = Road.present.filter(project=link.project, course__junction=junction.pk)
    change_corners(junction, designer, roads={r.pk: r.revision for r in corners}, values={"radius": 6.0})
