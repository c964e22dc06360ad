"""Long work: a job row with progress and a heartbeat, run by the worker; cancelled between steps; reaped when its worker dies."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.db import OperationalError, connection, transaction
from django.utils import timezone
from django_tasks import task

from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.wording import speaking

from .actions.bring_in_file import bring_in_file
from .ledger import ending_with
from .models import Job, Project, ReceivedFile
from .received.preview import preview_file
from .refusals import Refused

__all__ = [
    "BEAT_EVERY",
    "Cancelled",
    "Progress",
    "cancel_job",
    "job_picture",
    "reap_dead_jobs",
    "start_import",
    "start_preview",
    "worker_lives",
    "worker_silent",
]

log = logging.getLogger(__name__)
DEAD_AFTER = timedelta(seconds=45)  # a worker tells every few seconds that it lives
WAITED_LONG = timedelta(seconds=30)  # a job that has not begun by then is handed over again
BEAT_EVERY = 5.0  # s
SILENT_AFTER = 20.0  # s without a sign of a worker


class Cancelled(Exception):
    """The person has cancelled the job."""


class Progress:
    """What long work calls as it goes on: tells how far it is, and raises ``Cancelled`` when it is no longer wanted."""

    def __init__(self, job_id: int) -> None:
        self.job_id = job_id

    def __call__(self, done: int, total: int, message: str) -> None:
        Job.objects.filter(pk=self.job_id).update(done=done, total=total, message=message[:500], heartbeat=timezone.now())
        if Job.objects.filter(pk=self.job_id, cancel_wanted=True).exists():
            raise Cancelled


def start_import(
    project: Project,
    user: User,
    *,
    content: bytes,
    name: str,
    options: dict[str, Any] | None,
    surface_id: int | None,
    received: ReceivedFile | None = None,
) -> Job:
    """Hand a file to the worker."""
    request = {
        "kind": "import", "name": name, "options": options, "surface_id": surface_id, "received": received.pk if received else None,
    }  # fmt: skip
    return _handed_over(project, user, f"Bring in {name}", request, content)


def start_preview(project: Project, user: User, *, content: bytes, name: str, options: dict[str, Any] | None) -> Job:
    """Hand a file to the worker, only to be looked at; the job's result holds what there is to see."""
    return _handed_over(project, user, f"Look at {name}", {"kind": "preview", "name": name, "options": options}, content)


def _handed_over(project: Project, user: User, title: str, request: dict[str, Any], content: bytes) -> Job:
    job = Job.objects.create(project=project, user=user, title=title[:200], request=request, upload=content)
    transaction.on_commit(lambda: run_job.enqueue(job.pk))
    return job


@task()
def run_job(job_id: int) -> None:
    """Run one job. Whatever happens, the row says how it ended, and a job that did not finish has changed nothing."""
    if not Job.objects.filter(pk=job_id, state="waiting").update(state="running", heartbeat=timezone.now()):
        return  # cancelled before it began, or already taken
    job = Job.objects.select_related("project", "user").get(pk=job_id)
    try:
        with _heart(job_id), speaking(job.project.speaks):
            _KINDS[job.request["kind"]](job, Progress(job_id))
    except Cancelled:
        _end(job_id, "cancelled", "Cancelled; nothing was changed.")
    except (IvoryRidgeError, Refused) as error:
        _end(job_id, "failed", error.sentence)
    except Exception:
        log.exception("job %s", job_id)
        _end(job_id, "failed", "Something went wrong on our side; nothing was changed. Try again.")


@contextmanager
def _heart(job_id: int) -> Iterator[None]:
    """Tells that the worker lives, however long a step takes."""
    over = threading.Event()

    def beat() -> None:
        try:
            while not over.wait(BEAT_EVERY):
                with suppress(OperationalError):  # the data base is busy; the next beat tells it
                    Job.objects.filter(pk=job_id, state="running").update(heartbeat=timezone.now())
        finally:
            connection.close()

    thread = threading.Thread(target=beat, name=f"heart of job {job_id}", daemon=True)
    thread.start()
    try:
        yield
    finally:
        over.set()
        thread.join(timeout=30)


