"""The units of a request: those of its project, for sentences, trials, refusals and jobs; and of nothing else."""

from __future__ import annotations

import json
import re
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile

from ivoryridge.core.wording import METRES, spoken
from ivoryridge.design.jobs import run_job, start_import
from ivoryridge.design.models import Job, LedgerEntry, Membership, Project, Road, RoadPI

from .test_api import send, upload


def tell(client: Any, project: Any, unit: str) -> Any:
    project.refresh_from_db()
    return send(client, "patch", f"/projects/{project.pk}", {"revision": project.revision, "length_unit": unit})


def sentences(client: Any, road: Any) -> list[str]:
    return [f["sentence"] for f in client.get(f"/api/roads/{road.pk}/design").json()["findings"]]


@pytest.fixture
def sharp(project: Any, road: Road, client_of: Any) -> Any:
    """The small project's road with a bend too sharp for its speed, and levels."""
    ben = client_of("ben")
    assert send(ben, "post", f"/roads/{road.pk}/profile/fit", {"seen": []}).status_code == 200
    pi = RoadPI.objects.filter(road=road)[1]
    assert send(ben, "patch", f"/roads/{road.pk}/pis/{pi.pk}", {"revision": pi.revision, "radius": 150.0}).status_code == 200
    return ben


def test_findings_speak_feet_as_soon_as_the_project_does_and_metres_again_after_undo(
    sharp: Any, project: Any, road: Road
) -> None:
    metric = sentences(sharp, road)
    assert any("is 150.0 m; at 85 km/h the least is 255 m" in s for s in metric)
    tag = sharp.get(f"/api/roads/{road.pk}/design")["ETag"]
    assert tell(sharp, project, "ft").status_code == 200
    answer = sharp.get(f"/api/roads/{road.pk}/design", headers={"If-None-Match": tag})
    assert answer.status_code == 200  # the picture says something else now
    imperial = sentences(sharp, road)
    assert any("is 492.1 ft; at 53 mph the least is 837 ft" in s for s in imperial) and not any(" m;" in s for s in imperial)
    assert spoken() is METRES  # a request's units end with it
    assert send(sharp, "post", f"/projects/{project.pk}/undo").status_code == 200
    assert sentences(sharp, road) == metric


def test_findings_read_chainages_as_the_project_counts_them_and_with_the_roads_equations(
    sharp: Any, project: Any, road: Road
) -> None:
    """A road drawn on beyond the ground of the small project; from 0+010 on the count is 5 km ahead."""

    def off_ground() -> str:
        (said,) = (
            f["sentence"] for f in sharp.get(f"/api/roads/{road.pk}/design").json()["findings"] if f["code"] == "off-ground"
        )
        return str(said)

    last = RoadPI.objects.filter(road=road).last()
    assert last is not None
    beyond = {"revision": last.revision, "easting": 500_720.0, "northing": 6_200_450.0}
    moved = send(sharp, "patch", f"/roads/{road.pk}/pis/{last.pk}", beyond)
    assert moved.status_code == 200, moved.content
    road.refresh_from_db()
    assert re.match(r"From 0\+\d{3}\.\d\d to 0\+\d{3}\.\d\d the road", before := off_ground())
    given = {"revision": road.revision, "equations": [[10.0, 5000.0]]}
    assert send(sharp, "put", f"/roads/{road.pk}/equations", given).status_code == 200
    assert off_ground() == before.replace(" 0+", " 5+")
    project.refresh_from_db()
    Project.objects.filter(pk=project.pk).update(chainage_group=100)
    assert re.match(r"From 5\d\+\d\d\.\d\d to 5\d\+", off_ground())


def test_two_projects_are_told_each_in_its_own(sharp: Any, project: Any, road: Road, people: Any) -> None:
    """Requests to either in turn, as two people send them to one server."""
    from ivoryridge.design.actions.edit_road import create_road

    other = Project.objects.create(name="Feet", length_unit="ft")
    Membership.objects.create(project=other, user=people["ben"], role="editor")
    bend = [(0.0, 0.0, 0.0), (400.0, 0.0, 9_000.0), (500.0, 300.0, 0.0)]
    pis = [{"easting": 500_000 + e, "northing": 6_200_000 + n, "radius": r} for e, n, r in bend[:2]] + [
        {"easting": 500_900.0, "northing": 6_200_000.0, "radius": 0.0}
    ]
    _, theirs = create_road(other, people["ben"], name="B", pis=pis)
    for _ in range(2):
        own = send(
            sharp, "patch", f"/roads/{road.pk}", {"revision": Road.objects.get(pk=road.pk).revision, "interval": 0.001}
        ).json()
        feet = send(sharp, "patch", f"/roads/{theirs.pk}", {"revision": theirs.revision, "interval": 0.001}).json()
        assert "0.001 m is too close" in own["message"] and "0.00328084 ft is too close" in feet["message"]


