"""The three shelves of a project: everything in it, what it is made from, and what is made from it. Reads only."""

from __future__ import annotations

from collections import defaultdict
from typing import Any, cast

from ..forms.project import ShelfRow
from ..models import Issue, Part, Project, ReceivedFile, Road, SheetSet, Structure, Surface, SurveySet, Template
from ..objects import kind_named, template_refers

__all__ = ["shelves_picture"]


def shelves_picture(project: Project) -> list[ShelfRow]:
    """Rows ``{id, shelf, kind, row, revision, name, told, made_from, made_into}``; ids are ``kind-number``."""
    out: list[dict[str, Any]] = []

    def put(kind: str, row: Any, told: str, made_from: list[str], **more: Any) -> None:
        out.append({
            "id": f"{kind}-{row.pk}", "shelf": kind_named(kind).shelf, "kind": kind, "row": row.pk, "revision": getattr(row, "revision", 0),
            "name": row.name, "told": told, "made_from": made_from, **more,
        })  # fmt: skip

    for f in ReceivedFile.objects.filter(project=project).defer("content").select_related("received_by").order_by("pk"):
        put(
            "file",
            f,
            f"{f.format}, {_size(f.size)}, {f.received_by.get_username()}",
            [],
            sha256=f.sha256,
            at=f.received_at.isoformat(),
        )
    for s in SurveySet.present.filter(project=project).defer("arrays").order_by("pk"):
        points, lines, faces = (s.inventory.get(k, 0) for k in ("points", "breaklines", "faces"))
        counts = [_counted(n, what) for n, what in ((points, "point"), (lines, "line"), (faces, "face")) if n]
        put("survey", s, ", ".join(counts), [f"file-{s.file_id}"])
    for surface in Surface.present.filter(project=project).order_by("pk"):
        told = _counted(len(surface.edits), "edit") if surface.edits else ""
        put("surface", surface, told, [f"survey-{i}" for i in surface.sources])
    for p in Part.present.filter(project=project).order_by("pk"):
        put("part", p, _counted(len({n["name"] for n in p.data["nodes"]}), "node"), [])
    for x in Structure.present.filter(project=project).order_by("pk"):
        put("structure", x, _counted(len(x.layers), "layer"), [])
    for t in Template.present.filter(project=project).order_by("pk"):
        put("template", t, _counted(len(t.left) + len(t.right), "part"), sorted({f"{k}-{i}" for k, i in template_refers(t)}))
    for r in Road.present.filter(project=project).order_by("pk"):
        bases = [("surface", r.surface_id), ("template", r.template_id)]
        put("road", r, _counted(r.pis.filter(removed=False).count(), "PI"), [f"{k}-{i}" for k, i in bases if i])
    for sheets in SheetSet.present.filter(project=project, road__removed=False).order_by("pk"):
        put(
            "sheets",
            sheets,
            f"{sheets.paper}, 1:{sheets.scale:g}, revision {sheets.revision_mark}",
            [f"road-{sheets.road_id}"],
        )
    for issue in Issue.present.filter(project=project).select_related("issued_by").order_by("pk"):
        told = issue.issued_by.get_username() + (f": {issue.remark}" if issue.remark else "")
        files = [{"id": f.pk, "name": f.name, "size": f.size} for f in issue.files.defer("content").order_by("pk")]
        put(
            "issue",
            issue,
            told,
            [f"sheets-{issue.sheet_set_id}"],
            files=files,
            record=issue.record,
            at=issue.issued_at.isoformat(),
        )
    return cast(list[ShelfRow], _with_both_ways(out))


def _with_both_ways(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
    there = {r["id"] for r in rows}
    into: dict[str, list[str]] = defaultdict(list)
    for r in rows:
        r["made_from"] = [i for i in r["made_from"] if i in there]
        for i in r["made_from"]:
            into[i].append(r["id"])
    return [{**r, "made_into": into[r["id"]]} for r in rows]


def _counted(n: int, what: str) -> str:
    return f"{n:,} {what if n == 1 else what + 's'}".replace(",", " ")


def _size(count: int) -> str:
    return f"{count / 1e6:.1f} MB" if count >= 1e6 else f"{max(count // 1000, 1)} kB"
