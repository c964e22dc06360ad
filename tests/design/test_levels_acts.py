"""Profiles as a whole: fixed points, candidates, raising, a curve through a point, an end that follows another road in level."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest

from ivoryridge.core.alignment.horizontal import project_points
from ivoryridge.core.alignment.vertical import PVI
from ivoryridge.core.errors import NoSolutionError
from ivoryridge.design.actions import edit_levels as levels
from ivoryridge.design.actions.edit_course import tie_end
from ivoryridge.design.actions.edit_crossfall import set_crossfall
from ivoryridge.design.actions.edit_profile import change_pvi, set_profile
from ivoryridge.design.actions.edit_road import create_road
from ivoryridge.design.actions.propose_profile import propose_profile
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.models import Road, RoadPVI
from ivoryridge.design.pictures.beside import beside_picture, candidates_picture
from ivoryridge.design.pictures.road import road_key
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.against import design_findings
from ivoryridge.design.results.crossfall import crossfall_of
from ivoryridge.design.results.earthwork import areas_of
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from tests.design.test_courses import designer, fresh, link  # noqa: F401


def test_a_fixed_point_is_a_finding_until_the_fit_hits_it(link: Road, designer: Any) -> None:  # noqa: F811
    at = levels_of(assemble_road(link)).profile.evaluate(1700.0)[0][0]
    points = [{"station": 1700.0, "level": round(float(at) + 2.0, 3), "kind": "above", "name": "flood level"}]
    levels.set_fixed_points(link, designer, revision=link.revision, points=points)
    found = [f for f in design_findings(assemble_road(fresh(link))) if f.finding.code == "fixed-missed"]
    assert [round(f.limit - f.value, 3) for f in found] == [2.0] and "stay above flood level" in found[0].finding.sentence
    propose_profile(fresh(link), designer)
    inputs = assemble_road(fresh(link))
    assert levels_of(inputs).profile.evaluate(1700.0)[0][0] >= points[0]["level"] - 0.002
    codes = {f.finding.code for f in design_findings(inputs) if f.finding.severity == "fault"}
    assert not codes & {"fixed-missed", "grade-steep", "k-least"}
    levels.set_fixed_points(
        fresh(link),
        designer,
        revision=fresh(link).revision,
        points=[
            {"station": 300.0, "level": 95.0, "kind": "exact", "name": "a bridge in the sky"},
            {"station": 400.0, "level": 50.0, "kind": "exact"},
        ],
    )
    before = list(RoadPVI.present.filter(road=link).values_list("pk", flat=True))
    with pytest.raises(
        NoSolutionError,
        match=r"greatest grade of 6\.00 %; .*a bridge in the sky 95\.000 m at 300\.00 m; the fixed level 50\.000 m",
    ):
        propose_profile(fresh(link), designer)
    assert list(RoadPVI.present.filter(road=link).values_list("pk", flat=True)) == before  # nothing is lost
    with pytest.raises(BadValue, match="lies outside the road"):
        levels.set_fixed_points(
            fresh(link), designer, revision=fresh(link).revision, points=[{"station": 9000.0, "level": 1.0, "kind": "exact"}]
        )


def test_a_balanced_fit_balances_the_volumes_of_the_corridor(link: Road, designer: Any) -> None:  # noqa: F811
    propose_profile(link, designer, balance=True)
    _, volumes = areas_of(assemble_road(fresh(link)))
    assert volumes.cumulative_fill[-1] == pytest.approx(volumes.cumulative_cut[-1], rel=0.02)


def test_candidates_are_kept_apart_compared_and_undone(link: Road, designer: Any) -> None:  # noqa: F811
    first = areas_of(assemble_road(link))[1].cumulative_cut[-1]
    levels.add_candidate(link, designer, revision=link.revision, name="Lower")
    levels.raise_pvis(fresh(link), designer, rise=-1.0)
    rows = {c["name"]: c for c in candidates_picture(fresh(link))}
    assert rows["Lower"]["used"] and rows["First"]["cut"] == pytest.approx(first) and rows["Lower"]["cut"] > first
    assert np.array(rows["First"]["points"])[0, 1] - np.array(rows["Lower"]["points"])[0, 1] == pytest.approx(1.0)
    with pytest.raises(BadValue, match="is in use"):
        levels.delete_candidate(fresh(link), designer, revision=fresh(link).revision, candidate="1")
    levels.choose_candidate(fresh(link), designer, revision=fresh(link).revision, candidate="")
    assert areas_of(assemble_road(fresh(link)))[1].cumulative_cut[-1] == pytest.approx(first)
    levels.delete_candidate(fresh(link), designer, revision=fresh(link).revision, candidate="1")
    assert fresh(link).candidates == [] and not RoadPVI.present.filter(road=link, candidate="1")
    undo(link.project, designer)
    assert len(RoadPVI.present.filter(road=link, candidate="1")) == 6


def test_pvis_of_a_range_are_raised_together_and_a_curve_passes_its_point(link: Road, designer: Any) -> None:  # noqa: F811
    before = [p.elevation for p in levels_of(assemble_road(link)).pvis]
    levels.raise_pvis(link, designer, rise=0.5, station_from=1000.0, station_to=1800.0)
    assert [p.elevation for p in levels_of(assemble_road(link)).pvis] == pytest.approx(
        [v + 0.5 * (i in (2, 3)) for i, v in enumerate(before)]
    )
    with pytest.raises(BadValue, match="No PVI lies"):
        levels.raise_pvis(link, designer, rise=0.5, station_from=10.0, station_to=20.0)
    now = levels_of(assemble_road(link))
    crest = now.rows[2]
    point = (1040.0, float(now.pvis[2].elevation) - 1.2)
    levels.curve_through(link, designer, crest.id, revision=crest.revision, point=point)
    assert levels_of(assemble_road(link)).profile.evaluate(point[0])[0][0] == pytest.approx(point[1], abs=0.002)


def test_a_tied_end_takes_the_level_of_the_other_roads_edge(link: Road, demo: Any, designer: Any) -> None:  # noqa: F811
    places = ((412_600.0, 686_700.0), (412_650.0, 686_860.0))
    _, spur = create_road(demo, designer, name="Spur", pis=[{"easting": e, "northing": n} for e, n in places])
    set_profile(spur, designer, [PVI(0, 52), PVI(160, 53)], label="Draw a profile")
    tie_end(fresh(spur), designer, revision=fresh(spur).revision, end="end", other=link, station=None, level="edge")
    tied = fresh(spur).ties["end"]["station"]

    def at_the_edge() -> tuple[float, float]:
        """Chainage of the spur and level where it crosses the link's edge, by looking at a place every millimetre of its last 10 m."""
        inputs, main = assemble_road(fresh(spur)), assemble_road(fresh(link))
        line = line_of(inputs)
        s = np.arange(line.end_station - 10, line.end_station, 0.001)
        seen = project_points(line_of(main), line.evaluate(s)[0])
        at = int(np.argmin(np.abs(np.abs(seen.offset) - 3.65)))
        turning = crossfall_of(main)
        assert turning is not None
        right = float(
            turning.diagram.rates(seen.station[at])[1][0]
        )  # the spur comes from the south, on the right of a road to the east
        return float(s[at]), float(levels_of(main).profile.evaluate(seen.station[at])[0][0]) + 3.65 * right

    where, level = at_the_edge()
    pvi, profile = levels_of(assemble_road(fresh(spur))).pvis[-1], levels_of(assemble_road(fresh(spur))).profile
    assert (pvi.station, pvi.elevation) == pytest.approx((where, level), abs=0.001) and where < profile.station[-1] - 3.6
    centre = float(levels_of(assemble_road(link)).profile.evaluate(tied)[0][0])
    assert profile.evaluate(profile.station[-1])[0][0] == pytest.approx(centre, abs=1e-6)  # over the lane the level is the link's
    seen, key = levels_of(assemble_road(link)).rows[2], road_key(assemble_road(fresh(spur)))
    change_pvi(link, designer, seen.id, revision=seen.revision, values={"elevation": seen.elevation + 1.0})
    lifted = levels_of(assemble_road(fresh(spur))).pvis[-1].elevation
    assert lifted == pytest.approx(at_the_edge()[1], abs=0.001) and lifted > level + 0.1
    assert road_key(assemble_road(fresh(spur))) != key  # the picture of what hangs on it is another one, too


