"""What those who run the program see: health, names of requests, a line of log for each."""

from __future__ import annotations

import io
import json
import logging
import re
from typing import Any

import pytest
from django.db import DatabaseError
from django.test import Client
from pythonjsonlogger.json import JsonFormatter

from ivoryridge.api import watched
from ivoryridge.api.naming import RequestNamed


@pytest.fixture
def lines() -> Any:
    """What the log of requests writes, as serve writes it."""
    out = io.StringIO()
    handler = logging.StreamHandler(out)
    handler.addFilter(RequestNamed())
    handler.setFormatter(JsonFormatter("%(asctime)s %(levelname)s %(name)s %(message)s %(request)s"))
    log = logging.getLogger("ivoryridge.requests")
    before = log.level
    log.setLevel(logging.INFO)  # not by the attribute: a logger remembers which levels it writes
    log.addHandler(handler)
    yield lambda: [json.loads(x) for x in out.getvalue().splitlines()]
    log.removeHandler(handler)
    log.setLevel(before)


@pytest.mark.django_db(databases=["default", "derived"])
def test_health_is_told_to_anybody_and_nothing_else_is(monkeypatch: pytest.MonkeyPatch) -> None:
    answer = Client().get("/health")
    told = answer.json()
    assert answer.status_code == 200 and told["ok"] and told["data"] and told["derived"]
    assert set(told) == {"ok", "data", "derived", "worker", "worker_seen_s"}

    class Broken:
        def __getitem__(self, name: str) -> Any:
            raise DatabaseError("disk I/O error")

    monkeypatch.setattr(watched, "connections", Broken())
    answer = Client().get("/health")
    assert answer.status_code == 503 and answer.json()["ok"] is False and b"disk" not in answer.content


def test_every_answer_has_a_name_and_a_line_of_log_speaks_of_it(project: Any, client_of: Any, lines: Any) -> None:
    ben = client_of("ben")
    first, second = (ben.get(f"/api/projects/{project.pk}") for _ in range(2))
    names = [a["X-Request-Id"] for a in (first, second)]
    assert all(re.fullmatch(r"[0-9a-f]{16}", n) for n in names) and names[0] != names[1]
    told = lines()
    assert [x["request"] for x in told] == names
    assert {k: told[0][k] for k in ("method", "path", "status")} == {
        "method": "GET",
        "path": f"/api/projects/{project.pk}",
        "status": 200,
    }
    assert told[0]["user"] == ben.session["_auth_user_id"] or told[0]["user"] == int(ben.session["_auth_user_id"])
    assert told[0]["ms"] > 0 and told[0]["bytes"] == len(first.content)
    refused = Client().get(f"/api/projects/{project.pk}")
    assert lines()[-1]["status"] == refused.status_code == 401 and lines()[-1]["user"] is None
    assert not any(word in json.dumps(lines()) for word in ("password", "sessionid", "csrftoken"))


def test_a_proxys_name_is_kept_only_behind_one_and_only_if_it_is_a_name(
    project: Any, client_of: Any, settings: Any, lines: Any
) -> None:
    ben = client_of("ben")

    def named(given: str) -> str:
        return str(ben.get(f"/api/projects/{project.pk}", headers={"X-Request-Id": given})["X-Request-Id"])

    assert named("abc-12345678") != "abc-12345678"  # anybody can send one
    settings.BEHIND_PROXY = True
    assert named("abc-12345678") == "abc-12345678" == lines()[-1]["request"]
    for odd in ("short", "x" * 65, "a b c d e f g", "<script>alert(1)</script>"):
        assert re.fullmatch(r"[0-9a-f]{16}", named(odd))
