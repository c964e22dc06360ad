"""Server and worker killed at random moments of acts, imports and undo: nothing that was acknowledged is lost, nothing is there by half,
and every job ends and tells the truth about itself."""

from __future__ import annotations

import http.client
import random
import threading
from pathlib import Path
from time import monotonic, sleep

import pytest

from tests.conftest import plane_csv
from tests.design.house import House, Person

QUICK = """
from datetime import timedelta
import ivoryridge.design.jobs as jobs, ivoryridge.api.files as files
jobs.DEAD_AFTER, jobs.WAITED_LONG, jobs.BEAT_EVERY = timedelta(seconds=6), timedelta(seconds=6), 1.0
files.is_long = lambda *_: True
"""
STATE = """
p = Project.objects.get()
print(json.dumps({
  "entries": list(LedgerEntry.objects.filter(project=p).order_by("pk").values_list("label", flat=True)),
  "files": ReceivedFile.objects.filter(project=p).count(), "sets": SurveySet.objects.filter(project=p).count(),
  "jobs": list(Job.objects.order_by("pk").values_list("state", flat=True)), "roads": Road.present.filter(project=p).count(),
  "pis": RoadPI.objects.filter(road__removed=False, removed=False).count(),
}))
"""


def killed(house: House, kills: int, seed: int) -> None:
    rng = random.Random(seed)
    for which in ("web", "worker"):
        house.start(which)
    house.await_web()
    ida = Person(house)
    project = ida.ask("POST", "/projects", {"name": "Moor"})["id"]
    at = f"/projects/{project}"
    name, least, most = {"Moor"}, 0, 0  # of the project; roads that there are at least, and at most
    jobs: list[int] = []
    for k in range(kills):
        which = [["web"], ["worker"], ["web", "worker"]][k % 3]
        what = rng.choice(["rename", "road", "import", "import", "undo"])
        wanted = f"Moor {k}"
        if what == "undo":  # of the last act, so there is to be none after it
            ended(ida, at, jobs)
            ida.ask("PATCH", at, {"revision": ida.ask("GET", at)["revision"], "name": wanted})
        before = ida.ask("GET", at)
        killer = threading.Timer(rng.uniform(0.0, 0.25 if what == "import" else 0.06), lambda w=which: [house.kill(x) for x in w])
        killer.start()
        try:
            if what == "rename":
                name = {before["name"], wanted}
                ida.ask("PATCH", at, {"revision": before["revision"], "name": wanted})
                name = {wanted}
            elif what == "road":
                pis = [{"easting": 500_000 + 100 * i, "northing": 6_200_000 + 30 * k + 40 * (i % 2)} for i in range(4)]
                most += 1
                ida.ask("POST", f"{at}/roads", {"name": wanted, "pis": pis})
                least += 1
            elif what == "import":
                jobs.append(ida.ask("POST", f"{at}/files", form=(f"{wanted}.csv", plane_csv()))["job"]["id"])
            else:
                name = {wanted, *name}
                ida.ask("POST", f"{at}/undo")
                name -= {wanted}
        except (OSError, http.client.HTTPException) as error:
            assert getattr(error, "code", 0) < 500, error
        killer.join()
        for w in which:
            house.start(w)
        house.await_web()
        now = ida.ask("GET", at)
        assert now["name"] in name, (what, now["name"], name)
        name = {now["name"]}
        assert least <= len(now["roads"]) <= most
        least = most = len(now["roads"])
    ended(ida, at, jobs)
    state = house.ask(STATE)
    assert set(state["jobs"]) <= {"done", "failed"} and "done" in state["jobs"]
    brought = sum(label.startswith("Bring in") for label in state["entries"])
    assert state["jobs"].count("done") == brought == state["files"] == state["sets"]
    assert state["pis"] == 4 * least  # no road by half


def ended(ida: Person, at: str, jobs: list[int]) -> None:
    """Every job that was acknowledged comes to an end, whoever was killed meanwhile."""
    for job in jobs:
        end = monotonic() + 120
        while (told := ida.ask("GET", f"{at}/jobs/{job}"))["state"] in ("waiting", "running"):
            assert monotonic() < end, told
            sleep(0.2)
        assert told["state"] == "done" or "nothing was changed" in told["message"], told


@pytest.mark.parametrize("kills", [15, pytest.param(100, marks=pytest.mark.long)])
def test_nothing_acknowledged_is_lost_when_processes_are_killed(kills: int, tmp_path: Path) -> None:
    house = House(tmp_path, QUICK)
    try:
        killed(house, kills, seed=kills)
    finally:
        house.stop()
