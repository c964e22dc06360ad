"""Long work: progress, cancelling, a worker that dies, a disk that is full. Nothing is left half done."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import threading
import time
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any
from unittest.mock import Mock

import pytest
from django.db import connection
from django.utils import timezone

from ivoryridge.design.jobs import cancel_job, job_picture, reap_dead_jobs, run_job, start_import, worker_lives
from ivoryridge.design.models import Job, LedgerEntry, ReceivedFile, SurveySet
from tests.conftest import plane_csv

ROOT = Path(__file__).resolve().parents[2]


def waiting(project: Any, user: Any, content: bytes = b"", name: str = "more.csv") -> Job:
    """A job as the worker finds it: committed, not yet begun (the enqueueing waits for a commit that a test never makes)."""
    return start_import(project, user, content=content or plane_csv(0.04), name=name, options=None, surface_id=None)


def test_an_import_by_the_worker_tells_how_far_it_is_and_ends_done(project: Any, people: Any) -> None:
    job = waiting(project, people["ben"])
    run_job.call(job.pk)
    job.refresh_from_db()
    assert (job.state, job.done, job.total) == ("done", 3, 4)
    assert job.upload is None and "825 points brought in" in job.result["told"][0]
    assert LedgerEntry.objects.filter(project=project, user=people["ben"], label="Bring in more.csv").exists()


def test_a_file_that_cannot_be_read_ends_failed_with_its_sentence(project: Any, people: Any) -> None:
    job = waiting(project, people["ben"], b"<LandXML>", "cut.xml")
    run_job.call(job.pk)
    job.refresh_from_db()
    assert job.state == "failed" and "may have been cut off" in job.message


def test_cancelling_leaves_nothing(project: Any, people: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    files, sets = ReceivedFile.objects.count(), SurveySet.objects.count()
    early = waiting(project, people["ben"])
    cancel_job(early)
    run_job.call(early.pk)
    late = waiting(project, people["ben"])
    from ivoryridge.design.actions import bring_in_file as module

    real = module.read_file

    def reading(*args: Any, **more: Any) -> Any:
        cancel_job(late)
        return real(*args)

    monkeypatch.setattr(module, "read_file", reading)
    run_job.call(late.pk)
    for job in (early, late):
        job.refresh_from_db()
        assert job.state == "cancelled"
    assert (ReceivedFile.objects.count(), SurveySet.objects.count()) == (files, sets)


def test_a_job_whose_worker_is_silent_is_ended_in_words(project: Any, people: Any) -> None:
    job = waiting(project, people["ben"])
    Job.objects.filter(pk=job.pk).update(state="running", heartbeat=timezone.now() - timedelta(seconds=10))
    assert reap_dead_jobs() == 0
    Job.objects.filter(pk=job.pk).update(heartbeat=timezone.now() - timedelta(minutes=3))
    assert reap_dead_jobs() == 1
    job.refresh_from_db()
    assert job.state == "failed" and "worker stopped in the middle" in job.message


def test_a_job_that_was_ended_meanwhile_keeps_nothing(project: Any, people: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """Declared dead while it was only slow, or cancelled in its last step: what it would store is not stored, so a second try is none too
    many."""
    from ivoryridge.design.actions import bring_in_file as module

    before = SurveySet.objects.count(), LedgerEntry.objects.count()
    real = module.read_file
    for change, state in (
        ({"state": "failed", "message": "The worker stopped"}, "failed"),
        ({"state": "cancelled"}, "cancelled"),
    ):
        job = waiting(project, people["ben"])

        def ended(*args: Any, pk: int = job.pk, change: dict[str, Any] = change, **more: Any) -> Any:
            Job.objects.filter(pk=pk).update(**change)
            return real(*args)

        monkeypatch.setattr(module, "read_file", ended)
        run_job.call(job.pk)
        job.refresh_from_db()
        assert job.state == state and (SurveySet.objects.count(), LedgerEntry.objects.count()) == before


def test_a_job_that_was_handed_over_and_never_begun_is_handed_over_again(project: Any, people: Any) -> None:
    job = waiting(project, people["ben"])
    reap_dead_jobs()
    job.refresh_from_db()
    assert job.state == "waiting"
    Job.objects.filter(pk=job.pk).update(heartbeat=timezone.now() - timedelta(minutes=1))
    reap_dead_jobs()
    job.refresh_from_db()
    assert job.state == "done"
    reap_dead_jobs()
    assert LedgerEntry.objects.filter(project=project, label="Bring in more.csv").count() == 1


def test_a_missing_worker_is_told_on_the_job(project: Any, people: Any, settings: Any, tmp_path: Path) -> None:
    settings.DATA = tmp_path
    job = waiting(project, people["ben"])
    assert job_picture(job)["message"].startswith("No worker runs on the server. This begins")
    worker_lives()
    assert job_picture(job)["message"] == ""
    os.utime(tmp_path / "worker.sign", (0, time.time() - 240))
    assert "since 4 minutes" in job_picture(job)["message"]


def test_a_step_that_takes_long_is_not_taken_for_dead(project: Any, people: Any, monkeypatch: pytest.MonkeyPatch) -> None:
    """The heart beats beside the work; here it is counted, since what it writes waits for the test's own transaction."""
    from ivoryridge.design import jobs

    beats = []
    monkeypatch.setattr(jobs, "BEAT_EVERY", 0.01)
    monkeypatch.setattr(jobs.timezone, "now", lambda: beats.append(threading.current_thread().name) or datetime.now(UTC))
    monkeypatch.setattr(jobs.Job.objects, "filter", lambda **_: Mock())
    with jobs._heart(1):
        until = time.monotonic() + 20
        while len(beats) < 3:
            assert time.monotonic() < until
    assert set(beats) == {"heart of job 1"} and not any("heart" in t.name for t in threading.enumerate())


