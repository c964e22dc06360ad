"""Real use: nothing starts without a secret and hosts of its own, and nobody is held up by those who send slowly."""

from __future__ import annotations

import http.cookiejar
import json
import os
import socket
import subprocess
import sys
import urllib.request
from collections.abc import Iterator
from pathlib import Path
from time import monotonic, sleep

import pytest

ROOT = Path(__file__).resolve().parents[2]


@pytest.mark.parametrize(
    ("secret", "hosts", "told"),
    [("", "roads.example.org", "Set IVORY_SECRET"), ("x" * 60, "", "Set IVORY_HOSTS"), ("x" * 60, "*", "Set IVORY_HOSTS")],
)
def test_serve_refuses_to_start_insecurely(secret: str, hosts: str, told: str, tmp_path: Path) -> None:
    environment = {**os.environ, "IVORY_SECRET": secret, "IVORY_HOSTS": hosts, "IVORY_DATA": str(tmp_path)}
    done = subprocess.run([str(ROOT / "ivory"), "serve"], cwd=ROOT, env=environment, capture_output=True, text=True, timeout=120)
    assert done.returncode == 1
    assert done.stderr.splitlines()[-1].startswith(f"Not started: {told}") and "Traceback" not in done.stderr
    assert not list(tmp_path.iterdir())


@pytest.fixture(scope="module")
def served(tmp_path_factory: pytest.TempPathFactory) -> Iterator[str]:
    """Address of the real server over empty data; what is not sent within 3 s is given up."""
    environment = {
        **os.environ,
        "IVORY_MODE": "demo",
        "IVORY_DATA": str(tmp_path_factory.mktemp("served")),
        "DJANGO_SETTINGS_MODULE": "ivoryridge.config.settings",
    }
    manage = [sys.executable, "-m", "ivoryridge.manage"]
    for command in (["migrate", "-v", "0"], ["migrate", "-v", "0", "--database", "derived"]):
        subprocess.run([*manage, *command], cwd=ROOT, env=environment, check=True)
    made = "from django.contrib.auth.models import User; User.objects.create_user('ida', password='correct horse')"
    subprocess.run([*manage, "shell", "-v", "0", "-c", made], cwd=ROOT, env=environment, check=True)
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        address = f"127.0.0.1:{free.getsockname()[1]}"
    start = f"import ivoryridge.config.asgi as a, ivoryridge.serve as s; a.PATIENCE = s.PATIENCE = 3.0; s.serve('{address}')"
    server = subprocess.Popen([sys.executable, "-c", start], cwd=ROOT, env=environment)
    try:
        end = monotonic() + 60
        while True:
            try:
                urllib.request.urlopen(f"http://{address}/api/session", timeout=5).read()
                break
            except OSError:
                assert monotonic() < end and server.poll() is None
                sleep(0.1)
        yield f"http://{address}"
    finally:
        server.terminate()
        server.wait(30)


def person(address: str) -> urllib.request.OpenerDirector:
    """Signed in as the page does it."""
    jar = http.cookiejar.CookieJar()
    opened = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(jar))
    opened.open(f"{address}/api/session", timeout=30).read()
    token = next(c.value for c in jar if c.name == "csrftoken")
    body = json.dumps({"username": "ida", "password": "correct horse"}).encode()
    headers = {"Content-Type": "application/json", "X-CSRFToken": str(token)}
    opened.open(urllib.request.Request(f"{address}/api/session", body, headers), timeout=30).read()
    return opened


def test_nine_hundred_slow_connections_hold_nobody_up_and_are_given_up(served: str) -> None:
    """A third says nothing, a third sends a header letter by letter, a third a body: the reads of a person who is signed in are timed
    meanwhile, since it is time that such connections take."""
    reader = person(served)
    host, port = served.removeprefix("http://").split(":")
    sent = (b"", b"GET /api/session HTTP/1.1\r\nHost: a\r\nX: ", b"POST /api/session HTTP/1.1\r\nHost: a\r\n"
            b"Content-Type: application/json\r\nContent-Length: 900\r\n\r\n{")  # fmt: skip
    held = []
    longest = 0.0
    try:
        for i in range(900):
            held.append(socket.create_connection((host, int(port)), timeout=30))
            held[-1].sendall(sent[i % 3])
            if i % 30 == 0:
                began = monotonic()
                assert json.load(reader.open(f"{served}/api/projects", timeout=30)) == []
                longest = max(longest, monotonic() - began)
        assert longest < 1.0
        for i, waiting in enumerate(held):
            answer = waiting.recv(4000)
            assert answer.startswith(b"HTTP/1.1 408") if i % 3 == 2 else answer == b""
    finally:
        for waiting in held:
            waiting.close()
    assert json.load(reader.open(f"{served}/api/session", timeout=30))["username"] == "ida"


def test_what_nobody_sends_is_refused_before_it_has_come(served: str) -> None:
    """300 MB are announced and not sent: the answer is there all the same. A header that would pass for another one is left out."""
    host, port = served.removeprefix("http://").split(":")
    with socket.create_connection((host, int(port)), timeout=30) as nobody:
        nobody.sendall(b"POST /api/projects/1/files HTTP/1.1\r\nHost: a\r\nContent-Type: multipart/form-data; boundary=x\r\n"
                       b"Cookie: sessionid=made-up\r\nContent-Length: 300000000\r\n\r\n--x")  # fmt: skip
        assert nobody.recv(4000).startswith(b"HTTP/1.1 401")
    with socket.create_connection((host, int(port)), timeout=30) as nobody:
        nobody.sendall(b"POST /api/session HTTP/1.1\r\nHost: a\r\nContent_Type: application/json\r\nContent-Length: 2\r\n\r\n{}")
        assert nobody.recv(4000).startswith(b"HTTP/1.1 415")
