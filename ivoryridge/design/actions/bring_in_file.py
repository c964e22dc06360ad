"""Bring in a file: first an inventory with nothing stored, then points and breaklines on the Received shelf and into a surface."""

from __future__ import annotations

import hashlib
import re
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from fnmatch import fnmatchcase
from typing import Any

import numpy as np
from django.contrib.auth.models import User

from ivoryridge.core.errors import FormatError
from ivoryridge.core.exchange.dxf_survey import read_dxf_survey
from ivoryridge.core.exchange.grid import read_grid, survey_of_grid
from ivoryridge.core.exchange.landxml import LandXmlSurface, read_landxml
from ivoryridge.core.exchange.las import read_las
from ivoryridge.core.exchange.points_csv import CsvLayout, decode_text, detect_layout, read_points
from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.recipe import ROLES, usual_role
from ivoryridge.core.terrain.survey import Survey, layers_of

from ..assemble import SourceRow, SurfaceRecipe, assemble_surface, numbered_edits
from ..derive import derived
from ..ledger import Act, act
from ..models import Project, ReceivedFile, Surface, SurveySet
from ..reference import compare_references
from ..results import make_surface, surface_key
from ..shown import overview_of
from ..survey_blob import pack_survey

__all__ = ["ReadFile", "bring_in_file", "preview_file", "read_file", "role_by_rules", "sorted_layers"]

_STEPS = 4
USUAL_TOLERANCE = 0.05  # m; laser points are thinned to it unless another one is asked for
_FAR = 20_000.0  # m; a file farther than this from what is there is told (common practice, no source)


@dataclass(frozen=True, slots=True)
class ReadFile:
    """What a file holds: its format, how it was read, the survey it gives, and findings."""

    format: str
    reading: dict[str, Any]
    sets: tuple[tuple[str, Survey], ...]
    findings: tuple[Finding, ...]


def read_file(content: bytes, name: str, options: dict[str, Any] | None = None, *, look: bool = False) -> ReadFile:
    """Read whatever format the file has, found by its first bytes or its ending.

    ``options`` may change the CSV layout that was found out, and the tolerance (m) to which laser points are thinned.
    ``look``: only to be looked at, so laser points are not thinned yet.
    """
    options = options or {}
    match _format_of(content, name):
        case "LandXML":
            return _read_landxml(content, name)
        case "DXF":
            survey, unit, findings = read_dxf_survey(content, name)
            return ReadFile("DXF", {"unit": unit}, ((name, survey),), tuple(findings))
        case "grid":
            grid = read_grid(content, name)
            survey, findings = survey_of_grid(grid)
            reading = {"unit": "meter", "reference": grid.reference, "cell": list(grid.size)}
            return ReadFile("Elevation grid", reading, ((name, survey),), tuple(findings))
        case "LAS":
            tolerance = float(options.get("tolerance") or USUAL_TOLERANCE)
            survey, findings = read_las(content, name, tolerance=None if look else tolerance)
            if look:
                findings = [*findings, Finding("note", "las-to-thin", {"count": len(survey.points), "tolerance": tolerance})]
            return ReadFile("Laser points", {"tolerance": tolerance}, ((name, survey),), tuple(findings))
    layout = _layout(content, name, options)
    found = read_points(content, layout, name)
    return ReadFile("CSV points", _layout_told(layout), ((name, Survey(found.points, found.code)),), found.findings)


def _format_of(content: bytes, name: str) -> str:
    head, ending = content[:2000].lstrip(), name.lower().rpartition(".")[2]
    if head.startswith(b"<") or ending in ("xml", "landxml"):
        return "LandXML"
    if content.startswith(b"LASF") or ending in ("las", "laz"):
        return "LAS"
    if (
        (content[:2] in (b"II", b"MM") and ending in ("tif", "tiff"))
        or ending in ("tif", "tiff")
        or re.match(rb"(?i)ncols\s+\d", head)
    ):
        return "grid"
    if ending == "dxf" or b" Binary DXF" in content[:22] or re.match(rb"\s*(999\r?\n.*\r?\n\s*)*0\r?\nSECTION", head):
        return "DXF"
    return "CSV"


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
    if len(model.points):
        sets.append((f"{name} points", Survey(model.points, model.point_codes)))
    if not sets:
        has = f"{len(model.alignments)} alignments" if model.alignments else "nothing this program brings in here"
        raise FormatError("landxml-no-surface", name=name, content=has)
    reading = {"unit": model.unit, "alignments": len(model.alignments), "reference": model.reference}
    return ReadFile("LandXML", reading, tuple(sets), model.findings)


