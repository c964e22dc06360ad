"""The doors: signing in is limited, bodies that are not wanted are not read, every answer carries its headers."""

from __future__ import annotations

import stat
from pathlib import Path
from typing import Any

import pytest
from django.contrib.sessions.models import Session
from django.test import Client

from ivoryridge.api.doors import address_of

SIGN_IN = "/api/session"


def sign_in(client: Client, name: str, password: str, **more: Any) -> Any:
    return client.post(SIGN_IN, {"username": name, "password": password}, content_type="application/json", **more)


def test_wrong_passwords_for_a_name_from_an_address_lead_to_a_pause(people: Any, settings: Any) -> None:
    client = Client()
    for _ in range(settings.AXES_FAILURE_LIMIT):
        assert sign_in(client, "anna", "wrong").status_code == 403
    told = sign_in(client, "anna", "correct horse")
    assert told.status_code == 429 and "Try again in 5 minutes" in told.json()["message"]
    assert sign_in(client, "ben", "correct horse").status_code == 200  # another name from here
    assert sign_in(client, "anna", "correct horse", REMOTE_ADDR="10.0.0.9").status_code == 200  # the same from elsewhere


def test_signing_in_needs_the_csrf_token_and_json(people: Any) -> None:
    client = Client(enforce_csrf_checks=True)
    assert "Load it again" in sign_in(client, "anna", "correct horse").json()["message"]
    client.get(SIGN_IN)
    token = client.cookies["csrftoken"].value
    assert sign_in(client, "anna", "correct horse", headers={"X-CSRFToken": token}).status_code == 200
    plain = Client().post(SIGN_IN, '{"username": "anna", "password": "correct horse"}', content_type="text/plain")
    assert plain.status_code == 415 and "JSON" in plain.json()["message"]


class Unread:
    """A body that must not be read."""

    def read(self, *_: Any) -> bytes:
        raise AssertionError("the body was read")

    readline = read


@pytest.mark.parametrize(
    ("who", "path", "kind", "length", "status"),
    [
        (None, SIGN_IN, "application/json", 200_000_000, 401),
        (None, "/api/projects/1/files", "multipart/form-data; boundary=x", 300_000_000, 401),
        ("ben", "/api/projects/1/files", "multipart/form-data; boundary=x", 900_000_000, 413),
        ("ben", "/api/roads/1/trial", "application/json", 2_100_000, 413),
        ("ben", "/api/roads/1/trial", "application/x-www-form-urlencoded", 20, 415),
    ],
)
def test_a_body_that_is_not_wanted_is_refused_unread(
    who: str | None, path: str, kind: str, length: int, status: int, client_of: Any, project: Any
) -> None:
    client = client_of(who) if who else Client()
    answer = client.generic("POST", path, b"", CONTENT_TYPE=kind, CONTENT_LENGTH=str(length), **{"wsgi.input": Unread()})
    assert answer.status_code == status and answer.json()["message"]
    pieces = client.generic("POST", path, b"", CONTENT_TYPE=kind, HTTP_TRANSFER_ENCODING="chunked")
    assert pieces.status_code == 411


def test_every_answer_says_what_the_page_may_load_and_that_nobody_may_frame_it(client_of: Any) -> None:
    for path in ("/", "/index.html", "/api/session", "/api/projects", "/api/nothing"):
        answer = client_of("anna").get(path)
        assert answer["X-Frame-Options"] == "DENY", path
        policy = answer["Content-Security-Policy"]
        assert "script-src 'self';" in policy + ";" and "frame-ancestors 'none'" in policy and "unsafe-eval" not in policy
        assert "Access-Control-Allow-Origin" not in answer


def test_a_session_ends_when_its_row_goes(client_of: Any) -> None:
    client = client_of("anna")
    assert client.get("/api/projects").status_code == 200
    Session.objects.all().delete()
    assert client.get("/api/projects").status_code == 401


def test_the_address_is_the_proxys_word_only_behind_a_proxy(rf: Any, settings: Any) -> None:
    request = rf.get("/", REMOTE_ADDR="10.0.0.1", HTTP_X_FORWARDED_FOR="6.6.6.6, 192.0.2.7")
    assert address_of(request) == "10.0.0.1"
    settings.BEHIND_PROXY = True
    assert address_of(request) == "192.0.2.7"


def test_data_base_files_are_their_owners_alone(tmp_path: Path) -> None:
    import os
    import subprocess
    import sys

    root = Path(__file__).resolve().parents[2]
    environment = {**os.environ, "IVORY_MODE": "demo", "IVORY_DATA": str(tmp_path), "PYTHONPATH": str(root)}
    subprocess.run([sys.executable, "-m", "ivoryridge.manage", "migrate", "-v", "0"], cwd=root, env=environment, check=True)
    files = list(tmp_path.glob("*.sqlite3*"))
    assert files and all(stat.S_IMODE(f.stat().st_mode) == 0o600 for f in files)
