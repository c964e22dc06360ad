"""One act is one entry and one step of undo; undo is per person and refuses what somebody else has touched since."""

from __future__ import annotations

import itertools
from typing import Any

import pytest

from ivoryridge.core.errors import InputError
from ivoryridge.design.actions.bring_in_file import bring_in_file
from ivoryridge.design.actions.edit_line import change_pi, delete_pi, insert_pi
from ivoryridge.design.actions.edit_profile import change_pvi
from ivoryridge.design.actions.edit_road import create_road, delete_road
from ivoryridge.design.actions.edit_template import change_template
from ivoryridge.design.actions.propose_profile import propose_profile
from ivoryridge.design.actions.standing import redo, undo
from ivoryridge.design.models import LedgerEntry, Road, RoadPI, RoadPVI, Surface, SurveySet, Template
from ivoryridge.design.refusals import Refused, Stale
from tests.conftest import beside, plane_csv


def state(road: Road) -> list[tuple[Any, ...]]:
    """Everything a person decided about a road, without revisions."""
    road.refresh_from_db()
    pis = [(p.pk, p.easting, p.northing, p.radius, p.spiral_in, p.spiral_out) for p in RoadPI.present.filter(road=road)]
    pvis = [(p.pk, p.anchor, p.station, p.elevation, p.half_in, p.half_out) for p in RoadPVI.present.filter(road=road)]
    assert road.template is not None
    template = Template.objects.get(pk=road.template.pk)
    return [pis, pvis, (road.name, road.interval, road.removed), (template.left, template.right)]  # type: ignore[list-item]


def test_undo_and_redo_of_every_act_restore_every_value(road: Road, people: Any) -> None:
    anna = people["anna"]
    pi = RoadPI.present.filter(road=road)[1]
    acts = [
        lambda: propose_profile(road, anna),
        lambda: change_pi(road, anna, pi.pk, revision=RoadPI.objects.get(pk=pi.pk).revision, values={"radius": 150.0}),
        lambda: insert_pi(road, anna, between=beside(road, 3), values={"easting": 500_690.0, "northing": 6_200_200.0}),
        lambda: change_template(
            road.template,
            anna,
            revision=Template.objects.get(pk=road.template_id).revision,
            side="both",
            part="verge",
            values={"width": 1.5},
        ),  # type: ignore[arg-type]
        lambda: delete_pi(road, anna, RoadPI.present.filter(road=road).last().pk, revision=1),  # type: ignore[union-attr]
        lambda: delete_road(road, anna, revision=road.revision),
    ]
    states = [state(road)]
    for act in acts:
        act()
        road = Road.objects.select_related("project", "surface", "template").get(pk=road.pk)
        states.append(state(road))
    assert all(a != b for a, b in itertools.pairwise(states))
    for expected in states[-2::-1]:
        undo(road.project, anna)
        assert state(road) == expected
    for expected in states[1:]:
        redo(road.project, anna)
        assert state(road) == expected


def test_undo_of_an_import_takes_the_points_out_and_redo_brings_them_back(project: Any, people: Any) -> None:
    ben = people["ben"]
    surface = Surface.present.get(project=project)
    before = list(surface.sources)
    bring_in_file(project, ben, content=plane_csv(0.03), name="second.csv", surface_id=surface.pk)
    undo(project, ben)
    surface.refresh_from_db()
    assert surface.sources == before and SurveySet.present.filter(project=project).count() == 1
    redo(project, ben)
    surface.refresh_from_db()
    assert len(surface.sources) == 2 and SurveySet.present.filter(project=project).count() == 2


def test_undo_is_per_person_and_refused_where_somebody_touched_the_row_since(road: Road, people: Any) -> None:
    anna, ben = people["anna"], people["ben"]
    first, last = RoadPI.present.filter(road=road)[0], RoadPI.present.filter(road=road)[2]
    change_pi(road, anna, first.pk, revision=1, values={"northing": 6_200_010.0})
    change_pi(road, ben, last.pk, revision=1, values={"northing": 6_200_210.0})
    undo(road.project, anna)  # ben's later act touched another row
    first.refresh_from_db()
    assert first.northing == 6_200_000.0
    redo(road.project, anna)
    change_pi(road, ben, first.pk, revision=RoadPI.objects.get(pk=first.pk).revision, values={"northing": 6_200_020.0})
    with pytest.raises(Refused, match="ben has since changed a PI"):
        undo(road.project, anna)
    first.refresh_from_db()
    assert first.northing == 6_200_020.0
    undo(road.project, ben)
    undo(road.project, anna)
    first.refresh_from_db()
    assert first.northing == 6_200_000.0


def test_a_new_act_ends_what_could_be_done_again(road: Road, people: Any) -> None:
    anna = people["anna"]
    pi = RoadPI.present.filter(road=road)[0]
    change_pi(road, anna, pi.pk, revision=1, values={"northing": 6_200_001.0})
    undo(road.project, anna)
    create_road(road.project, anna, name="B")
    with pytest.raises(Refused, match="nothing to redo"):
        redo(road.project, anna)


def test_the_second_of_two_editors_is_told_and_shown_both_values(road: Road, people: Any) -> None:
    pi = RoadPI.present.filter(road=road)[1]
    change_pi(road, people["anna"], pi.pk, revision=pi.revision, values={"radius": 220.0})
    with pytest.raises(Stale, match=r"anna changed a PI while you were editing it \(radius: theirs 220, yours 180\)") as told:
        change_pi(road, people["ben"], pi.pk, revision=pi.revision, values={"radius": 180.0})
    assert told.value.details["theirs"] == {"radius": 220.0} and told.value.details["yours"] == {"radius": 180.0}
    pi.refresh_from_db()
    assert pi.radius == 220.0


def test_an_act_that_cannot_be_computed_leaves_no_trace(road: Road, people: Any) -> None:
    propose_profile(road, people["anna"])
    before, entries = state(road), LedgerEntry.objects.count()
    pi = RoadPI.present.filter(road=road)[1]
    with pytest.raises(InputError, match="overlap by"):
        change_pi(road, people["anna"], pi.pk, revision=pi.revision, values={"radius": 2000.0})
    pvi = RoadPVI.present.filter(road=road, anchor="station").first()
    assert pvi is not None
    with pytest.raises(InputError, match=r"lies beyond PVI \d+, which the end of the line holds at"):
        change_pvi(road, people["anna"], pvi.pk, revision=pvi.revision, values={"station": 5000.0})
    *_, bend, end = RoadPI.present.filter(road=road)
    drawn_in = {
        "easting": end.easting - 0.5 * (end.easting - bend.easting),
        "northing": end.northing - 0.5 * (end.northing - bend.northing),
    }
    with pytest.raises(InputError, match="or let the line reach further"):
        change_pi(road, people["anna"], end.pk, revision=end.revision, values=drawn_in)
    with pytest.raises(InputError, match="must lie between 2 m and 20 m"):
        values = {"lane_width": 0.5}
        change_template(road.template, people["anna"], revision=1, side="left", part="carriageway", values=values)  # type: ignore[arg-type]
    assert state(road) == before and LedgerEntry.objects.count() == entries
