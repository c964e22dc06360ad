"""Signing in and out, projects of a person, and answers that come from the browser's own cache."""

from __future__ import annotations

import itertools
import json
import math
from typing import Any

import pytest
from django.test import Client

from ivoryridge.design.models import Membership, Project, Road


def post(client: Client, path: str, body: dict[str, Any]) -> Any:
    return client.post(path, json.dumps(body), content_type="application/json")


def test_sign_in_sign_out(people: Any) -> None:
    client = Client()
    assert client.get("/api/session").json() == {"username": None}
    wrong = post(client, "/api/session", {"username": "anna", "password": "no"})
    assert wrong.status_code == 403 and "do not belong together" in wrong.json()["message"]
    assert client.get("/api/projects").status_code == 401
    assert post(client, "/api/session", {"username": "anna", "password": "correct horse"}).json()["username"] == "anna"
    assert client.get("/api/projects").json() == []
    client.delete("/api/session")
    assert client.get("/api/projects").status_code == 401


def test_who_makes_a_project_owns_it_and_others_do_not_see_it(people: Any, client_of: Any) -> None:
    made = post(client_of("anna"), "/api/projects", {"name": "Mine"}).json()
    assert Membership.objects.get(project_id=made["id"]).role == "owner"
    assert [p["name"] for p in client_of("anna").get("/api/projects").json()] == ["Mine"]
    assert client_of("ben").get("/api/projects").json() == []
    assert post(client_of("anna"), "/api/projects", {"name": ""}).status_code == 422
    by = {"name": "Fast", "standard": "british_metric", "design_speed": 70}
    project = Project.objects.get(pk=post(client_of("anna"), "/api/projects", by).json()["id"])
    assert (project.standard, project.design_speed) == ("british_metric", 70)
    for odd, said in (({"standard": "mine"}, "no such standard"), ({"design_speed": 190}, "Choose a slower design speed")):
        refused = post(client_of("anna"), "/api/projects", by | odd)
        assert refused.status_code == 422 and said in refused.json()["message"]
    assert Project.objects.filter(name="Fast").count() == 1


def test_the_list_tells_projects_apart_and_a_deleted_one_comes_back(road: Road, client_of: Any) -> None:
    anna, ben, path = client_of("anna"), client_of("ben"), f"/api/projects/{road.project_id}"
    (line,) = anna.get("/api/projects").json()
    assert line["people"] == ["anna", "ben", "cara"] and line["roads"] == 1
    assert line["last"]["label"] == "Add road A" and line["last"]["by"] == "anna"
    sketch = anna.get(f"{path}/sketch").json()
    drawn = sum(math.dist(a, b) for a, b in itertools.pairwise(sketch["lines"][0]))
    assert drawn == pytest.approx(sketch["length"], rel=0.01) and 400 < sketch["length"] < 600
    assert ben.delete(path).status_code == 403  # no owner
    assert anna.delete(path).json() == []
    assert ben.get("/api/projects").json() == [] and ben.get(path).status_code == 404
    assert post(ben, f"{path}/restore", {}).status_code == 403
    assert [p["id"] for p in post(anna, f"{path}/restore", {}).json()] == [road.project_id]
    assert ben.get(path).status_code == 200


def test_an_entry_of_the_ledger_tells_old_and_new_values_and_older_pages_follow(road: Road, client_of: Any) -> None:
    ben, path = client_of("ben"), f"/api/projects/{road.project_id}"
    for k in range(101):
        assert (
            ben.patch(path, json.dumps({"revision": k + 1, "least_k": 20.0 + k}), content_type="application/json").status_code
            == 200
        )
    first = ben.get(f"{path}/ledger").json()
    assert len(first["lines"]) == 100 and first["count"] > 101
    older = ben.get(f"{path}/ledger?before={first['lines'][-1]['id']}").json()
    ids = [e["id"] for e in first["lines"] + older["lines"]]
    assert ids == sorted(ids, reverse=True) and len(ids) == first["count"]
    (change,) = ben.get(f"{path}/ledger/{ids[0]}").json()
    assert (change["value"], change["before"], change["after"]) == ("least k", "119", "120")
    made = ben.get(f"{path}/ledger/{ids[-1]}").json()
    assert {c["after"] for c in made if not c["value"]} == {"made"}
    assert ben.get(f"{path}/ledger/{10**9}").status_code == 404


def test_a_design_that_did_not_change_is_not_sent_again(road: Road, client_of: Any) -> None:
    cara = client_of("cara")
    first = cara.get(f"/api/roads/{road.pk}/design")
    assert cara.get(f"/api/roads/{road.pk}/design", headers={"If-None-Match": first["ETag"]}).status_code == 304
    pi = road.pis.first()
    assert pi is not None
    client_of("ben").patch(
        f"/api/roads/{road.pk}/pis/{pi.pk}", json.dumps({"revision": 1, "northing": 6_199_990.0}), content_type="application/json"
    )
    assert cara.get(f"/api/roads/{road.pk}/design", headers={"If-None-Match": first["ETag"]}).status_code == 200


def test_the_ledger_tells_who_did_what_and_what_comes_next(road: Road, client_of: Any) -> None:
    ben = client_of("ben")
    pi = road.pis.first()
    assert pi is not None
    ben.patch(
        f"/api/roads/{road.pk}/pis/{pi.pk}", json.dumps({"revision": 1, "northing": 6_199_990.0}), content_type="application/json"
    )
    picture = ben.get(f"/api/projects/{road.project_id}").json()
    assert picture["ledger"]["undo"] == "Move PI 1 of A" and picture["ledger"]["redo"] is None
    assert client_of("anna").get(f"/api/projects/{road.project_id}").json()["ledger"]["undo"] == "Add road A"
    undone = ben.post(f"/api/projects/{road.project_id}/undo").json()
    assert undone["told"] == ["Undone: Move PI 1 of A."]
    after = ben.get(f"/api/projects/{road.project_id}").json()["ledger"]
    assert after["redo"] == "Move PI 1 of A" and after["head"] != picture["ledger"]["head"]
    rows = ben.get(f"/api/projects/{road.project_id}/ledger").json()["lines"]
    assert (rows[0]["label"], rows[0]["by"], rows[0]["state"]) == ("Move PI 1 of A", "ben", "undone")


def test_settings_are_an_act_like_any_other(project: Project, client_of: Any) -> None:
    ben = client_of("ben")
    path = f"/api/projects/{project.pk}"
    done = ben.patch(
        path, json.dumps({"revision": 1, "chainage_word": "Station", "chainage_group": 100}), content_type="application/json"
    )
    assert done.status_code == 200
    assert ben.get(path).json()["settings"]["chainage_word"] == "Station"
    bad = ben.patch(path, json.dumps({"revision": 2, "greatest_grade": 4.0}), content_type="application/json")
    assert bad.status_code == 422 and "greatest grade must be at most 30 %" in bad.json()["message"]
    ben.post(f"{path}/undo")
    assert ben.get(path).json()["settings"]["chainage_group"] == 1000
