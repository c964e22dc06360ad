"""Several people at once, and views that agree: writes race, sheets and pictures follow."""

from __future__ import annotations

import threading
from typing import Any

import pytest
from django.db import connections

from ivoryridge.core.sheets.render_pdf import render_pdf
from ivoryridge.design.actions.edit_line import change_pi
from ivoryridge.design.actions.edit_road import change_road, create_road, delete_road
from ivoryridge.design.actions.edit_sheets import change_sheet_set
from ivoryridge.design.actions.edit_surface import change_surface, delete_surface
from ivoryridge.design.actions.propose_profile import propose_profile
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import LedgerEntry, Road, RoadPI, SheetSet, Surface
from ivoryridge.design.pictures.earthwork import volumes_picture
from ivoryridge.design.pictures.project import project_picture
from ivoryridge.design.pictures.road import road_picture, trial_pictures
from ivoryridge.design.pictures.section import section_picture
from ivoryridge.design.refusals import BadValue, Stale
from ivoryridge.design.results.road import design_road
from ivoryridge.design.results.sheets import plan_sheets, section_sheets, sheet_list, sheets_key


def fresh(road: Road) -> Road:
    return Road.objects.select_related("project", "surface", "template").get(pk=road.pk)


@pytest.mark.django_db(transaction=True, databases=["default", "derived"])
def test_of_two_writes_that_race_exactly_one_is_kept(project: Any, people: Any) -> None:
    road = fresh(Road.objects.get(project=project))
    pi = RoadPI.present.filter(road=road)[1]
    start, outcomes = threading.Barrier(2), []

    def write(name: str, radius: float) -> None:
        try:
            start.wait()
            change_pi(fresh(road), people[name], pi.pk, revision=1, values={"radius": radius})
            outcomes.append(radius)
        except Stale as refused:
            outcomes.append(refused.details["theirs"]["radius"])
        finally:
            connections.close_all()

    threads = [threading.Thread(target=write, args=a) for a in (("anna", 150.0), ("ben", 170.0))]
    [t.start() for t in threads]
    [t.join() for t in threads]
    pi.refresh_from_db()
    assert outcomes == [pi.radius, pi.radius] and pi.revision == 2
    assert LedgerEntry.objects.filter(label__startswith="Change PI").count() == 1


def test_sheets_follow_the_road_and_equal_inputs_give_equal_paper(road: Road, people: Any) -> None:
    propose_profile(road, people["anna"])
    sheets = SheetSet.objects.select_related("road__project", "road__surface", "road__template", "project").get(road=road)
    key, pdf = sheets_key(sheets), render_pdf(plan_sheets(sheets), title="t")
    listed = sheet_list(sheets)
    assert listed["frames"][0]["from"] == 0 and len(listed["frames"][0]["corners"]) == 4
    assert section_sheets(sheets)[0].title.startswith("A, cross sections")
    pi = RoadPI.present.filter(road=road)[1]
    change_pi(fresh(road), people["anna"], pi.pk, revision=1, values={"radius": 150.0})
    sheets = SheetSet.objects.get(pk=sheets.pk)
    assert sheets_key(sheets) != key and render_pdf(plan_sheets(sheets), title="t") != pdf
    from ivoryridge.design.actions.standing import undo

    undo(road.project, people["anna"])
    sheets = SheetSet.objects.get(pk=sheets.pk)
    assert sheets_key(sheets) == key and render_pdf(plan_sheets(sheets), title="t") == pdf
    change_sheet_set(sheets, people["anna"], revision=sheets.revision, values={"paper": "A3"})
    assert len(sheet_list(SheetSet.objects.get(pk=sheets.pk))["frames"]) > len(listed["frames"]) - 1
    assert plan_sheets(SheetSet.objects.get(pk=sheets.pk))[0].width == 420


def test_the_section_at_the_mark_is_the_same_alone_in_a_trial_and_in_the_corridor(road: Road, people: Any) -> None:
    propose_profile(road, people["anna"])
    inputs = assemble_road(fresh(road))
    for station in (100.0, 137.25):  # at a section of the corridor, and between two
        alone = section_picture(inputs, station)
        trial = list(trial_pictures(with_trial(assemble_road(fresh(road)), {}), mark=station))[1]["section"]
        assert alone["sides"] == trial["sides"] and alone["cut"] == pytest.approx(trial["cut"], abs=1e-9)
    results = design_road(inputs)
    assert results.areas is not None and results.corridor is not None
    row = next(r for r in volumes_picture(inputs)["rows"] if r["station"] == 100.0)
    assert row["cut_area"] == pytest.approx(section_picture(inputs, 100.0)["cut"], abs=1e-9)
    with_mark = design_road(assemble_road(fresh(road)), 137.25)
    assert with_mark.volumes is not None and results.volumes is not None
    assert with_mark.volumes.cumulative_cut[-1] == results.volumes.cumulative_cut[-1]


def test_what_is_deleted_names_what_depends_on_it(road: Road, people: Any) -> None:
    surface = Surface.present.get(project=road.project)
    _, told = delete_surface(surface, people["anna"], revision=surface.revision)
    assert told == ["Existing ground is deleted. A had it as ground and has none now. Undo brings it back."]
    assert assemble_road(fresh(road)).surface is None
    _, told = delete_road(fresh(road), people["anna"], revision=road.revision)
    assert "its 3 PIs, 0 PVIs and its sheets" in told[0]
    assert project_picture(road.project, "owner", people["anna"])["roads"] == []


def test_names_are_made_free_and_renaming_breaks_nothing(road: Road, people: Any) -> None:
    _, second = create_road(road.project, people["ben"], name="A")
    assert second.name == "A 2"
    propose_profile(road, people["anna"])
    before = road_picture(assemble_road(fresh(road)))
    road = fresh(road)
    change_road(road, people["anna"], revision=road.revision, values={"name": "Main street"})
    after = road_picture(assemble_road(fresh(road)))
    assert after["earthwork"] == before["earthwork"] and after["key"] != before["key"]


def test_values_out_of_range_and_rows_of_other_projects_are_refused(road: Road, people: Any) -> None:
    from ivoryridge.design.models import Project

    other = Surface.objects.create(project=Project.objects.create(name="Other"), name="Theirs", sources=[])
    with pytest.raises(BadValue, match="no such surface in this project"):
        change_road(road, people["anna"], revision=road.revision, values={"surface_id": other.pk})
    with pytest.raises(BadValue, match="use at least 0"):
        change_road(fresh(road), people["anna"], revision=road.revision, values={"interval": 0.1})
    surface = Surface.present.get(project=road.project)
    with pytest.raises(BadValue, match="must be above 0 m"):
        change_surface(surface, people["anna"], revision=surface.revision, values={"greatest_edge": -3.0})
