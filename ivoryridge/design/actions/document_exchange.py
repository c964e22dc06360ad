"""The document exchange, simulated: what others have put there, in versions, and what is newer than what was brought in."""

from __future__ import annotations

import hashlib
from datetime import datetime
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.db.models import Max
from scipy.spatial import cKDTree

from ivoryridge.core.terrain.survey import Survey

from ..ledger import Act
from ..models import ExchangeDocument, Project, ReceivedFile, Surface, SurveySet
from ..refusals import BadValue, NotThere
from ..results.surface import survey_arrays
from .bring_in_file import bring_in_file, read_file

__all__ = ["difference_to_taken", "document_content", "exchange_picture", "put_document", "take_document"]

_SAME_PLACE = 0.05  # m in plan; a point measured again lies within it (common practice, no source)


def put_document(project: Project, *, name: str, content: bytes, by: str, at: datetime, remark: str = "") -> ExchangeDocument:
    """Put the next version of a document there, as somebody outside would."""
    last = ExchangeDocument.objects.filter(project=project, name=name).aggregate(v=Max("version"))["v"] or 0
    return ExchangeDocument.objects.create(
        project=project, name=name, version=last + 1, content=content, sha256=hashlib.sha256(content).hexdigest(),
        size=len(content), put_by=by, put_at=at, remark=remark,
    )  # fmt: skip


def exchange_picture(project: Project) -> list[dict[str, Any]]:
    """The latest version of each document, and how it stands to what the project has: ``new``, ``taken`` or ``newer``."""
    taken = set(ReceivedFile.objects.filter(project=project, survey_sets__removed=False).values_list("name", "sha256").distinct())
    names = {n for n, _ in taken}
    latest: dict[str, ExchangeDocument] = {}
    for d in ExchangeDocument.objects.filter(project=project).defer("content").order_by("name", "version"):
        latest[d.name] = d
    return [
        {
            "id": d.pk, "name": d.name, "version": d.version, "by": d.put_by, "at": d.put_at.isoformat(), "size": d.size,
            "remark": d.remark,
            "state": "taken" if (d.name, d.sha256) in taken else "newer" if d.name in names else "new",
        }
        for d in latest.values()
    ]  # fmt: skip


def _document(project: Project, pk: int) -> ExchangeDocument:
    found = ExchangeDocument.objects.filter(project=project, pk=pk).first()
    if found is None:
        raise NotThere("no-such-document", "There is no such document in the exchange of this project.")
    return found


def _earlier_sets(project: Project, d: ExchangeDocument) -> list[SurveySet]:
    """Survey sets read from the version that was brought in last."""
    file = ReceivedFile.objects.filter(project=project, name=d.name, survey_sets__removed=False).order_by("-id").first()
    return list(SurveySet.present.filter(file=file).defer("arrays").order_by("id")) if file else []


def difference_to_taken(project: Project, pk: int) -> dict[str, Any]:
    """What a newer version would change: points and lines more or fewer, points measured again with another level."""
    d = _document(project, pk)
    sets = _earlier_sets(project, d)
    before = [survey_arrays(s.pk) for s in sets]
    now = [a for _, a in read_file(bytes(d.content), d.name).sets]
    old, new = _all_points(before), _all_points(now)
    lines = (sum(len(s.lines) for s in before), sum(len(s.lines) for s in now))
    told = {
        "version": d.version,
        "points_before": len(old),
        "points_now": len(new),
        "lines_before": lines[0],
        "lines_now": lines[1],
    }
    if not len(old) or not len(new):
        return {**told, "gone": len(old), "added": len(new), "levels_changed": 0, "greatest": 0.0, "place": None}
    distance, near = cKDTree(old[:, :2]).query(new[:, :2], k=3, distance_upper_bound=_SAME_PLACE)
    again = np.isfinite(distance[:, 0])
    back, _ = cKDTree(new[:, :2]).query(old[:, :2], distance_upper_bound=_SAME_PLACE)
    # where points lie double, each is compared with the twin whose level is nearest
    levels = np.append(old[:, 2], np.nan)[near[again]]
    change = np.nanmin(np.abs(new[again, 2][:, None] - levels), axis=1)
    changed = np.flatnonzero(change > 1e-3)
    at = new[again][int(np.argmax(change)), :2].tolist() if len(changed) else None
    return {
        **told, "gone": int((~np.isfinite(back)).sum()), "added": int((~again).sum()), "levels_changed": len(changed),
        "greatest": float(change.max(initial=0.0)), "place": at,
    }  # fmt: skip


def _all_points(surveys: list[Survey]) -> Any:
    return np.concatenate([s.points for s in surveys]) if surveys else np.empty((0, 3))


def document_content(project: Project, pk: int) -> tuple[bytes, str]:
    """Content and name of a document, to be looked at."""
    d = _document(project, pk)
    return bytes(d.content), d.name


def take_document(
    project: Project, user: User, pk: int, *, options: dict[str, Any] | None = None, surface_id: int | None = None
) -> tuple[Act, Surface, list[str]]:
    """Bring a document in, read as ``options`` say; a newer version takes the place of the one before it in its surface, a new one goes
    into the surface named. One step of undo."""
    d = _document(project, pk)
    sets = _earlier_sets(project, d)
    if sets and sets[0].file.sha256 == d.sha256:
        raise BadValue("taken-already", f"Version {d.version} of {d.name} is brought in already.")
    ids = {s.pk for s in sets}
    surface = next((s for s in Surface.present.filter(project=project) if ids & set(s.sources)), None)
    return bring_in_file(
        project, user, content=bytes(d.content), name=d.name, options=options,
        surface_id=surface.pk if surface else surface_id,
        replaces=tuple(i for i in (surface.sources if surface else []) if i in ids),
    )  # fmt: skip
