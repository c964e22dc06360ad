"""Every address of the API has a rule, and the rule holds: outsiders learn nothing, viewers change nothing."""

from __future__ import annotations

import re
from typing import Any

import pytest
from django.urls import URLPattern, URLResolver, get_resolver
from ninja.operation import PathView

from ivoryridge.api.rules import MemberRule, SignedIn
from ivoryridge.design.models import Issue, Junction, Membership, Part, Road, SheetSet, Structure, Surface, SurveySet, Template

PUBLIC = {("GET", "api/session"), ("POST", "api/session")}


def operations() -> list[tuple[str, str, list[Any]]]:
    """(method, route, auth rules) of every operation that the URL resolver knows under /api/."""
    found: list[tuple[str, str, list[Any]]] = []

    def walk(patterns: list[Any], prefix: str) -> None:
        for p in patterns:
            if isinstance(p, URLResolver):
                walk(p.url_patterns, prefix + str(p.pattern))
            elif isinstance(p, URLPattern) and prefix.startswith("api/"):
                route = prefix + str(p.pattern)
                closure = getattr(p.callback, "__closure__", None) or ()
                view = next((c.cell_contents for c in closure if isinstance(c.cell_contents, PathView)), None)
                if view is None:
                    found.append(("?", route, []))
                    continue
                for operation in view.operations:
                    found.extend((m, route, list(operation.auth_callbacks)) for m in operation.methods)

    walk(get_resolver().url_patterns, "")
    return found


def test_every_address_has_a_rule() -> None:
    found = operations()
    assert len(found) > 30
    for method, route, rules in found:
        if route == "api/" or (method, route) in PUBLIC:
            continue
        assert rules and all(isinstance(r, SignedIn) for r in rules), f"{method} {route} has no rule"
        if any(
            name in route
            for name in (
                "project_id",
                "road_id",
                "surface_id",
                "template_id",
                "part_id",
                "structure_id",
                "sheet_set_id",
                "survey_set_id",
                "issue_id",
                "junction_id",
            )
        ):
            assert all(isinstance(r, MemberRule) for r in rules), f"{method} {route} names a project but asks for no member"
            if method != "GET" and not route.endswith(("/trial", "/trial/finished", "/bench")):  # trials keep nothing
                assert all(r.role in ("editor", "owner") for r in rules), (
                    f"{method} {route} changes things with role {rules[0].role}"
                )


@pytest.fixture
def address(project: Any, road: Road, people: Any) -> Any:
    ids = {
        "project_id": project.pk, "road_id": road.pk, "surface_id": Surface.present.get(project=project).pk,
        "template_id": road.template_id, "part_id": Part.objects.create(project=project, data={}).pk,
        "structure_id": Structure.objects.create(project=project, name="S").pk,
        "sheet_set_id": SheetSet.present.get(road=road).pk, "pi_id": 1, "pvi_id": 1, "variation_id": 1,
        "junction_id": Junction.objects.create(project=project, name="J", main=road, side=road, easting=0.0, northing=0.0).pk,
        "username": "ben", "kind": "plan", "job_id": 1, "entry_id": 1,
        "document_id": 1,
        "survey_set_id": SurveySet.present.filter(project=project)[0].pk, "index": 0, "file_id": 1, "end": "start", "candidate": "1",
        "issue_id": Issue.objects.create(project=project, sheet_set=SheetSet.present.get(road=road), name="Issue", revision_mark="P1",
        issued_by=people["anna"]).pk,
    }  # fmt: skip

    def fill(route: str) -> str:
        return "/" + re.sub(r"<(?:\w+:)?(\w+)>", lambda m: str(ids[m[1]]), route)

    return fill


def call(client: Any, method: str, path: str) -> Any:
    return (
        getattr(client, method.lower())(path, data="{}", content_type="application/json") if method != "GET" else client.get(path)
    )


