"""Addresses: status, shape and sentence. The numbers are tested where they are computed."""

from __future__ import annotations

import json
from typing import Any

import numpy as np
import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from ivoryridge.api.binary import pack_geometry
from ivoryridge.design.kept import kinds
from ivoryridge.design.models import LedgerEntry, Membership, ReceivedFile, Road, RoadPI, RoadPVI, SheetSet, Surface, SurveySet
from tests.conftest import plane_csv


def send(client: Any, method: str, path: str, body: Any = None) -> Any:
    return getattr(client, method)(f"/api{path}", data=json.dumps(body or {}), content_type="application/json")


def tried(client: Any, road: Road, body: Any) -> Any:
    """A trial's lines of JSON as one: what is moved, the rest of the shape, findings."""
    answer = send(client, "post", f"/roads/{road.pk}/trial", body)
    assert answer.status_code == 200
    lead, shape, found, *_ = (json.loads(line) for line in b"".join(answer.streaming_content).splitlines())
    assert not set(lead) & set(shape) and "findings" not in shape and set(found) == {"findings", "departures", "problems"}
    return {**lead, **shape, **found, "problems": {**shape["problems"], **found["problems"]}}


def upload(client: Any, project: Any, content: bytes, name: str = "points.csv", where: str = "preview", **more: Any) -> Any:
    return client.post(f"/api/projects/{project.pk}/{where}", {"file": SimpleUploadedFile(name, content), **more})


def test_preview_tells_the_layout_and_stores_nothing(project: Any, client_of: Any) -> None:
    files, sets = ReceivedFile.objects.count(), SurveySet.objects.count()
    answer = upload(client_of("ben"), project, plane_csv()).json()
    assert answer["reading"]["columns"] == {"easting": 1, "northing": 2, "elevation": 3, "code": 4, "name": 0}
    assert answer["sets"][0]["points"] == 33 * 25 and answer["sets"][0]["levels"] == [98.0, 114.0]
    assert len(answer["rows"]) == 12 and answer["error"] is None
    assert (ReceivedFile.objects.count(), SurveySet.objects.count()) == (files, sets)


@pytest.mark.parametrize(
    ("content", "name", "told"),
    [
        (b"", "empty.csv", "is empty"),
        (b"<LandXML><Surfaces>", "cut.xml", "may have been cut off"),
        (b"a,b\nc,d\n", "words.csv", "No columns with numbers"),
        (b"1,2,3\n4,5,6\n", "two.csv", "at least 3 points"),
    ],
)
def test_files_that_cannot_be_brought_in_leave_nothing(
    project: Any, client_of: Any, content: bytes, name: str, told: str
) -> None:
    files = ReceivedFile.objects.count()
    answer = upload(client_of("ben"), project, content, name, "files")
    assert answer.status_code == 422 and told in answer.json()["message"]
    assert ReceivedFile.objects.count() == files


def test_a_layout_that_does_not_fit_is_told_beside_the_rows(project: Any, client_of: Any) -> None:
    options = {"delimiter": ",", "decimal_comma": False, "header": True, "columns": {"easting": 4, "northing": 2, "elevation": 3}}
    answer = upload(client_of("ben"), project, plane_csv(), options=json.dumps(options))
    assert answer.status_code == 200
    assert "could be read as a point" in answer.json()["error"] and answer.json()["rows"]


def test_a_trial_shows_what_would_be_and_stores_nothing(project: Any, road: Road, client_of: Any) -> None:
    ben = client_of("ben")
    assert send(ben, "post", f"/roads/{road.pk}/profile/fit", {"seen": []}).status_code == 200
    saved = ben.get(f"/api/roads/{road.pk}/design").json()
    entries = LedgerEntry.objects.count()
    rows = list(RoadPI.objects.values_list())
    trial = tried(ben, road, {"pi": {"index": 1, "northing": 6_199_960.0}, "mark": 200.0})
    assert trial["line"]["end"] > saved["line"]["end"] and trial["section"]["station"] == 200.0
    assert trial["earthwork"]["cut"] != saved["earthwork"]["cut"]
    assert list(RoadPI.objects.values_list()) == rows and LedgerEntry.objects.count() == entries
    broken = tried(ben, road, {"pi": {"index": 1, "radius": 9000.0}})
    assert "overlap by" in broken["problems"]["line"]["sentence"] and broken["line"] is None