def test_a_trial_speaks_the_projects_units_in_all_of_its_lines_and_is_judged_when_asked(
    sharp: Any, project: Any, road: Road
) -> None:
    assert tell(sharp, project, "us-ft").status_code == 200
    body = {"pi": {"index": 1, "radius": 100.0}, "mark": 100.0}
    answer = send(sharp, "post", f"/roads/{road.pk}/trial", body)
    lead, _, found, *_ = (json.loads(line) for line in b"".join(answer.streaming_content).splitlines())
    assert any("is 328.1 ft; at 53 mph" in f["sentence"] for f in found["findings"])
    assert lead["line"]["end"] > 300  # numbers stay metres
    quick = send(sharp, "post", f"/roads/{road.pk}/trial", {**body, "judged": False})
    again, only, _ = (json.loads(line) for line in b"".join(quick.streaming_content).splitlines())
    assert "findings" not in only and again == lead
    wrong = send(sharp, "post", f"/roads/{road.pk}/trial", {"pi": {"index": 1, "radius": 9000.0}})
    refused = json.loads(b"".join(wrong.streaming_content).splitlines()[1])["problems"]["line"]["sentence"]
    assert "ft of tangent" in refused and " m " not in refused


def test_a_refused_act_says_limits_in_feet_and_leaves_nothing(sharp: Any, project: Any, road: Road) -> None:
    assert tell(sharp, project, "ft").status_code == 200
    entries = LedgerEntry.objects.count()
    pi = RoadPI.objects.filter(road=road)[1]
    answer = send(sharp, "patch", f"/roads/{road.pk}/pis/{pi.pk}", {"revision": pi.revision, "radius": 9000.0})
    assert answer.status_code == 422 and "ft" in answer.json()["message"] and LedgerEntry.objects.count() == entries
    told = send(sharp, "post", f"/roads/{road.pk}/profile/raise", {"rise": 0.3048}).json()
    assert told["label"].endswith("by 1.000 ft")


def test_a_job_tells_what_it_found_in_the_projects_units(sharp: Any, project: Any, people: Any) -> None:
    """Work of the worker process, far from any request."""
    assert tell(sharp, project, "ft").status_code == 200
    flat = "n,e,n2,z\n" + "\n".join(f"{i},{500_000 + 10 * (i % 7)},{6_200_000 + 10 * (i // 7)},30.48" for i in range(49)) + "\n"
    job = start_import(project, people["ben"], content=flat.encode(), name="flat.csv", options=None, surface_id=None)
    run_job.call(job.pk)
    done = Job.objects.get(pk=job.pk)
    assert done.state == "done", done.message
    assert any("same level 100.000" in t for t in done.result["told"])
    looked = upload(sharp, project, flat.encode(), "flat.csv").json()
    assert any("same level 100.000" in f["sentence"] for f in looked["findings"])
    assert looked["sets"][0]["levels"] == [30.48, 30.48]  # numbers stay metres


def test_an_unknown_unit_is_refused(sharp: Any, project: Any) -> None:
    answer = tell(sharp, project, "yard")
    assert answer.status_code == 422
    project.refresh_from_db()
    assert project.length_unit == "m"


def test_the_file_of_a_project_in_feet_says_its_unit_and_another_project_reads_it_back(
    sharp: Any, project: Any, road: Road
) -> None:
    """Out in feet, in again as metres: the new road lies on the old one."""
    assert tell(sharp, project, "ft").status_code == 200
    content = sharp.get(f"/api/projects/{project.pk}/landxml").content
    answer = sharp.post(f"/api/projects/{project.pk}/lines", {"file": SimpleUploadedFile("lines.xml", content)})
    assert answer.status_code == 200, answer.content
    again = sharp.get(f"/api/roads/{answer.json()['road_id']}/design").json()["line"]["points"]
    first = sharp.get(f"/api/roads/{road.pk}/design").json()["line"]["points"]
    assert again[-1][1:3] == pytest.approx(first[-1][1:3], abs=2e-3) and again[-1][0] == pytest.approx(first[-1][0], abs=1e-3)
    assert any("feet" in t or "foot" in t for t in answer.json()["told"])
