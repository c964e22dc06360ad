"""Bring in a file: points, lines and faces on the Received shelf and into a surface, or into surfaces of their own."""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from dataclasses import asdict, dataclass, replace
from typing import Any

from django.contrib.auth.models import User

from ivoryridge.core.findings import Finding
from ivoryridge.core.terrain.coded_lines import LINE_WORDS
from ivoryridge.core.terrain.recipe import usual_role
from ivoryridge.core.terrain.survey import Survey, layers_of
from ivoryridge.core.text import clean

from ..inputs.surface import SourceRow, SurfaceRecipe, assemble_surface, numbered_edits
from ..kept.packing import pack_survey
from ..ledger import Act
from ..models import Project, ReceivedFile, Surface, SurveySet, Variation
from ..received.preview import places_of, preview_file, role_by_rules, sorted_layers
from ..received.reading import ReadFile, read_file
from ..refusals import BadValue
from ..results.shown import overview_of
from ..results.surface import at_hand
from ..results.surface import surface as surface_result
from .standing import act, rehearsed

__all__ = ["ReadFile", "bring_in_file", "preview_file", "read_file", "role_by_rules", "sorted_layers"]

_STEPS = 4


@dataclass(frozen=True, slots=True)
class _Packed:
    """A survey set as it will be stored."""

    name: str
    survey: Survey
    blob: bytes
    digest: str
    roles: dict[str, str]


def bring_in_file(
    project: Project,
    user: User,
    *,
    content: bytes,
    name: str,
    options: dict[str, Any] | None = None,
    surface_id: int | None = None,
    replaces: tuple[int, ...] = (),
    received: ReceivedFile | None = None,
    progress: Callable[[int, int, str], None] = lambda done, total, message: None,
) -> tuple[Act, Surface, list[str]]:
    """Store the file and what it holds, and add it to a surface (a new one when none is named); sets that go apart become
    surfaces of their own (``options["sets"]``, see ``preview.places_of``). One step of undo.

    ``replaces`` are survey sets of that surface whose place the new ones take; edits of those sets go with them.
    ``received``: a file that is on the shelf already and is read again, perhaps in another way.

    All that takes long comes before the transaction, so that nobody waits for it and cancelling leaves nothing.
    ``progress`` is told (steps done, steps in all, what is being done), and may raise to cancel.
    """
    name = clean(name) or "file"
    progress(0, _STEPS, f"Reading {len(content) / 1e6:.1f} MB")

    def points_read(done: int, total: int) -> None:
        said = (
            f"Reading: {done / 1e6:.1f} of {total / 1e6:.1f} million laser points"
            if done < total
            else f"Thinning {total / 1e6:.1f} million laser points"
        )
        progress(0, _STEPS, said)

    read = read_file(content, name, options, progress=points_read)
    places = places_of(read, options or {})
    total = sum(len(a.points) for (_, a), place in zip(read.sets, places, strict=True) if place != "leave")
    progress(1, _STEPS, f"Packing {total} points")
    packed = [
        _pack(project, n, a, options or {}) if place != "leave" else None for (n, a), place in zip(read.sets, places, strict=True)
    ]
    joined = [p for p, place in zip(packed, places, strict=True) if p is not None and place == "join"]
    apart = [p for p, place in zip(packed, places, strict=True) if p is not None and place == "apart"]
    if not joined and not apart:
        raise BadValue(
            "nothing-chosen", "Nothing of the file is chosen. Choose where at least one part of it goes.", field="sets"
        )
    with at_hand({p.digest: p.survey for p in (*joined, *apart)}):
        surface = Surface.present.filter(project=project, pk=surface_id).first() if surface_id else None
        recipe = assemble_surface(surface) if surface else SurfaceRecipe()
        progress(2, _STEPS, f"Triangulating {total} points")
        findings: list[Finding] = []
        triangles = 0
        if joined:
            rows, edits = _with_sources(recipe, surface, joined, replaces)
            new = replace(recipe, sources=tuple(rows), edits=numbered_edits(edits, [s.id for s in rows]))
            made, found = surface_result(new).get()
            overview_of(new)  # so that who opens the project next need not wait for it
            findings += found
            triangles = len(made.triangles)
        for p in apart:
            alone = SurfaceRecipe(sources=(SourceRow(0, p.digest, p.roles),))
            findings += surface_result(alone).get()[1]
            overview_of(alone)
        progress(3, _STEPS, "Storing")
        doing, own, lost, unled, target = _stored_all(
            project, user, content=content, name=name, read=read, joined=joined, apart=apart, target=surface, replaces=replaces,
            received=received,
        )  # fmt: skip
        surface = target
    told = [f"{total:,} points brought in.".replace(",", " ")]
    if joined and surface is not None:
        told = [f"{total:,} points brought in; {surface.name} has {triangles:,} triangles now.".replace(",", " ")]
    if own:
        told.append(f"{', '.join(s.name for s in own)}: surfaces of their own.")
    if lost:
        told.append(f"{lost} edits of what was replaced went with it. Undo brings both back.")
    if unled:
        told.append(f"{', '.join(unled)}: still on the lines of the version before, because the new one has no such layer.")
    if (waiting := _unsorted(packed)) > 0:
        told.append(f"{waiting} layers have no role yet and are not part of the surface; sort them under Layers.")
    return doing, surface or own[0], told + [f.sentence for f in (*read.findings, *findings)]


