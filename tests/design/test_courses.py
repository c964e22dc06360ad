"""Whole lines: reversed, split, joined, parallel, kept by elements, tied. What hangs on them goes along."""

from __future__ import annotations

from typing import Any

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from ivoryridge.core.alignment.horizontal import project_points
from ivoryridge.core.errors import InputError
from ivoryridge.design.actions import edit_course as course
from ivoryridge.design.actions import edit_line
from ivoryridge.design.actions.edit_crossfall import pin_bend
from ivoryridge.design.actions.edit_line import change_pi, delete_pi, insert_pi
from ivoryridge.design.actions.edit_profile import set_guides
from ivoryridge.design.actions.edit_road import create_road, delete_road
from ivoryridge.design.actions.join_lines import join_roads, split_road
from ivoryridge.design.actions.lines_in import bring_in_lines
from ivoryridge.design.actions.standing import undo
from ivoryridge.design.edits.trial import with_trial
from ivoryridge.design.inputs.network import assemble_road
from ivoryridge.design.inputs.road import chainage_words
from ivoryridge.design.models import Road, RoadPI, RoadPVI, Variation
from ivoryridge.design.pictures.road import road_picture
from ivoryridge.design.refusals import BadValue
from ivoryridge.design.results.against import design_findings
from ivoryridge.design.results.corridor import corridor_of
from ivoryridge.design.results.earthwork import areas_of
from ivoryridge.design.results.levels import levels_of
from ivoryridge.design.results.line import line_of
from tests.conftest import beside


@pytest.fixture
def link(demo: Any) -> Road:
    return fresh(Road.objects.get(project=demo, name="Link"))


@pytest.fixture
def designer(demo: Any) -> Any:
    return (
        demo.members.get(username="designer")
        if hasattr(demo, "members")
        else demo.memberships.get(user__username="designer").user
    )


def fresh(road: Road) -> Road:
    return Road.objects.select_related("project", "surface", "template").get(pk=road.pk)


def kept(road: Road) -> dict[str, Any]:
    """Every stored value of a road and its rows, without revisions."""
    drop = {"id", "revision"}
    rows = [list(model.present.filter(road=road).values()) for model in (RoadPI, RoadPVI, Variation)]
    own = Road.objects.filter(pk=road.pk).values().get()
    return {
        "road": {k: v for k, v in own.items() if k not in drop},
        "rows": [[{k: v for k, v in r.items() if k != "revision"} for r in t] for t in rows],
    }


def test_reversing_mirrors_all_and_twice_restores_every_value(link: Road, designer: Any) -> None:
    pi = RoadPI.present.filter(road=link)[1]
    pvi = RoadPVI.present.filter(road=link, anchor="station")[0]
    RoadPVI.objects.filter(pk=pvi.pk).update(
        anchor="tangent", anchor_pi=pi, tangent_point="TS", ahead=-12.5, station=None, half_in=80.0, half_out=120.0
    )
    levels = levels_of(assemble_road(link))
    guides = [
        {"id": "a", "kind": "grade", "station": 700.0, "level": 50.0, "grade": 0.02},
        {"id": "b", "kind": "parallel", "of": f"after-{levels.rows[1].id}", "rise": 1.5},
    ]
    set_guides(link, designer, revision=link.revision, guides=guides)
    link = fresh(link)
    before, inputs = kept(link), assemble_road(link)
    line, areas = line_of(inputs), areas_of(inputs)[1]
    found = sorted(f.value for f in design_findings(inputs))

    course.reverse_road(link, designer, revision=link.revision)
    link = fresh(link)
    turned = assemble_road(link)
    back = line_of(turned)
    s = np.linspace(0, line.end_station, 50)
    assert back.evaluate(line.end_station - s)[0] == pytest.approx(line.evaluate(s)[0], abs=1e-6)
    z, grade = levels_of(turned).profile.evaluate(line.end_station - s)
    was, sloped = levels.profile.evaluate(s)
    assert z == pytest.approx(was, abs=1e-6) and grade == pytest.approx(-sloped, abs=1e-9)
    assert areas_of(turned)[1].cumulative_cut[-1] == pytest.approx(areas.cumulative_cut[-1], rel=2e-3)  # sections stand elsewhere
    left = max(np.nanmax(b.left.across) for b in corridor_of(inputs).blocks)
    assert left == pytest.approx(max(np.nanmax(b.right.across) for b in corridor_of(turned).blocks), abs=0.5)
    assert sorted(f.value for f in design_findings(turned)) == pytest.approx(found, abs=1e-6)
    assert {f.key for f in design_findings(turned)} >= set(link.departures)  # what was accepted is still known

    course.reverse_road(link, designer, revision=link.revision)
    assert kept(link) == before