def _end(job_id: int, state: str, message: str) -> None:
    """How a running job ended, if nothing has ended it yet."""
    Job.objects.filter(pk=job_id, state="running").update(
        state=state, message=message[:500], upload=None, result={}, heartbeat=timezone.now()
    )


def _finish(job_id: int, result: dict[str, Any]) -> None:
    """A job is done; raises Cancelled where it was ended meanwhile, so that an act it ends is not kept."""
    running = Job.objects.filter(pk=job_id, state="running", cancel_wanted=False)
    if not running.update(state="done", message="", upload=None, result=result, heartbeat=timezone.now()):
        raise Cancelled


def _run_import(job: Job, progress: Progress) -> None:
    r = job.request
    with ending_with(lambda doing: _finish(job.pk, {"label": doing.label, "told": [], "surface_id": None})):
        doing, surface, told = bring_in_file(
            job.project,
            job.user,
            content=bytes(job.upload or b""),
            name=r["name"],
            options=r["options"],
            surface_id=r["surface_id"],
            received=ReceivedFile.objects.filter(project=job.project, pk=r.get("received") or 0).first(),
            progress=progress,
        )
    Job.objects.filter(pk=job.pk, state="done").update(result={"label": doing.label, "told": told, "surface_id": surface.pk})


def _run_preview(job: Job, progress: Progress) -> None:
    r = job.request
    progress(0, 1, f"Looking at {len(job.upload or b'') / 1e6:.1f} MB")
    _finish(job.pk, {"preview": preview_file(job.project, bytes(job.upload or b""), r["name"], r["options"])})


_KINDS: dict[str, Callable[[Job, Progress], None]] = {"import": _run_import, "preview": _run_preview}


def cancel_job(job: Job) -> None:
    """Ask a running job to stop at its next step; one that waits is over at once."""
    if not Job.objects.filter(pk=job.pk, state="waiting").update(
        state="cancelled", message="Cancelled; nothing was changed.", upload=None
    ):
        Job.objects.filter(pk=job.pk, state="running").update(cancel_wanted=True)


def reap_dead_jobs() -> int:
    """End jobs whose worker has not told for a while that it lives; their act was never kept, since it is kept only together with the
    word that the job is done. Jobs that were handed over and never begun are handed over again."""
    now = timezone.now()
    dead = Job.objects.filter(state="running", heartbeat__lt=now - DEAD_AFTER)
    ended = dead.update(
        state="failed", message="The worker stopped in the middle of this; nothing was changed. Try again.", upload=None
    )
    for job_id in Job.objects.filter(state="waiting", heartbeat__lt=now - WAITED_LONG).values_list("pk", flat=True):
        if Job.objects.filter(pk=job_id, state="waiting", heartbeat__lt=now - WAITED_LONG).update(heartbeat=now):
            run_job.enqueue(job_id)  # one that is taken twice runs once
    return ended


# --- the worker ------------------------------------------------------------------------------------------------
def _sign() -> Path:
    return Path(settings.DATA) / "worker.sign"


def worker_lives() -> None:
    """Called by the worker every few seconds."""
    _sign().touch()


def worker_silent() -> float | None:
    """Seconds since a worker was last seen; None where none ever was."""
    try:
        return max(time.time() - _sign().stat().st_mtime, 0.0)
    except FileNotFoundError:
        return None


def _waits_for(job: Job) -> str:
    silent = worker_silent()
    if job.state != "waiting" or (silent is not None and silent < SILENT_AFTER):
        return job.message
    since = "" if silent is None else f" since {silent / 60:.0f} minutes" if silent > 90 else f" since {silent:.0f} seconds"
    return f"No worker runs on the server{since}. This begins as soon as one does; ask who runs it to look at ./ivory."


def job_picture(job: Job) -> dict[str, Any]:
    return {
        "id": job.pk, "title": job.title, "state": job.state, "done": job.done, "total": job.total, "message": _waits_for(job),
        "by": job.user.get_username(), "result": job.result,
    }  # fmt: skip