@rehearsed
def _stored_all(
    project: Project,
    user: User,
    *,
    content: bytes,
    name: str,
    read: ReadFile,
    joined: list[_Packed],
    apart: list[_Packed],
    target: Surface | None,
    replaces: tuple[int, ...],
    received: ReceivedFile | None,
) -> tuple[Act, list[Surface], int, list[str], Surface | None]:
    """The one short transaction; edits of the surface made meanwhile stay."""
    surface = target
    lost = 0
    waiting: list[str] = []
    with act(project, user, f"Bring in {name}") as doing:
        file = received or ReceivedFile.objects.create(
            project=project, name=name, format=read.format, sha256=hashlib.sha256(content).hexdigest(), content=content,
            size=len(content), received_by=user,
        )  # fmt: skip
        if joined:
            sets = [_stored(doing, project, file, read, p) for p in joined]
            added = [s.pk for s in sets]
            if surface is None:
                surface = doing.create(Surface(project=project, name=_free_name(project, "Existing ground"), sources=added))
            else:
                surface.refresh_from_db()  # edits made meanwhile stay
                if surface.removed:
                    raise BadValue(
                        "surface-gone", f"{surface.name} was deleted while the file was being read. Bring it in again, elsewhere.",
                        field="surface_id"
                    )  # fmt: skip
                at = next((i for i, s in enumerate(surface.sources) if s in replaces), len(surface.sources))
                others = [i for i in surface.sources if i not in replaces]
                edits = [e for e in surface.edits if e.get("survey") not in replaces]
                lost = len(surface.edits) - len(edits)
                doing.change(surface, sources=[*others[:at], *added, *others[at:]], edits=edits)
            for road in project.roads.filter(removed=False, surface=None):
                doing.change(road, surface_id=surface.pk)
            waiting = _lead_on(doing, project, replaces, sets)
        own = [
            doing.create(
                Surface(project=project, name=_free_name(project, p.name), sources=[_stored(doing, project, file, read, p).pk])
            )
            for p in apart
        ]
    return doing, own, lost, waiting, surface


def _lead_on(doing: Act, project: Project, replaced: tuple[int, ...], sets: list[SurveySet]) -> list[str]:
    """What lines of a replaced survey led or bounded hangs on those of the same layer in what took its place. Told is what has no such
    layer there, and stays with the lines of before."""
    waiting = []
    for row in Variation.present.filter(road__project=project, kind="led", data__survey__in=replaced).select_related("road"):
        there = next((s for s in sets if any(la["code"] == row.data["layer"] and la["type"] != "point" for la in s.layers)), None)
        if there is not None:
            doing.change(row, data={**row.data, "survey": there.pk})
        else:
            waiting.append(f"{row.road.name} (layer '{row.data['layer']}')")
    land = project.land
    there = next((s for s in sets if any(la["code"] == land.get("layer") and la["type"] != "point" for la in s.layers)), None)
    if land.get("survey") in replaced and there is not None:
        doing.change(project, land={**land, "survey": there.pk})
    elif land.get("survey") in replaced:
        waiting.append(f"the land boundary (layer '{land.get('layer')}')")
    return waiting


def _pack(project: Project, name: str, survey: Survey, options: dict[str, Any]) -> _Packed:
    blob, digest = pack_survey(survey)
    roles = {la["key"]: la["role"] for la in sorted_layers(project, survey, options) if la["ruled"]}
    rules = options["rules"] if isinstance(options.get("rules"), list) else project.sorting_rules
    for what in LINE_WORDS:  # a project's own words of coded lines go with the survey, so that they enter its key
        if own := [str(r["pattern"]) for r in rules if isinstance(r, dict) and r.get("role") == what]:
            roles[what] = " ".join(own)
    return _Packed(name, survey, blob, digest, roles)


def _with_sources(
    recipe: SurfaceRecipe, surface: Surface | None, joined: list[_Packed], replaces: tuple[int, ...]
) -> tuple[list[SourceRow], list[dict[str, Any]]]:
    sources = [SourceRow(0, p.digest, p.roles) for p in joined]
    kept = [s for s in recipe.sources if s.id not in replaces]
    at = next((i for i, s in enumerate(recipe.sources) if s.id in replaces), len(kept))
    edits = [e for e in (surface.edits if surface else []) if e.get("survey") not in replaces]
    return [*kept[:at], *sources, *kept[at:]], edits


def _stored(doing: Act, project: Project, file: ReceivedFile, read: ReadFile, p: _Packed) -> SurveySet:
    return doing.create(
        SurveySet(
            project=project, file=file, name=clean(p.name)[:200] or "Survey", arrays=p.blob, hash=p.digest, inventory=p.survey.inventory(),
            reading=read.reading, layers=[asdict(la) for la in layers_of(p.survey)], roles=p.roles,
        )
    )  # fmt: skip


def _unsorted(packed: list[_Packed | None]) -> int:
    return sum(
        1
        for p in packed
        if p is not None
        for la in layers_of(p.survey)
        if (p.roles.get(la.key) or usual_role(la.type)) == "unsorted"
    )


def _free_name(project: Project, wanted: str) -> str:
    taken = set(Surface.present.filter(project=project).values_list("name", flat=True))
    wanted = clean(wanted)[:110] or "Surface"
    name, number = wanted, 2
    while name in taken:
        name, number = f"{wanted} {number}", number + 1
    return name
