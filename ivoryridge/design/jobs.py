"""Long work: a job row with progress and a heartbeat, run by the worker; cancelled between steps; reaped when its worker dies."""

from __future__ import annotations

import logging
from collections.abc import Callable
from datetime import timedelta
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.utils import timezone
from django_tasks import task

from ivoryridge.core.errors import IvoryRidgeError
from ivoryridge.core.wording import UNITS, speaking

from .actions.bring_in_file import bring_in_file
from .models import Job, Project, ReceivedFile
from .received.preview import preview_file
from .refusals import Refused

__all__ = ["Cancelled", "Progress", "cancel_job", "job_picture", "reap_dead_jobs", "start_import", "start_preview"]

log = logging.getLogger(__name__)
DEAD_AFTER = timedelta(seconds=45)  # a worker tells at least every few seconds that it lives


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
        with speaking(UNITS[job.project.length_unit]):
            result = _KINDS[job.request["kind"]](job, Progress(job_id))
    except Cancelled:
        _end(job_id, "cancelled", "Cancelled; nothing was changed.")
    except (IvoryRidgeError, Refused) as error:
        _end(job_id, "failed", error.sentence)
    except Exception:
        log.exception("job %s", job_id)
        _end(job_id, "failed", "Something went wrong on our side; nothing was changed. Try again.")
    else:
        _end(job_id, "done", "", result)


def _end(job_id: int, state: str, message: str, result: dict[str, Any] | None = None) -> None:
    Job.objects.filter(pk=job_id).update(
        state=state, message=message[:500], upload=None, result=result or {}, heartbeat=timezone.now()
    )


def _run_import(job: Job, progress: Progress) -> dict[str, Any]:
    r = job.request
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
    return {"label": doing.label, "told": told, "surface_id": surface.pk}


def _run_preview(job: Job, progress: Progress) -> dict[str, Any]:
    r = job.request
    progress(0, 1, f"Looking at {len(job.upload or b'') / 1e6:.1f} MB")
    return {"preview": preview_file(job.project, bytes(job.upload or b""), r["name"], r["options"])}


_KINDS: dict[str, Callable[[Job, Progress], dict[str, Any]]] = {"import": _run_import, "preview": _run_preview}


def cancel_job(job: Job) -> None:
    """Ask a running job to stop at its next step; one that waits is over at once."""
    if not Job.objects.filter(pk=job.pk, state="waiting").update(
        state="cancelled", message="Cancelled; nothing was changed.", upload=None
    ):
        Job.objects.filter(pk=job.pk, state="running").update(cancel_wanted=True)


def reap_dead_jobs() -> int:
    """End jobs whose worker has not told for a while that it lives. Their transaction was never committed."""
    dead = Job.objects.filter(state="running", heartbeat__lt=timezone.now() - DEAD_AFTER)
    return dead.update(
        state="failed", message="The worker stopped in the middle of this; nothing was changed. Try again.", upload=None
    )


def job_picture(job: Job) -> dict[str, Any]:
    return {
        "id": job.pk, "title": job.title, "state": job.state, "done": job.done, "total": job.total, "message": job.message,
        "by": job.user.get_username(), "result": job.result,
    }  # fmt: skip