def test_a_parallel_follows_and_can_be_set_free(link: Road, designer: Any) -> None:
    _, beside = course.create_course(
        link.project, designer, name="Track", course={"kind": "offset", "road": link.pk, "offset": 25.0}, like=link
    )
    pi = RoadPI.present.filter(road=link)[1]
    change_pi(link, designer, pi.pk, revision=pi.revision, values={"northing": pi.northing + 6})
    line, parallel = line_of(assemble_road(fresh(link))), line_of(assemble_road(fresh(beside)))
    places = parallel.evaluate(np.linspace(parallel.start_station, parallel.end_station, 60))[0]
    assert project_points(line, places).offset == pytest.approx(np.full(60, 25.0), abs=1e-6)
    with pytest.raises(BadValue, match="runs as the road it is parallel to"):
        course.reverse_road(fresh(beside), designer, revision=fresh(beside).revision)
    course.reverse_road(fresh(link), designer, revision=fresh(link).revision)
    again = line_of(assemble_road(fresh(beside))).evaluate(np.linspace(parallel.start_station, parallel.end_station, 60))[0]
    assert again == pytest.approx(places, abs=1e-6)  # it lies where it lay, in its own direction

    _, told = delete_road(fresh(link), designer, revision=fresh(link).revision)
    assert any("Track hung on it and stays" in t for t in told)
    free = line_of(assemble_road(fresh(beside)))
    assert free.evaluate(np.linspace(parallel.start_station, parallel.end_station, 60))[0] == pytest.approx(places, abs=1e-9)
    _, told = course.convert_line(fresh(beside), designer, revision=fresh(beside).revision)
    assert "4 PIs now. The line moved by at most" in told[0]  # a parallel of a clothoid is none
    undo(link.project, designer)
    assert fresh(beside).course["kind"] == "elements"


def test_lines_of_a_file_keep_their_elements(demo: Any, link: Road, client_of: Any, designer: Any, client: Any) -> None:
    client.force_login(designer)
    content = client.get(f"/api/projects/{demo.pk}/landxml").content
    answer = client.post(f"/api/projects/{demo.pk}/lines", {"file": SimpleUploadedFile("roads.xml", content)})
    assert answer.status_code == 200 and "elements kept as they came" in answer.json()["told"][0]
    twin = Road.objects.get(project=demo, name="Link 2")
    ours, theirs = line_of(assemble_road(link)), line_of(assemble_road(fresh(twin)))
    for name in ("start", "azimuth", "length", "k0", "k1"):
        assert getattr(theirs, name) == pytest.approx(getattr(ours, name), abs=1e-9)
    s = np.linspace(0, ours.end_station, 40)
    assert levels_of(assemble_road(fresh(twin))).profile.evaluate(s)[0] == pytest.approx(
        levels_of(assemble_road(link)).profile.evaluate(s)[0], abs=1e-9
    )
    picture = road_picture(assemble_road(fresh(twin)))
    assert len(picture["pis"]) == 4 and all(p["id"] is None for p in picture["pis"])  # for show: what PIs it would have
    _, told = course.convert_line(fresh(twin), designer, revision=fresh(twin).revision)
    assert "less than 0.1 mm" in told[0]
    with pytest.raises(Exception, match="has no alignment"):
        bring_in_lines(
            demo,
            designer,
            content=b'<?xml version="1.0"?><LandXML xmlns="http://www.landxml.org/schema/LandXML-1.2" version="1.2"><Units><Metric '
            b'linearUnit="meter"/></Units></LandXML>',
            name="empty.xml",
        )


