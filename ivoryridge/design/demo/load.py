"""Load the demo project through the same importers and acts that people use."""

from __future__ import annotations

from datetime import UTC, datetime

from django.contrib.auth.models import User

from ivoryridge.core.alignment.vertical import PVI

from ..actions.bring_in_file import bring_in_file
from ..actions.document_exchange import put_document
from ..actions.edit_crossfall import pin_bend
from ..actions.edit_ground import answer_findings, set_rules
from ..actions.edit_profile import set_profile
from ..actions.edit_project import change_project
from ..actions.edit_road import accept_departure, change_road, create_road, set_speeds
from ..actions.edit_sheets import change_sheet_set
from ..actions.edit_surface import change_surface
from ..actions.issue_sheets import issue_sheets
from ..actions.propose_profile import propose_profile
from ..inputs.network import assemble_road
from ..inputs.surface import assemble_surface
from ..models import Membership, Project, Road, RoadPI, SheetSet, Surface, SurveySet
from ..results.against import design_findings
from ..results.surface import ground_findings_of
from .junctions import cross_ferry_road, join_lane, make_access
from .landscape import (
    LINK_PIS,
    LINK_PVIS,
    SORTING_RULES,
    TARN_PIS,
    lines_dxf,
    mapping_dxf,
    measured_lane_csv,
    spots_again_csv,
    spots_csv,
    surface_xml,
)
from .sections import make_sections, vary
from .side_roads import lay_over, quarry_slip

__all__ = ["DEMO_PASSWORD", "load_demo"]

DEMO_PASSWORD = "orrowmere"
NAME = "Orrowmere Link"
PEOPLE = (("designer", "owner"), ("colleague", "editor"), ("checker", "viewer"))


def load_demo() -> Project:
    """The demo project and its people; made once, left alone when it is there."""
    people = {}
    for name, _ in PEOPLE:
        user, new = User.objects.get_or_create(username=name)
        if new:
            user.set_password(DEMO_PASSWORD)
            user.save()
        people[name] = user
    existing = Project.present.filter(name=NAME).first()
    if existing is not None:
        return existing
    designer = people["designer"]
    project = Project.objects.create(name=NAME)
    for name, role in PEOPLE:
        Membership.objects.create(project=project, user=people[name], role=role)
    change_project(
        project, designer, revision=project.revision,
        values={"coordinate_reference": "Orrowmere local grid (metres)", "design_speed": 85.0, "greatest_grade": 0.06, "least_k": 8.0},
    )  # fmt: skip
    project.refresh_from_db()
    set_rules(project, designer, revision=project.revision, rules=SORTING_RULES)
    _, surface, _ = bring_in_file(project, designer, content=spots_csv(), name="spots.csv")
    for content, name in ((lines_dxf(), "lines.dxf"), (mapping_dxf(), "mapping.dxf")):
        bring_in_file(project, designer, content=content, name=name, surface_id=surface.pk)
    surface = Surface.objects.get(pk=surface.pk)
    change_surface(surface, designer, revision=surface.revision, values={"greatest_edge": 45.0})
    _answer_faults(surface, designer)
    for which in ("west", "east"):
        _, half, _ = bring_in_file(project, designer, content=surface_xml(which), name=f"ground_{which}.xml")
        change_surface(half, designer, revision=half.revision, values={"name": f"Ground {which}"})
    for content, name, by, day, remark in (
        (spots_csv(), "spots.csv", "Hallam Survey", 2, "first issue"), (spots_again_csv(), "spots.csv", "Hallam Survey", 19,
        "east of the stream measured again"),
        (mapping_dxf(), "mapping.dxf", "Hallam Survey", 2, ""), (measured_lane_csv(), "tarn_lane_measured.csv", "Hallam Survey", 20,
        "centre of the lane"),
    ):  # fmt: skip
        put_document(project, name=name, content=content, by=by, at=datetime(2026, 3, day, 9, 30, tzinfo=UTC), remark=remark)
    lane = {"roles": {"point/LANE CENTRE": "ignore"}}  # kept for reports; the ground has its own points there
    bring_in_file(
        project, designer, content=measured_lane_csv(), name="tarn_lane_measured.csv", surface_id=surface.pk, options=lane
    )
    _, road = create_road(
        project, designer, name="Link",
        pis=[dict(zip(("easting", "northing", "radius", "spiral_in", "spiral_out"), p, strict=True)) for p in LINK_PIS],
    )  # fmt: skip
    _, lane_road = create_road(
        project, designer, name="Tarn Lane",
        pis=[dict(zip(("easting", "northing", "radius", "spiral_in", "spiral_out"), p, strict=True)) for p in TARN_PIS],
    )  # fmt: skip
    set_speeds(lane_road, designer, revision=lane_road.revision, speeds=[[0.0, 50.0]])
    road = Road.objects.get(pk=road.pk)
    propose_profile(road, designer)
    set_profile(road, designer, [PVI.symmetric(*p) for p in LINK_PVIS], label="Lower the crest over Sheepback")
    road = Road.objects.get(pk=road.pk)
    change_road(road, designer, revision=road.revision, values={"interval": 10.0})
    road.refresh_from_db()
    set_speeds(road, designer, revision=road.revision, speeds=[[2000.0, 70.0]])
    road.refresh_from_db()
    short = next(f for f in design_findings(assemble_road(road)) if f.finding.code == "transition-short")
    accept_departure(
        road, designer, revision=road.revision, key=short.key, remark="kept short of the plot boundary east of the stream"
    )
    road.refresh_from_db()  # by itself the first bend is level across just where the crest is level along: it turns back later
    pi = RoadPI.present.filter(road=road)[1]
    pin_bend(road, designer, pi.pk, revision=road.revision, values={"full_out": -35.0, "level_out": 40.0})
    make_sections(project, designer, surface)
    vary(Road.objects.get(pk=road.pk), designer)
    project.refresh_from_db()
    mapping = SurveySet.present.get(project=project, name__startswith="mapping")
    land = {"survey": mapping.pk, "layer": "LAND", "margin": 2.0}
    change_project(project, designer, revision=project.revision, values={"land": land})
    sheets = SheetSet.present.get(road=road)
    issue_sheets(sheets, designer, revision=sheets.revision, remark="for comment")
    sheets.refresh_from_db()
    change_sheet_set(sheets, designer, revision=sheets.revision, values={"revision_mark": "P2"})
    lay_over(Road.objects.get(pk=lane_road.pk), designer)
    quarry_slip(Road.objects.get(pk=road.pk), designer)
    join_lane(Road.objects.get(pk=road.pk), Road.objects.get(pk=lane_road.pk), designer)
    cross_ferry_road(Road.objects.get(pk=road.pk), designer)
    make_access(Road.objects.get(pk=road.pk), Road.objects.get(pk=lane_road.pk), designer)
    return project


def _answer_faults(surface: Surface, designer: User) -> None:
    """The clear faults are answered; what needs somebody's judgement stays open for the newcomer to see."""
    while True:
        surface.refresh_from_db()
        clear = (f for f in ground_findings_of(assemble_surface(surface)) if f.finding.severity == "fault" and f.points)
        if (f := next(clear, None)) is None:
            return
        how = {"zero-level": "set_level", "swapped": "change_over"}.get(f.finding.code, "leave_out")
        answer_findings(surface, designer, revision=surface.revision, keys=[f.key], how=how)