def test_a_tie_to_the_centre_follows_the_axis_of_turning(link: Road, demo: Any, designer: Any) -> None:  # noqa: F811
    """The main road's centre rises where it turns about its inner edge; the side road's old level would be wrong by that."""
    turning = crossfall_of(assemble_road(link))
    assert turning is not None
    bend = turning.diagram.bends[0]
    full = 0.5 * (bend.full_in + bend.full_out)
    place, azimuth, _ = line_of(assemble_road(link)).evaluate(full)
    out = place[0] + 150 * np.array([np.cos(azimuth[0]), -np.sin(azimuth[0])])
    pis = [{"easting": float(e), "northing": float(n)} for e, n in (out, place[0])]
    _, spur = create_road(demo, designer, name="Spur", pis=pis)
    set_profile(spur, designer, [PVI(0, 52), PVI(150, 53)], label="Draw a profile")
    tie_end(fresh(spur), designer, revision=fresh(spur).revision, end="end", other=link, station=full, level="centre")
    before = levels_of(assemble_road(fresh(spur))).pvis[-1].elevation
    set_crossfall(fresh(link), designer, revision=fresh(link).revision, values={"axis": "inner"})
    after = levels_of(assemble_road(fresh(spur))).pvis[-1].elevation
    rate = abs(float(turning.diagram.rates(full)[0][0]))
    assert (
        after - before == pytest.approx(3.65 * (rate - 0.025), abs=1e-6) and after - before > 0.05
    )  # the inner lane falls by its rate


def test_what_stands_beside_the_profile(link: Road, demo: Any) -> None:  # noqa: F811
    picture = beside_picture(fresh(link), [15.0, -15.0], [])
    assert [g["name"] for g in picture["grounds"]] == ["15 m right", "15 m left"]
    crossing = next(c for c in picture["crossings"] if c["name"] == "Tarn Lane")
    lane, line = (
        line_of(assemble_road(Road.objects.select_related("project").get(project=demo, name="Tarn Lane"))),
        line_of(assemble_road(link)),
    )
    from ivoryridge.core.alignment.horizontal import project_points

    place = line.evaluate(crossing["station"])[0]
    assert abs(project_points(lane, place).offset[0]) < 0.05