def _survey_of(s: LandXmlSurface) -> Survey:
    points = s.points if len(s.points) or not s.breaklines else np.empty((0, 3))
    lines = (*s.breaklines, *s.contours, *(ring for _, ring in s.boundaries))
    types = ("breakline",) * len(s.breaklines) + ("contour",) * len(s.contours)
    types += tuple("outer boundary" if kind == "outer" else "hole boundary" for kind, _ in s.boundaries)
    if len(s.faces):  # boundaries have done their work in faces that came; as they stand they would cut a second time
        lines, types = lines[: len(s.breaklines)], types[: len(s.breaklines)]
    return Survey(points, ("",) * len(points), lines, s.faces, ("",) * len(lines), types, "surface point")


def preview_file(project: Project, content: bytes, name: str, options: dict[str, Any] | None = None) -> dict[str, Any]:
    """Inventory of a file; nothing is stored. A layout that cannot be read is told beside the first rows."""
    error: FormatError | None = None
    read: ReadFile | None = None
    try:
        read = read_file(content, name, options, look=True)
    except FormatError as found:
        error = found
        if _format_of(content, name) != "CSV":
            raise
    rows: list[str] = []
    reading: dict[str, Any] = {}
    if read is None or read.format == "CSV points":
        rows = [line[:200] for line in decode_text(content, name).splitlines() if line.strip()][:12]
        reading = read.reading if read else _layout_told(_layout(content, name, options or {}))
    else:
        reading = read.reading
    sets = (
        [
            {"name": n, **a.inventory(), "plan": _thumbnail(a), "layers": sorted_layers(project, a, options or {})}
            for n, a in read.sets
        ]
        if read
        else []
    )
    findings = [f.as_dict() for f in read.findings] if read else []
    if read and (far := _far_from_project(project, read)):
        findings.append(far.as_dict())
    return {
        "name": name, "format": read.format if read else "CSV points", "size": len(content), "reading": reading, "rows": rows,
        "sets": sets, "findings": findings, "reference": compare_references(str(reading.get("reference") or ""), project.coordinate_reference), "error": error.sentence if error else None,
    }  # fmt: skip