WORKER = """
import django; django.setup()
from django.contrib.auth.models import User
from ivoryridge.design.actions import bring_in_file as module
from ivoryridge.design.jobs import run_job, start_import
from ivoryridge.design.models import Membership, Project
from tests.conftest import plane_csv
user = User.objects.create(username="u")
project = Project.objects.create(name="P")
real = module.act
import contextlib, sys
@contextlib.contextmanager
def slow(*a):
    with real(*a) as doing:
        yield doing
        print("inside", flush=True)
        sys.stdin.read()  # until it is killed
module.act = slow
job = start_import(project, user, content=plane_csv(), name="x.csv", options=None, surface_id=None)
"""
COUNT = """
import django; django.setup()
from ivoryridge.design.models import Job, LedgerEntry, ReceivedFile, SurveySet
print(ReceivedFile.objects.count(), SurveySet.objects.count(), LedgerEntry.objects.count(), Job.objects.get().state)
"""


def test_a_worker_killed_in_the_middle_of_storing_leaves_nothing_half_done(tmp_path: Path) -> None:
    assert killed(tmp_path, WORKER) == ["0", "0", "0", "running"]


def killed(tmp_path: Path, script: str) -> list[str]:
    """Files, survey sets, ledger entries and the job's state after a worker was killed where the script says so."""
    environment = {
        **os.environ,
        "IVORY_MODE": "test",
        "IVORY_DATA": str(tmp_path),
        "DJANGO_SETTINGS_MODULE": "ivoryridge.config.settings",
        "PYTHONPATH": str(ROOT),
    }
    for database in ("default", "derived"):
        subprocess.run(
            [sys.executable, "-m", "ivoryridge.manage", "migrate", "-v", "0", "--database", database],
            cwd=ROOT,
            env=environment,
            check=True,
        )
    worker = subprocess.Popen(
        [sys.executable, "-c", script], cwd=ROOT, env=environment, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    assert worker.stdout and worker.stdout.readline().strip() == "inside"
    os.kill(worker.pid, signal.SIGKILL)
    worker.wait()
    done = subprocess.run([sys.executable, "-c", COUNT], cwd=ROOT, env=environment, capture_output=True, text=True, check=True)
    return done.stdout.split()


AFTER = WORKER.replace(
    "module.act = slow",
    """
def after(*a):
    print("inside", flush=True)
    sys.stdin.read()
module._unsorted = after""",
)


def test_a_worker_killed_right_after_its_act_says_done(tmp_path: Path) -> None:
    """The word that it is done is kept together with the act."""
    assert killed(tmp_path, AFTER) == ["1", "1", "1", "done"]


def test_a_full_disk_is_said_and_what_was_there_stays(project: Any, client_of: Any) -> None:
    """The data base may grow by a few pages only; a large import then finds no room."""
    from django.core.files.uploadedfile import SimpleUploadedFile

    sets = SurveySet.objects.count()
    with connection.cursor() as cursor:
        pages = cursor.execute("PRAGMA page_count").fetchone()[0]
        cursor.execute(f"PRAGMA max_page_count = {pages + 3}")
        try:
            answer = client_of("ben").post(
                f"/api/projects/{project.pk}/files", {"file": SimpleUploadedFile("big.csv", plane_csv(0.05))}
            )
        finally:
            cursor.execute("PRAGMA max_page_count = 1073741823")
    assert answer.status_code == 507
    assert "disk of the server is full, so nothing was saved" in answer.json()["message"]
    assert SurveySet.objects.count() == sets