def test_a_value_saved_as_it_was_tried_has_its_new_revision(road: Road, client_of: Any) -> None:
    """What a trial computed is kept by its numbers; ids and revisions are not among them."""
    ben = client_of("ben")
    send(ben, "post", f"/roads/{road.pk}/profile/fit", {"seen": []})
    pvi = ben.get(f"/api/roads/{road.pk}/design").json()["pvis"][0]
    higher = {"elevation": pvi["elevation"] + 0.25}
    tried(ben, road, {"pvi": {"id": pvi["id"], **higher}})
    assert send(ben, "patch", f"/roads/{road.pk}/pvis/{pvi['id']}", {"revision": pvi["revision"], **higher}).status_code == 200
    now = ben.get(f"/api/roads/{road.pk}/design").json()["pvis"][0]
    assert now["elevation"] == higher["elevation"] and now["revision"] > pvi["revision"]
    assert (
        send(ben, "patch", f"/roads/{road.pk}/pvis/{pvi['id']}", {"revision": now["revision"], "elevation": 99.0}).status_code
        == 200
    )


def test_a_trial_starts_from_what_its_person_sees(road: Road, client_of: Any) -> None:
    """Somebody else's act in the middle of a drag does not mix into it; the next look does."""
    ben, pi = client_of("ben"), RoadPI.present.filter(road=road)[1]
    key = ben.get(f"/api/roads/{road.pk}/design").json()["key"]
    send(client_of("anna"), "patch", f"/roads/{road.pk}/pis/{pi.pk}", {"revision": 1, "radius": 150.0})
    trial = {"pi": {"index": 0, "northing": 6_199_990.0}}
    seen = tried(ben, road, {**trial, "key": key})
    anew = tried(ben, road, trial)
    unknown = tried(ben, road, {**trial, "key": "corridor-gone"})
    assert [p["pis"][1]["radius"] for p in (seen, anew, unknown)] == [200.0, 150.0, 150.0]


def test_a_trial_for_a_far_plan_leaves_out_the_inner_edges(road: Road, client_of: Any) -> None:
    ben = client_of("ben")
    send(ben, "post", f"/roads/{road.pk}/profile/fit", {"seen": []})
    near = tried(ben, road, {})
    far = tried(ben, road, {"outline_only": True})
    assert {e["role"] for e in far["edges"]["lines"]} == {"toe", "pavement edge"} < {e["role"] for e in near["edges"]["lines"]}
    assert far["earthwork"] == near["earthwork"]


def test_acts_answer_with_what_moved_and_stale_ones_with_both_values(road: Road, client_of: Any) -> None:
    pi = RoadPI.present.filter(road=road)[1]
    done = send(client_of("anna"), "patch", f"/roads/{road.pk}/pis/{pi.pk}", {"revision": 1, "radius": 210.0})
    assert done.status_code == 200 and done.json()["label"] == "Change PI 2 of A"
    late = send(client_of("ben"), "patch", f"/roads/{road.pk}/pis/{pi.pk}", {"revision": 1, "radius": 190.0})
    assert late.status_code == 409
    assert late.json()["details"]["theirs"] == {"radius": 210.0} and late.json()["details"]["yours"] == {"radius": 190.0}


@pytest.mark.parametrize(
    "body",
    [{"revision": 1, "radius": float("nan")}, {"revision": 1, "radius": "wide"}, {"revision": 1, "colour": 3}, {"radius": 4.0}],
)
def test_values_that_are_none_are_refused_in_words(road: Road, client_of: Any, body: dict[str, Any]) -> None:
    pi = RoadPI.present.filter(road=road)[1]
    answer = send(client_of("ben"), "patch", f"/roads/{road.pk}/pis/{pi.pk}", body)
    assert answer.status_code in (400, 422) and answer.json()["message"]
    pi.refresh_from_db()
    assert pi.radius == 200.0


def test_geometry_is_packed_as_the_page_reads_it_and_keyed(project: Any, client_of: Any) -> None:
    surface = Surface.present.get(project=project)
    first = client_of("cara").get(f"/api/surfaces/{surface.pk}/geometry")
    body = first.content
    assert body[:4] == b"IRG1"
    length = int(np.frombuffer(body[4:8], np.uint32)[0])
    header = json.loads(body[8 : 8 + length])
    points = np.frombuffer(body, np.float32, count=int(np.prod(header["sections"][0]["shape"])), offset=8 + length).reshape(-1, 3)
    world = points.astype(float) + [*header["origin"], 0]
    assert np.abs(world[:, 2] - (100 + 0.02 * (world[:, 0] - 500_000))).max() < 1e-3
    assert (
        client_of("cara").get(f"/api/surfaces/{surface.pk}/geometry", headers={"If-None-Match": first["ETag"]}).status_code == 304
    )
    assert len(pack_geometry((0, 0), {"a": np.zeros(3)})) % 4 == 0


