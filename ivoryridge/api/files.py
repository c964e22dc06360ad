"""Files: sent once, looked at by their id as often as their reading changes, and brought in."""

from __future__ import annotations

import json
from datetime import timedelta
from typing import Any

from django.http import HttpResponse
from django.utils import timezone
from ninja import File, Form, Router, UploadedFile

from ivoryridge.design.actions.bring_in_file import bring_in_file, preview_file
from ivoryridge.design.actions.document_exchange import document_content, take_document
from ivoryridge.design.forms.common import Acted
from ivoryridge.design.forms.ground import FilePreview, Queued, Uploaded
from ivoryridge.design.jobs import job_picture, start_import, start_preview
from ivoryridge.design.models import ReceivedFile, Upload
from ivoryridge.design.received.reading import is_long
from ivoryridge.design.refusals import BadValue, NotThere

from .answers import acted, json_answer
from .rules import editor

router = Router()
MOST_BYTES = 420 * 1024 * 1024
KEPT_FOR = timedelta(hours=24)
MOST_KEPT = 6  # of one person; the eldest goes


@router.post("/projects/{int:project_id}/uploads", auth=editor, response=Uploaded)
def upload(request: Any, project_id: int, file: File[UploadedFile]) -> HttpResponse:
    """Keep a file to be looked at; it goes when it was brought in, or after a day."""
    if (file.size or 0) > MOST_BYTES:
        raise BadValue(
            "file-too-large", f"The file has {(file.size or 0) / 1e6:.0f} MB; at most {MOST_BYTES / 1e6:.0f} MB are taken."
        )
    mine = Upload.objects.filter(user=request.user)
    mine.filter(at__lt=timezone.now() - KEPT_FOR).delete()
    for row in mine.order_by("-id").only("id")[MOST_KEPT - 1 :]:
        row.delete()
    content = file.read()
    row = Upload.objects.create(
        project=request.project, user=request.user, name=(file.name or "file")[:200], content=content, size=len(content)
    )
    return json_answer({"upload": row.pk, "name": row.name, "size": row.size}, status=201)


def given_file(
    request: Any, file: UploadedFile | None, upload: int, received: int, document: int = 0
) -> tuple[bytes, str, ReceivedFile | None]:
    """Content and name of what is meant: a file in this request, one sent before, one on the shelf, or one of the document exchange."""
    if document:
        return *document_content(request.project, document), None
    if upload:
        sent = Upload.objects.filter(project=request.project, user=request.user, pk=upload).first()
        if sent is None:
            raise NotThere("no-such-upload", "The file is not kept any more. Choose it again; nothing else was lost.")
        return bytes(sent.content), sent.name, None
    if received:
        kept = ReceivedFile.objects.filter(project=request.project, pk=received).first()
        if kept is None:
            raise NotThere("no-such-file", "There is no such received file in this project.")
        return bytes(kept.content), kept.name, kept
    if file is None:
        raise BadValue("no-file", "No file was sent. Choose one.", field="file")
    return file.read(), file.name or "file", None


def _options(text: str) -> dict[str, Any] | None:
    try:
        options = json.loads(text) if text else None
    except ValueError:
        options = ()
    if options is not None and not isinstance(options, dict):
        raise BadValue("bad-options", "The reading options are not valid.")
    return options


@router.post("/projects/{int:project_id}/preview", auth=editor, response=FilePreview | Queued)
def preview(
    request: Any,
    project_id: int,
    file: File[UploadedFile | None] = None,
    upload: Form[int] = 0,
    received: Form[int] = 0,
    document: Form[int] = 0,
    options: Form[str] = "",
) -> HttpResponse:
    """Inventory of a file before anything is stored. For one that takes long the answer names a job to look after."""
    content, name, _ = given_file(request, file, upload, received, document)
    chosen = _options(options)
    if is_long(content, name):
        job = start_preview(request.project, request.user, content=content, name=name, options=chosen)
        return json_answer({"job": job_picture(job)}, status=202)
    return json_answer(preview_file(request.project, content, name, chosen))


@router.post("/projects/{int:project_id}/files", auth=editor, response=Acted)
def bring_in(
    request: Any, project_id: int, file: File[UploadedFile | None] = None, upload: Form[int] = 0, received: Form[int] = 0,
    document: Form[int] = 0, options: Form[str] = "", surface_id: Form[int] = 0,
) -> HttpResponse:  # fmt: skip
    """A file that is read within about a second is brought in at once; for others the answer names a job to look after."""
    if document:
        doing, surface, told = take_document(
            request.project, request.user, document, options=_options(options), surface_id=surface_id or None
        )
        return acted(doing, told, surface_id=surface.pk)
    content, name, kept = given_file(request, file, upload, received)
    what: dict[str, Any] = {
        "content": content, "name": name, "options": _options(options), "surface_id": surface_id or None, "received": kept,
    }  # fmt: skip
    if is_long(content, name) or len(content) > 4_000_000:
        job = start_import(request.project, request.user, **what)
        answer = json_answer({"label": job.title, "told": [], "job": job_picture(job)}, status=202)
    else:
        doing, surface, told = bring_in_file(request.project, request.user, **what)
        answer = acted(doing, told, surface_id=surface.pk)
    Upload.objects.filter(user=request.user, pk=upload).delete()
    return answer