def test_a_tied_end_follows_the_other_road_and_a_circle_is_named(link: Road, demo: Any, designer: Any) -> None:
    places = ((412_600.0, 686_700.0), (412_650.0, 686_860.0))
    _, lane = create_road(demo, designer, name="Spur", pis=[{"easting": e, "northing": n} for e, n in places])
    _, told = course.tie_end(lane, designer, revision=lane.revision, end="end", other=link, station=None)
    station = fresh(lane).ties["end"]["station"]
    assert "is tied to Link at 0+" in told[0]
    pi = RoadPI.present.filter(road=link)[1]
    change_pi(link, designer, pi.pk, revision=pi.revision, values={"northing": pi.northing + 4})
    end = line_of(assemble_road(fresh(lane)))
    assert end.evaluate(end.end_station)[0][0] == pytest.approx(
        line_of(assemble_road(fresh(link))).evaluate(station)[0][0], abs=1e-6
    )
    with pytest.raises(InputError, match="Link on Spur on Link: these lines hang on one another"):
        course.tie_end(fresh(link), designer, revision=fresh(link).revision, end="end", other=fresh(lane), station=10.0)
    place = end.evaluate(end.end_station)[0][0]
    course.untie_end(fresh(lane), designer, revision=fresh(lane).revision, end="end")
    assert list(RoadPI.present.filter(road=lane).values_list("easting", "northing"))[-1] == pytest.approx(tuple(place))


def test_both_parts_of_a_held_straight_stay_held_when_it_is_split(link: Road, designer: Any) -> None:
    row = RoadPI.present.filter(road=link)[1]
    edit_line.hold(link, designer, row.pk, revision=row.revision, what="straight", held=True)
    _, _, rest = split_road(fresh(link), designer, revision=fresh(link).revision, station=1250.0)
    parts = [[r.straight_held for r in RoadPI.present.filter(road=r)] for r in (link, rest)]
    assert parts == [[False, True, False], [True, False, False]]
    join_roads(fresh(link), designer, revision=fresh(link).revision, other=fresh(rest))
    assert [r.straight_held for r in RoadPI.present.filter(road=link)] == [False, True, False, False]


def test_split_and_joined_again_a_road_is_what_it_was(link: Road, designer: Any) -> None:
    pi = RoadPI.present.filter(road=link)[2]
    pin_bend(link, designer, pi.pk, revision=link.revision, values={"rate": 0.05})
    link = fresh(link)
    before = assemble_road(link)
    line, levels = line_of(before), levels_of(before)
    with pytest.raises(BadValue, match="lies in the bend at PI 2, from 0\\+593"):
        split_road(link, designer, revision=link.revision, station=800.0)
    with pytest.raises(BadValue, match="lies in the vertical curve at PVI 3"):
        split_road(link, designer, revision=link.revision, station=1100.0)
    _, _, rest = split_road(link, designer, revision=link.revision, station=1250.0)
    first, second = (line_of(assemble_road(fresh(r))) for r in (link, rest))
    assert (first.end_station, second.start_station) == (pytest.approx(1250.0), 1250.0) and second.end_station == pytest.approx(
        line.end_station
    )
    assert fresh(rest).speeds == [[2000.0, 70.0]] and fresh(link).speeds == []
    assert len(fresh(rest).crossfall["bends"]) == 1 and len(fresh(link).crossfall["bends"]) == 1
    join_roads(fresh(link), designer, revision=fresh(link).revision, other=fresh(rest))
    whole = assemble_road(fresh(link))
    s = np.linspace(0, line.end_station, 80)
    assert line_of(whole).evaluate(s)[0] == pytest.approx(line.evaluate(s)[0], abs=1e-6)
    assert levels_of(whole).profile.evaluate(s)[0] == pytest.approx(levels.profile.evaluate(s)[0], abs=1e-6)
    assert fresh(link).speeds == [[2000.0, 70.0]]
    lane = fresh(Road.objects.get(project=link.project, name="Tarn Lane"))
    with pytest.raises(BadValue, match=r"from the end of Link; at most 0\.05 m"):
        join_roads(fresh(link), designer, revision=fresh(link).revision, other=lane)


def test_a_held_pi_is_not_moved(link: Road, designer: Any) -> None:
    pi = RoadPI.present.filter(road=link)[1]
    edit_line.hold(link, designer, pi.pk, revision=pi.revision, what="pi", held=True)
    pi.refresh_from_db()
    with pytest.raises(BadValue, match="PI 2 is held"):
        change_pi(link, designer, pi.pk, revision=pi.revision, values={"radius": 700.0})


