"""Findings against the standard: live with every change, accepted with a remark, opened again, undone; an office's own tables."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from ivoryridge.core.standards.standard import built_in_standards
from ivoryridge.design.actions.edit_line import change_pi
from ivoryridge.design.actions.edit_project import change_project
from ivoryridge.design.actions.edit_road import accept_departure, set_speeds
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.inputs import standards
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.kept import kinds
from ivoryridge.design.models import Project, Road, RoadPI
from ivoryridge.design.pictures.road import road_key, road_picture
from ivoryridge.design.refusals import BadValue, Stale


def picture(road: Road, **trial: Any) -> dict[str, Any]:
    return road_picture(with_trial(assemble_road(Road.objects.select_related("project").get(pk=road.pk)), trial))


def codes(road: Road, **trial: Any) -> set[str]:
    return {f["code"] for f in picture(road, **trial)["findings"]}


def test_findings_follow_line_speed_and_standard_also_in_a_trial(project: Project, road: Road, people: Any) -> None:
    anna = people["anna"]  # the road's bend has R 200 m and the project 85 km/h
    assert "radius-least" in codes(road)
    assert "radius-least" not in codes(road, pi={"index": 1, "radius": 300.0}) and "radius-desirable" in codes(
        road, pi={"index": 1, "radius": 300.0}
    )
    keys = {road_key(assemble_road(road))}
    set_speeds(road, anna, revision=road.revision, speeds=[[0.0, 60.0]])
    road.refresh_from_db()
    keys.add(road_key(assemble_road(road)))
    assert "radius-least" not in codes(road) and "radius-desirable" in codes(road)
    change_project(project, anna, revision=project.revision, values={"standard": "american_metric"})
    keys.add(road_key(assemble_road(Road.objects.get(pk=road.pk))))
    assert "radius-desirable" not in codes(road) and len(keys) == 3  # no view may keep what another standard has found
    undo(project, anna)
    undo(project, anna)
    assert "radius-least" in codes(road)


def test_a_departure_is_accepted_with_a_remark_until_what_it_accepts_changes(road: Road, people: Any) -> None:
    anna = people["anna"]
    found = next(f for f in picture(road)["findings"] if f["code"] == "radius-least")
    with pytest.raises(BadValue, match="Say in a few words"):
        accept_departure(road, anna, revision=road.revision, key=found["key"], remark=" ")
    with pytest.raises(BadValue, match="not there any more"):
        accept_departure(road, anna, revision=road.revision, key="radius-least PI 9 1", remark="x")
    accept_departure(road, anna, revision=road.revision, key=found["key"], remark="walls on both sides")
    now = picture(road)
    assert found["key"] not in {f.get("key") for f in now["findings"]}
    assert [(d["remark"], d["by"], d["clause"]) for d in now["departures"]] == [("walls on both sides", "anna", found["clause"])]
    with pytest.raises(Stale):
        accept_departure(road, anna, revision=road.revision - 1, key=found["key"], remark="")
    pi = RoadPI.present.filter(road=road)[1]
    change_pi(road, anna, pi.pk, revision=pi.revision, values={"radius": 190.0})
    assert "radius-least" in codes(road)  # another radius is another departure
    undo(road.project, anna)
    assert "radius-least" not in codes(road)
    road.refresh_from_db()
    accept_departure(road, anna, revision=road.revision, key=found["key"], remark="")
    assert "radius-least" in codes(road)


def test_speeds_and_standards_that_cannot_be_are_refused_and_a_lost_one_is_told(
    project: Project, road: Road, people: Any
) -> None:
    anna = people["anna"]
    for speeds, told in (([[10, 50], [10, 60]], "start at the same chainage"), ([[0, 130]], "outside 20 km/h to 120 km/h")):
        with pytest.raises(BadValue, match=told):
            set_speeds(road, anna, revision=road.revision, speeds=speeds)
    with pytest.raises(BadValue, match="no such standard"):
        change_project(project, anna, revision=project.revision, values={"standard": "moon"})
    Project.objects.filter(pk=project.pk).update(standard="gone")
    now = picture(road)
    assert "'gone' is not there any more" in now["problems"]["standard"]["sentence"] and now["line"] is not None


def test_an_offices_own_file_takes_the_place_of_the_one_that_ships(road: Road, settings: Any, tmp_path: Path) -> None:
    settings.STANDARDS_DIR = tmp_path
    assert "radius-least" in codes(road)
    text = (Path(standards.__file__).parents[2] / "core/standards/sets/british_metric.toml").read_text()
    own = text.replace("unverified: check your edition", "confirmed by M. Hale, 2026-03-01").replace(
        "radius = 255, radius_desirable = 510", "radius = 150, radius_desirable = 190"
    )
    assert own != text
    (tmp_path / "british_metric.toml").write_text(own)
    assert "radius-least" not in codes(road)
    kinds.clear_memory()
    found = [f for f in picture(road)["findings"] if "status" in f]
    assert found and all(f["status"].startswith(("confirmed by M. Hale", "common practice")) for f in found)
    assert set(standards.all_standards()) == set(built_in_standards())
