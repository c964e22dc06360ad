"""Real use: nothing starts without a secret and hosts of its own, and nobody is held up by those who send slowly."""

from __future__ import annotations

import os
import socket
import subprocess
from collections.abc import Iterator
from pathlib import Path
from time import monotonic

import pytest

from tests.design.house import House, Person

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
def house(tmp_path_factory: pytest.TempPathFactory) -> Iterator[House]:
    """The server; what is not sent within 3 s is given up."""
    made = House(tmp_path_factory.mktemp("served"), "door.PATIENCE = serve.PATIENCE = 3.0")
    made.start("web")
    try:
        made.await_web()
        yield made
    finally:
        made.stop()


def test_nine_hundred_slow_connections_hold_nobody_up_and_are_given_up(house: House) -> None:
    """A third says nothing, a third sends a header letter by letter, a third a body: the reads of a person who is signed in are timed
    meanwhile, since it is time that such connections take."""
    ida = Person(house)
    host, port = house.place.split(":")
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
                assert ida.ask("GET", "/projects") == []
                longest = max(longest, monotonic() - began)
        assert longest < 1.0
        for i, waiting in enumerate(held):
            answer = waiting.recv(4000)
            assert answer.startswith(b"HTTP/1.1 408") if i % 3 == 2 else answer == b""
    finally:
        for waiting in held:
            waiting.close()
    assert ida.ask("GET", "/session")["username"] == "ida"


def test_large_bodies_that_come_slowly_from_who_is_signed_in_hold_nobody_up_either(house: House) -> None:
    """More of them than threads that answer; one goes on in pieces and is taken, one that stops is given up."""
    ida = Person(house)
    project = ida.ask("POST", "/projects", {"name": "Slow line"})["id"]
    host, port = house.place.split(":")
    cookies = "; ".join(f"{c.name}={c.value}" for c in ida.jar)
    token = next(str(c.value) for c in ida.jar if c.name == "csrftoken")
    rows = b"".join(b"%d,%d,%d\n" % (500_000 + 7 * i % 990, 6_200_000 + 13 * i % 870, 100 + i % 9) for i in range(9_000))
    body = b'--edge\r\nContent-Disposition: form-data; name="file"; filename="p.csv"\r\n\r\nE,N,Z\n' + rows + b"\r\n--edge--\r\n"
    head = (f"POST /api/projects/{project}/preview HTTP/1.1\r\nHost: {house.place}\r\nCookie: {cookies}\r\nX-CSRFToken: {token}\r\n"
            f"Content-Type: multipart/form-data; boundary=edge\r\nContent-Length: {len(body)}\r\n\r\n").encode()  # fmt: skip
    held = [socket.create_connection((host, int(port)), timeout=30) for _ in range(20)]
    try:
        for slow in held:
            slow.sendall(head + body[:30_000])
            began = monotonic()
            assert [p["name"] for p in ida.ask("GET", "/projects")] == ["Slow line"]
            assert monotonic() - began < 1.0
        for i in range(30_000, len(body), 40_000):
            held[0].sendall(body[i : i + 40_000])
            ida.ask("GET", "/session")
        told = held[0].recv(400)
        assert told.startswith(b"HTTP/1.1 200"), told
        assert held[1].recv(400).startswith(b"HTTP/1.1 408")
    finally:
        for slow in held:
            slow.close()


def test_what_nobody_sends_is_refused_before_it_has_come(house: House) -> None:
    """300 MB are announced and not sent: the answer is there all the same. A header that would pass for another one is left out."""
    host, port = house.place.split(":")
    with socket.create_connection((host, int(port)), timeout=30) as nobody:
        nobody.sendall(b"POST /api/projects/1/files HTTP/1.1\r\nHost: a\r\nContent-Type: multipart/form-data; boundary=x\r\n"
                       b"Cookie: sessionid=made-up\r\nContent-Length: 300000000\r\n\r\n--x")  # fmt: skip
        assert nobody.recv(4000).startswith(b"HTTP/1.1 401")
    with socket.create_connection((host, int(port)), timeout=30) as nobody:
        nobody.sendall(b"POST /api/session HTTP/1.1\r\nHost: a\r\nContent_Type: application/json\r\nContent-Length: 2\r\n\r\n{}")
        assert nobody.recv(4000).startswith(b"HTTP/1.1 415")