def test_pis_slide_along_a_held_straight_and_the_rest_stays_on_its_line(link: Road, designer: Any, client_of: Any) -> None:
    """However the PIs at its ends are moved, points of the straight stay on it (projection, numpy)."""
    rows = list(RoadPI.present.filter(road=link))
    a, b = (np.array([r.easting, r.northing]) for r in rows[1:3])
    edit_line.hold(link, designer, rows[1].pk, revision=rows[1].revision, what="straight", held=True)
    normal = np.array([-(b - a)[1], (b - a)[0]]) / np.hypot(*(b - a))
    rows = list(RoadPI.present.filter(road=link))
    moved = {"easting": rows[1].easting + 12.0, "northing": rows[1].northing - 31.0}
    tried = with_trial(assemble_road(link), {"pi": {"index": 1, **moved}}).pis[1]
    _, told = change_pi(link, designer, rows[1].pk, revision=rows[1].revision, values=moved)
    assert "PI 2 keeps to its held straight." in told
    change_pi(link, designer, rows[2].pk, revision=rows[2].revision, values={"northing": rows[2].northing + 9.0})
    now = [np.array([r.easting, r.northing]) for r in RoadPI.present.filter(road=link)]
    assert now[1] == pytest.approx([tried.easting, tried.northing], abs=1e-9)
    assert np.hypot(*(now[1] - a)) > 1.0 and now[2][1] == pytest.approx(rows[2].northing + 9.0, abs=1e-9)
    assert [float(normal @ (p - a)) for p in now[1:3]] == pytest.approx([0.0, 0.0], abs=1e-6)
    place = line_of(assemble_road(link)).evaluate(line_of(assemble_road(link)).stations)[0]
    assert (np.abs((place - a) @ normal) < 1e-6).sum() >= 2  # both tangent points of the straight lie on it
    with pytest.raises(BadValue, match="straight from PI 2 to PI 3 is held"):
        insert_pi(link, designer, between=beside(link, 2), values={"easting": 0.0, "northing": 0.0})
    with pytest.raises(BadValue, match="straight from PI 2 to PI 3 is held"):
        delete_pi(link, designer, rows[2].pk, revision=RoadPI.objects.get(pk=rows[2].pk).revision)


def test_a_held_curve_keeps_its_elements_while_its_neighbours_move(link: Road, designer: Any) -> None:
    before = line_of(assemble_road(link))
    pi = RoadPI.present.filter(road=link)[2]
    edit_line.hold(link, designer, pi.pk, revision=pi.revision, what="curve", held=True)
    for i in (1, 3):
        near = RoadPI.present.filter(road=link)[i]
        change_pi(
            link,
            designer,
            near.pk,
            revision=near.revision,
            values={"easting": near.easting + 6.0, "northing": near.northing + 5.0},
        )
    after = line_of(assemble_road(link))
    own, now = (np.flatnonzero(v.pi_of == 2) for v in (before, after))
    assert (
        len(own)
        and after.start[now] == pytest.approx(before.start[own], abs=1e-6)
        and after.k0[now] == pytest.approx(before.k0[own])
    )
    with pytest.raises(InputError, match="between two held straights"):
        edit_line.hold(link, designer, pi.pk, revision=RoadPI.objects.get(pk=pi.pk).revision, what="pi", held=False)
        pi.refresh_from_db()
        change_pi(link, designer, pi.pk, revision=pi.revision, values={"easting": pi.easting + 1.0})
    edit_line.hold(fresh(link), designer, RoadPI.present.filter(road=link)[0].pk, revision=1, what="straight", held=True)
    flags = [r.straight_held for r in RoadPI.present.filter(road=link)]
    course.reverse_road(fresh(link), designer, revision=fresh(link).revision)
    turned = [r.straight_held for r in RoadPI.present.filter(road=link)]
    assert turned == [*flags[-2::-1], False]  # the straights are the same ones


def test_chainage_equations_are_told_refused_and_mirrored(link: Road, designer: Any) -> None:
    _, told = course.set_equations(link, designer, revision=link.revision, equations=[[1500.0, -40.0], [700.0, 20.0]])
    assert told[0] == "Chainages from 0+700.000 to 0+720.000 do not occur." and "1+480.000 to 1+520.000 occur twice" in told[1]
    words = chainage_words(assemble_road(fresh(link)), 1000)
    assert [words(s) for s in (600.0, 800.0, 1600.0)] == ["0+600.000", "0+820.000", "1+580.000"]
    for bad, why in (
        ([[9000.0, 5.0]], "lies outside the road"),
        ([[700.0, 0.0]], "changes nothing"),
        ([[700.0, 1.0], [700.0, 2.0]], "same place"),
    ):
        with pytest.raises(BadValue, match=why):
            course.set_equations(fresh(link), designer, revision=fresh(link).revision, equations=bad)
