"""When a PI moves, each PVI keeps what it is anchored to; these are the outcomes, one by one."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from numpy.testing import assert_allclose

from ivoryridge.core.alignment.horizontal import project_points, tangent_points
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import InputError
from ivoryridge.design.actions.edit_line import change_pi, delete_pi, insert_pi
from ivoryridge.design.actions.edit_profile import change_pvi, delete_pvi, insert_pvi, set_guides, set_profile
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road, RoadPI, RoadPVI
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.guides import guides_picture
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from tests.conftest import beside


@pytest.fixture
def anchored(road: Road, people: Any) -> dict[str, int]:
    """A PVI of every anchor: start and end come by themselves."""
    anna = people["anna"]
    ids = {}
    for name, station in (("station", 120.0), ("place", 180.0), ("tangent", 330.0)):
        insert_pvi(road, anna, station=station, elevation=101.0 + station / 100)
        row = RoadPVI.present.filter(road=road).latest("id")
        if name != "station":
            change_pvi(road, anna, row.pk, revision=row.revision, values={"anchor": name})
        ids[name] = row.pk
    ids |= {r.anchor: r.pk for r in RoadPVI.present.filter(road=road, anchor__in=("start", "end"))}
    return ids


def stations(road: Road) -> dict[int, float]:
    levels = levels_of(assemble_road(road))
    return {r.id: p.station for r, p in zip(levels.rows, levels.pvis, strict=True)}


def test_each_anchor_keeps_its_own_when_a_pi_moves(road: Road, people: Any, anchored: dict[str, int]) -> None:
    before, old_line = stations(road), line_of(assemble_road(road))
    elevations = dict(RoadPVI.present.filter(road=road).values_list("pk", "elevation"))
    pi = RoadPI.present.filter(road=road)[1]
    _, told = change_pi(road, people["anna"], pi.pk, revision=pi.revision, values={"easting": 500_330.0, "northing": 6_199_985.0})
    after, line = stations(road), line_of(assemble_road(road))

    assert after[anchored["station"]] == 120.0
    assert after[anchored["start"]] == line.start_station == 0.0
    assert after[anchored["end"]] == pytest.approx(line.end_station) != pytest.approx(old_line.end_station)
    place = old_line.evaluate(before[anchored["place"]])[0]
    assert after[anchored["place"]] == pytest.approx(float(project_points(line, place).station[0]), abs=1e-9)
    assert after[anchored["place"]] != pytest.approx(before[anchored["place"]], abs=1e-3)
    row = RoadPVI.objects.get(pk=anchored["tangent"])
    old, new = tangent_points(old_line, 1)[row.tangent_point], tangent_points(line, 1)[row.tangent_point]
    assert after[anchored["tangent"]] - new == pytest.approx(before[anchored["tangent"]] - old, abs=1e-6)
    assert dict(RoadPVI.present.filter(road=road).values_list("pk", "elevation")) == elevations
    assert len(told) == 3 and any("kept its place" in t for t in told) and any("kept the end" in t for t in told)


def test_a_trial_moves_them_as_the_act_will(road: Road, people: Any, anchored: dict[str, int]) -> None:
    moved = {"easting": 500_330.0, "northing": 6_199_985.0}
    trial = levels_of(with_trial(assemble_road(road), {"pi": {"index": 1, **moved}}))
    pi = RoadPI.present.filter(road=road)[1]
    change_pi(road, people["anna"], pi.pk, revision=pi.revision, values=moved)
    assert {r.id: p.station for r, p in zip(trial.rows, trial.pvis, strict=True)} == stations(road)


def test_a_pi_inserted_before_leaves_the_tangent_anchor_on_its_own_pi(road: Road, people: Any, anchored: dict[str, int]) -> None:
    insert_pi(road, people["anna"], between=beside(road, 1), values={"easting": 500_100.0, "northing": 6_200_000.0})
    line = line_of(assemble_road(road))
    row = RoadPVI.objects.get(pk=anchored["tangent"])
    assert stations(road)[anchored["tangent"]] == pytest.approx(tangent_points(line, 2)[row.tangent_point] + row.ahead)


def test_deleting_the_pi_keeps_the_station_and_says_so(road: Road, people: Any, anchored: dict[str, int]) -> None:
    before = stations(road)[anchored["tangent"]]
    insert_pi(road, people["anna"], between=beside(road, 3), values={"easting": 500_690.0, "northing": 6_200_200.0})
    pi = RoadPI.present.filter(road=road)[1]
    _, told = delete_pi(road, people["anna"], pi.pk, revision=pi.revision)
    row = RoadPVI.objects.get(pk=anchored["tangent"])
    assert (row.anchor, row.station) == ("station", pytest.approx(before))
    assert "now held by its chainage 0+330.000" in told[0]


def test_taking_the_radius_away_from_under_an_anchor_is_refused(road: Road, people: Any, anchored: dict[str, int]) -> None:
    pi = RoadPI.present.filter(road=road)[1]
    with pytest.raises(InputError, match="has no curve any more"):
        change_pi(road, people["anna"], pi.pk, revision=pi.revision, values={"radius": 0.0, "spiral_in": 0.0, "spiral_out": 0.0})


def test_dragging_keeps_the_kind_of_anchor(road: Road, people: Any, anchored: dict[str, int]) -> None:
    for name, station in (("place", 200.0), ("tangent", 340.0)):
        row = RoadPVI.objects.get(pk=anchored[name])
        change_pvi(road, people["anna"], row.pk, revision=row.revision, values={"station": station, "elevation": 103.0})
        row.refresh_from_db()
        assert row.anchor == name
        assert stations(road)[row.pk] == pytest.approx(station, abs=1e-6)
    with pytest.raises(BadValue, match="hold the ends of the profile"):
        delete_pvi(road, people["anna"], anchored["end"], revision=RoadPVI.objects.get(pk=anchored["end"]).revision)


def test_a_new_start_station_moves_what_hangs_on_the_line_and_not_what_hangs_on_a_chainage(
    road: Road, people: Any, anchored: dict[str, int]
) -> None:
    from ivoryridge.design.actions.edit_road import change_road

    before = stations(road)
    change_road(road, people["anna"], revision=road.revision, values={"start_station": 100.0})
    road.refresh_from_db()
    after = stations(road)
    moved = {k: after[anchored[k]] - before[anchored[k]] for k in anchored}
    assert_allclose([moved[k] for k in ("start", "end", "place", "tangent")], 100.0, rtol=0, atol=1e-6)
    assert moved["station"] == 0.0
    assert np.isfinite(list(after.values())).all()


def test_a_guide_stays_where_it_was_when_the_grade_it_was_parallel_to_goes(road: Road, people: Any) -> None:
    anna = people["anna"]
    set_profile(road, anna, [PVI(0, 100), PVI.symmetric(300, 106, 60), PVI(500, 104)], label="Levels")
    second = RoadPVI.present.filter(road=road, anchor="station").get()
    guides = [
        {"id": "A", "kind": "parallel", "of": f"after-{second.pk}", "rise": 2.0},
        {"id": "B", "kind": "parallel", "of": "A", "rise": 1.0},
    ]
    set_guides(road, anna, revision=road.revision, guides=guides)
    road.refresh_from_db()
    before = guides_picture(assemble_road(road), levels_of(assemble_road(road)))["guides"]
    assert before[0]["line"][:2] == [300.0, 108.0]
    delete_pvi(road, anna, second.pk, revision=second.revision)
    road.refresh_from_db()
    after = guides_picture(assemble_road(road), levels_of(assemble_road(road)))["guides"]
    assert [g["kind"] for g in after] == ["grade", "parallel"] and [g["line"] for g in after] == [g["line"] for g in before]
    undo(road.project, anna)
    road.refresh_from_db()
    assert road.guides == guides
    set_guides(road, anna, revision=road.revision, guides=guides[1:])  # its parent deleted: B stands on its own
    road.refresh_from_db()
    assert road.guides[0]["kind"] == "grade" and road.guides[0]["level"] == pytest.approx(109.0)
