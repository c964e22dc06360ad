"""Parts, templates and structures of a project, gathered for a file."""

from __future__ import annotations

from typing import Any

from ivoryridge.core.section.library import library_parts
from ivoryridge.core.section.portable import Portable

from ..models import Part, Project, Structure, Template
from ..refusals import NotThere

__all__ = ["parts_of"]


def parts_of(project: Project, *, template: int | None = None, part: int | None = None) -> tuple[str, Portable]:
    """A name for the file, and what it holds: all of the project's, or one template or part with what it needs."""
    templates = list(Template.present.filter(project=project).order_by("pk"))
    own = {p.pk: p.data for p in Part.present.filter(project=project).order_by("pk")}
    structures = {
        str(s.pk): {"name": s.name, "layers": s.layers} for s in Structure.present.filter(project=project).order_by("pk")
    }
    name = project.name
    if template is not None:
        templates = [t for t in templates if t.pk == template]
        if not templates:
            raise NotThere("no-such-template", "This template is not there any more.")
        name = templates[0].name
        needed = {r["part"] for t in templates for r in (*t.left, *t.right)}
        own = {k: v for k, v in own.items() if k in needed}
        used = {v for t in templates for r in (*t.left, *t.right) for v in r.get("values", {}).values() if isinstance(v, str)}
        structures = {k: v for k, v in structures.items() if k in used}
    elif part is not None:
        if part not in own:
            raise NotThere("no-such-part", "This part is not there any more.")
        own, templates, structures = {part: own[part]}, [], {}
        name = str(own[part]["label"])
    return name, Portable(
        {f"part {k}": v for k, v in own.items()},
        {f"structure {k}": v for k, v in structures.items()},
        [{"name": t.name, **{s: [_row(r) for r in getattr(t, s)] for s in ("left", "right")}} for t in templates],
    )


def _row(row: dict[str, Any]) -> dict[str, Any]:
    part = row["part"]
    values = {k: f"structure {v}" if isinstance(v, str) and v.isdecimal() else v for k, v in row.get("values", {}).items()}
    levels = {
        name: {"level": b["level"]} for name, b in row.get("targets", {}).items() if "level" in b
    }  # surfaces are the project's
    placed = {"id": row["id"], "part": part if part in library_parts() else f"part {part}", "values": values}
    return placed | ({"targets": levels} if levels else {})