def test_readings_say_when_there_is_no_ground(project: Any, client_of: Any) -> None:
    surface = Surface.present.get(project=project)
    there = client_of("cara").get(f"/api/surfaces/{surface.pk}/reading?e=500100&n=6200100").json()
    assert (
        there["elevation"] == pytest.approx(102)
        and there["slope"] == pytest.approx(0.02)
        and there["aspect_deg"] == pytest.approx(270)
    )
    assert client_of("cara").get(f"/api/surfaces/{surface.pk}/reading?e=0&n=0").json()["elevation"] is None
    many = client_of("cara").get(f"/api/surfaces/{surface.pk}/contours?interval=0.001")
    assert many.status_code == 422 and "Use at least" in many.json()["message"]


def test_volumes_keep_to_the_range_and_agree_with_the_csv(road: Road, client_of: Any) -> None:
    ben = client_of("ben")
    send(ben, "post", f"/roads/{road.pk}/profile/fit", {"seen": []})
    rows = ben.get(f"/api/roads/{road.pk}/volumes?station_from=100&station_to=200").json()["rows"]
    assert rows[0]["station"] == 100 and rows[-1]["station"] == 200 and rows[0]["cumulative_cut"] == 0
    assert rows[-1]["cumulative_cut"] == pytest.approx(sum(r["cut"] for r in rows))
    text = ben.get(f"/api/roads/{road.pk}/volumes.csv?station_from=100&station_to=200").content.decode("utf-8-sig").splitlines()
    assert text[0].startswith("Chainage,Station m,Cut m2") and len(text) == len(rows) + 1
    assert float(text[-1].split(",")[6]) == pytest.approx(rows[-1]["cumulative_cut"], abs=1e-3)


def test_sheets_and_landxml_come_as_files(road: Road, client_of: Any) -> None:
    ben, sheets = client_of("ben"), SheetSet.present.get(road=road)
    assert "needs" in (refused := ben.get(f"/api/sheet-sets/{sheets.pk}/sheets").json()["message"]) or "yet" in refused
    send(ben, "post", f"/roads/{road.pk}/profile/fit", {"seen": []})
    listed = ben.get(f"/api/sheet-sets/{sheets.pk}/sheets").json()
    assert listed["frames"] and listed["section_sheets"] >= 1
    assert ben.get(f"/api/sheet-sets/{sheets.pk}/plan.pdf").content[:5] == b"%PDF-"
    assert b"SECTION" in ben.get(f"/api/sheet-sets/{sheets.pk}/sections.dxf?number=1").content[:40]
    assert ben.get(f"/api/sheet-sets/{sheets.pk}/plan.svg?number=1").content.startswith(b"<svg")
    assert ben.get(f"/api/sheet-sets/{sheets.pk}/plan.svg?number=99").status_code == 422
    assert b"<CoordGeom" in ben.get(f"/api/projects/{road.project_id}/landxml").content


def test_the_last_owner_stays(project: Any, client_of: Any) -> None:
    anna = client_of("anna")
    assert send(anna, "post", f"/projects/{project.pk}/members", {"username": "anna", "role": "viewer"}).status_code == 422
    assert anna.delete(f"/api/projects/{project.pk}/members/anna").status_code == 422
    assert (
        send(anna, "post", f"/projects/{project.pk}/members", {"username": "nobody", "role": "viewer"}).json()["code"]
        == "no-such-person"
    )
    send(anna, "post", f"/projects/{project.pk}/members", {"username": "out", "role": "owner"})
    assert anna.delete(f"/api/projects/{project.pk}/members/anna").status_code == 200
    assert Membership.present.get(project=project, role="owner").user.username == "out"


