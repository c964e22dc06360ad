"""Answers against their records: one real answer of every kind has what its record says, and nothing that it does not say."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import nullcontext
from itertools import islice
from typing import Any

import pytest
from django.core.files.uploadedfile import SimpleUploadedFile
from pydantic import TypeAdapter

from ivoryridge.api.answers import json_lines
from ivoryridge.api.api import api
from ivoryridge.core.errors import NoSolutionError
from ivoryridge.design.forms import common, ground
from ivoryridge.design.forms import road as road_forms
from ivoryridge.design.models import Junction, LedgerEntry, Project, Road, SheetSet, Surface

from .test_api import send


def forms_of(method: str) -> dict[str, Any]:
    """Address -> record of its answer, of those that state one."""
    found = {}
    for prefix, router in api._routers:
        for path, view in router.path_operations.items():
            for operation in view.operations:
                model = operation.response_models.get(200)
                if method in operation.methods and hasattr(model, "model_fields"):
                    found[f"{prefix}{path}"] = model.model_fields["response"].annotation
    return found


def holds(form: Any, answer: Any, where: str) -> None:
    """Validated it is the same again: what the record does not know would be gone."""
    kept = json.loads(json.dumps(TypeAdapter(form).validate_python(answer)))
    assert list(differ(kept, json.loads(json.dumps(answer)))) == [], where


def differ(kept: Any, answer: Any, at: str = "") -> Iterator[str]:
    """Where two answers are not the same."""
    if isinstance(kept, dict) and isinstance(answer, dict):
        for k in answer.keys() | kept.keys():
            yield from differ(kept.get(k, "unknown"), answer.get(k, "missing"), f"{at}.{k}")
    elif isinstance(kept, list) and isinstance(answer, list) and len(kept) == len(answer):
        for i, (a, b) in enumerate(zip(kept, answer, strict=True)):
            yield from differ(a, b, f"{at}[{i}]")
    elif kept != answer:
        yield at


@pytest.fixture
def filled(demo: Any, client: Any) -> tuple[Any, dict[str, Any]]:
    """The demo with what makes answers full: a departure, a guide, a kept finding, a label path, a candidate; ids by name."""
    project = Project.objects.get(name=demo.name)
    client.force_login(project.memberships.first().user)
    main = Road.present.filter(project=project).order_by("pk").first()
    surface = Surface.present.filter(project=project).order_by("pk").first()
    guide = {"id": "A", "kind": "grade", "station": 100.0, "level": 60.0, "grade": 0.02}
    other = {"id": "B", "kind": "points", "first": [100.0, 62.0], "second": [400.0, 61.0]}
    assert (
        send(client, "put", f"/roads/{main.pk}/guides", {"revision": main.revision, "guides": [guide, other]}).status_code == 200
    )
    main.refresh_from_db()
    path = {
        "revision": surface.revision,
        "label_paths": [
            [
                [e, n]
                for e, n in (
                    (main.pis.first().easting, main.pis.first().northing),
                    (main.pis.last().easting, main.pis.last().northing),
                )
            ]
        ],
    }
    assert send(client, "patch", f"/surfaces/{surface.pk}", path).status_code == 200
    assert send(client, "post", f"/roads/{main.pk}/candidates", {"revision": main.revision, "name": "Other"}).status_code == 200
    exchange = client.get(f"/api/projects/{project.pk}/exchange").json()
    ids = {
        "project_id": project.pk, "road_id": main.pk, "surface_id": surface.pk, "document_id": exchange[0]["id"],
        "entry_id": LedgerEntry.objects.filter(project=project).first().pk,
        "sheet_set_id": SheetSet.present.filter(road=main).first().pk, "junction_id": Junction.present.filter(project=project).first().pk,
    }  # fmt: skip
    return client, ids


def test_every_answer_that_is_read_has_what_its_record_says(filled: Any) -> None:
    client, ids = filled
    surface = Surface.objects.get(pk=ids["surface_id"])
    pi = Road.objects.get(pk=ids["road_id"]).pis.first()
    at = f"e={pi.easting}&n={pi.northing}"
    more = {
        "/surfaces/{int:surface_id}/nearest": f"{at}&within=200", "/surfaces/{int:surface_id}/reading": at,
        "/surfaces/{int:surface_id}/water": at, "/surfaces/{int:surface_id}/volume": f"to={ids['surface_id']}",
        "/surfaces/{int:surface_id}/labels": "interval=1", "/roads/{int:road_id}/section": "station=420",
        "/roads/{int:road_id}/section/neighbours": "station=420",
        "/roads/{int:road_id}/section/reason": "station=420&side=right&node=verge.verge_edge",
        "/roads/{int:road_id}/beside": "offsets=-5,5&beds=true",
        "/roads/{int:road_id}/quantity": "side=right&part=carriageway&parameter=lane_width",
        "/projects/{int:project_id}/measured-lines": f"survey={surface.sources[0]}",
        "/surfaces/{int:surface_id}/finished/section": f"path={pi.easting},{pi.northing};{pi.easting + 80},{pi.northing + 60}",
        "/surfaces/{int:surface_id}/ground-section": f"path={pi.easting},{pi.northing};{pi.easting + 80},{pi.northing + 60}",
    }  # fmt: skip
    left = {"/projects/{int:project_id}/jobs/{int:job_id}"}  # tested with a job below
    for path, form in forms_of("GET").items():
        if path in left:
            continue
        address = path.replace("{kind}", "elements")
        for name, value in ids.items():
            address = address.replace(f"{{int:{name}}}", str(value))
        answer = client.get(f"/api{address}?{more.get(path, '')}")
        assert answer.status_code == 200, (path, answer.content[:300])
        holds(form, answer.json(), path)


def test_a_trial_an_act_a_look_at_a_file_and_a_job_have_what_their_records_say(project: Any, road: Any, client_of: Any) -> None:
    from ivoryridge.design.jobs import job_picture
    from ivoryridge.design.models import Job

    ben = client_of("ben")
    answer = send(ben, "post", f"/roads/{road.pk}/profile/fit", {"seen": []})
    holds(common.Acted, answer.json(), "an act")
    answer = send(ben, "post", f"/roads/{road.pk}/trial", {"pi": {"index": 1, "northing": 6_199_960.0}, "mark": 200.0})
    lead, shape, found, *_ = (json.loads(line) for line in b"".join(answer.streaming_content).splitlines())
    assert set(lead) == {"pis", "line"}
    holds(road_forms.RoadLead, lead, "what a trial moves")
    holds(road_forms.RoadShape, shape, "a trial")
    holds(road_forms.RoadFindings, found, "its findings")
    wide = {"kind": "adjustment", "part": "verge", "parameter": "width", "form": "constant", "value": 3.0, "station_to": 90.0}
    varied = send(ben, "post", f"/roads/{road.pk}/variations", wide).json()["variation_id"]
    asked = {"variation": {"id": varied, "value": 4.0}, "quantity": {"side": "left", "part": "verge", "parameter": "width"}}
    drag = json.loads(b"".join(send(ben, "post", f"/roads/{road.pk}/trial", asked).streaming_content).splitlines()[1])
    holds(road_forms.RoadShape, drag, "a trial of what varies")
    assert drag["quantity"]["rows"][0] == [0.0, 4.0]
    levels = send(
        ben, "post", f"/roads/{road.pk}/trial", {"pvi": {"id": shape["pvis"][0]["id"], "elevation": 101.0}, "mark": 200.0}
    )
    lead, shape, *_ = map(json.loads, b"".join(levels.streaming_content).splitlines())
    assert set(lead) == {"levels", "pvis"} and not {"pis", "line", "ground"} & set(shape)
    holds(road_forms.RoadLead, lead, "what a trial of levels moves")
    holds(road_forms.RoadShape, shape, "a trial of levels")
    file = SimpleUploadedFile(
        "p.csv", b"name,e,n,z\n" + b"".join(b"%d,%d,%d,%d\n" % (i, 500_000 + 9 * i, 6_200_000 + i * i, 60 + i) for i in range(9))
    )
    holds(ground.FilePreview, ben.post(f"/api/projects/{project.pk}/preview", {"file": file}).json(), "a look at a file")
    job = Job.objects.create(project=project, user=project.memberships.first().user, title="Bring in", state="running")
    holds(common.JobPicture, json.loads(json.dumps(job_picture(job))), "a job")


def test_lines_that_fail_after_the_first_end_with_a_line_that_says_so() -> None:
    def parts() -> Iterator[dict[str, int]]:
        yield {"a": 1}
        raise NoSolutionError("unknown-kind", kind="moat")

    first, last = map(json.loads, b"".join(json_lines(parts(), nullcontext).streaming_content).splitlines())
    assert first == {"a": 1} and last["failed"]["message"] == "Cases of kind moat are not covered."
    with pytest.raises(NoSolutionError):  # before the answer has begun it is told like everywhere
        json_lines(islice(parts(), 1, None), nullcontext)
