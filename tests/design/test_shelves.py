"""The shelves: every link both ways, names and deletions that undo restores, and issues that stay as they were given out."""

from __future__ import annotations

import io
import itertools
import zipfile
from typing import Any

import ezdxf
import pytest

from ivoryridge.design.actions.bring_in_file import bring_in_file
from ivoryridge.design.actions.edit_ground import delete_survey, edit_ground, merge_into, take_edit_back
from ivoryridge.design.actions.edit_road import change_road
from ivoryridge.design.actions.edit_sheets import change_sheet_set, rename
from ivoryridge.design.actions.issue_sheets import issue_sheets
from ivoryridge.design.actions.propose_profile import propose_profile
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.inputs.surface import assemble_surface
from ivoryridge.design.models import Issue, Project, Road, SheetSet, Surface, SurveySet
from ivoryridge.design.pictures.shelves import shelves_picture
from ivoryridge.design.refusals import BadValue, Stale
from ivoryridge.design.results.surface import surface_of


def by_id(project: Project) -> dict[str, dict[str, Any]]:
    return {r["id"]: r for r in shelves_picture(project)}


def test_every_link_is_told_both_ways_and_follows_a_deletion_and_its_undo(project: Project, road: Road, people: Any) -> None:
    rows = by_id(project)
    survey = SurveySet.present.get(project=project)
    chain = [f"file-{survey.file_id}", f"survey-{survey.pk}", f"surface-{road.surface_id}", f"road-{road.pk}"]
    for made_from, made_into in itertools.pairwise(chain):
        assert made_into in rows[made_from]["made_into"] and made_from in rows[made_into]["made_from"]
    assert [rows[i]["shelf"] for i in chain[:2]] == ["Received", "Worked"]
    _, told = delete_survey(survey, people["anna"], revision=survey.revision)
    assert "Existing ground is made without it" in told[0] and "Undo" in told[0]
    assert f"survey-{survey.pk}" not in by_id(project) and by_id(project)[chain[0]]["made_into"] == []
    assert Surface.present.get(project=project).sources == []
    undo(project, people["anna"])
    assert by_id(project) == {k: {**v, "revision": by_id(project)[k]["revision"]} for k, v in rows.items()}


def test_names_change_and_nothing_else_does(road: Road, people: Any) -> None:
    assert road.template is not None
    before = road.template.left
    rename(road.template, people["anna"], revision=road.template.revision, name=" Rural, two lanes ")
    road.template.refresh_from_db()
    assert road.template.name == "Rural, two lanes" and road.template.left == before
    with pytest.raises(BadValue, match="Type a name"):
        rename(road.template, people["anna"], revision=road.template.revision, name="  ")


def test_an_issue_stays_as_it_was_given_out_and_its_mark_is_given_once(project: Project, road: Road, people: Any) -> None:
    anna = people["anna"]
    propose_profile(road, anna)
    sheets = SheetSet.present.get(road=road)
    doing, issue, told = issue_sheets(sheets, anna, revision=sheets.revision, remark="for approval")
    assert "Issued shelf" in told[0] and doing.label.endswith("revision P1")
    kept = {f.name: bytes(f.content) for f in issue.files.all()}
    assert [n.rsplit(".", 1)[1] for n in kept] == ["pdf", "pdf", "zip"] and all(
        c.startswith(b"%PDF") for n, c in kept.items() if n.endswith("pdf")
    )
    packed = zipfile.ZipFile(io.BytesIO(next(c for n, c in kept.items() if n.endswith("zip"))))
    assert len(ezdxf.read(io.StringIO(packed.read(packed.namelist()[0]).decode())).modelspace()) > 20
    assert issue.record["surface"].startswith("surface-") and issue.record["code"]["surface"] >= 3

    with pytest.raises(BadValue, match="with these very drawings"):
        issue_sheets(sheets, anna, revision=sheets.revision)
    road = Road.objects.get(pk=road.pk)
    change_road(road, anna, revision=road.revision, values={"name": "B"})
    sheets = SheetSet.present.get(pk=sheets.pk)
    with pytest.raises(BadValue, match=r"changed since\. Give them the next revision mark"):
        issue_sheets(sheets, anna, revision=sheets.revision)
    change_sheet_set(sheets, anna, revision=sheets.revision, values={"revision_mark": "P2"})
    with pytest.raises(Stale):
        issue_sheets(sheets, anna, revision=sheets.revision - 1)
    sheets.refresh_from_db()
    issue_sheets(sheets, anna, revision=sheets.revision)
    assert {f.name: bytes(f.content) for f in Issue.objects.get(pk=issue.pk).files.all()} == kept
    assert [r["name"] for r in shelves_picture(project) if r["shelf"] == "Issued"] == [
        "A sheets, revision P1",
        "A sheets, revision P2",
    ]
    undo(project, anna)
    assert [r["name"] for r in shelves_picture(project) if r["shelf"] == "Issued"] == ["A sheets, revision P1"]


def test_what_was_added_by_hand_comes_along_in_a_merge_and_keeps_its_edits(project: Project, people: Any) -> None:
    anna = people["anna"]
    first = Surface.present.get(project=project)
    more = "\n".join(f"{501_000 + 25 * i},{6_200_000 + 25 * j},120" for i in range(6) for j in range(6))
    _, second, _ = bring_in_file(project, anna, content=more.encode(), name="more.csv")
    place = [500_103.0, 6_200_103.0, 150.0]
    edit_ground(first, anna, revision=first.revision, edits=[{"do": "add_point", "to": place}])
    there = [501_003.0, 6_200_103.0, 160.0]
    edit_ground(
        second,
        anna,
        revision=second.revision,
        edits=[{"do": "add_point", "to": there}, {"do": "set_level", "survey": 0, "point": 0, "level": 170.0}],
    )
    first.refresh_from_db()
    merge_into(first, anna, revision=first.revision, others=[second.pk])
    first.refresh_from_db()
    assert first.edits[-1] == {"do": "set_level", "survey": 0, "point": 1, "level": 170.0}

    def levels() -> set[float]:
        return {round(float(z), 3) for z in surface_of(assemble_surface(first))[0].points[:, 2]} & {150.0, 160.0, 170.0}

    assert levels() == {150.0, 170.0}
    take_edit_back(first, anna, revision=first.revision, index=0)
    first.refresh_from_db()
    assert first.edits[-1]["point"] == 0 and levels() == {170.0}
    take_edit_back(first, anna, revision=first.revision, index=0)
    first.refresh_from_db()
    assert first.edits == [] and levels() == set()