def test_what_breaks_on_our_side_is_said_with_a_reference(
    road: Road, client_of: Any, monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    from ivoryridge.api import roads

    def broken(*_: Any, **__: Any) -> None:
        raise ZeroDivisionError

    monkeypatch.setattr(roads, "road_picture", broken)
    answer = client_of("ben").get(f"/api/roads/{road.pk}/design")
    assert answer.status_code == 500
    reference = answer.json()["message"].split("ref ")[1][:4]
    assert any(reference in r.getMessage() for r in caplog.records)


def test_inserted_pvis_must_lie_on_the_line(road: Road, client_of: Any) -> None:
    ben = client_of("ben")
    far = send(ben, "post", f"/roads/{road.pk}/pvis", {"station": 9000, "elevation": 100})
    assert far.status_code == 422 and "outside the line, which runs from 0+000.000" in far.json()["message"]
    assert send(ben, "post", f"/roads/{road.pk}/pvis", {"station": 100, "elevation": 100}).status_code == 200
    assert sorted(RoadPVI.present.filter(road=road).values_list("anchor", flat=True)) == ["end", "start", "station"]


def test_a_large_file_becomes_a_job_that_can_be_looked_at_and_cancelled(
    project: Any, client_of: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The worker has not begun (its task waits for the commit), so cancelling ends the job at once and nothing is stored."""
    monkeypatch.setattr("ivoryridge.design.received.reading._LONG_OTHERS", 1000)
    ben, files = client_of("ben"), ReceivedFile.objects.count()
    started = upload(ben, project, plane_csv(), where="files")
    assert started.status_code == 202
    job = started.json()["job"]
    assert ben.get(f"/api/projects/{project.pk}/jobs/{job['id']}").json()["state"] == "waiting"
    assert send(ben, "post", f"/projects/{project.pk}/jobs/{job['id']}/cancel").json()["state"] == "cancelled"
    assert ReceivedFile.objects.count() == files
    assert ben.get(f"/api/projects/{project.pk}/jobs/{job['id'] + 1}").status_code == 404


def test_a_large_surface_is_sent_as_a_lattice_and_by_windows(
    project: Any, client_of: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("ivoryridge.design.results.shown.MOST_SHOWN", 300)
    kinds.clear_memory()
    ben, surface = client_of("ben"), Surface.present.get(project=project)

    def told(query: str = "", kind: str = "geometry") -> dict[str, Any]:
        content = ben.get(f"/api/surfaces/{surface.pk}/{kind}?{query}").content
        header: dict[str, Any] = json.loads(content[8 : 8 + int(np.frombuffer(content, "<u4", 1, 4)[0])])
        return header

    whole = told()
    e0, n0, e1, n1 = whole["extent"]
    shown = next(s["shape"][0] for s in whole["sections"] if s["name"] == "triangles")
    assert whole["triangles"] == 32 * 24 * 2 > 300 >= shown and whole["spacing"] > 0
    near = told(f"window={e0},{n0},{(e0 + e1) / 2 - 1},{n0 + 100}")
    assert near["spacing"] == 0 and near["window"][0] == e0
    assert told(f"window={e0},{n0},{e1},{n1}")["spacing"] > 0  # too many for their own triangles
    assert told("interval=2&rounded=true", "contours")["sections"][0]["shape"][0] > 10
    kinds.clear_memory()
    kinds.computed_counts.clear()
    assert (
        told() == whole and "surface" not in kinds.computed_counts
    )  # the overview is kept: opening does not wait for the surface
    refused = ben.get(f"/api/surfaces/{surface.pk}/geometry?window=1,2,0,4")
    assert refused.status_code == 422 and "least E" in refused.json()["message"]


def test_a_radius_comes_from_what_else_is_known_of_the_curve(road: Road, client_of: Any) -> None:
    ben = client_of("ben")
    first, pi = RoadPI.present.filter(road=road)[:2]
    path = f"/roads/{road.pk}/pis/{pi.pk}/curve"
    told = send(ben, "post", path, {"revision": pi.revision, "by": "degree", "value": 4}).json()["told"]
    pi.refresh_from_db()
    assert pi.radius == pytest.approx(1432.394488 * 0.3048) and told[0].startswith("PI 2 has a radius of 436.594 m")
    assert send(ben, "post", path, {"revision": pi.revision, "by": "largest"}).status_code == 200
    pi.refresh_from_db()
    assert pi.radius > 437 and pi.radius == int(pi.radius)
    none = send(ben, "post", path, {"revision": pi.revision, "by": "tangent"})
    assert none.status_code == 422 and "above 0" in none.json()["message"]
    end = send(ben, "post", f"/roads/{road.pk}/pis/{first.pk}/curve", {"revision": first.revision, "by": "largest"})
    assert end.status_code == 422 and "is an end of the line" in end.json()["message"]
