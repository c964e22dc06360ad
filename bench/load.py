"""Twenty people at once on one project: each asks, waits for the answer and thinks for a second. 70 % look, 20 % drag, 10 % change."""

from __future__ import annotations

import http.client
import json
import random
import statistics
import threading
import time
from collections import defaultdict
from typing import Any
from urllib.parse import urlparse

from .measure import Figures
from .server import demo_server

PEOPLE, SECONDS, THINK = 20, 120.0, 1.0


class Client:
    """A person's connection, kept open as a browser keeps it."""

    def __init__(self, address: str) -> None:
        self.place = urlparse(address).netloc
        self.connection = http.client.HTTPConnection(self.place, timeout=120)
        self.cookies: dict[str, str] = {}
        self.drawn = 0.0
        self.ask("GET", "/session")
        status, _ = self.ask("POST", "/session", {"username": "designer", "password": "orrowmere"})
        assert status == 200, status

    def ask(self, method: str, path: str, body: Any = None) -> tuple[int, bytes]:
        headers = {
            "Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items()),
            "X-CSRFToken": self.cookies.get("csrftoken", ""),
        }
        if body is not None:
            headers["Content-Type"] = "application/json"
        self.connection.request(method, f"/api{path}", json.dumps(body) if body is not None else None, headers)
        answer = self.connection.getresponse()
        lead = answer.readline() + answer.readline() if path.endswith("/trial") else b""
        self.drawn = time.perf_counter()  # of a trial: its shape is there; the roads that hang on it follow
        content = lead + answer.read()
        for name, value in answer.getheaders():
            if name.lower() == "set-cookie":
                key, _, rest = value.partition("=")
                self.cookies[key] = rest.partition(";")[0]
        return answer.status, content


def run(figures: Figures) -> None:
    with demo_server() as address:
        first = Client(address)
        project = json.loads(first.ask("GET", "/projects")[1])[0]["id"]
        shown = json.loads(first.ask("GET", f"/projects/{project}")[1])
        roads = {r["name"]: r["id"] for r in shown["roads"]}
        sheets = next(s["id"] for s in shown["sheet_sets"] if s["road_id"] == roads["Link"])
        began = time.perf_counter()
        people: list[Client] = []
        signing = [threading.Thread(target=lambda: people.append(Client(address))) for _ in range(PEOPLE)]
        for t in signing:
            t.start()
        for t in signing:
            t.join()
        figures.add("load_20_sign_ins_s", time.perf_counter() - began, "s until twenty people are signed in, at once")
        taken: dict[str, list[float]] = defaultdict(list)
        wrong: list[str] = []
        kept: dict[int, float] = {}  # road -> what was acknowledged last
        end = time.monotonic() + SECONDS
        threads = [
            threading.Thread(target=_one, args=(i, people[i], project, roads, sheets, end, taken, wrong, kept))
            for i in range(PEOPLE)
        ]
        for t in threads:
            t.start()
        for t in threads:
            t.join()
        now = {r["id"]: r["interval"] for r in json.loads(Client(address).ask("GET", f"/projects/{project}")[1])["roads"]}
        lost = [road for road, interval in kept.items() if now.get(road) != interval]
    for name in ("design", "section", "trial_shape", "trial", "act", "sheet"):
        figures.add(f"load_20_{name}_p95", 1000 * statistics.quantiles(taken[name], n=20)[-1], f"ms, of {len(taken[name])}")
    figures.add(
        "load_20_errors", float(len(wrong)), "answers that tell of a fault of the server's " + ", ".join(sorted(set(wrong))[:3])
    )
    figures.add("load_20_lost", float(len(lost)), f"of {len(taken['act'])} acts: not as it was acknowledged last")


def _one(
    number: int, client: Client, project: int, roads: dict[str, int], sheets: int, end: float,
    taken: dict[str, list[float]], wrong: list[str], kept: dict[int, float],
) -> None:  # fmt: skip
    rng = random.Random(number)
    link = roads["Link"]
    design = json.loads(client.ask("GET", f"/roads/{link}/design")[1])
    made = json.loads(client.ask("POST", f"/projects/{project}/roads", {"name": f"Path {number}", "pis": _somewhere(rng)})[1])
    own, revision = made["road_id"], 1
    time.sleep(THINK * rng.random())
    while time.monotonic() < end:
        what = rng.choices(["design", "section", "sheet", "trial", "act"], [30, 35, 5, 20, 10])[0]
        began = time.perf_counter()
        if what == "design":
            status, content = client.ask("GET", f"/roads/{rng.choice(list(roads.values()))}/design")
        elif what == "section":
            status, content = client.ask("GET", f"/roads/{link}/section?station={rng.uniform(0, 2400):.1f}")
        elif what == "sheet":
            status, content = client.ask("GET", f"/sheet-sets/{sheets}/plan.svg?number={rng.randint(1, 3)}")
        elif what == "trial":
            pvi = design["pvis"][2]
            values = {"pvi": {"id": pvi["id"], "elevation": pvi["elevation"] + rng.uniform(-0.5, 0.5)}, "mark": 700.0}
            status, content = client.ask("POST", f"/roads/{link}/trial", values | {"judged": False, "joined": False})
        else:
            interval = round(rng.uniform(5, 20), 2)
            status, content = client.ask("PATCH", f"/roads/{own}", {"revision": revision, "interval": interval})
            if status < 300:
                revision += 1
                kept[own] = interval
            else:
                wrong.append(f"act {status} {content[:80]!r}")
        taken[what].append(time.perf_counter() - began)
        if what == "trial":
            taken["trial_shape"].append(client.drawn - began)
        if status >= 500:
            wrong.append(f"{what} {status}")
        time.sleep(THINK)


def _somewhere(rng: random.Random) -> list[dict[str, float]]:
    e, n = 412_600 + rng.uniform(0, 200), 687_000 + rng.uniform(-50, 50)
    return [{"easting": e, "northing": n}, {"easting": e + 60, "northing": n + 20}]