def test_strangers_and_outsiders_get_nowhere(address: Any, client_of: Any, client: Any) -> None:
    outsider = client_of("out")
    for method, route, rules in operations():
        if not rules:
            continue
        assert call(client, method, address(route)).status_code == 401, f"stranger: {method} {route}"
        if isinstance(rules[0], MemberRule):
            answer = call(outsider, method, address(route))
            assert answer.status_code == 404 and answer.json()["code"] == "no-such-project", f"outsider: {method} {route}"


def test_viewers_read_and_change_nothing(address: Any, client_of: Any, project: Any) -> None:
    viewer, editor = client_of("cara"), client_of("ben")
    for method, route, rules in operations():
        if not rules or not isinstance(rules[0], MemberRule) or rules[0].role == "viewer":
            continue
        answer = call(viewer, method, address(route))
        assert answer.status_code == 403 and "Your role here is viewer" in answer.json()["message"], f"{method} {route}"
        if rules[0].role == "owner":
            assert call(editor, method, address(route)).status_code == 403, f"editor: {method} {route}"
    assert Template.present.filter(project=project).count() == 1
    assert Membership.objects.filter(project=project).count() == 3


def test_writes_need_the_csrf_token(project: Any, people: Any) -> None:
    from django.test import Client

    client = Client(enforce_csrf_checks=True)
    client.force_login(people["anna"])
    assert call(client, "POST", f"/api/projects/{project.pk}/undo").status_code == 403


def test_a_row_removed_between_the_rule_and_the_act_is_told_as_not_there(
    road: Road, client_of: Any, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The rule asks for the membership alone; the row is read when it is first looked at, and may be gone by then."""
    from ivoryridge.api import rules

    read = rules._read_row

    def removed_meanwhile(own: Any, found: Any) -> Any:
        Road.objects.filter(pk=road.pk).update(removed=True)
        return read(own, found)

    monkeypatch.setattr(rules, "_read_row", removed_meanwhile)
    answer = client_of("anna").get(f"/api/roads/{road.pk}/sight")
    assert answer.status_code == 404 and answer.json()["code"] == "no-such-project"


def test_a_trial_on_what_is_seen_reads_three_rows(road: Road, client_of: Any, django_assert_num_queries: Any) -> None:
    """Session, person, membership: nothing else between a pointer move and its picture."""
    client = client_of("anna")
    seen = client.get(f"/api/roads/{road.pk}/design").json()
    body = {
        "mark": 0,
        "key": seen["key"],
        "pi": {"index": 1, "easting": seen["pis"][1]["easting"] + 1, "northing": seen["pis"][1]["northing"]},
    }
    client.post(f"/api/roads/{road.pk}/trial", body, content_type="application/json")
    with django_assert_num_queries(3):
        assert client.post(f"/api/roads/{road.pk}/trial", body, content_type="application/json").status_code == 200


def test_an_act_through_its_address_is_undone_and_done_again_through_theirs(road: Road, client_of: Any, project: Any) -> None:
    client = client_of("anna")
    before = client.get(f"/api/roads/{road.pk}/design").json()["pis"][1]
    for path, body in (
        (f"/api/roads/{road.pk}/pis/{before['id']}", {"revision": before["revision"], "radius": 260.0}),
        (f"/api/roads/{road.pk}", {"revision": road.revision, "interval": 25.0}),
        (f"/api/surfaces/{road.surface_id}", {"revision": 1, "name": "Moor"}),
    ):
        assert client.patch(path, body, content_type="application/json").status_code == 200
    for _ in range(3):
        assert client.post(f"/api/projects/{project.pk}/undo").status_code == 200
    assert client.get(f"/api/roads/{road.pk}/design").json()["pis"][1]["radius"] == before["radius"] == 200
    assert Surface.present.get(project=project).name == "Existing ground"
    for _ in range(3):
        assert client.post(f"/api/projects/{project.pk}/redo").status_code == 200
    road.refresh_from_db()
    assert road.interval == 25 and Surface.present.get(project=project).name == "Moor"
