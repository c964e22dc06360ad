"""Bring in a file: first an inventory with nothing stored, then points and breaklines on the Received shelf and into a surface."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.landxml import LandXmlSurface, read_landxml
from ivoryridge.core.exchange.points_csv import CsvLayout, decode_text, detect_layout, read_points
from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.survey import Survey

from ..assemble import SurfaceRecipe, assemble_surface
from ..derive import derived
from ..ledger import Act, act
from ..models import Project, ReceivedFile, Surface, SurveySet
from ..results import make_surface, surface_key, survey_arrays
from ..survey_blob import pack_survey

__all__ = ["ReadFile", "bring_in_file", "preview_file", "read_file"]

_STEPS = 4
_FAR = 20_000.0  # m; a file farther than this from what is there is told (common practice, no source)


@dataclass(frozen=True, slots=True)
class ReadFile:
    """What a file holds: its format, how it was read, the survey it gives, and findings."""

    format: str
    reading: dict[str, Any]
    sets: tuple[tuple[str, Survey], ...]
    findings: tuple[Finding, ...]


def read_file(content: bytes, name: str, options: dict[str, Any] | None = None) -> ReadFile:
    """Read CSV points or LandXML surfaces. ``options`` may change the layout that was found out."""
    head = content[:2000].lstrip()
    if head.startswith(b"<") or name.lower().endswith((".xml", ".landxml")):
        return _read_landxml(content, name)
    layout = _layout(content, name, options or {})
    found = read_points(content, layout, name)
    reading = _layout_told(layout)
    return ReadFile("CSV points", reading, ((name, Survey(found.points, found.code)),), found.findings)


def _layout(content: bytes, name: str, options: dict[str, Any]) -> CsvLayout:
    if {"delimiter", "decimal_comma", "header", "columns"} <= set(options):
        columns = {k: int(v) for k, v in options["columns"].items() if v is not None and int(v) >= 0}
        found = detect_layout(content, name)
        return CsvLayout(str(options["delimiter"]), bool(options["decimal_comma"]), bool(options["header"]), columns, found.names)
    return detect_layout(content, name)


def _layout_told(layout: CsvLayout) -> dict[str, Any]:
    return {
        "delimiter": layout.delimiter, "delimiter_name": layout.delimiter_name, "decimal_comma": layout.decimal_comma,
        "header": layout.header, "columns": layout.columns, "names": list(layout.names),
    }  # fmt: skip


def _read_landxml(content: bytes, name: str) -> ReadFile:
    model = read_landxml(content, name)
    sets = [(s.name, _survey_of(s)) for s in model.surfaces]
    if not sets:
        has = f"{len(model.alignments)} alignments" if model.alignments else "nothing this program brings in here"
        raise FormatError("landxml-no-surface", name=name, content=has)
    return ReadFile("LandXML", {"unit": model.unit, "alignments": len(model.alignments)}, tuple(sets), model.findings)


def _survey_of(s: LandXmlSurface) -> Survey:
    points = s.points if len(s.points) or not s.breaklines else np.empty((0, 3))
    return Survey(points, ("",) * len(points), s.breaklines, s.faces)


def preview_file(project: Project, content: bytes, name: str, options: dict[str, Any] | None = None) -> dict[str, Any]:
    """Inventory of a file; nothing is stored. A layout that cannot be read is told beside the first rows."""
    error: FormatError | None = None
    read: ReadFile | None = None
    try:
        read = read_file(content, name, options)
    except FormatError as found:
        error = found
        if name.lower().endswith((".xml", ".landxml")) or content[:2000].lstrip().startswith(b"<"):
            raise
    rows: list[str] = []
    reading: dict[str, Any] = {}
    if read is None or read.format == "CSV points":
        rows = [line[:200] for line in decode_text(content, name).splitlines() if line.strip()][:12]
        reading = read.reading if read else _layout_told(_layout(content, name, options or {}))
    else:
        reading = read.reading
    sets = [{"name": n, **a.inventory(), "plan": _thumbnail(a)} for n, a in read.sets] if read else []
    findings = [f.as_dict() for f in read.findings] if read else []
    if read and (far := _far_from_project(project, read)):
        findings.append(far.as_dict())
    return {
        "name": name, "format": read.format if read else "CSV points", "size": len(content), "reading": reading, "rows": rows,
        "sets": sets, "findings": findings, "error": error.sentence if error else None,
    }  # fmt: skip


def _thumbnail(a: Survey) -> list[list[float]]:
    """At most 2500 places for a quick plan, evenly taken; E, N, level."""
    stacked = np.concatenate([a.points, *a.lines]) if a.lines else a.points
    step = max(len(stacked) // 2500, 1)
    return np.round(stacked[::step], 2).tolist()


def _far_from_project(project: Project, read: ReadFile) -> Finding | None:
    others = [s.inventory["extent"] for s in SurveySet.present.filter(project=project).only("inventory") if s.inventory]
    if not others:
        return None
    e = np.array(others)
    mine = np.array([a.inventory()["extent"] for _, a in read.sets])
    gap = np.maximum(
        np.maximum(e[:, :2].min(axis=0) - mine[:, 2:].max(axis=0), mine[:, :2].min(axis=0) - e[:, 2:].max(axis=0)), 0.0
    )
    distance = float(np.hypot(*gap))
    return Finding("doubt", "far-from-project", {"distance": distance / 1000}) if distance > _FAR else None


def bring_in_file(
    project: Project,
    user: User,
    *,
    content: bytes,
    name: str,
    options: dict[str, Any] | None = None,
    surface_id: int | None = None,
    progress: Callable[[int, int, str], None] = lambda done, total, message: None,
) -> tuple[Act, Surface, list[str]]:
    """Store the file and what it holds, and add it to a surface (a new one when none is named). One step of undo.

    All that takes long comes before the transaction, so that nobody waits for it and cancelling leaves nothing.
    ``progress`` is told (steps done, steps in all, what is being done), and may raise to cancel.
    """
    progress(0, _STEPS, f"Reading {len(content) / 1e6:.1f} MB")
    read = read_file(content, name, options)
    total = sum(len(a.points) for _, a in read.sets)
    progress(1, _STEPS, f"Packing {total} points")
    packed = [(set_name, arrays, *pack_survey(arrays)) for set_name, arrays in read.sets]
    surface = Surface.present.filter(project=project, pk=surface_id).first() if surface_id else None
    recipe = assemble_surface(surface) if surface else SurfaceRecipe(0, "", (), None)
    progress(2, _STEPS, f"Triangulating {total} points")
    new = replace(recipe, sources=(*recipe.sources, *((0, digest) for _, _, _, digest in packed)))
    made, findings = derived(
        surface_key(new),
        lambda: make_surface(
            [*(survey_arrays(pk) for pk, _ in recipe.sources), *(a for _, a, _, _ in packed)], recipe.greatest_edge
        ),
    )
    progress(3, _STEPS, "Storing")
    with act(project, user, f"Bring in {name}") as doing:
        file = ReceivedFile.objects.create(
            project=project, name=name, format=read.format, sha256=hashlib.sha256(content).hexdigest(), content=content,
            size=len(content), received_by=user,
        )  # fmt: skip
        added = [
            doing.create(
                SurveySet(
                    project=project, file=file, name=n, arrays=blob, hash=digest, inventory=a.inventory(), reading=read.reading
                )
            ).pk
            for n, a, blob, digest in packed
        ]
        if surface is None:
            surface = doing.create(Surface(project=project, name=_surface_name(project), sources=added))
        else:
            surface.refresh_from_db()
            doing.change(surface, sources=[*surface.sources, *added])
        for road in project.roads.filter(removed=False, surface=None):
            doing.change(road, surface_id=surface.pk)
    told = [f"{total:,} points brought in; {surface.name} has {len(made.triangles):,} triangles now.".replace(",", " ")]
    return doing, surface, told + [f.sentence for f in (*read.findings, *findings)]


def _surface_name(project: Project) -> str:
    taken = set(Surface.present.filter(project=project).values_list("name", flat=True))
    name, number = "Existing ground", 2
    while name in taken:
        name, number = f"Existing ground {number}", number + 1
    return name
