"""What the page is told of a project: settings, roads, surfaces, templates, sheet sets, files, and the head of the ledger."""

from __future__ import annotations

from typing import Any, cast

from ivoryridge.core.errors import InputError
from ivoryridge.core.section.roles import roles_told
from ivoryridge.core.terrain.recipe import usual_role

from ..forms.project import Project as ProjectForm
from ..inputs.network import network_of
from ..inputs.sections import Stock
from ..inputs.standards import all_standards
from ..inputs.surface import SURFACE_SETTINGS, SurfaceRecipe
from ..ledger import next_redo, next_undo
from ..models import Junction, Project, ReceivedFile, Road, SheetSet, Surface, SurveySet, Template
from ..results.surface import surface
from .bench import own_parts, structures_told

__all__ = ["project_picture"]


def project_picture(project: Project, role: str, user: Any) -> ProjectForm:
    stock = Stock.of(project.pk)
    undo, redo = next_undo(project, user), next_redo(project, user)
    sets = {s.pk: s for s in SurveySet.present.filter(project=project).defer("arrays")}
    recipes = network_of(project.pk).surfaces
    surfaces = [_surface_picture(s, sets, recipes[s.pk]) for s in Surface.present.filter(project=project)]
    return cast(ProjectForm, {
        "id": project.pk, "name": project.name, "revision": project.revision, "role": role, "user": user.get_username(),
        "settings": {k: getattr(project, k) for k in ("coordinate_reference", "length_unit", "chainage_group", "chainage_word",
        "traffic_side", "standard", "design_speed", "greatest_grade", "least_k", "land")},
        "standards": [{"id": s.id, "name": s.name, "source": s.source, "status": s.status, "greatest_speed": s.rows[-1]["speed"]}
        for s in all_standards().values()],
        "roads": [
            {k: getattr(r, k) for k in ("id", "name", "revision", "interval", "fineness", "start_station", "template_id", "surface_id",
            "speeds", "ties", "mirrored", "equations", "sight_clearance", "fixed_points", "candidates", "candidate")}
            | {"course": {k: v for k, v in r.course.items() if k not in ("elements", "points")}}
            for r in Road.present.filter(project=project).order_by("id")
        ],
        "roles": roles_told(), "surfaces": surfaces, "sorting_rules": project.sorting_rules, "annotations": project.annotations,
        "templates": [_template_picture(t, stock) for t in Template.present.filter(project=project)],
        "parts": own_parts(project), "structures": structures_told(project),
        "junctions": [{"id": j.pk, "name": j.name, "revision": j.revision} for j in Junction.present.filter(project=project)],
        "sheet_sets": [
            {k: getattr(s, k) for k in ("id", "name", "revision", "road_id", "paper", "scale", "exaggeration", "section_scale",
            "section_interval", "section_texts", "band_interval", "drawing_number", "revision_mark")}
            for s in SheetSet.present.filter(project=project, road__removed=False)
        ],
        "received": [
            {"id": f.pk, "name": f.name, "format": f.format, "size": f.size, "sha256": f.sha256, "by": f.received_by.get_username(),
            "at": f.received_at.isoformat()}
            for f in ReceivedFile.objects.filter(project=project,
            survey_sets__removed=False).distinct().defer("content").select_related("received_by")
        ],
        "ledger": {"head": str(project.head), "undo": undo.label if undo else None, "redo": redo.label if redo else None},
    })  # fmt: skip


def _surface_picture(s: Surface, sets: dict[int, SurveySet], recipe: SurfaceRecipe) -> dict[str, Any]:
    sources = [
        {"id": i, "name": sets[i].name, "file_id": sets[i].file_id, "revision": sets[i].revision, "layers": _layers(sets[i]),
        **sets[i].inventory}
        for i in s.sources if i in sets
    ]  # fmt: skip
    return {
        "id": s.pk, "name": s.name, "revision": s.revision, **{k: getattr(s, k) for k in SURFACE_SETTINGS},
        "key": surface(recipe).key, "sources": sources, "edits": s.edits, "answers": s.answers, "label_paths": s.label_paths,
    }  # fmt: skip


def _layers(s: SurveySet) -> list[dict[str, Any]]:
    out = []
    for la in s.layers:
        key = f"{la['type']}/{la['code']}"
        out.append({**la, "key": key, "role": s.roles.get(key, usual_role(la["type"])), "ruled": key in s.roles})
    return out


def _template_picture(t: Template, stock: Stock) -> dict[str, Any]:
    def side(rows: list[dict[str, Any]]) -> list[dict[str, Any]]:
        out = []
        for r in rows:
            try:
                part = stock.part(r["part"], t.name)
            except InputError as error:  # it was deleted in some other way; the road says so, and the row can be swapped
                out.append(
                    {"id": r["id"], "part": r["part"], "label": "?", "remark": error.sentence, "parameters": [], "targets": []}
                )
                continue
            values, bound = r.get("values", {}), r.get("targets", {})
            out.append({
                "id": r["id"], "part": r["part"], "label": part.label, "remark": part.remark,
                "parameters": [
                    {"name": p.name, "label": p.label, "kind": p.kind, "value": values.get(p.name, p.value), "usual": p.value,
                     "least": p.least, "greatest": p.greatest, "choices": list(p.choices), "remark": p.remark}
                    for p in part.parameters
                ],
                "targets": [
                    {"name": x.name, "label": x.label, "kind": x.kind, "surface": bound.get(x.name, {}).get("surface"),
                     "level": bound.get(x.name, {}).get("level")}
                    for x in part.targets
                ],
            })  # fmt: skip
        return out

    return {"id": t.pk, "name": t.name, "revision": t.revision, "left": side(t.left), "right": side(t.right)}