def _thumbnail(a: Survey) -> list[list[float]]:
    """At most 2500 places for a quick plan, evenly taken; E, N, level."""
    stacked = np.concatenate([a.points, *a.lines]) if a.lines else a.points
    stacked = stacked[np.isfinite(stacked).all(axis=1)]
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
    replaces: tuple[int, ...] = (),
    progress: Callable[[int, int, str], None] = lambda done, total, message: None,
) -> tuple[Act, Surface, list[str]]:
    """Store the file and what it holds, and add it to a surface (a new one when none is named). One step of undo.

    ``replaces`` are survey sets of that surface whose place the new ones take; edits of those sets go with them.

    All that takes long comes before the transaction, so that nobody waits for it and cancelling leaves nothing.
    ``progress`` is told (steps done, steps in all, what is being done), and may raise to cancel.
    """
    progress(0, _STEPS, f"Reading {len(content) / 1e6:.1f} MB")
    read = read_file(content, name, options)
    total = sum(len(a.points) for _, a in read.sets)
    progress(1, _STEPS, f"Packing {total} points")
    packed = [(set_name, arrays, *pack_survey(arrays)) for set_name, arrays in read.sets]
    roles = [{la["key"]: la["role"] for la in sorted_layers(project, a, options or {}) if la["ruled"]} for _, a in read.sets]
    surface = Surface.present.filter(project=project, pk=surface_id).first() if surface_id else None
    recipe = assemble_surface(surface) if surface else SurfaceRecipe()
    progress(2, _STEPS, f"Triangulating {total} points")
    sources = [SourceRow(0, digest, r) for (_, _, _, digest), r in zip(packed, roles, strict=True)]
    kept = [s for s in recipe.sources if s.id not in replaces]
    at = next((i for i, s in enumerate(recipe.sources) if s.id in replaces), len(kept))
    rows = [*kept[:at], *sources, *kept[at:]]
    edits = [e for e in (surface.edits if surface else []) if e.get("survey") not in replaces]
    lost = len(surface.edits) - len(edits) if surface else 0
    new = replace(recipe, sources=tuple(rows), edits=numbered_edits(edits, [s.id for s in rows]))
    made, findings = derived(surface_key(new), lambda: make_surface(new, {digest: a for _, a, _, digest in packed}))
    overview_of(new)  # so that who opens the project next need not wait for it
    progress(3, _STEPS, "Storing")
    with act(project, user, f"Bring in {name}") as doing:
        file = ReceivedFile.objects.create(
            project=project, name=name, format=read.format, sha256=hashlib.sha256(content).hexdigest(), content=content,
            size=len(content), received_by=user,
        )  # fmt: skip
        added = [
            doing.create(
                SurveySet(
                    project=project,
                    file=file,
                    name=n,
                    arrays=blob,
                    hash=digest,
                    inventory=a.inventory(),
                    reading=read.reading,
                    layers=[asdict(la) for la in layers_of(a)],
                    roles=r,
                )
            ).pk
            for (n, a, blob, digest), r in zip(packed, roles, strict=True)
        ]
        if surface is None:
            surface = doing.create(Surface(project=project, name=_surface_name(project), sources=added))
        else:
            surface.refresh_from_db()
            others = [i for i in surface.sources if i not in replaces]
            doing.change(surface, sources=[*others[:at], *added, *others[at:]], edits=edits)
        for road in project.roads.filter(removed=False, surface=None):
            doing.change(road, surface_id=surface.pk)
    told = [f"{total:,} points brought in; {surface.name} has {len(made.triangles):,} triangles now.".replace(",", " ")]
    if lost:
        told.append(f"{lost} edits of what was replaced went with it. Undo brings both back.")
    return doing, surface, told + [f.sentence for f in (*read.findings, *findings)]


def sorted_layers(project: Project, survey: Survey, options: dict[str, Any]) -> list[dict[str, Any]]:
    """Layers of a survey with their roles: as chosen by the person (``options["roles"]``), else by the first rule of the
    project that matches, else by their type; ``options["rules"]`` are tried in place of the project's. ``ruled`` says that one
    of the first two has spoken."""
    chosen = options.get("roles") or {}
    rules = options["rules"] if isinstance(options.get("rules"), list) else project.sorting_rules
    out = []
    for la in layers_of(survey):
        ruled = chosen.get(la.key) if chosen.get(la.key) in ROLES else role_by_rules(rules, la.type, la.code)
        told = {**asdict(la), "key": la.key, "role": ruled or usual_role(la.type), "ruled": ruled is not None}
        out.append(told)
    return out


def role_by_rules(rules: list[dict[str, str]], kind: str, code: str) -> str | None:
    """The role of the first rule whose pattern (* and ? stand for any) and type match; upper and lower case are one."""
    for rule in rules:
        pattern = str(rule.get("pattern", "")).strip().lower()
        if pattern and rule.get("role") in ROLES and rule.get("type") in ("", None, kind) and fnmatchcase(code.lower(), pattern):
            return rule["role"]
    return None


def _surface_name(project: Project) -> str:
    taken = set(Surface.present.filter(project=project).values_list("name", flat=True))
    name, number = "Existing ground", 2
    while name in taken:
        name, number = f"Existing ground {number}", number + 1
    return name
